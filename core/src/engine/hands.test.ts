import { artworkFromPhoto } from '../artwork/load.ts'
import { newStep } from '../artwork/layers.ts'
import { setPlane, type PlaneAddress } from '../artwork/planes.ts'
import type { Artwork } from '../artwork/schema.ts'
import type { Matrix } from '../base/transform.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { digest, plainBrush, samplesOf } from '../testing/painting.ts'
import { compute, newTestEngine } from '../testing/pictures.ts'
import type { Engine } from './engine.ts'
import { GraphCompiler } from './graph.ts'
import type { Laying } from './painter.ts'
import { StrokeSession } from './stroke-session.ts'

// What hands change of a study: how techniques go by it, wherever the layer lies.

const asset = 'c'.repeat(64)
const [W, H] = [320, 240]
const { abs } = Math

let kernels: Kernels
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  // dark grey on the left, light on the right
  const bytes = new Uint8Array(W * H * 3).fill(70)
  for (let y = 0; y < H; y++) bytes.fill(190, (y * W + W / 2) * 3, (y + 1) * W * 3)
  engine = newTestEngine(kernels, sources)
  await sources.add(kernels, asset, { width: W, height: H, channels: 3, depth: 8 }, bytes)
})

/** One engine, so that what is studied is studied once. */
let engine: Engine
const shown = (a: Artwork, options: Parameters<typeof compute>[2] = {}) => compute(engine, a, options)

function made(id: string, params: Record<string, unknown> = {}, matrix?: Matrix): Artwork {
  const a = artworkFromPhoto({ asset, width: W, height: H, title: 't' })
  const layer = a.layers[0]!
  layer.chain = [newStep(id, params, 's')]
  if (matrix) layer.placement = { matrix: [...matrix], pivot: null }
  return a
}

async function stroked(a: Artwork, part: PlaneAddress['part'], laying: Laying, points: [number, number][], breadth = 120): Promise<Artwork> {
  const at: PlaneAddress = { layer: a.layers[0]!.id, step: null, part }
  const view = { target: { type: 'artwork' as const }, region: { x: 0, y: 0, w: W, h: H }, level: 1 }
  const order = { at, brush: plainBrush({ breadth, cover: 0.8 }), symmetry: { type: 'none' as const }, laying }
  const session = new StrokeSession(engine, a, order, view, null)
  session.add(samplesOf(points))
  const { index, plane, blobs } = await session.end({ cancelled: false }, () => undefined, digest)
  for (const b of blobs) sources.blobs.set(b.name, b.bytes)
  const next = structuredClone(a)
  setPlane(next, at, { index, channels: plane.channels })
  return next
}

/** Of a part of a picture: cosine and sine of twice the angle that its lines run at, by the structure tensor (Di Zenzo 1986). */
function ways({ pixels }: { pixels: Uint16Array }, x0: number, y0: number, side: number): { x: number; y: number } {
  const v = (x: number, y: number) => pixels[(y * W + x) * 4]! / 65535
  let [xx, xy, yy] = [0, 0, 0]
  for (let y = y0; y < y0 + side; y++)
    for (let x = x0; x < x0 + side; x++) {
      const [gx, gy] = [v(x + 1, y) - v(x - 1, y), v(x, y + 1) - v(x, y - 1)]
      xx += gx * gx
      xy += gx * gy
      yy += gy * gy
    }
  const all = xx + yy
  return { x: (yy - xx) / all, y: (-2 * xy) / all }
}
const dark = ({ pixels }: { pixels: Uint16Array }, x0: number, y0: number, w: number, h: number): number => {
  let sum = 0
  for (let y = y0; y < y0 + h; y++) for (let x = x0; x < x0 + w; x++) sum += 1 - pixels[(y * W + x) * 4]! / 65535
  return sum / (w * h)
}
const px = (value: number) => ({ value, unit: 'px' as const })
const pen = { tool: 'pen', layers: 1, spacing: px(6), length: px(90), breadth: px(2), direction: 0, key: 0 }

test('strokes follow where the flow was combed, and nowhere else; letting go brings back what was found', async () => {
  for (const follow of ['straight', 'forms']) {
    const plain = made('hatching', { ...pen, follow })
    const combed = await stroked(plain, 'flow', { type: 'comb' }, [
      [40, 27],
      [40, 213],
    ])
    expect(combed.layers[0]!.study?.flow?.channels).toBe(4)
    const [before, after] = [await shown(plain), await shown(combed)]
    // level strokes: twice their angle is 0; upright ones: half a turn
    if (follow === 'straight') expect(ways(before, 27, 93, 27).x).toBeGreaterThan(0.8)
    expect(ways(after, 27, 93, 27).x).toBeLessThan(-0.8)
    // the brush ends at 100; strokes that come from there turn within a little of it
    expect(abs(ways(after, 122, 93, 34).x - ways(before, 122, 93, 34).x)).toBeLessThan(0.15)
    const free = await stroked(
      combed,
      'flow',
      { type: 'erase' },
      [
        [60, 0],
        [40, 240],
      ],
      400,
    )
    expect((await shown(free)).pixels).toEqual(before.pixels)
  }
})

test('a layer that is turned is combed as it is seen', async () => {
  // a quarter turn about the middle of the sheet
  const turn: Matrix = [0, -1, W / 2 + H / 2, 1, 0, H / 2 - W / 2, 0, 0, 1]
  const plain = made('hatching', { ...pen, follow: 'straight' }, turn)
  const combed = await stroked(plain, 'flow', { type: 'comb' }, [
    [160, 13],
    [160, 227],
  ])
  const after = await shown(combed)
  expect(ways(after, 147, 40, 27).x).toBeLessThan(-0.8)
  // the dark half lies above now
  expect(ways(await shown(plain), 147, 40, 27).x).toBeGreaterThan(0.8)
})

test('an edge said to be lost gets no line where that was said', async () => {
  const plain = made('ink-lines', { blacks: 0, light: 0 })
  const lost = await stroked(plain, 'edges', { type: 'grey', value: 0 }, [
    [240, 0],
    [160, 113],
  ])
  const [before, after] = [await shown(plain), await shown(lost)]
  expect(dark(before, 147, 27, 27, 53)).toBeGreaterThan(0.01)
  expect(dark(after, 147, 27, 27, 53)).toBe(0)
  expect(dark(after, 147, 187, 27, 40)).toBeGreaterThan(0.01)
})

test('masses said to be lighter are hatched lighter', async () => {
  const plain = made('hatching', { ...pen, follow: 'straight' })
  const light = await stroked(plain, 'masses', { type: 'grey', value: 65535 }, [
    [40, 40],
    [40, 200],
  ])
  const [before, after] = [await shown(plain), await shown(light)]
  expect(dark(after, 27, 67, 27, 107)).toBeLessThan(0.2 * dark(before, 27, 67, 27, 107))
})

test('the look spot and pins raise the detail of the study that is shown, where the layer lies', async () => {
  const a = made('ink-lines')
  a.lookSpot = { x: 240, y: 120 }
  const seen = (artwork: Artwork) => shown(artwork, { target: { type: 'study', layer: artwork.layers[0]!.id, part: 'detail' } })
  const red = ({ pixels }: { pixels: Uint16Array }, x: number, y: number) => pixels[(y * W + x) * 4]! / 65535
  const first = await seen(a)
  // what has detail is shown in petrol, which has little red
  expect(red(first, 240, 120)).toBeLessThan(red(first, 280, 200) - 0.05)
  const pinned = { ...a, pins: [{ id: 'p', x: 80, y: 60, radius: px(40) }] }
  const then = await seen(pinned)
  expect(red(then, 80, 60)).toBeLessThan(red(first, 80, 60) - 0.1)
  expect(red(then, 80, 113)).toBe(red(first, 80, 113))
  // where the layer was moved, the pin still stands where it was set on the sheet
  const moved = { ...made('ink-lines', {}, [1, 0, 50, 0, 1, 0, 0, 0, 1]), lookSpot: a.lookSpot, pins: pinned.pins }
  const there = await seen(moved)
  expect(red(there, 80, 60)).toBeCloseTo(red(then, 80, 60), 2)
})

test('of a cut-out the study is shown as the step on the layer sees it: on beyond the silhouette, or as it once did', async () => {
  const name = 'd'.repeat(64)
  const bytes = new Uint8Array(W * H * 4).fill(70)
  const inside = (x: number, y: number) => (x - W / 2) ** 2 + (y - H / 2) ** 2 < 80 ** 2
  for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) bytes[(y * W + x) * 4 + 3] = inside(x, y) ? 255 : 0
  await sources.add(kernels, name, { width: W, height: H, channels: 4, depth: 8 }, bytes)
  const detail = async (version: number) => {
    const a = artworkFromPhoto({ asset: name, width: W, height: H, title: 't' })
    a.layers[0]!.chain = [{ ...newStep('hatching', {}, 's'), version }]
    const { pixels } = await shown(a, { target: { type: 'study', layer: a.layers[0]!.id, part: 'detail' } })
    return (x: number) => pixels[((H / 2) * W + x) * 4]! / 65535
  }
  const [now, once] = [await detail(3), await detail(2)]
  // what has detail is shown in petrol, which has little red: an even disc has none, once its rim was one
  expect(now(W / 2 + 77)).toBeCloseTo(now(W / 2 + 40), 2)
  expect(once(W / 2 + 77)).toBeLessThan(once(W / 2 + 40) - 0.1)
})

test('the study shown is the same in any tiling, and shows what was combed as such', async () => {
  const combed = await stroked(made('hatching', pen), 'flow', { type: 'comb' }, [
    [40, 27],
    [200, 213],
  ])
  const cold = newTestEngine(kernels, sources)
  for (const part of ['flow', 'edges', 'ground'] as const) {
    const target = { type: 'study' as const, layer: combed.layers[0]!.id, part }
    const whole = await shown(combed, { target })
    for (const grid of [
      { w: 97, h: 64 },
      { w: 1 << 24, h: 33 },
    ])
      expect((await compute(cold, combed, { target, grid })).pixels).toEqual(whole.pixels)
  }
  // combed lines are shown as such
  const { pixels } = await shown(combed, { target: { type: 'study', layer: combed.layers[0]!.id, part: 'flow' } })
  let warm = 0
  for (let i = 0; i < pixels.length; i += 4) if (pixels[i]! > pixels[i + 2]! + 8000) warm++
  expect(warm).toBeGreaterThan(100)
  expect(warm).toBeLessThan((W * H) / 10)
})

test('the look spot means nothing to steps that do not study', () => {
  const key = (a: Artwork) => new GraphCompiler(a, kernels.hash).compile({ type: 'artwork' }).key
  for (const [id, differs] of [
    ['levels', false],
    ['contours', true],
  ] as const) {
    const a = made(id)
    expect(key({ ...a, lookSpot: { x: 3, y: 3 } }) !== key(a)).toBe(differs)
  }
})

test('a colour is not laid on the flow, and only the flow is combed', async () => {
  const a = made('hatching')
  await expect(
    stroked(a, 'flow', { type: 'paint', colour: 0n }, [
      [7, 7],
      [27, 27],
    ]),
  ).rejects.toMatchObject({ code: 'paint-refused' })
  await expect(
    stroked(a, 'detail', { type: 'comb' }, [
      [7, 7],
      [27, 27],
    ]),
  ).rejects.toMatchObject({ code: 'paint-refused' })
})
