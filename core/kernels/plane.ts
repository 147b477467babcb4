// Planes: what is painted by hand, 16 bits a pixel, one channel (masks, light maps) or RGBA. See core/src/planes.
import { loadPixel, storePixel, withAlpha } from './simd'
import { clipped, lumaCode } from './luma'

/**
 * A plane of one channel as a grey, opaque picture.
 * @rows src dst
 */
export function greyPicture(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) {
      const v = <u64>load<u16>(src + (x << 1))
      store<u64>(dst + (x << 3), v | (v << 16) | (v << 32) | 0xffff000000000000)
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * The alpha of a picture as a grey, opaque one. src and dst may be the same.
 * @rows src dst
 */
export function alphaPicture(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32): void {
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < (<usize>w) << 3; i += 8) {
      const v = load<u64>(src + i) >> 48
      store<u64>(dst + i, v | (v << 16) | (v << 32) | 0xffff000000000000)
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * Multiplies a mask of 16 bits a pixel by another.
 * @rows src dst
 */
export function multiplyMask(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) {
      const v = <u32>load<u16>(src + (x << 1)) * <u32>load<u16>(dst + (x << 1))
      store<u16>(dst + (x << 1), <u16>((v + 32767) / 65535))
    }
    src += srcStride
    dst += dstStride
  }
}

/** Halves a plane of one channel of even sides: the mean of 2 × 2, rounded to nearest. */
export function halveGrey(src: usize, srcStride: i32, dst: usize, dstStride: i32, ow: i32, oh: i32): void {
  for (let y = 0; y < oh; y++) {
    for (let x: usize = 0; x < <usize>ow; x++) {
      const p = src + (x << 2)
      const sum = <u32>load<u16>(p) + <u32>load<u16>(p, 2) + <u32>load<u16>(p + srcStride) + <u32>load<u16>(p + srcStride, 2)
      store<u16>(dst + (x << 1), <u16>((sum + 2) >> 2))
    }
    src += srcStride << 1
    dst += dstStride
  }
}

/** Fills a rectangle of a plane of one channel. */
export function fillGrey(dst: usize, dstStride: i32, w: i32, h: i32, value: i32): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) store<u16>(dst + (x << 1), <u16>value)
    dst += dstStride
  }
}

/** Whether all of n bytes repeat the first `unit` ones (2 or 8). */
export function isConstant(src: usize, n: i32, unit: i32): i32 {
  const first = load<u64>(src)
  const want: u64 = unit == 8 ? first : (first & 0xffff) * 0x0001000100010001
  for (let i: usize = 0; i < <usize>n; i += 8) if (load<u64>(src + i) != want) return 0
  return 1
}

/**
 * Dodge and burn: each pixel's linear light is multiplied by the gain its place in the map stands for, times what a span of tones lets through;
 * the change of lightness is added to R, G and B, drawn towards their grey where they would leave 0…1. src and dst may be the same.
 * @param map a grey picture: 32768 changes nothing
 * @param span 65536 codes by lightness, how much is let through
 * @param stops 65536 floats: stops of a code of the map
 * @param light 65536 floats: linear light of a code
 * @param gains 8193 floats: 2^((i − 4096) / 512)
 * @param codes 65537 codes: the code of linear light i / 65536
 * @rows src map dst
 */
export function lightMap(src: usize, srcStride: i32, map: usize, mapStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, span: usize, stops: usize, light: usize, gains: usize, codes: usize): void {
  const k: f32 = <f32>1 / <f32>65535
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < (<usize>w) << 3; i += 8) {
      const px = load<u64>(src + i)
      const m = load<u16>(map + i)
      const l = lumaCode(px)
      const through = <f32>load<u16>(span + (<usize>l << 1)) * k
      if (m == 32768 || through == 0) {
        store<u64>(dst + i, px)
        continue
      }
      // where in the table of gains, and between which two
      const at = max<f32>(0, min<f32>(8191.99, load<f32>(stops + (<usize>m << 2)) * through * 512 + 4096))
      const j = <usize>at
      const f = at - <f32>j
      const g0 = load<f32>(gains + (j << 2))
      const gain = g0 + (load<f32>(gains + (j << 2), 4) - g0) * f
      const lit = min<f32>(1, load<f32>(light + (<usize>l << 2)) * gain) * 65536
      const n = <usize>lit
      const c0 = <f32>load<u16>(codes + (n << 1))
      const t = c0 + (n < 65536 ? (<f32>load<u16>(codes + (n << 1), 2) - c0) * (lit - <f32>n) : 0)
      const c = loadPixel(src + i)
      const moved = f32x4.add(c, f32x4.splat((t - <f32>l) * k))
      storePixel(dst + i, withAlpha(clipped(moved, t * k), c))
    }
    src += srcStride
    map += mapStride
    dst += dstStride
  }
}

/**
 * A row's running extreme: for each pixel the largest (or smallest) of the pixels up to n away on either side, of a grey picture's first channel;
 * van Herk 1992, "A fast algorithm for local minimum and maximum filters on rectangular and octagonal kernels".
 * src holds n pixels more on the left and the right. Writes codes of 16 bits.
 * @param scratch 2 · (w + 2n) codes
 */
function extremeRow(src: usize, dst: usize, w: i32, n: i32, smallest: bool, scratch: usize): void {
  const span = 2 * n + 1
  const total = w + 2 * n
  const back = scratch + (<usize>total << 1)
  let run: u16 = 0
  for (let x = 0; x < total; x++) {
    const v = load<u16>(src + (<usize>x << 3))
    run = x % span == 0 ? v : smallest ? min(run, v) : max(run, v)
    store<u16>(scratch + (<usize>x << 1), run)
  }
  for (let x = total - 1; x >= 0; x--) {
    const v = load<u16>(src + (<usize>x << 3))
    run = x == total - 1 || (x + 1) % span == 0 ? v : smallest ? min(run, v) : max(run, v)
    store<u16>(back + (<usize>x << 1), run)
  }
  for (let x = 0; x < w; x++) {
    const a = load<u16>(back + (<usize>x << 1))
    const b = load<u16>(scratch + (<usize>(x + 2 * n) << 1))
    store<u16>(dst + (<usize>x << 1), smallest ? min(a, b) : max(a, b))
  }
}

/**
 * Moves the edges of a grey picture outwards or inwards: the largest (smallest) value within a disc, of a picture that holds `reach` pixels more on each
 * side. `halves`: for each row of the disc, −reach … reach, how far it goes to either side (32-bit numbers).
 * @rows src dst
 * @overlap 2 * reach + 1
 * @work w * h * (2 * reach + 1)
 * @scratch (w + 2 * reach) * 4 + w * 2 + 64
 */
export function extremeDisc(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, reach: i32, halves: usize, smallest: i32, scratch: usize): void {
  const line = scratch + (<usize>(w + 2 * reach) << 2)
  for (let y = 0; y < h; y++) {
    for (let j = 0; j <= 2 * reach; j++) {
      const n = load<i32>(halves + (<usize>j << 2))
      extremeRow(src + <usize>j * <usize>srcStride + (<usize>(reach - n) << 3), line, w, n, smallest != 0, scratch)
      for (let x: usize = 0; x < <usize>w; x++) {
        const v = <u64>load<u16>(line + (x << 1))
        const old = load<u64>(dst + (x << 3)) & 0xffff
        const best = j == 0 ? v : smallest ? min(old, v) : max(old, v)
        store<u64>(dst + (x << 3), best | (best << 16) | (best << 32) | 0xffff000000000000)
      }
    }
    src += srcStride
    dst += dstStride
  }
}
