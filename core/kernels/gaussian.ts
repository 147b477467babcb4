// Gaussian blur by a direct separable kernel, and for wide ones on a reduced grid: mean of f × f blocks, blur there,
// linear enlargement. Sums are taken in a fixed order a pixel, so no result depends on where a tile begins.
import { loadPixel, premultiply, storePixel, unpremultiply } from './simd'

/** dst[x] = Σ weights[|k|] · src[x + k + r], for w pixels of four floats. */
function passRow(src: usize, dst: usize, w: i32, r: i32, weights: usize): void {
  const w0 = v128.load32_splat(weights)
  for (let x = 0; x < w; x++) {
    const centre = src + (<usize>(x + r) << 4)
    let sum = f32x4.mul(v128.load(centre), w0)
    for (let k = 1; k <= r; k++) {
      const o = <usize>k << 4
      sum = f32x4.add(
        sum,
        f32x4.mul(f32x4.add(v128.load(centre - o), v128.load(centre + o)), v128.load32_splat(weights + (<usize>k << 2))),
      )
    }
    v128.store(dst + (<usize>x << 4), sum)
  }
}

/** dst = Σ weights[|k|] · rows[k + r], rows given by 2r + 1 pointers. Two pixels at a time share the loop over rows. */
function passColumn(rows: usize, dst: usize, w: i32, r: i32, weights: usize): void {
  const w0 = v128.load32_splat(weights)
  const middle = rows + (<usize>r << 2)
  let x: usize = 0
  const end = <usize>w << 4
  for (; x + 32 <= end; x += 32) {
    const c = <usize>load<u32>(middle) + x
    let s0 = f32x4.mul(v128.load(c), w0)
    let s1 = f32x4.mul(v128.load(c, 16), w0)
    for (let k = 1; k <= r; k++) {
      const o = <usize>k << 2
      const a = <usize>load<u32>(middle - o) + x
      const b = <usize>load<u32>(middle + o) + x
      const wk = v128.load32_splat(weights + o)
      s0 = f32x4.add(s0, f32x4.mul(f32x4.add(v128.load(a), v128.load(b)), wk))
      s1 = f32x4.add(s1, f32x4.mul(f32x4.add(v128.load(a, 16), v128.load(b, 16)), wk))
    }
    v128.store(dst + x, s0)
    v128.store(dst + x, s1, 16)
  }
  for (; x < end; x += 16) {
    let sum = f32x4.mul(v128.load(<usize>load<u32>(middle) + x), w0)
    for (let k = 1; k <= r; k++) {
      const o = <usize>k << 2
      const pair = f32x4.add(v128.load(<usize>load<u32>(middle - o) + x), v128.load(<usize>load<u32>(middle + o) + x))
      sum = f32x4.add(sum, f32x4.mul(pair, v128.load32_splat(weights + o)))
    }
    v128.store(dst + x, sum)
  }
}

/**
 * Blurs RGBA16. src is the w × h output region grown by r on all sides. `weights`: r + 1 floats, centre first.
 * scratch: (w + 2r)·16 + (2r + 1)·(w·16 + 4) + w·16 bytes.
 */
export function gaussianDirect(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, weights: usize, scratch: usize): void {
  const n = 2 * r + 1
  const rowBytes = <usize>w << 4
  const line = scratch
  const ring = line + (<usize>(w + 2 * r) << 4)
  const out = ring + <usize>n * rowBytes
  const rows = out + rowBytes
  for (let y = 0; y < h + 2 * r; y++) {
    for (let x = 0; x < w + 2 * r; x++) v128.store(line + (<usize>x << 4), premultiply(loadPixel(src + (<usize>x << 3))))
    passRow(line, ring + <usize>(y % n) * rowBytes, w, r, weights)
    src += srcStride
    if (y < 2 * r) continue
    for (let k = 0; k < n; k++) store<u32>(rows + (<usize>k << 2), <u32>(ring + <usize>((y - 2 * r + k) % n) * rowBytes))
    passColumn(rows, out, w, r, weights)
    for (let x = 0; x < w; x++) storePixel(dst + (<usize>x << 3), unpremultiply(v128.load(out + (<usize>x << 4))))
    dst += dstStride
  }
}

/**
 * Blurs RGBA16 on a grid reduced f times (f a power of two). src covers sw × sh reduced cells, whole, and is
 * f·sw × f·sh pixels; of the enlarged result the w × h pixels from (ox, oy) are written. The reduced picture must
 * reach r + 1 cells beyond the output on all sides.
 * scratch: three reduced pictures' worth is enough: (2·sw·sh + 2·sw)·16 + (2r + 1)·4 bytes.
 */
export function gaussianReduced(src: usize, srcStride: i32, sw: i32, sh: i32, f: i32, dst: usize, dstStride: i32, ox: i32, oy: i32, w: i32, h: i32, r: i32, weights: usize, scratch: usize): void {
  const rowBytes = <usize>sw << 4
  const small = scratch
  const middle = small + rowBytes * <usize>sh
  const mixedRow = middle + rowBytes * <usize>sh
  const rows = mixedRow + rowBytes * 2
  const share = f32x4.splat(<f32>1 / <f32>(f * f))
  for (let y = 0; y < sh; y++) {
    for (let x = 0; x < sw; x++) {
      let sum = f32x4.splat(0)
      let p = src + <usize>(y * f) * <usize>srcStride + (<usize>(x * f) << 3)
      for (let j = 0; j < f; j++) {
        for (let i = 0; i < f; i++) sum = f32x4.add(sum, premultiply(loadPixel(p + (<usize>i << 3))))
        p += srcStride
      }
      v128.store(small + <usize>y * rowBytes + (<usize>x << 4), f32x4.mul(sum, share))
    }
  }
  // cells [r, sw - r) hold whole sums after this
  for (let y = 0; y < sh; y++) {
    passRow(small + <usize>y * rowBytes, middle + <usize>y * rowBytes + (<usize>r << 4), sw - 2 * r, r, weights)
  }
  const inner = sw - 2 * r
  for (let y = r; y < sh - r; y++) {
    for (let k = 0; k <= 2 * r; k++) {
      store<u32>(rows + (<usize>k << 2), <u32>(middle + <usize>(y - r + k) * rowBytes + (<usize>r << 4)))
    }
    passColumn(rows, small + <usize>y * rowBytes + (<usize>r << 4), inner, r, weights)
  }
  const step: f32 = <f32>1 / <f32>f
  for (let y = 0; y < h; y++) {
    // centre of output pixel in cells, less half a cell: between which two rows it lies
    const v = (<f32>(oy + y) + 0.5) * step - 0.5
    const v0 = <i32>floor<f32>(v)
    const tv = f32x4.splat(v - <f32>v0)
    const a = small + <usize>v0 * rowBytes
    for (let x: usize = <usize>r << 4; x < <usize>(sw - r) << 4; x += 16) {
      const top = v128.load(a + x)
      v128.store(mixedRow + x, f32x4.add(top, f32x4.mul(tv, f32x4.sub(v128.load(a + rowBytes + x), top))))
    }
    for (let x = 0; x < w; x++) {
      const u = (<f32>(ox + x) + 0.5) * step - 0.5
      const u0 = <i32>floor<f32>(u)
      const left = v128.load(mixedRow + (<usize>u0 << 4))
      const right = v128.load(mixedRow + (<usize>(u0 + 1) << 4))
      const c = f32x4.add(left, f32x4.mul(f32x4.splat(u - <f32>u0), f32x4.sub(right, left)))
      storePixel(dst + (<usize>x << 3), unpremultiply(c))
    }
    dst += dstStride
  }
}
