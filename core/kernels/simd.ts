// One RGBA16 pixel as four floats, and back. 0…65535 maps to 0…1 exactly at both ends (checked: 65535 · fl(1/65535) = 1).
// Signed conversions, pmin and pmax are single instructions; their unsigned and NaN-keeping kin are five to eight.

// @ts-ignore: decorator
@inline
export function loadPixel(p: usize): v128 {
  return f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(v128.load64_zero(p))), f32x4.splat(<f32>1 / <f32>65535))
}

/**
 * 0…1 as codes of 32 bits, rounded to nearest (halves to even). Adding 2²³ leaves the rounded number in the low bits; what lies outside comes
 * out negative or above 65535, and narrowing holds it.
 */
// @ts-ignore: decorator
@inline
export function coded(c: v128): v128 {
  return i32x4.sub(f32x4.add(f32x4.mul(c, f32x4.splat(65535)), f32x4.splat(8388608)), i32x4.splat(0x4b000000))
}

/** Stores a pixel, held to 0…65535; what is not a number becomes 65535. */
// @ts-ignore: decorator
@inline
export function storePixel(p: usize, c: v128): void {
  const wide = coded(c)
  v128.store64_lane(p, i16x8.narrow_i32x4_u(wide, wide), 0)
}

// @ts-ignore: decorator
@inline
export function alphaOf(c: v128): v128 {
  return i8x16.shuffle(c, c, 12, 13, 14, 15, 12, 13, 14, 15, 12, 13, 14, 15, 12, 13, 14, 15)
}

/** c with its alpha lane replaced by that of a. */
// @ts-ignore: decorator
@inline
export function withAlpha(c: v128, a: v128): v128 {
  return i8x16.shuffle(c, a, 0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 28, 29, 30, 31)
}

// @ts-ignore: decorator
@inline
export function premultiply(c: v128): v128 {
  return withAlpha(f32x4.mul(c, alphaOf(c)), c)
}

/** Straight colour from premultiplied; clear pixels become 0. */
// @ts-ignore: decorator
@inline
export function unpremultiply(c: v128): v128 {
  const a = alphaOf(c)
  const straight = f32x4.div(c, a)
  return withAlpha(v128.and(straight, f32x4.gt(a, f32x4.splat(0))), c)
}
