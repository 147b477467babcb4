// The nearest colour of a palette.
import { blueYellowOf, cone, decoded, greenRedOf, lightnessOf } from './oklab'

/**
 * Each pixel becomes the entry of a palette nearest to it in OKLab (Euclidean). `lab`: three floats an entry; `colours`: an RGBA16 pixel each, whose
 * alpha is not used: a pixel keeps its own. Of two equally near ones the first counts. src and dst may be the same.
 * @rows src dst
 */
export function nearestOklab(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, lab: usize, colours: usize, n: i32, decode: usize): void {
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x += 4) {
      const p = src + (<usize>x << 3)
      const r = decoded(p, decode, 0)
      const g = decoded(p, decode, 2)
      const bl = decoded(p, decode, 4)
      const l = cone(r, g, bl, 0)
      const m = cone(r, g, bl, 1)
      const s = cone(r, g, bl, 2)
      const light = lightnessOf(l, m, s)
      const a = greenRedOf(l, m, s)
      const b = blueYellowOf(l, m, s)
      let best = f32x4.splat(1e9)
      let which = i32x4.splat(0)
      for (let k = 0; k < n; k++) {
        const e = lab + <usize>k * 12
        const dl = f32x4.sub(light, f32x4.splat(load<f32>(e)))
        const da = f32x4.sub(a, f32x4.splat(load<f32>(e, 4)))
        const db = f32x4.sub(b, f32x4.splat(load<f32>(e, 8)))
        const d = f32x4.add(f32x4.add(f32x4.mul(dl, dl), f32x4.mul(da, da)), f32x4.mul(db, db))
        const nearer = f32x4.lt(d, best)
        best = v128.bitselect(d, best, nearer)
        which = v128.bitselect(i32x4.splat(k), which, nearer)
      }
      const q = dst + (<usize>x << 3)
      const left = w - x
      // read before anything is written: src and dst may be the same
      const a1 = load<u64>(p, 8) & 0xffff000000000000
      const a2 = load<u64>(p, 16) & 0xffff000000000000
      const a3 = load<u64>(p, 24) & 0xffff000000000000
      take(q, colours, i32x4.extract_lane(which, 0), load<u64>(p) & 0xffff000000000000)
      if (left > 1) take(q + 8, colours, i32x4.extract_lane(which, 1), a1)
      if (left > 2) take(q + 16, colours, i32x4.extract_lane(which, 2), a2)
      if (left > 3) take(q + 24, colours, i32x4.extract_lane(which, 3), a3)
    }
    src += srcStride
    dst += dstStride
  }
}

// @ts-ignore: decorator
@inline
function take(q: usize, colours: usize, i: i32, alpha: u64): void {
  store<u64>(q, (load<u64>(colours + (<usize>i << 3)) & 0x0000ffffffffffff) | alpha)
}

/** CIE 1976 L*a*b* (D65) of linear light, one after the other at `out`. */
function labOf(r: f32, g: f32, b: f32, out: usize): void {
  const x = curve(<f32>0.4339532 * r + <f32>0.3762061 * g + <f32>0.1898407 * b)
  const y = curve(<f32>0.2126729 * r + <f32>0.7151522 * g + <f32>0.072175 * b)
  const z = curve(<f32>0.0177578 * r + <f32>0.1094765 * g + <f32>0.8727657 * b)
  store<f32>(out, 116 * y - 16)
  store<f32>(out, 500 * (x - y), 4)
  store<f32>(out, 200 * (y - z), 8)
}
// @ts-ignore: decorator
@inline
function curve(t: f32): f32 {
  return t > <f32>0.008856452 ? <f32>Math.cbrt(<f64>t) : t * <f32>(841.0 / 108.0) + <f32>(4.0 / 29.0)
}

/**
 * Colour difference CIEDE2000 of two colours in CIE L*a*b*. Sharma, Wu & Dalal, "The CIEDE2000 color-difference formula", Color Research and
 * Application 30 (2005).
 */
export function ciede2000(l1: f64, a1: f64, b1: f64, l2: f64, a2: f64, b2: f64): f64 {
  const c1 = Math.sqrt(a1 * a1 + b1 * b1)
  const c2 = Math.sqrt(a2 * a2 + b2 * b2)
  const mean = (c1 + c2) * 0.5
  const m2 = mean * mean
  const m7 = m2 * m2 * m2 * mean
  const g = 0.5 * (1 - Math.sqrt(m7 / (m7 + 6103515625.0)))
  const a1g = (1 + g) * a1
  const a2g = (1 + g) * a2
  const c1g = Math.sqrt(a1g * a1g + b1 * b1)
  const c2g = Math.sqrt(a2g * a2g + b2 * b2)
  const h1 = hue(a1g, b1)
  const h2 = hue(a2g, b2)
  const both = c1g * c2g
  let dh: f64 = 0
  if (both != 0) {
    dh = h2 - h1
    if (dh > Math.PI) dh -= 2 * Math.PI
    else if (dh < -Math.PI) dh += 2 * Math.PI
  }
  const dl = l2 - l1
  const dc = c2g - c1g
  const dH = 2 * Math.sqrt(both) * Math.sin(dh * 0.5)
  const lm = (l1 + l2) * 0.5
  const cm = (c1g + c2g) * 0.5
  let hm = h1 + h2
  if (both != 0) {
    if (Math.abs(h1 - h2) <= Math.PI) hm = hm * 0.5
    else hm = hm < 2 * Math.PI ? (hm + 2 * Math.PI) * 0.5 : (hm - 2 * Math.PI) * 0.5
  }
  const deg = Math.PI / 180
  const t = 1 - 0.17 * Math.cos(hm - 30 * deg) + 0.24 * Math.cos(2 * hm) + 0.32 * Math.cos(3 * hm + 6 * deg) - 0.2 * Math.cos(4 * hm - 63 * deg)
  const turn = (hm / deg - 275) / 25
  const theta = 30 * deg * Math.exp(-turn * turn)
  const k2 = cm * cm
  const k7 = k2 * k2 * k2 * cm
  const rc = 2 * Math.sqrt(k7 / (k7 + 6103515625.0))
  const l50 = (lm - 50) * (lm - 50)
  const sl = 1 + (0.015 * l50) / Math.sqrt(20 + l50)
  const sc = 1 + 0.045 * cm
  const sh = 1 + 0.015 * cm * t
  const rt = -Math.sin(2 * theta) * rc
  const x = dl / sl
  const y = dc / sc
  const z = dH / sh
  return Math.sqrt(x * x + y * y + z * z + rt * y * z)
}
// @ts-ignore: decorator
@inline
function hue(a: f64, b: f64): f64 {
  if (a == 0 && b == 0) return 0
  const h = Math.atan2(b, a)
  return h < 0 ? h + 2 * Math.PI : h
}

/** Cells of a grid over R, G and B that remember which entries of a palette may be nearest in them: 16 a side. */
const SIDE: i32 = 16
/** Entries a cell remembers at most, its count in front. */
const CELL: usize = 64

/**
 * Fills the grid that nearestCiede goes by: for each of 16³ cells of display-encoded R, G and B the entries that are nearest at any of 27 points of it,
 * or within `margin` of the nearest at its middle. `grid`: 16³ × 64 bytes; `lab`: three floats an entry, CIE L*a*b*; n up to 63.
 */
export function paletteGrid(grid: usize, lab: usize, n: i32, decode: usize, margin: f32, out: usize): void {
  for (let i = 0; i < SIDE * SIDE * SIDE; i++) {
    const cell = grid + <usize>i * CELL
    memory.fill(cell, 0, CELL)
    const cr = i & 15
    const cg = (i >> 4) & 15
    const cb = i >> 8
    let count: u8 = 0
    for (let s = 0; s < 27; s++) {
      const r = load<f32>(decode + (<usize>min<i32>(65535, cr * 4096 + (s % 3) * 2048) << 2))
      const g = load<f32>(decode + (<usize>min<i32>(65535, cg * 4096 + ((s / 3) % 3) * 2048) << 2))
      const b = load<f32>(decode + (<usize>min<i32>(65535, cb * 4096 + (s / 9) * 2048) << 2))
      labOf(r, g, b, out)
      let best: f64 = 1e9
      for (let k = 0; k < n; k++) best = min<f64>(best, away(out, lab, k))
      const within = best + (s == 13 ? <f64>margin : 0)
      for (let k = 0; k < n; k++) {
        if (away(out, lab, k) > within) continue
        let known = false
        for (let j: u8 = 0; j < count; j++) if (load<u8>(cell + 1 + j) == <u8>k) known = true
        if (!known) {
          store<u8>(cell + 1 + count, <u8>k)
          count++
        }
      }
    }
    store<u8>(cell, count)
  }
}
// @ts-ignore: decorator
@inline
function away(p: usize, lab: usize, k: i32): f64 {
  const e = lab + <usize>k * 12
  return ciede2000(<f64>load<f32>(p), <f64>load<f32>(p, 4), <f64>load<f32>(p, 8), <f64>load<f32>(e), <f64>load<f32>(e, 4), <f64>load<f32>(e, 8))
}

/**
 * Each pixel becomes the entry of a palette with the smallest CIEDE2000 difference, of those that the grid made by paletteGrid names for its cell.
 * As nearestOklab otherwise.
 * @rows src dst
 * @work w * h * 4
 * @scratch 16
 */
export function nearestCiede(
  src: usize,
  srcStride: i32,
  dst: usize,
  dstStride: i32,
  w: i32,
  h: i32,
  grid: usize,
  lab: usize,
  colours: usize,
  decode: usize,
  scratch: usize,
): void {
  for (let y = 0; y < h; y++) {
    let before: u64 = 0
    let found = -1
    for (let i: usize = 0; i < <usize>w << 3; i += 8) {
      const px = load<u64>(src + i)
      const rgb = px & 0x0000ffffffffffff
      if (found < 0 || rgb != before) {
        const r = <u32>(px & 0xffff)
        const g = <u32>((px >> 16) & 0xffff)
        const b = <u32>((px >> 32) & 0xffff)
        const cell = grid + <usize>((r >> 12) | ((g >> 12) << 4) | ((b >> 12) << 8)) * CELL
        const count = load<u8>(cell)
        found = load<u8>(cell, 1)
        if (count > 1) {
          labOf(load<f32>(decode + (<usize>r << 2)), load<f32>(decode + (<usize>g << 2)), load<f32>(decode + (<usize>b << 2)), scratch)
          let best: f64 = 1e9
          for (let j: u8 = 0; j < count; j++) {
            const k = <i32>load<u8>(cell + 1 + j)
            const d = away(scratch, lab, k)
            if (d < best || (d == best && k < found)) {
              best = d
              found = k
            }
          }
        }
        before = rgb
      }
      store<u64>(dst + i, (load<u64>(colours + (<usize>found << 3)) & 0x0000ffffffffffff) | (px & 0xffff000000000000))
    }
    src += srcStride
    dst += dstStride
  }
}
