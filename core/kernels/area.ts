// What areas are taken by: colours as CIE 1976 Lab, how unlike they are, where they change.
import { labCurve } from './mixer'

/** A code as it is seen on white, in linear light. */
// @ts-ignore: decorator
@inline
function seen(p: usize, alpha: u32, decode: usize): f32 {
  const v = <u32>load<u16>(p)
  const on = alpha == 65535 ? v : <u32>((<u64>v * alpha + 65535 * (65535 - <u64>alpha) + 32767) / 65535)
  return load<f32>(decode + (<usize>on << 2))
}

/** Lays pixels (RGBA16) on white, in place: as they are seen where the sheet is clear. */
export function onWhite(src: usize, stride: i32, w: i32, h: i32): void {
  for (let y = 0; y < h; y++) {
    for (let p = src; p < src + (<usize>w << 3); p += 8) {
      const alpha = <u64>load<u16>(p, 6)
      if (alpha == 65535) continue
      for (let c: usize = 0; c < 6; c += 2) store<u16>(p + c, <u16>((<u64>load<u16>(p + c) * alpha + 65535 * (65535 - alpha) + 32767) / 65535))
      store<u16>(p, 65535, 6)
    }
    src += stride
  }
}

/**
 * CIE 1976 L*a*b* of pixels (RGBA16) as they are seen on white, under D65, of 1/128 each: four codes of 16 bits with sign a pixel, the last one 0.
 * @param decode table of 65536 floats: display-encoded sRGB to linear light
 * @rows src dst
 */
export function labCodes(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, decode: usize): void {
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < <usize>w << 3; i += 8) {
      const p = src + i
      const alpha = <u32>load<u16>(p, 6)
      const r = f32x4.splat(seen(p, alpha, decode))
      const g = f32x4.splat(seen(p + 2, alpha, decode))
      const b = f32x4.splat(seen(p + 4, alpha, decode))
      // rows of the sRGB matrix, each divided by the white's, a lane each; the root of the fourth, were it 0, would pass through denormal numbers, which are slow
      const sum = f32x4.add(
        f32x4.add(f32x4.mul(r, f32x4(0.4339532, 0.2126729, 0.0177578, 0)), f32x4.mul(g, f32x4(0.3762061, 0.7151522, 0.1094765, 0))),
        f32x4.mul(b, f32x4(0.1898407, 0.0721750, 0.8727657, 1)),
      )
      const f = labCurve(sum)
      const fx = f32x4.extract_lane(f, 0)
      const fy = f32x4.extract_lane(f, 1)
      const fz = f32x4.extract_lane(f, 2)
      const q = dst + i
      store<i16>(q, <i16>nearest<f32>((116 * fy - 16) * 128))
      store<i16>(q, <i16>nearest<f32>(500 * 128 * (fx - fy)), 2)
      store<i16>(q, <i16>nearest<f32>(200 * 128 * (fy - fz)), 4)
      store<i16>(q, 0, 6)
    }
    src += srcStride
    dst += dstStride
  }
}

/** How far two colours are apart (ΔE*ab, CIE 15:2004, 8.2.2), in 1/128. */
// @ts-ignore: decorator
@inline
function apart(p: usize, l: i32, a: i32, b: i32): f32 {
  const dl = <f32>(<i32>load<i16>(p) - l)
  const da = <f32>(<i32>load<i16>(p, 2) - a)
  const db = <f32>(<i32>load<i16>(p, 4) - b)
  return sqrt<f32>(dl * dl + da * da + db * db)
}

/**
 * How unlike one colour each pixel is: ΔE*ab in 1/128, 16 bits a pixel. l, a, b and the pixels as labCodes gives them.
 * @rows src dst
 */
export function labUnlike(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, l: i32, a: i32, b: i32): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) store<u16>(dst + (x << 1), <u16>min<f32>(65535, nearest<f32>(apart(src + (x << 3), l, a, b))))
    src += srcStride
    dst += dstStride
  }
}

/**
 * How much the colour changes at each pixel: the larger ΔE*ab of its two neighbours beside and above, in 1/2, up to 127.5; 8 bits a pixel.
 * @param src pixels as labCodes gives them, with one more on every side: those of the first row and column are not of dst
 */
export function labContrast(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) {
      const p = src + ((x + 1) << 3)
      const up = p
      const left = p + srcStride - 8
      const right = left + 16
      const low = p + (srcStride << 1)
      const across = apart(left, <i32>load<i16>(right), <i32>load<i16>(right, 2), <i32>load<i16>(right, 4))
      const down = apart(up, <i32>load<i16>(low), <i32>load<i16>(low, 2), <i32>load<i16>(low, 4))
      store<u8>(dst + x, <u8>min<f32>(255, nearest<f32>(max<f32>(across, down) * (<f32>1 / <f32>64))))
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * Holds what a stroke covers to an area: `n` floats a pixel times the area's share there.
 * @param area 16 bits a pixel; 65535: all of it
 */
export function heldCover(cover: usize, coverStride: i32, area: usize, areaStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, n: i32): void {
  for (let y = 0; y < h; y++) {
    let from = cover
    let to = dst
    for (let x: usize = 0; x < <usize>w; x++) {
      const share = <f32>load<u16>(area + (x << 1)) * (<f32>1 / <f32>65535)
      for (let k = 0; k < n; k++) {
        store<f32>(to, load<f32>(from) * share)
        from += 4
        to += 4
      }
    }
    cover += coverStride
    area += areaStride
    dst += dstStride
  }
}
