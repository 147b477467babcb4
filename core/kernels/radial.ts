// What changes from a middle outwards.
import { rooted, storeEncoded } from './oklab'
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

/**
 * Multiplies linear light by a factor that goes by how far outside of an ellipse a pixel lies: 1 on and inside it, the last of the table at the
 * distance 1 + 1 / per. What is taken away is given back in the colour of `tint` (three floats of linear light). src and dst may be the same.
 * (x0, y0): place of the first pixel; (cx, cy): the middle; rx, ry: half axes, pixels.
 * @param table 1026 floats: factors by (distance − 1) · per · 1024, straight between them
 * @rows src dst +y0
 */
export function lightFall(
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
  per: f32,
  table: usize,
  tint: usize,
  decode: usize,
  encode: usize,
): void {
  const colour = f32x4(load<f32>(tint), load<f32>(tint, 4), load<f32>(tint, 8), 0)
  for (let y = 0; y < h; y++) {
    const dy = (<f32>(y0 + y) + 0.5 - cy) / ry
    for (let x = 0; x < w; x++) {
      const dx = (<f32>(x0 + x) + 0.5 - cx) / rx
      const p = src + (<usize>x << 3)
      const q = dst + (<usize>x << 3)
      const out = (sqrt<f32>(dx * dx + dy * dy) - 1) * per
      if (out <= 0) {
        store<u64>(q, load<u64>(p))
        continue
      }
      const place = min<f32>(1, out) * 1024
      const i = <usize>place
      const low = load<f32>(table + (i << 2))
      const f = low + (load<f32>(table + (i << 2), 4) - low) * (place - <f32>i)
      const light = f32x4(
        load<f32>(decode + ((<usize>load<u16>(p)) << 2)),
        load<f32>(decode + ((<usize>load<u16>(p, 2)) << 2)),
        load<f32>(decode + ((<usize>load<u16>(p, 4)) << 2)),
        0,
      )
      const lit = rooted(f32x4.add(f32x4.mul(light, f32x4.splat(f)), f32x4.mul(colour, f32x4.splat(max<f32>(0, 1 - f)))))
      storeEncoded(q, f32x4.extract_lane(lit, 0), f32x4.extract_lane(lit, 1), f32x4.extract_lane(lit, 2), <u64>load<u16>(p, 6), encode)
    }
    src += srcStride
    dst += dstStride
  }
}
