import { grow, type Region } from '../../base/region.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import type { Pic } from '../contract.ts'

// Filters of a long reach, run on a picture reduced by 2, 4, 8 …: as a small photo is filtered, so is a large one, and the cost does not grow with the reach.

/** How firmly borders of an enlarged result follow those of the picture: likeness falls to a quarter at a difference of 0.1. */
const FIRM = 100

/** Pixels a cell of the reduced grid, a power of two: as few as bring a reach to `most` cells. */
export function gridOf(reach: number, most: number): number {
  let f = 1
  while (reach / f > most) f *= 2
  return f
}

/** The cells that the results for a region are made of: one beyond those it touches. */
function cellsOf({ x, y, w, h }: Region, f: number): Region {
  const [left, top] = [Math.floor(x / f) - 1, Math.floor(y / f) - 1]
  return { x: left, y: top, w: Math.floor((x + w - 1) / f) + 2 - left, h: Math.floor((y + h - 1) / f) + 2 - top }
}

/**
 * The part of the input that onGrid reads for a region.
 * @param around what the filter needs for a region of the reduced picture
 */
export function gridNeeds(region: Region, f: number, around: (cells: Region) => Region): Region {
  if (f === 1) return around(region)
  const { x, y, w, h } = around(cellsOf(region, f))
  return { x: x * f, y: y * f, w: w * f, h: h * f }
}

/**
 * Runs a filter on a reduced picture, and lays the result out with the borders of the full-size one; at full size where f is 1.
 * @param work the input, of the region that gridNeeds tells, and where the result goes
 * @param filter runs on pictures of the reduced size (or of full size), whose input is what `around` says of the output
 */
export async function onGrid(
  kernels: Kernels,
  { input, output }: { input: Pic; output: Pic },
  f: number,
  around: (cells: Region) => Region,
  filter: (input: Pic, output: Pic) => void | Promise<void>,
): Promise<void> {
  if (f === 1) return filter(input, output)
  const { raw, allocator } = kernels
  const held: number[] = []
  const picture = (region: Region): Pic => {
    const ptr = allocator.alloc(region.w * region.h * 8)
    held.push(ptr)
    return { ptr, stride: region.w * 8, region }
  }
  try {
    const cells = cellsOf(output.region, f)
    const area = gridNeeds(output.region, f, around)
    let small: Pic = { ptr: input.ptr + (area.y - input.region.y) * input.stride + (area.x - input.region.x) * 8, stride: input.stride, region: area }
    for (let by = 1; by < f; by *= 2) {
      const { x, y, w, h } = small.region
      const half = picture({ x: x / 2, y: y / 2, w: w / 2, h: h / 2 })
      raw.halve(small.ptr, small.stride, w, h, half.ptr, half.stride)
      small = half
    }
    const result = picture(cells)
    await filter(small, result)
    const guide = small.ptr + (cells.y - small.region.y) * small.stride + (cells.x - small.region.x) * 8
    const { x, y, w, h } = output.region
    const own = input.ptr + (y - input.region.y) * input.stride + (x - input.region.x) * 8
    const { ptr, stride } = output
    raw.jointEnlarge(own, input.stride, guide, small.stride, result.ptr, result.stride, ptr, stride, w, h, x, y, f, cells.x, cells.y, FIRM)
  } finally {
    for (const ptr of held) allocator.free(ptr)
  }
}

/** A reach on all sides. */
export const about = (r: number) => (cells: Region) => grow(cells, r)
