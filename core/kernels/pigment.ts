// Dry pigment on a toothed paper, one colour over the other: what each lays catches on the hills first and reaches the hollows as it is pressed harder.
import { depthAt, shouldered } from './tooth'

/** 2 to the power of t, t at most 0, within a millionth of itself: a polynomial between whole numbers, which are the exponent. */
// @ts-ignore: decorator
@inline
export function powerOfTwo(t: v128): v128 {
  const held = f32x4.max(t, f32x4.splat(-60))
  const whole = f32x4.floor(held)
  const f = f32x4.sub(held, whole)
  let p = f32x4.add(f32x4.mul(f, f32x4.splat(0.00187757)), f32x4.splat(0.00898934))
  p = f32x4.add(f32x4.mul(f, p), f32x4.splat(0.05582631))
  p = f32x4.add(f32x4.mul(f, p), f32x4.splat(0.24015361))
  p = f32x4.add(f32x4.mul(f, p), f32x4.splat(0.69315308))
  p = f32x4.add(f32x4.mul(f, p), f32x4.splat(1))
  const bits = i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(whole), i32x4.splat(127)), 23)
  return f32x4.mul(p, bits)
}

/**
 * Lays pigments one after the other on paper: a light touch greys the hills alone, a pressed lead reaches the hollows (as in tooth, with soft shoulders); over all depths
 * what lies there comes to the pressure.
 * @param planes how hard each is pressed, 0 up: `n` planes of w × h floats, `planesBytes` from one to the next
 * @param pigments four floats each: of one that tints, the logarithm (base 2) of what it lets through in linear red, green, blue, and 0; of one that covers, its own
 * linear red, green, blue, and 1
 * @param paper linear red, green, blue: three floats and one of no meaning
 * @param grounds the same for each pixel (four floats, groundsStride bytes a row), where the paper was rubbed over first; or 0
 * @param codes 65536 codes of 16 bits by the square root of linear light
 * @param x0,y0 the first pixel's place at full size; @param pitch 1 / distance of the tooth's hills
 * @param rubs how much of what was rubbed over the paper is wiped off its hills again, 0 none … 1
 * @param most how hard is pressed at most, 0…1: below 1 the deepest hollows stay open, however much is laid
 * @param soft how far down from the hills a light touch reaches; @param catches 0 no tooth … 1
 * @rows planes src dst grounds +y0
 * @work w * h * (4 + n * 3)
 */
export function pigmentOnTooth(
  planes: usize, planesStride: i32, planesBytes: i32, n: i32, src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, x0: i32, y0: i32,
  pigments: usize, paper: usize, grounds: usize, groundsStride: i32, codes: usize, pitch: f32, soft: f32, catches: f32, seed: i32, rubs: f32, most: f32,
): void {
  const lanes = f32x4(0.5, 1.5, 2.5, 3.5)
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  const broken = f32x4.splat(catches)
  const hardest = f32x4.splat(most)
  const softness = f32x4.splat(soft)
  const bare = v128.load(paper)
  for (let y = 0; y < h; y++) {
    const ys = f32x4.splat(<f32>(y0 + y) + 0.5)
    for (let x = 0; x < w; x += 4) {
      const left = w - x
      let c0 = bare
      let c1 = bare
      let c2 = bare
      let c3 = bare
      if (grounds != 0) {
        const g = grounds + (<usize>x << 4)
        c0 = v128.load(g)
        if (left > 1) c1 = v128.load(g, 16)
        if (left > 2) c2 = v128.load(g, 32)
        if (left > 3) c3 = v128.load(g, 48)
      }
      const depth = depthAt(f32x4.add(f32x4.splat(<f32>(x0 + x)), lanes), ys, pitch, seed)
      if (rubs > 0) {
        const off = f32x4.mul(f32x4.splat(rubs), f32x4.pmax(zero, f32x4.sub(one, depth)))
        c0 = f32x4.add(c0, f32x4.mul(f32x4.splat(f32x4.extract_lane(off, 0)), f32x4.sub(bare, c0)))
        c1 = f32x4.add(c1, f32x4.mul(f32x4.splat(f32x4.extract_lane(off, 1)), f32x4.sub(bare, c1)))
        c2 = f32x4.add(c2, f32x4.mul(f32x4.splat(f32x4.extract_lane(off, 2)), f32x4.sub(bare, c2)))
        c3 = f32x4.add(c3, f32x4.mul(f32x4.splat(f32x4.extract_lane(off, 3)), f32x4.sub(bare, c3)))
      }
      for (let k = 0; k < n; k++) {
        const laid = v128.load(planes + <usize>k * <usize>planesBytes + (<usize>x << 2))
        if (!v128.any_true(f32x4.gt(laid, zero))) continue
        const pressed = f32x4.min(hardest, laid)
        const a = shouldered(pressed, depth, zero, broken, softness)
        const pigment = v128.load(pigments + (<usize>k << 4))
        const a0 = f32x4.splat(f32x4.extract_lane(a, 0))
        const a1 = f32x4.splat(f32x4.extract_lane(a, 1))
        const a2 = f32x4.splat(f32x4.extract_lane(a, 2))
        const a3 = f32x4.splat(f32x4.extract_lane(a, 3))
        if (f32x4.extract_lane(pigment, 3) > 0) {
          c0 = f32x4.add(c0, f32x4.mul(a0, f32x4.sub(pigment, c0)))
          c1 = f32x4.add(c1, f32x4.mul(a1, f32x4.sub(pigment, c1)))
          c2 = f32x4.add(c2, f32x4.mul(a2, f32x4.sub(pigment, c2)))
          c3 = f32x4.add(c3, f32x4.mul(a3, f32x4.sub(pigment, c3)))
        } else {
          c0 = f32x4.mul(c0, powerOfTwo(f32x4.mul(a0, pigment)))
          c1 = f32x4.mul(c1, powerOfTwo(f32x4.mul(a1, pigment)))
          c2 = f32x4.mul(c2, powerOfTwo(f32x4.mul(a2, pigment)))
          c3 = f32x4.mul(c3, powerOfTwo(f32x4.mul(a3, pigment)))
        }
      }
      write(src, dst, x, c0, codes)
      if (left > 1) write(src, dst, x + 1, c1, codes)
      if (left > 2) write(src, dst, x + 2, c2, codes)
      if (left > 3) write(src, dst, x + 3, c3, codes)
    }
    planes += planesStride
    if (grounds != 0) grounds += groundsStride
    src += srcStride
    dst += dstStride
  }
}

/** Writes a linear colour; alpha is src's. */
// @ts-ignore: decorator
@inline
function write(src: usize, dst: usize, x: i32, c: v128, codes: usize): void {
  const i = i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(f32x4.sqrt(f32x4.min(f32x4.splat(1), f32x4.max(f32x4.splat(0), c))), f32x4.splat(65535)), f32x4.splat(0.5)))
  const r = <u64>load<u16>(codes + (<usize>i32x4.extract_lane(i, 0) << 1))
  const g = <u64>load<u16>(codes + (<usize>i32x4.extract_lane(i, 1) << 1))
  const b = <u64>load<u16>(codes + (<usize>i32x4.extract_lane(i, 2) << 1))
  const at = <usize>x << 3
  store<u64>(dst + at, r | (g << 16) | (b << 32) | (<u64>load<u16>(src + at, 6) << 48))
}
