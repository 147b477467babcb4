// A picture brought towards the masses that a smaller plane holds of it.
import { clipped } from './luma'
import { loadPixel, storePixel, withAlpha } from './simd'

/**
 * Gives each pixel a share of the lightness that a smaller plane has there, by straight lines between its values, and keeps its colour (SetLum of W3C Compositing,
 * 10.1.1). Places are counted from pixel (0, 0), so that it does not matter where a region begins. src and dst may be the same.
 * @param planes lightness 0…1 and share 0…1 that is taken of it: two 32-bit floats a place, from place (i0, j0) on, `pw` a row, `ph` rows
 * @param u,v where the middle of pixel (0, 0) lies in the plane, places; per places a pixel
 * @param x0,y0 the first pixel
 * @rows src dst +y0
 */
export function towardMasses(
  src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, x0: i32, y0: i32,
  planes: usize, pw: i32, ph: i32, i0: i32, j0: i32, u: f64, v: f64, per: f64,
): void {
  for (let y = 0; y < h; y++) {
    const fy = max<f64>(0, min<f64>(v + <f64>(y0 + y) * per - <f64>j0, <f64>(ph - 1)))
    const iy = min<i32>(<i32>fy, max<i32>(0, ph - 2))
    const ty = <f32>(fy - <f64>iy)
    const row = planes + (<usize>(iy * pw) << 3)
    const low = ph > 1 ? row + (<usize>pw << 3) : row
    for (let x = 0; x < w; x++) {
      const fx = max<f64>(0, min<f64>(u + <f64>(x0 + x) * per - <f64>i0, <f64>(pw - 1)))
      const ix = min<i32>(<i32>fx, max<i32>(0, pw - 2))
      const tx = <f32>(fx - <f64>ix)
      const p = row + (<usize>ix << 3)
      const q = low + (<usize>ix << 3)
      const next: usize = pw > 1 ? 8 : 0
      const m0 = load<f32>(p) + (load<f32>(p + next) - load<f32>(p)) * tx
      const m1 = load<f32>(q) + (load<f32>(q + next) - load<f32>(q)) * tx
      const s0 = load<f32>(p, 4) + (load<f32>(p + next, 4) - load<f32>(p, 4)) * tx
      const s1 = load<f32>(q, 4) + (load<f32>(q + next, 4) - load<f32>(q, 4)) * tx
      const c = loadPixel(src + (<usize>x << 3))
      const l = f32x4.extract_lane(c, 0) * 0.2126 + f32x4.extract_lane(c, 1) * 0.7152 + f32x4.extract_lane(c, 2) * 0.0722
      // a mass may overshoot at a hard border
      const to = max<f32>(0, min<f32>(1, l + (m0 + (m1 - m0) * ty - l) * (s0 + (s1 - s0) * ty)))
      storePixel(dst + (<usize>x << 3), withAlpha(clipped(f32x4.add(c, f32x4.splat(to - l)), to), c))
    }
    src += srcStride
    dst += dstStride
  }
}
