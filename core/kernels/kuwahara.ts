// Kuwahara filters: each pixel takes the mean of that part of its neighbourhood which varies least.
import { premultipliedCodes } from './box'
import { storePixel, unpremultiply } from './simd'

/** Lightness (BT.709) of premultiplied codes. */
// @ts-ignore: decorator
@inline
function lumaOf(c: v128): f64 {
  return <f64>((i32x4.extract_lane(c, 0) * 13933) >>> 16) + <f64>((i32x4.extract_lane(c, 1) * 46871) >>> 16) + <f64>((i32x4.extract_lane(c, 2) * 4732) >>> 16)
}

/**
 * Classic: of the four squares of (r + 1)² pixels that share the pixel as a corner, the mean of the one whose lightness varies least; of equal ones the
 * first, from the upper left. src is the w × h output region grown by r on all sides; r 1…60. Sums are whole numbers, so it does not matter where
 * a row began. Kuwahara, Hachimura, Eiho & Kinoshita, "Processing of RI-angiocardiographic images" (1976).
 * @rows src dst
 * @overlap 2 * r
 * @work w * h * 4
 * @scratch (r + 1) * (w + 2 * r) * 24 + (w + 2 * r) * 32 + 64
 */
export function kuwahara(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, scratch: usize): void {
  const n = r + 1
  const columns = w + 2 * r
  const windows = w + r
  const area = <f64>(n * n)
  // column sums of the last n rows: colours, squares and sums of lightness; then a ring of rows of window sums
  const colours = scratch
  const squares = colours + (<usize>columns << 4)
  const ring = squares + (<usize>columns << 4)
  const line = <usize>columns * 24
  memory.fill(scratch, 0, <usize>columns << 5)
  for (let y = 0; y < h + 2 * r; y++) {
    const fresh = src + <usize>y * <usize>srcStride
    const old = fresh - <usize>n * <usize>srcStride
    for (let x = 0; x < columns; x++) {
      const c = premultipliedCodes(fresh + (<usize>x << 3))
      const l = lumaOf(c)
      let sum = i32x4.add(v128.load(colours + (<usize>x << 4)), c)
      const q = squares + (<usize>x << 4)
      let sq = load<f64>(q) + l * l
      let light = load<f64>(q, 8) + l
      if (y >= n) {
        const o = premultipliedCodes(old + (<usize>x << 3))
        const ol = lumaOf(o)
        sum = i32x4.sub(sum, o)
        sq -= ol * ol
        light -= ol
      }
      v128.store(colours + (<usize>x << 4), sum)
      store<f64>(q, sq)
      store<f64>(q, light, 8)
    }
    if (y < r) continue
    // windows whose last row is y, by their left edge
    const row = ring + <usize>((y - r) % n) * line
    let sum = i32x4.splat(0)
    let sq: f64 = 0
    let light: f64 = 0
    for (let x = 0; x < columns; x++) {
      sum = i32x4.add(sum, v128.load(colours + (<usize>x << 4)))
      sq += load<f64>(squares + (<usize>x << 4))
      light += load<f64>(squares + (<usize>x << 4), 8)
      if (x >= n) {
        sum = i32x4.sub(sum, v128.load(colours + (<usize>(x - n) << 4)))
        sq -= load<f64>(squares + (<usize>(x - n) << 4))
        light -= load<f64>(squares + (<usize>(x - n) << 4), 8)
      }
      if (x < r) continue
      const at = row + <usize>(x - r) * 24
      v128.store(at, sum)
      // the variance times the square of their number
      store<f64>(at, sq * area - light * light, 16)
    }
    if (y < 2 * r) continue
    const upper = ring + <usize>((y - 2 * r) % n) * line
    for (let x = 0; x < w; x++) {
      let best = upper + <usize>x * 24
      let least = load<f64>(best, 16)
      for (let k = 1; k < 4; k++) {
        const at = (k < 2 ? upper : row) + <usize>(x + (k & 1) * r) * 24
        const v = load<f64>(at, 16)
        if (v < least) {
          least = v
          best = at
        }
      }
      const mean = f32x4.mul(f32x4.convert_i32x4_s(v128.load(best)), f32x4.splat(<f32>(1.0 / (area * 65535.0))))
      storePixel(dst + (<usize>x << 3), unpremultiply(mean))
    }
    dst += dstStride
  }
}

/** Directions and lengths of ellipse that kuwaharaTaps makes weights for. */
const TURNS: i32 = 64
const LENGTHS: i32 = 8
/** Bytes before an ellipse's places: their number (i32), then the sums of the eight weights from byte 16 on (f32). */
const HEAD: usize = 48
/** Bytes of a place, two pixels side by side: column and row from the middle (i32); 16 bytes on, their weights (i16). */
const PAIR: usize = 48

/** What the weights of one sector add up to at most: times 32768 it still fits an i32. */
const FULL: f32 = 60000

/** A place's eight weights as floats: those of the sectors along the axes, then (16 bytes on) of those between them. */
// @ts-ignore: decorator
@inline
function weigh(at: usize, u: f32, v: f32, zeta: f32, eta: f32): void {
  const half: f32 = 0.70710677
  const zero = f32x4.splat(0)
  const z0 = f32x4.splat(zeta)
  const e0 = f32x4.splat(eta)
  const uu = u * u
  const vv = v * v
  // ζ + v − η·u² and its like, turned by 90° from lane to lane
  let k0 = f32x4.pmax(zero, f32x4.add(z0, f32x4.sub(f32x4(v, -u, -v, u), f32x4.mul(e0, f32x4(uu, vv, uu, vv)))))
  const p = half * (u - v)
  const q = half * (u + v)
  let k1 = f32x4.pmax(zero, f32x4.add(z0, f32x4.sub(f32x4(q, -p, -q, p), f32x4.mul(e0, f32x4(p * p, q * q, p * p, q * q)))))
  k0 = f32x4.mul(k0, k0)
  k1 = f32x4.mul(k1, k1)
  const d = uu + vv
  // (1 − d)², close to the Gaussian of the paper and never negative
  const share = f32x4.splat(((1 - d) * (1 - d) + 0.02) / (sumOf(k0) + sumOf(k1)))
  v128.store(at, f32x4.mul(k0, share))
  v128.store(at + 16, f32x4.mul(k1, share))
}

/**
 * Weights of eight sectors at every pixel of ellipses in 64 directions (half a turn) and 8 lengths, for kuwaharaAlong: for each its head and `most`
 * places of two pixels. An ellipse of length l has half axes radius · (1 + stretch · l) and radius / (1 + stretch · l); no pixel is
 * further than r. `zeta` and `eta` shape the sectors. `block` 1: pixel by
 * pixel; 2: by the means of 2 × 2 pixels.
 * Kyprianidis, Semmo, Kang & Döllner, "Anisotropic Kuwahara filtering with polynomial weighting functions", TPCG 2010.
 * @scratch 32
 */
export function kuwaharaTaps(table: usize, most: i32, r: i32, radius: f32, stretch: f32, zeta: f32, eta: f32, block: i32, scratch: usize): void {
  // four pixels have their middle between them
  const middle: f32 = block == 2 ? 0.5 : 0
  const low = -(r & -block)
  const high = r + 2 - block
  for (let t = 0; t < TURNS * LENGTHS; t++) {
    const angle = (<f64>(t % TURNS) * Math.PI) / <f64>TURNS
    const k: f32 = 1 + (stretch * <f32>(t / TURNS)) / <f32>(LENGTHS - 1)
    const a = min<f32>(<f32>r, radius * k)
    const b = max<f32>(0.75, radius / k)
    const cos = <f32>Math.cos(angle)
    const sin = <f32>Math.sin(angle)
    const row = table + <usize>t * (<usize>most * PAIR + HEAD)
    memory.fill(row, 0, <usize>most * PAIR + HEAD)
    // the largest unit in which neither a weight nor their sum is too large
    let s0 = f32x4.splat(0)
    let s1 = s0
    let m = s0
    for (let j = low; j < high; j += block) {
      for (let i = low; i < high; i += block) {
        const u = (cos * (<f32>i + middle) + sin * (<f32>j + middle)) / a
        const v = (cos * (<f32>j + middle) - sin * (<f32>i + middle)) / b
        if (u * u + v * v > 1) continue
        weigh(scratch, u, v, zeta, eta)
        s0 = f32x4.add(s0, v128.load(scratch))
        s1 = f32x4.add(s1, v128.load(scratch, 16))
        m = f32x4.pmax(m, f32x4.pmax(v128.load(scratch), v128.load(scratch, 16)))
      }
    }
    const unit = min<f32>(FULL / largestOf(f32x4.pmax(s0, s1)), 32767 / largestOf(m))
    let n = 0
    for (let j = low; j < high; j += block) {
      // the first column of the pair at hand; what is outside the ellipse has no weight
      let pair = i32.MIN_VALUE
      for (let i = low; i < high; i += block) {
        const u = (cos * (<f32>i + middle) + sin * (<f32>j + middle)) / a
        const v = (cos * (<f32>j + middle) - sin * (<f32>i + middle)) / b
        if (u * u + v * v > 1) continue
        if (pair != (i & -(block << 1))) {
          if (n >= most) continue
          pair = i & -(block << 1)
          n++
        }
        weigh(scratch, u, v, zeta, eta)
        const at = row + HEAD + <usize>(n - 1) * PAIR
        store<i32>(at, pair)
        store<i32>(at, j, 4)
        for (let q: usize = 0; q < 8; q++) {
          const whole = <i32>(load<f32>(scratch + (q << 2)) * unit + 0.5)
          store<i16>(at + 16 + (q << 2) + (i == pair ? 0 : 2), <i16>whole)
          const sum = row + 16 + (q << 2)
          store<f32>(sum, load<f32>(sum) + <f32>whole)
        }
      }
    }
    store<i32>(row, n)
  }
}

/**
 * Anisotropic Kuwahara filter: eight sectors of an ellipse that lies along the flow; their means, weighed by how little they vary. `flow`: as flowOf
 * writes it; `table`: as kuwaharaTaps makes it for this r, `most` and `block`. src is the w × h output region grown by
 * r on all sides. `power` 1 to 3: how much the calmest sectors outweigh the others. Colours are summed as whole numbers, two pixels and four sectors at
 * a time.
 * @rows src flow dst
 * @overlap 2 * r
 * @work w * h * 30
 * @scratch (h + 2 * r) * (w + 2 * r) * 20
 */
export function kuwaharaAlong(
  src: usize,
  srcStride: i32,
  flow: usize,
  flowStride: i32,
  dst: usize,
  dstStride: i32,
  w: i32,
  h: i32,
  r: i32,
  table: usize,
  most: i32,
  block: i32,
  power: i32,
  scratch: usize,
): void {
  const columns = w + 2 * r
  const line = <usize>columns << 4
  const rows = h + 2 * r
  const alphas = scratch + <usize>rows * line
  const zero = i32x4.splat(0)
  let opaque = true
  for (let y = 0; y < rows; y++) {
    const down = block == 2 && y + 1 < rows ? <usize>srcStride : 0
    for (let x = 0; x < columns; x++) {
      const p = src + (<usize>x << 3)
      let c = codesAndSquare(p)
      let alpha = <i32>load<u16>(p, 6)
      if (alpha < 65535) opaque = false
      if (block == 2) {
        const right: usize = x + 1 < columns ? 8 : 0
        c = i32x4.add(i32x4.add(c, codesAndSquare(p + right)), i32x4.add(codesAndSquare(p + down), codesAndSquare(p + down + right)))
        c = i32x4.shr_s(i32x4.add(c, i32x4.splat(2)), 2)
        alpha = (alpha + <i32>load<u16>(p + right, 6) + <i32>load<u16>(p + down, 6) + <i32>load<u16>(p + down + right, 6) + 2) >> 2
      }
      // in its own place and beside the one that it is paired with
      const at = <usize>(y * columns + x)
      const own = scratch + (at << 4)
      const low = alphas + (at << 2)
      c = i16x8.narrow_i32x4_s(c, c)
      v128.store16_lane(own, c, 0)
      v128.store16_lane(own, c, 1, 4)
      v128.store16_lane(own, c, 2, 8)
      v128.store16_lane(own, c, 3, 12)
      store<i16>(low, <i16>(alpha - 32768))
      if (x < block) continue
      const other = own - (<usize>block << 4)
      v128.store16_lane(other, c, 0, 2)
      v128.store16_lane(other, c, 1, 6)
      v128.store16_lane(other, c, 2, 10)
      v128.store16_lane(other, c, 3, 14)
      store<i16>(low - (<usize>block << 2), <i16>(alpha - 32768), 2)
    }
    src += srcStride
  }
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const f = flow + (<usize>x << 4)
      const middle = scratch + <usize>(y + r) * line + (<usize>(x + r) << 4)
      const row = table + <usize>ellipseOf(load<f32>(f), load<f32>(f, 4), load<f32>(f, 8)) * (<usize>most * PAIR + HEAD)
      const end = row + HEAD + <usize>load<i32>(row) * PAIR
      let r0 = zero
      let g0 = zero
      let b0 = zero
      let s0 = zero
      let r1 = zero
      let g1 = zero
      let b1 = zero
      let s1 = zero
      for (let t = row + HEAD; t < end; t += PAIR) {
        const p = middle + <usize>(load<i32>(t, 4) * <i32>line + (load<i32>(t) << 4))
        const k0 = v128.load(t, 16)
        const k1 = v128.load(t, 32)
        const red = v128.load32_splat(p)
        const green = v128.load32_splat(p, 4)
        const blue = v128.load32_splat(p, 8)
        const square = v128.load32_splat(p, 12)
        r0 = i32x4.add(r0, i32x4.dot_i16x8_s(k0, red))
        g0 = i32x4.add(g0, i32x4.dot_i16x8_s(k0, green))
        b0 = i32x4.add(b0, i32x4.dot_i16x8_s(k0, blue))
        s0 = i32x4.add(s0, i32x4.dot_i16x8_s(k0, square))
        r1 = i32x4.add(r1, i32x4.dot_i16x8_s(k1, red))
        g1 = i32x4.add(g1, i32x4.dot_i16x8_s(k1, green))
        b1 = i32x4.add(b1, i32x4.dot_i16x8_s(k1, blue))
        s1 = i32x4.add(s1, i32x4.dot_i16x8_s(k1, square))
      }
      const i0 = f32x4.div(f32x4.splat(<f32>(1.0 / 65535)), v128.load(row, 16))
      const i1 = f32x4.div(f32x4.splat(<f32>(1.0 / 65535)), v128.load(row, 32))
      const mr0 = f32x4.mul(i0, f32x4.convert_i32x4_s(r0))
      const mg0 = f32x4.mul(i0, f32x4.convert_i32x4_s(g0))
      const mb0 = f32x4.mul(i0, f32x4.convert_i32x4_s(b0))
      const mr1 = f32x4.mul(i1, f32x4.convert_i32x4_s(r1))
      const mg1 = f32x4.mul(i1, f32x4.convert_i32x4_s(g1))
      const mb1 = f32x4.mul(i1, f32x4.convert_i32x4_s(b1))
      const t0 = calm(mr0, mg0, mb0, f32x4.mul(i0, f32x4.convert_i32x4_s(s0)), power)
      const t1 = calm(mr1, mg1, mb1, f32x4.mul(i1, f32x4.convert_i32x4_s(s1)), power)
      const inverse: f32 = 1 / sumOf(f32x4.add(t0, t1))
      let alpha: f32 = 1
      if (!opaque) {
        const place = alphas + (<usize>((y + r) * columns + x + r) << 2)
        let a0 = zero
        let a1 = zero
        for (let t = row + HEAD; t < end; t += PAIR) {
          const pair = v128.load32_splat(place + <usize>((load<i32>(t, 4) * columns + load<i32>(t)) << 2))
          a0 = i32x4.add(a0, i32x4.dot_i16x8_s(v128.load(t, 16), pair))
          a1 = i32x4.add(a1, i32x4.dot_i16x8_s(v128.load(t, 32), pair))
        }
        const share = f32x4.add(
          f32x4.mul(t0, f32x4.mul(i0, f32x4.convert_i32x4_s(a0))),
          f32x4.mul(t1, f32x4.mul(i1, f32x4.convert_i32x4_s(a1))),
        )
        alpha = sumOf(share) * inverse + HALF
      }
      const mean = f32x4(
        sumOf(f32x4.add(f32x4.mul(t0, mr0), f32x4.mul(t1, mr1))) * inverse + HALF,
        sumOf(f32x4.add(f32x4.mul(t0, mg0), f32x4.mul(t1, mg1))) * inverse + HALF,
        sumOf(f32x4.add(f32x4.mul(t0, mb0), f32x4.mul(t1, mb1))) * inverse + HALF,
        alpha,
      )
      storePixel(dst + (<usize>x << 3), opaque ? mean : unpremultiply(mean))
    }
    flow += flowStride
    dst += dstStride
  }
}

/** 32768 of 65535: the middle that codes are counted from. */
const HALF: f32 = 32768.0 / 65535.0

// @ts-ignore: decorator
@inline
function lightOf(c: v128): f32 {
  return f32x4.extract_lane(c, 0) * 0.2126 + f32x4.extract_lane(c, 1) * 0.7152 + f32x4.extract_lane(c, 2) * 0.0722
}

/** Premultiplied red, green and blue of a pixel and four times the square of its lightness from the middle, all less 32768. */
// @ts-ignore: decorator
@inline
function codesAndSquare(p: usize): v128 {
  const c = premultipliedCodes(p)
  const l = lightOf(f32x4.convert_i32x4_s(c)) * <f32>(1.0 / 65535) - HALF
  return i32x4.sub(i32x4.replace_lane(c, 3, <i32>(l * l * 262140 + 0.5)), i32x4.splat(32768))
}

/** The number of the ellipse for a direction (cos, sin) and an anisotropy 0…1: the nearest direction, on a diamond whose corners are evened out. */
// @ts-ignore: decorator
@inline
function ellipseOf(cos: f32, sin: f32, anisotropy: f32): i32 {
  if (sin < 0) {
    cos = -cos
    sin = -sin
  }
  // the angle over half a turn by a fit of atan within 0.2°
  const ax = abs<f32>(cos)
  const low = min<f32>(ax, sin)
  const high = max<f32>(max<f32>(ax, sin), 1e-12)
  const q = low / high
  let angle = q * (0.336 - 0.085 * q)
  if (sin > ax) angle = 0.5 - angle
  if (cos < 0) angle = 1 - angle
  const turn = <i32>(angle * <f32>TURNS + 0.5) % TURNS
  const length = <i32>(min<f32>(1, anisotropy) * <f32>(LENGTHS - 1) + 0.5)
  return length * TURNS + turn
}

// @ts-ignore: decorator
@inline
function sumOf(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3)
}

// @ts-ignore: decorator
@inline
function largestOf(v: v128): f32 {
  return max<f32>(max<f32>(f32x4.extract_lane(v, 0), f32x4.extract_lane(v, 1)), max<f32>(f32x4.extract_lane(v, 2), f32x4.extract_lane(v, 3)))
}

/**
 * Weights of four sectors: 1 / (1 + (255² · variance)^power), power 1, 2 or 4 for 1, 2 and 3. Means are counted from the middle; s is four times the mean
 * of the squared lightness, counted from the middle too.
 */
// @ts-ignore: decorator
@inline
function calm(r: v128, g: v128, b: v128, s: v128, power: i32): v128 {
  const l = f32x4.add(f32x4.add(f32x4.mul(r, f32x4.splat(0.2126)), f32x4.mul(g, f32x4.splat(0.7152))), f32x4.mul(b, f32x4.splat(0.0722)))
  const square = f32x4.mul(f32x4.add(s, f32x4.splat(HALF)), f32x4.splat(0.25))
  const variance = f32x4.pmax(f32x4.splat(0), f32x4.sub(square, f32x4.mul(l, l)))
  const v = f32x4.mul(variance, f32x4.splat(65025))
  let p = v
  if (power > 1) p = f32x4.mul(p, v)
  if (power > 2) p = f32x4.mul(p, p)
  return f32x4.div(f32x4.splat(1), f32x4.add(f32x4.splat(1), p))
}
