// Affine warp by cubic interpolation: Keys, "Cubic convolution interpolation for digital image processing", IEEE Trans. ASSP 29
// (1981), a = −1/2.
import { loadPixel, premultiply, storePixel, unpremultiply } from './simd'

/** Weights of four neighbours for a place t 0…1 between the middle two, into four floats. */
// @ts-ignore: decorator
@inline
function keys(t: f32): v128 {
  const t2 = t * t
  const t3 = t2 * t
  return f32x4(-0.5 * t3 + t2 - 0.5 * t, 1.5 * t3 - 2.5 * t2 + 1, -1.5 * t3 + 2 * t2 + 0.5 * t, 0.5 * t3 - 0.5 * t2)
}

/**
 * Pixel (x, y) of the output, counted from (x0, y0), is what the input shows at (a·X + c·Y + e, b·X + d·Y + f), where X and Y are
 * its middle and the input's places are counted from its own corner (0, 0). src holds the input's pixels from (sx, sy), sw × sh of them;
 * outside it is clear. RGBA16, premultiplied between.
 * @rows dst +y0
 */
export function warp(src: usize, srcStride: i32, sx: i32, sy: i32, sw: i32, sh: i32, dst: usize, dstStride: i32, w: i32, h: i32, x0: i32, y0: i32, a: f64, b: f64, c: f64, d: f64, e: f64, f: f64): void {
  const zero = f32x4.splat(0)
  const one = f32x4.splat(1)
  for (let y = 0; y < h; y++) {
    const Y = <f64>(y0 + y) + 0.5
    for (let x = 0; x < w; x++) {
      const X = <f64>(x0 + x) + 0.5
      const u = a * X + c * Y + e - 0.5
      const v = b * X + d * Y + f - 0.5
      const fu = Math.floor(u)
      const fv = Math.floor(v)
      const i = <i32>fu - 1 - sx
      const j = <i32>fv - 1 - sy
      const q = dst + (<usize>x << 3)
      if (i <= -4 || j <= -4 || i >= sw || j >= sh) {
        store<u64>(q, 0)
        continue
      }
      const wx = keys(<f32>(u - fu))
      const wy = keys(<f32>(v - fv))
      let sum = zero
      if (i >= 0 && j >= 0 && i + 4 <= sw && j + 4 <= sh) {
        let p = src + <usize>j * <usize>srcStride + (<usize>i << 3)
        for (let k = 0; k < 4; k++) {
          let row = f32x4.mul(premultiply(loadPixel(p)), f32x4.splat(f32x4.extract_lane(wx, 0)))
          row = f32x4.add(row, f32x4.mul(premultiply(loadPixel(p + 8)), f32x4.splat(f32x4.extract_lane(wx, 1))))
          row = f32x4.add(row, f32x4.mul(premultiply(loadPixel(p + 16)), f32x4.splat(f32x4.extract_lane(wx, 2))))
          row = f32x4.add(row, f32x4.mul(premultiply(loadPixel(p + 24)), f32x4.splat(f32x4.extract_lane(wx, 3))))
          sum = f32x4.add(sum, f32x4.mul(row, f32x4.splat(lane(wy, k))))
          p += srcStride
        }
      } else {
        for (let k = 0; k < 4; k++) {
          if (j + k < 0 || j + k >= sh) continue
          let row = zero
          for (let l = 0; l < 4; l++) {
            if (i + l < 0 || i + l >= sw) continue
            const p = src + <usize>(j + k) * <usize>srcStride + (<usize>(i + l) << 3)
            row = f32x4.add(row, f32x4.mul(premultiply(loadPixel(p)), f32x4.splat(lane(wx, l))))
          }
          sum = f32x4.add(sum, f32x4.mul(row, f32x4.splat(lane(wy, k))))
        }
      }
      // overshoot may lift a premultiplied colour above its alpha, or alpha above 1
      storePixel(q, unpremultiply(f32x4.pmax(zero, f32x4.pmin(one, sum))))
    }
    dst += dstStride
  }
}

// @ts-ignore: decorator
@inline
function lane(v: v128, i: i32): f32 {
  return i == 0 ? f32x4.extract_lane(v, 0) : i == 1 ? f32x4.extract_lane(v, 1) : i == 2 ? f32x4.extract_lane(v, 2) : f32x4.extract_lane(v, 3)
}
