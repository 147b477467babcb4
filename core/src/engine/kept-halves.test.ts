import { newLayer } from '../artwork/layers.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import type { Artwork } from '../artwork/schema.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { EMPTY_TILE, emptyPlane, PLANE_TILE, tileBytes, withEntries, CLEAR, indexOf, type Plane } from '../planes/plane.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { digest, paintStroke, samplesOf } from '../testing/painting.ts'
import { compute, dice, newTestEngine, testPicture } from '../testing/pictures.ts'
import { PlaneTiles } from './planes.ts'

// A plane that was shown before is shown small without reading all its parts: the host keeps halved tiles of one level.

/** Tiles of a plane each way. */
const SIDE = 9
const asset = 'd'.repeat(64)
let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

/** Sources that count the parts read. */
class Counted extends MemorySources {
  read = 0
  override blob(name: string): Promise<Uint8Array> {
    this.read++
    return super.blob(name)
  }
}

/** A host with a plane of noise, no tile of which is like another, and nothing of it in memory. */
async function opened(blobs: Map<string, Uint8Array>, halves: Map<string, Uint8Array> | null) {
  const sources = new Counted()
  sources.halves = halves
  for (const [name, bytes] of blobs) sources.blobs.set(name, bytes)
  await sources.add(kernels, asset, { width: 8, height: 8, channels: 3, depth: 8 }, testPicture(8, 8))
  return { sources, engine: newTestEngine(kernels, sources) }
}

let made: ReturnType<typeof noise>
beforeAll(() => (made = noise()))

async function noise(): Promise<{ plane: Plane; index: string; blobs: Map<string, Uint8Array> }> {
  const next = dice(5)
  const base = Uint16Array.from({ length: tileBytes(4) / 2 }, () => next() * 65536)
  // the alpha of painted pixels is never below their colour
  for (let i = 3; i < base.length; i += 4) base[i] = 65535
  const blobs = new Map<string, Uint8Array>()
  const changes: { tx: number; ty: number; entry: string }[] = []
  for (let ty = 0; ty < SIDE; ty++) {
    for (let tx = 0; tx < SIDE; tx++) {
      // the same noise, begun at another pixel
      const samples = new Uint16Array(base.length)
      const from = (ty * SIDE + tx) * 4
      samples.set(base.subarray(from))
      samples.set(base.subarray(0, from), base.length - from)
      const bytes = new Uint8Array(samples.buffer)
      const entry = await digest(bytes)
      blobs.set(entry, bytes)
      changes.push({ tx, ty, entry })
    }
  }
  const plane = withEntries(emptyPlane(4), changes)
  const { root, pages } = indexOf(plane)
  for (const { name, bytes } of [root, ...pages]) blobs.set(name, bytes)
  return { plane, index: root.name, blobs }
}

function painted(index: string): Artwork {
  const a = artworkFromPhoto({ asset, width: SIDE * PLANE_TILE, height: SIDE * PLANE_TILE, title: 't' })
  a.layers = [newLayer('Paint', { type: 'paint', plane: { index, channels: 4 } }, [], 'paint')]
  return a
}

const hashOf = async ({ pixels }: { pixels: Uint16Array }) => digest(new Uint8Array(pixels.buffer, pixels.byteOffset, pixels.byteLength))

test('opened again, the small picture is the same, and only the index is read', async () => {
  const { index, blobs } = await made
  const plain = await opened(blobs, null)
  const halves = new Map<string, Uint8Array>()
  const first = await opened(blobs, halves)
  const second = await opened(blobs, halves)
  for (const level of [2, 3, 4]) {
    const want = await hashOf(await compute(plain.engine, painted(index), { level }))
    expect(await hashOf(await compute(first.engine, painted(index), { level }))).toBe(want)
    expect(await hashOf(await compute(second.engine, painted(index), { level }))).toBe(want)
  }
  expect(halves.size).toBe(Math.ceil(SIDE / 4) ** 2)
  expect(first.sources.read).toBeGreaterThanOrEqual(SIDE * SIDE)
  // a root and its page
  expect(second.sources.read).toBe(2)
  // at full size its parts are read as ever
  const region = { x: 300, y: 300, w: 100, h: 100 }
  expect(await hashOf(await compute(second.engine, painted(index), { region }))).toBe(await hashOf(await compute(plain.engine, painted(index), { region })))
})

test('after a stroke only the parts it touched are read again, and the picture is right', async () => {
  const { plane, index, blobs } = await made
  const halves = new Map<string, Uint8Array>()
  const host = await opened(blobs, halves)
  await compute(host.engine, painted(index), { level: 3 })
  const stroke = await paintStroke(
    host.engine,
    host.sources,
    samplesOf([
      [1200, 1200],
      [1300, 1260],
    ]),
    {
      plane,
      blank: CLEAR,
      laying: { type: 'paint', colour: 0xffff_0000_0000_0000n },
    },
  )
  const again = await opened(host.sources.blobs, halves)
  const plain = await opened(host.sources.blobs, null)
  const now = await compute(again.engine, painted(stroke.index), { level: 3 })
  expect(await hashOf(now)).toBe(await hashOf(await compute(plain.engine, painted(stroke.index), { level: 3 })))
  // one kept tile's worth of parts, and the index
  expect(again.sources.read).toBeLessThanOrEqual(16 + 2)
})

test('a kept tile of another size is passed over, and so is a host that cannot look', async () => {
  const { index, blobs } = await made
  const plain = await opened(blobs, null)
  const want = await hashOf(await compute(plain.engine, painted(index), { level: 3 }))
  const halves = new Map<string, Uint8Array>()
  const first = await opened(blobs, halves)
  await compute(first.engine, painted(index), { level: 3 })
  for (const name of halves.keys()) halves.set(name, new Uint8Array(7))
  const second = await opened(blobs, halves)
  expect(await hashOf(await compute(second.engine, painted(index), { level: 3 }))).toBe(want)
  const third = await opened(blobs, halves)
  third.sources.halved = () => Promise.reject(new Error('the disk is gone'))
  expect(await hashOf(await compute(third.engine, painted(index), { level: 3 }))).toBe(want)
})

test('a tile that a stroke works on is never kept', async () => {
  const halves = new Map<string, Uint8Array>()
  const { sources, engine } = await opened(new Map(), halves)
  const planes = new PlaneTiles(kernels, sources, engine.store)
  const ptr = kernels.allocator.alloc(tileBytes(1))
  planes.hold('live1', ptr)
  const plane = withEntries(emptyPlane(1), [{ tx: 0, ty: 0, entry: 'live1' }])
  const out = { ptr: kernels.allocator.alloc(64 * 64 * 8), stride: 64 * 8, region: { x: 0, y: 0, w: 64, h: 64 } }
  await planes.read({ plane, blank: EMPTY_TILE }, 2, out as never, { signal: { cancelled: false } } as never)
  expect(halves.size).toBe(0)
  kernels.allocator.free(out.ptr)
  planes.drop('live1')
  kernels.allocator.free(ptr)
})

test('parts that the host guards are not named anew each time; others are, and a wrong one is told', async () => {
  const { index, blobs } = await made
  const spoilt = new Map(blobs)
  const [name, bytes] = [...blobs].find(([, b]) => b.length === tileBytes(4))!
  spoilt.set(
    name,
    Uint8Array.from(bytes, (v, i) => (i === 5 ? v ^ 1 : v)),
  )
  const checked = await opened(spoilt, null)
  await expect(compute(checked.engine, painted(index), { level: 3 })).rejects.toMatchObject({ code: 'plane-unreadable' })
  let named = 0
  const count = (sources: MemorySources) => {
    const own = sources.digest.bind(sources)
    sources.digest = (b) => {
      named++
      return own(b)
    }
  }
  const plain = await opened(blobs, null)
  count(plain.sources)
  const want = await hashOf(await compute(plain.engine, painted(index), { level: 3 }))
  expect(named).toBe(SIDE * SIDE + 2)
  const guarded = await opened(blobs, null)
  guarded.sources.guards = true
  count(guarded.sources)
  named = 0
  expect(await hashOf(await compute(guarded.engine, painted(index), { level: 3 }))).toBe(want)
  expect(named).toBe(0)
})
