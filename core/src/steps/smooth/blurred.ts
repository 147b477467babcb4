import type { Region } from '../../base/region.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import type { Pic } from '../contract.ts'
import { gaussianInto, gaussianNeeds, gaussianPlan } from './gaussian-blur.ts'

/** The part of the input that blurWhole reads for a region. */
export function blurReach(region: Region, sigma: number): Region {
  const need = gaussianNeeds(region, sigma)
  const { f } = gaussianPlan(sigma)
  return f === 1 ? need : { x: need.x - f, y: need.y - f, w: need.w + 2 * f, h: need.h + 2 * f }
}

/**
 * A Gaussian blur as part of a step: reduces the input (of the region that blurReach tells) itself where the blur works on cells.
 * @param sigma pixels of the level
 */
export function blurWhole(kernels: Kernels, input: Pic, output: Pic, sigma: number): void {
  const { f } = gaussianPlan(sigma)
  if (f === 1) {
    gaussianInto(kernels, input, output, sigma)
    return
  }
  const { x, y, w, h } = input.region
  const cells = { x: x / f + 1, y: y / f + 1, w: w / f - 2, h: h / f - 2 }
  kernels.scratch(cells.w * cells.h * 16, (ptr) => {
    kernels.raw.reduceCells(input.ptr, input.stride, f, ptr, cells.w * 16, cells.w, cells.h)
    gaussianInto(kernels, { ptr, stride: cells.w * 16, region: cells }, output, sigma)
  })
}
