// Slopes of a plane of floats, computed in doubles: Scharr, "Optimal operators in digital image processing", thesis, Heidelberg 2000.

/** Two values from column i − 1, i or i + 1 on. */
// @ts-ignore: decorator
@inline
function two(p: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load64_zero(p))
}

// @ts-ignore: decorator
@inline
function sided(a: v128, b: v128, c: v128): v128 {
  const three = f64x2.splat(3)
  return f64x2.mul(f64x2.add(f64x2.add(f64x2.mul(three, a), f64x2.mul(f64x2.splat(10), b)), f64x2.mul(three, c)), f64x2.splat(0.03125))
}

/**
 * Slopes along x and y, a pixel, of a plane of w × `rows`; borders repeated. Writes h rows of each, the first of which is row y0 of all.
 * @rows x y +y0
 */
export function scharrSlopes(src: usize, srcStride: i32, rows: i32, x: usize, xStride: i32, y: usize, yStride: i32, w: i32, y0: i32, h: i32): void {
  for (let row = y0; row < y0 + h; row++) {
    const a = src + <usize>(max<i32>(0, row - 1) * srcStride)
    const b = src + <usize>(row * srcStride)
    const c = src + <usize>(min<i32>(rows - 1, row + 1) * srcStride)
    let i = 0
    while (i < w) {
      const at = <usize>i << 2
      if (i > 0 && i + 2 < w) {
        const al = two(a + at - 4)
        const ar = two(a + at + 4)
        const cl = two(c + at - 4)
        const cr = two(c + at + 4)
        const gx = sided(f64x2.sub(ar, al), f64x2.sub(two(b + at + 4), two(b + at - 4)), f64x2.sub(cr, cl))
        const gy = sided(f64x2.sub(cl, al), f64x2.sub(two(c + at), two(a + at)), f64x2.sub(cr, ar))
        v128.store64_lane(x + at, f32x4.demote_f64x2_zero(gx), 0)
        v128.store64_lane(y + at, f32x4.demote_f64x2_zero(gy), 0)
        i += 2
        continue
      }
      const l = <usize>max<i32>(0, i - 1) << 2
      const r = <usize>min<i32>(w - 1, i + 1) << 2
      const al = <f64>load<f32>(a + l)
      const ar = <f64>load<f32>(a + r)
      const cl = <f64>load<f32>(c + l)
      const cr = <f64>load<f32>(c + r)
      store<f32>(x + at, <f32>((3 * (ar - al) + 10 * (<f64>load<f32>(b + r) - <f64>load<f32>(b + l)) + 3 * (cr - cl)) / 32))
      store<f32>(y + at, <f32>((3 * (cl - al) + 10 * (<f64>load<f32>(c + at) - <f64>load<f32>(a + at)) + 3 * (cr - ar)) / 32))
      i++
    }
    x += xStride
    y += yStride
  }
}
