import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from './contract.ts'

const KEPT = 48
const caches = new WeakMap<Kernels, Map<string, number>>()

/** The address in kernel memory of the table with this name; made when it is not there, the oldest given back. */
export function tableIn(kernels: Kernels, name: string, make: () => Uint16Array): number {
  let cache = caches.get(kernels)
  if (!cache) caches.set(kernels, (cache = new Map()))
  let ptr = cache.get(name)
  if (ptr === undefined) {
    const table = make()
    ptr = kernels.allocator.alloc(table.byteLength)
    kernels.u16(ptr, table.length).set(table)
    if (cache.size >= KEPT) {
      const [oldest, at] = cache.entries().next().value!
      cache.delete(oldest)
      kernels.allocator.free(at)
    }
  } else cache.delete(name)
  cache.set(name, ptr)
  return ptr
}

/** Sends the colour channels of a picture through a table, in place. */
export function applyTable(kernels: Kernels, pic: Pic, name: string, make: () => Uint16Array): void {
  const t = tableIn(kernels, name, make)
  kernels.raw.lut(pic.ptr, pic.stride, pic.ptr, pic.stride, pic.region.w, pic.region.h, t, t, t)
}
