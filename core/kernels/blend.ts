// W3C Compositing and Blending Level 1: blend functions B(cb, cs) and source-over, on RGBA16, straight alpha.
import { alphaOf, loadPixel, storePixel, withAlpha } from './simd'

const LUM_R: f32 = 0.3
const LUM_G: f32 = 0.59
const LUM_B: f32 = 0.11

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

// @ts-ignore: decorator
@inline
function lum(r: f32, g: f32, b: f32): f32 {
  return LUM_R * r + LUM_G * g + LUM_B * b
}

// @ts-ignore: decorator
@inline
function sat(r: f32, g: f32, b: f32): f32 {
  return max<f32>(r, max<f32>(g, b)) - min<f32>(r, min<f32>(g, b))
}

/** SetLum with ClipColor. */
// @ts-ignore: decorator
@inline
function setLum(r: f32, g: f32, b: f32, l: f32): v128 {
  const d = l - lum(r, g, b)
  r += d
  g += d
  b += d
  const low = min<f32>(r, min<f32>(g, b))
  const high = max<f32>(r, max<f32>(g, b))
  if (low < 0) {
    const k = l / (l - low)
    r = l + (r - l) * k
    g = l + (g - l) * k
    b = l + (b - l) * k
  }
  if (high > 1) {
    const k = (<f32>1 - l) / (high - l)
    r = l + (r - l) * k
    g = l + (g - l) * k
    b = l + (b - l) * k
  }
  return f32x4(r, g, b, 0)
}

/** SetSat of (r, g, b) to s, then SetLum to l. Sorting by rank is the same as mapping min…max to 0…s. */
// @ts-ignore: decorator
@inline
function setSatLum(r: f32, g: f32, b: f32, s: f32, l: f32): v128 {
  const low = min<f32>(r, min<f32>(g, b))
  const range = max<f32>(r, max<f32>(g, b)) - low
  if (range <= 0) return setLum(0, 0, 0, l)
  const k = s / range
  return setLum((r - low) * k, (g - low) * k, (b - low) * k, l)
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

/** B(cb, cs) of a mode. */
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
  const br = f32x4.extract_lane(cb, 0)
  const bg = f32x4.extract_lane(cb, 1)
  const bb = f32x4.extract_lane(cb, 2)
  const sr = f32x4.extract_lane(cs, 0)
  const sg = f32x4.extract_lane(cs, 1)
  const sb = f32x4.extract_lane(cs, 2)
  if (idof<M>() == idof<Hue>()) return setSatLum(sr, sg, sb, sat(br, bg, bb), lum(br, bg, bb))
  if (idof<M>() == idof<Saturation>()) return setSatLum(br, bg, bb, sat(sr, sg, sb), lum(br, bg, bb))
  if (idof<M>() == idof<Color>()) return setLum(sr, sg, sb, lum(br, bg, bb))
  return setLum(br, bg, bb, lum(sr, sg, sb))
}

function overRow<M>(below: usize, above: usize, dst: usize, w: i32, opacity: f32): void {
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  const k = f32x4.splat(opacity)
  for (let i = <usize>0; i < <usize>w << 3; i += 8) {
    const b = loadPixel(below + i)
    const s = loadPixel(above + i)
    // most pixels are opaque: the formula comes down to the blend function
    if (opacity == 1 && load<u16>(below + i, 6) == 65535 && load<u16>(above + i, 6) == 65535) {
      storePixel(dst + i, withAlpha(mixed<M>(b, s), one))
      continue
    }
    const ab = alphaOf(b)
    const as = f32x4.mul(alphaOf(s), k)
    const both = f32x4.mul(as, ab)
    const ao = f32x4.sub(f32x4.add(as, ab), both)
    const onlyS = f32x4.sub(as, both)
    const onlyB = f32x4.sub(ab, both)
    const co = f32x4.add(
      f32x4.add(f32x4.mul(onlyS, s), f32x4.mul(onlyB, b)),
      f32x4.mul(both, mixed<M>(b, s)),
    )
    const straight = v128.and(f32x4.div(co, ao), f32x4.gt(ao, zero))
    storePixel(dst + i, withAlpha(straight, ao))
  }
}

function replaceRow<M>(below: usize, above: usize, dst: usize, w: i32, opacity: f32): void {
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  const k = f32x4.splat(opacity)
  const rest = f32x4.splat(1 - opacity)
  for (let i = <usize>0; i < <usize>w << 3; i += 8) {
    const b = loadPixel(below + i)
    const s = loadPixel(above + i)
    const ab = alphaOf(b)
    const as = alphaOf(s)
    const colour = f32x4.add(f32x4.mul(f32x4.sub(one, ab), s), f32x4.mul(ab, mixed<M>(b, s)))
    const wb = f32x4.mul(ab, rest)
    const ws = f32x4.mul(as, k)
    const ao = f32x4.add(wb, ws)
    const co = f32x4.add(f32x4.mul(wb, b), f32x4.mul(ws, colour))
    const straight = v128.and(f32x4.div(co, ao), f32x4.gt(ao, zero))
    storePixel(dst + i, withAlpha(straight, ao))
  }
}

function over(mode: i32, b: usize, s: usize, d: usize, w: i32, k: f32): void {
  switch (mode) {
    case 0:
      overRow<Normal>(b, s, d, w, k)
      break
    case 1:
      overRow<Multiply>(b, s, d, w, k)
      break
    case 2:
      overRow<Screen>(b, s, d, w, k)
      break
    case 3:
      overRow<Overlay>(b, s, d, w, k)
      break
    case 4:
      overRow<Darken>(b, s, d, w, k)
      break
    case 5:
      overRow<Lighten>(b, s, d, w, k)
      break
    case 6:
      overRow<ColorDodge>(b, s, d, w, k)
      break
    case 7:
      overRow<ColorBurn>(b, s, d, w, k)
      break
    case 8:
      overRow<HardLight>(b, s, d, w, k)
      break
    case 9:
      overRow<SoftLight>(b, s, d, w, k)
      break
    case 10:
      overRow<Difference>(b, s, d, w, k)
      break
    case 11:
      overRow<Exclusion>(b, s, d, w, k)
      break
    case 12:
      overRow<Hue>(b, s, d, w, k)
      break
    case 13:
      overRow<Saturation>(b, s, d, w, k)
      break
    case 14:
      overRow<Color>(b, s, d, w, k)
      break
    default:
      overRow<Luminosity>(b, s, d, w, k)
  }
}

function put(mode: i32, b: usize, s: usize, d: usize, w: i32, k: f32): void {
  switch (mode) {
    case 0:
      replaceRow<Normal>(b, s, d, w, k)
      break
    case 1:
      replaceRow<Multiply>(b, s, d, w, k)
      break
    case 2:
      replaceRow<Screen>(b, s, d, w, k)
      break
    case 3:
      replaceRow<Overlay>(b, s, d, w, k)
      break
    case 4:
      replaceRow<Darken>(b, s, d, w, k)
      break
    case 5:
      replaceRow<Lighten>(b, s, d, w, k)
      break
    case 6:
      replaceRow<ColorDodge>(b, s, d, w, k)
      break
    case 7:
      replaceRow<ColorBurn>(b, s, d, w, k)
      break
    case 8:
      replaceRow<HardLight>(b, s, d, w, k)
      break
    case 9:
      replaceRow<SoftLight>(b, s, d, w, k)
      break
    case 10:
      replaceRow<Difference>(b, s, d, w, k)
      break
    case 11:
      replaceRow<Exclusion>(b, s, d, w, k)
      break
    case 12:
      replaceRow<Hue>(b, s, d, w, k)
      break
    case 13:
      replaceRow<Saturation>(b, s, d, w, k)
      break
    case 14:
      replaceRow<Color>(b, s, d, w, k)
      break
    default:
      replaceRow<Luminosity>(b, s, d, w, k)
  }
}

/** Source-over with a blend mode: `above` (its alpha times opacity) over `below`. dst may be either input. */
export function blend(mode: i32, below: usize, belowStride: i32, above: usize, aboveStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, opacity: f32): void {
  for (let y = 0; y < h; y++) {
    over(mode, below, above, dst, w, opacity)
    below += belowStride
    above += aboveStride
    dst += dstStride
  }
}

/**
 * How a step acts: premultiplied lerp(input, result, opacity), where the result has the colour blended with the
 * input and keeps its own alpha.
 */
export function replace(mode: i32, input: usize, inputStride: i32, result: usize, resultStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, opacity: f32): void {
  for (let y = 0; y < h; y++) {
    put(mode, input, result, dst, w, opacity)
    input += inputStride
    result += resultStride
    dst += dstStride
  }
}
