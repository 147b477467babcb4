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
  const one = f32x4.splat(1)
  const firm = f32x4.splat(k)
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
      const wx = f32x4(wx0, wx1, wx2, 0)
      let sum = f32x4.splat(0)
      let all: f32 = 0
      for (let j = 0; j < 3; j++) {
        const gr = scratch + <usize>j * row + at
        const qr = results + <usize>j * row + at
        // three cells at once, one a lane; channels are added in their order
        const d0 = f32x4.sub(v128.load(gr), own)
        const d1 = f32x4.sub(v128.load(gr, 16), own)
        const d2 = f32x4.sub(v128.load(gr, 32), own)
        const s0 = f32x4.mul(d0, d0)
        const s1 = f32x4.mul(d1, d1)
        const s2 = f32x4.mul(d2, d2)
        const low = i32x4.shuffle(s0, s1, 0, 4, 1, 5)
        const high = i32x4.shuffle(s0, s1, 2, 6, 3, 7)
        const square = f32x4.add(
          f32x4.add(f32x4.add(i32x4.shuffle(low, s2, 0, 1, 4, 4), i32x4.shuffle(low, s2, 2, 3, 5, 5)), i32x4.shuffle(high, s2, 0, 1, 6, 6)),
          i32x4.shuffle(high, s2, 2, 3, 7, 7),
        )
        const like = f32x4.add(one, f32x4.mul(firm, square))
        const weights = f32x4.div(f32x4.mul(f32x4.splat(j == 0 ? wy0 : j == 1 ? wy1 : wy2), wx), f32x4.mul(like, like))
        sum = f32x4.add(sum, f32x4.mul(v128.load(qr), i32x4.shuffle(weights, weights, 0, 0, 0, 0)))
        sum = f32x4.add(sum, f32x4.mul(v128.load(qr, 16), i32x4.shuffle(weights, weights, 1, 1, 1, 1)))
        sum = f32x4.add(sum, f32x4.mul(v128.load(qr, 32), i32x4.shuffle(weights, weights, 2, 2, 2, 2)))
        all += f32x4.extract_lane(weights, 0)
        all += f32x4.extract_lane(weights, 1)
        all += f32x4.extract_lane(weights, 2)
      }
      storePixel(dst + (<usize>x << 3), unpremultiply(f32x4.mul(sum, f32x4.splat(<f32>1 / all))))
    }
    src += srcStride
    dst += dstStride
  }
}
