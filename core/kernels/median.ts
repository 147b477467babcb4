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

/**
 * The middle ones of two windows of 5 × 5 that lie one below the other, for two pixels: stored at `dst` and, where there is one, `dst2`.
 * They share four rows, sorted column by column from s on, `line` bytes apart. Of those twenty only the six in the middle can be the middle one
 * of twenty-five: they are found once, by merging the columns, and each window's own row, at `above` or `below`, decides between them. (Merges as
 * Batcher's, less what sorted columns and the search for six, or one, make needless, tried on all inputs of zeros and ones.)
 */
function middles5(s: usize, line: usize, above: usize, below: usize, dst: usize, dst2: usize, both: bool): void {
  const c00 = v128.load(s)
  const c01 = v128.load(s + line)
  const c02 = v128.load(s + 2 * line)
  const c03 = v128.load(s + 3 * line)
  const c10 = v128.load(s, 8)
  const c11 = v128.load(s + line, 8)
  const c12 = v128.load(s + 2 * line, 8)
  const c13 = v128.load(s + 3 * line, 8)
  const c20 = v128.load(s, 16)
  const c21 = v128.load(s + line, 16)
  const c22 = v128.load(s + 2 * line, 16)
  const c23 = v128.load(s + 3 * line, 16)
  const c30 = v128.load(s, 24)
  const c31 = v128.load(s + line, 24)
  const c32 = v128.load(s + 2 * line, 24)
  const c33 = v128.load(s + 3 * line, 24)
  const c40 = v128.load(s, 32)
  const c41 = v128.load(s + line, 32)
  const c42 = v128.load(s + 2 * line, 32)
  const c43 = v128.load(s + 3 * line, 32)
  const m0 = i16x8.min_u(c00, c10)
  const m1 = i16x8.max_u(c00, c10)
  const m2 = i16x8.min_u(c02, c12)
  const m3 = i16x8.max_u(c02, c12)
  const m4 = i16x8.min_u(m2, m1)
  const m5 = i16x8.max_u(m2, m1)
  const m6 = i16x8.min_u(c01, c11)
  const m7 = i16x8.max_u(c01, c11)
  const m8 = i16x8.min_u(c03, c13)
  const m9 = i16x8.max_u(c03, c13)
  const m10 = i16x8.min_u(m8, m7)
  const m11 = i16x8.max_u(m8, m7)
  const m12 = i16x8.min_u(m6, m4)
  const m13 = i16x8.max_u(m6, m4)
  const m14 = i16x8.min_u(m10, m5)
  const m15 = i16x8.max_u(m10, m5)
  const m16 = i16x8.min_u(m11, m3)
  const m17 = i16x8.max_u(m11, m3)
  const m18 = i16x8.min_u(c20, c30)
  const m19 = i16x8.max_u(c20, c30)
  const m20 = i16x8.min_u(c22, c32)
  const m21 = i16x8.max_u(c22, c32)
  const m22 = i16x8.min_u(m20, m19)
  const m23 = i16x8.max_u(m20, m19)
  const m24 = i16x8.min_u(c21, c31)
  const m25 = i16x8.max_u(c21, c31)
  const m26 = i16x8.min_u(c23, c33)
  const m27 = i16x8.max_u(c23, c33)
  const m28 = i16x8.min_u(m26, m25)
  const m29 = i16x8.max_u(m26, m25)
  const m30 = i16x8.min_u(m24, m22)
  const m31 = i16x8.max_u(m24, m22)
  const m32 = i16x8.min_u(m28, m23)
  const m33 = i16x8.max_u(m28, m23)
  const m34 = i16x8.min_u(m29, m21)
  const m35 = i16x8.max_u(m29, m21)
  const m36 = i16x8.max_u(m0, m18)
  const m37 = i16x8.min_u(m15, m33)
  const m38 = i16x8.max_u(m15, m33)
  const m39 = i16x8.min_u(m37, m36)
  const m40 = i16x8.max_u(m37, m36)
  const m41 = i16x8.min_u(m13, m31)
  const m42 = i16x8.max_u(m13, m31)
  const m43 = i16x8.min_u(m17, m35)
  const m44 = i16x8.min_u(m43, m42)
  const m45 = i16x8.max_u(m43, m42)
  const m46 = i16x8.max_u(m41, m39)
  const m47 = i16x8.min_u(m44, m40)
  const m48 = i16x8.max_u(m44, m40)
  const m49 = i16x8.min_u(m45, m38)
  const m50 = i16x8.max_u(m45, m38)
  const m51 = i16x8.max_u(m12, m30)
  const m52 = i16x8.min_u(m16, m34)
  const m53 = i16x8.max_u(m16, m34)
  const m54 = i16x8.min_u(m52, m51)
  const m55 = i16x8.max_u(m52, m51)
  const m56 = i16x8.min_u(m14, m32)
  const m57 = i16x8.max_u(m14, m32)
  const m58 = i16x8.min_u(m9, m27)
  const m59 = i16x8.min_u(m58, m57)
  const m60 = i16x8.max_u(m58, m57)
  const m61 = i16x8.min_u(m56, m54)
  const m62 = i16x8.max_u(m56, m54)
  const m63 = i16x8.min_u(m59, m55)
  const m64 = i16x8.max_u(m59, m55)
  const m65 = i16x8.min_u(m60, m53)
  const m66 = i16x8.max_u(m60, m53)
  const m67 = i16x8.min_u(m61, m46)
  const m68 = i16x8.max_u(m61, m46)
  const m69 = i16x8.min_u(m62, m47)
  const m70 = i16x8.max_u(m62, m47)
  const m71 = i16x8.min_u(m63, m48)
  const m72 = i16x8.max_u(m63, m48)
  const m73 = i16x8.min_u(m64, m49)
  const m74 = i16x8.max_u(m64, m49)
  const m75 = i16x8.min_u(m65, m50)
  const m76 = i16x8.max_u(m65, m50)
  const m77 = i16x8.min_u(m72, c40)
  const m78 = i16x8.max_u(m72, c40)
  const m79 = i16x8.max_u(m68, m77)
  const m80 = i16x8.min_u(m76, m78)
  const m81 = i16x8.min_u(m74, c42)
  const m82 = i16x8.min_u(m70, m81)
  const m83 = i16x8.max_u(m70, m81)
  const m84 = i16x8.max_u(m82, m79)
  const m85 = i16x8.min_u(m83, m80)
  const m86 = i16x8.max_u(m83, m80)
  const m87 = i16x8.min_u(m73, c41)
  const m88 = i16x8.max_u(m73, c41)
  const m89 = i16x8.max_u(m69, m87)
  const m90 = i16x8.min_u(m66, m88)
  const m91 = i16x8.max_u(m67, c43)
  const m92 = i16x8.min_u(m75, m91)
  const m93 = i16x8.min_u(m71, m92)
  const m94 = i16x8.max_u(m71, m92)
  const m95 = i16x8.min_u(m93, m89)
  const m96 = i16x8.max_u(m93, m89)
  const m97 = i16x8.min_u(m94, m90)
  const m98 = i16x8.min_u(m95, m84)
  const m99 = i16x8.max_u(m95, m84)
  const m100 = i16x8.min_u(m96, m85)
  const m101 = i16x8.max_u(m96, m85)
  const m102 = i16x8.min_u(m97, m86)
  const m103 = i16x8.max_u(m97, m86)
  putMiddle(dst, middleOfSix(m98, m99, m100, m101, m102, m103, above), both)
  if (dst2) putMiddle(dst2, middleOfSix(m98, m99, m100, m101, m102, m103, below), both)
}

/** The middle one of six that are sorted, least first, and five that follow each other at p. */
// @ts-ignore: decorator
@inline
function middleOfSix(a: v128, b: v128, c: v128, d: v128, e: v128, f: v128, p: usize): v128 {
  const p0 = v128.load(p)
  const p1 = v128.load(p, 8)
  const p2 = v128.load(p, 16)
  const p3 = v128.load(p, 24)
  const p4 = v128.load(p, 32)
  const n0 = i16x8.min_u(p0, p3)
  const n1 = i16x8.max_u(p0, p3)
  const n2 = i16x8.min_u(p1, p4)
  const n3 = i16x8.max_u(p1, p4)
  const n4 = i16x8.min_u(n0, p2)
  const n5 = i16x8.max_u(n0, p2)
  const n6 = i16x8.min_u(n2, n1)
  const n7 = i16x8.max_u(n2, n1)
  const n8 = i16x8.min_u(n4, n6)
  const n9 = i16x8.max_u(n4, n6)
  const n10 = i16x8.min_u(n5, n3)
  const n11 = i16x8.max_u(n5, n3)
  const n12 = i16x8.min_u(n9, n10)
  const n13 = i16x8.max_u(n9, n10)
  const n14 = i16x8.min_u(n7, n11)
  const n15 = i16x8.max_u(n7, n11)
  const n16 = i16x8.min_u(n13, n14)
  const n17 = i16x8.max_u(n13, n14)
  const n18 = i16x8.max_u(a, n8)
  const n19 = i16x8.min_u(e, n15)
  const n20 = i16x8.max_u(n19, n18)
  const n21 = i16x8.max_u(c, n16)
  const n22 = i16x8.min_u(n21, n20)
  const n23 = i16x8.max_u(b, n12)
  const n24 = i16x8.min_u(f, n23)
  const n25 = i16x8.min_u(d, n17)
  const n26 = i16x8.max_u(n25, n24)
  const n27 = i16x8.min_u(n26, n22)
  return n27
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
    fiveRows(src, srcStride, dst, dstStride, w, h, scratch)
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
    } else threeRows(src, srcStride, dst, dstStride, w, rows, scratch)
    src += <usize>rows * <usize>srcStride
    dst += <usize>rows * <usize>dstStride
  }
}

/** Premultiplied codes of a row of pixels. */
// @ts-ignore: decorator
@inline
function premultipliedRow(src: usize, to: usize, w: i32): void {
  for (let x: usize = 0; x < <usize>w; x += 2) {
    const p = src + (x << 3)
    const opaque = load<u16>(p, 6) == 65535 && load<u16>(p, 14) == 65535
    v128.store(to + (x << 3), opaque ? v128.load(p) : i16x8.narrow_i32x4_u(premultipliedCodes(p), premultipliedCodes(p + 8)))
  }
}

/** One or two pixels of a result, straight again. */
// @ts-ignore: decorator
@inline
function putMiddle(q: usize, m: v128, both: bool): void {
  const alphas = i64x2.splat(0xffff000000000000)
  if (both && i64x2.all_true(i64x2.eq(v128.and(m, alphas), alphas))) {
    v128.store(q, m)
    return
  }
  v128.store64_lane(q, m, 0)
  if (both) v128.store64_lane(q, m, 1, 8)
  straighten(q)
  if (both) straighten(q + 8)
}

/** Medians of 3 × 3 pixels that may be clear. */
function threeRows(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, scratch: usize): void {
  const line = <usize>(w + 2) * 8 + 48
  const sorted = scratch + 3 * line
  for (let y = 0; y < h + 2; y++) {
    premultipliedRow(src, scratch + <usize>(y % 3) * line, w + 2)
    src += srcStride
    if (y < 2) continue
    for (let x: usize = 0; x < line - 32; x += 16) {
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
    }
    for (let x = 0; x < w; x += 2) putMiddle(dst + (<usize>x << 3), middle3(sorted + (<usize>x << 3), line), x + 1 < w)
    dst += dstStride
  }
}

/** Medians of 5 × 5 pixels, two rows at a time. */
function fiveRows(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, scratch: usize): void {
  const line = <usize>(w + 4) * 8 + 48
  const sorted = scratch + 6 * line
  let read = 0
  for (let y = 0; y < h; y += 2) {
    const two = y + 1 < h
    for (; read < y + (two ? 6 : 5); read++) {
      premultipliedRow(src, scratch + <usize>(read % 6) * line, w + 4)
      src += srcStride
    }
    const above = scratch + <usize>(y % 6) * line
    const first = scratch + <usize>((y + 1) % 6) * line
    const second = scratch + <usize>((y + 2) % 6) * line
    const third = scratch + <usize>((y + 3) % 6) * line
    const fourth = scratch + <usize>((y + 4) % 6) * line
    const below = two ? scratch + <usize>((y + 5) % 6) * line : above
    for (let x: usize = 0; x < line - 32; x += 16) {
      const a = v128.load(first + x)
      const b = v128.load(second + x)
      const c = v128.load(third + x)
      const d = v128.load(fourth + x)
      const lowAb = i16x8.min_u(a, b)
      const highAb = i16x8.max_u(a, b)
      const lowCd = i16x8.min_u(c, d)
      const highCd = i16x8.max_u(c, d)
      const high = i16x8.max_u(lowAb, lowCd)
      const low = i16x8.min_u(highAb, highCd)
      v128.store(sorted + x, i16x8.min_u(lowAb, lowCd))
      v128.store(sorted + line + x, i16x8.min_u(low, high))
      v128.store(sorted + line * 2 + x, i16x8.max_u(low, high))
      v128.store(sorted + line * 3 + x, i16x8.max_u(highAb, highCd))
    }
    for (let x = 0; x < w; x += 2) {
      const at = <usize>x << 3
      middles5(sorted + at, line, above + at, below + at, dst + at, two ? dst + dstStride + at : 0, x + 1 < w)
    }
    dst += 2 * dstStride
  }
}

// @ts-ignore: decorator
@inline
export function straighten(q: usize): void {
  if (load<u16>(q, 6) != 65535) storePixel(q, unpremultiply(loadPixel(q)))
}
