// First derivatives by 3 × 3 operators, and the structure tensor made of them.
import { alphasOf, bluesOf, codesOf, greensOf, redsOf } from './four'
import { loadPixel, premultiply } from './simd'

/** Lightness of four pixels, times alpha, by weights. */
// @ts-ignore: decorator
@inline
function greys(p: usize, wr: v128, wg: v128, wb: v128): v128 {
  const rg = codesOf(v128.load(p), v128.load(p, 16), false)
  const ba = codesOf(v128.load(p), v128.load(p, 16), true)
  const sum = f32x4.add(f32x4.add(f32x4.mul(redsOf(rg), wr), f32x4.mul(greensOf(rg), wg)), f32x4.mul(bluesOf(ba), wb))
  return f32x4.mul(sum, alphasOf(ba))
}

/**
 * Gradient of the lightness wr·R + wg·G + wb·B (times alpha) in units of full tone a pixel: two floats (across, down) a
 * pixel. `side` is the weight of the outer two of three lines against 1 for all three: 0.25 Sobel (1, 2, 1), 0.1875 Scharr
 * (3, 10, 3). src is the w × h output region grown by 1 on all sides. dst may be up to three pixels longer a row.
 * Sobel & Feldman 1968; Scharr, "Optimal operators in digital image processing", thesis, Heidelberg 2000.
 * @rows src dst
 * @overlap 2
 * @scratch 3 * (w * 4 + 48)
 */
export function gradient(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, wr: f32, wg: f32, wb: f32, side: f32, scratch: usize): void {
  const line = <usize>w * 4 + 48
  const vr = f32x4.splat(wr)
  const vg = f32x4.splat(wg)
  const vb = f32x4.splat(wb)
  // central differences span two pixels
  const s = f32x4.splat(side * 0.5)
  const m = f32x4.splat((1 - 2 * side) * 0.5)
  for (let y = 0; y < h + 2; y++) {
    const fresh = scratch + <usize>(y % 3) * line
    for (let x: usize = 0; x < <usize>w + 2; x += 4) v128.store(fresh + (x << 2), greys(src + (x << 3), vr, vg, vb))
    src += srcStride
    if (y < 2) continue
    const a = scratch + <usize>((y + 1) % 3) * line
    const b = scratch + <usize>((y + 2) % 3) * line
    for (let x: usize = 0; x < <usize>w; x += 4) {
      const i = x << 2
      const a0 = v128.load(a + i)
      const a1 = v128.load(a + i, 4)
      const a2 = v128.load(a + i, 8)
      const c0 = v128.load(fresh + i)
      const c1 = v128.load(fresh + i, 4)
      const c2 = v128.load(fresh + i, 8)
      const sides = f32x4.mul(s, f32x4.add(f32x4.sub(a2, a0), f32x4.sub(c2, c0)))
      const gx = f32x4.add(sides, f32x4.mul(m, f32x4.sub(v128.load(b + i, 8), v128.load(b + i))))
      const gy = f32x4.add(f32x4.mul(s, f32x4.add(f32x4.sub(c0, a0), f32x4.sub(c2, a2))), f32x4.mul(m, f32x4.sub(c1, a1)))
      const q = dst + (x << 3)
      const low = i8x16.shuffle(gx, gy, 0, 1, 2, 3, 16, 17, 18, 19, 4, 5, 6, 7, 20, 21, 22, 23)
      const high = i8x16.shuffle(gx, gy, 8, 9, 10, 11, 24, 25, 26, 27, 12, 13, 14, 15, 28, 29, 30, 31)
      const n = <usize>w - x
      if (n >= 4) {
        v128.store(q, low)
        v128.store(q, high, 16)
      } else {
        v128.store64_lane(q, low, 0)
        if (n > 1) v128.store64_lane(q, low, 1, 8)
        if (n > 2) v128.store64_lane(q, high, 0, 16)
      }
    }
    dst += dstStride
  }
}

// @ts-ignore: decorator
@inline
function sumOfColour(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + f32x4.extract_lane(v, 2)
}

/**
 * Structure tensor of the colour gradient, unsmoothed: four floats (Σ gx², Σ gx·gy, Σ gy², 0) a pixel over premultiplied R, G and B,
 * by `side` as in gradient. src is the w × h output region grown by 1 on all sides.
 * Di Zenzo, "A note on the gradient of a multi-image", CVGIP 33 (1986).
 * @rows src dst
 * @overlap 2
 * @scratch 3 * (w + 2) * 16
 */
export function structureTensor(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, side: f32, scratch: usize): void {
  const line = (<usize>w + 2) << 4
  const s = f32x4.splat(side * 0.5)
  const m = f32x4.splat((1 - 2 * side) * 0.5)
  for (let y = 0; y < h + 2; y++) {
    const fresh = scratch + <usize>(y % 3) * line
    for (let x: usize = 0; x < <usize>w + 2; x++) v128.store(fresh + (x << 4), premultiply(loadPixel(src + (x << 3))))
    src += srcStride
    if (y < 2) continue
    const a = scratch + <usize>((y + 1) % 3) * line
    const b = scratch + <usize>((y + 2) % 3) * line
    for (let i: usize = 0; i < <usize>w << 4; i += 16) {
      const a0 = v128.load(a + i)
      const a2 = v128.load(a + i, 32)
      const c0 = v128.load(fresh + i)
      const c2 = v128.load(fresh + i, 32)
      const sides = f32x4.mul(s, f32x4.add(f32x4.sub(a2, a0), f32x4.sub(c2, c0)))
      const gx = f32x4.add(sides, f32x4.mul(m, f32x4.sub(v128.load(b + i, 32), v128.load(b + i))))
      const middle = f32x4.sub(v128.load(fresh + i, 16), v128.load(a + i, 16))
      const gy = f32x4.add(f32x4.mul(s, f32x4.add(f32x4.sub(c0, a0), f32x4.sub(c2, a2))), f32x4.mul(m, middle))
      v128.store(dst + i, f32x4(sumOfColour(f32x4.mul(gx, gx)), sumOfColour(f32x4.mul(gx, gy)), sumOfColour(f32x4.mul(gy, gy)), 0))
    }
    dst += dstStride
  }
}
