// Four RGBA16 pixels with their channels apart, as floats 0…1, and back. Loads may read up to three pixels past the end of
// a row: the allocator leaves room behind every block. Stores never write past it.
import { coded } from './simd'

// Interleaving the halves of two vectors is one instruction where other shuffles are four and a constant: so channels are
// taken apart, and put together, by two rounds of it.

// @ts-ignore: decorator
@inline
export function lows(a: v128, b: v128): v128 {
  return i16x8.shuffle(a, b, 0, 8, 1, 9, 2, 10, 3, 11)
}
// @ts-ignore: decorator
@inline
export function highs(a: v128, b: v128): v128 {
  return i16x8.shuffle(a, b, 4, 12, 5, 13, 6, 14, 7, 15)
}

/** Codes of two channels of four pixels, eight of 16 bits: reds then greens, or blues then alphas. */
// @ts-ignore: decorator
@inline
export function codesOf(p01: v128, p23: v128, blueAlpha: bool): v128 {
  const even = lows(p01, p23)
  const odd = highs(p01, p23)
  return blueAlpha ? highs(even, odd) : lows(even, odd)
}

// @ts-ignore: decorator
@inline
export function redsOf(rg: v128): v128 {
  return f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(rg)), f32x4.splat(<f32>1 / <f32>65535))
}
// @ts-ignore: decorator
@inline
export function greensOf(rg: v128): v128 {
  return f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_u(rg)), f32x4.splat(<f32>1 / <f32>65535))
}
// @ts-ignore: decorator
@inline
export function bluesOf(ba: v128): v128 {
  return redsOf(ba)
}
// @ts-ignore: decorator
@inline
export function alphasOf(ba: v128): v128 {
  return greensOf(ba)
}

/** Stores the first n of four pixels. */
// @ts-ignore: decorator
@inline
export function storeFour(p: usize, r: v128, g: v128, b: v128, a: v128, n: i32): void {
  const rg = i16x8.narrow_i32x4_u(coded(r), coded(g))
  const ba = i16x8.narrow_i32x4_u(coded(b), coded(a))
  const rb = lows(rg, ba)
  const ga = highs(rg, ba)
  const p01 = lows(rb, ga)
  const p23 = highs(rb, ga)
  if (n >= 4) {
    v128.store(p, p01)
    v128.store(p, p23, 16)
    return
  }
  v128.store64_lane(p, p01, 0)
  if (n > 1) v128.store64_lane(p, p01, 1, 8)
  if (n > 2) v128.store64_lane(p, p23, 0, 16)
}
