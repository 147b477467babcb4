import { blurred, boxed, field, type Field } from './fields.ts'

/**
 * A plane as another guides it: within a window it is a straight function of the guide (He, Sun and Tang, "Guided image filtering", ECCV 2010).
 * @param r how far the window reaches; @param even variance of the guide that counts as flat
 */
export function guided(of: Field, guide: Field, r: number, even: number): Field {
  const { w, h } = of
  const n = w * h
  const product = field(w, h)
  const [mi, mp] = [boxed(guide, r), boxed(of, r)]
  for (let i = 0; i < n; i++) product.v[i] = guide.v[i]! * of.v[i]!
  const mip = boxed(product, r)
  for (let i = 0; i < n; i++) product.v[i] = guide.v[i]! * guide.v[i]!
  const mii = boxed(product, r)
  for (let i = 0; i < n; i++) {
    const variance = Math.max(0, mii.v[i]! - mi.v[i]! * mi.v[i]!)
    const a = (mip.v[i]! - mi.v[i]! * mp.v[i]!) / (variance + even)
    mii.v[i] = a
    mip.v[i] = mp.v[i]! - a * mi.v[i]!
  }
  const [ma, mb] = [boxed(mii, r), boxed(mip, r)]
  for (let i = 0; i < n; i++) ma.v[i] = ma.v[i]! * guide.v[i]! + mb.v[i]!
  return ma
}

/**
 * The large masses of a plane: what is smaller than `size` is gone, the borders of what is larger stand where they stood. Rolling guidance (Zhang, Shen, Xu and Jia,
 * ECCV 2014) with the guided filter as its joint filter.
 * @param size the deviation that small things are blurred away with, pixels
 */
export async function massesOf(tone: Field, size: number, pause: () => Promise<void>): Promise<Field> {
  let guide = blurred(tone, size)
  const r = Math.max(1, Math.round(1.7 * size))
  for (let i = 0; i < 4; i++) {
    await pause()
    guide = guided(tone, guide, r, 0.0012)
  }
  return guide
}
