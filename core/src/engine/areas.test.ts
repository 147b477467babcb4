import { artworkFromPhoto } from '../artwork/load.ts'
import { perform } from '../artwork/commands.ts'
import { newMask } from '../artwork/planes.ts'
import type { AreaFrom, AreaHow, AreaOrder } from '../areas/order.ts'
import type { Artwork } from '../artwork/schema.ts'
import { labOfRgb } from '../colour/oklab.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { emptyPlane, EMPTY_TILE, CLEAR } from '../planes/plane.ts'
import { area2 } from '../study/level-lines.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { openCv, type Mat, type OpenCv } from '../testing/opencv.ts'
import { plainBrush, samplesOf, digest } from '../testing/painting.ts'
import { computeNode, newTestEngine, testPicture } from '../testing/pictures.ts'
import { areaOutline } from './area-outline.ts'
import { areaTiles } from './area-tiles.ts'
import { orderedArea, type AlikeMemory } from './areas.ts'
import type { Engine } from './engine.ts'
import { filledPlane } from './fill-plane.ts'
import { GraphCompiler } from './graph.ts'
import { discRows } from './mask-steps.ts'
import { StrokeSession } from './stroke-session.ts'

const asset = 'a'.repeat(64)
const [W, H] = [600, 420]
let kernels: Kernels
let sources: MemorySources
let engine: Engine
const going = { cancelled: false }
const picture = testPicture(W, H)
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 3, depth: 8 }, picture)
  engine = newTestEngine(kernels, sources)
})

const fresh = (): Artwork => artworkFromPhoto({ asset, width: W, height: H, title: 't' })
async function ordered(a: Artwork, order: AreaOrder, memory: { last?: AlikeMemory } = {}): Promise<Artwork> {
  const { index, blobs } = await orderedArea(engine, a, order, going, { digest, memory })
  for (const { name, bytes } of blobs) sources.blobs.set(name, bytes)
  return perform(a, { type: 'paint', at: { layer: '', step: null, part: 'area' }, plane: { index, channels: 1 }, what: 'Area' }).artwork
}
const taken = (a: Artwork, from: AreaFrom, how: AreaHow = 'instead') => ordered(a, { type: 'take', how, from })
/** Codes of an area, row by row. */
async function codes(a: Artwork): Promise<Uint16Array> {
  const node = new GraphCompiler(a, kernels.hash).compile({ type: 'area', plane: a.area!.index })
  const { pixels } = await computeNode(engine, node, { region: { x: 0, y: 0, w: W, h: H } })
  return Uint16Array.from({ length: W * H }, (_, i) => pixels[i * 4]!)
}
const different = (a: Uint16Array, b: ArrayLike<number>, by = 0): number => {
  let n = 0
  for (let i = 0; i < a.length; i++) if (Math.abs(a[i]! - b[i]!) > by) n++
  return n
}
const covered = (v: Uint16Array): number => v.reduce((sum, c) => sum + c / 65535, 0)

describe('shapes', () => {
  it('cover as much as geometry says, to a hundredth of a per cent', async () => {
    const box = { x: 31.3, y: 40.7, w: 300.4, h: 200.6 }
    const rectangle = covered(await codes(await taken(fresh(), { type: 'rectangle', ...box })))
    expect(Math.abs(rectangle / (box.w * box.h) - 1)).toBeLessThan(1e-4)
    const ellipse = covered(await codes(await taken(fresh(), { type: 'ellipse', ...box })))
    expect(Math.abs(ellipse / ((Math.PI / 4) * box.w * box.h) - 1)).toBeLessThan(1e-4)
    // the shoelace formula
    const points = [
      { x: 50, y: 50 },
      { x: 400.5, y: 90 },
      { x: 300, y: 390.25 },
    ]
    const outline = covered(await codes(await taken(fresh(), { type: 'outline', points })))
    expect(Math.abs(outline / (area2(points) / 2) - 1)).toBeLessThan(1e-4)
  })

  it('are put together as sets are', async () => {
    const left = { type: 'ellipse', x: 40, y: 40, w: 300, h: 300 } as const
    const right = { type: 'ellipse', x: 200, y: 60, w: 300, h: 300 } as const
    const [a, b] = [await codes(await taken(fresh(), left)), await codes(await taken(fresh(), right))]
    const both = async (how: AreaHow) => codes(await taken(await taken(fresh(), left), right, how))
    expect(
      different(
        await both('add'),
        a.map((v, i) => Math.max(v, b[i]!)),
      ),
    ).toBe(0)
    expect(
      different(
        await both('share'),
        a.map((v, i) => Math.min(v, b[i]!)),
      ),
    ).toBe(0)
    expect(
      different(
        await both('away'),
        a.map((v, i) => Math.min(v, 65535 - b[i]!)),
      ),
    ).toBe(0)
    // the same twice is the same, and turned round twice as well
    expect(different(await codes(await taken(await taken(fresh(), left), left, 'add')), a)).toBe(0)
    const round = await ordered(await taken(fresh(), left), { type: 'turn-round' })
    expect(
      different(
        await codes(round),
        a.map((v) => 65535 - v),
      ),
    ).toBe(0)
    expect((await ordered(round, { type: 'turn-round' })).area).toEqual((await taken(fresh(), left)).area)
    // taken away where there is no area yet, it is taken away from all
    expect(
      different(
        await codes(await taken(fresh(), left, 'away')),
        a.map((v) => 65535 - v),
      ),
    ).toBe(0)
  })

  it('of large sheets keep only the tiles at their borders', async () => {
    const a = artworkFromPhoto({ asset, width: 8000, height: 6000, title: 't' })
    const { blobs } = await orderedArea(engine, a, { type: 'take', how: 'instead', from: { type: 'rectangle', x: 100, y: 100, w: 7000, h: 5000 } }, going)
    // 28 × 20 tiles round the border, and the index
    expect(blobs.length).toBeLessThan(2 * (28 + 20) + 12)
  })

  it('of nothing are refused, and the area stays', async () => {
    const line = [
      { x: 1, y: 1 },
      { x: 90, y: 1 },
    ]
    for (const from of [
      { type: 'rectangle', x: 10, y: 10, w: 0, h: 50 },
      { type: 'ellipse', x: -500, y: 10, w: 90, h: 90 },
      { type: 'outline', points: line },
      { type: 'alike', x: -4, y: 20, by: 'tone', within: 3, together: true, edges: false },
    ] as AreaFrom[])
      await expect(taken(fresh(), from)).rejects.toMatchObject({ code: 'area-empty' })
    const a = await taken(fresh(), { type: 'rectangle', x: 10, y: 10, w: 50, h: 50 })
    await expect(taken(a, { type: 'all' }, 'away')).rejects.toMatchObject({ code: 'area-empty' })
    await expect(ordered(fresh(), { type: 'turn-round' })).rejects.toMatchObject({ code: 'area-refused' })
    await expect(taken(fresh(), { type: 'mask', layer: fresh().layers[0]!.id, step: null })).rejects.toMatchObject({ code: 'unknown-layer' })
  })
})

describe('areas by likeness', () => {
  it('hold what a brute force over the picture finds: ΔE of CIE 1976, and tones', async () => {
    const at = { x: 301, y: 77 }
    const mean = [0, 1, 2].map((c) => {
      let sum = 0
      for (let y = -1; y < 2; y++) for (let x = -1; x < 2; x++) sum += picture[((at.y + y) * W + at.x + x) * 3 + c]! * 257
      return Math.round(sum / 9) / 65535
    }) as [number, number, number]
    const { pow } = kernels.raw
    const lab = labOfRgb(mean, pow)
    const within = 22
    const a = await codes(await taken(fresh(), { type: 'alike', ...at, by: 'colour', within, together: false, edges: false }))
    let off = 0
    for (let i = 0; i < W * H; i++) {
      const here = labOfRgb([picture[i * 3]! / 255, picture[i * 3 + 1]! / 255, picture[i * 3 + 2]! / 255], pow)
      const apart = Math.hypot(here[0] - lab[0], here[1] - lab[1], here[2] - lab[2])
      const share = Math.max(0, Math.min(1, 1 - (apart - within) / (within / 4)))
      // Lab is held to 1/128, whose errors the soft border makes larger
      if (Math.abs(a[i]! / 65535 - share) > 0.006) off++
    }
    expect(off).toBe(0)
    expect(covered(a)).toBeGreaterThan(100)
    const tone = (i: number) => (picture[i * 3]! * 13933 + picture[i * 3 + 1]! * 46871 + picture[i * 3 + 2]! * 4732) / 65536
    const seed = mean[0] * 255 * (13933 / 65536) + mean[1] * 255 * (46871 / 65536) + mean[2] * 255 * (4732 / 65536)
    const t = await codes(await taken(fresh(), { type: 'alike', ...at, by: 'tone', within: 30, together: false, edges: false }))
    off = 0
    for (let i = 0; i < W * H; i++) {
      const share = Math.max(0, Math.min(1, 1 - (Math.abs(tone(i) - seed) - 30) / 7.5))
      if (Math.abs(t[i]! / 65535 - share) > 0.004) off++
    }
    expect(off).toBe(0)
  })

  it('are taken with another bound without another look at the picture', async () => {
    const memory: { last?: AlikeMemory } = {}
    const order = (within: number): AreaOrder => ({
      type: 'take',
      how: 'instead',
      from: { type: 'alike', x: 50, y: 50, by: 'colour', within, together: true, edges: true },
    })
    await ordered(fresh(), order(10), memory)
    const looked = memory.last!.likeness
    const wider = await ordered(fresh(), order(20), memory)
    expect(memory.last!.likeness).toBe(looked)
    const anew = await ordered(fresh(), order(20))
    expect(anew.area).toEqual(wider.area)
    // another place is another look
    await ordered(
      fresh(),
      { type: 'take', how: 'instead', from: { type: 'alike', x: 60, y: 50, by: 'colour', within: 9, together: true, edges: true } },
      memory,
    )
    expect(memory.last!.likeness).not.toBe(looked)
  })
})

describe('the edge of an area', () => {
  const from = { type: 'outline', points: [{ x: 80, y: 70 }, { x: 480, y: 90 }, { x: 300, y: 190 }, { x: 420, y: 330 }, { x: 110, y: 300 }] } as const // prettier-ignore
  const disc = (cv: OpenCv, r: number) => {
    const rows = discRows(r)
    const n = rows.length
    const cells = Uint8Array.from({ length: n * n }, (_, i) => (Math.abs((i % n) - Math.floor(n / 2)) <= rows[Math.floor(i / n)]! ? 1 : 0))
    return cv.matFromArray(n, n, cv.CV_8UC1, cells)
  }
  // OpenCV, a general-purpose library: dilate and erode of 16 bits, GaussianBlur of floats
  const through = async (v: Uint16Array, run: (cv: OpenCv, a: Mat, b: Mat) => void): Promise<ArrayLike<number>> => {
    const { cv } = await openCv()
    const a = cv.matFromArray(H, W, cv.CV_32FC1, Float32Array.from(v))
    const b = new cv.Mat()
    run(cv, a, b)
    const out = b.data32F.slice()
    a.delete()
    b.delete()
    return out
  }
  const inner = (v: ArrayLike<number>, reach: number) =>
    Uint16Array.from({ length: (W - 2 * reach) * (H - 2 * reach) }, (_, i) =>
      Math.round(v[(Math.floor(i / (W - 2 * reach)) + reach) * W + (i % (W - 2 * reach)) + reach]!),
    )

  it('moves as OpenCV dilates and erodes by a disc', async () => {
    const a = await taken(fresh(), from)
    const before = await codes(a)
    for (const move of [7.5, -12]) {
      const moved = await codes(await ordered(a, { type: 'edge', round: 0, move, soften: 0 }))
      const theirs = await through(before, (cv, p, q) => {
        const kernel = disc(cv, Math.abs(move))
        const { dilate, erode } = cv
        ;(move > 0 ? dilate : erode)(p, q, kernel, new cv.Point(-1, -1), 1, cv.BORDER_REPLICATE)
        kernel.delete()
      })
      expect(different(moved, theirs)).toBe(0)
      expect(covered(moved) > covered(before)).toBe(move > 0)
    }
  })

  it('is rounded as OpenCV opens and closes by a disc', async () => {
    const a = await taken(fresh(), from)
    const r = 20
    const rounded = await codes(await ordered(a, { type: 'edge', round: r, move: 0, soften: 0 }))
    const theirs = await through(await codes(a), (cv, p, q) => {
      const kernel = disc(cv, r)
      const middle = new cv.Point(-1, -1)
      cv.erode(p, q, kernel, middle, 1, cv.BORDER_REPLICATE)
      cv.dilate(q, p, kernel, middle, 2, cv.BORDER_REPLICATE)
      cv.erode(p, q, kernel, middle, 1, cv.BORDER_REPLICATE)
      kernel.delete()
    })
    expect(different(rounded, theirs)).toBe(0)
    expect(different(rounded, await codes(a), 9000)).toBeGreaterThan(100)
  })

  it('is softened as OpenCV blurs', async () => {
    const a = await taken(fresh(), from)
    const sigma = 6
    const soft = await codes(await ordered(a, { type: 'edge', round: 0, move: 0, soften: sigma }))
    const theirs = await through(await codes(a), (cv, p, q) => cv.GaussianBlur(p, q, new cv.Size(73, 73), sigma, sigma, cv.BORDER_REPLICATE))
    expect(different(inner(soft, 40), inner(theirs, 40), 655)).toBe(0)
  })
})

describe('masks and areas', () => {
  it('become each other', async () => {
    const a = await taken(fresh(), { type: 'ellipse', x: 100, y: 100, w: 200, h: 150 })
    const { id } = a.layers[0]!
    const masked = perform(a, { type: 'set-mask', layer: id, step: null, mask: { ...newMask('empty'), plane: a.area! } }).artwork
    const back = await taken({ ...masked, area: null }, { type: 'mask', layer: id, step: null })
    expect(back.area).toEqual(a.area)
    const turned = perform(masked, { type: 'tune-mask', layer: id, step: null, change: { turnedRound: true } }).artwork
    expect(
      different(
        await codes(await taken(turned, { type: 'mask', layer: id, step: null })),
        (await codes(a)).map((v) => 65535 - v),
      ),
    ).toBe(0)
  })

  it('are what a layer covers, where it is laid', async () => {
    const a = fresh()
    a.layers[0]!.placement = { matrix: [0.5, 0, 60, 0, 0.5, 40, 0, 0, 1], pivot: null }
    const v = await codes(await taken(a, { type: 'cover', layer: a.layers[0]!.id }))
    expect(covered(v)).toBeCloseTo((W / 2) * (H / 2), -2)
    expect([v[45 * W + 70], v[30 * W + 70], v[200 * W + 59]]).toEqual([65535, 0, 0])
  })
})

describe('the hand within an area', () => {
  const stroke = samplesOf([
    [40, 200],
    [560, 210],
  ])
  async function painted(a: Artwork, at: Parameters<typeof perform>[1] & { type: 'paint' }, area?: string): Promise<Uint16Array> {
    const grey = at.at.part === 'mask'
    const session = new StrokeSession(
      engine,
      a,
      {
        at: at.at,
        brush: plainBrush({ breadth: 120, tip: 'soft', edge: 0.3, cover: 0.7 }),
        symmetry: { type: 'none' },
        laying: grey ? { type: 'grey', value: 65535 } : { type: 'paint', colour: 0x2000_8000_f000n },
        ...(area ? { area } : {}),
      },
      { target: { type: 'artwork' }, region: { x: 0, y: 0, w: W, h: H }, level: 0 },
      null,
    )
    session.add(stroke)
    const { plane, blobs } = await session.end(going, () => undefined, digest)
    for (const { name, bytes } of blobs) sources.blobs.set(name, bytes)
    const out = new Uint16Array(W * H * plane.channels)
    for (let ty = 0; ty * 256 < H; ty++)
      for (let tx = 0; tx * 256 < W; tx++) {
        const entry = engine.planes.entryAt({ plane, blank: grey ? EMPTY_TILE : CLEAR }, 0, tx, ty)
        if (entry.startsWith('=')) continue
        const held = await engine.planes.tile(entry, plane.channels)
        const v = kernels.u16(held.ptr, 65536 * plane.channels)
        for (let y = 0; y < Math.min(256, H - ty * 256); y++)
          for (let x = 0; x < Math.min(256, W - tx * 256); x++)
            for (let c = 0; c < plane.channels; c++) out[((ty * 256 + y) * W + tx * 256 + x) * plane.channels + c] = v[(y * 256 + x) * plane.channels + c]!
        held.done()
      }
    return out
  }

  it('paints what it would, times the share of the area', async () => {
    const a = structuredClone(
      await ordered(await taken(fresh(), { type: 'ellipse', x: 150, y: 120, w: 260, h: 170 }), { type: 'edge', round: 0, move: 0, soften: 8 }),
    )
    a.layers[0]!.mask = newMask('empty')
    const at = { layer: a.layers[0]!.id, step: null, part: 'mask' as const }
    const order = { type: 'paint' as const, at, plane: null, what: '' }
    const free = await painted(a, order)
    const held = await painted(a, order, a.area!.index)
    const area = await codes(a)
    expect(
      different(
        held,
        free.map((v, i) => Math.round((v * area[i]!) / 65535)),
        1,
      ),
    ).toBe(0)
    expect(covered(held)).toBeGreaterThan(1000)
  })

  it('also on a layer that lies elsewhere: what is out on the sheet stays as it was', async () => {
    const a = structuredClone(await taken(fresh(), { type: 'rectangle', x: 200, y: 100, w: 150, h: 200 }))
    a.layers[0]!.mask = newMask('empty')
    a.layers[0]!.placement = { matrix: [0, -1, 500, 1, 0, 0, 0, 0, 1], pivot: null }
    const at = { layer: a.layers[0]!.id, step: null, part: 'mask' as const }
    const { index } = a.area!
    // turned by a quarter: sheet (x, y) is the layer's (y, 500 − x)
    const held = await painted(a, { type: 'paint', at, plane: null, what: '' }, index)
    const sheet = (x: number, y: number) => held[(499 - x) * W + y]
    expect([sheet(195, 200), sheet(205, 200), sheet(345, 200), sheet(355, 200)].map((v) => (v ?? 0) > 20000)).toEqual([false, true, true, false])
  })

  it('fills and clears it, soft edges in proportion', async () => {
    const a = await ordered(await taken(fresh(), { type: 'ellipse', x: 150, y: 120, w: 260, h: 170 }), { type: 'edge', round: 0, move: 0, soften: 8 })
    const tiles = await areaTiles(engine, a, a.area!.index, null, going)
    const filled = await filledPlane(engine, emptyPlane(1), EMPTY_TILE, a.sheet, { type: 'grey', value: 40000 }, tiles, digest)
    for (const { name, bytes } of filled.blobs) sources.blobs.set(name, bytes)
    const area = await codes(a)
    const v = await codes({ ...a, area: { index: filled.index, channels: 1 } })
    expect(
      different(
        v,
        area.map((s) => Math.round((40000 * s) / 65535)),
        1,
      ),
    ).toBe(0)
    // paint: laid over all, then taken away inside by what the area holds
    const paint = await filledPlane(engine, emptyPlane(4), CLEAR, a.sheet, { type: 'paint', colour: 0x1111_2222_3333n })
    const away = await filledPlane(engine, paint.plane, CLEAR, a.sheet, { type: 'erase' }, tiles, digest)
    for (const { name, bytes } of away.blobs) sources.blobs.set(name, bytes)
    const held = await engine.planes.tile(engine.planes.entryAt({ plane: away.plane, blank: CLEAR }, 0, 1, 0), 4)
    const alpha = kernels.u16(held.ptr, 65536 * 4)
    let off = 0
    for (let y = 0; y < 256; y++) for (let x = 0; x < 256; x++) if (Math.abs(alpha[(y * 256 + x) * 4 + 3]! - (65535 - area[y * W + x + 256]!)) > 1) off++
    held.done()
    expect(off).toBe(0)
  })
})

describe('the outline of an area', () => {
  it('goes round what is half in, at any level', async () => {
    const a = await taken(fresh(), { type: 'ellipse', x: 100, y: 80, w: 300, h: 240 })
    for (const level of [0, 2]) {
      const { places, starts } = await areaOutline(engine, a, a.area!.index, { x: 0, y: 0, w: W, h: H }, level, going)
      expect(starts.length).toBe(2)
      const line = Array.from({ length: places.length / 2 }, (_, i) => ({ x: places[i * 2]!, y: places[i * 2 + 1]! }))
      expect(Math.abs(area2(line) / 2) / ((Math.PI / 4) * 300 * 240)).toBeCloseTo(1, 2)
      for (const p of line) {
        const d = Math.hypot((p.x - 250) / 150, (p.y - 200) / 120)
        expect(Math.abs(d - 1)).toBeLessThan(0.006 * 2 ** level)
      }
    }
  })

  it('has no more places than can be drawn, whatever the area is', async () => {
    const a = await taken(fresh(), { type: 'alike', x: 300, y: 77, by: 'tone', within: 3, together: false, edges: false })
    const { places } = await areaOutline(engine, a, a.area!.index, { x: 0, y: 0, w: W, h: H }, 0, going)
    expect(places.length / 2).toBeLessThan(130_000)
  })
})
