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

/** Means over windows of 2r + 1 along two rows at once: one waits for its sum while the other's is made. The last row may be given twice. */
// @ts-ignore: decorator
@inline
function meanPair(p: usize, q: usize, to: usize, and: usize, w: i32, r: i32): void {
  const n = f64x2.splat(1 / <f64>(2 * r + 1))
  const first = both(p, q)
  const last = both(p + (<usize>(w - 1) << 2), q + (<usize>(w - 1) << 2))
  let sum = f64x2.mul(first, f64x2.splat(<f64>r))
  for (let x = 0; x < r; x++) sum = f64x2.add(sum, x < w ? both(p + (<usize>x << 2), q + (<usize>x << 2)) : last)
  for (let x = 0; x < w; x++) {
    const i = <usize>(x + r) << 2
    sum = f64x2.add(sum, x + r < w ? both(p + i, q + i) : last)
    const mean = f32x4.demote_f64x2_zero(f64x2.mul(sum, n))
    v128.store32_lane(to + (<usize>x << 2), mean, 0)
    v128.store32_lane(and + (<usize>x << 2), mean, 1)
    const j = <usize>(x - r) << 2
    sum = f64x2.sub(sum, x - r >= 0 ? both(p + j, q + j) : first)
  }
}

/** Means over windows of 2r + 1 along rows. */
function meanRows(src: usize, dst: usize, w: i32, h: i32, r: i32): void {
  const row = <usize>w << 2
  for (let y = 0; y < h; y += 2) {
    const next: usize = y + 1 < h ? row : 0
    meanPair(src, src + next, dst, dst + next, w, r)
    src += 2 * row
    dst += 2 * row
  }
}

/** The same along columns, all columns at once. @param sums room for w doubles */
function meanColumns(src: usize, dst: usize, w: i32, h: i32, r: i32, sums: usize): void {
  const n = 1 / <f64>(2 * r + 1)
  memory.fill(sums, 0, <usize>w << 3)
  for (let y = -r; y < r; y++) {
    const row = src + (<usize>(held(y, h - 1) * w) << 2)
    for (let x: usize = 0; x < <usize>w; x++) store<f64>(sums + (x << 3), load<f64>(sums + (x << 3)) + <f64>load<f32>(row + (x << 2)))
  }
  const vn = f64x2.splat(n)
  for (let y = 0; y < h; y++) {
    const into = src + (<usize>(held(y + r, h - 1) * w) << 2)
    const out = src + (<usize>(held(y - r, h - 1) * w) << 2)
    let x: usize = 0
    for (; x + 2 <= <usize>w; x += 2) {
      const at = sums + (x << 3)
      const sum = f64x2.add(v128.load(at), f64x2.promote_low_f32x4(v128.load64_zero(into + (x << 2))))
      v128.store64_lane(dst + (x << 2), f32x4.demote_f64x2_zero(f64x2.mul(sum, vn)), 0)
      v128.store(at, f64x2.sub(sum, f64x2.promote_low_f32x4(v128.load64_zero(out + (x << 2)))))
    }
    for (; x < <usize>w; x++) {
      const at = sums + (x << 3)
      const sum = load<f64>(at) + <f64>load<f32>(into + (x << 2))
      store<f32>(dst + (x << 2), <f32>(sum * n))
      store<f64>(at, sum - <f64>load<f32>(out + (x << 2)))
    }
    dst += <usize>w << 2
  }
}

/**
 * A plane of w × h floats, averaged over square windows that reach r1, then r2, then r3 pixels each way; 0: not. It is changed in its place.
 * @scratch w * h * 4 + w * 8 + 16
 */
export function meansOf(plane: usize, w: i32, h: i32, r1: i32, r2: i32, r3: i32, scratch: usize): void {
  const sums = (scratch + (<usize>(w * h) << 2) + 15) & ~15
  for (let i = 0; i < 3; i++) {
    const r = i == 0 ? r1 : i == 1 ? r2 : r3
    if (r < 1) continue
    meanRows(plane, scratch, w, h, r)
    meanColumns(scratch, plane, w, h, r, sums)
  }
}
