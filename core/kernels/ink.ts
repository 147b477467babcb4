// Pictures as ink on a clear sheet.
import { lumaCode } from './luma'
import { loadPixel, storePixel } from './simd'

/**
 * Makes lights clear: alpha out of a table of 65536 codes, times the pixel's own alpha, by lightness (by 0), by the largest of R, G and B (1: the black
 * component) or by the smallest (2: all pigment). Where `own` is not 0 the colour is what must stand under that alpha so that the picture on white
 * looks as before; else it is that of the codes red, green, blue. src and dst may be the same.
 * @rows src dst
 */
export function toneAlpha(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, table: usize, by: i32, own: i32, red: i32, green: i32, blue: i32): void {
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < <usize>w << 3; i += 8) {
      const px = load<u64>(src + i)
      const r = <u32>(px & 0xffff)
      const g = <u32>((px >> 16) & 0xffff)
      const b = <u32>((px >> 32) & 0xffff)
      const tone = by == 0 ? lumaCode(px) : by == 1 ? max<u32>(r, max<u32>(g, b)) : min<u32>(r, min<u32>(g, b))
      const t = <u64>load<u16>(table + (<usize>tone << 1))
      const a = px >> 48
      const alpha = a == 65535 ? t : (a * t + 32767) / 65535
      if (!own) {
        store<u64>(dst + i, <u64>red | (<u64>green << 16) | (<u64>blue << 32) | (alpha << 48))
        continue
      }
      const c = loadPixel(src + i)
      const f: f32 = <f32>t * (<f32>1 / <f32>65535)
      const under = f32x4.pmax(zero, f32x4.pmin(one, f32x4.sub(one, f32x4.div(f32x4.sub(one, c), f32x4.splat(max<f32>(f, 1e-6))))))
      storePixel(dst + i, f32x4.replace_lane(under, 3, <f32>alpha * (<f32>1 / <f32>65535)))
    }
    src += srcStride
    dst += dstStride
  }
}
