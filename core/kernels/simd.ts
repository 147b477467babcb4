// One RGBA16 pixel as four floats, and back. 0…65535 maps to 0…1 exactly at both ends.

// @ts-ignore: decorator
@inline
export function loadPixel(p: usize): v128 {
  return f32x4.div(f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(v128.load64_zero(p))), f32x4.splat(65535))
}

/** Rounds to nearest and clamps to 0…65535. */
// @ts-ignore: decorator
@inline
export function storePixel(p: usize, c: v128): void {
  const scaled = f32x4.add(f32x4.mul(c, f32x4.splat(65535)), f32x4.splat(0.5))
  const wide = i32x4.trunc_sat_f32x4_s(scaled)
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
