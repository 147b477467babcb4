import { alphaOf, loadPixel, storePixel, withAlpha } from './simd'

/**
 * One lookup table a colour channel (65536 × u16 each), alpha untouched. src and dst may be the same.
 * @rows src dst
 */
export function lut(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, tr: usize, tg: usize, tb: usize): void {
  for (let y = 0; y < h; y++) {
    let p = src
    let q = dst
    const end = p + ((<usize>w) << 3)
    while (p < end) {
      const px = load<u64>(p)
      const r = <u64>load<u16>(tr + <usize>((px & 0xffff) << 1))
      const g = <u64>load<u16>(tg + <usize>(((px >> 16) & 0xffff) << 1))
      const b = <u64>load<u16>(tb + <usize>(((px >> 32) & 0xffff) << 1))
      store<u64>(q, r | (g << 16) | (b << 32) | (px & 0xffff000000000000))
      p += 8
      q += 8
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * Grey from display-encoded values by weights: round(clamp(wr·R + wg·G + wb·B)).
 * @rows src dst
 */
export function greyMix(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, wr: f32, wg: f32, wb: f32): void {
  const weights = f32x4(wr, wg, wb, 0)
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < <usize>w << 3; i += 8) {
      const c = loadPixel(src + i)
      const p = f32x4.mul(c, weights)
      const q = f32x4.add(p, i8x16.shuffle(p, p, 4, 5, 6, 7, 4, 5, 6, 7, 4, 5, 6, 7, 4, 5, 6, 7))
      const sum = f32x4.add(q, i8x16.shuffle(p, p, 8, 9, 10, 11, 8, 9, 10, 11, 8, 9, 10, 11, 8, 9, 10, 11))
      storePixel(dst + i, withAlpha(i8x16.shuffle(sum, sum, 0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3), alphaOf(c)))
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * Grey from linear light by weights. `decode` holds 65536 floats (linear light 0…1 of each code); `encode` holds
 * 65536 codes indexed by the square root of linear light, which keeps the darks finely divided.
 * @rows src dst
 */
export function greyLinear(
  src: usize,
  srcStride: i32,
  dst: usize,
  dstStride: i32,
  w: i32,
  h: i32,
  wr: f32,
  wg: f32,
  wb: f32,
  decode: usize,
  encode: usize,
): void {
  for (let y = 0; y < h; y++) {
    let p = src
    let q = dst
    const end = p + ((<usize>w) << 3)
    while (p < end) {
      const light =
        wr * load<f32>(decode + ((<usize>load<u16>(p)) << 2)) +
        wg * load<f32>(decode + ((<usize>load<u16>(p, 2)) << 2)) +
        wb * load<f32>(decode + ((<usize>load<u16>(p, 4)) << 2))
      const i = <u32>(sqrt<f32>(max<f32>(0, min<f32>(1, light))) * 65535 + 0.5)
      const v = <u64>load<u16>(encode + ((<usize>i) << 1))
      store<u64>(q, v | (v << 16) | (v << 32) | ((<u64>load<u16>(p, 6)) << 48))
      p += 8
      q += 8
    }
    src += srcStride
    dst += dstStride
  }
}
