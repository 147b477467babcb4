import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from './contract.ts'

const KEPT = 96
const caches = new WeakMap<Kernels, Map<string, number>>()

/** The address in kernel memory of the table with this name; made when it is not there, the oldest given back. */
export function tableIn(kernels: Kernels, name: string, make: () => Uint16Array | Float32Array): number {
  let cache = caches.get(kernels)
  if (!cache) caches.set(kernels, (cache = new Map()))
  let ptr = cache.get(name)
  if (ptr === undefined) {
    const table = make()
    ptr = kernels.allocator.alloc(table.byteLength)
    kernels.bytes(ptr, table.byteLength).set(new Uint8Array(table.buffer, table.byteOffset, table.byteLength))
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

/** The addresses of three tables (R, G, B) that are made together; one address where they are one. */
export function tablesIn(kernels: Kernels, name: string, make: () => readonly [Uint16Array, Uint16Array, Uint16Array]): [number, number, number] {
  let made: readonly [Uint16Array, Uint16Array, Uint16Array] | null = null
  const all = () => (made ??= make())
  const r = tableIn(kernels, name, () => all()[0])
  // whether they differ is told by a mark beside the first
  const apart =
    kernels.u16(
      tableIn(kernels, `${name} apart`, () => Uint16Array.of(all()[0] === all()[1] && all()[0] === all()[2] ? 0 : 1)),
      1,
    )[0] === 1
  if (!apart) return [r, r, r]
  return [r, tableIn(kernels, `${name} green`, () => all()[1]), tableIn(kernels, `${name} blue`, () => all()[2])]
}
