// Median of a small square window, each channel by itself, premultiplied: 3 and 5 pixels by sorting networks.
import { premultipliedCodes } from './box'
import { allOpaque } from './opaque'
import { loadPixel, storePixel, unpremultiply } from './simd'

/**
 * The middle one of 3 × 3, for two pixels: s points to the least of three sorted rows, which are `line` bytes apart. Networks
 * here are odd-even merges after sorting rows, less what sorted columns and the search for one value make needless.
 */
function middle3(s: usize, line: usize): v128 {
  let r00 = v128.load(s)
  let r01 = v128.load(s, 8)
  let r02 = v128.load(s, 16)
  let r10 = v128.load(s + line)
  let r11 = v128.load(s + line, 8)
  let r12 = v128.load(s + line, 16)
  let r20 = v128.load(s + line * 2)
  let r21 = v128.load(s + line * 2, 8)
  let r22 = v128.load(s + line * 2, 16)
  let t: v128
  r01 = i16x8.max_u(r00, r01)
  r02 = i16x8.max_u(r01, r02)
  t = i16x8.min_u(r10, r11)
  r11 = i16x8.max_u(r10, r11)
  r10 = t
  r11 = i16x8.min_u(r11, r12)
  r11 = i16x8.max_u(r10, r11)
  t = i16x8.min_u(r20, r21)
  r21 = i16x8.max_u(r20, r21)
  r20 = t
  r21 = i16x8.min_u(r21, r22)
  r20 = i16x8.min_u(r20, r21)
  t = i16x8.min_u(r02, r11)
  r11 = i16x8.max_u(r02, r11)
  r02 = t
  r20 = i16x8.max_u(r02, r20)
  r11 = i16x8.min_u(r11, r20)
  return r11
}

/** The middle one of 5 × 5, for two pixels. */
function middle5(s: usize, line: usize): v128 {
  let r00 = v128.load(s)
  let r01 = v128.load(s, 8)
  let r02 = v128.load(s, 16)
  let r03 = v128.load(s, 24)
  let r04 = v128.load(s, 32)
  let r10 = v128.load(s + line)
  let r11 = v128.load(s + line, 8)
  let r12 = v128.load(s + line, 16)
  let r13 = v128.load(s + line, 24)
  let r14 = v128.load(s + line, 32)
  let r20 = v128.load(s + line * 2)
  let r21 = v128.load(s + line * 2, 8)
  let r22 = v128.load(s + line * 2, 16)
  let r23 = v128.load(s + line * 2, 24)
  let r24 = v128.load(s + line * 2, 32)
  let r30 = v128.load(s + line * 3)
  let r31 = v128.load(s + line * 3, 8)
  let r32 = v128.load(s + line * 3, 16)
  let r33 = v128.load(s + line * 3, 24)
  let r34 = v128.load(s + line * 3, 32)
  let r40 = v128.load(s + line * 4)
  let r41 = v128.load(s + line * 4, 8)
  let r42 = v128.load(s + line * 4, 16)
  let r43 = v128.load(s + line * 4, 24)
  let r44 = v128.load(s + line * 4, 32)
  let t: v128
  t = i16x8.min_u(r00, r01)
  r01 = i16x8.max_u(r00, r01)
  r00 = t
  t = i16x8.min_u(r03, r04)
  r04 = i16x8.max_u(r03, r04)
  r03 = t
  t = i16x8.min_u(r02, r04)
  r04 = i16x8.max_u(r02, r04)
  r02 = t
  r03 = i16x8.max_u(r02, r03)
  t = i16x8.min_u(r01, r04)
  r04 = i16x8.max_u(r01, r04)
  r01 = t
  r03 = i16x8.max_u(r00, r03)
  r03 = i16x8.max_u(r01, r03)
  t = i16x8.min_u(r10, r11)
  r11 = i16x8.max_u(r10, r11)
  r10 = t
  t = i16x8.min_u(r13, r14)
  r14 = i16x8.max_u(r13, r14)
  r13 = t
  t = i16x8.min_u(r12, r14)
  r14 = i16x8.max_u(r12, r14)
  r12 = t
  t = i16x8.min_u(r12, r13)
  r13 = i16x8.max_u(r12, r13)
  r12 = t
  t = i16x8.min_u(r11, r14)
  r14 = i16x8.max_u(r11, r14)
  r11 = t
  t = i16x8.min_u(r10, r13)
  r13 = i16x8.max_u(r10, r13)
  r10 = t
  r12 = i16x8.max_u(r10, r12)
  t = i16x8.min_u(r11, r13)
  r13 = i16x8.max_u(r11, r13)
  r11 = t
  r12 = i16x8.max_u(r11, r12)
  t = i16x8.min_u(r20, r21)
  r21 = i16x8.max_u(r20, r21)
  r20 = t
  t = i16x8.min_u(r23, r24)
  r24 = i16x8.max_u(r23, r24)
  r23 = t
  t = i16x8.min_u(r22, r24)
  r24 = i16x8.max_u(r22, r24)
  r22 = t
  t = i16x8.min_u(r22, r23)
  r23 = i16x8.max_u(r22, r23)
  r22 = t
  r21 = i16x8.min_u(r21, r24)
  t = i16x8.min_u(r20, r23)
  r23 = i16x8.max_u(r20, r23)
  r20 = t
  r22 = i16x8.max_u(r20, r22)
  t = i16x8.min_u(r21, r23)
  r23 = i16x8.max_u(r21, r23)
  r21 = t
  t = i16x8.min_u(r21, r22)
  r22 = i16x8.max_u(r21, r22)
  r21 = t
  t = i16x8.min_u(r30, r31)
  r31 = i16x8.max_u(r30, r31)
  r30 = t
  t = i16x8.min_u(r33, r34)
  r34 = i16x8.max_u(r33, r34)
  r33 = t
  t = i16x8.min_u(r32, r34)
  r34 = i16x8.max_u(r32, r34)
  r32 = t
  t = i16x8.min_u(r32, r33)
  r33 = i16x8.max_u(r32, r33)
  r32 = t
  r31 = i16x8.min_u(r31, r34)
  t = i16x8.min_u(r30, r33)
  r33 = i16x8.max_u(r30, r33)
  r30 = t
  t = i16x8.min_u(r30, r32)
  r32 = i16x8.max_u(r30, r32)
  r30 = t
  r31 = i16x8.min_u(r31, r33)
  t = i16x8.min_u(r31, r32)
  r32 = i16x8.max_u(r31, r32)
  r31 = t
  t = i16x8.min_u(r40, r41)
  r41 = i16x8.max_u(r40, r41)
  r40 = t
  t = i16x8.min_u(r43, r44)
  r44 = i16x8.max_u(r43, r44)
  r43 = t
  t = i16x8.min_u(r42, r44)
  r44 = i16x8.max_u(r42, r44)
  r42 = t
  t = i16x8.min_u(r42, r43)
  r43 = i16x8.max_u(r42, r43)
  r42 = t
  r41 = i16x8.min_u(r41, r44)
  t = i16x8.min_u(r40, r43)
  r43 = i16x8.max_u(r40, r43)
  r40 = t
  t = i16x8.min_u(r40, r42)
  r42 = i16x8.max_u(r40, r42)
  r40 = t
  r41 = i16x8.min_u(r41, r43)
  r41 = i16x8.min_u(r41, r42)
  t = i16x8.min_u(r32, r04)
  r04 = i16x8.max_u(r32, r04)
  r32 = t
  t = i16x8.min_u(r40, r14)
  r14 = i16x8.max_u(r40, r14)
  r40 = t
  t = i16x8.min_u(r12, r03)
  r03 = i16x8.max_u(r12, r03)
  r12 = t
  t = i16x8.min_u(r21, r30)
  r30 = i16x8.max_u(r21, r30)
  r21 = t
  t = i16x8.min_u(r22, r31)
  r31 = i16x8.max_u(r22, r31)
  r22 = t
  t = i16x8.min_u(r32, r40)
  r40 = i16x8.max_u(r32, r40)
  r32 = t
  r04 = i16x8.min_u(r04, r14)
  t = i16x8.min_u(r13, r03)
  r03 = i16x8.max_u(r13, r03)
  r13 = t
  t = i16x8.min_u(r22, r30)
  r30 = i16x8.max_u(r22, r30)
  r22 = t
  t = i16x8.min_u(r04, r40)
  r40 = i16x8.max_u(r04, r40)
  r04 = t
  r21 = i16x8.max_u(r12, r21)
  r22 = i16x8.max_u(r13, r22)
  t = i16x8.min_u(r03, r30)
  r30 = i16x8.max_u(r03, r30)
  r03 = t
  r23 = i16x8.min_u(r23, r31)
  r21 = i16x8.max_u(r03, r21)
  t = i16x8.min_u(r23, r22)
  r22 = i16x8.max_u(r23, r22)
  r23 = t
  r40 = i16x8.min_u(r40, r41)
  t = i16x8.min_u(r23, r21)
  r21 = i16x8.max_u(r23, r21)
  r23 = t
  t = i16x8.min_u(r22, r30)
  r30 = i16x8.max_u(r22, r30)
  r22 = t
  t = i16x8.min_u(r04, r40)
  r40 = i16x8.max_u(r04, r40)
  r04 = t
  r32 = i16x8.max_u(r21, r32)
  r22 = i16x8.min_u(r22, r04)
  r30 = i16x8.min_u(r30, r40)
  r22 = i16x8.max_u(r23, r22)
  r30 = i16x8.min_u(r30, r32)
  r30 = i16x8.max_u(r22, r30)
  return r30
}

/**
 * Medians of 3 × 3 opaque pixels, two rows of an even breadth: columns are sorted as they are read, two at a time, and serve three
 * windows; what the two rows share is sorted once.
 */
function opaqueRows(src: usize, srcStride: usize, dst: usize, dstStride: usize, w: i32): void {
  const second = src + srcStride
  const third = second + srcStride
  const fourth = third + srcStride
  let a = v128.load(src)
  let b = v128.load(second)
  let c = v128.load(third)
  let d = v128.load(fourth)
  let less = i16x8.min_u(b, c)
  let more = i16x8.max_u(b, c)
  let upperRest = i16x8.max_u(a, less)
  let upperLow = i16x8.min_u(a, less)
  let upperMiddle = i16x8.min_u(upperRest, more)
  let upperHigh = i16x8.max_u(upperRest, more)
  let lowerRest = i16x8.max_u(d, less)
  let lowerLow = i16x8.min_u(d, less)
  let lowerMiddle = i16x8.min_u(lowerRest, more)
  let lowerHigh = i16x8.max_u(lowerRest, more)
  const end = <usize>w << 3
  for (let x: usize = 0; x < end; x += 16) {
    a = v128.load(src + x, 16)
    b = v128.load(second + x, 16)
    c = v128.load(third + x, 16)
    d = v128.load(fourth + x, 16)
    less = i16x8.min_u(b, c)
    more = i16x8.max_u(b, c)
    upperRest = i16x8.max_u(a, less)
    const upperLow2 = i16x8.min_u(a, less)
    const upperMiddle2 = i16x8.min_u(upperRest, more)
    const upperHigh2 = i16x8.max_u(upperRest, more)
    v128.store(dst + x, middleOf(upperLow, upperLow2, upperMiddle, upperMiddle2, upperHigh, upperHigh2))
    upperLow = upperLow2
    upperMiddle = upperMiddle2
    upperHigh = upperHigh2
    lowerRest = i16x8.max_u(d, less)
    const lowerLow2 = i16x8.min_u(d, less)
    const lowerMiddle2 = i16x8.min_u(lowerRest, more)
    const lowerHigh2 = i16x8.max_u(lowerRest, more)
    v128.store(dst + dstStride + x, middleOf(lowerLow, lowerLow2, lowerMiddle, lowerMiddle2, lowerHigh, lowerHigh2))
    lowerLow = lowerLow2
    lowerMiddle = lowerMiddle2
    lowerHigh = lowerHigh2
  }
}

/** Two medians from four sorted columns, two of them in the first of each pair of vectors. */
// @ts-ignore: decorator
@inline
function middleOf(low: v128, low2: v128, middle: v128, middle2: v128, high: v128, high2: v128): v128 {
  const lows = i16x8.max_u(i16x8.max_u(low, between(low, low2)), low2)
  const highs = i16x8.min_u(i16x8.min_u(high, between(high, high2)), high2)
  const m = between(middle, middle2)
  const middles = i16x8.max_u(i16x8.min_u(middle, m), i16x8.min_u(i16x8.max_u(middle, m), middle2))
  return i16x8.max_u(i16x8.min_u(lows, middles), i16x8.min_u(i16x8.max_u(lows, middles), highs))
}

/** The second pixel of one pair and the first of the next. */
// @ts-ignore: decorator
@inline
function between(a: v128, b: v128): v128 {
  return i8x16.shuffle(a, b, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23)
}

/** Rows looked at for whether they are opaque, and then sorted while they are in the processor's cache. */
const STRIP: i32 = 32

/**
 * Median of (2r + 1)² pixels, r 1 or 2. src is the w × h output region grown by r on all sides.
 * @rows src dst
 * @overlap 2 * r
 * @scratch (4 * r + 2) * ((w + 2 * r) * 8 + 48)
 */
export function medianSmall(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, scratch: usize): void {
  if (r == 2) {
    anyRows(src, srcStride, dst, dstStride, w, h, r, scratch)
    return
  }
  for (let y = 0; y < h; y += STRIP) {
    const rows = min(STRIP, h - y)
    if (rows > 1 && w > 1 && allOpaque(src, srcStride, w + 2, rows + 2)) {
      // an odd last row, or column, is made with the one before it once more
      for (let i = 0; i < rows; i += 2) {
        const at = <usize>min(i, rows - 2)
        const from = src + at * <usize>srcStride
        const to = dst + at * <usize>dstStride
        opaqueRows(from, srcStride, to, dstStride, w & ~1)
        if (w & 1) opaqueRows(from + (<usize>(w - 2) << 3), srcStride, to + (<usize>(w - 2) << 3), dstStride, 2)
      }
    } else anyRows(src, srcStride, dst, dstStride, w, rows, r, scratch)
    src += <usize>rows * <usize>srcStride
    dst += <usize>rows * <usize>dstStride
  }
}

/** As `medianSmall`, of pixels that may be clear. */
function anyRows(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, scratch: usize): void {
  const n = 2 * r + 1
  const line = <usize>(w + 2 * r) * 8 + 48
  const sorted = scratch + <usize>n * line
  const alphas = i64x2.splat(0xffff000000000000)
  for (let y = 0; y < h + 2 * r; y++) {
    const fresh = scratch + <usize>(y % n) * line
    for (let x: usize = 0; x < <usize>(w + 2 * r); x += 2) {
      const p = src + (x << 3)
      const opaque = load<u16>(p, 6) == 65535 && load<u16>(p, 14) == 65535
      v128.store(fresh + (x << 3), opaque ? v128.load(p) : i16x8.narrow_i32x4_u(premultipliedCodes(p), premultipliedCodes(p + 8)))
    }
    src += srcStride
    if (y < 2 * r) continue
    for (let x: usize = 0; x < line - 32; x += 16) {
      if (r == 1) {
        const a = v128.load(scratch + x)
        const b = v128.load(scratch + line + x)
        const c = v128.load(scratch + line * 2 + x)
        const low = i16x8.min_u(a, b)
        const high = i16x8.max_u(a, b)
        const top = i16x8.max_u(high, c)
        const rest = i16x8.min_u(high, c)
        v128.store(sorted + x, i16x8.min_u(low, rest))
        v128.store(sorted + line + x, i16x8.max_u(low, rest))
        v128.store(sorted + line * 2 + x, top)
        continue
      }
      let a = v128.load(scratch + x)
      let b = v128.load(scratch + line + x)
      let c = v128.load(scratch + line * 2 + x)
      let d = v128.load(scratch + line * 3 + x)
      let e = v128.load(scratch + line * 4 + x)
      let t = i16x8.min_u(a, b)
      b = i16x8.max_u(a, b)
      a = t
      t = i16x8.min_u(d, e)
      e = i16x8.max_u(d, e)
      d = t
      t = i16x8.min_u(c, e)
      e = i16x8.max_u(c, e)
      c = t
      t = i16x8.min_u(c, d)
      d = i16x8.max_u(c, d)
      c = t
      t = i16x8.min_u(b, e)
      e = i16x8.max_u(b, e)
      b = t
      t = i16x8.min_u(a, d)
      d = i16x8.max_u(a, d)
      a = t
      t = i16x8.min_u(a, c)
      c = i16x8.max_u(a, c)
      a = t
      t = i16x8.min_u(b, d)
      d = i16x8.max_u(b, d)
      b = t
      t = i16x8.min_u(b, c)
      c = i16x8.max_u(b, c)
      b = t
      v128.store(sorted + x, a)
      v128.store(sorted + line + x, b)
      v128.store(sorted + line * 2 + x, c)
      v128.store(sorted + line * 3 + x, d)
      v128.store(sorted + line * 4 + x, e)
    }
    for (let x = 0; x < w; x += 2) {
      const s = sorted + (<usize>x << 3)
      const m = r == 1 ? middle3(s, line) : middle5(s, line)
      const q = dst + (<usize>x << 3)
      const both = x + 1 < w
      if (both && i64x2.all_true(i64x2.eq(v128.and(m, alphas), alphas))) {
        v128.store(q, m)
        continue
      }
      v128.store64_lane(q, m, 0)
      if (both) v128.store64_lane(q, m, 1, 8)
      straighten(q)
      if (both) straighten(q + 8)
    }
    dst += dstStride
  }
}

// @ts-ignore: decorator
@inline
export function straighten(q: usize): void {
  if (load<u16>(q, 6) != 65535) storePixel(q, unpremultiply(loadPixel(q)))
}
