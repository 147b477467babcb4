// Light over surfaces: canvas, laid paper, cold-pressed paper, board. Heights are functions of the place on the sheet.
import { noise } from './noise'
import { loadPixel, storePixel, withAlpha } from './simd'
import { flat, surface, times } from './surfaces'

/** A wave 0…1 with period 2 that is 1 at even numbers: by a smooth polynomial. */
// @ts-ignore: decorator
@inline
function swing(t: v128): v128 {
  const d = f32x4.abs(f32x4.sub(t, times(f32x4.nearest(times(t, 0.5)), 2)))
  return f32x4.sub(flat(1), f32x4.mul(f32x4.mul(d, d), f32x4.sub(flat(3), times(d, 2))))
}

/** A thread's round: 1 in its middle, 0 beyond its half width k; d from the middle. */
// @ts-ignore: decorator
@inline
function round(d: v128, k: v128): v128 {
  return f32x4.pmax(flat(0), f32x4.sub(flat(1), f32x4.div(f32x4.mul(d, d), f32x4.mul(k, k))))
}

/** The height 0…1 of a surface at four places: of kind 0 canvas, 1 laid, 2 cold-pressed, 3 board, as they were first; from 4 on as in `surface`. In units of its pitch. */
export function heights(kind: i32, u: v128, v: v128, seed: i32): v128 {
  if (kind >= 4) return surface(kind - 4, u, v, seed)
  if (kind >= 2) {
    // turned against the pixels, octaves against each other
    const a = f32x4.add(f32x4.mul(u, f32x4.splat(0.8480481)), f32x4.mul(v, f32x4.splat(0.5299192)))
    const b = f32x4.sub(f32x4.mul(v, f32x4.splat(0.8480481)), f32x4.mul(u, f32x4.splat(0.5299192)))
    const a2 = f32x4.add(f32x4.mul(a, f32x4.splat(1.61)), f32x4.mul(b, f32x4.splat(1.17)))
    const b2 = f32x4.sub(f32x4.mul(b, f32x4.splat(1.61)), f32x4.mul(a, f32x4.splat(1.17)))
    const n1 = noise(a, b, seed)
    const n2 = noise(a2, b2, seed ^ 0x5f356495)
    const a3 = f32x4.sub(f32x4.mul(a2, f32x4.splat(1.83)), f32x4.mul(b2, f32x4.splat(0.9)))
    const b3 = f32x4.add(f32x4.mul(b2, f32x4.splat(1.83)), f32x4.mul(a2, f32x4.splat(0.9)))
    const fine = noise(a3, b3, seed ^ 0x1f83d9ab)
    if (kind == 2) {
      // pressed by felt: soft hills close together, the hollows between them rounded, a little fibre on both
      const m = f32x4.add(f32x4.mul(n1, f32x4.splat(0.56)), f32x4.mul(n2, f32x4.splat(0.44)))
      const t = f32x4.pmin(f32x4.splat(1), f32x4.mul(m, f32x4.splat(1.22)))
      return f32x4.add(f32x4.mul(f32x4.mul(t, f32x4.sub(f32x4.splat(2), t)), f32x4.splat(0.92)), f32x4.mul(fine, f32x4.splat(0.1)))
    }
    return f32x4.add(f32x4.add(f32x4.mul(n1, f32x4.splat(0.3)), f32x4.mul(n2, f32x4.splat(0.4))), f32x4.mul(fine, f32x4.splat(0.3)))
  }
  return kind == 1 ? laid(u, v, seed) : woven(u, v, seed)
}

/** Laid paper: lines close together, chain lines across them at every twenty-fifth, fibres. */
// @ts-ignore: decorator
@inline
function laid(u: v128, v: v128, seed: i32): v128 {
  const line = f32x4.add(v, times(noise(times(u, 0.04), times(v, 0.31), seed), 0.9))
  const d = times(f32x4.abs(f32x4.sub(line, f32x4.nearest(line))), 2)
  const chain = times(f32x4.add(u, times(noise(times(u, 0.02), times(v, 0.03), seed ^ 0x2b), 2)), 0.04)
  const e = f32x4.pmin(flat(1), times(f32x4.abs(f32x4.sub(chain, f32x4.nearest(chain))), 14))
  const rib = f32x4.sub(flat(1), f32x4.mul(f32x4.mul(d, d), f32x4.sub(flat(3), times(d, 2))))
  const near = f32x4.sub(flat(1), f32x4.mul(e, e))
  const uneven = f32x4.add(flat(0.65), times(noise(times(u, 0.2), v, seed ^ 0x77), 0.35))
  const fibre = times(noise(times(u, 1.9), times(v, 1.9), seed ^ 0x3d), 0.25)
  return f32x4.add(f32x4.add(times(f32x4.mul(rib, uneven), 0.7), times(f32x4.mul(near, near), 0.7)), fibre)
}

/** Plain weave: threads wander and vary in thickness. */
// @ts-ignore: decorator
@inline
function woven(u: v128, v: v128, seed: i32): v128 {
  const half = flat(0.5)
  const wu = f32x4.add(u, times(f32x4.sub(noise(times(u, 0.13), times(v, 0.07), seed), half), 1.1))
  const wv = f32x4.add(v, times(f32x4.sub(noise(times(u, 0.07), times(v, 0.13), seed ^ 0x51), half), 1.1))
  const iu = f32x4.floor(wu)
  const iv = f32x4.floor(wv)
  // each thread has a thickness of its own, which changes along it
  const ku = f32x4.add(flat(0.72), times(noise(times(iu, 3.7), times(wv, 0.11), seed ^ 0x1234), 0.28))
  const kv = f32x4.add(flat(0.72), times(noise(times(wu, 0.11), times(iv, 3.7), seed ^ 0x4321), 0.28))
  const tu = round(f32x4.sub(times(f32x4.sub(wu, iu), 2), flat(1)), ku)
  const tv = round(f32x4.sub(times(f32x4.sub(wv, iv), 2), flat(1)), kv)
  // over and under in turn
  const warp = f32x4.mul(tu, f32x4.add(flat(0.25), times(swing(f32x4.add(f32x4.sub(wv, half), iu)), 0.75)))
  const weft = f32x4.mul(tv, f32x4.add(flat(0.25), times(swing(f32x4.add(f32x4.sub(wu, half), f32x4.add(iv, flat(1)))), 0.75)))
  const fibre = times(noise(times(wu, 6), times(wv, 6), seed ^ 0x99), 0.1)
  return f32x4.add(f32x4.pmax(warp, weft), fibre)
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

/** What of the light comes from all sides. */
const ROOM: f32 = 0.3

/** The height of a repeating plane at a place, in its own pixels, between the middles of four. */
// @ts-ignore: decorator
@inline
function heightAt(plane: usize, pw: i32, ph: i32, u: f32, v: f32): f32 {
  const fu = floor<f32>(u)
  const fv = floor<f32>(v)
  const tu = u - fu
  const tv = v - fv
  let x = <i32>fu % pw
  let y = <i32>fv % ph
  if (x < 0) x += pw
  if (y < 0) y += ph
  const x1 = x + 1 == pw ? 0 : x + 1
  const y1 = y + 1 == ph ? 0 : y + 1
  const a = load<f32>(plane + (<usize>(y * pw + x) << 2))
  const b = load<f32>(plane + (<usize>(y * pw + x1) << 2))
  const c = load<f32>(plane + (<usize>(y1 * pw + x) << 2))
  const d = load<f32>(plane + (<usize>(y1 * pw + x1) << 2))
  const top = a + (b - a) * tu
  return top + (c + (d - c) * tu - top) * tv
}

/**
 * As relief, with the heights of a plane of pw × ph floats that repeats without end. `step`: pixels of the plane to a pixel of the picture; `depth`:
 * slope for a height of 1 from one pixel of the plane to the next.
 * @rows src dst +y0
 * @work w * h * 12
 */
export function reliefOf(
  src: usize,
  srcStride: i32,
  dst: usize,
  dstStride: i32,
  w: i32,
  h: i32,
  x0: i32,
  y0: i32,
  step: f32,
  plane: usize,
  pw: i32,
  ph: i32,
  depth: f32,
  lx: f32,
  ly: f32,
  lz: f32,
): void {
  // over at least a pixel of the plane and of the picture
  const e: f32 = max<f32>(1, step) * 0.5
  const k: f32 = depth / (2 * e)
  for (let y = 0; y < h; y++) {
    const v: f32 = (<f32>(y0 + y) + 0.5) * step - 0.5
    for (let x = 0; x < w; x++) {
      const u: f32 = (<f32>(x0 + x) + 0.5) * step - 0.5
      const dx: f32 = (heightAt(plane, pw, ph, u + e, v) - heightAt(plane, pw, ph, u - e, v)) * k
      const dy: f32 = (heightAt(plane, pw, ph, u, v + e) - heightAt(plane, pw, ph, u, v - e)) * k
      const lit: f32 = (lz - dx * lx - dy * ly) / sqrt<f32>(1 + dx * dx + dy * dy)
      shaded(src, dst, <usize>x, lit > 0 ? lit / lz : 0)
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
  // a slope that turns away still has the light of the room
  if (shade <= 1) v = f32x4.mul(c, f32x4.splat(ROOM + (1 - ROOM) * shade))
  else {
    // what catches the light goes towards white, never beyond; black paint stays black
    const t: f32 = 1 - 1 / (1 + (shade - 1) * 1.2)
    v = f32x4.add(c, f32x4.mul(f32x4.mul(f32x4.splat(t), c), f32x4.sub(f32x4.splat(1), c)))
  }
  storePixel(dst + (x << 3), withAlpha(v, c))
}

/** Codes of a height of one full-size pixel. */
const HEIGHT: f32 = 65535 / 128

// @ts-ignore: decorator
@inline
function raised(src: usize, dst: usize, x: usize, by: f32): void {
  const grey = <f32>load<u16>(src + (x << 3)) + by * HEIGHT
  const code = <u64>max<f32>(0, min<f32>(65535, nearest<f32>(grey)))
  store<u64>(dst + (x << 3), code | (code << 16) | (code << 32) | ((<u64>load<u16>(src + (x << 3), 6)) << 48))
}

/**
 * Adds the height of a surface (kinds as in relief) to a grey picture of heights. `high`: full-size pixels from its lowest to its highest; its middle
 * adds nothing.
 * @rows src dst +y0
 * @work w * h * 4
 */
export function raise(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, x0: i32, y0: i32, k: f32, kind: i32, high: f32, seed: i32): void {
  const lanes = f32x4(0.5, 1.5, 2.5, 3.5)
  const kk = f32x4.splat(k)
  for (let y = 0; y < h; y++) {
    const v = f32x4.mul(f32x4.splat(<f32>(y0 + y) + 0.5), kk)
    for (let x = 0; x < w; x += 4) {
      const u = f32x4.mul(f32x4.add(f32x4.splat(<f32>(x0 + x)), lanes), kk)
      const by = f32x4.mul(f32x4.sub(heights(kind, u, v, seed), f32x4.splat(0.5)), f32x4.splat(high))
      const left = w - x
      raised(src, dst, <usize>x, f32x4.extract_lane(by, 0))
      if (left > 1) raised(src, dst, <usize>x + 1, f32x4.extract_lane(by, 1))
      if (left > 2) raised(src, dst, <usize>x + 2, f32x4.extract_lane(by, 2))
      if (left > 3) raised(src, dst, <usize>x + 3, f32x4.extract_lane(by, 3))
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * The same with the heights of a plane of pw × ph floats that repeats without end. `step`: pixels of the plane to a pixel of the picture; `high`:
 * full-size pixels to a height of 1.
 * @rows src dst +y0
 * @work w * h * 6
 */
export function raiseBy(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, x0: i32, y0: i32, step: f32, plane: usize, pw: i32, ph: i32, high: f32): void {
  for (let y = 0; y < h; y++) {
    const v: f32 = (<f32>(y0 + y) + 0.5) * step - 0.5
    for (let x = 0; x < w; x++) raised(src, dst, <usize>x, heightAt(plane, pw, ph, (<f32>(x0 + x) + 0.5) * step - 0.5, v) * high)
    src += srcStride
    dst += dstStride
  }
}

// @ts-ignore: decorator
@inline
function heightOf(p: usize): f32 {
  // what does not cover lies flat
  const alpha = <f32>load<u16>(p, 6) / 65535
  return (<f32>load<u16>(p) - 32768) * alpha
}

/**
 * Lights a picture by a grey picture of heights, which has a pixel more on each side: src is the picture's first pixel, heights that one's neighbour above
 * to the left. `k`: slope to a difference of one code over two pixels; the light as in relief. A flat place keeps its colour.
 * @rows src dst heights
 * @work w * h * 3
 */
export function lightHeights(src: usize, srcStride: i32, heights: usize, heightsStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, k: f32, lx: f32, ly: f32, lz: f32): void {
  for (let y = 0; y < h; y++) {
    const above = heights + 8
    const here = heights + <usize>heightsStride
    const under = heights + <usize>(2 * heightsStride) + 8
    for (let x = 0; x < w; x++) {
      const i = <usize>x << 3
      const dx: f32 = (heightOf(here + i + 16) - heightOf(here + i)) * k
      const dy: f32 = (heightOf(under + i) - heightOf(above + i)) * k
      if (dx == 0 && dy == 0) {
        store<u64>(dst + i, load<u64>(src + i))
        continue
      }
      const lit: f32 = (lz - dx * lx - dy * ly) / sqrt<f32>(1 + dx * dx + dy * dy)
      shaded(src, dst, <usize>x, lit > 0 ? lit / lz : 0)
    }
    heights += heightsStride
    src += srcStride
    dst += dstStride
  }
}
