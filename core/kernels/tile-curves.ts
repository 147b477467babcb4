// Tone curves that change over the picture: one a tile, mixed between the four nearest.
import { clipped, lumaCode } from './luma'
import { loadPixel, storePixel, withAlpha } from './simd'

/** A curve of 256 codes at a code, in between by a straight line. */
// @ts-ignore: decorator
@inline
function at(curve: usize, i: usize, t: f32): f32 {
  const a = <f32>load<u16>(curve + (i << 1))
  return a + (<f32>load<u16>(curve + (i << 1), 2) - a) * t
}

/**
 * Gives each pixel the lightness that the curves of the four nearest tiles give for its own, weighed by nearness, and keeps its colour (SetLum of
 * W3C Compositing). `curves`: rows of nx tiles, 257 codes each; (ox, oy) is the first pixel's place counted from the first tile's corner, tiles are
 * tw × th pixels. src and dst may be the same. Zuiderveld, "Contrast limited adaptive histogram equalization", Graphics Gems IV (1994).
 * @rows src dst +oy
 */
export function tileCurves(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, curves: usize, nx: i32, ny: i32, ox: i32, oy: i32, tw: f32, th: f32): void {
  const k: f32 = <f32>1 / <f32>65535
  const bytes: usize = 257 * 2
  for (let y = 0; y < h; y++) {
    const fy = (<f32>(y + oy) + 0.5) / th - 0.5
    const y0 = <i32>floor<f32>(fy)
    const ty = fy - <f32>y0
    const r0 = curves + <usize>(max<i32>(0, min<i32>(ny - 1, y0)) * nx) * bytes
    const r1 = curves + <usize>(max<i32>(0, min<i32>(ny - 1, y0 + 1)) * nx) * bytes
    for (let x = 0; x < w; x++) {
      const fx = (<f32>(x + ox) + 0.5) / tw - 0.5
      const x0 = <i32>floor<f32>(fx)
      const tx = fx - <f32>x0
      const c0 = <usize>max<i32>(0, min<i32>(nx - 1, x0)) * bytes
      const c1 = <usize>max<i32>(0, min<i32>(nx - 1, x0 + 1)) * bytes
      const p = src + (<usize>x << 3)
      const l = <f32>lumaCode(load<u64>(p))
      const code = l * (<f32>1 / <f32>257)
      const i = <usize>code
      const t = code - <f32>i
      const top = at(r0 + c0, i, t) * (1 - tx) + at(r0 + c1, i, t) * tx
      const low = at(r1 + c0, i, t) * (1 - tx) + at(r1 + c1, i, t) * tx
      const to = top * (1 - ty) + low * ty
      const c = loadPixel(p)
      storePixel(dst + (<usize>x << 3), withAlpha(clipped(f32x4.add(c, f32x4.splat((to - l) * k)), to * k), c))
    }
    src += srcStride
    dst += dstStride
  }
}
