// Planes of numbers and the few whole-plane operations that a study is made of: running sums, so that their cost does not grow with their reach.
// Only + − × ÷ and the square root are used, in a fixed order: every machine finds the same.

import type { Kernels } from '../kernels/kernels.ts'

// taken once: loops over planes look nothing up
const { ceil, floor, max, min, round, sqrt } = Math

/** Numbers of a picture, rows from the top. */
export interface Field {
  w: number
  h: number
  v: Float32Array
}

export const field = (w: number, h: number): Field => ({ w, h, v: new Float32Array(w * h) })

/** A field made value by value. */
export function mapped(of: Field, f: (v: number, i: number) => number): Field {
  const out = field(of.w, of.h)
  for (let i = 0; i < out.v.length; i++) out.v[i] = f(of.v[i]!, i)
  return out
}

/**
 * Averages a plane of w × h floats in kernel memory over square windows that reach r pixels each way, in its place; borders are repeated.
 * @param spare room for such a plane
 */
export function averageIn({ raw }: Kernels, plane: number, spare: number, w: number, h: number, r: number): void {
  if (r < 1) return
  raw.meanRows(plane, w * 4, spare, w * 4, w, h, r)
  // by blocks of 64 columns
  raw.meanColumns(spare, 256, plane, 256, w, h, 0, ceil(w / 64), r)
}

/** A field averaged over up to three square windows, one after another; each reaches so many pixels each way. */
function means(kernels: Kernels, { w, h, v }: Field, r1: number, r2: number, r3: number): Field {
  if (r1 < 1 && r2 < 1 && r3 < 1) return { w, h, v: v.slice() }
  return kernels.scratch(w * h * 8, (plane) => {
    kernels.f32(plane, w * h).set(v)
    for (const r of [r1, r2, r3]) averageIn(kernels, plane, plane + w * h * 4, w, h, r)
    return { w, h, v: kernels.f32(plane, w * h).slice() }
  })
}

/**
 * About a Gaussian blur: three box means whose variances add up to about sigma² (Wells, "Efficient synthesis of Gaussian filters by cascaded uniform filters", 1986).
 */
export function blurred(kernels: Kernels, of: Field, sigma: number): Field {
  // a window of n has the variance (n² − 1) / 12
  let low = floor(sqrt((12 * sigma * sigma) / 3 + 1))
  if (low % 2 === 0) low--
  const narrow = min(3, max(0, round((12 * sigma * sigma - 3 * low * low - 12 * low - 9) / (-4 * low - 4))))
  const reach = (i: number) => ((i < narrow ? low : low + 2) - 1) / 2
  return means(kernels, of, reach(0), reach(1), reach(2))
}

/** A field of half the size: means of 2 × 2; an odd border repeats its last row or column. */
export function halved({ w, h, v }: Field): Field {
  const out = field(ceil(w / 2), ceil(h / 2))
  const to = out.v
  const whole = w >> 1
  for (let y = 0; y < out.h; y++) {
    let a = 2 * y * w
    let b = min(h - 1, 2 * y + 1) * w
    let o = y * out.w
    for (let x = 0; x < whole; x++) {
      to[o++] = (v[a]! + v[a + 1]! + v[b]! + v[b + 1]!) / 4
      a += 2
      b += 2
    }
    if (whole < out.w) to[o] = (v[a]! + v[a]! + v[b]! + v[b]!) / 4
  }
  return out
}

/** A field of twice the size, w × h, by straight lines between its values. */
export function doubled(of: Field, w: number, h: number): Field {
  const out = field(w, h)
  const from = of.v
  const to = out.v
  const last = of.w - 1
  for (let y = 0; y < h; y++) {
    // rows and columns lie a quarter and three quarters between those of the small one
    const j = y >> 1
    const near = j * of.w
    const far = min(of.h - 1, max(0, y % 2 === 0 ? j - 1 : j + 1)) * of.w
    let o = y * w
    // values to the left, here, to the right, in both rows
    let nb = from[near]!
    let fb = from[far]!
    let na = nb
    let fa = fb
    for (let i = 0; 2 * i < w; i++) {
      const k = i < last ? i + 1 : i
      const nc = from[near + k]!
      const fc = from[far + k]!
      to[o++] = 0.5625 * nb + 0.1875 * (na + fb) + 0.0625 * fa
      if (2 * i + 1 < w) to[o++] = 0.5625 * nb + 0.1875 * (nc + fb) + 0.0625 * fc
      na = nb
      fa = fb
      nb = nc
      fb = fc
    }
  }
  return out
}

/** The value between pixels, at a place counted in pixels whose middles are whole numbers; borders repeated. */
export function at(f: Field, x: number, y: number): number {
  const w = f.w
  const h = f.h
  const v = f.v
  const cx = x < 0 ? 0 : x > w - 1 ? w - 1 : x
  const cy = y < 0 ? 0 : y > h - 1 ? h - 1 : y
  const ix = min(w - 2 < 0 ? 0 : w - 2, floor(cx))
  const iy = min(h - 2 < 0 ? 0 : h - 2, floor(cy))
  const fx = cx - ix
  const fy = cy - iy
  const i = iy * w + ix
  const dx = w > 1 ? 1 : 0
  const dy = h > 1 ? w : 0
  const top = v[i]! + (v[i + dx]! - v[i]!) * fx
  const low = v[i + dy]! + (v[i + dy + dx]! - v[i + dy]!) * fx
  return top + (low - top) * fy
}

/** Slopes along x and y by Scharr's operator (2000), a pixel; borders repeated. */
export function slopes({ w, h, v }: Field): { x: Field; y: Field } {
  const x = field(w, h)
  const y = field(w, h)
  const gx = x.v
  const gy = y.v
  for (let row = 0; row < h; row++) {
    const a = max(0, row - 1) * w
    const b = row * w
    const c = min(h - 1, row + 1) * w
    // three columns move along
    let al = v[a]!
    let bl = v[b]!
    let cl = v[c]!
    let am = al
    let bm = bl
    let cm = cl
    for (let i = 0; i < w; i++) {
      const r = i < w - 1 ? i + 1 : i
      const ar = v[a + r]!
      const br = v[b + r]!
      const cr = v[c + r]!
      gx[b + i] = (3 * (ar - al) + 10 * (br - bl) + 3 * (cr - cl)) / 32
      gy[b + i] = (3 * (cl - al) + 10 * (cm - am) + 3 * (cr - ar)) / 32
      al = am
      bl = bm
      cl = cm
      am = ar
      bm = br
      cm = cr
    }
  }
  return { x, y }
}

/** 0 up to `from`, 1 from `to` on, and a smooth way between. */
export function between(v: number, from: number, to: number): number {
  const t = min(1, max(0, (v - from) / (to - from)))
  return t * t * (3 - 2 * t)
}
