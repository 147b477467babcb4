import { grow, type Region } from '../../base/region.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import type { Pic } from '../contract.ts'
import { addressOf } from '../picture.ts'
import { gaussianWeights } from '../smooth/gaussian-blur.ts'

const radiusOf = (sigma: number) => Math.max(1, Math.ceil(2.5 * sigma))

/** The part of the input that flowInto looks at for a region. */
export const flowNeeds = (region: Region, sigma: number): Region => grow(region, radiusOf(sigma) + 1)

/**
 * The direction of the forms at each pixel of a region: four floats (cos, sin, anisotropy, strength) as the kernel flowOf writes them.
 * @param flow address of region.w × region.h × 16 bytes; @param sigma how far around directions are averaged, pixels of the level
 */
export async function flowInto(kernels: Kernels, input: Pic, flow: number, region: Region, sigma: number, pause: () => Promise<void>): Promise<void> {
  const { raw, allocator } = kernels
  const r = radiusOf(sigma)
  const wide = grow(region, r)
  const tensor = allocator.alloc(wide.w * wide.h * 16)
  const weights = gaussianWeights(sigma, r, raw.exp)
  const kernel = allocator.alloc(weights.byteLength + 16)
  try {
    kernels.f32(kernel, weights.length).set(weights)
    raw.structureTensor(addressOf(input, grow(wide, 1)), input.stride, tensor, wide.w * 16, wide.w, wide.h, 0.1875)
    await pause()
    raw.blurCells(tensor, wide.w * 16, flow, region.w * 16, region.w, region.h, r, kernel)
    raw.flowOf(flow, region.w * 16, flow, region.w * 16, region.w, region.h)
  } finally {
    allocator.free(tensor)
    allocator.free(kernel)
  }
}
