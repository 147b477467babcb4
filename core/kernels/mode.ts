// Tone-bin mode filter: each pixel becomes the mean colour of the most frequent band of tones about it, which paints in daubs.
import { premultipliedCodes } from './box'
import { storePixel, unpremultiply } from './simd'

/** Adds (sign 1) or takes (sign −1) a premultiplied pixel to the bin of its tone, and marks in the column's bits whether that bin holds anything. */
// @ts-ignore: decorator
@inline
function tally(column: usize, bits: usize, p: usize, bins: u32, sign: i32): void {
  const px = load<u64>(p)
  const l = (<u32>(px & 0xffff) * 13933 + <u32>((px >> 16) & 0xffff) * 46871 + <u32>((px >> 32) & 0xffff) * 4732) >> 16
  const bin = (l * bins) >> 16
  const at = column + (<usize>bin << 4)
  const c = premultipliedCodes(p)
  const sum = sign > 0 ? i32x4.add(v128.load(at), c) : i32x4.sub(v128.load(at), c)
  v128.store(at, sum)
  const bit = <u64>1 << <u64>bin
  const held = load<u64>(bits)
  // no colour is more than its alpha: where that is none, nothing is there
  store<u64>(bits, i32x4.extract_lane(sum, 3) != 0 ? held | bit : held & ~bit)
}

/** Adds (sign 1) or takes (sign −1) a column's bins to those of the window; their alphas are kept once more, side by side. */
// @ts-ignore: decorator
@inline
function pass(window: usize, counts: usize, column: usize, bits: u64, sign: i32): void {
  for (; bits != 0; bits &= bits - 1) {
    const bin = <usize>ctz(bits)
    const at = window + (bin << 4)
    const c = v128.load(column + (bin << 4))
    const sum = sign > 0 ? i32x4.add(v128.load(at), c) : i32x4.sub(v128.load(at), c)
    v128.store(at, sum)
    store<i32>(counts + (bin << 2), i32x4.extract_lane(sum, 3))
  }
}

/**
 * Sums of each tone bin are kept a column (alpha counts the pixels), so the cost does not grow with the window, and which of them hold anything: few, so what enters and
 * leaves is few; they are whole numbers, so it does not matter where a row began. Of equally frequent bins the darkest counts. src is the w × h output region grown by r
 * on all sides; r 1…90, bins 2…64.
 * @rows src dst
 * @overlap 2 * r
 * @scratch (w + 2 * r + 1) * (bins * 16 + 8) + 272
 */
export function toneMode(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, bins: i32, scratch: usize): void {
  const columns = w + 2 * r
  const size = <usize>bins << 4
  const window = scratch + <usize>columns * size
  const counts = window + size
  const fours = <usize>((bins + 3) >> 2) << 4
  const bits = counts + fours
  memory.fill(scratch, 0, <usize>columns * size)
  memory.fill(bits, 0, <usize>columns << 3)
  for (let y = 0; y < 2 * r; y++) {
    const p = src + <usize>y * <usize>srcStride
    for (let x = 0; x < columns; x++) tally(scratch + <usize>x * size, bits + (<usize>x << 3), p + (<usize>x << 3), bins, 1)
  }
  const full = f32x4.splat(<f32>1 / <f32>65535)
  for (let y = 0; y < h; y++) {
    const fresh = src + <usize>(y + 2 * r) * <usize>srcStride
    const old = src + <usize>(y - 1) * <usize>srcStride
    for (let x = 0; x < columns; x++) {
      tally(scratch + <usize>x * size, bits + (<usize>x << 3), fresh + (<usize>x << 3), bins, 1)
      if (y > 0) tally(scratch + <usize>x * size, bits + (<usize>x << 3), old + (<usize>x << 3), bins, -1)
    }
    memory.fill(window, 0, size)
    // of the last four, those that are no bins never win
    v128.store(counts + fours - 16, i32x4.splat(-1))
    memory.fill(counts, 0, <usize>bins << 2)
    for (let x = 0; x < 2 * r; x++) pass(window, counts, scratch + <usize>x * size, load<u64>(bits + (<usize>x << 3)), 1)
    for (let x = 0; x < w; x++) {
      pass(window, counts, scratch + <usize>(x + 2 * r) * size, load<u64>(bits + (<usize>(x + 2 * r) << 3)), 1)
      if (x > 0) pass(window, counts, scratch + <usize>(x - 1) * size, load<u64>(bits + (<usize>(x - 1) << 3)), -1)
      let most = v128.load(counts)
      for (let k: usize = 16; k < fours; k += 16) most = i32x4.max_s(most, v128.load(counts + k))
      most = i32x4.max_s(most, i32x4.shuffle(most, most, 2, 3, 0, 1))
      most = i32x4.max_s(most, i32x4.shuffle(most, most, 1, 0, 3, 2))
      let k: usize = 0
      let equal = i32x4.bitmask(i32x4.eq(v128.load(counts), most))
      while (equal == 0) {
        k += 16
        equal = i32x4.bitmask(i32x4.eq(v128.load(counts + k), most))
      }
      const best = v128.load(window + (((k >> 2) + <usize>ctz(equal)) << 4))
      // the alpha of the middle pixel stays, the colour is the bin's mean
      const c = unpremultiply(f32x4.mul(f32x4.convert_i32x4_s(best), full))
      const middle = src + <usize>(y + r) * <usize>srcStride + (<usize>(x + r) << 3)
      storePixel(dst + (<usize>x << 3), f32x4.replace_lane(c, 3, <f32>load<u16>(middle, 6) * (<f32>1 / <f32>65535)))
    }
    dst += dstStride
  }
}
