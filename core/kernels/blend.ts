// W3C Compositing and Blending Level 1: blend functions B(cb, cs) and source-over, on RGBA16, straight alpha, four pixels
// at a time with their channels apart.
import { alphasOf, bluesOf, codesOf, greensOf, highs, lows, redsOf, storeFour } from './four'

// @ts-ignore: decorator
@inline
function hardLight(cb: v128, cs: v128): v128 {
  const one = f32x4.splat(1)
  const twice = f32x4.add(cs, cs)
  const s = f32x4.sub(twice, one)
  const screen = f32x4.sub(f32x4.add(cb, s), f32x4.mul(cb, s))
  return v128.bitselect(f32x4.mul(cb, twice), screen, f32x4.le(cs, f32x4.splat(0.5)))
}

// @ts-ignore: decorator
@inline
function softLight(cb: v128, cs: v128): v128 {
  const one = f32x4.splat(1)
  const twice = f32x4.add(cs, cs)
  const poly = f32x4.mul(
    f32x4.add(f32x4.mul(f32x4.sub(f32x4.mul(f32x4.splat(16), cb), f32x4.splat(12)), cb), f32x4.splat(4)),
    cb,
  )
  const d = v128.bitselect(poly, f32x4.sqrt(cb), f32x4.le(cb, f32x4.splat(0.25)))
  const low = f32x4.sub(cb, f32x4.mul(f32x4.mul(f32x4.sub(one, twice), cb), f32x4.sub(one, cb)))
  const high = f32x4.add(cb, f32x4.mul(f32x4.sub(twice, one), f32x4.sub(d, cb)))
  return v128.bitselect(low, high, f32x4.le(cs, f32x4.splat(0.5)))
}

/** Luminosity of the non-separable modes (W3C). */
// @ts-ignore: decorator
@inline
function lum(r: v128, g: v128, b: v128): v128 {
  const rg = f32x4.add(f32x4.mul(f32x4.splat(0.3), r), f32x4.mul(f32x4.splat(0.59), g))
  return f32x4.add(rg, f32x4.mul(f32x4.splat(0.11), b))
}

// @ts-ignore: decorator
@inline
function least(r: v128, g: v128, b: v128): v128 {
  return f32x4.pmin(f32x4.pmin(r, g), b)
}

// @ts-ignore: decorator
@inline
function most(r: v128, g: v128, b: v128): v128 {
  return f32x4.pmax(f32x4.pmax(r, g), b)
}

// One type a mode, in the order of core/src/blend/modes.ts: the row functions are made once for each, so that the choice
// is taken by the compiler. (A number given as a constant is folded back into one loop with a jump a pixel.)
class Normal {}
class Multiply {}
class Screen {}
class Overlay {}
class Darken {}
class Lighten {}
class ColorDodge {}
class ColorBurn {}
class HardLight {}
class SoftLight {}
class Difference {}
class Exclusion {}
class Hue {}
class Saturation {}
class Color {}
class Luminosity {}
class Add {}
class Subtract {}
class Divide {}

/** B(cb, cs) of a separable mode, for one channel of four pixels. */
// @ts-ignore: decorator
@inline
function mixed<M>(cb: v128, cs: v128): v128 {
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  if (idof<M>() == idof<Normal>()) return cs
  if (idof<M>() == idof<Multiply>()) return f32x4.mul(cb, cs)
  if (idof<M>() == idof<Screen>()) return f32x4.sub(f32x4.add(cb, cs), f32x4.mul(cb, cs))
  if (idof<M>() == idof<Overlay>()) return hardLight(cs, cb)
  if (idof<M>() == idof<Darken>()) return f32x4.pmin(cb, cs)
  if (idof<M>() == idof<Lighten>()) return f32x4.pmax(cb, cs)
  if (idof<M>() == idof<ColorDodge>()) {
    // 0 where the backdrop is 0, else min(1, cb / (1 - cs)): 0/0 is masked, x/0 saturates
    const q = f32x4.pmin(one, f32x4.div(cb, f32x4.sub(one, cs)))
    return v128.and(q, f32x4.gt(cb, zero))
  }
  if (idof<M>() == idof<ColorBurn>()) {
    // 1 where the backdrop is 1, else 1 - min(1, (1 - cb) / cs)
    const q = f32x4.pmin(one, f32x4.div(f32x4.sub(one, cb), cs))
    return v128.bitselect(one, f32x4.sub(one, q), f32x4.ge(cb, one))
  }
  if (idof<M>() == idof<HardLight>()) return hardLight(cb, cs)
  if (idof<M>() == idof<SoftLight>()) return softLight(cb, cs)
  if (idof<M>() == idof<Difference>()) return f32x4.abs(f32x4.sub(cb, cs))
  if (idof<M>() == idof<Exclusion>()) {
    const p = f32x4.mul(cb, cs)
    return f32x4.sub(f32x4.add(cb, cs), f32x4.add(p, p))
  }
  if (idof<M>() == idof<Add>()) return f32x4.pmin(one, f32x4.add(cb, cs))
  if (idof<M>() == idof<Subtract>()) return f32x4.pmax(zero, f32x4.sub(cb, cs))
  // x/0 saturates, 0/0 is masked
  if (idof<M>() == idof<Divide>()) return v128.and(f32x4.pmin(one, f32x4.div(cb, cs)), f32x4.gt(cb, zero))
  return cs
}

/** The rounded quotient by 65535 of four products of 16-bit codes. */
// @ts-ignore: decorator
@inline
function by65535(v: v128): v128 {
  const w = i32x4.add(v, i32x4.splat(32768))
  return i32x4.shr_u(i32x4.add(w, i32x4.shr_u(w, 16)), 16)
}

/** Product of codes as of shares of 65535, for two pixels. */
// @ts-ignore: decorator
@inline
function times(a: v128, b: v128): v128 {
  return i16x8.narrow_i32x4_u(by65535(i32x4.extmul_low_i16x8_u(a, b)), by65535(i32x4.extmul_high_i16x8_u(a, b)))
}

/** Whether a mode is done on whole numbers where both pixels are opaque. */
// @ts-ignore: decorator
@inline
function whole<M>(): bool {
  return (
    idof<M>() == idof<Normal>() ||
    idof<M>() == idof<Multiply>() ||
    idof<M>() == idof<Screen>() ||
    idof<M>() == idof<Darken>() ||
    idof<M>() == idof<Lighten>() ||
    idof<M>() == idof<Difference>()
  )
}

/** Two opaque pixels blended on whole numbers. */
// @ts-ignore: decorator
@inline
function opaqueTwo<M>(b: v128, s: v128): v128 {
  let m = s
  if (idof<M>() == idof<Multiply>()) m = times(b, s)
  else if (idof<M>() == idof<Screen>()) m = v128.not(times(v128.not(b), v128.not(s)))
  else if (idof<M>() == idof<Darken>()) m = i16x8.min_u(b, s)
  else if (idof<M>() == idof<Lighten>()) m = i16x8.max_u(b, s)
  // the opaque alpha is set again
  else if (idof<M>() == idof<Difference>()) m = v128.or(i16x8.sub(i16x8.max_u(b, s), i16x8.min_u(b, s)), i64x2.splat(0xffff000000000000))
  return m
}

/** Of two pixels' codes: a share k of the way from b to m. */
// @ts-ignore: decorator
@inline
function part(b: v128, m: v128, k: v128): v128 {
  // the high halves of floats from 2²³ on
  const up = i16x8.splat(0x4b00)
  return i16x8.narrow_i32x4_u(
    towards(lows(b, up), lows(m, up), k),
    towards(highs(b, up), highs(m, up), k),
  )
}

/**
 * b + k · (m − b), rounded: 1.5 · 2²³ leaves the whole number, also a negative one, in the low bits. Both are raised by 2²³, and what
 * that and the rounding add to the bits is taken off in one.
 */
// @ts-ignore: decorator
@inline
function towards(b: v128, m: v128, k: v128): v128 {
  const rounded = f32x4.add(f32x4.mul(f32x4.sub(m, b), k), f32x4.splat(12582912))
  return i32x4.sub(i32x4.add(b, rounded), i32x4.splat(0x4b400000 + 0x4b000000))
}

/** Whether each channel is blended by itself. */
// @ts-ignore: decorator
@inline
function separable<M>(): bool {
  return idof<M>() != idof<Hue>() && idof<M>() != idof<Saturation>() && idof<M>() != idof<Color>() && idof<M>() != idof<Luminosity>()
}

/** One channel of four opaque pixels of a mode that is separable. */
// @ts-ignore: decorator
@inline
function opaqueChannel<M>(cb: v128, cs: v128, k: v128, partly: bool): v128 {
  const m = mixed<M>(cb, cs)
  return partly ? f32x4.add(cb, f32x4.mul(f32x4.sub(m, cb), k)) : m
}

/** Opaque pixels from the first on, of a mode that is separable, four at a time; gives back how many. */
function opaqueRun<M>(below: usize, above: usize, dst: usize, w: i32, opacity: f32): i32 {
  const alphas = i64x2.splat(0xffff000000000000)
  const k = f32x4.splat(opacity)
  const partly = opacity != 1
  const start = below
  const end = below + (<usize>(w & ~3) << 3)
  while (below < end) {
    const b0 = v128.load(below)
    const b1 = v128.load(below, 16)
    const s0 = v128.load(above)
    const s1 = v128.load(above, 16)
    if (v128.any_true(v128.andnot(alphas, v128.and(v128.and(b0, b1), v128.and(s0, s1))))) break
    if (whole<M>()) {
      let m0 = opaqueTwo<M>(b0, s0)
      let m1 = opaqueTwo<M>(b1, s1)
      if (partly) {
        m0 = part(b0, m0, k)
        m1 = part(b1, m1, k)
      }
      v128.store(dst, m0)
      v128.store(dst, m1, 16)
    } else {
      const brg = codesOf(b0, b1, false)
      const srg = codesOf(s0, s1, false)
      const r = opaqueChannel<M>(redsOf(brg), redsOf(srg), k, partly)
      const g = opaqueChannel<M>(greensOf(brg), greensOf(srg), k, partly)
      const blue = opaqueChannel<M>(bluesOf(codesOf(b0, b1, true)), bluesOf(codesOf(s0, s1, true)), k, partly)
      storeFour(dst, r, g, blue, f32x4.splat(1), 4)
    }
    below += 32
    above += 32
    dst += 32
  }
  return <i32>((below - start) >> 3)
}

class Over {}
class Atop {}
class Replace {}

/**
 * One row. Over: source-over, the alpha of `above` times k. Atop: source-atop, likewise; where there is nothing below it leaves nothing. Replace: premultiplied lerp(below, above, k), the colour blended.
 * @param mask a weight 0…65535 a pixel that multiplies opacity into k; 0 for none
 */
function row<M, K>(below: usize, above: usize, mask: usize, dst: usize, w: i32, opacity: f32): void {
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  let k = f32x4.splat(opacity)
  const wholeNumbers = whole<M>() && mask == 0
  const runs = separable<M>() && mask == 0
  const alphas = i64x2.splat(0xffff000000000000)
  for (let x = 0; x < w; x += 4) {
    const i = <usize>x << 3
    const b0 = v128.load(below + i)
    const b1 = v128.load(below + i, 16)
    const s0 = v128.load(above + i)
    const s1 = v128.load(above + i, 16)
    // where nothing lies over what is opaque, it stays as it is: most of a layer that is laid elsewhere is clear
    if (idof<K>() != idof<Replace>() && w - x >= 4 && !v128.any_true(v128.and(v128.or(s0, s1), alphas))) {
      if (i64x2.all_true(i64x2.eq(v128.and(v128.and(b0, b1), alphas), alphas))) {
        v128.store(dst + i, b0)
        v128.store(dst + i, b1, 16)
        continue
      }
    }
    if (runs && w - x >= 4) {
      const all = v128.and(v128.and(v128.and(b0, b1), v128.and(s0, s1)), alphas)
      if (i64x2.all_true(i64x2.eq(all, alphas))) {
        // with others that follow: most of a picture is
        x += opaqueRun<M>(below + i, above + i, dst + i, w - x, opacity) - 4
        continue
      }
    }
    const brg = codesOf(b0, b1, false)
    const bba = codesOf(b0, b1, true)
    const srg = codesOf(s0, s1, false)
    const sba = codesOf(s0, s1, true)
    const br = redsOf(brg)
    const bg = greensOf(brg)
    const bb = bluesOf(bba)
    const ab = alphasOf(bba)
    const sr = redsOf(srg)
    const sg = greensOf(srg)
    const sb = bluesOf(sba)
    const sa = alphasOf(sba)
    if (mask) {
      const m = f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(v128.load64_zero(mask + (<usize>x << 1))))
      k = f32x4.mul(m, f32x4.splat(opacity * (<f32>1 / <f32>65535)))
    }
    let mr: v128, mg: v128, mb: v128
    if (!separable<M>()) {
      const l = idof<M>() == idof<Luminosity>() ? lum(sr, sg, sb) : lum(br, bg, bb)
      if (idof<M>() == idof<Luminosity>() || idof<M>() == idof<Saturation>()) {
        mr = br
        mg = bg
        mb = bb
      } else {
        mr = sr
        mg = sg
        mb = sb
      }
      if (idof<M>() == idof<Hue>() || idof<M>() == idof<Saturation>()) {
        // SetSat: sorting by rank is the same as mapping least…most to 0…s
        const s = idof<M>() == idof<Hue>() ? f32x4.sub(most(br, bg, bb), least(br, bg, bb)) : f32x4.sub(most(sr, sg, sb), least(sr, sg, sb))
        const low = least(mr, mg, mb)
        const range = f32x4.sub(most(mr, mg, mb), low)
        const q = v128.and(f32x4.div(s, range), f32x4.gt(range, zero))
        mr = f32x4.mul(f32x4.sub(mr, low), q)
        mg = f32x4.mul(f32x4.sub(mg, low), q)
        mb = f32x4.mul(f32x4.sub(mb, low), q)
      }
      // SetLum with ClipColor
      const d = f32x4.sub(l, lum(mr, mg, mb))
      mr = f32x4.add(mr, d)
      mg = f32x4.add(mg, d)
      mb = f32x4.add(mb, d)
      const low = least(mr, mg, mb)
      const high = most(mr, mg, mb)
      const qLow = v128.bitselect(f32x4.div(l, f32x4.sub(l, low)), one, f32x4.lt(low, zero))
      const qHigh = v128.bitselect(f32x4.div(f32x4.sub(one, l), f32x4.sub(high, l)), one, f32x4.gt(high, one))
      const q = f32x4.mul(qLow, qHigh)
      mr = f32x4.add(l, f32x4.mul(f32x4.sub(mr, l), q))
      mg = f32x4.add(l, f32x4.mul(f32x4.sub(mg, l), q))
      mb = f32x4.add(l, f32x4.mul(f32x4.sub(mb, l), q))
    } else {
      mr = mixed<M>(br, sr)
      mg = mixed<M>(bg, sg)
      mb = mixed<M>(bb, sb)
    }
    // most pixels are opaque, and then both come down to lerp(below, blended, k); which way a pixel goes must not depend on
    // its neighbours
    const opaque = f32x4.eq(v128.and(ab, sa), one)
    let r = mr
    let g = mg
    let b = mb
    if (opacity != 1 || mask) {
      r = f32x4.add(br, f32x4.mul(f32x4.sub(mr, br), k))
      g = f32x4.add(bg, f32x4.mul(f32x4.sub(mg, bg), k))
      b = f32x4.add(bb, f32x4.mul(f32x4.sub(mb, bb), k))
    }
    let ao = one
    if (!i32x4.all_true(opaque)) {
      const as = f32x4.mul(sa, k)
      const wm = f32x4.mul(as, ab)
      const ws = idof<K>() == idof<Atop>() ? zero : f32x4.sub(as, wm)
      const wb = idof<K>() == idof<Replace>() ? f32x4.mul(ab, f32x4.sub(one, k)) : f32x4.sub(ab, wm)
      const sum = idof<K>() == idof<Over>() ? f32x4.add(f32x4.add(ws, wb), wm) : idof<K>() == idof<Atop>() ? ab : f32x4.add(wb, as)
      const inverse = v128.and(f32x4.div(one, sum), f32x4.gt(sum, zero))
      r = v128.bitselect(r, f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(wb, br), f32x4.mul(ws, sr)), f32x4.mul(wm, mr)), inverse), opaque)
      g = v128.bitselect(g, f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(wb, bg), f32x4.mul(ws, sg)), f32x4.mul(wm, mg)), inverse), opaque)
      b = v128.bitselect(b, f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(wb, bb), f32x4.mul(ws, sb)), f32x4.mul(wm, mb)), inverse), opaque)
      ao = v128.bitselect(one, sum, opaque)
    }
    storeFour(dst + i, r, g, b, ao, w - x)
    if (wholeNumbers) {
      // its opaque pixels as their neighbours in other groups
      let p = opaqueTwo<M>(b0, s0)
      let q = opaqueTwo<M>(b1, s1)
      if (opacity != 1) {
        p = part(b0, p, k)
        q = part(b1, q, k)
      }
      if (i64x2.extract_lane(v128.and(b0, s0), 0) >>> 48 == 65535) v128.store64_lane(dst + i, p, 0)
      if (w - x > 1 && i64x2.extract_lane(v128.and(b0, s0), 1) >>> 48 == 65535) v128.store64_lane(dst + i, p, 1, 8)
      if (w - x > 2 && i64x2.extract_lane(v128.and(b1, s1), 0) >>> 48 == 65535) v128.store64_lane(dst + i, q, 0, 16)
      if (w - x > 3 && i64x2.extract_lane(v128.and(b1, s1), 1) >>> 48 == 65535) v128.store64_lane(dst + i, q, 1, 24)
    }
  }
}

function one<K>(mode: i32, b: usize, s: usize, m: usize, d: usize, w: i32, k: f32): void {
  switch (mode) {
    case 0:
      row<Normal, K>(b, s, m, d, w, k)
      break
    case 1:
      row<Multiply, K>(b, s, m, d, w, k)
      break
    case 2:
      row<Screen, K>(b, s, m, d, w, k)
      break
    case 3:
      row<Overlay, K>(b, s, m, d, w, k)
      break
    case 4:
      row<Darken, K>(b, s, m, d, w, k)
      break
    case 5:
      row<Lighten, K>(b, s, m, d, w, k)
      break
    case 6:
      row<ColorDodge, K>(b, s, m, d, w, k)
      break
    case 7:
      row<ColorBurn, K>(b, s, m, d, w, k)
      break
    case 8:
      row<HardLight, K>(b, s, m, d, w, k)
      break
    case 9:
      row<SoftLight, K>(b, s, m, d, w, k)
      break
    case 10:
      row<Difference, K>(b, s, m, d, w, k)
      break
    case 11:
      row<Exclusion, K>(b, s, m, d, w, k)
      break
    case 12:
      row<Hue, K>(b, s, m, d, w, k)
      break
    case 13:
      row<Saturation, K>(b, s, m, d, w, k)
      break
    case 14:
      row<Color, K>(b, s, m, d, w, k)
      break
    case 15:
      row<Luminosity, K>(b, s, m, d, w, k)
      break
    case 16:
      row<Add, K>(b, s, m, d, w, k)
      break
    case 17:
      row<Subtract, K>(b, s, m, d, w, k)
      break
    default:
      row<Divide, K>(b, s, m, d, w, k)
  }
}

/**
 * Source-over with a blend mode: `above` (its alpha times opacity and mask) over `below`. dst may be either input.
 * @param mask 16 bits a pixel, or 0 for none (with a stride of 0)
 * @rows below above mask dst
 */
export function blend(mode: i32, below: usize, belowStride: i32, above: usize, aboveStride: i32, mask: usize, maskStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, opacity: f32): void {
  for (let y = 0; y < h; y++) {
    one<Over>(mode, below, above, mask, dst, w, opacity)
    below += belowStride
    above += aboveStride
    mask += maskStride
    dst += dstStride
  }
}

/**
 * Source-atop with a blend mode: as `blend`, and only where `below` covers, whose alpha stays. dst may be either input.
 * @param mask 16 bits a pixel, or 0 for none (with a stride of 0)
 * @rows below above mask dst
 */
export function blendAtop(mode: i32, below: usize, belowStride: i32, above: usize, aboveStride: i32, mask: usize, maskStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, opacity: f32): void {
  for (let y = 0; y < h; y++) {
    one<Atop>(mode, below, above, mask, dst, w, opacity)
    below += belowStride
    above += aboveStride
    mask += maskStride
    dst += dstStride
  }
}

/**
 * How a step acts: premultiplied lerp(input, result, opacity × mask), where the result has the colour blended with the
 * input and keeps its own alpha.
 * @param mask 16 bits a pixel, or 0 for none (with a stride of 0)
 * @rows input result mask dst
 */
export function replace(mode: i32, input: usize, inputStride: i32, result: usize, resultStride: i32, mask: usize, maskStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, opacity: f32): void {
  for (let y = 0; y < h; y++) {
    one<Replace>(mode, input, result, mask, dst, w, opacity)
    input += inputStride
    result += resultStride
    mask += maskStride
    dst += dstStride
  }
}
