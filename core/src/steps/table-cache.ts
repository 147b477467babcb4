import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from './contract.ts'

const KEPT = 96
/** A megabyte each. */
const CUBES_KEPT = 24
/** Of those used last so many are not given back: their addresses may be in use. */
const IN_USE = 8
/** Points along an edge of a colour cube: every fifth 8-bit code. */
export const CUBE = 52
const caches = new WeakMap<Kernels, Map<string, number>>()
const cubes = new WeakMap<Kernels, Map<string, number>>()
/** Planes of other pictures take megabytes each. */
const PLANES_KEPT = 4
const planes = new WeakMap<Kernels, Map<string, number>>()

/** The address in kernel memory of the table with this name; made when it is not there, another given back. */
export function tableIn(kernels: Kernels, name: string, make: () => Uint16Array | Float32Array): number {
  return keptIn(caches, KEPT, kernels, name, () => copied(kernels, make()))
}

/** The address in kernel memory of the numbers of a plane with this name; few are kept. */
export function planeIn(kernels: Kernels, name: string, values: Float32Array): number {
  return keptIn(planes, PLANES_KEPT, kernels, name, () => copied(kernels, values))
}

function copied(kernels: Kernels, table: Uint16Array | Float32Array): number {
  const ptr = kernels.allocator.alloc(table.byteLength)
  kernels.bytes(ptr, table.byteLength).set(new Uint8Array(table.buffer, table.byteOffset, table.byteLength))
  return ptr
}

/**
 * The address of a cube of CUBE³ colours (red fastest) that `change` was sent over: a function of colour that is dear a pixel is computed at the
 * cube's points only, and the kernel `cube` goes straight between them.
 * @param change a kernel call that changes the pixels of a picture of CUBE² rows of CUBE, in place
 */
export function cubeIn(kernels: Kernels, name: string, change: (ptr: number, stride: number, w: number, h: number) => void): number {
  return keptIn(cubes, CUBES_KEPT, kernels, name, () => {
    const ptr = kernels.allocator.alloc(CUBE ** 3 * 8)
    const codes = kernels.u16(ptr, CUBE ** 3 * 4)
    const code = (i: number) => Math.floor((i * 65535) / (CUBE - 1) + 0.5)
    for (let b = 0, i = 0; b < CUBE; b++)
      for (let g = 0; g < CUBE; g++)
        for (let r = 0; r < CUBE; r++, i += 4) {
          codes[i] = code(r)
          codes[i + 1] = code(g)
          codes[i + 2] = code(b)
          codes[i + 3] = 65535
        }
    try {
      change(ptr, CUBE * 8, CUBE, CUBE * CUBE)
    } catch (error) {
      kernels.allocator.free(ptr)
      throw error
    }
    return ptr
  })
}

/**
 * An address by name; made when it is not there, and one of `most` given back. Not always the oldest: pieces of work ask for the tables of all steps in
 * turn, and where there is one step more than tables are kept, the oldest is always the one that is asked for next.
 */
function keptIn(all: WeakMap<Kernels, Map<string, number>>, most: number, kernels: Kernels, name: string, make: () => number): number {
  let cache = all.get(kernels)
  if (!cache) all.set(kernels, (cache = new Map()))
  let ptr = cache.get(name)
  if (ptr === undefined) {
    ptr = make()
    if (cache.size >= most) {
      dealt = (Math.imul(dealt, 1664525) + 1013904223) >>> 0
      const at = most > IN_USE ? Math.floor((dealt / 2 ** 32) * (cache.size - IN_USE)) : 0
      const [given, address] = [...cache.entries()][at]!
      cache.delete(given)
      kernels.allocator.free(address)
    }
  } else cache.delete(name)
  cache.set(name, ptr)
  return ptr
}
let dealt = 1

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
