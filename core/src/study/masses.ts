import type { Kernels } from '../kernels/kernels.ts'
import { averageIn, blurred, doubled, halved, type Field } from './fields.ts'

// taken once: loops over planes look nothing up
const { max, round } = Math

/** How often masses are looked at anew through those found before. */
const ROUNDS = 4
/** Variance of the guide that counts as flat. */
const EVEN = 0.0012

/**
 * A plane as another guides it, and that again, so many times: within a window it is a straight function of the guide (He, Sun and Tang, "Guided image filtering", ECCV
 * 2010). All planes stay in kernel memory from the first round to the last.
 * @param r how far the window reaches, pixels
 */
async function guided(kernels: Kernels, of: Field, first: Field, r: number, pause: () => Promise<void>): Promise<Field> {
  const { w, h } = of
  const n = w * h
  const { raw, allocator } = kernels
  const held: number[] = []
  const plane = (): number => {
    const at = allocator.alloc(n * 4)
    held.push(at)
    return at
  }
  try {
    const [tone, guide, mean, means, products, squares, spare] = [plane(), plane(), plane(), plane(), plane(), plane(), plane()] as const
    const row = w * 4
    const averaged = async (at: number) => {
      averageIn(kernels, at, spare, w, h, r)
      await pause()
    }
    kernels.f32(tone, n).set(of.v)
    kernels.f32(mean, n).set(of.v)
    kernels.f32(guide, n).set(first.v)
    await averaged(mean)
    for (let i = 0; i < ROUNDS; i++) {
      raw.copyRect(guide, row, means, row, row, h)
      await averaged(means)
      raw.productsOf(guide, row, tone, row, products, row, w, h)
      await averaged(products)
      raw.productsOf(guide, row, guide, row, squares, row, w, h)
      await averaged(squares)
      raw.fitLines(means, row, mean, row, products, row, squares, row, w, h, EVEN)
      await averaged(squares)
      await averaged(products)
      raw.alongLines(squares, row, products, row, guide, row, guide, row, w, h)
      await pause()
    }
    return { w, h, v: kernels.f32(guide, n).slice() }
  } finally {
    for (const at of held) allocator.free(at)
  }
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
    const half = await massesOf(kernels, halved(kernels, tone), size / 2, pause)
    return doubled(kernels, half, tone.w, tone.h)
  }
  const guide = await guided(kernels, tone, blurred(kernels, tone, size), max(1, round(1.7 * size)), pause)
  // straight functions overshoot beside hard borders
  const { v } = guide
  for (let i = 0; i < v.length; i++) v[i] = v[i]! < 0 ? 0 : v[i]! > 1 ? 1 : v[i]!
  return guide
}
