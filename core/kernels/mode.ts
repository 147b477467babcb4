// Tone-bin mode filter: each pixel becomes the mean colour of the most frequent band of tones about it, which paints in daubs.
import { premultipliedCodes } from './box'
import { storePixel, unpremultiply } from './simd'

/** Adds (sign 1) or takes (sign −1) a premultiplied pixel to the bin of its tone. */
// @ts-ignore: decorator
@inline
function tally(column: usize, p: usize, bins: u32, sign: i32): void {
  const px = load<u64>(p)
  const l = (<u32>(px & 0xffff) * 13933 + <u32>((px >> 16) & 0xffff) * 46871 + <u32>((px >> 32) & 0xffff) * 4732) >> 16
  const at = column + (<usize>((l * bins) >> 16) << 4)
  const c = premultipliedCodes(p)
  v128.store(at, sign > 0 ? i32x4.add(v128.load(at), c) : i32x4.sub(v128.load(at), c))
}

/**
 * Sums of each tone bin are kept a column (alpha counts the pixels), so the cost does not grow with the window; they are whole numbers, so it
 * does not matter where a row began. Of equally frequent bins the darkest counts. src is the w × h output region grown by r on all sides;
 * r 1…90, bins 2…64.
 * @rows src dst
 * @overlap 2 * r
 * @scratch (w + 2 * r + 1) * bins * 16
 */
export function toneMode(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, bins: i32, scratch: usize): void {
  const columns = w + 2 * r
  const size = <usize>bins << 4
  const window = scratch + <usize>columns * size
  memory.fill(scratch, 0, <usize>columns * size)
  for (let y = 0; y < 2 * r; y++) {
    const p = src + <usize>y * <usize>srcStride
    for (let x = 0; x < columns; x++) tally(scratch + <usize>x * size, p + (<usize>x << 3), bins, 1)
  }
  const full = f32x4.splat(<f32>1 / <f32>65535)
  for (let y = 0; y < h; y++) {
    const fresh = src + <usize>(y + 2 * r) * <usize>srcStride
    const old = src + <usize>(y - 1) * <usize>srcStride
    for (let x = 0; x < columns; x++) {
      tally(scratch + <usize>x * size, fresh + (<usize>x << 3), bins, 1)
      if (y > 0) tally(scratch + <usize>x * size, old + (<usize>x << 3), bins, -1)
    }
    memory.fill(window, 0, size)
    for (let x = 0; x < 2 * r; x++) {
      for (let b: usize = 0; b < size; b += 16) v128.store(window + b, i32x4.add(v128.load(window + b), v128.load(scratch + <usize>x * size + b)))
    }
    for (let x = 0; x < w; x++) {
      const enters = scratch + <usize>(x + 2 * r) * size
      const leaves = scratch + <usize>(x - 1) * size
      let most: i32 = -1
      let best = i32x4.splat(0)
      for (let b: usize = 0; b < size; b += 16) {
        let sum = i32x4.add(v128.load(window + b), v128.load(enters + b))
        if (x > 0) sum = i32x4.sub(sum, v128.load(leaves + b))
        v128.store(window + b, sum)
        const n = i32x4.extract_lane(sum, 3)
        if (n > most) {
          most = n
          best = sum
        }
      }
      // the alpha of the middle pixel stays, the colour is the bin's mean
      const c = unpremultiply(f32x4.mul(f32x4.convert_i32x4_s(best), full))
      const middle = src + <usize>(y + r) * <usize>srcStride + (<usize>(x + r) << 3)
      storePixel(dst + (<usize>x << 3), f32x4.replace_lane(c, 3, <f32>load<u16>(middle, 6) * (<f32>1 / <f32>65535)))
    }
    dst += dstStride
  }
}
