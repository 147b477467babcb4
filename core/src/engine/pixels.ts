import { intersect, isEmpty, type Region } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from '../steps/contract.ts'

/** Pixels in kernel memory: `done` gives them back where they are one's own. */
export interface Lent extends Pic {
  /** Whether the receiver may write on them. */
  own: boolean
  done: () => void
}

/** A block of pixels of its own, not cleared. */
export function fresh(kernels: Kernels, region: Region, pixelBytes = 8): Lent {
  const ptr = kernels.allocator.alloc(region.w * region.h * pixelBytes)
  return { ptr, stride: region.w * pixelBytes, region, own: true, done: () => kernels.allocator.free(ptr) }
}

/** The part of a picture that is the region, which it holds. */
export function partOf(pic: Pic, region: Region, pixelBytes = 8): Pic {
  return { ptr: pic.ptr + (region.y - pic.region.y) * pic.stride + (region.x - pic.region.x) * pixelBytes, stride: pic.stride, region }
}

/** Copies what both cover of `region`. */
export function paste(kernels: Kernels, from: Pic, to: Pic, region: Region, pixelBytes = 8): void {
  const part = intersect(intersect(from.region, to.region), region)
  if (isEmpty(part)) return
  kernels.raw.copyRect(partOf(from, part, pixelBytes).ptr, from.stride, partOf(to, part, pixelBytes).ptr, to.stride, part.w * pixelBytes, part.h)
}

/** Clears a region of a picture. */
export function clear(kernels: Kernels, pic: Pic, region: Region): void {
  if (!isEmpty(region)) kernels.raw.fillRect(partOf(pic, region).ptr, pic.stride, region.w, region.h, 0n)
}

/** Clears what lies round the inner rectangle. */
export function clearAround(kernels: Kernels, pic: Pic, inside: Region): void {
  if (isEmpty(inside)) return clear(kernels, pic, pic.region)
  const { x, y, w, h } = pic.region
  clear(kernels, pic, { x, y, w, h: inside.y - y })
  clear(kernels, pic, { x, y: inside.y + inside.h, w, h: y + h - inside.y - inside.h })
  clear(kernels, pic, { x, y: inside.y, w: inside.x - x, h: inside.h })
  clear(kernels, pic, { x: inside.x + inside.w, y: inside.y, w: x + w - inside.x - inside.w, h: inside.h })
}
