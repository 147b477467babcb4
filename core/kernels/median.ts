// Median of a square window, each channel by itself, premultiplied. Windows of 3 and 5 pixels by sorting networks on all 16
// bits; wider ones by column histograms of 256 bins (Perreault & Hébert, "Median filtering in constant time", IEEE Trans. Image
// Processing 16, 2007), exact to a half of 1/255.
import { premultipliedCodes } from './box'
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
 * Median of (2r + 1)² pixels, r 1 or 2. src is the w × h output region grown by r on all sides.
 * @rows src dst
 * @overlap 2 * r
 * @scratch (4 * r + 2) * ((w + 2 * r) * 8 + 48)
 */
export function medianSmall(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, scratch: usize): void {
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
function straighten(q: usize): void {
  if (load<u16>(q, 6) != 65535) storePixel(q, unpremultiply(loadPixel(q)))
}

/** Columns worked on at once: their histograms stay in the processor's cache. */
const BLOCK: i32 = 96
/** Bytes of a column's histogram: 16 coarse bins, 256 fine ones. */
const COLUMN: usize = 544

/** A premultiplied channel in 8 bits. */
// @ts-ignore: decorator
@inline
function tone(p: usize, c: usize): usize {
  let v = <u32>load<u16>(p + (c << 1))
  const a = <u32>load<u16>(p, 6)
  if (c != 3 && a != 65535) v = <u32>((<u64>v * a + 32767) / 65535)
  return <usize>((v * 255 + 32895) >> 16)
}

// @ts-ignore: decorator
@inline
function count(column: usize, v: usize, n: i32): void {
  const coarse = column + ((v >> 4) << 1)
  const fine = column + 32 + (v << 1)
  store<u16>(coarse, <u16>(<i32>load<u16>(coarse) + n))
  store<u16>(fine, <u16>(<i32>load<u16>(fine) + n))
}

/** Running sums of eight counts. */
// @ts-ignore: decorator
@inline
function running(v: v128): v128 {
  const zero = i32x4.splat(0)
  v = i16x8.add(v, i8x16.shuffle(zero, v, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29))
  v = i16x8.add(v, i8x16.shuffle(zero, v, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27))
  return i16x8.add(v, i8x16.shuffle(zero, v, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23))
}

/**
 * Median of (2r + 1)² pixels in 256 tones, r 1…90. src is the w × h output region grown by r on all sides.
 * @rows src dst
 * @overlap 2 * r
 * @scratch (96 + 2 * r) * 544 + 1024
 */
export function medianWide(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, scratch: usize): void {
  const n = 2 * r + 1
  // fine bins of the window, where they were last brought up to date, and sixteen running sums
  const fines = scratch + <usize>(BLOCK + 2 * r) * COLUMN
  const dates = fines + 512
  const sums = dates + 64
  const rank = i16x8.splat(<i16>((n * n - 1) / 2))
  let opaque = true
  for (let y = 0; y < h + 2 * r && opaque; y++) {
    const p = src + <usize>y * <usize>srcStride
    for (let x = 0; x < w + 2 * r; x++) if (load<u16>(p + (<usize>x << 3), 6) != 65535) opaque = false
  }
  const channels: usize = opaque ? 3 : 4
  for (let x0 = 0; x0 < w; x0 += BLOCK) {
    const bw = min(BLOCK, w - x0)
    const columns = bw + 2 * r
    for (let c: usize = 0; c < channels; c++) {
      memory.fill(scratch, 0, <usize>columns * COLUMN)
      const left = src + (<usize>x0 << 3)
      for (let y = 0; y < 2 * r; y++) {
        const p = left + <usize>y * <usize>srcStride
        for (let x = 0; x < columns; x++) count(scratch + <usize>x * COLUMN, tone(p + (<usize>x << 3), c), 1)
      }
      for (let y = 0; y < h; y++) {
        const fresh = left + <usize>(y + 2 * r) * <usize>srcStride
        const old = left + <usize>(y - 1) * <usize>srcStride
        for (let x = 0; x < columns; x++) {
          const column = scratch + <usize>x * COLUMN
          count(column, tone(fresh + (<usize>x << 3), c), 1)
          if (y > 0) count(column, tone(old + (<usize>x << 3), c), -1)
        }
        let h0 = i32x4.splat(0)
        let h1 = h0
        for (let x = 0; x < 2 * r; x++) {
          const column = scratch + <usize>x * COLUMN
          h0 = i16x8.add(h0, v128.load(column))
          h1 = i16x8.add(h1, v128.load(column, 16))
        }
        memory.fill(dates, 255, 64)
        const q = dst + <usize>y * <usize>dstStride + (<usize>x0 << 3)
        for (let x = 0; x < bw; x++) {
          const enters = scratch + <usize>(x + 2 * r) * COLUMN
          h0 = i16x8.add(h0, v128.load(enters))
          h1 = i16x8.add(h1, v128.load(enters, 16))
          // the first coarse bin whose running sum passes the rank, and what lies before it
          let a = running(h0)
          let b = i16x8.add(running(h1), i16x8.splat(i16x8.extract_lane_s(a, 7)))
          v128.store(sums, a, 2)
          v128.store(sums, b, 18)
          store<u16>(sums, 0)
          const coarse = ctz(i16x8.bitmask(i16x8.gt_s(a, rank)) | (i16x8.bitmask(i16x8.gt_s(b, rank)) << 8))
          const before = i16x8.splat(load<i16>(sums + (<usize>coarse << 1)))
          // its fine bins, brought up to date
          const fine = fines + (<usize>coarse << 5)
          const part = <usize>32 + (<usize>coarse << 5)
          const dated = load<i32>(dates + (<usize>coarse << 2))
          let f0: v128, f1: v128
          if (dated < 0 || 2 * (x - dated) > n) {
            f0 = i32x4.splat(0)
            f1 = f0
            for (let k = x; k < x + n; k++) {
              const column = scratch + <usize>k * COLUMN + part
              f0 = i16x8.add(f0, v128.load(column))
              f1 = i16x8.add(f1, v128.load(column, 16))
            }
          } else {
            f0 = v128.load(fine)
            f1 = v128.load(fine, 16)
            for (let k = dated; k < x; k++) {
              const out = scratch + <usize>k * COLUMN + part
              const into = out + <usize>n * COLUMN
              f0 = i16x8.add(f0, i16x8.sub(v128.load(into), v128.load(out)))
              f1 = i16x8.add(f1, i16x8.sub(v128.load(into, 16), v128.load(out, 16)))
            }
          }
          v128.store(fine, f0)
          v128.store(fine, f1, 16)
          store<i32>(dates + (<usize>coarse << 2), x)
          a = i16x8.add(running(f0), before)
          b = i16x8.add(running(f1), i16x8.splat(i16x8.extract_lane_s(a, 7)))
          const within = ctz(i16x8.bitmask(i16x8.gt_s(a, rank)) | (i16x8.bitmask(i16x8.gt_s(b, rank)) << 8))
          store<u16>(q + (<usize>x << 3) + (c << 1), <u16>(((coarse << 4) + within) * 257))
          const leaves = scratch + <usize>x * COLUMN
          h0 = i16x8.sub(h0, v128.load(leaves))
          h1 = i16x8.sub(h1, v128.load(leaves, 16))
        }
      }
    }
  }
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const q = dst + (<usize>x << 3)
      if (opaque) store<u16>(q, 65535, 6)
      else straighten(q)
    }
    dst += dstStride
  }
}
