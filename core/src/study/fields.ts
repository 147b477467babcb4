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

/** Two planes multiplied, value by value. */
export function productOf(a: Float32Array, b: Float32Array): Float32Array {
  const out = new Float32Array(a.length)
  for (let i = 0; i < out.length; i++) out[i] = a[i]! * b[i]!
  return out
}

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

/** A plane made of another in kernel memory. @param make the plane that is there, and the one to be filled */
function madeOf(kernels: Kernels, { w, h, v }: Field, to: { w: number; h: number }, make: (src: number, dst: number) => void): Field {
  const [n, m] = [w * h, to.w * to.h]
  return kernels.scratch((n + m) * 4, (src) => {
    kernels.f32(src, n).set(v)
    make(src, src + n * 4)
    return { ...to, v: kernels.f32(src + n * 4, m).slice() }
  })
}

/** A field of half the size: means of 2 × 2; an odd border repeats its last row or column. */
export function halved(kernels: Kernels, of: Field): Field {
  const to = { w: ceil(of.w / 2), h: ceil(of.h / 2) }
  return madeOf(kernels, of, to, (src, dst) => kernels.raw.halvedField(src, of.w * 4, of.w, of.h, dst, to.w * 4, 0, to.h))
}

/** A field of twice the size, w × h, by straight lines between its values. */
export const doubled = (kernels: Kernels, of: Field, w: number, h: number): Field =>
  madeOf(kernels, of, { w, h }, (src, dst) => kernels.raw.doubledField(src, of.w * 4, of.w, of.h, dst, w * 4, w, 0, h))

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
export function slopes(kernels: Kernels, { w, h, v }: Field): { x: Field; y: Field } {
  const n = w * h
  return kernels.scratch(n * 12, (src) => {
    kernels.f32(src, n).set(v)
    kernels.raw.scharrSlopes(src, w * 4, h, src + n * 4, w * 4, src + n * 8, w * 4, w, 0, h)
    const plane = (k: number): Field => ({ w, h, v: kernels.f32(src + k * n * 4, n).slice() })
    return { x: plane(1), y: plane(2) }
  })
}

/** 0 up to `from`, 1 from `to` on, and a smooth way between. */
export function between(v: number, from: number, to: number): number {
  const t = min(1, max(0, (v - from) / (to - from)))
  return t * t * (3 - 2 * t)
}
