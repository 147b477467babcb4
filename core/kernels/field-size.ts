// Planes of floats at half and at twice their size, computed in doubles.

// @ts-ignore: decorator
@inline
function low(v: v128): v128 {
  return f64x2.promote_low_f32x4(v)
}

/** Means of two pairs in each of two rows: (a0 + a1 + b0 + b1) / 4, (a2 + a3 + b2 + b3) / 4. */
// @ts-ignore: decorator
@inline
function quarters(a: v128, b: v128): v128 {
  const even = low(i32x4.shuffle(a, a, 0, 2, 0, 2))
  const odd = low(i32x4.shuffle(a, a, 1, 3, 1, 3))
  const even2 = low(i32x4.shuffle(b, b, 0, 2, 0, 2))
  const odd2 = low(i32x4.shuffle(b, b, 1, 3, 1, 3))
  return f32x4.demote_f64x2_zero(f64x2.mul(f64x2.add(f64x2.add(f64x2.add(even, odd), even2), odd2), f64x2.splat(0.25)))
}

/**
 * Means of 2 × 2 of a plane of w × `rows`; an odd border repeats its last row or column. Writes h rows of ceil(w / 2), the first of which is row y0 of all.
 * @rows dst +y0
 * @work w * h
 */
export function halvedField(src: usize, srcStride: i32, w: i32, rows: i32, dst: usize, dstStride: i32, y0: i32, h: i32): void {
  const whole = w >> 1
  for (let y = y0; y < y0 + h; y++) {
    const a = src + <usize>(2 * y * srcStride)
    const b = src + <usize>(min<i32>(rows - 1, 2 * y + 1) * srcStride)
    let x = 0
    for (; x + 2 <= whole; x += 2) {
      const at = <usize>x << 3
      v128.store64_lane(dst + (<usize>x << 2), quarters(v128.load(a + at), v128.load(b + at)), 0)
    }
    for (; 2 * x < w; x++) {
      const at = <usize>x << 3
      const next: usize = x < whole ? 4 : 0
      const sum = <f64>load<f32>(a + at) + <f64>load<f32>(a + at + next) + <f64>load<f32>(b + at) + <f64>load<f32>(b + at + next)
      store<f32>(dst + (<usize>x << 2), <f32>(sum / 4))
    }
    dst += dstStride
  }
}

/**
 * A plane of pw × ph at twice its size, w × `h` of its rows from row y0 on, by straight lines between its values.
 * @rows dst +y0
 */
export function doubledField(src: usize, srcStride: i32, pw: i32, ph: i32, dst: usize, dstStride: i32, w: i32, y0: i32, h: i32): void {
  const most = f64x2.splat(0.5625)
  const some = f64x2.splat(0.1875)
  const least = f64x2.splat(0.0625)
  for (let y = y0; y < y0 + h; y++) {
    // rows and columns lie a quarter and three quarters between those of the small one
    const j = y >> 1
    const near = src + <usize>(j * srcStride)
    const far = src + <usize>(min<i32>(ph - 1, max<i32>(0, y & 1 ? j + 1 : j - 1)) * srcStride)
    // values to the left, here, to the right, in both rows: left and right in the lanes of one
    let nb = <f64>load<f32>(near)
    let fb = <f64>load<f32>(far)
    let na = nb
    let fa = fb
    for (let i = 0; 2 * i < w; i++) {
      const k = <usize>(i < pw - 1 ? i + 1 : i) << 2
      const nc = <f64>load<f32>(near + k)
      const fc = <f64>load<f32>(far + k)
      const beside = f64x2.replace_lane(f64x2.splat(na), 1, nc)
      const across = f64x2.replace_lane(f64x2.splat(fa), 1, fc)
      const v = f64x2.add(f64x2.add(f64x2.mul(most, f64x2.splat(nb)), f64x2.mul(some, f64x2.add(beside, f64x2.splat(fb)))), f64x2.mul(least, across))
      const both = f32x4.demote_f64x2_zero(v)
      const to = dst + (<usize>i << 3)
      if (2 * i + 1 < w) v128.store64_lane(to, both, 0)
      else v128.store32_lane(to, both, 0)
      na = nb
      fa = fb
      nb = nc
      fb = fc
    }
    dst += dstStride
  }
}
