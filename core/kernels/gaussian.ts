// Gaussian blur by a direct separable kernel, and for wide ones on a reduced grid between two B-splines. Sums are taken in a fixed order a pixel, so no result depends on where a tile begins.
import { loadPixel, premultiply, storePixel, unpremultiply } from './simd'

/** dst[x] = Σ weights[|k|] · src[x + k + r], for w pixels of four floats. Four pixels share a walk over the weights. */
function passRow(src: usize, dst: usize, w: i32, r: i32, weights: usize): void {
  const w0 = v128.load32_splat(weights)
  const end = <usize>w << 4
  const centre = src + (<usize>r << 4)
  let x: usize = 0
  for (; x + 64 <= end; x += 64) {
    const c = centre + x
    let s0 = f32x4.mul(v128.load(c), w0)
    let s1 = f32x4.mul(v128.load(c, 16), w0)
    let s2 = f32x4.mul(v128.load(c, 32), w0)
    let s3 = f32x4.mul(v128.load(c, 48), w0)
    for (let k = 1; k <= r; k++) {
      const a = c - (<usize>k << 4)
      const b = c + (<usize>k << 4)
      const wk = v128.load32_splat(weights + (<usize>k << 2))
      s0 = f32x4.add(s0, f32x4.mul(f32x4.add(v128.load(a), v128.load(b)), wk))
      s1 = f32x4.add(s1, f32x4.mul(f32x4.add(v128.load(a, 16), v128.load(b, 16)), wk))
      s2 = f32x4.add(s2, f32x4.mul(f32x4.add(v128.load(a, 32), v128.load(b, 32)), wk))
      s3 = f32x4.add(s3, f32x4.mul(f32x4.add(v128.load(a, 48), v128.load(b, 48)), wk))
    }
    v128.store(dst + x, s0)
    v128.store(dst + x, s1, 16)
    v128.store(dst + x, s2, 32)
    v128.store(dst + x, s3, 48)
  }
  for (; x < end; x += 16) {
    const c = centre + x
    let sum = f32x4.mul(v128.load(c), w0)
    for (let k = 1; k <= r; k++) {
      const o = <usize>k << 4
      sum = f32x4.add(sum, f32x4.mul(f32x4.add(v128.load(c - o), v128.load(c + o)), v128.load32_splat(weights + (<usize>k << 2))))
    }
    v128.store(dst + x, sum)
  }
}

/** dst = Σ weights[|k|] · rows[k + r], rows given by 2r + 1 pointers. Four pixels share a walk over the rows. */
function passColumn(rows: usize, dst: usize, w: i32, r: i32, weights: usize): void {
  const w0 = v128.load32_splat(weights)
  const middle = rows + (<usize>r << 2)
  let x: usize = 0
  const end = <usize>w << 4
  for (; x + 64 <= end; x += 64) {
    const c = <usize>load<u32>(middle) + x
    let s0 = f32x4.mul(v128.load(c), w0)
    let s1 = f32x4.mul(v128.load(c, 16), w0)
    let s2 = f32x4.mul(v128.load(c, 32), w0)
    let s3 = f32x4.mul(v128.load(c, 48), w0)
    for (let k = 1; k <= r; k++) {
      const o = <usize>k << 2
      const a = <usize>load<u32>(middle - o) + x
      const b = <usize>load<u32>(middle + o) + x
      const wk = v128.load32_splat(weights + o)
      s0 = f32x4.add(s0, f32x4.mul(f32x4.add(v128.load(a), v128.load(b)), wk))
      s1 = f32x4.add(s1, f32x4.mul(f32x4.add(v128.load(a, 16), v128.load(b, 16)), wk))
      s2 = f32x4.add(s2, f32x4.mul(f32x4.add(v128.load(a, 32), v128.load(b, 32)), wk))
      s3 = f32x4.add(s3, f32x4.mul(f32x4.add(v128.load(a, 48), v128.load(b, 48)), wk))
    }
    v128.store(dst + x, s0)
    v128.store(dst + x, s1, 16)
    v128.store(dst + x, s2, 32)
    v128.store(dst + x, s3, 48)
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
 * One row of n = f·cells premultiplied pixels to cells: tents two cells wide, so that lines and edges keep their place.
 * Cells 1 … cells − 2 are written.
 */
function tentRow(line: usize, out: usize, cells: i32, f: i32, tent: usize): void {
  for (let c = 1; c < cells - 1; c++) {
    const left = line + (<usize>(c * f - (f >> 1)) << 4)
    const right = left + (<usize>(2 * f - 1) << 4)
    let sum = f32x4.splat(0)
    for (let i = 0; i < f; i++) {
      const o = <usize>i << 4
      sum = f32x4.add(sum, f32x4.mul(f32x4.add(v128.load(left + o), v128.load(right - o)), v128.load32_splat(tent + (<usize>i << 2))))
    }
    v128.store(out + (<usize>c << 4), sum)
  }
}

/** out += weight · row for n cells. */
// @ts-ignore: decorator
@inline
function addRow(out: usize, row: usize, n: i32, weight: f32): void {
  const k = f32x4.splat(weight)
  for (let x: usize = 0; x < <usize>n << 4; x += 16) v128.store(out + x, f32x4.add(v128.load(out + x), f32x4.mul(v128.load(row + x), k)))
}

/**
 * Blurs RGBA16 on a grid reduced f times (f a power of two): linear B-spline (tent) reduction, Gaussian there, quadratic
 * B-spline enlargement. src covers sw × sh cells, whole: f·sw × f·sh pixels; of the result the w × h pixels from
 * (ox, oy) are written. The cells must reach r + 2 beyond the output on all sides.
 * scratch: (f·sw + 2·sw·sh + 2·sw)·16 + (2r + 1)·4 + f·16 bytes.
 */
export function gaussianReduced(src: usize, srcStride: i32, sw: i32, sh: i32, f: i32, dst: usize, dstStride: i32, ox: i32, oy: i32, w: i32, h: i32, r: i32, weights: usize, scratch: usize): void {
  const rowBytes = <usize>sw << 4
  const line = scratch
  const small = line + (<usize>(sw * f) << 4)
  const middle = small + rowBytes * <usize>sh
  const mixedRow = middle + rowBytes * <usize>sh
  const reducedRow = mixedRow + rowBytes
  const rows = reducedRow + rowBytes
  const tent = rows + (<usize>(2 * r + 1) << 2)
  const phases = tent + (<usize>f << 2)
  // outer to inner half of the tent, its sum over both halves 1
  for (let i = 0; i < f; i++) store<f32>(tent + (<usize>i << 2), (<f32>i + 0.5) / <f32>(f * f))
  memory.fill(small, 0, rowBytes * <usize>sh)
  const half = f >> 1
  const shift = ctz(f)
  for (let y = half; y < sh * f - half; y++) {
    const p = src + <usize>y * <usize>srcStride
    for (let x = 0; x < sw * f; x++) v128.store(line + (<usize>x << 4), premultiply(loadPixel(p + (<usize>x << 3))))
    tentRow(line, reducedRow, sw, f, tent)
    // the row lies between the middles of two cells and counts for both
    const upper = (y - half) / f
    const t = (y - half) % f
    addRow(small + <usize>upper * rowBytes + 16, reducedRow + 16, sw - 2, load<f32>(tent + (<usize>(f - 1 - t) << 2)))
    addRow(small + <usize>(upper + 1) * rowBytes + 16, reducedRow + 16, sw - 2, load<f32>(tent + (<usize>t << 2)))
  }
  // cells 1 … are whole now; after the blur those from r + 1 on
  const inner = sw - 2 * r - 2
  for (let y = 1; y < sh - 1; y++) passRow(small + <usize>y * rowBytes + 16, middle + <usize>y * rowBytes + (<usize>(r + 1) << 4), inner, r, weights)
  for (let y = r + 1; y < sh - r - 1; y++) {
    for (let k = 0; k <= 2 * r; k++) store<u32>(rows + (<usize>k << 2), <u32>(middle + <usize>(y - r + k) * rowBytes + (<usize>(r + 1) << 4)))
    passColumn(rows, small + <usize>y * rowBytes + (<usize>(r + 1) << 4), inner, r, weights)
  }
  // the quadratic B-spline's three weights at each place within a cell
  for (let i = 0; i < f; i++) {
    const t = (<f32>i + 0.5) / <f32>f - 0.5
    const p = phases + <usize>i * 12
    store<f32>(p, 0.5 * (0.5 - t) * (0.5 - t))
    store<f32>(p, 0.75 - t * t, 4)
    store<f32>(p, 0.5 * (0.5 + t) * (0.5 + t), 8)
  }
  const first = <usize>(r + 1) << 4
  const last = <usize>(sw - r - 1) << 4
  for (let y = 0; y < h; y++) {
    const a = small + <usize>((oy + y) >> shift) * rowBytes
    const q = phases + <usize>((oy + y) & (f - 1)) * 12
    const wa = v128.load32_splat(q)
    const wb = v128.load32_splat(q, 4)
    const wc = v128.load32_splat(q, 8)
    for (let x = first; x < last; x += 16) {
      const sum = f32x4.add(f32x4.mul(v128.load(a - rowBytes + x), wa), f32x4.mul(v128.load(a + x), wb))
      v128.store(mixedRow + x, f32x4.add(sum, f32x4.mul(v128.load(a + rowBytes + x), wc)))
    }
    for (let x = 0; x < w; x++) {
      const b = mixedRow + (<usize>((ox + x) >> shift) << 4)
      const p = phases + <usize>((ox + x) & (f - 1)) * 12
      const sum = f32x4.add(f32x4.mul(v128.load(b - 16), v128.load32_splat(p)), f32x4.mul(v128.load(b), v128.load32_splat(p, 4)))
      storePixel(dst + (<usize>x << 3), unpremultiply(f32x4.add(sum, f32x4.mul(v128.load(b, 16), v128.load32_splat(p, 8)))))
    }
    dst += dstStride
  }
}
