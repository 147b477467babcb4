// A picture laid elsewhere: turned, scaled, in perspective. Keys, "Cubic convolution interpolation for digital image processing", IEEE Trans. ASSP 29
// (1981), a = −1/2; between two reduced sizes where it is made smaller by different amounts: Williams, "Pyramidal parametrics", SIGGRAPH 1983.
import { loadPixel, premultiply, storePixel, unpremultiply } from './simd'

/** Weights of four neighbours for a place t 0…1 between the middle two. */
// @ts-ignore: decorator
@inline
function keys(t: f32): v128 {
  const t2 = t * t
  const t3 = t2 * t
  return f32x4(-0.5 * t3 + t2 - 0.5 * t, 1.5 * t3 - 2.5 * t2 + 1, -1.5 * t3 + 2 * t2 + 0.5 * t, 0.5 * t3 - 0.5 * t2)
}

/** Places between two pixels that have weights of their own: what is laid a 4096th of a pixel beside its place differs by 16 of 65535 at the hardest edge. */
const PHASES: i32 = 2048

/**
 * Fills a table of the weights of four neighbours by place: four 16-bit numbers that make 16384 together, then the same as floats that make 1.
 * @param table (PHASES + 1) × 24 bytes
 */
export function placeWeights(table: usize): void {
  for (let i = 0; i <= PHASES; i++) {
    const w = keys(<f32>i / <f32>PHASES)
    const at = table + <usize>(i * 24)
    let left: i32 = 16384
    for (let k = 3; k >= 0; k--) {
      const v = <i32>Mathf.round((k == 3 ? f32x4.extract_lane(w, 3) : k == 2 ? f32x4.extract_lane(w, 2) : f32x4.extract_lane(w, 0)) * 16384)
      if (k == 1) continue
      store<i16>(at + <usize>(k << 1), <i16>v)
      left -= v
    }
    store<i16>(at, <i16>left, 2)
    for (let k = 0; k < 4; k++) store<f32>(at + <usize>(k << 2), <f32>load<i16>(at + <usize>(k << 1)) / 16384, 8)
  }
}

/** Four opaque pixels in a row by their weights: the weighed sum of what each code is above 32768, 16384 times. */
// @ts-ignore: decorator
@inline
function opaqueAcross(a: v128, b: v128, w01: v128, w23: v128): v128 {
  const signs = i16x8.splat(-32768)
  const p = v128.xor(i8x16.shuffle(a, a, 0, 1, 8, 9, 2, 3, 10, 11, 4, 5, 12, 13, 6, 7, 14, 15), signs)
  const q = v128.xor(i8x16.shuffle(b, b, 0, 1, 8, 9, 2, 3, 10, 11, 4, 5, 12, 13, 6, 7, 14, 15), signs)
  return f32x4.convert_i32x4_s(i32x4.add(i32x4.dot_i16x8_s(p, w01), i32x4.dot_i16x8_s(q, w23)))
}

/** Four pixels in a row by their weights, premultiplied. */
// @ts-ignore: decorator
@inline
function across(p: usize, x0: v128, x1: v128, x2: v128, x3: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(premultiply(loadPixel(p)), x0), f32x4.mul(premultiply(loadPixel(p + 8)), x1)),
    f32x4.add(f32x4.mul(premultiply(loadPixel(p + 16)), x2), f32x4.mul(premultiply(loadPixel(p + 24)), x3)),
  )
}

// @ts-ignore: decorator
@inline
function inside(p: usize, i: i32, w: i32): v128 {
  return i >= 0 && i < w ? premultiply(loadPixel(p + (<usize>i << 3))) : f32x4.splat(0)
}

/**
 * What a picture shows at (u, v), counted in its pixels from the middle of its pixel (0, 0): cubic, premultiplied, clear beyond it.
 * @param pic its address, stride, first column, first row, width, height: six 32-bit numbers
 * @param table of weights
 */
// @ts-ignore: decorator
@inline
function shownAt(pic: usize, table: usize, u: f64, v: f64): v128 {
  const fu = Math.floor(u)
  const fv = Math.floor(v)
  const i = <i32>fu - 1 - load<i32>(pic, 8)
  const j = <i32>fv - 1 - load<i32>(pic, 12)
  const sw = load<i32>(pic, 16)
  const sh = load<i32>(pic, 20)
  const zero = f32x4.splat(0)
  if (i <= -4 || j <= -4 || i >= sw || j >= sh) return zero
  const wx = table + <usize>(<i32>((u - fu) * PHASES + 0.5) * 24)
  const wy = table + <usize>(<i32>((v - fv) * PHASES + 0.5) * 24)
  const stride = <usize>load<i32>(pic, 4)
  let p = <usize>load<u32>(pic) + <usize>j * stride
  if (i >= 0 && j >= 0 && i + 4 <= sw && j + 4 <= sh) {
    p += <usize>i << 3
    const a0 = v128.load(p)
    const b0 = v128.load(p, 16)
    let q = p + stride
    const a1 = v128.load(q)
    const b1 = v128.load(q, 16)
    q += stride
    const a2 = v128.load(q)
    const b2 = v128.load(q, 16)
    q += stride
    const a3 = v128.load(q)
    const b3 = v128.load(q, 16)
    const all = v128.and(v128.and(v128.and(a0, b0), v128.and(a1, b1)), v128.and(v128.and(a2, b2), v128.and(a3, b3)))
    if ((i64x2.extract_lane(all, 0) & i64x2.extract_lane(all, 1)) >>> 48 == 0xffff) {
      // opaque: nothing to be weighed by alpha
      const w01 = v128.load32_splat(wx)
      const w23 = v128.load32_splat(wx, 4)
      const up = f32x4.add(f32x4.mul(opaqueAcross(a0, b0, w01, w23), v128.load32_splat(wy, 8)), f32x4.mul(opaqueAcross(a1, b1, w01, w23), v128.load32_splat(wy, 12)))
      const down = f32x4.add(f32x4.mul(opaqueAcross(a2, b2, w01, w23), v128.load32_splat(wy, 16)), f32x4.mul(opaqueAcross(a3, b3, w01, w23), v128.load32_splat(wy, 20)))
      const codes = f32x4.add(f32x4.mul(f32x4.add(up, down), f32x4.splat(<f32>1 / <f32>16384)), f32x4.splat(32768))
      return f32x4.replace_lane(f32x4.mul(codes, f32x4.splat(<f32>1 / <f32>65535)), 3, 1)
    }
    const x0 = v128.load32_splat(wx, 8)
    const x1 = v128.load32_splat(wx, 12)
    const x2 = v128.load32_splat(wx, 16)
    const x3 = v128.load32_splat(wx, 20)
    let sum = f32x4.mul(across(p, x0, x1, x2, x3), v128.load32_splat(wy, 8))
    sum = f32x4.add(sum, f32x4.mul(across(p + stride, x0, x1, x2, x3), v128.load32_splat(wy, 12)))
    sum = f32x4.add(sum, f32x4.mul(across(p + 2 * stride, x0, x1, x2, x3), v128.load32_splat(wy, 16)))
    return f32x4.add(sum, f32x4.mul(across(p + 3 * stride, x0, x1, x2, x3), v128.load32_splat(wy, 20)))
  }
  let sum = zero
  for (let k = 0; k < 4; k++) {
    if (j + k >= 0 && j + k < sh) {
      const row = f32x4.add(
        f32x4.add(f32x4.mul(inside(p, i, sw), v128.load32_splat(wx, 8)), f32x4.mul(inside(p, i + 1, sw), v128.load32_splat(wx, 12))),
        f32x4.add(f32x4.mul(inside(p, i + 2, sw), v128.load32_splat(wx, 16)), f32x4.mul(inside(p, i + 3, sw), v128.load32_splat(wx, 20))),
      )
      sum = f32x4.add(sum, f32x4.mul(row, v128.load32_splat(wy + <usize>(k << 2), 8)))
    }
    p += stride
  }
  return sum
}

/** Straight colour first, while both have overshot alike at a border; then held to 0…1. */
// @ts-ignore: decorator
@inline
function storeMixed(q: usize, sum: v128): void {
  storePixel(q, f32x4.pmax(f32x4.splat(0), unpremultiply(sum)))
}

/**
 * Pixel (x, y) of the output, counted from (x0, y0), is what a picture shows where an affine map sends its middle. Each place is reckoned from
 * the pixel's own number, in 64-bit floats. RGBA16.
 * @param pic the picture's address, stride, first column, first row, width, height (32-bit numbers)
 * @param m six 64-bit floats: the map's rows
 * @param table the weights of placeWeights
 * @rows dst +y0
 * @work w * h * 6
 */
export function placeAffine(dst: usize, dstStride: i32, w: i32, h: i32, x0: i32, y0: i32, pic: usize, m: usize, table: usize): void {
  const a = load<f64>(m)
  const b = load<f64>(m, 8)
  const c = load<f64>(m, 16)
  const d = load<f64>(m, 24)
  const e = load<f64>(m, 32)
  const f = load<f64>(m, 40)
  // in blocks, so that what a turned one looks at lies near
  for (let top = 0; top < h; top += BLOCK) {
    const low = min(h, top + BLOCK)
    for (let left = 0; left < w; left += BLOCK) {
      const right = min(w, left + BLOCK)
      for (let y = top; y < low; y++) {
        const Y = <f64>(y0 + y) + 0.5
        const u0 = b * Y + c - 0.5
        const v0 = e * Y + f - 0.5
        const row = dst + <usize>y * <usize>dstStride
        for (let x = left; x < right; x++) {
          const X = <f64>(x0 + x) + 0.5
          storeMixed(row + (<usize>x << 3), shownAt(pic, table, a * X + u0, d * X + v0))
        }
      }
    }
  }
}
/** Side of the blocks in which a turned picture is computed. */
const BLOCK: i32 = 64

/**
 * The same by a projective map, out of a picture and its reduced sizes, each half the one before: each pixel out of the two sizes between which it is
 * made smaller (by the larger singular value of the map there; between powers of two in proportion). What is not before the horizon is clear.
 * @param pics as `pic` above, `n` of them, 24 bytes apart, the largest first
 * @param m nine 64-bit floats: the map's rows, to pixels of the first picture
 * @param horizon the smallest third coordinate that is before it
 * @rows dst +y0
 * @work w * h * 14
 */
export function placeProjective(dst: usize, dstStride: i32, w: i32, h: i32, x0: i32, y0: i32, pics: usize, n: i32, m: usize, horizon: f64, table: usize): void {
  const a = load<f64>(m)
  const b = load<f64>(m, 8)
  const c = load<f64>(m, 16)
  const d = load<f64>(m, 24)
  const e = load<f64>(m, 32)
  const f = load<f64>(m, 40)
  const g = load<f64>(m, 48)
  const h0 = load<f64>(m, 56)
  const k0 = load<f64>(m, 64)
  for (let y = 0; y < h; y++) {
    const Y = <f64>(y0 + y) + 0.5
    for (let x = 0; x < w; x++) {
      const X = <f64>(x0 + x) + 0.5
      const q = dst + (<usize>x << 3)
      const W = g * X + h0 * Y + k0
      if (!(W > horizon)) {
        store<u64>(q, 0)
        continue
      }
      const u = (a * X + b * Y + c) / W
      const v = (d * X + e * Y + f) / W
      // half of the sums and differences of the Jacobian's entries
      const ux = (a - u * g) / W
      const uy = (b - u * h0) / W
      const vx = (d - v * g) / W
      const vy = (e - v * h0) / W
      const p = (ux + vy) * 0.5
      const r = (ux - vy) * 0.5
      const s = (vx + uy) * 0.5
      const t = (vx - uy) * 0.5
      let smaller = Math.sqrt(p * p + t * t) + Math.sqrt(r * r + s * s)
      let level = 0
      let scale = 1.0
      while (smaller >= 2 && level < n - 1) {
        smaller *= 0.5
        scale *= 0.5
        level++
      }
      const at = pics + <usize>(level * 24)
      let sum = shownAt(at, table, u * scale - 0.5, v * scale - 0.5)
      if (smaller > 1 && level < n - 1) {
        const share = f32x4.splat(<f32>(smaller - 1))
        const next = shownAt(at + 24, table, u * scale * 0.5 - 0.5, v * scale * 0.5 - 0.5)
        sum = f32x4.add(sum, f32x4.mul(f32x4.sub(next, sum), share))
      }
      storeMixed(q, sum)
    }
    dst += dstStride
  }
}

/**
 * Copies pixels in another order: turned by quarters, flipped. RGBA16.
 * @param src the pixel that becomes the first
 * @param srcStride bytes from it to the one that becomes the first of the second row, which may be negative
 * @param step bytes from one pixel of a row to the next, which may be negative
 * @rows src dst
 */
export function copyTurned(src: usize, srcStride: i32, step: i32, dst: usize, dstStride: i32, w: i32, h: i32): void {
  for (let y = 0; y < h; y++) {
    let p = src
    for (let x = 0; x < w; x++) {
      store<u64>(dst + (<usize>x << 3), load<u64>(p))
      p += step
    }
    src += srcStride
    dst += dstStride
  }
}
