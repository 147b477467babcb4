// Light over surfaces: canvas, laid paper, cold-pressed paper, board. Heights are functions of the place on the sheet.
import { noise } from './noise'
import { loadPixel, storePixel, withAlpha } from './simd'

// @ts-ignore: decorator
@inline
function one(x: f32, y: f32, seed: i32): f32 {
  return f32x4.extract_lane(noise(f32x4.splat(x), f32x4.splat(y), seed), 0)
}

/** A wave 0…1 with period 2 that is 1 at even numbers: by a smooth polynomial. */
// @ts-ignore: decorator
@inline
function swing(t: f32): f32 {
  const d = abs<f32>(t - nearest<f32>(t * 0.5) * 2)
  return 1 - d * d * (3 - 2 * d)
}

/** The height 0…1 of a surface at four places: of kind 0 canvas, 1 laid, 2 cold-pressed, 3 board; in units of its pitch. */
function heights(kind: i32, u: v128, v: v128, seed: i32): v128 {
  if (kind >= 2) {
    // turned against the pixels, octaves against each other
    const a = f32x4.add(f32x4.mul(u, f32x4.splat(0.8480481)), f32x4.mul(v, f32x4.splat(0.5299192)))
    const b = f32x4.sub(f32x4.mul(v, f32x4.splat(0.8480481)), f32x4.mul(u, f32x4.splat(0.5299192)))
    const a2 = f32x4.add(f32x4.mul(a, f32x4.splat(1.61)), f32x4.mul(b, f32x4.splat(1.17)))
    const b2 = f32x4.sub(f32x4.mul(b, f32x4.splat(1.61)), f32x4.mul(a, f32x4.splat(1.17)))
    const n1 = noise(a, b, seed)
    const n2 = noise(a2, b2, seed ^ 0x5f356495)
    if (kind == 2) {
      // pressed by felt: rounded hollows between flat tops
      const m = f32x4.add(f32x4.mul(n1, f32x4.splat(0.68)), f32x4.mul(n2, f32x4.splat(0.32)))
      const t = f32x4.pmin(f32x4.splat(1), f32x4.mul(m, f32x4.splat(1.55)))
      return f32x4.mul(t, f32x4.sub(f32x4.splat(2), t))
    }
    const a3 = f32x4.sub(f32x4.mul(a2, f32x4.splat(1.83)), f32x4.mul(b2, f32x4.splat(0.9)))
    const b3 = f32x4.add(f32x4.mul(b2, f32x4.splat(1.83)), f32x4.mul(a2, f32x4.splat(0.9)))
    const fine = noise(a3, b3, seed ^ 0x1f83d9ab)
    return f32x4.add(f32x4.add(f32x4.mul(n1, f32x4.splat(0.3)), f32x4.mul(n2, f32x4.splat(0.4))), f32x4.mul(fine, f32x4.splat(0.3)))
  }
  const h0 = woven(kind, f32x4.extract_lane(u, 0), f32x4.extract_lane(v, 0), seed)
  const h1 = woven(kind, f32x4.extract_lane(u, 1), f32x4.extract_lane(v, 1), seed)
  const h2 = woven(kind, f32x4.extract_lane(u, 2), f32x4.extract_lane(v, 2), seed)
  const h3 = woven(kind, f32x4.extract_lane(u, 3), f32x4.extract_lane(v, 3), seed)
  return f32x4(h0, h1, h2, h3)
}

function woven(kind: i32, u: f32, v: f32, seed: i32): f32 {
  if (kind == 1) {
    // laid lines close together, chain lines across them at every twenty-fifth, fibres
    const wander: f32 = one(u * 0.04, v * 0.31, seed) * 0.9
    const line: f32 = v + wander
    const d: f32 = abs<f32>(line - nearest<f32>(line)) * 2
    const chain: f32 = (u + one(u * 0.02, v * 0.03, seed ^ 0x2b) * 2) * 0.04
    const e: f32 = abs<f32>(chain - nearest<f32>(chain)) * 14
    const rib: f32 = <f32>1 - d * d * (3 - 2 * d)
    const bar: f32 = e < 1 ? (1 - e * e) * (1 - e * e) * 0.7 : 0
    const uneven: f32 = 0.65 + 0.35 * one(u * 0.2, v, seed ^ 0x77)
    const fibre: f32 = one(u * 1.9, v * 1.9, seed ^ 0x3d) * 0.25
    return rib * uneven * 0.7 + bar + fibre
  }
  // plain weave: threads wander and vary in thickness
  const wu: f32 = u + (one(u * 0.13, v * 0.07, seed) - 0.5) * 1.1
  const wv: f32 = v + (one(u * 0.07, v * 0.13, seed ^ 0x51) - 0.5) * 1.1
  const iu = floor<f32>(wu)
  const iv = floor<f32>(wv)
  const du: f32 = (wu - iu) * 2 - 1
  const dv: f32 = (wv - iv) * 2 - 1
  // each thread has a thickness of its own, which changes along it
  const ku: f32 = 0.72 + 0.28 * one(iu * 3.7, wv * 0.11, seed ^ 0x1234)
  const kv: f32 = 0.72 + 0.28 * one(wu * 0.11, iv * 3.7, seed ^ 0x4321)
  const tu: f32 = max<f32>(0, 1 - (du * du) / (ku * ku))
  const tv: f32 = max<f32>(0, 1 - (dv * dv) / (kv * kv))
  // over and under in turn
  const warp: f32 = tu * (0.25 + 0.75 * swing(wv - 0.5 + iu))
  const weft: f32 = tv * (0.25 + 0.75 * swing(wu - 0.5 + iv + 1))
  const fibre: f32 = one(wu * 6, wv * 6, seed ^ 0x99) * 0.1
  return max<f32>(warp, weft) + fibre
}

/**
 * Lights a picture that lies on a surface. (x0, y0): the first pixel's place at this level; `k`: pixels of this level to the surface's pitch, inverted; `depth`: how steep
 * its slopes are; (lx, ly, lz): where the light comes from, x to the right, y down, z towards the eye, length 1. A flat place keeps its colour.
 * @rows src dst +y0
 * @work w * h * 12
 */
export function relief(
  src: usize,
  srcStride: i32,
  dst: usize,
  dstStride: i32,
  w: i32,
  h: i32,
  x0: i32,
  y0: i32,
  k: f32,
  kind: i32,
  depth: f32,
  lx: f32,
  ly: f32,
  lz: f32,
  seed: i32,
): void {
  const lanes = f32x4(0.5, 1.5, 2.5, 3.5)
  const kk = f32x4.splat(k)
  // slopes are taken over an eighth of the pitch, whatever the level
  const e = f32x4.splat(0.125)
  const slope = f32x4.splat(depth * 4)
  const one4 = f32x4.splat(1)
  const zero = f32x4.splat(0)
  const vx = f32x4.splat(lx)
  const vy = f32x4.splat(ly)
  const vz = f32x4.splat(lz)
  const flat = f32x4.splat(<f32>1 / lz)
  for (let y = 0; y < h; y++) {
    const v = f32x4.mul(f32x4.splat(<f32>(y0 + y) + 0.5), kk)
    for (let x = 0; x < w; x += 4) {
      const u = f32x4.mul(f32x4.add(f32x4.splat(<f32>(x0 + x)), lanes), kk)
      const dx = f32x4.mul(f32x4.sub(heights(kind, f32x4.add(u, e), v, seed), heights(kind, f32x4.sub(u, e), v, seed)), slope)
      const dy = f32x4.mul(f32x4.sub(heights(kind, u, f32x4.add(v, e), seed), heights(kind, u, f32x4.sub(v, e), seed)), slope)
      const n = f32x4.sqrt(f32x4.add(one4, f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy))))
      const lit = f32x4.sub(vz, f32x4.add(f32x4.mul(dx, vx), f32x4.mul(dy, vy)))
      // 1 on the flat
      const shade = f32x4.mul(f32x4.pmax(zero, f32x4.div(lit, n)), flat)
      const left = w - x
      shaded(src, dst, <usize>x, f32x4.extract_lane(shade, 0))
      if (left > 1) shaded(src, dst, <usize>x + 1, f32x4.extract_lane(shade, 1))
      if (left > 2) shaded(src, dst, <usize>x + 2, f32x4.extract_lane(shade, 2))
      if (left > 3) shaded(src, dst, <usize>x + 3, f32x4.extract_lane(shade, 3))
    }
    src += srcStride
    dst += dstStride
  }
}

// @ts-ignore: decorator
@inline
function shaded(src: usize, dst: usize, x: usize, shade: f32): void {
  const c = loadPixel(src + (x << 3))
  let v = c
  if (shade <= 1) v = f32x4.mul(c, f32x4.splat(shade))
  else {
    // what catches the light goes towards white, never beyond; black paint stays black
    const t: f32 = 1 - 1 / (1 + (shade - 1) * 1.2)
    v = f32x4.add(c, f32x4.mul(f32x4.mul(f32x4.splat(t), c), f32x4.sub(f32x4.splat(1), c)))
  }
  storePixel(dst + (x << 3), withAlpha(v, c))
}
