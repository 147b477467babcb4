import { loadPixel, premultiply, storePixel, unpremultiply } from './simd'

/**
 * a · guide + b at full size: slopes and levels on cells of f pixels enlarged linearly, RGBA16. The first pixel is pixel (ox, oy)
 * counted from the corner of cell (0, 0); ox and oy are at least f, and the last cell lies beyond the last pixel's.
 * @rows src dst +oy
 * @scratch cw * 32
 */
export function guidedApply(src: usize, srcStride: i32, slopes: usize, levels: usize, cellsStride: i32, cw: i32, f: i32, dst: usize, dstStride: i32, w: i32, h: i32, ox: i32, oy: i32, scratch: usize): void {
  const shift = ctz(f)
  const inverse = <f32>1 / <f32>f
  const first = <usize>((ox >> shift) - 1) << 4
  const last = <usize>(((ox + w - 1) >> shift) + 2) << 4
  const lower = scratch + (<usize>cw << 4)
  for (let y = 0; y < h; y++) {
    // between the middles of two cells
    const v: f32 = f == 1 ? 0 : (<f32>((oy + y) & (f - 1)) + 0.5) * inverse - 0.5
    const row = (oy + y) >> shift
    const top = v < 0 ? row - 1 : row
    const t = f32x4.splat(v < 0 ? v + 1 : v)
    const at = <usize>top * <usize>cellsStride
    for (let x = first; x < last; x += 16) {
      const a = v128.load(slopes + at + x)
      v128.store(scratch + x, f32x4.add(a, f32x4.mul(t, f32x4.sub(v128.load(slopes + at + cellsStride + x), a))))
      const b = v128.load(levels + at + x)
      v128.store(lower + x, f32x4.add(b, f32x4.mul(t, f32x4.sub(v128.load(levels + at + cellsStride + x), b))))
    }
    for (let x = 0; x < w; x++) {
      const u: f32 = f == 1 ? 0 : (<f32>((ox + x) & (f - 1)) + 0.5) * inverse - 0.5
      const cell = <usize>(((ox + x) >> shift) - (u < 0 ? 1 : 0)) << 4
      const s = f32x4.splat(u < 0 ? u + 1 : u)
      const a0 = v128.load(scratch + cell)
      const b0 = v128.load(lower + cell)
      const a = f32x4.add(a0, f32x4.mul(s, f32x4.sub(v128.load(scratch + cell, 16), a0)))
      const b = f32x4.add(b0, f32x4.mul(s, f32x4.sub(v128.load(lower + cell, 16), b0)))
      const p = premultiply(loadPixel(src + (<usize>x << 3)))
      const i: f32 = <f32>0.2126 * f32x4.extract_lane(p, 0) + <f32>0.7152 * f32x4.extract_lane(p, 1) + <f32>0.0722 * f32x4.extract_lane(p, 2)
      // the line may leave 0…1 beyond a strong edge
      const line = f32x4.pmax(f32x4.splat(0), f32x4.pmin(f32x4.splat(1), f32x4.add(f32x4.mul(a, f32x4.splat(i)), b)))
      storePixel(dst + (<usize>x << 3), unpremultiply(line))
    }
    src += srcStride
    dst += dstStride
  }
}
