// Film grain: seeded noise fixed to the sheet.
import { alphasOf, bluesOf, codesOf, greensOf, redsOf, storeFour } from './four'
import { lumaCode } from './luma'
import { noise } from './noise'

/** Two octaves of value noise about 0, turned against the pixels and each other. Deviation about 0.16. */
// @ts-ignore: decorator
@inline
function clumps(x: v128, y: v128, seed: i32): v128 {
  const u = f32x4.add(f32x4.mul(x, f32x4.splat(0.8660254)), f32x4.mul(y, f32x4.splat(0.5)))
  const v = f32x4.sub(f32x4.mul(y, f32x4.splat(0.8660254)), f32x4.mul(x, f32x4.splat(0.5)))
  const u2 = f32x4.sub(f32x4.mul(x, f32x4.splat(1.73)), f32x4.mul(y, f32x4.splat(0.71)))
  const v2 = f32x4.add(f32x4.mul(y, f32x4.splat(1.73)), f32x4.mul(x, f32x4.splat(0.71)))
  const sum = f32x4.add(noise(u, v, seed), noise(u2, v2, seed ^ 0x3c6ef372))
  return f32x4.sub(sum, f32x4.splat(1))
}

/**
 * Adds grain. @param x0,y0 place of the first pixel at this level; scale artwork pixels a pixel; pitch 1 / size of a grain, artwork pixels. @param
 * byTone 4096 floats: how much at each lightness; @param colour 0…1 how far R, G and B have grain of their own
 * @rows src dst +y0
 */
export function grain(
  src: usize,
  srcStride: i32,
  dst: usize,
  dstStride: i32,
  w: i32,
  h: i32,
  x0: i32,
  y0: i32,
  scale: f32,
  pitch: f32,
  byTone: usize,
  colour: f32,
  seed: i32,
): void {
  const lanes = f32x4(0.5, 1.5, 2.5, 3.5)
  const own = f32x4.splat(colour)
  const shared = f32x4.splat(1 - colour)
  const k = f32x4.splat(scale * pitch)
  for (let y = 0; y < h; y++) {
    const ys = f32x4.mul(f32x4.splat(<f32>(y0 + y) + 0.5), k)
    for (let x = 0; x < w; x += 4) {
      const p = src + (<usize>x << 3)
      const xs = f32x4.mul(f32x4.add(f32x4.splat(<f32>(x0 + x)), lanes), k)
      const a = f32x4(
        load<f32>(byTone + ((<usize>lumaCode(load<u64>(p)) >> 4) << 2)),
        load<f32>(byTone + ((<usize>lumaCode(load<u64>(p, 8)) >> 4) << 2)),
        load<f32>(byTone + ((<usize>lumaCode(load<u64>(p, 16)) >> 4) << 2)),
        load<f32>(byTone + ((<usize>lumaCode(load<u64>(p, 24)) >> 4) << 2)),
      )
      const rg = codesOf(v128.load(p), v128.load(p, 16), false)
      const ba = codesOf(v128.load(p), v128.load(p, 16), true)
      const grey = clumps(xs, ys, seed)
      let nr = grey
      let ng = grey
      let nb = grey
      if (colour > 0) {
        const common = f32x4.mul(grey, shared)
        nr = f32x4.add(common, f32x4.mul(own, clumps(xs, ys, seed ^ 0x1b873593)))
        ng = f32x4.add(common, f32x4.mul(own, clumps(xs, ys, seed ^ 0x5bd1e995)))
        nb = f32x4.add(common, f32x4.mul(own, clumps(xs, ys, seed ^ 0x27220a95)))
      }
      storeFour(
        dst + (<usize>x << 3),
        f32x4.add(redsOf(rg), f32x4.mul(a, nr)),
        f32x4.add(greensOf(rg), f32x4.mul(a, ng)),
        f32x4.add(bluesOf(ba), f32x4.mul(a, nb)),
        alphasOf(ba),
        w - x,
      )
    }
    src += srcStride
    dst += dstStride
  }
}
