// How much of each pixel lies within a path: exact areas by signed sums of trapezoids. The method is that of anti-aliased scan conversion by area and cover
// (Levoy, "Area flooding algorithms", SIGGRAPH course 1981; as in the rasteriser of FreeType, Turner et al.), on whole numbers throughout: each edge is cut at the
// rows and columns of the picture by divisions of its own ends, so no cutting of the picture changes a bit.

/** Parts of a pixel that a path's points are given in, each way. */
const PARTS: i32 = 256
/** A whole pixel's area: dy · 2 · dx in parts. */
const FULL: i64 = 131072

/** What a whole number is below for a division of doubles to round it down rightly: its quotient is off the next whole number by more than a double's last digit. */
const EXACT: i64 = 1 << 53

/** a · b / c for c above 0, rounded down. */
// @ts-ignore: decorator
@inline
function share(a: i64, b: i64, c: i64): i32 {
  const p = a * b
  // several times as quick as whole numbers are divided
  if (p < EXACT && p > -EXACT) return <i32>Math.floor(<f64>p / <f64>c)
  const q = p / c
  return <i32>(p % c < 0 ? q - 1 : q)
}

/** Adds what an edge within one row covers: `d` parts of height times its weight, from x to x2 (parts, counted from the first column), s their sum. */
// @ts-ignore: decorator
@inline
function cell(acc: usize, column: i32, w: i32, d: i64, s: i32): void {
  if (column >= w) return
  if (column < 0) {
    // all of it lies left: whole columns from the first on
    store<i64>(acc, load<i64>(acc) + d * 512)
    return
  }
  const p = acc + (<usize>column << 3)
  store<i64>(p, load<i64>(p) + d * <i64>(512 - s))
  store<i64>(p, load<i64>(p, 8) + d * <i64>s, 8)
}

/** One edge within one row: from (x, y) to (x2, y2), y2 above y; `times` is its weight, below 0 where it runs up. Each column's part by the edge's own ends. */
function edgeInRow(acc: usize, w: i32, x: i32, y: i32, x2: i32, y2: i32, times: i64): void {
  const first = x >> 8
  const last = x2 >> 8
  if (first == last || x == x2) {
    cell(acc, first, w, times * <i64>(y2 - y), (x - (first << 8)) + (x2 - (first << 8)))
    return
  }
  // from left to right
  const mirrored = x > x2
  const xa = mirrored ? x2 : x
  const xb = mirrored ? x : x2
  const wide = <i64>(xb - xa)
  const high = <i64>(y2 - y)
  const from = xa >> 8
  const to = xb >> 8
  let left = xa
  let done = 0
  // what lies left of the picture counts at once
  if (from < 0) {
    const upTo = min(xb, 0)
    done = upTo == xb ? y2 - y : share(<i64>(upTo - xa), high, wide)
    store<i64>(acc, load<i64>(acc) + times * <i64>done * 512)
    left = upTo
    if (upTo == xb) return
  }
  const end = min(to, w - 1)
  for (let c = max(from, 0); c <= end; c++) {
    const right = c == to ? xb : (c + 1) << 8
    const now = right == xb ? y2 - y : share(<i64>(right - xa), high, wide)
    cell(acc, c, w, times * <i64>(now - done), (left - (c << 8)) + (right - (c << 8)))
    done = now
    left = right
  }
}

/** Bytes of one row of the sums that edges are added to. */
// @ts-ignore: decorator
@inline
export function sumsRow(w: i32): usize {
  return <usize>(w + 2) << 3
}

/**
 * Adds an edge, in parts counted from the picture's upper left corner, to the sums of its rows. Closed contours of edges come to cover times `weight`; the order in
 * which edges are added does not matter, and nor does the cutting of the picture.
 */
export function addEdge(sums: usize, w: i32, h: i32, ax: i32, ay: i32, bx: i32, by: i32, weight: i64): void {
  if (ay == by) return
  let times = weight
  if (ay > by) {
    times = -weight
    const sx = ax
    const sy = ay
    ax = bx
    ay = by
    bx = sx
    by = sy
  }
  const bottom = h * PARTS
  if (by <= 0 || ay >= bottom) return
  const stride = sumsRow(w)
  const wide = <i64>(bx - ax)
  const high = <i64>(by - ay)
  const firstRow = max(ay, 0) >> 8
  const lastRow = (min(by, bottom) - 1) >> 8
  // where the edge enters a row is reckoned from its own upper end
  let y = max(ay, firstRow << 8)
  let x = y == ay ? ax : ax + share(<i64>(y - ay), wide, high)
  for (let row = firstRow; row <= lastRow; row++) {
    const low = min(by, (row + 1) << 8)
    const next = low == by ? bx : ax + share(<i64>(low - ay), wide, high)
    edgeInRow(sums + stride * <usize>row, w, x, y - (row << 8), next, low - (row << 8), times)
    x = next
    y = low
  }
}

/**
 * Cover of a path, 0…65535 a pixel. Its contours are closed. Exact where it does not overlap itself; where it does, cover adds up to a whole pixel (non-zero) or
 * is folded (even-odd).
 * @param points x, y of each point, 1/256 pixel of the picture's level (32-bit numbers), contour by contour
 * @param counts points of each contour, n of them
 * @param x0,y0 the first pixel
 * @scratch (w + 2) * h * 8
 */
export function pathCover(points: usize, counts: usize, n: i32, x0: i32, y0: i32, w: i32, h: i32, evenOdd: i32, dst: usize, dstStride: i32, scratch: usize): void {
  const stride = sumsRow(w)
  memory.fill(scratch, 0, stride * <usize>h)
  const dx = x0 * PARTS
  const dy = y0 * PARTS
  for (let k = 0; k < n; k++) {
    const count = load<i32>(counts + (<usize>k << 2))
    for (let i = 0; i < count; i++) {
      const p = points + (<usize>i << 3)
      const q = i + 1 < count ? p + 8 : points
      addEdge(scratch, w, h, load<i32>(p) - dx, load<i32>(p, 4) - dy, load<i32>(q) - dx, load<i32>(q, 4) - dy, 1)
    }
    points += <usize>count << 3
  }
  for (let row = 0; row < h; row++) {
    const acc = scratch + stride * <usize>row
    let sum: i64 = 0
    for (let c = 0; c < w; c++) {
      sum += load<i64>(acc + (<usize>c << 3))
      let v = sum < 0 ? -sum : sum
      if (evenOdd) {
        v = v & (2 * FULL - 1)
        if (v > FULL) v = 2 * FULL - v
      } else if (v > FULL) v = FULL
      store<u16>(dst + (<usize>c << 1), <u16>((v * 65535 + 65536) >> 17))
    }
    dst += dstStride
  }
}
