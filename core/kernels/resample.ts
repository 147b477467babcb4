// Change of size: by weights a row and a column (area, linear, cubic: what the weights say), or the nearest pixel.
import { loadPixel, premultiply, storePixel, unpremultiply } from './simd'

/**
 * Resamples RGBA16, premultiplied, separably. A tap list holds for each output column (row) the first input column (row) as a
 * 32-bit number, then nx (ny) float weights; lists of rows have ascending starts.
 * @param x0 input columns from x0 to x0 + sw are read
 * @rows dst yTaps
 * @overlap ny
 * @work w * h + (sw * h) / 4
 * @scratch (ny + 1) * w * 16 + sw * 16
 */
export function resample(src: usize, srcStride: i32, x0: i32, sw: i32, dst: usize, dstStride: i32, w: i32, h: i32, xTaps: usize, nx: i32, yTaps: usize, yTapsStride: i32, ny: i32, scratch: usize): void {
  const rowBytes = <usize>w << 4
  const line = scratch + <usize>(ny + 1) * rowBytes
  const out = scratch + <usize>ny * rowBytes
  const xStep = <usize>(nx + 1) << 2
  let done = load<i32>(yTaps)
  for (let y = 0; y < h; y++) {
    const first = load<i32>(yTaps)
    if (first > done) done = first
    for (; done < first + ny; done++) {
      const p = src + <usize>done * <usize>srcStride + (<usize>x0 << 3)
      for (let x = 0; x < sw; x++) v128.store(line + (<usize>x << 4), premultiply(loadPixel(p + (<usize>x << 3))))
      const q = scratch + <usize>(done % ny) * rowBytes
      let taps = xTaps
      for (let x: usize = 0; x < rowBytes; x += 16) {
        const from = line + (<usize>(load<i32>(taps) - x0) << 4)
        let sum = f32x4.mul(v128.load(from), v128.load32_splat(taps, 4))
        for (let k = 1; k < nx; k++) {
          sum = f32x4.add(sum, f32x4.mul(v128.load(from + (<usize>k << 4)), v128.load32_splat(taps + (<usize>k << 2), 4)))
        }
        v128.store(q + x, sum)
        taps += xStep
      }
    }
    for (let k = 0; k < ny; k++) {
      const q = scratch + <usize>((first + k) % ny) * rowBytes
      const weight = v128.load32_splat(yTaps + (<usize>k << 2), 4)
      if (k == 0) for (let x: usize = 0; x < rowBytes; x += 16) v128.store(out + x, f32x4.mul(v128.load(q + x), weight))
      else for (let x: usize = 0; x < rowBytes; x += 16) v128.store(out + x, f32x4.add(v128.load(out + x), f32x4.mul(v128.load(q + x), weight)))
    }
    for (let x = 0; x < w; x++) storePixel(dst + (<usize>x << 3), unpremultiply(v128.load(out + (<usize>x << 4))))
    yTaps += yTapsStride
    dst += dstStride
  }
}

/**
 * Takes pixels by their columns and rows (lists of 32-bit numbers).
 * @rows dst rows
 */
export function pick(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, columns: usize, rows: usize, rowsStride: i32): void {
  for (let y = 0; y < h; y++) {
    const row = load<i32>(rows)
    const p = src + <usize>row * <usize>srcStride
    // a row that is taken twice is copied
    if (y > 0 && row == load<i32>(rows - rowsStride)) memory.copy(dst, dst - dstStride, <usize>w << 3)
    else for (let x = 0; x < w; x++) store<u64>(dst + (<usize>x << 3), load<u64>(p + (<usize>load<i32>(columns + (<usize>x << 2)) << 3)))
    rows += rowsStride
    dst += dstStride
  }
}
