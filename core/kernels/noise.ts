// Seeded value noise, fixed in artwork coordinates: the same wherever a region begins.

/** Stirs a lattice point's number to 0…1. */
// @ts-ignore: decorator
@inline
export function stir(h: v128): v128 {
  h = i32x4.mul(v128.xor(h, i32x4.shr_u(h, 15)), i32x4.splat(0x2c1b3c6d))
  h = v128.xor(h, i32x4.shr_u(h, 13))
  return f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_u(h, 8)), f32x4.splat(5.9604645e-8))
}

// @ts-ignore: decorator
@inline
export function lerp(a: v128, b: v128, t: v128): v128 {
  return f32x4.add(a, f32x4.mul(t, f32x4.sub(b, a)))
}

// @ts-ignore: decorator
@inline
function ease(t: v128): v128 {
  // 6t⁵ − 15t⁴ + 10t³
  const a = f32x4.sub(f32x4.mul(t, f32x4.splat(6)), f32x4.splat(15))
  const b = f32x4.add(f32x4.mul(t, a), f32x4.splat(10))
  return f32x4.mul(f32x4.mul(f32x4.mul(t, t), t), b)
}

/** Value noise 0…1 at four places, none further than 2²² cells from 0. */
// @ts-ignore: decorator
@inline
export function noise(x: v128, y: v128, seed: i32): v128 {
  const fx = f32x4.floor(x)
  const fy = f32x4.floor(y)
  // adding 1.5 · 2²³ leaves the whole number in the low bits: a conversion of one instruction
  const magic = f32x4.splat(12582912)
  const ix = i32x4.mul(f32x4.add(fx, magic), i32x4.splat(0x27d4eb2d))
  const iy = i32x4.add(i32x4.mul(f32x4.add(fy, magic), i32x4.splat(0x165667b1)), i32x4.splat(seed))
  const a = i32x4.add(ix, iy)
  const b = i32x4.add(a, i32x4.splat(0x27d4eb2d))
  const down = i32x4.splat(0x165667b1)
  const tx = ease(f32x4.sub(x, fx))
  const ty = ease(f32x4.sub(y, fy))
  return lerp(lerp(stir(a), stir(b), tx), lerp(stir(i32x4.add(a, down)), stir(i32x4.add(b, down)), tx), ty)
}
