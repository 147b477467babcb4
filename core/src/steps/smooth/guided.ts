import { alignOut, grow, type Region } from '../../base/region.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import type { Pic } from '../contract.ts'

/** How a guided filter of a radius (pixels of the level) is computed: reduction of its grid, radius there. */
export function guidedPlan(radius: number): { f: number; r: number } {
  let f = 1
  while (radius / f > 6) f *= 2
  return { f, r: Math.max(1, Math.round(radius / f)) }
}

/** The input region a guided filter must see. */
export function guidedNeeds(region: Region, radius: number): Region {
  const { f, r } = guidedPlan(radius)
  return grow(alignOut(region, f), (2 * r + 2) * f)
}

/**
 * Guided filter with the picture's own lightness as guide: smooths what varies less than √eps, keeps edges that stand out more.
 * He, Sun & Tang 2013; wide windows on a reduced grid (He & Sun 2015).
 * @param input of the region that guidedNeeds tells; @param radius in pixels of the level; @param eps variance of tone, 0…1
 */
export function guidedInto(kernels: Kernels, input: Pic, output: Pic, radius: number, eps: number): void {
  const { f, r } = guidedPlan(radius)
  const { raw } = kernels
  // one cell is left on each side for the tents, then r for each of two means; one for the enlargement
  const [w0, h0] = [input.region.w / f - 2, input.region.h / f - 2]
  const [w1, h1] = [w0 - 2 * r, h0 - 2 * r]
  const [w2, h2] = [w1 - 2 * r, h1 - 2 * r]
  const [big, mid, small] = [w0 * h0 * 16, w1 * h1 * 16, w2 * h2 * 16]
  kernels.scratch(3 * big + 3 * mid + 2 * small + (r + 1) * 4, (cells) => {
    const [byGuide, guide] = [cells + big, cells + 2 * big]
    const means = cells + 3 * big
    const [a, b] = [means + 3 * mid, means + 3 * mid + small]
    const even = b + small
    kernels.f32(even, r + 1).fill(1 / (2 * r + 1))
    raw.reduceCells(input.ptr, input.stride, f, cells, w0 * 16, w0, h0)
    raw.guidedProducts(cells, w0 * 16, byGuide, w0 * 16, guide, w0 * 16, w0, h0)
    for (let i = 0; i < 3; i++) raw.blurCells(cells + i * big, w0 * 16, means + i * mid, w1 * 16, w1, h1, r, even)
    raw.guidedLines(means, w1 * 16, means + mid, w1 * 16, means + 2 * mid, w1 * 16, w1, h1, eps)
    raw.blurCells(means + mid, w1 * 16, a, w2 * 16, w2, h2, r, even)
    raw.blurCells(means, w1 * 16, b, w2 * 16, w2, h2, r, even)
    const inset = (2 * r + 1) * f
    const src = input.ptr + (output.region.y - input.region.y) * input.stride + (output.region.x - input.region.x) * 8
    const x = output.region.x - input.region.x - inset
    const y = output.region.y - input.region.y - inset
    raw.guidedApply(src, input.stride, a, b, w2 * 16, w2, f, output.ptr, output.stride, output.region.w, output.region.h, x, y)
  })
}
