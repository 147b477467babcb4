// Dry pigment on a toothed paper: colour catches on the peaks first and reaches the valleys as it is pressed harder.
// The height of the paper and the pressure of the hand are seeded noise fixed in artwork coordinates.
import { alphasOf, bluesOf, codesOf, greensOf, redsOf, storeFour } from './four'
import { noise } from './noise'

/**
 * Spreads the paper's two octaves of noise out to an even 0…1: their distribution function, fitted by an odd polynomial to
 * within 0.003, so that each tone finds its share of the peaks.
 */
// @ts-ignore: decorator
@inline
function evenPaper(n: v128): v128 {
  const z = f32x4.sub(n, f32x4.splat(0.5))
  const w = f32x4.mul(z, z)
  let p = f32x4.add(f32x4.mul(w, f32x4.splat(181.33363)), f32x4.splat(-136.35615))
  p = f32x4.add(f32x4.mul(w, p), f32x4.splat(49.64488))
  p = f32x4.add(f32x4.mul(w, p), f32x4.splat(-12.035446))
  p = f32x4.add(f32x4.mul(w, p), f32x4.splat(2.3378654))
  return f32x4.add(f32x4.mul(z, p), f32x4.splat(0.5))
}

/** The same for one octave. */
// @ts-ignore: decorator
@inline
function evenPress(n: v128): v128 {
  const z = f32x4.sub(n, f32x4.splat(0.5))
  const w = f32x4.mul(z, z)
  const p = f32x4.add(f32x4.mul(w, f32x4.splat(0.7994521)), f32x4.splat(-2.1731813))
  return f32x4.add(f32x4.mul(z, f32x4.add(f32x4.mul(w, p), f32x4.splat(1.4975339))), f32x4.splat(0.5))
}

/** How deep the paper lies at four places: 0 its peaks, which take pigment first. */
// @ts-ignore: decorator
@inline
export function depthAt(xs: v128, ys: v128, pitch: f32, seed: i32): v128 {
  // two octaves, both turned against the pixels and the second against the first, so that no lattice shows
  const u = f32x4.mul(f32x4.add(f32x4.mul(xs, f32x4.splat(0.8829476)), f32x4.mul(ys, f32x4.splat(0.4694716))), f32x4.splat(pitch))
  const v = f32x4.mul(f32x4.sub(f32x4.mul(ys, f32x4.splat(0.8829476)), f32x4.mul(xs, f32x4.splat(0.4694716))), f32x4.splat(pitch))
  const u2 = f32x4.add(f32x4.mul(u, f32x4.splat(1.48)), f32x4.mul(v, f32x4.splat(1.09)))
  const v2 = f32x4.sub(f32x4.mul(v, f32x4.splat(1.48)), f32x4.mul(u, f32x4.splat(1.09)))
  const paper = f32x4.add(f32x4.mul(noise(u, v, seed), f32x4.splat(0.55)), f32x4.mul(noise(u2, v2, seed ^ 0x51ed270b), f32x4.splat(0.45)))
  // neither as low as bare paper nor as high as solid black
  return i32x4.max_s(i32x4.min_s(evenPaper(paper), f32x4.splat(0.999)), f32x4.splat(0.001))
}

/**
 * The heights of the same paper by themselves, as codes: 65535 its peaks.
 * @param pitch 1 / distance of the tooth's peaks, at full size
 */
export function toothHeights(dst: usize, dstStride: i32, w: i32, h: i32, x0: i32, y0: i32, pitch: f32, seed: i32): void {
  const lanes = f32x4(0.5, 1.5, 2.5, 3.5)
  for (let y = 0; y < h; y++) {
    const ys = f32x4.splat(<f32>(y0 + y) + 0.5)
    for (let x = 0; x < w; x++) {
      if (x & 3) continue
      const xs = f32x4.add(f32x4.splat(<f32>(x0 + x)), lanes)
      const height = f32x4.mul(f32x4.sub(f32x4.splat(1), depthAt(xs, ys, pitch, seed)), f32x4.splat(65535))
      const at = dst + (<usize>x << 1)
      store<u16>(at, <u16>f32x4.extract_lane(height, 0))
      if (x + 1 < w) store<u16>(at, <u16>f32x4.extract_lane(height, 1), 2)
      if (x + 2 < w) store<u16>(at, <u16>f32x4.extract_lane(height, 2), 4)
      if (x + 3 < w) store<u16>(at, <u16>f32x4.extract_lane(height, 3), 6)
    }
    dst += dstStride
  }
}

/** Pigment laid for a tone t where the paper has this height. */
// @ts-ignore: decorator
@inline
function laid(t: v128, height: v128, press: v128, strength: v128, soft: v128): v128 {
  const one = f32x4.splat(1)
  // tones lie in 0…1: their bits are in the order of their values, and whole numbers compare in one instruction
  t = f32x4.mul(t, f32x4.add(one, f32x4.mul(press, f32x4.sub(one, t))))
  // the soft edge narrows towards bare paper and solid tone, so that the mean over the paper stays the tone
  const rest = f32x4.sub(one, t)
  const least = i32x4.min_s(t, rest)
  const edge = i32x4.max_s(i32x4.min_s(soft, f32x4.add(least, least)), f32x4.splat(1e-6))
  const d = f32x4.add(f32x4.div(f32x4.sub(t, height), edge), f32x4.splat(0.5))
  const held = i32x4.min_s(i32x4.max_s(d, i32x4.splat(0)), one)
  return f32x4.add(t, f32x4.mul(strength, f32x4.sub(held, t)))
}

/**
 * The same with soft shoulders: a light touch greys the hills alone, evenly to where it ends, and only a pressed lead makes them black; the valleys fill as it goes
 * darker. Over the paper the mean stays the tone: a slope of height m that ends after a share e of the heights holds m e / 2.
 */
// @ts-ignore: decorator
@inline
export function shouldered(t: v128, height: v128, press: v128, strength: v128, soft: v128): v128 {
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  t = f32x4.mul(t, f32x4.add(one, f32x4.mul(press, f32x4.sub(one, t))))
  // darker than half: the same, turned round, of what stays white in the valleys
  const dark = f32x4.gt(t, f32x4.splat(0.5))
  const less = v128.bitselect(f32x4.sub(one, t), t, dark)
  const deep = v128.bitselect(f32x4.sub(one, height), height, dark)
  const twice = f32x4.add(less, less)
  const ends = f32x4.max(f32x4.max(soft, twice), f32x4.splat(1e-6))
  const most = f32x4.div(twice, ends)
  const held = f32x4.mul(most, f32x4.max(zero, f32x4.sub(one, f32x4.div(deep, ends))))
  const laid = v128.bitselect(f32x4.sub(one, held), held, dark)
  return f32x4.add(t, f32x4.mul(strength, f32x4.sub(laid, t)))
}

// @ts-ignore: decorator
@inline
function laidBy(shoulder: bool, t: v128, height: v128, press: v128, strength: v128, soft: v128): v128 {
  return shoulder ? shouldered(t, height, press, strength, soft) : laid(t, height, press, strength, soft)
}

/**
 * @param x0,y0 place of the first pixel at this level; scale artwork pixels a pixel.
 * @param pitch 1 / distance of the tooth's peaks; strength 0…1 how much the tooth breaks the tone; soft 0…1 width of a
 *   grain's edge; pressure 0…1 unevenness of the hand along strokes of direction (cos, sin), 1/length and 1/width.
 * @param sub samples a pixel in each direction; shoulder 1: with soft shoulders (soft is then how far down from the hills a light touch reaches).
 * @param ranks how deep the paper lies (red, 0 its peaks) and how much of a surface there is (green), where it is not this kernel's own; or 0. One sample a
 *   pixel then.
 * @rows src dst ranks +y0
 * @scratch (w + 3) * 12
 */
export function tooth(
  src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, x0: i32, y0: i32, scale: f32,
  pitch: f32, strength: f32, soft: f32, pressure: f32, cos: f32, sin: f32, length: f32, width: f32,
  seed: i32, sub: i32, shoulder: i32, ranks: usize, ranksStride: i32, scratch: usize,
): void {
  const lanes = f32x4(0, 1, 2, 3)
  const one = f32x4.splat(1)
  const half = f32x4.splat(0.5)
  const stepSub: f32 = <f32>1 / <f32>sub
  const share = f32x4.splat(stepSub * stepSub)
  const vStrength = f32x4.splat(strength)
  const vSoft = f32x4.splat(soft)
  const vPressure = f32x4.splat(pressure * 2)
  // running means of three channels, a plane each
  const plane = <usize>(w + 3) << 2
  for (let y = 0; y < h; y++) {
    for (let s = 0; s < sub * sub; s++) {
      const py = (<f32>(y0 + y) + (<f32>(s / sub) + 0.5) * stepSub) * scale
      const dx = (<f32>(s % sub) + 0.5) * stepSub
      const ys = f32x4.splat(py)
      for (let x = 0; x < w; x += 4) {
        const xs = f32x4.mul(f32x4.add(f32x4.add(f32x4.splat(<f32>(x0 + x)), lanes), f32x4.splat(dx)), f32x4.splat(scale))
        let height: v128
        let catches = vStrength
        if (ranks == 0) height = depthAt(xs, ys, pitch, seed)
        else {
          const q = ranks + (<usize>x << 3)
          const found = codesOf(v128.load(q), v128.load(q, 16), false)
          // neither as low as bare paper nor as high as solid black
          height = f32x4.max(f32x4.min(redsOf(found), f32x4.splat(0.999)), f32x4.splat(0.001))
          catches = f32x4.mul(vStrength, greensOf(found))
        }
        let press = f32x4.splat(0)
        if (pressure > 0) {
          const along = f32x4.mul(f32x4.add(f32x4.mul(xs, f32x4.splat(cos)), f32x4.mul(ys, f32x4.splat(sin))), f32x4.splat(length))
          const across = f32x4.mul(f32x4.sub(f32x4.mul(ys, f32x4.splat(cos)), f32x4.mul(xs, f32x4.splat(sin))), f32x4.splat(width))
          press = f32x4.mul(vPressure, f32x4.sub(evenPress(noise(along, across, seed ^ 0x2545f491)), half))
        }
        const p = src + (<usize>x << 3)
        const rg = codesOf(v128.load(p), v128.load(p, 16), false)
        const ba = codesOf(v128.load(p), v128.load(p, 16), true)
        const r = f32x4.sub(one, redsOf(rg))
        const g = f32x4.sub(one, greensOf(rg))
        const b = f32x4.sub(one, bluesOf(ba))
        let lr = laidBy(shoulder != 0, r, height, press, catches, vSoft)
        let lg = lr
        let lb = lr
        // drawings are mostly grey
        if (!i32x4.all_true(v128.and(i32x4.eq(r, g), i32x4.eq(r, b)))) {
          lg = laidBy(shoulder != 0, g, height, press, catches, vSoft)
          lb = laidBy(shoulder != 0, b, height, press, catches, vSoft)
        }
        if (sub > 1) {
          const acc = scratch + (<usize>x << 2)
          if (s > 0) {
            lr = f32x4.add(v128.load(acc), lr)
            lg = f32x4.add(v128.load(acc + plane), lg)
            lb = f32x4.add(v128.load(acc + plane * 2), lb)
          }
          if (s < sub * sub - 1) {
            // the last group of one plane runs into the next: only its own pixels count
            const n = w - x
            keep(acc, lr, n)
            keep(acc + plane, lg, n)
            keep(acc + plane * 2, lb, n)
            continue
          }
          lr = f32x4.mul(lr, share)
          lg = f32x4.mul(lg, share)
          lb = f32x4.mul(lb, share)
        }
        storeFour(dst + (<usize>x << 3), f32x4.sub(one, lr), f32x4.sub(one, lg), f32x4.sub(one, lb), alphasOf(ba), w - x)
      }
    }
    src += srcStride
    dst += dstStride
    ranks += ranksStride
  }
}

/** Stores the first n of four floats. */
// @ts-ignore: decorator
@inline
function keep(p: usize, v: v128, n: i32): void {
  if (n >= 4) v128.store(p, v)
  else {
    v128.store32_lane(p, v, 0)
    if (n > 1) v128.store32_lane(p, v, 1, 4)
    if (n > 2) v128.store32_lane(p, v, 2, 8)
  }
}
