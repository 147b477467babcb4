// What a plane is along a guide, between the means: He, Sun & Tang, "Guided image filtering", ECCV 2010. Planes of floats, computed in doubles.

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

// the last value of an odd row stands alone

// @ts-ignore: decorator
@inline
function one(p: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load32_zero(p))
}

// @ts-ignore: decorator
@inline
function putOne(p: usize, v: v128): void {
  v128.store32_lane(p, f32x4.demote_f64x2_zero(v), 0)
}

/**
 * Products of two planes.
 * @rows a b dst
 */
export function productsOf(a: usize, aStride: i32, b: usize, bStride: i32, dst: usize, dstStride: i32, w: i32, h: i32): void {
  const pairs = <usize>(w >> 1) << 3
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < pairs; i += 8) put(dst + i, f64x2.mul(pair(a + i), pair(b + i)))
    if (w & 1) putOne(dst + pairs, f64x2.mul(one(a + pairs), one(b + pairs)))
    a += aStride
    b += bStride
    dst += dstStride
  }
}

/** Slope of a line, out of the guide's mean and that of its square, the plane's mean and that of its product with the guide. */
// @ts-ignore: decorator
@inline
function slopeOf(m: v128, p: v128, product: v128, square: v128, even: v128): v128 {
  const variance = f64x2.pmax(f64x2.splat(0), f64x2.sub(square, f64x2.mul(m, m)))
  return f64x2.div(f64x2.sub(product, f64x2.mul(m, p)), f64x2.add(variance, even))
}

/**
 * Slope and level of the line that best fits each window, out of the means of the guide, the plane, their product and the guide's square: slopes are written over the
 * squares, levels over the products.
 * @param even variance of the guide that counts as flat
 * @rows guide mean products squares
 */
export function fitLines(
  guide: usize, guideStride: i32, mean: usize, meanStride: i32, products: usize, productsStride: i32, squares: usize, squaresStride: i32, w: i32, h: i32, even: f64,
): void {
  const pairs = <usize>(w >> 1) << 3
  const flat = f64x2.splat(even)
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < pairs; i += 8) {
      const m = pair(guide + i)
      const p = pair(mean + i)
      const slope = slopeOf(m, p, pair(products + i), pair(squares + i), flat)
      put(squares + i, slope)
      put(products + i, f64x2.sub(p, f64x2.mul(slope, m)))
    }
    if (w & 1) {
      const m = one(guide + pairs)
      const p = one(mean + pairs)
      const slope = slopeOf(m, p, one(products + pairs), one(squares + pairs), flat)
      putOne(squares + pairs, slope)
      putOne(products + pairs, f64x2.sub(p, f64x2.mul(slope, m)))
    }
    guide += guideStride
    mean += meanStride
    products += productsStride
    squares += squaresStride
  }
}

/**
 * What lines say of a guide: slopes · guide + levels. dst may be the guide.
 * @rows slopes levels guide dst
 */
export function alongLines(
  slopes: usize, slopesStride: i32, levels: usize, levelsStride: i32, guide: usize, guideStride: i32, dst: usize, dstStride: i32, w: i32, h: i32,
): void {
  const pairs = <usize>(w >> 1) << 3
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < pairs; i += 8) put(dst + i, f64x2.add(f64x2.mul(pair(slopes + i), pair(guide + i)), pair(levels + i)))
    if (w & 1) putOne(dst + pairs, f64x2.add(f64x2.mul(one(slopes + pairs), one(guide + pairs)), one(levels + pairs)))
    slopes += slopesStride
    levels += levelsStride
    guide += guideStride
    dst += dstStride
  }
}
