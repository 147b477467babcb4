import type { Kernels } from '../kernels/kernels.ts'
import { blurred, boxed, doubled, field, halved, type Field } from './fields.ts'

// taken once: loops over planes look nothing up
const { max, round } = Math

/**
 * A plane as another guides it: within a window it is a straight function of the guide (He, Sun and Tang, "Guided image filtering", ECCV 2010).
 * @param r how far the window reaches; @param even variance of the guide that counts as flat
 */
export async function guided(
  kernels: Kernels,
  of: Field,
  guide: Field,
  r: number,
  even: number,
  pause: () => Promise<void> = async () => undefined,
): Promise<Field> {
  const { w, h } = of
  const n = w * h
  const product = field(w, h)
  const [p, i, t] = [of.v, guide.v, product.v]
  const mi = boxed(kernels, guide, r)
  await pause()
  const mp = boxed(kernels, of, r)
  await pause()
  for (let k = 0; k < n; k++) t[k] = i[k]! * p[k]!
  const mip = boxed(kernels, product, r)
  await pause()
  for (let k = 0; k < n; k++) t[k] = i[k]! * i[k]!
  const mii = boxed(kernels, product, r)
  await pause()
  const [a, b] = [mii.v, mip.v]
  for (let k = 0; k < n; k++) {
    const m = mi.v[k]!
    const variance = a[k]! - m * m
    const slope = (b[k]! - m * mp.v[k]!) / ((variance > 0 ? variance : 0) + even)
    a[k] = slope
    b[k] = mp.v[k]! - slope * m
  }
  await pause()
  const ma = boxed(kernels, mii, r)
  await pause()
  const mb = boxed(kernels, mip, r)
  await pause()
  for (let k = 0; k < n; k++) t[k] = ma.v[k]! * i[k]! + mb.v[k]!
  return product
}

/** Sizes from which masses are looked for in a picture of half the size. */
const COARSE = 4

/**
 * The large masses of a plane: what is smaller than `size` is gone, the borders of what is larger stand where they stood. Rolling guidance (Zhang, Shen, Xu and Jia,
 * ECCV 2014) with the guided filter as its joint filter.
 * @param size the deviation that small things are blurred away with, pixels
 */
export async function massesOf(kernels: Kernels, tone: Field, size: number, pause: () => Promise<void>): Promise<Field> {
  if (size >= COARSE && tone.w > 8 && tone.h > 8) {
    const half = await massesOf(kernels, halved(tone), size / 2, pause)
    return doubled(half, tone.w, tone.h)
  }
  let guide = blurred(kernels, tone, size)
  const r = max(1, round(1.7 * size))
  for (let i = 0; i < 4; i++) {
    await pause()
    guide = await guided(kernels, tone, guide, r, 0.0012, pause)
  }
  // straight functions overshoot beside hard borders
  const { v } = guide
  for (let i = 0; i < v.length; i++) v[i] = v[i]! < 0 ? 0 : v[i]! > 1 ? 1 : v[i]!
  return guide
}
