// What a plane is along a guide, between the means: He, Sun & Tang, "Guided image filtering", ECCV 2010. Planes of n floats, computed in doubles.

// @ts-ignore: decorator
@inline
function pair(p: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load64_zero(p))
}

// @ts-ignore: decorator
@inline
function put(p: usize, v: v128): void {
  v128.store64_lane(p, f32x4.demote_f64x2_zero(v), 0)
}

/** Products of two planes. An odd last value is written with one beyond it, for which there is room behind every block. */
export function productsOf(a: usize, b: usize, dst: usize, n: i32): void {
  for (let i: usize = 0; i < <usize>n << 2; i += 8) put(dst + i, f64x2.mul(pair(a + i), pair(b + i)))
}

/**
 * Slope and level of the line that best fits each window, out of the means of the guide, the plane, their product and the guide's square: slopes are written over the
 * squares, levels over the products.
 * @param even variance of the guide that counts as flat
 */
export function fitLines(guide: usize, mean: usize, products: usize, squares: usize, n: i32, even: f64): void {
  for (let i: usize = 0; i < <usize>n << 2; i += 8) {
    const m = pair(guide + i)
    const p = pair(mean + i)
    const variance = f64x2.pmax(f64x2.splat(0), f64x2.sub(pair(squares + i), f64x2.mul(m, m)))
    const slope = f64x2.div(f64x2.sub(pair(products + i), f64x2.mul(m, p)), f64x2.add(variance, f64x2.splat(even)))
    put(squares + i, slope)
    put(products + i, f64x2.sub(p, f64x2.mul(slope, m)))
  }
}

/** What lines say of a guide: slopes · guide + levels. */
export function alongLines(slopes: usize, levels: usize, guide: usize, dst: usize, n: i32): void {
  for (let i: usize = 0; i < <usize>n << 2; i += 8) put(dst + i, f64x2.add(f64x2.mul(pair(slopes + i), pair(guide + i)), pair(levels + i)))
}
