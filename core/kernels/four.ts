// Four RGBA16 pixels with their channels apart, as floats 0…1, and back. Loads may read up to three pixels past the end of
// a row: the allocator leaves room behind every block. Stores never write past it.

/** Codes of two channels of four pixels, eight of 16 bits: reds then greens, or blues then alphas. */
// @ts-ignore: decorator
@inline
export function codesOf(p01: v128, p23: v128, blueAlpha: bool): v128 {
  return blueAlpha ? i16x8.shuffle(p01, p23, 2, 6, 10, 14, 3, 7, 11, 15) : i16x8.shuffle(p01, p23, 0, 4, 8, 12, 1, 5, 9, 13)
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

/** 0…1 to 0…65535, rounded (halves to even), clamped. */
// @ts-ignore: decorator
@inline
function coded(c: v128): v128 {
  const held = f32x4.pmax(f32x4.splat(0), f32x4.pmin(f32x4.splat(65535), f32x4.mul(c, f32x4.splat(65535))))
  return i32x4.sub(f32x4.add(held, f32x4.splat(8388608)), i32x4.splat(0x4b000000))
}

/** Stores the first n of four pixels. */
// @ts-ignore: decorator
@inline
export function storeFour(p: usize, r: v128, g: v128, b: v128, a: v128, n: i32): void {
  const rg = i16x8.narrow_i32x4_u(coded(r), coded(g))
  const ba = i16x8.narrow_i32x4_u(coded(b), coded(a))
  const p01 = i16x8.shuffle(rg, ba, 0, 4, 8, 12, 1, 5, 9, 13)
  const p23 = i16x8.shuffle(rg, ba, 2, 6, 10, 14, 3, 7, 11, 15)
  if (n >= 4) {
    v128.store(p, p01)
    v128.store(p, p23, 16)
    return
  }
  v128.store64_lane(p, p01, 0)
  if (n > 1) v128.store64_lane(p, p01, 1, 8)
  if (n > 2) v128.store64_lane(p, p23, 0, 16)
}
