// Mean of a square window, at a cost that does not grow with it. Running sums are whole numbers, so it does not matter where
// a row began.
import { allOpaque } from './opaque'
import { coded, storePixel, unpremultiply } from './simd'

/** A premultiplied pixel as four codes 0…65535. */
// @ts-ignore: decorator
@inline
export function premultipliedCodes(p: usize): v128 {
  // most pixels are opaque
  if (load<u16>(p, 6) == 65535) return i32x4.extend_low_i16x8_u(v128.load64_zero(p))
  const c = f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(v128.load64_zero(p)))
  const a = f32x4.mul(i8x16.shuffle(c, c, 12, 13, 14, 15, 12, 13, 14, 15, 12, 13, 14, 15, 12, 13, 14, 15), f32x4.splat(<f32>1 / <f32>65535))
  // 2²³ leaves the rounded number in the low bits; alpha's own lane is multiplied by 1
  const k = f32x4.replace_lane(a, 3, 1)
  return i32x4.sub(f32x4.add(f32x4.mul(c, k), f32x4.splat(8388608)), i32x4.splat(0x4b000000))
}

/**
 * Mean over (2r + 1) × (2r + 1) pixels, premultiplied, RGBA16; r 1…500. src is the w × h output region grown by r on all sides.
 * @rows src dst
 * @overlap 2 * r
 * @scratch (w + 2 * r) * 32
 */
export function boxMean(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, scratch: usize): void {
  const n = 2 * r + 1
  const columns = w + 2 * r
  const end = <usize>columns << 4
  const opaque = allOpaque(src, srcStride, columns, h + 2 * r)
  memory.fill(scratch, 0, end)
  for (let y = 0; y < 2 * r; y++) {
    const p = src + <usize>y * <usize>srcStride
    for (let x: usize = 0; x < end; x += 16) v128.store(scratch + x, i32x4.add(v128.load(scratch + x), premultipliedCodes(p + (x >> 1))))
  }
  // a column's mean in 1/64 codes: 22 bits, so that the sum of a row of them fits 32
  const toMean = f32x4.splat(<f32>64 / <f32>n)
  const toValue = f32x4.splat(<f32>2 / (<f32>64 * <f32>n * <f32>65535))
  const means = scratch + end
  // what an opaque window sums up to
  const full = n * <i32>(<f32>(n * 65535) * (<f32>64 / <f32>n) + 0.5)
  for (let y = 0; y < h; y++) {
    const fresh = src + <usize>(y + 2 * r) * <usize>srcStride
    const old = src + <usize>(y - 1) * <usize>srcStride
    if (y == 0) for (let x: usize = 0; x < end; x += 16) replaced(scratch + x, premultipliedCodes(fresh + (x >> 1)), means + x, toMean)
    else if (opaque) {
      let into = fresh
      let from = old
      let at = scratch
      // four at a time: addresses cost as much as what is done at them
      for (; at + 48 < means; at += 64) {
        const a = v128.load(into)
        const b = v128.load(into, 16)
        const c = v128.load(from)
        const d = v128.load(from, 16)
        const s0 = i32x4.add(v128.load(at), i32x4.sub(i32x4.extend_low_i16x8_u(a), i32x4.extend_low_i16x8_u(c)))
        const s1 = i32x4.add(v128.load(at, 16), i32x4.sub(i32x4.extend_high_i16x8_u(a), i32x4.extend_high_i16x8_u(c)))
        const s2 = i32x4.add(v128.load(at, 32), i32x4.sub(i32x4.extend_low_i16x8_u(b), i32x4.extend_low_i16x8_u(d)))
        const s3 = i32x4.add(v128.load(at, 48), i32x4.sub(i32x4.extend_high_i16x8_u(b), i32x4.extend_high_i16x8_u(d)))
        v128.store(at, s0)
        v128.store(at, s1, 16)
        v128.store(at, s2, 32)
        v128.store(at, s3, 48)
        const to = at + end
        v128.store(to, rounded(s0, toMean))
        v128.store(to, rounded(s1, toMean), 16)
        v128.store(to, rounded(s2, toMean), 32)
        v128.store(to, rounded(s3, toMean), 48)
        into += 32
        from += 32
      }
      for (; at < means; at += 16) {
        replaced(at, i32x4.sub(codes(into), codes(from)), at + end, toMean)
        into += 8
        from += 8
      }
    } else {
      for (let x: usize = 0; x < end; x += 16)
        replaced(scratch + x, i32x4.sub(premultipliedCodes(fresh + (x >> 1)), premultipliedCodes(old + (x >> 1))), means + x, toMean)
    }
    let sum = i32x4.splat(0)
    for (let x: usize = 0; x < <usize>(2 * r) << 4; x += 16) sum = i32x4.add(sum, v128.load(means + x))
    let leaves = means
    let enters = means + (<usize>(2 * r) << 4)
    const wide = <usize>w << 3
    let x: usize = 0
    if (opaque) {
      for (; x + 8 < wide; x += 16) {
        const first = i32x4.add(sum, v128.load(enters))
        const second = i32x4.add(i32x4.sub(first, v128.load(leaves)), v128.load(enters, 16))
        v128.store(dst + x, i16x8.narrow_i32x4_u(coded(meanOf(first, toValue)), coded(meanOf(second, toValue))))
        sum = i32x4.sub(second, v128.load(leaves, 16))
        enters += 32
        leaves += 32
      }
    }
    for (; x < wide; x += 8) {
      sum = i32x4.add(sum, v128.load(enters))
      const value = meanOf(sum, toValue)
      storePixel(dst + x, opaque || i32x4.extract_lane(sum, 3) == full ? value : unpremultiply(value))
      sum = i32x4.sub(sum, v128.load(leaves))
      enters += 16
      leaves += 16
    }
    dst += dstStride
  }
}

// @ts-ignore: decorator
@inline
function codes(p: usize): v128 {
  return i32x4.extend_low_i16x8_u(v128.load64_zero(p))
}

/** The sum of a row of columns' means as a mean 0…1: halved first, so that it is read as a positive number. */
// @ts-ignore: decorator
@inline
function meanOf(sum: v128, toValue: v128): v128 {
  return f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_u(sum, 1)), toValue)
}

/** Adds a change to a column's sum, and stores its mean. */
// @ts-ignore: decorator
@inline
function replaced(column: usize, change: v128, to: usize, k: v128): void {
  const sum = i32x4.add(v128.load(column), change)
  v128.store(column, sum)
  v128.store(to, rounded(sum, k))
}

/** k times whole numbers, rounded to whole numbers. */
// @ts-ignore: decorator
@inline
function rounded(v: v128, k: v128): v128 {
  return i32x4.sub(f32x4.add(f32x4.mul(f32x4.convert_i32x4_s(v), k), f32x4.splat(8388608)), i32x4.splat(0x4b000000))
}
