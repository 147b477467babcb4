// A picture on a grid reduced f times (f a power of two), its cells aligned to artwork coordinates: four floats a cell,
// premultiplied. Down by a linear B-spline (tent), up by a quadratic one (Unser 1999, "Splines: a perfect fit for signal
// and image processing"); between them whatever is wide. Sums are taken in a fixed order a cell.
import { passColumn, passRow } from './passes'
import { loadPixel, premultiply, storePixel, unpremultiply } from './simd'

/**
 * Reduces RGBA16 to w × h cells by tents two cells wide, so that lines and edges keep their place. src begins one cell
 * before the first and ends one after the last: f·(w + 2) × f·(h + 2) pixels.
 * @rows f:src dst
 * @overlap 1
 * @work w * h * f * f
 * @scratch (w + 2) * f * 16 + w * 16 + f * 4
 */
export function reduceCells(src: usize, srcStride: i32, f: i32, dst: usize, dstStride: i32, w: i32, h: i32, scratch: usize): void {
  if (f == 1) {
    // no reduction: the pixels themselves, premultiplied
    for (let y = 0; y < h; y++) {
      const p = src + <usize>(y + 1) * <usize>srcStride + 8
      const q = dst + <usize>y * <usize>dstStride
      for (let x: usize = 0; x < <usize>w; x++) v128.store(q + (x << 4), premultiply(loadPixel(p + (x << 3))))
    }
    return
  }
  const line = scratch
  const reduced = line + (<usize>((w + 2) * f) << 4)
  const tent = reduced + (<usize>w << 4)
  // outer to inner half of the tent, its sum over both halves 1
  for (let i = 0; i < f; i++) store<f32>(tent + (<usize>i << 2), (<f32>i + 0.5) / <f32>(f * f))
  const half = f >> 1
  for (let y = 0; y < h; y++) memory.fill(dst + <usize>y * <usize>dstStride, 0, <usize>w << 4)
  // row −half of the first cell to row f + half of the last, counted from the cell before the first
  for (let y = half; y < (h + 2) * f - half; y++) {
    // the row lies between the middles of two cells and counts for both
    const upper = (y - half) / f
    const t = (y - half) % f
    const p = src + <usize>y * <usize>srcStride
    for (let x = half; x < (w + 2) * f - half; x++) v128.store(line + (<usize>x << 4), premultiply(loadPixel(p + (<usize>x << 3))))
    for (let c = 0; c < w; c++) {
      const left = line + (<usize>((c + 1) * f - half) << 4)
      const right = left + (<usize>(2 * f - 1) << 4)
      let sum = f32x4.splat(0)
      for (let i = 0; i < f; i++) {
        const o = <usize>i << 4
        sum = f32x4.add(sum, f32x4.mul(f32x4.add(v128.load(left + o), v128.load(right - o)), v128.load32_splat(tent + (<usize>i << 2))))
      }
      v128.store(reduced + (<usize>c << 4), sum)
    }
    if (upper >= 1) addRow(dst + <usize>(upper - 1) * <usize>dstStride, reduced, w, load<f32>(tent + (<usize>(f - 1 - t) << 2)))
    if (upper < h) addRow(dst + <usize>upper * <usize>dstStride, reduced, w, load<f32>(tent + (<usize>t << 2)))
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
 * Convolves cells with a symmetric kernel of radius r (`weights`: r + 1 floats, centre first). src is the w × h cells of
 * dst grown by r on all sides.
 * @rows src dst
 * @overlap 2 * r
 * @scratch (2 * r + 1) * (w * 16 + 4)
 */
export function blurCells(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, weights: usize, scratch: usize): void {
  const n = 2 * r + 1
  const rowBytes = <usize>w << 4
  const rows = scratch + <usize>n * rowBytes
  for (let y = 0; y < h + 2 * r; y++) {
    passRow(src, scratch + <usize>(y % n) * rowBytes, w, r, weights)
    src += srcStride
    if (y < 2 * r) continue
    for (let k = 0; k < n; k++) store<u32>(rows + (<usize>k << 2), <u32>(scratch + <usize>((y - 2 * r + k) % n) * rowBytes))
    passColumn(rows, dst, w, r, weights)
    dst += dstStride
  }
}

/**
 * Enlarges cells f times by quadratic B-splines to w × h pixels of RGBA16, the first of which is pixel (ox, oy) counted
 * from the corner of cell (0, 0) to which src points; ox and oy are at least f, and the last cell lies beyond the last pixel's.
 * Rows of cells are cw long.
 * @rows dst +oy
 * @scratch cw * 16 + f * 12
 */
export function enlargeCells(src: usize, srcStride: i32, cw: i32, f: i32, dst: usize, dstStride: i32, w: i32, h: i32, ox: i32, oy: i32, scratch: usize): void {
  const mixed = scratch
  const phases = mixed + (<usize>cw << 4)
  const shift = ctz(f)
  // the three weights at each place within a cell
  for (let i = 0; i < f; i++) {
    const t = (<f32>i + 0.5) / <f32>f - 0.5
    const p = phases + <usize>i * 12
    store<f32>(p, 0.5 * (0.5 - t) * (0.5 - t))
    store<f32>(p, 0.75 - t * t, 4)
    store<f32>(p, 0.5 * (0.5 + t) * (0.5 + t), 8)
  }
  const first = <usize>(ox >> shift) - 1 << 4
  const last = <usize>((ox + w - 1) >> shift) + 2 << 4
  for (let y = 0; y < h; y++) {
    const a = src + <usize>((oy + y) >> shift) * <usize>srcStride
    const q = phases + <usize>((oy + y) & (f - 1)) * 12
    const wa = v128.load32_splat(q)
    const wb = v128.load32_splat(q, 4)
    const wc = v128.load32_splat(q, 8)
    for (let x = first; x < last; x += 16) {
      const sum = f32x4.add(f32x4.mul(v128.load(a - srcStride + x), wa), f32x4.mul(v128.load(a + x), wb))
      v128.store(mixed + x, f32x4.add(sum, f32x4.mul(v128.load(a + srcStride + x), wc)))
    }
    for (let x = 0; x < w; x++) {
      const b = mixed + (<usize>((ox + x) >> shift) << 4)
      const p = phases + <usize>((ox + x) & (f - 1)) * 12
      const sum = f32x4.add(f32x4.mul(v128.load(b - 16), v128.load32_splat(p)), f32x4.mul(v128.load(b), v128.load32_splat(p, 4)))
      storePixel(dst + (<usize>x << 3), unpremultiply(f32x4.add(sum, f32x4.mul(v128.load(b, 16), v128.load32_splat(p, 8)))))
    }
    dst += dstStride
  }
}
