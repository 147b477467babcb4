// Straight colour to premultiplied, and back: RGBA16.
import { alphasOf, bluesOf, codesOf, greensOf, redsOf, storeFour } from './four'

/**
 * Colour times alpha.
 * @rows src dst
 */
export function premultiplied(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32): void {
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x += 4) {
      const p = src + (<usize>x << 3)
      const rg = codesOf(v128.load(p), v128.load(p, 16), false)
      const ba = codesOf(v128.load(p), v128.load(p, 16), true)
      const a = alphasOf(ba)
      storeFour(dst + (<usize>x << 3), f32x4.mul(redsOf(rg), a), f32x4.mul(greensOf(rg), a), f32x4.mul(bluesOf(ba), a), a, w - x)
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * Colour divided by alpha, held to 0…1; clear pixels become 0.
 * @rows src dst
 */
export function straightened(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32): void {
  const zero = f32x4.splat(0)
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x += 4) {
      const p = src + (<usize>x << 3)
      const rg = codesOf(v128.load(p), v128.load(p, 16), false)
      const ba = codesOf(v128.load(p), v128.load(p, 16), true)
      const a = alphasOf(ba)
      const k = v128.and(f32x4.div(f32x4.splat(1), a), f32x4.gt(a, zero))
      storeFour(dst + (<usize>x << 3), f32x4.mul(redsOf(rg), k), f32x4.mul(greensOf(rg), k), f32x4.mul(bluesOf(ba), k), a, w - x)
    }
    src += srcStride
    dst += dstStride
  }
}
