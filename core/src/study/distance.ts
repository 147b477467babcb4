import type { Kernels } from '../kernels/kernels.ts'
import { field, type Field } from './fields.ts'

/** A plane of floats, made by the kernels out of marks of a byte each. @param use kernel memory: the marks, a plane for columns, the plane to be filled */
function outOf(kernels: Kernels, is: Uint8Array, w: number, h: number, use: (marks: number, down: number, dst: number) => void): Field {
  const n = w * h
  const marks = (n + 15) & ~15
  return kernels.scratch(marks + n * 8, (ptr) => {
    kernels.bytes(ptr, n).set(is)
    use(ptr, ptr + marks, ptr + marks + n * 4)
    const out = field(w, h)
    out.v.set(kernels.f32(ptr + marks + n * 4, n))
    return out
  })
}

/** Columns go by blocks of 64. */
const blocks = (w: number) => Math.ceil(w / 64)

/**
 * Distance of each pixel to the nearest one for which `is` is 1, in pixels (Felzenszwalb and Huttenlocher, "Distance transforms of sampled functions", Theory of Computing 8,
 * 2012): exact, and its cost does not grow with the distance. A million where there is none.
 */
export const distanceTo = (kernels: Kernels, is: Uint8Array, w: number, h: number): Field =>
  outOf(kernels, is, w, h, (marks, down, dst) => {
    kernels.raw.nearInColumns(marks, 64, down, 256, w, h, 0, blocks(w), 0)
    kernels.raw.distances(down, w * 4, dst, w * 4, w, h)
  })

/** How far inside a shape (where `is` is 1, not 0) each pixel lies, below 0 outside; its border runs between pixels. Where there is no shape, or nothing else, far. */
export const insideOf = (kernels: Kernels, is: Uint8Array, w: number, h: number): Field =>
  outOf(kernels, is, w, h, (marks, down, dst) => {
    kernels.raw.nearInColumns(marks, 64, down, 256, w, h, 0, blocks(w), 1)
    kernels.raw.insides(marks, w, down, w * 4, dst, w * 4, w, h)
  })

/** What lies within so many pixels of where `is` is 1, across and down (a square): its cost does not grow with the distance. */
export function grownBy(is: Uint8Array, w: number, h: number, by: number): Uint8Array {
  const across = new Uint8Array(w * h)
  for (let y = 0; y < h; y++) {
    for (let x = 0, last = -by - 1, i = y * w; x < w; x++, i++) {
      if (is[i] === 1) last = x
      if (x - last <= by) across[i] = 1
    }
    for (let x = w - 1, last = w + by, i = y * w + w - 1; x >= 0; x--, i--) {
      if (is[i] === 1) last = x
      if (last - x <= by) across[i] = 1
    }
  }
  const out = new Uint8Array(w * h)
  const lasts = new Int32Array(w).fill(-by - 1)
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      if (across[i] === 1) lasts[x] = y
      if (y - lasts[x]! <= by) out[i] = 1
    }
  lasts.fill(h + by)
  for (let y = h - 1, i = w * h - 1; y >= 0; y--)
    for (let x = w - 1; x >= 0; x--, i--) {
      if (across[i] === 1) lasts[x] = y
      if (lasts[x]! - y <= by) out[i] = 1
    }
  return out
}
