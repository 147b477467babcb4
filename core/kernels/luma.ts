// Steps that go by a pixel's lightness: BT.709 luma of the display-encoded values, as a 16-bit code.
import { loadPixel, storePixel, withAlpha } from './simd'

/** BT.709 luma of a pixel's codes: 0…65535, rounded down. */
// @ts-ignore: decorator
@inline
export function lumaCode(px: u64): u32 {
  return (<u32>(px & 0xffff) * 13933 + <u32>((px >> 16) & 0xffff) * 46871 + <u32>((px >> 32) & 0xffff) * 4732) >> 16
}

/** The smallest of the three colours, in every lane. */
// @ts-ignore: decorator
@inline
function least(c: v128): v128 {
  const m = f32x4.pmin(f32x4.pmin(f32x4.splat(f32x4.extract_lane(c, 0)), f32x4.splat(f32x4.extract_lane(c, 1))), f32x4.splat(f32x4.extract_lane(c, 2)))
  return m
}
// @ts-ignore: decorator
@inline
function most(c: v128): v128 {
  return f32x4.pmax(f32x4.pmax(f32x4.splat(f32x4.extract_lane(c, 0)), f32x4.splat(f32x4.extract_lane(c, 1))), f32x4.splat(f32x4.extract_lane(c, 2)))
}

/** Colours pressed back into 0…1 towards the grey of their own lightness (ClipColor of W3C Compositing, 10.1.1). */
// @ts-ignore: decorator
@inline
export function clipped(c: v128, lightness: f32): v128 {
  const l = f32x4.splat(lightness)
  const low = least(c)
  const high = most(c)
  const zero = f32x4.splat(0)
  const one = f32x4.splat(1)
  if (f32x4.extract_lane(low, 0) < 0) c = f32x4.add(l, f32x4.div(f32x4.mul(f32x4.sub(c, l), l), f32x4.sub(l, low)))
  if (f32x4.extract_lane(high, 0) > 1) c = f32x4.add(l, f32x4.div(f32x4.mul(f32x4.sub(c, l), f32x4.sub(one, l)), f32x4.sub(high, l)))
  return f32x4.pmax(zero, c)
}

/**
 * Gives each pixel the lightness that a table of 65536 codes gives for its own, and keeps its colour: the change is added to R, G and B
 * (SetLum of W3C Compositing, 10.1.1). src and dst may be the same.
 * @rows src dst
 */
export function lumaCurve(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, table: usize): void {
  const k: f32 = <f32>1 / <f32>65535
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < (<usize>w) << 3; i += 8) {
      const px = load<u64>(src + i)
      const l = lumaCode(px)
      const t = <u32>load<u16>(table + (<usize>l << 1))
      if (t == l) {
        store<u64>(dst + i, px)
        continue
      }
      const c = loadPixel(src + i)
      const moved = f32x4.add(c, f32x4.splat((<f32>t - <f32>l) * k))
      storePixel(dst + i, withAlpha(clipped(moved, <f32>t * k), c))
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * Colours by lightness: a table of 65536 RGBA16 pixels. The table's alpha is multiplied by the pixel's own. src and dst may be the same.
 * @rows src dst
 */
export function lumaMap(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, table: usize): void {
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < (<usize>w) << 3; i += 8) {
      const px = load<u64>(src + i)
      const to = load<u64>(table + (<usize>lumaCode(px) << 3))
      const a = px >> 48
      const b = to >> 48
      const alpha = a == 65535 ? b : b == 65535 ? a : (a * b + 32767) / 65535
      store<u64>(dst + i, (to & 0x0000ffffffffffff) | (alpha << 48))
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * Adds to R, G and B what a table of 4096 entries of four floats gives for the pixel's lightness. src and dst may be the same.
 * @rows src dst
 */
export function lumaShift(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, table: usize): void {
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < (<usize>w) << 3; i += 8) {
      const l = lumaCode(load<u64>(src + i)) >> 4
      const c = loadPixel(src + i)
      storePixel(dst + i, withAlpha(f32x4.add(c, v128.load(table + (<usize>l << 4))), c))
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * Multiplies R, G and B by what a table of 4096 floats gives for the lightness of another picture, the base; colours that would leave 0…1 are
 * drawn towards their grey. src and dst may be the same.
 * @rows src base dst
 */
export function lumaGain(src: usize, srcStride: i32, base: usize, baseStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, table: usize): void {
  const k: f32 = <f32>1 / <f32>65535
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < (<usize>w) << 3; i += 8) {
      const g = load<f32>(table + ((<usize>lumaCode(load<u64>(base + i)) >> 4) << 2))
      const c = loadPixel(src + i)
      const l = min<f32>(1, <f32>lumaCode(load<u64>(src + i)) * k * g)
      storePixel(dst + i, withAlpha(clipped(f32x4.mul(c, f32x4.splat(g)), l), c))
    }
    src += srcStride
    base += baseStride
    dst += dstStride
  }
}

/**
 * A mask (16 bits a pixel) by lightness: a table of 65536 codes.
 * @rows src dst
 */
export function lumaMask(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, table: usize): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) store<u16>(dst + (x << 1), load<u16>(table + (<usize>lumaCode(load<u64>(src + (x << 3))) << 1)))
    src += srcStride
    dst += dstStride
  }
}
