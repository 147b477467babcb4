import { alphasOf, bluesOf, codesOf, greensOf, redsOf, storeFour } from './four'

/** One row of the matrix over four pixels. */
// @ts-ignore: decorator
@inline
function sum(m: usize, r: v128, g: v128, b: v128): v128 {
  const rg = f32x4.add(f32x4.mul(v128.load32_splat(m), r), f32x4.mul(v128.load32_splat(m, 4), g))
  return f32x4.add(f32x4.add(rg, f32x4.mul(v128.load32_splat(m, 8), b)), v128.load32_splat(m, 12))
}

/**
 * A 3 × 4 matrix over straight colour, results held to 0…1, alpha untouched. `m`: 12 floats, a row each for R, G and B:
 * the parts of R, G and B, then a constant.
 * @rows src dst
 */
export function matrix(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, m: usize): void {
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x += 4) {
      const p = src + (<usize>x << 3)
      const rg = codesOf(v128.load(p), v128.load(p, 16), false)
      const ba = codesOf(v128.load(p), v128.load(p, 16), true)
      const r = redsOf(rg)
      const g = greensOf(rg)
      const b = bluesOf(ba)
      storeFour(dst + (<usize>x << 3), sum(m, r, g, b), sum(m + 16, r, g, b), sum(m + 32, r, g, b), alphasOf(ba), w - x)
    }
    src += srcStride
    dst += dstStride
  }
}
