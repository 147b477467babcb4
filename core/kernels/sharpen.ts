// Sharpening by what a blur takes away.
import { lumaCode } from './luma'
import { loadPixel, storePixel, withAlpha } from './simd'

/**
 * src + amount · (fine − blurred), where the difference of lightness exceeds `threshold` (0…1): smaller ones count for nothing and larger ones for what
 * they exceed it by. `fine` may be src itself.
 * @rows src fine blurred dst
 */
export function unsharp(
  src: usize,
  srcStride: i32,
  fine: usize,
  fineStride: i32,
  blurred: usize,
  blurredStride: i32,
  dst: usize,
  dstStride: i32,
  w: i32,
  h: i32,
  amount: f32,
  threshold: f32,
): void {
  const k: f32 = <f32>1 / <f32>65535
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < <usize>w << 3; i += 8) {
      const c = loadPixel(src + i)
      const d = f32x4.sub(loadPixel(fine + i), loadPixel(blurred + i))
      let g = amount
      if (threshold > 0) {
        const far = abs<f32>((<f32>lumaCode(load<u64>(fine + i)) - <f32>lumaCode(load<u64>(blurred + i))) * k)
        g = far > threshold ? (amount * (far - threshold)) / far : 0
      }
      storePixel(dst + i, withAlpha(f32x4.add(c, f32x4.mul(d, f32x4.splat(g))), c))
    }
    src += srcStride
    fine += fineStride
    blurred += blurredStride
    dst += dstStride
  }
}
