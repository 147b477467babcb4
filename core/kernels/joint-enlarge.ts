// Joint bilateral upsampling: Kopf, Cohen, Lischinski and Uyttendaele, "Joint bilateral upsampling", ACM Transactions on Graphics 26 (2007), over 3 × 3 cells.
import { loadPixel, premultiply, storePixel, unpremultiply } from './simd'

/**
 * Enlarges a result that was computed on a reduced grid, so that its borders stand where the full-size picture's do: each pixel is the mean of the nine results
 * about it, weighted by nearness (a quadratic B-spline) and by how alike the reduced picture is to the pixel there: 1 / (1 + k |Δ|²)², Δ over premultiplied R, G, B, A.
 * @param src the full-size picture of the region; @param guide the reduced picture, and @param res the result of it: their first pixel is the cell (left, top)
 * @param x0 place of the region's first pixel, y0 likewise; @param f pixels a cell
 * @rows src dst +y0
 * @work w * h * 3
 * @scratch (w + 8) * 96
 */
export function jointEnlarge(
  src: usize,
  srcStride: i32,
  guide: usize,
  guideStride: i32,
  res: usize,
  resStride: i32,
  dst: usize,
  dstStride: i32,
  w: i32,
  h: i32,
  x0: i32,
  y0: i32,
  f: i32,
  left: i32,
  top: i32,
  k: f32,
  scratch: usize,
): void {
  const per = <f32>1 / <f32>f
  const shift = 31 - clz(f)
  // cells that the rows of pixels look at: three rows of the reduced picture, then of its result, premultiplied once for all pixels that lie in them
  const first = (x0 >> shift) - 1
  const row = <usize>(((x0 + w - 1) >> shift) + 2 - first) << 4
  const results = scratch + row * 3
  let held = i32.MIN_VALUE
  for (let y = 0; y < h; y++) {
    const cy = (y0 + y) >> shift
    const ty = (<f32>(y0 + y - (cy << shift)) + <f32>0.5) * per - <f32>0.5
    const wy0 = <f32>0.5 * (<f32>0.5 - ty) * (<f32>0.5 - ty)
    const wy1 = <f32>0.75 - ty * ty
    const wy2 = <f32>0.5 * (<f32>0.5 + ty) * (<f32>0.5 + ty)
    if (cy != held) {
      held = cy
      for (let j = 0; j < 3; j++) {
        const g = guide + <usize>(cy - top - 1 + j) * <usize>guideStride + (<usize>(first - left) << 3)
        const q = res + <usize>(cy - top - 1 + j) * <usize>resStride + (<usize>(first - left) << 3)
        const to = scratch + <usize>j * row
        for (let c: usize = 0; c < row; c += 16) {
          v128.store(to + c, premultiply(loadPixel(g + (c >> 1))))
          v128.store(to + row * 3 + c, premultiply(loadPixel(q + (c >> 1))))
        }
      }
    }
    for (let x = 0; x < w; x++) {
      const cx = (x0 + x) >> shift
      const tx = (<f32>(x0 + x - (cx << shift)) + <f32>0.5) * per - <f32>0.5
      const wx0 = <f32>0.5 * (<f32>0.5 - tx) * (<f32>0.5 - tx)
      const wx1 = <f32>0.75 - tx * tx
      const wx2 = <f32>0.5 * (<f32>0.5 + tx) * (<f32>0.5 + tx)
      const own = premultiply(loadPixel(src + (<usize>x << 3)))
      const at = <usize>(cx - 1 - first) << 4
      let sum = f32x4.splat(0)
      let all: f32 = 0
      for (let j = 0; j < 3; j++) {
        const wy = j == 0 ? wy0 : j == 1 ? wy1 : wy2
        const gr = scratch + <usize>j * row + at
        const qr = results + <usize>j * row + at
        for (let i = 0; i < 3; i++) {
          const near = wy * (i == 0 ? wx0 : i == 1 ? wx1 : wx2)
          const d = f32x4.sub(v128.load(gr + (<usize>i << 4)), own)
          const dd = f32x4.mul(d, d)
          const like = <f32>1 + k * (f32x4.extract_lane(dd, 0) + f32x4.extract_lane(dd, 1) + f32x4.extract_lane(dd, 2) + f32x4.extract_lane(dd, 3))
          const weight = near / (like * like)
          sum = f32x4.add(sum, f32x4.mul(v128.load(qr + (<usize>i << 4)), f32x4.splat(weight)))
          all += weight
        }
      }
      storePixel(dst + (<usize>x << 3), unpremultiply(f32x4.mul(sum, f32x4.splat(<f32>1 / all))))
    }
    src += srcStride
    dst += dstStride
  }
}
