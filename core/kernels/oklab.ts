// Colour in OKLab: Ottosson, "A perceptual color space for image processing" (2020); matrices as published there.

/** Cube root of four numbers of 0 or more: a guess out of the exponent, then two steps of Halley's method; within 2 ulp. */
// @ts-ignore: decorator
@inline
export function cubeRoot(x: v128): v128 {
  const third = f32x4.mul(f32x4.convert_i32x4_s(x), f32x4.splat(<f32>1 / <f32>3))
  let y = i32x4.add(i32x4.trunc_sat_f32x4_s(third), i32x4.splat(0x2a514067))
  for (let i = 0; i < 2; i++) {
    const c = f32x4.mul(f32x4.mul(y, y), y)
    const up = f32x4.add(c, f32x4.add(x, x))
    const down = f32x4.add(f32x4.add(c, c), x)
    y = f32x4.mul(y, f32x4.div(up, down))
  }
  return v128.and(y, f32x4.gt(x, f32x4.splat(0)))
}

/** Linear light of four codes, out of a table of 65536 floats. */
// @ts-ignore: decorator
@inline
export function decoded(p: usize, table: usize, offset: usize): v128 {
  return f32x4(
    load<f32>(table + ((<usize>load<u16>(p + offset)) << 2)),
    load<f32>(table + ((<usize>load<u16>(p + offset, 8)) << 2)),
    load<f32>(table + ((<usize>load<u16>(p + offset, 16)) << 2)),
    load<f32>(table + ((<usize>load<u16>(p + offset, 24)) << 2)),
  )
}

// @ts-ignore: decorator
@inline
export function weighed(a: v128, b: v128, c: v128, x: f32, y: f32, z: f32): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(a, f32x4.splat(x)), f32x4.mul(b, f32x4.splat(y))), f32x4.mul(c, f32x4.splat(z)))
}

// @ts-ignore: decorator
@inline
function cubed(v: v128): v128 {
  return f32x4.mul(f32x4.mul(v, v), v)
}

/** Cone responses to the power of a third, one a channel (0 … 2). */
// @ts-ignore: decorator
@inline
export function cone(r: v128, g: v128, b: v128, i: i32): v128 {
  if (i == 0) return cubeRoot(weighed(r, g, b, 0.4122214708, 0.5363325363, 0.0514459929))
  if (i == 1) return cubeRoot(weighed(r, g, b, 0.2119034982, 0.6806995451, 0.1073969566))
  return cubeRoot(weighed(r, g, b, 0.0883024619, 0.2817188376, 0.6299787005))
}

/** Lightness, and a and b, out of the three cones. */
// @ts-ignore: decorator
@inline
export function lightnessOf(l: v128, m: v128, s: v128): v128 {
  return weighed(l, m, s, 0.2104542553, 0.793617785, -0.0040720468)
}
// @ts-ignore: decorator
@inline
export function greenRedOf(l: v128, m: v128, s: v128): v128 {
  return weighed(l, m, s, 1.9779984951, -2.428592205, 0.4505937099)
}
// @ts-ignore: decorator
@inline
export function blueYellowOf(l: v128, m: v128, s: v128): v128 {
  return weighed(l, m, s, 0.0259040371, 0.7827717662, -0.808675766)
}

/** Where four colours of OKLab lie within sRGB, by a hair's breadth more. */
// @ts-ignore: decorator
@inline
function within(light: v128, a: v128, b: v128): v128 {
  const l = cubed(weighed(light, a, b, 1, 0.3963377774, 0.2158037573))
  const m = cubed(weighed(light, a, b, 1, -0.1055613458, -0.0638541728))
  const s = cubed(weighed(light, a, b, 1, -0.0894841775, -1.291485548))
  const red = weighed(l, m, s, 4.0767416621, -3.3077115913, 0.2309699292)
  const green = weighed(l, m, s, -1.2684380046, 2.6097574011, -0.3413193965)
  const blue = weighed(l, m, s, -0.0041960863, -0.7034186147, 1.707614701)
  const low = f32x4.pmin(f32x4.pmin(red, green), blue)
  const high = f32x4.pmax(f32x4.pmax(red, green), blue)
  return v128.and(f32x4.ge(low, f32x4.splat(-0.00002)), f32x4.le(high, f32x4.splat(1.00002)))
}

/** The strongest chroma sRGB has at a lightness and hue, (a, b) being the hue's direction of length 1: by bisection, within 0.00001. */
// @ts-ignore: decorator
@inline
function strongest(light: v128, a: v128, b: v128): v128 {
  let t = f32x4.splat(0)
  let step = f32x4.splat(0.2)
  for (let i = 0; i < 15; i++) {
    const next = f32x4.add(t, step)
    t = v128.bitselect(next, t, within(light, f32x4.mul(a, next), f32x4.mul(b, next)))
    step = f32x4.mul(step, f32x4.splat(0.5))
  }
  return t
}

/** The entries (0…4095) of a table by hue for four colours: their angle on a diamond, 0 at −b, counter-clockwise over +a. */
// @ts-ignore: decorator
@inline
function entryOf(a: v128, b: v128): v128 {
  const sum = f32x4.pmax(f32x4.splat(1e-6), f32x4.add(f32x4.abs(a), f32x4.abs(b)))
  const t = f32x4.div(b, sum)
  const turn = v128.bitselect(f32x4.add(f32x4.splat(1), t), f32x4.sub(f32x4.splat(3), t), f32x4.ge(a, f32x4.splat(0)))
  return i32x4.trunc_sat_f32x4_s(f32x4.pmin(f32x4.splat(4095), f32x4.mul(turn, f32x4.splat(1024))))
}

// @ts-ignore: decorator
@inline
function encodedLane(v: f32, table: usize): u64 {
  return <u64>load<u16>(table + ((<usize><u32>(v * 65535 + 0.5)) << 1))
}

/** Square roots of linear light held to 0…1, which the encoding table goes by. */
// @ts-ignore: decorator
@inline
export function rooted(v: v128): v128 {
  return f32x4.sqrt(f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), v)))
}

/** Stores one of four pixels out of roots of linear light and an alpha code. */
// @ts-ignore: decorator
@inline
export function storeEncoded(p: usize, r: f32, g: f32, b: f32, alpha: u64, encode: usize): void {
  store<u64>(p, encodedLane(r, encode) | (encodedLane(g, encode) << 16) | (encodedLane(b, encode) << 32) | (alpha << 48))
}

/** Stores up to four pixels (n) out of OKLab, their alpha from p. */
// @ts-ignore: decorator
@inline
function storeLab(q: usize, p: usize, n: i32, light: v128, a: v128, b: v128, encode: usize): void {
  const l2 = cubed(weighed(light, a, b, 1, 0.3963377774, 0.2158037573))
  const m2 = cubed(weighed(light, a, b, 1, -0.1055613458, -0.0638541728))
  const s2 = cubed(weighed(light, a, b, 1, -0.0894841775, -1.291485548))
  const er = rooted(weighed(l2, m2, s2, 4.0767416621, -3.3077115913, 0.2309699292))
  const eg = rooted(weighed(l2, m2, s2, -1.2684380046, 2.6097574011, -0.3413193965))
  const eb = rooted(weighed(l2, m2, s2, -0.0041960863, -0.7034186147, 1.707614701))
  const alpha1 = <u64>load<u16>(p, 14)
  const alpha2 = <u64>load<u16>(p, 22)
  const alpha3 = <u64>load<u16>(p, 30)
  storeEncoded(q, f32x4.extract_lane(er, 0), f32x4.extract_lane(eg, 0), f32x4.extract_lane(eb, 0), <u64>load<u16>(p, 6), encode)
  if (n > 1) storeEncoded(q + 8, f32x4.extract_lane(er, 1), f32x4.extract_lane(eg, 1), f32x4.extract_lane(eb, 1), alpha1, encode)
  if (n > 2) storeEncoded(q + 16, f32x4.extract_lane(er, 2), f32x4.extract_lane(eg, 2), f32x4.extract_lane(eb, 2), alpha2, encode)
  if (n > 3) storeEncoded(q + 24, f32x4.extract_lane(er, 3), f32x4.extract_lane(eg, 3), f32x4.extract_lane(eb, 3), alpha3, encode)
}

/**
 * Turns hues and changes chroma and lightness, by hue. A table of 4096 entries of four floats, by the angle of (a, b) measured on a diamond
 * (0 at −b, counter-clockwise over +a): the first column of the 2 × 2 matrix for (a, b), that is gain · cos and gain · sin; what is added to
 * the lightness of a full colour; 0. `set` holds: factor of lightness, what is added to it, factor of (a, b) after the table, the a and b added
 * then, and the vibrance: how much more weak colours gain than strong ones. Lightness and hue are kept to; chroma that is multiplied by g nears
 * the strongest that sRGB has there, m, without passing it: c becomes g·c / (1 + (g − 1)·c / m). src and dst may be the same.
 * @rows src dst
 * @work w * h * 16
 */
export function hueShift(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, table: usize, set: usize, decode: usize, encode: usize): void {
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  const lMul = f32x4.splat(load<f32>(set))
  const lAdd = f32x4.splat(load<f32>(set, 4))
  const keep = f32x4.splat(load<f32>(set, 8))
  const aAdd = f32x4.splat(load<f32>(set, 12))
  const bAdd = f32x4.splat(load<f32>(set, 16))
  const vibrance = f32x4.splat(load<f32>(set, 20))
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x += 4) {
      const p = src + (<usize>x << 3)
      const r = decoded(p, decode, 0)
      const g = decoded(p, decode, 2)
      const bl = decoded(p, decode, 4)
      const l = cone(r, g, bl, 0)
      const m = cone(r, g, bl, 1)
      const s = cone(r, g, bl, 2)
      let light = lightnessOf(l, m, s)
      let a = greenRedOf(l, m, s)
      let b = blueYellowOf(l, m, s)
      const chroma = f32x4.sqrt(f32x4.add(f32x4.mul(a, a), f32x4.mul(b, b)))
      const at = entryOf(a, b)
      const e0 = v128.load(table + (<usize>i32x4.extract_lane(at, 0) << 4))
      const e1 = v128.load(table + (<usize>i32x4.extract_lane(at, 1) << 4))
      const e2 = v128.load(table + (<usize>i32x4.extract_lane(at, 2) << 4))
      const e3 = v128.load(table + (<usize>i32x4.extract_lane(at, 3) << 4))
      // entries' fields into lanes
      const p01 = i32x4.shuffle(e0, e1, 0, 4, 1, 5)
      const p23 = i32x4.shuffle(e2, e3, 0, 4, 1, 5)
      const cos = i32x4.shuffle(p01, p23, 0, 1, 4, 5)
      const sin = i32x4.shuffle(p01, p23, 2, 3, 6, 7)
      const add = i32x4.shuffle(i32x4.shuffle(e0, e1, 2, 6, 3, 7), i32x4.shuffle(e2, e3, 2, 6, 3, 7), 0, 1, 4, 5)
      const full = f32x4.pmin(one, f32x4.mul(chroma, f32x4.splat(8)))
      light = f32x4.add(f32x4.mul(f32x4.add(light, f32x4.mul(add, full)), lMul), lAdd)
      light = f32x4.pmin(one, f32x4.pmax(zero, light))
      const weak = f32x4.sub(one, f32x4.pmin(one, f32x4.mul(chroma, f32x4.splat(<f32>1 / <f32>0.3))))
      const gain = f32x4.mul(keep, f32x4.add(one, f32x4.mul(vibrance, f32x4.mul(weak, weak))))
      const a2 = f32x4.add(f32x4.mul(gain, f32x4.sub(f32x4.mul(cos, a), f32x4.mul(sin, b))), aAdd)
      const b2 = f32x4.add(f32x4.mul(gain, f32x4.add(f32x4.mul(sin, a), f32x4.mul(cos, b))), bAdd)
      const wanted = f32x4.sqrt(f32x4.add(f32x4.mul(a2, a2), f32x4.mul(b2, b2)))
      const tiny = f32x4.splat(1e-6)
      const unit = f32x4.div(one, f32x4.pmax(tiny, wanted))
      const most = f32x4.pmax(tiny, strongest(light, f32x4.mul(a2, unit), f32x4.mul(b2, unit)))
      const factor = f32x4.pmax(one, f32x4.div(f32x4.mul(keep, wanted), f32x4.pmax(tiny, chroma)))
      const share = f32x4.pmin(one, f32x4.div(wanted, f32x4.mul(factor, most)))
      const given = f32x4.div(f32x4.mul(f32x4.mul(factor, share), most), f32x4.add(one, f32x4.mul(f32x4.sub(factor, one), share)))
      // what is not made stronger and lies inside stays: the edge of sRGB is not convex everywhere
      const stays = v128.and(f32x4.le(factor, f32x4.splat(1.0001)), within(light, a2, b2))
      const scale = v128.bitselect(one, f32x4.mul(given, unit), stays)
      const a3 = f32x4.mul(a2, scale)
      const b3 = f32x4.mul(b2, scale)
      storeLab(dst + (<usize>x << 3), p, w - x, light, a3, b3, encode)
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * Gives each tone a colour: a table of 258 entries of four floats by lightness · 256: what is added to a and b, the lightness that becomes of it,
 * and 0; straight between them. Of the picture's own a and b the share `keep` stays. What sRGB does not have at that lightness is made as strong as
 * it has it. src and dst may be the same.
 * @rows src dst
 * @work w * h * 16
 */
export function dye(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, table: usize, keep: f32, decode: usize, encode: usize): void {
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x += 4) {
      const p = src + (<usize>x << 3)
      const r = decoded(p, decode, 0)
      const g = decoded(p, decode, 2)
      const bl = decoded(p, decode, 4)
      const l = cone(r, g, bl, 0)
      const m = cone(r, g, bl, 1)
      const s = cone(r, g, bl, 2)
      const place = f32x4.mul(f32x4.pmin(one, f32x4.pmax(zero, lightnessOf(l, m, s))), f32x4.splat(256))
      const e0 = betweenEntries(table, f32x4.extract_lane(place, 0))
      const e1 = betweenEntries(table, f32x4.extract_lane(place, 1))
      const e2 = betweenEntries(table, f32x4.extract_lane(place, 2))
      const e3 = betweenEntries(table, f32x4.extract_lane(place, 3))
      // entries' fields into lanes
      const p01 = i32x4.shuffle(e0, e1, 0, 4, 1, 5)
      const p23 = i32x4.shuffle(e2, e3, 0, 4, 1, 5)
      const a = f32x4.add(f32x4.mul(greenRedOf(l, m, s), f32x4.splat(keep)), i32x4.shuffle(p01, p23, 0, 1, 4, 5))
      const b = f32x4.add(f32x4.mul(blueYellowOf(l, m, s), f32x4.splat(keep)), i32x4.shuffle(p01, p23, 2, 3, 6, 7))
      const light = i32x4.shuffle(i32x4.shuffle(e0, e1, 2, 6, 3, 7), i32x4.shuffle(e2, e3, 2, 6, 3, 7), 0, 1, 4, 5)
      const wanted = f32x4.sqrt(f32x4.add(f32x4.mul(a, a), f32x4.mul(b, b)))
      const unit = f32x4.div(one, f32x4.pmax(f32x4.splat(1e-6), wanted))
      const given = f32x4.mul(f32x4.pmin(wanted, strongest(light, f32x4.mul(a, unit), f32x4.mul(b, unit))), unit)
      // what lies inside stays: the edge of sRGB is not convex everywhere
      const scale = v128.bitselect(one, given, within(light, a, b))
      storeLab(dst + (<usize>x << 3), p, w - x, light, f32x4.mul(a, scale), f32x4.mul(b, scale), encode)
    }
    src += srcStride
    dst += dstStride
  }
}

// @ts-ignore: decorator
@inline
function betweenEntries(table: usize, place: f32): v128 {
  const i = <usize>place
  const at = table + (i << 4)
  const low = v128.load(at)
  return f32x4.add(low, f32x4.mul(f32x4.sub(v128.load(at, 16), low), f32x4.splat(place - <f32>i)))
}

/**
 * Multiplies the grey in dst by a factor that goes by the hue src has there, as far as it has one: a table of 4096 floats by the angle of
 * (a, b) as in hueShift, factors of a full colour.
 * @rows src dst
 */
export function greyByHue(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, table: usize, decode: usize): void {
  const one = f32x4.splat(1)
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x += 4) {
      const p = src + (<usize>x << 3)
      const r = decoded(p, decode, 0)
      const g = decoded(p, decode, 2)
      const bl = decoded(p, decode, 4)
      const l = cone(r, g, bl, 0)
      const m = cone(r, g, bl, 1)
      const s = cone(r, g, bl, 2)
      const a = greenRedOf(l, m, s)
      const b = blueYellowOf(l, m, s)
      const chroma = f32x4.sqrt(f32x4.add(f32x4.mul(a, a), f32x4.mul(b, b)))
      const at = entryOf(a, b)
      const e = f32x4(
        load<f32>(table + (<usize>i32x4.extract_lane(at, 0) << 2)),
        load<f32>(table + (<usize>i32x4.extract_lane(at, 1) << 2)),
        load<f32>(table + (<usize>i32x4.extract_lane(at, 2) << 2)),
        load<f32>(table + (<usize>i32x4.extract_lane(at, 3) << 2)),
      )
      const full = f32x4.pmin(one, f32x4.mul(chroma, f32x4.splat(8)))
      const k = f32x4.add(one, f32x4.mul(f32x4.sub(e, one), full))
      const q = dst + (<usize>x << 3)
      const n = w - x
      toned(q, f32x4.extract_lane(k, 0))
      if (n > 1) toned(q + 8, f32x4.extract_lane(k, 1))
      if (n > 2) toned(q + 16, f32x4.extract_lane(k, 2))
      if (n > 3) toned(q + 24, f32x4.extract_lane(k, 3))
    }
    src += srcStride
    dst += dstStride
  }
}

// @ts-ignore: decorator
@inline
function toned(q: usize, k: f32): void {
  const v = <u64>min<f32>(65535, max<f32>(0, <f32>load<u16>(q) * k + 0.5))
  store<u64>(q, v | (v << 16) | (v << 32) | (load<u64>(q) & 0xffff000000000000))
}
