// Median of a wide square window in 256 tones, each channel by itself, premultiplied: column histograms (Perreault & Hébert,
// "Median filtering in constant time", IEEE Trans. Image Processing 16, 2007), exact to a half of 1/255. median-exact.ts is its successor.
import { straighten } from './median'
import { allOpaque } from './opaque'
import { running } from './median-exact'

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
  const opaque = allOpaque(src, srcStride, w + 2 * r, h + 2 * r)
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
