// Pigment that settles in the hollows of a surface.
import { codesOf, greensOf, redsOf } from './four'
import { powerOfTwo } from './pigment'
import { storePixel } from './simd'
import { depthAt } from './tooth'

/**
 * Makes colours denser in the hollows and thinner on the hills: the density of each channel (the logarithm of its display-encoded code, to which that of linear light
 * is in proportion) is made more or less by a share of itself, by how deep the surface lies, so that its mean stays; less of a share the denser it is, for thick paint fills the hollows.
 * @param logs 65536 floats: the logarithm (base 2) of each code's share of the whole, at most 0
 * @param x0,y0 the first pixel's place at this level; @param scale artwork pixels a pixel; @param pitch 1 / distance of the hills at full size
 * @param ranks how deep the surface lies (red, 0 its hills) and how much of a surface there is (green), where it is not this kernel's own; or 0
 * @rows src dst ranks +y0
 * @work w * h * 8
 */
export function settle(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, x0: i32, y0: i32, scale: f32, pitch: f32, amount: f32, seed: i32, logs: usize, ranks: usize, ranksStride: i32): void {
  const lanes = f32x4(0.5, 1.5, 2.5, 3.5)
  const twice = f32x4.splat(2 * amount)
  for (let y = 0; y < h; y++) {
    const ys = f32x4.splat((<f32>(y0 + y) + 0.5) * scale)
    for (let x = 0; x < w; x += 4) {
      let deep: v128
      let by = twice
      if (ranks == 0) deep = depthAt(f32x4.mul(f32x4.add(f32x4.splat(<f32>(x0 + x)), lanes), f32x4.splat(scale)), ys, pitch, seed)
      else {
        const q = ranks + (<usize>x << 3)
        const found = codesOf(v128.load(q), v128.load(q, 16), false)
        deep = redsOf(found)
        by = f32x4.mul(twice, greensOf(found))
      }
      const more = f32x4.mul(by, f32x4.sub(deep, f32x4.splat(0.5)))
      const left = w - x
      settled(src, dst, <usize>x, logs, f32x4.extract_lane(more, 0))
      if (left > 1) settled(src, dst, <usize>x + 1, logs, f32x4.extract_lane(more, 1))
      if (left > 2) settled(src, dst, <usize>x + 2, logs, f32x4.extract_lane(more, 2))
      if (left > 3) settled(src, dst, <usize>x + 3, logs, f32x4.extract_lane(more, 3))
    }
    src += srcStride
    dst += dstStride
    ranks += ranksStride
  }
}

// @ts-ignore: decorator
@inline
function settled(src: usize, dst: usize, x: usize, logs: usize, more: f32): void {
  const p = src + (x << 3)
  const r = load<f32>(logs + (<usize>load<u16>(p) << 2))
  const g = load<f32>(logs + (<usize>load<u16>(p, 2) << 2))
  const b = load<f32>(logs + (<usize>load<u16>(p, 4) << 2))
  const d = f32x4(r, g, b, 0)
  const c = powerOfTwo(f32x4.add(d, f32x4.div(f32x4.mul(d, f32x4.splat(more)), f32x4.sub(f32x4.splat(1), f32x4.mul(d, f32x4.splat(0.4))))))
  storePixel(dst + (x << 3), f32x4.replace_lane(c, 3, <f32>load<u16>(p, 6) / 65535))
}
