import { artworkFromPhoto } from '../artwork/load.ts'
import { perform } from '../artwork/commands.ts'
import { newLayer, newStep } from '../artwork/layers.ts'
import { resizeArtwork, turnArtwork } from '../artwork/framing.ts'
import { planesOf } from '../artwork/planes.ts'
import type { Artwork, Mended } from '../artwork/schema.ts'
import { turned } from '../base/transform.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { digest, paintStroke, plainBrush, samplesOf } from '../testing/painting.ts'
import { compute, newTestEngine, testPicture } from '../testing/pictures.ts'
import type { Engine } from './engine.ts'
import { GraphCompiler } from './graph.ts'
import { reducedFromFull } from './host.ts'
import { mendSource } from './mend-source.ts'
import { StrokeSession } from './stroke-session.ts'

const asset = 'a'.repeat(64)
const [W, H] = [600, 420]
let kernels: Kernels
let sources: MemorySources
let engine: Engine
const going = { cancelled: false }
const within = { x: 0, y: 0, w: W, h: H }
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 3, depth: 8 }, testPicture(W, H))
  engine = newTestEngine(kernels, sources)
})

const photo = (): Artwork => artworkFromPhoto({ asset, width: W, height: H, title: 't' })
const line = (y: number, from = 150, to = 350) => samplesOf(Array.from({ length: 12 }, (_, i) => [from + ((to - from) * i) / 11, y]))
/** A mended place along a line. */
async function place(y: number, dx: number, dy: number, way: Mended['way'] = 'clone', brush: object = {}): Promise<Mended> {
  const { index } = await paintStroke(engine, sources, line(y), { within, brush: { breadth: 40, edge: 1, tip: 'firm', ...brush } })
  return { id: `${way}${y}`, way, dx, dy, cover: { index, channels: 1 } }
}
function mending(mended: Mended[], edit: (a: Artwork) => void = () => undefined): Artwork {
  const a = photo()
  a.layers.push(newLayer('Mended', { type: 'mend', blob: null, plane: null, mended }, [], 'mend'))
  edit(a)
  return a
}
const px = (v: Uint16Array, x: number, y: number) => [...v.subarray((y * W + x) * 4, (y * W + x) * 4 + 3)]
const full = async (a: Artwork) => (await compute(engine, a)).pixels

describe('mended places', () => {
  it('show what lies at their source, covered as far as they were painted; the rest is untouched', async () => {
    const plain = await full(photo())
    const mended = await full(mending([await place(200, 37, -90)]))
    expect(px(mended, 250, 200)).toEqual(px(plain, 287, 110))
    expect(px(mended, 300, 210)).toEqual(px(plain, 337, 120))
    let off = 0
    for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) if (Math.abs(y - 200) > 22 && px(mended, x, y).some((v, c) => v !== px(plain, x, y)[c])) off++
    expect(off).toBe(0)
    // half covered is half of each
    const half = await full(mending([await place(200, 37, -90, 'clone', { most: 0.5, cover: 1 })]))
    const [a, b, m] = [px(plain, 250, 200), px(plain, 287, 110), px(half, 250, 200)]
    m.forEach((v, c) => expect(Math.abs(v - (a[c]! + b[c]!) / 2)).toBeLessThan(40))
  })

  it('go one upon the other, and follow what lies below', async () => {
    const [first, second] = [await place(100, 0, 200), await place(220, 0, -120)]
    const both = await full(mending([first, second]))
    const plain = await full(photo())
    // the second takes what the first laid
    expect(px(both, 250, 220)).toEqual(px(plain, 250, 300))
    const inverted = mending([first, second], (a) => a.layers[0]!.chain.push(newStep('invert')))
    const inv = await full(inverted)
    expect(px(inv, 250, 220)).toEqual(px(plain, 250, 300).map((v) => 65535 - v))
  })

  it('healed, keep what lies round about at their rim, and the forms of their source', async () => {
    const healed = await full(mending([await place(200, 120, 60, 'heal')]))
    const plain = await full(photo())
    const cloned = await full(mending([await place(200, 120, 60, 'clone')]))
    // seams: how much a row changes where the mended place begins, over what it changes there in the photo; averaged along the line
    const seam = (v: Uint16Array) => {
      let sum = 0
      for (let x = 180; x < 320; x++)
        for (let c = 0; c < 3; c++) sum += Math.abs(px(v, x, 180)[c]! - px(v, x, 178)[c]! - (px(plain, x, 180)[c]! - px(plain, x, 178)[c]!))
      return sum
    }
    expect(seam(healed)).toBeLessThan(seam(cloned) / 2)
    expect(px(healed, 250, 200)).not.toEqual(px(plain, 250, 200))
  })

  it('whose source lies beside the picture lay nothing there', async () => {
    const plain = await full(photo())
    for (const way of ['clone', 'heal'] as const) {
      const v = await full(mending([await place(200, 5000, 0, way)]))
      expect(v.every((code, i) => code === plain[i])).toBe(true)
    }
  })

  it('are the same by tiles and strips, at every level, as the full-size picture reduced', async () => {
    const a = mending([await place(200, 37, -90, 'heal', { tip: 'soft', edge: 0.4 }), await place(260, -30, -150)])
    const whole = await full(a)
    const tiles = await compute(engine, a, { grid: { w: 128, h: 96 } })
    expect(tiles.pixels.every((v, i) => v === whole[i])).toBe(true)
    const [w, h] = [W >> 2, H >> 2]
    const coarse = await compute(engine, a, { level: 2 })
    const node = new GraphCompiler(a, kernels.hash).compile({ type: 'artwork' })
    const settled = new Uint8Array(await reducedFromFull(engine, node, 2, { x: 0, y: 0, w, h }, within, going))
    let [sum, most] = [0, 0]
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++)
        for (let c = 0; c < 3; c++) {
          let mean = 0
          for (let j = 0; j < 4; j++) for (let i = 0; i < 4; i++) mean += whole[((y * 4 + j) * W + x * 4 + i) * 4 + c]! / 16 / 257
          sum += Math.abs(mean - coarse.pixels[(y * w + x) * 4 + c]! / 257)
          most = Math.max(most, Math.abs(mean - settled[(y * w + x) * 4 + c]!))
        }
    // at rest it is the full-size picture reduced; before that, soft rims over noise are mixed after reducing, as masks are
    expect(most).toBeLessThan(1)
    expect(sum / (3 * w * h)).toBeLessThan(0.5)
  })

  it('a place more reads what lies below round that place alone', async () => {
    const some = [await place(60, 0, 100), await place(120, 0, 100)]
    await full(mending(some))
    const more = [...some, await place(380, 0, -100)]
    const { shop } = engine as unknown as { shop: { mended: { read: (...a: unknown[]) => unknown } } }
    const read = shop.mended.read
    const regions: { w: number; h: number }[] = []
    shop.mended.read = (...a: unknown[]) => {
      regions.push(a[4] as { w: number; h: number })
      return read(...a)
    }
    await full(mending(more))
    shop.mended.read = read
    // the tiles of the third line, each once
    expect(regions.length).toBeLessThanOrEqual(2)
    expect(regions.reduce((sum, r) => sum + r.w * r.h, 0)).toBeLessThan(300 * 45)
  })

  it('under the brush a clone is what it will be', async () => {
    const made = mending([{ id: 'p', way: 'clone', dx: 37, dy: -90, cover: null }])
    const shown = new Uint8Array(W * H * 4)
    const session = new StrokeSession(
      engine,
      made,
      {
        at: { layer: 'mend', step: 'p', part: 'mend' },
        brush: plainBrush({ breadth: 60, tip: 'soft', edge: 0.4 }),
        symmetry: { type: 'none' },
        laying: { type: 'grey', value: 65535 },
      },
      { target: { type: 'artwork' }, region: within, level: 0 },
      null,
    )
    session.add(line(200))
    const take = ({ ptr, stride, region }: { ptr: number; stride: number; region: { x: number; y: number; w: number; h: number } }) => {
      for (let y = 0; y < region.h; y++)
        for (let x = 0; x < region.w * 4; x++)
          shown[((region.y + y) * W + region.x) * 4 + x] = Math.round(kernels.u16(ptr + y * stride, region.w * 4)[x]! / 257)
    }
    const { index, blobs } = await session.end(going, take, digest)
    for (const { name, bytes } of blobs) sources.blobs.set(name, bytes)
    const after = await full(mending([{ id: 'p', way: 'clone', dx: 37, dy: -90, cover: { index, channels: 1 } }]))
    let off = 0
    let seen = 0
    for (let i = 0; i < shown.length; i++) {
      // what the stroke does not touch is not told of
      if (shown[(i & ~3) + 3] === 0) continue
      seen++
      if (Math.abs(shown[i]! - after[i]! / 257) > 1) off++
    }
    expect(seen).toBeGreaterThan(4 * 200 * 50)
    expect(off).toBe(0)
    expect(px(after, 250, 200)).not.toEqual(px(await full(photo()), 250, 200))
  })

  it('are named in the document, kept to their number, and brought along', async () => {
    const one = await place(200, 37, -90)
    const a = mending([one])
    expect(planesOf(a).map((p) => p.index)).toContain(one.cover!.index)
    const many = Array.from({ length: 501 }, (_, i) => ({ ...one, id: `m${i}` }))
    expect(() => perform(a, { type: 'set-mended', layer: 'mend', mended: many, what: '' })).toThrow('at most 500 places')
    expect(() => perform(a, { type: 'set-mended', layer: a.layers[0]!.id, mended: [], what: '' })).toThrow('mends nothing')
    const other = { index: 'f'.repeat(64), channels: 1 as const }
    const at = { layer: 'mend', step: one.id, part: 'mend' as const }
    const resized = structuredClone(a)
    resizeArtwork(resized, W * 2, [{ at, plane: other }])
    expect(resized.layers[1]!.source).toMatchObject({ mended: [{ dx: 74, dy: -180, cover: other }] })
    const round = structuredClone(a)
    // a quarter counter-clockwise, y downwards: right becomes up
    turnArtwork(round, turned(90), { x: 0, y: -W, w: H, h: W }, [{ at, plane: other }])
    const m = round.layers[1]!.source as { mended: Mended[] }
    expect(Math.hypot(m.mended[0]!.dx, m.mended[0]!.dy)).toBeCloseTo(Math.hypot(37, 90), 5)
    expect([Math.abs(m.mended[0]!.dx), Math.abs(m.mended[0]!.dy)]).toEqual([90, 37])
  })
})

describe('a spot', () => {
  it('finds a source that is like what lies round it; another on request; a sentence where there is nothing', async () => {
    const spot = { ...(await place(200, 0, 0, 'spot', { breadth: 24 })), id: 's' }
    const a = mending([spot])
    const at = { layer: 'mend', step: 's', part: 'mend' as const }
    const found = await mendSource(engine, a, at, [], going)
    expect(Math.hypot(found.dx, found.dy)).toBeGreaterThan(20)
    const other = await mendSource(engine, a, at, [found], going)
    expect(other).not.toEqual(found)
    // without a source it does nothing yet
    const plain = await full(photo())
    expect((await full(a)).every((v, i) => v === plain[i])).toBe(true)
    await expect(mendSource(engine, mending([{ ...spot, cover: null }]), at, [], going)).rejects.toMatchObject({ code: 'paint-refused' })
    const { index } = await paintStroke(engine, sources, line(200, 20, 580), { within, brush: { breadth: 400, tip: 'firm', edge: 1 } })
    await expect(mendSource(engine, mending([{ ...spot, cover: { index, channels: 1 } }]), at, [], going)).rejects.toThrow('Nothing round about')
  })
})
