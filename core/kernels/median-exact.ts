// Median of a wide square window on all 16 bits, each channel by itself, premultiplied: column histograms in two tiers (Perreault &
// Hébert, "Median filtering in constant time", IEEE Trans. Image Processing 16, 2007), walked twice: for the median's high byte, then for
// its low byte among those that share the high one. Where all of them have one low byte, as in pictures of 8 bits, once is enough.
import { straighten } from './median'
import { medianSeven } from './median-seven'
import { allOpaque } from './opaque'
import { premultiplied } from './premultiplied'

/** Columns worked on at once: their histograms stay in the processor's cache. */
const BLOCK: i32 = 96
/** High bytes whose low ones are counted at once. */
const SLOTS: i32 = 16
/** Bytes of sixteen counts; a column has one such group of coarse bins, and one of fine bins under each. */
const GROUP: usize = 32
const GROUPS: usize = 17
/** Bytes of a window's counts: its groups, then the columns where they were last brought up to date. */
const WINDOW: usize = 640
const NONE: u32 = 255

/** Adds n to the bin of a byte; `group` bytes lie between groups of a column. */
// @ts-ignore: decorator
@inline
function count(column: usize, group: usize, byte: u32, n: i32): void {
  const coarse = column + ((<usize>byte >> 4) << 1)
  const fine = column + ((<usize>byte >> 4) + 1) * group + ((<usize>byte & 15) << 1)
  store<u16>(coarse, <u16>(<i32>load<u16>(coarse) + n))
  store<u16>(fine, <u16>(<i32>load<u16>(fine) + n))
}

/** Running sums of eight counts. */
// @ts-ignore: decorator
@inline
export function running(v: v128): v128 {
  const zero = i32x4.splat(0)
  v = i16x8.add(v, i8x16.shuffle(zero, v, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29))
  v = i16x8.add(v, i8x16.shuffle(zero, v, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27))
  return i16x8.add(v, i8x16.shuffle(zero, v, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23))
}

/** Brings a window's group, last summed for the n columns from `dated`, to those from x; `columns` points to the group in column 0. */
// @ts-ignore: decorator
@inline
function bring(sums: usize, columns: usize, date: usize, x: i32, n: i32): void {
  const dated = load<i32>(date)
  store<i32>(date, x)
  let s0: v128, s1: v128
  if (dated < 0 || 2 * (x - dated) > n) {
    s0 = i32x4.splat(0)
    s1 = s0
    const end = columns + <usize>(x + n) * GROUP
    for (let p = columns + <usize>x * GROUP; p < end; p += GROUP) {
      s0 = i16x8.add(s0, v128.load(p))
      s1 = i16x8.add(s1, v128.load(p, 16))
    }
  } else {
    s0 = v128.load(sums)
    s1 = v128.load(sums, 16)
    const end = columns + <usize>x * GROUP
    for (let p = columns + <usize>dated * GROUP; p < end; p += GROUP) {
      const q = p + <usize>n * GROUP
      s0 = i16x8.add(s0, i16x8.sub(v128.load(q), v128.load(p)))
      s1 = i16x8.add(s1, i16x8.sub(v128.load(q, 16), v128.load(p, 16)))
    }
  }
  v128.store(sums, s0)
  v128.store(sums, s1, 16)
}

/** The first of sixteen bins whose running sum passes a rank, and in the high half what lies before it. `room` has 48 bytes. */
// @ts-ignore: decorator
@inline
function find(sums: usize, rank: i32, room: usize): i32 {
  const a = running(v128.load(sums))
  const b = i16x8.add(running(v128.load(sums, 16)), i16x8.splat(i16x8.extract_lane_s(a, 7)))
  const limit = i16x8.splat(<i16>rank)
  v128.store(room, a, 2)
  v128.store(room, b, 18)
  store<u16>(room, 0)
  const bin = ctz(i16x8.bitmask(i16x8.gt_s(a, limit)) | (i16x8.bitmask(i16x8.gt_s(b, limit)) << 8))
  return bin | (<i32>load<u16>(room + (<usize>bin << 1)) << 16)
}

/**
 * One byte of the medians of a block's pixels, channel c. For the high byte (slots 0): into dst, and the rank among what shares it into
 * `ranks`. For the low byte: where `ranks` is not negative and the high byte in dst has a slot, dst becomes the median and the rank −1.
 */
function descend(
  src: usize,
  srcStride: usize,
  dst: usize,
  dstStride: usize,
  bw: i32,
  h: i32,
  r: i32,
  c: usize,
  slotOf: usize,
  slots: i32,
  histograms: usize,
  windows: usize,
  ranks: usize,
): void {
  const n = 2 * r + 1
  const columns = bw + 2 * r
  const high = slots == 0
  const group = <usize>columns * GROUP
  const slotBytes = group * GROUPS
  const used = high ? 1 : slots
  const room = windows + <usize>SLOTS * WINDOW
  memory.fill(histograms, 0, <usize>used * slotBytes)
  for (let y = 0; y < h + 2 * r; y++) {
    const fresh = src + <usize>y * srcStride
    const old = fresh - <usize>n * srcStride
    const leaving = y >= n
    for (let x: usize = 0; x < <usize>columns; x++) {
      const v = premultiplied(fresh + (x << 3), c)
      const s = high ? 0 : <u32>load<u8>(slotOf + (v >> 8))
      if (s != NONE) count(histograms + <usize>s * slotBytes + x * GROUP, group, high ? v >> 8 : v & 255, 1)
      if (!leaving) continue
      const o = premultiplied(old + (x << 3), c)
      const t = high ? 0 : <u32>load<u8>(slotOf + (o >> 8))
      if (t != NONE) count(histograms + <usize>t * slotBytes + x * GROUP, group, high ? o >> 8 : o & 255, -1)
    }
    if (y < 2 * r) continue
    for (let s = 0; s < used; s++) memory.fill(windows + <usize>s * WINDOW + GROUPS * GROUP, 255, GROUPS << 2)
    const q = dst + <usize>(y - 2 * r) * dstStride
    const rank = ranks + <usize>(y - 2 * r) * <usize>(BLOCK * 2)
    for (let x = 0; x < bw; x++) {
      const at = q + (<usize>x << 3)
      const above = <u32>load<u16>(at)
      let k: i32 = (n * n - 1) / 2
      let s: u32 = 0
      if (!high) {
        k = load<i16>(rank + (<usize>x << 1))
        s = <u32>load<u8>(slotOf + (above & 255))
        if (k < 0 || s == NONE) continue
      }
      const window = windows + <usize>s * WINDOW
      const dates = window + GROUPS * GROUP
      const counts = histograms + <usize>s * slotBytes
      bring(window, counts, dates, x, n)
      const coarse = find(window, k, room)
      k -= coarse >>> 16
      const g = <usize>(coarse & 15) + 1
      bring(window + g * GROUP, counts + g * group, dates + (g << 2), x, n)
      const fine = find(window + g * GROUP, k, room)
      const byte = ((coarse & 15) << 4) | (fine & 15)
      store<u16>(at, <u16>(high ? byte : <i32>(above << 8) | byte))
      store<i16>(rank + (<usize>x << 1), <i16>(high ? k - (fine >>> 16) : -1))
    }
  }
}

/**
 * Median of (2r + 1)² pixels on all 16 bits, r 1…90; that of 7 × 7 by a network. src is the w × h output region grown by r on all sides.
 * @rows src dst
 * @overlap 2 * r
 * @scratch (96 + 2 * r) * 544 * 16 + h * 192 + 12288 + (w + 12) * 112
 */
export function medianExact(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, scratch: usize): void {
  const windows = scratch
  // what low byte a high one has (mixed where it has several), and where its low bytes are counted
  const lows = windows + 10752
  const slotOf = lows + 512
  const ranks = slotOf + 256 + 768
  const histograms = ranks + <usize>h * <usize>(BLOCK * 2)
  const UNSEEN: u16 = 256
  const MIXED: u16 = 257
  const opaque = allOpaque(src, srcStride, w + 2 * r, h + 2 * r)
  const channels: usize = opaque ? 3 : 4
  if (r == 3) medianSeven(src, srcStride, dst, dstStride, w, h, opaque, scratch)
  else for (let x0 = 0; x0 < w; x0 += BLOCK) {
    const bw = min(BLOCK, w - x0)
    const left = src + (<usize>x0 << 3)
    for (let c: usize = 0; c < channels; c++) {
      const q0 = dst + (<usize>x0 << 3) + (c << 1)
      descend(left, <usize>srcStride, q0, <usize>dstStride, bw, h, r, c, slotOf, 0, histograms, windows, ranks)
      for (let b: usize = 0; b < 256; b++) store<u16>(lows + (b << 1), UNSEEN)
      for (let y = 0; y < h + 2 * r; y++) {
        const p = left + <usize>y * <usize>srcStride
        for (let x = 0; x < bw + 2 * r; x++) {
          const v = premultiplied(p + (<usize>x << 3), c)
          const low = lows + <usize>((v >> 8) << 1)
          const before = load<u16>(low)
          if (before == <u16>(v & 255) || before == MIXED) continue
          store<u16>(low, before == UNSEEN ? <u16>(v & 255) : MIXED)
        }
      }
      // rounds of as many mixed high bytes as there are slots; those that had theirs are marked by their rank
      for (let more = true; more; ) {
        more = false
        let slots = 0
        memory.fill(slotOf, 255, 256)
        for (let y = 0; y < h; y++) {
          const q = q0 + <usize>y * <usize>dstStride
          const rank = ranks + <usize>y * <usize>(BLOCK * 2)
          for (let x: usize = 0; x < <usize>bw; x++) {
            if (load<i16>(rank + (x << 1)) < 0) continue
            const b = load<u16>(q + (x << 3))
            const low = load<u16>(lows + (<usize>b << 1))
            if (low < UNSEEN) {
              store<u16>(q + (x << 3), (b << 8) | low)
              store<i16>(rank + (x << 1), -1)
            } else if (load<u8>(slotOf + <usize>b) == NONE) {
              if (slots == SLOTS) more = true
              else {
                store<u8>(slotOf + <usize>b, <u8>slots)
                slots++
              }
            }
          }
        }
        if (slots > 0) descend(left, <usize>srcStride, q0, <usize>dstStride, bw, h, r, c, slotOf, slots, histograms, windows, ranks)
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
