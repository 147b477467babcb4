// How much of each pixel lies within a path: exact areas by signed sums of trapezoids. The method is that of anti-aliased scan conversion by area and cover
// (Levoy, "Area flooding algorithms", SIGGRAPH course 1981; as in the rasteriser of FreeType, Turner et al.), on whole numbers throughout: each edge is cut at the
// rows and columns of the picture by divisions of its own ends, so no cutting of the picture changes a bit.

/** Parts of a pixel that a path's points are given in, each way. */
const PARTS: i32 = 256
/** A whole pixel's area: dy · 2 · dx in parts. */
const FULL: i64 = 131072

/** a · b / c for c above 0, rounded down. */
// @ts-ignore: decorator
@inline
function share(a: i64, b: i64, c: i64): i32 {
  const p = a * b
  const q = p / c
  return <i32>(p % c < 0 ? q - 1 : q)
}

/** Adds what an edge within one row covers: `d` parts of height, from x to x2 (parts, counted from the first column). */
// @ts-ignore: decorator
@inline
function cell(acc: usize, column: i32, w: i32, d: i32, s: i32): void {
  if (column >= w) return
  if (column < 0) {
    // all of it lies left: whole columns from the first on
    store<i32>(acc, load<i32>(acc) + d * 512)
    return
  }
  const p = acc + (<usize>column << 2)
  store<i32>(p, load<i32>(p) + d * (512 - s))
  store<i32>(p, load<i32>(p, 4) + d * s, 4)
}

/** One edge within one row: from (x, y) to (x2, y2), y2 above y; `dir` 1 where it runs down, else −1. Each column's part by the edge's own ends. */
function edgeInRow(acc: usize, w: i32, x: i32, y: i32, x2: i32, y2: i32, dir: i32): void {
  const first = x >> 8
  const last = x2 >> 8
  if (first == last || x == x2) {
    cell(acc, first, w, dir * (y2 - y), (x - (first << 8)) + (x2 - (first << 8)))
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
    store<i32>(acc, load<i32>(acc) + dir * done * 512)
    left = upTo
    if (upTo == xb) return
  }
  const end = min(to, w - 1)
  for (let c = max(from, 0); c <= end; c++) {
    const right = c == to ? xb : (c + 1) << 8
    const now = right == xb ? y2 - y : share(<i64>(right - xa), high, wide)
    cell(acc, c, w, dir * (now - done), (left - (c << 8)) + (right - (c << 8)))
    done = now
    left = right
  }
}

/**
 * Cover of a path, 0…65535 a pixel. Its contours are closed. Exact where it does not overlap itself; where it does, cover adds up to a whole pixel (non-zero) or
 * is folded (even-odd).
 * @param points x, y of each point, 1/256 pixel of the picture's level (32-bit numbers), contour by contour
 * @param counts points of each contour, n of them
 * @param x0,y0 the first pixel
 * @scratch (w + 2) * h * 4
 */
export function pathCover(points: usize, counts: usize, n: i32, x0: i32, y0: i32, w: i32, h: i32, evenOdd: i32, dst: usize, dstStride: i32, scratch: usize): void {
  const stride = <usize>(w + 2) << 2
  memory.fill(scratch, 0, stride * <usize>h)
  const dx = x0 * PARTS
  const dy = y0 * PARTS
  const bottom = h * PARTS
  for (let k = 0; k < n; k++) {
    const count = load<i32>(counts + (<usize>k << 2))
    for (let i = 0; i < count; i++) {
      const p = points + (<usize>i << 3)
      const q = i + 1 < count ? p + 8 : points
      let ax = load<i32>(p) - dx
      let ay = load<i32>(p, 4) - dy
      let bx = load<i32>(q) - dx
      let by = load<i32>(q, 4) - dy
      if (ay == by) continue
      let dir = 1
      if (ay > by) {
        dir = -1
        const sx = ax
        const sy = ay
        ax = bx
        ay = by
        bx = sx
        by = sy
      }
      if (by <= 0 || ay >= bottom) continue
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
        edgeInRow(scratch + stride * <usize>row, w, x, y - (row << 8), next, low - (row << 8), dir)
        x = next
        y = low
      }
    }
    points += <usize>count << 3
  }
  for (let row = 0; row < h; row++) {
    const acc = scratch + stride * <usize>row
    let sum: i64 = 0
    for (let c = 0; c < w; c++) {
      sum += <i64>load<i32>(acc + (<usize>c << 2))
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
