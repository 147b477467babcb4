import { loadPixel, premultiply, storePixel, unpremultiply } from './simd'

/**
 * Opens stored rows: undoes horizontal differencing (each sample minus the one a pixel to the left) and widens to RGBA16.
 * channels 3 or 4, depth 8 or 16 bits; 3 channels become opaque.
 * @rows src dst
 */
export function unpack(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, channels: i32, depth: i32): void {
  for (let y = 0; y < h; y++) {
    unpackRow(src, dst, w, channels, depth)
    src += srcStride
    dst += dstStride
  }
}

function unpackRow(src: usize, dst: usize, n: i32, channels: i32, depth: i32): void {
  let r: u32 = 0
  let g: u32 = 0
  let b: u32 = 0
  let a: u32 = 0
  if (depth == 8) {
    for (let i = 0; i < n; i++) {
      r = (r + load<u8>(src)) & 255
      g = (g + load<u8>(src, 1)) & 255
      b = (b + load<u8>(src, 2)) & 255
      if (channels == 4) a = (a + load<u8>(src, 3)) & 255
      store<u16>(dst, <u16>(r * 257))
      store<u16>(dst, <u16>(g * 257), 2)
      store<u16>(dst, <u16>(b * 257), 4)
      store<u16>(dst, channels == 4 ? <u16>(a * 257) : 65535, 6)
      src += channels
      dst += 8
    }
    return
  }
  for (let i = 0; i < n; i++) {
    r = (r + load<u16>(src)) & 65535
    g = (g + load<u16>(src, 2)) & 65535
    b = (b + load<u16>(src, 4)) & 65535
    if (channels == 4) a = (a + load<u16>(src, 6)) & 65535
    store<u16>(dst, <u16>r)
    store<u16>(dst, <u16>g, 2)
    store<u16>(dst, <u16>b, 4)
    store<u16>(dst, channels == 4 ? <u16>a : 65535, 6)
    src += channels << 1
    dst += 8
  }
}

/** 16 bits to 8, rounded to nearest (v/257 never falls on a half): the quotient by 65535 as a product and a shift. */
// @ts-ignore: decorator
@inline
function narrow(v: u32): u8 {
  return <u8>((v * 255 + 32895) >> 16)
}

/** As narrow, for eight codes in 16 bits: (t − t/256) / 256 of t = v + 128, held to 65535, is the same for every v. */
// @ts-ignore: decorator
@inline
function narrowed(v: v128): v128 {
  const t = i16x8.add_sat_u(v, i16x8.splat(128))
  return i16x8.shr_u(i16x8.sub(t, i16x8.shr_u(t, 8)), 8)
}

/**
 * RGBA16 to RGBA8, rounded to nearest.
 * @rows src dst
 */
export function to8(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32): void {
  for (let y = 0; y < h; y++) {
    let x: usize = 0
    for (; x + 4 <= <usize>w; x += 4) {
      const p = src + (x << 3)
      v128.store(dst + (x << 2), i8x16.narrow_i16x8_u(narrowed(v128.load(p)), narrowed(v128.load(p, 16))))
    }
    for (x <<= 2; x < <usize>w << 2; x++) store<u8>(dst + x, narrow(load<u16>(src + (x << 1))))
    src += srcStride
    dst += dstStride
  }
}

/**
 * RGBA16 laid on an opaque paper (8-bit r, g, b) and delivered as RGB8.
 * @rows src dst
 */
export function toRgb8(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, paper: u32): void {
  for (let y = 0; y < h; y++) {
    let p = src
    let q = dst
    for (let x = 0; x < w; x++) {
      const a = <u64>load<u16>(p, 6)
      if (a == 65535) {
        store<u8>(q, narrow(load<u16>(p)))
        store<u8>(q, narrow(load<u16>(p, 2)), 1)
        store<u8>(q, narrow(load<u16>(p, 4)), 2)
        p += 8
        q += 3
        continue
      }
      for (let c = 0; c < 3; c++) {
        const v = <u64>load<u16>(p + ((<usize>c) << 1))
        const under = <u64>((paper >> ((<u32>c) << 3)) & 255) * 257
        const mixed = (v * a + under * (65535 - a) + 32767) / 65535
        store<u8>(q + c, narrow(<u32>mixed))
      }
      p += 8
      q += 3
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * Halves an RGBA16 picture: the mean of 2 × 2 pixels, premultiplied. Odd edges repeat their last row or column.
 * Writes ceil(w/2) × ceil(h/2) pixels.
 * @rows 2:src dst
 * @unit 2
 */
export function halve(src: usize, srcStride: i32, w: i32, h: i32, dst: usize, dstStride: i32): void {
  const ow = (w + 1) >> 1
  const oh = (h + 1) >> 1
  const quarter = f32x4.splat(0.25)
  for (let y = 0; y < oh; y++) {
    const r0 = src + <usize>(y << 1) * <usize>srcStride
    const r1 = (y << 1) + 1 < h ? r0 + srcStride : r0
    for (let x = 0; x < ow; x++) {
      const p0 = (<usize>(x << 1)) << 3
      const p1 = (x << 1) + 1 < w ? p0 + 8 : p0
      const top = f32x4.add(premultiply(loadPixel(r0 + p0)), premultiply(loadPixel(r0 + p1)))
      const low = f32x4.add(premultiply(loadPixel(r1 + p0)), premultiply(loadPixel(r1 + p1)))
      storePixel(dst + ((<usize>x) << 3), unpremultiply(f32x4.mul(f32x4.add(top, low), quarter)))
    }
    dst += dstStride
  }
}

/** Widens one row of plain samples (3 or 4 channels, 8 or 16 bits) to RGBA16. */
export function widenRow(src: usize, dst: usize, n: i32, channels: i32, depth: i32): void {
  for (let i = 0; i < n; i++) {
    let p = dst
    for (let c = 0; c < channels; c++) {
      store<u16>(p, depth == 8 ? <u16>(<u32>load<u8>(src) * 257) : load<u16>(src))
      src += depth >> 3
      p += 2
    }
    if (channels == 3) store<u16>(dst, 65535, 6)
    dst += 8
  }
}

/** The opposite of unpackRow: narrows an RGBA16 row to its stored depth (rounded) and differences it. */
export function packRow(src: usize, dst: usize, n: i32, channels: i32, depth: i32): void {
  for (let c = 0; c < channels; c++) {
    let before: u32 = 0
    let p = src + ((<usize>c) << 1)
    if (depth == 8) {
      let q = dst + c
      for (let i = 0; i < n; i++) {
        const v = <u32>narrow(load<u16>(p))
        store<u8>(q, <u8>(v - before))
        before = v
        p += 8
        q += channels
      }
    } else {
      let q = dst + ((<usize>c) << 1)
      for (let i = 0; i < n; i++) {
        const v = <u32>load<u16>(p)
        store<u16>(q, <u16>(v - before))
        before = v
        p += 8
        q += (<usize>channels) << 1
      }
    }
  }
}
