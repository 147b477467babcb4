// What changes from a middle outwards.
import { loadPixel, storePixel, withAlpha } from './simd'

/**
 * Draws a picture towards a colour outside of an oval: not at all inside of `inner`, by `amount` beyond `outer` (both in half axes rx, ry), in between by a smooth step.
 * (x0, y0): place of the first pixel; cx, cy: the middle; `square` 0 (oval) … 1 (rectangle). `colour`: three floats 0…1. src and dst may be the same.
 * @rows src dst +y0
 */
export function vignette(
  src: usize,
  srcStride: i32,
  dst: usize,
  dstStride: i32,
  w: i32,
  h: i32,
  x0: i32,
  y0: i32,
  cx: f32,
  cy: f32,
  rx: f32,
  ry: f32,
  inner: f32,
  outer: f32,
  square: f32,
  amount: f32,
  colour: usize,
): void {
  const target = f32x4(load<f32>(colour), load<f32>(colour, 4), load<f32>(colour, 8), 0)
  for (let y = 0; y < h; y++) {
    const dy = abs<f32>((<f32>(y0 + y) + 0.5 - cy) / ry)
    for (let x = 0; x < w; x++) {
      const dx = abs<f32>((<f32>(x0 + x) + 0.5 - cx) / rx)
      const oval = sqrt<f32>(dx * dx + dy * dy)
      const box = max<f32>(dx, dy)
      const t = max<f32>(0, min<f32>(1, (oval + (box - oval) * square - inner) / (outer - inner)))
      const m = t * t * (3 - 2 * t) * amount
      const p = src + (<usize>x << 3)
      const c = loadPixel(p)
      storePixel(dst + (<usize>x << 3), withAlpha(f32x4.add(c, f32x4.mul(f32x4.splat(m), f32x4.sub(target, c))), c))
    }
    src += srcStride
    dst += dstStride
  }
}
