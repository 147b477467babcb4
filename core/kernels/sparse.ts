// Weighted sums over a few places about each pixel: blurs along a line.
import { storePixel, unpremultiply } from './simd'

/**
 * Sum of n premultiplied RGBA16 pixels about each pixel. `taps`: n times a byte offset from the pixel (32 bits) and a weight (float). The result is
 * premultiplied too, unless `straight` is not 0.
 * @rows src dst
 * @work w * h * n / 4
 */
export function sparseSum(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, taps: usize, n: i32, straight: i32): void {
  const full = f32x4.splat(<f32>1 / <f32>65535)
  const end = taps + (<usize>n << 3)
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < <usize>w << 3; i += 8) {
      const p = src + i
      let sum = f32x4.splat(0)
      for (let t = taps; t < end; t += 8) {
        const c = f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(v128.load64_zero(p + <usize>load<i32>(t))))
        sum = f32x4.add(sum, f32x4.mul(c, v128.load32_splat(t, 4)))
      }
      const v = f32x4.mul(sum, full)
      storePixel(dst + i, straight ? unpremultiply(v) : v)
    }
    src += srcStride
    dst += dstStride
  }
}
