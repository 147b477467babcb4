// Means over windows of a plane of floats, by running sums in doubles: their cost does not grow with the window. Borders are repeated.

// @ts-ignore: decorator
@inline
function held(v: i32, most: i32): i32 {
  return v < 0 ? 0 : v > most ? most : v
}

/** Two rows' values, as doubles. */
// @ts-ignore: decorator
@inline
function both(p: usize, q: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load32_lane(q, v128.load32_zero(p), 1))
}

/** Puts the means of two rows in their places. */
// @ts-ignore: decorator
@inline
function put(to: usize, and: usize, sum: v128, n: v128): void {
  const mean = f32x4.demote_f64x2_zero(f64x2.mul(sum, n))
  v128.store32_lane(to, mean, 0)
  v128.store32_lane(and, mean, 1)
}

/**
 * Means over windows of 2r + 1 along the rows of a plane of floats: four rows at once, so that none waits for another's sum.
 * @rows src dst
 */
export function meanRows(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32): void {
  const n = f64x2.splat(1 / <f64>(2 * r + 1))
  const end = <usize>(w - 1) << 2
  for (let y = 0; y < h; y += 4) {
    // the last row stands for those beyond it
    const s1 = <usize>(min<i32>(1, h - 1 - y) * srcStride)
    const s2 = <usize>(min<i32>(2, h - 1 - y) * srcStride)
    const s3 = <usize>(min<i32>(3, h - 1 - y) * srcStride)
    const d1 = <usize>(min<i32>(1, h - 1 - y) * dstStride)
    const d2 = <usize>(min<i32>(2, h - 1 - y) * dstStride)
    const d3 = <usize>(min<i32>(3, h - 1 - y) * dstStride)
    const first = both(src, src + s1)
    const first2 = both(src + s2, src + s3)
    const last = both(src + end, src + s1 + end)
    const last2 = both(src + s2 + end, src + s3 + end)
    let sum = f64x2.mul(first, f64x2.splat(<f64>r))
    let sum2 = f64x2.mul(first2, f64x2.splat(<f64>r))
    for (let x = 0; x < r; x++) {
      const p = src + (<usize>x << 2)
      sum = f64x2.add(sum, x < w ? both(p, p + s1) : last)
      sum2 = f64x2.add(sum2, x < w ? both(p + s2, p + s3) : last2)
    }
    for (let x = 0; x < w; x++) {
      const to = dst + (<usize>x << 2)
      const within = x + r < w
      const p = src + (<usize>(x + r) << 2)
      sum = f64x2.add(sum, within ? both(p, p + s1) : last)
      sum2 = f64x2.add(sum2, within ? both(p + s2, p + s3) : last2)
      put(to, to + d1, sum, n)
      put(to + d2, to + d3, sum2, n)
      const since = x - r >= 0
      const q = src + (<usize>(x - r) << 2)
      sum = f64x2.sub(sum, since ? both(q, q + s1) : first)
      sum2 = f64x2.sub(sum2, since ? both(q + s2, q + s3) : first2)
    }
    src += 4 * srcStride
    dst += 4 * dstStride
  }
}

/** Columns that stay together where the work is shared out. */
const BLOCK: i32 = 64

/**
 * The same along columns, of a plane that is w wide and has `rows` rows. What may be cut are columns: h counts blocks of 64 of them, the first of which is the x0-th, and
 * the strides lead from block to block.
 * @rows src dst +x0
 * @work w * rows
 * @scratch h * 512
 */
export function meanColumns(
  src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, rows: i32, x0: i32, h: i32, r: i32, scratch: usize,
): void {
  const row = <usize>w << 2
  const last = rows - 1
  const across = <usize>min<i32>(h * BLOCK, w - x0 * BLOCK)
  const n = 1 / <f64>(2 * r + 1)
  memory.fill(scratch, 0, across << 3)
  for (let y = -r; y < r; y++) {
    const from = src + <usize>held(y, last) * row
    for (let x: usize = 0; x < across; x++) store<f64>(scratch + (x << 3), load<f64>(scratch + (x << 3)) + <f64>load<f32>(from + (x << 2)))
  }
  const vn = f64x2.splat(n)
  for (let y = 0; y < rows; y++) {
    const into = src + <usize>held(y + r, last) * row
    const out = src + <usize>held(y - r, last) * row
    let x: usize = 0
    for (; x + 2 <= across; x += 2) {
      const at = scratch + (x << 3)
      const sum = f64x2.add(v128.load(at), f64x2.promote_low_f32x4(v128.load64_zero(into + (x << 2))))
      v128.store64_lane(dst + (x << 2), f32x4.demote_f64x2_zero(f64x2.mul(sum, vn)), 0)
      v128.store(at, f64x2.sub(sum, f64x2.promote_low_f32x4(v128.load64_zero(out + (x << 2)))))
    }
    for (; x < across; x++) {
      const at = scratch + (x << 3)
      const sum = load<f64>(at) + <f64>load<f32>(into + (x << 2))
      store<f32>(dst + (x << 2), <f32>(sum * n))
      store<f64>(at, sum - <f64>load<f32>(out + (x << 2)))
    }
    dst += row
  }
}
