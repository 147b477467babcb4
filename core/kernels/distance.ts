// Exact distances over a plane of marks: Felzenszwalb and Huttenlocher, "Distance transforms of sampled functions", Theory of Computing 8 (2012).
// All sums are of whole numbers in doubles: they are exact, in whatever order.

/** Further than any. */
const FAR: f64 = 1e12
/** The same in pixels of a column. */
const NONE: i32 = 1 << 20
/** Columns that stay together where the work is shared out. */
const BLOCK: i32 = 64

/**
 * How far it is, up or down, to the nearest pixel that is 1; or, if `other`, to the nearest that is unlike the pixel itself. 2²⁰ where a column has none. A plane that is
 * w wide and has `rows` rows; what may be cut are columns: h counts blocks of 64 of them, the first of which is the x0-th, and the strides lead from block to block.
 * @param is a byte a pixel
 * @param dst 32-bit whole numbers
 * @rows is dst +x0
 * @work w * rows
 */
export function nearInColumns(is: usize, isStride: i32, dst: usize, dstStride: i32, w: i32, rows: i32, x0: i32, h: i32, other: i32): void {
  const across = min<i32>(h * BLOCK, w - x0 * BLOCK)
  for (let y = 0; y < rows; y++) {
    const p = is + <usize>y * w
    const q = dst + (<usize>(y * w) << 2)
    for (let x: usize = 0; x < <usize>across; x++) {
      const before = y > 0 ? min<i32>(NONE, load<i32>(q + (x << 2) - (<usize>w << 2)) + 1) : NONE
      const found = other ? y > 0 && load<u8>(p + x) != load<u8>(p + x - w) : load<u8>(p + x) == 1
      store<i32>(q + (x << 2), found ? other : before)
    }
  }
  for (let y = rows - 2; y >= 0; y--) {
    const p = is + <usize>y * w
    const q = dst + (<usize>(y * w) << 2)
    for (let x: usize = 0; x < <usize>across; x++) {
      const unlike = other && load<u8>(p + x) != load<u8>(p + x + w)
      const below = unlike ? 1 : min<i32>(NONE, load<i32>(q + (x << 2) + (<usize>w << 2)) + 1)
      if (below < load<i32>(q + (x << 2))) store<i32>(q + (x << 2), below)
    }
  }
}

// @ts-ignore: decorator
@inline
function costAt(down: usize, x: i32): f64 {
  const d = load<i32>(down + (<usize>x << 2))
  return d >= NONE ? FAR : <f64>d * <f64>d
}

/**
 * Squared distances along a row from place a to before b, by what each place costs: the lower envelope of parabolas. The places a and b − 1 cost nothing where `left` and
 * `right` say so.
 * @param at the places whose parabolas make up the envelope: their numbers and costs, and where each begins to be the lowest, three doubles each
 */
function alongRow(down: usize, dst: usize, a: i32, b: i32, left: bool, right: bool, at: usize): void {
  let k: usize = at
  store<f64>(k, <f64>a)
  store<f64>(k, left ? 0 : costAt(down, a), 8)
  store<f64>(k, -FAR, 16)
  for (let x = a + 1; x < b; x++) {
    const q = <f64>x
    const cost = right && x == b - 1 ? 0 : costAt(down, x)
    let s: f64 = 0
    while (true) {
      const p = load<f64>(k)
      s = (cost + q * q - (load<f64>(k, 8) + p * p)) / (2 * q - 2 * p)
      if (s > load<f64>(k, 16) || k == at) break
      k -= 24
    }
    if (s <= load<f64>(k, 16)) s = load<f64>(k, 16)
    k += 24
    store<f64>(k, q)
    store<f64>(k, cost, 8)
    store<f64>(k, s, 16)
  }
  store<f64>(k + 24, FAR, 16)
  k = at
  for (let x = a; x < b; x++) {
    const q = <f64>x
    while (load<f64>(k + 24, 16) < q) k += 24
    const far = q - load<f64>(k)
    store<f32>(dst + (<usize>x << 2), <f32>sqrt(min<f64>(FAR, far * far + load<f64>(k, 8))))
  }
}

/**
 * Distances in pixels out of what nearInColumns found with other = 0.
 * @param dst floats
 * @rows down dst
 * @scratch w * 24 + 48
 */
export function distances(down: usize, downStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, scratch: usize): void {
  for (let y = 0; y < h; y++) {
    alongRow(down, dst, 0, w, false, false, scratch)
    down += downStride
    dst += dstStride
  }
}

/**
 * How far inside a shape each pixel lies, below 0 outside; its border runs between pixels. Out of what nearInColumns found with other = 1: what lies on one side is parted
 * along a row, and from each part nothing nearer lies beyond its ends.
 * @param is 1 inside, a byte a pixel
 * @param dst floats
 * @rows is down dst
 * @scratch w * 24 + 96 + w * 4
 */
export function insides(is: usize, isStride: i32, down: usize, downStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, scratch: usize): void {
  const row = scratch
  const at = scratch + (((<usize>w << 2) + 15) & ~15)
  for (let y = 0; y < h; y++) {
    for (let a = 0, b = 0; a < w; a = b) {
      const inside = load<u8>(is + a) == 1
      while (b < w && (load<u8>(is + b) == 1) == inside) b++
      alongRow(down, row, max<i32>(0, a - 1), min<i32>(w, b + 1), a > 0, b < w, at)
      for (let x = a; x < b; x++) {
        const far = load<f32>(row + (<usize>x << 2))
        store<f32>(dst + (<usize>x << 2), inside ? far - <f32>0.5 : <f32>0.5 - far)
      }
    }
    is += isStride
    down += downStride
    dst += dstStride
  }
}
