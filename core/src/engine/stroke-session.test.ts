import { artworkFromPhoto } from '../artwork/load.ts'
import { newLayer, newStep } from '../artwork/layers.ts'
import { newMask } from '../artwork/planes.ts'
import type { Artwork } from '../artwork/schema.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { digest, plainBrush, samplesOf } from '../testing/painting.ts'
import { compute, dice, newTestEngine, testPicture } from '../testing/pictures.ts'
import { EngineHost, STROKE, type FromEngine } from './host.ts'
import { mapped, placed, times } from '../base/transform.ts'
import { dabThrough } from '../strokes/dabs.ts'
import type { Sample } from '../strokes/path.ts'
import { StrokeSession } from './stroke-session.ts'

const asset = 'b'.repeat(64)
const [W, H] = [640, 480]
const region = { x: 0, y: 0, w: W, h: H }
const view = { target: { type: 'artwork' as const }, region, level: 0 }

let kernels: Kernels
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 3, depth: 8 }, testPicture(W, H))
})

async function hosted(chain = [newStep('invert')]) {
  const engine = newTestEngine(kernels, sources)
  const said: FromEngine[] = []
  const wake: (() => void)[] = []
  const host = new EngineHost(
    engine,
    (m) => {
      if (m.type === 'painted') for (const b of m.blobs) sources.blobs.set(b.name, b.bytes)
      said.push(m)
      for (const w of wake.splice(0)) w()
    },
    digest,
  )
  const heard = async <K extends FromEngine['type']>(type: K, id: number): Promise<FromEngine & { type: K }> => {
    for (;;) {
      const m = said.find((x) => x.type === type && 'id' in x && x.id === id)
      if (m) return m as FromEngine & { type: K }
      await new Promise<void>((r) => wake.push(r))
    }
  }
  const artwork = artworkFromPhoto({ asset, width: W, height: H, title: 't' })
  artwork.layers.push({ ...newLayer('Top', { type: 'photo', asset, width: W, height: H }, chain, 'top'), mask: newMask('empty') })
  host.receive({ type: 'artwork', artwork, version: 1 })
  return { engine, host, said, heard, artwork }
}
const at = { layer: 'top', step: null, part: 'mask' as const }
const order = { at, brush: plainBrush({ breadth: 60, cover: 0.5 }), symmetry: { type: 'none' as const }, laying: { type: 'grey' as const, value: 65535 } }
const numbers = (samples: readonly Sample[]) => Int32Array.from(samples.flatMap(({ x, y, t, p, tiltX, tiltY }) => [x, y, t, p, tiltX, tiltY]))
const line = samplesOf([
  [100, 100],
  [200, 150],
  [300, 120],
  [400, 260],
])
const put = (artwork: Artwork, plane: { index: string; channels: 1 | 4 }): Artwork => {
  const a = structuredClone(artwork)
  a.layers[1]!.mask!.plane = plane
  return a
}

test('pixels under the brush are what the artwork shows with what was painted', async () => {
  const { host, heard, said, artwork } = await hosted()
  host.receive({ type: 'paint-ready', id: 1, at, view })
  await heard('paint-is-ready', 1)
  host.receive({ type: 'stroke', id: 2, order, view })
  for (const sample of line) {
    host.receive({ type: 'stroke-goes', id: 2, samples: numbers([sample]) })
    await new Promise((r) => setTimeout(r, 5))
  }
  host.receive({ type: 'stroke-ends', id: 2 })
  const { plane, damage } = await heard('painted', 2)
  const after = put(artwork, plane)
  const [before, now] = [artwork, after].map((a) => compute(newTestEngine(kernels, sources), a, { quick: true }))
  const shown = new Uint8Array(W * H * 4)
  const bytes = (p: Uint16Array) => Uint8Array.from(p, (v) => Math.floor((v * 255 + 32895) / 65536))
  shown.set(bytes((await before!).pixels))
  let pixels = 0
  for (const m of said) {
    if (m.type !== 'tile') continue
    expect(m.slot).toBe(STROKE)
    pixels += m.region.w * m.region.h
    const part = new Uint8Array(m.pixels)
    for (let y = 0; y < m.region.h; y++) shown.set(part.subarray(y * m.region.w * 4, (y + 1) * m.region.w * 4), ((m.region.y + y) * W + m.region.x) * 4)
  }
  // what was painted, and little more
  expect(pixels).toBeLessThan(4 * damage.w * damage.h)
  const last = bytes((await now!).pixels)
  let far = 0
  for (let i = 0; i < W * H * 4; i++) far = Math.max(far, Math.abs(shown[i]! - last[i]!))
  expect(far).toBe(0)
})

test('a stroke given up leaves nothing, and the next one begins', async () => {
  const { host, heard, said, artwork } = await hosted()
  host.receive({ type: 'stroke', id: 1, order, view })
  host.receive({ type: 'stroke-goes', id: 1, samples: numbers(line) })
  await new Promise((r) => setTimeout(r, 3))
  host.receive({ type: 'cancel', id: 1 })
  host.receive({ type: 'stroke', id: 2, order, view })
  host.receive({ type: 'stroke-goes', id: 2, samples: numbers(line) })
  host.receive({ type: 'stroke-ends', id: 2 })
  const { plane } = await heard('painted', 2)
  expect(said.some((m) => m.type === 'painted' && m.id === 1)).toBe(false)
  const other = await hosted()
  other.host.receive({ type: 'stroke', id: 5, order, view })
  other.host.receive({ type: 'stroke-goes', id: 5, samples: numbers(line) })
  other.host.receive({ type: 'stroke-ends', id: 5 })
  expect((await other.heard('painted', 5)).plane).toEqual(plane)
  expect(artwork.layers[1]!.mask!.plane).toBeNull()
})

test('a recorded stroke has one index: in whatever portions, views and zooms, and where its engine dies and the next paints it anew', async () => {
  const next = dice(9)
  const recorded = samplesOf(Array.from({ length: 60 }, (_, i) => [80 + i * 6, 160 + 60 * Math.sin(i / 5), 0.3 + 0.6 * Math.abs(Math.sin(i / 9))]))
  const dearer = {
    ...order,
    brush: plainBrush({ tip: 'dry-bristle', breadth: 48, cover: 0.3, edge: 0.4, steadiness: 0.5, dry: 12, regularity: 0.6, tooth: 0.4 }),
  }
  const far = { ...view, region: { x: 0, y: 0, w: W >> 2, h: H >> 2 }, level: 2 }
  const near = { ...view, region: { x: 90, y: 60, w: 120, h: 100 }, level: 0 }
  const indexes = new Set<string>()
  for (const seen of [view, far, near]) {
    const { host, heard } = await hosted()
    host.receive({ type: 'stroke', id: 1, order: dearer, view: seen })
    for (let i = 0; i < recorded.length;) {
      const n = 1 + Math.floor(next() * 9)
      host.receive({ type: 'stroke-goes', id: 1, samples: numbers(recorded.slice(i, i + n)) })
      i += n
      if (next() < 0.5) await new Promise((r) => setTimeout(r, 2))
    }
    host.receive({ type: 'stroke-ends', id: 1 })
    indexes.add((await heard('painted', 1)).plane.index)
  }
  // half of it by an engine that is never heard of again; the next is told it from its beginning
  const dying = await hosted()
  dying.host.receive({ type: 'stroke', id: 1, order: dearer, view })
  dying.host.receive({ type: 'stroke-goes', id: 1, samples: numbers(recorded.slice(0, 30)) })
  await new Promise((r) => setTimeout(r, 10))
  const { host, heard } = await hosted()
  host.receive({ type: 'stroke', id: 2, order: dearer, view })
  host.receive({ type: 'stroke-goes', id: 2, samples: numbers(recorded) })
  host.receive({ type: 'stroke-ends', id: 2 })
  indexes.add((await heard('painted', 2)).plane.index)
  expect([...indexes]).toHaveLength(1)
})

test('painting where there is no mask is refused in words', async () => {
  const { host, heard } = await hosted()
  host.receive({ type: 'stroke', id: 1, order: { ...order, at: { layer: 'top', step: null, part: 'light' } }, view })
  host.receive({ type: 'stroke-goes', id: 1, samples: numbers(line) })
  expect((await heard('failed', 1)).message).toMatch(/nothing to paint on/)
  // and the host goes on
  host.receive({ type: 'picture', id: 2, target: { type: 'artwork' }, side: 64 })
  await heard('picture', 2)
})

test('a small picture makes way for a stroke and is made after it', async () => {
  const { host, heard, said } = await hosted(Array.from({ length: 12 }, (_, i) => newStep('kuwahara', { reach: { value: 8 + i / 10, unit: 'px' } })))
  host.receive({ type: 'picture', id: 1, target: { type: 'artwork' }, side: 600 })
  await new Promise((r) => setTimeout(r, 5))
  host.receive({ type: 'stroke', id: 2, order, view: { ...view, level: 3 } })
  host.receive({ type: 'stroke-goes', id: 2, samples: numbers(line) })
  host.receive({ type: 'stroke-ends', id: 2 })
  await heard('painted', 2)
  await heard('picture', 1)
  const order_ = said.filter((m) => m.type === 'painted' || m.type === 'picture').map((m) => m.type)
  expect(order_).toEqual(['painted', 'picture'])
})

test('what a threshold found out stays while a stroke runs, and is found again after it', async () => {
  const { host, heard, engine, artwork } = await hosted()
  const balanced = { ...artwork, layers: [...artwork.layers, newLayer('All', { type: 'below' }, [newStep('threshold', { by: 'otsu' })], 'all')] }
  host.receive({ type: 'artwork', artwork: balanced, version: 2 })
  host.receive({ type: 'paint-ready', id: 1, at, view })
  await heard('paint-is-ready', 1)
  let work = 0
  engine.onRun = (_, r) => (work += r.w * r.h)
  host.receive({ type: 'stroke', id: 2, order, view })
  host.receive({
    type: 'stroke-goes',
    id: 2,
    samples: numbers(
      samplesOf([
        [100, 100],
        [104, 100],
      ]),
    ),
  })
  await new Promise((r) => setTimeout(r, 100))
  // a dab under a threshold of the whole picture: four stages of its own pixels, not the picture
  expect(work).toBeGreaterThan(0)
  expect(work).toBeLessThan(8 * 67 * 63)
  host.receive({ type: 'stroke-ends', id: 2 })
  const { plane } = await heard('painted', 2)
  host.receive({ type: 'artwork', artwork: put(balanced, plane), version: 3 })
  work = 0
  host.receive({ type: 'settle', id: 3, slot: 'main', target: view.target, region, level: 0 })
  await heard('settled', 3)
  await new Promise((r) => setTimeout(r, 50))
  expect(work).toBeGreaterThan(W * H)
})

test('a mask is made from tones, edges and alpha, and filled', async () => {
  const { host, heard, artwork } = await hosted()
  host.receive({ type: 'plane-from', id: 1, at, from: { type: 'picture', layer: 'top', by: 'tones', span: { low: 0.6, high: 1, softLow: 0.1, softHigh: 0 } } })
  const tones = await heard('painted', 1)
  const span = put(artwork, tones.plane)
  const alpha = async (a: Artwork) => {
    const white = newLayer('White', { type: 'fill', colour: '#ffffff', alpha: 1 }, [], 'top')
    return (await compute(newTestEngine(kernels, sources), { ...a, layers: [{ ...white, mask: a.layers[1]!.mask }] })).pixels
  }
  const p = await alpha(span)
  const inverted = (await compute(newTestEngine(kernels, sources), { ...artwork, layers: [{ ...artwork.layers[1]!, mask: null }] })).pixels
  for (let i = 0; i < W * H; i += 61) {
    const l = ((inverted[i * 4]! * 13933 + inverted[i * 4 + 1]! * 46871 + inverted[i * 4 + 2]! * 4732) >>> 16) / 65535
    if (l >= 0.6) expect(p[i * 4 + 3]).toBe(65535)
    if (l <= 0.49) expect(p[i * 4 + 3]).toBe(0)
  }
  host.receive({ type: 'plane-from', id: 2, at, from: { type: 'picture', layer: 'top', by: 'alpha', span: null } })
  const whole = await heard('painted', 2)
  expect((await alpha(put(artwork, whole.plane))).every((v) => v === 65535)).toBe(true)
  host.receive({ type: 'plane-from', id: 3, at, from: { type: 'picture', layer: 'top', by: 'edges', span: null } })
  const edges = await alpha(put(artwork, (await heard('painted', 3)).plane))
  const lines = edges.filter((v, i) => i % 4 === 3 && v > 30000).length / (W * H)
  expect(lines).toBeGreaterThan(0.005)
  expect(lines).toBeLessThan(0.4)
  host.receive({ type: 'plane-from', id: 4, at, from: { type: 'value', laying: { type: 'grey', value: 65535 } } })
  expect((await alpha(put(artwork, (await heard('painted', 4)).plane))).every((v) => v === 65535)).toBe(true)
})

test('a plane is made of all the pixels of a target, as they are delivered, with their alpha', async () => {
  const { host, heard, artwork } = await hosted()
  artwork.layers[0]!.opacity = 0.6
  artwork.layers[1]!.mask = null
  artwork.layers[1]!.blend = 'multiply'
  const at = { layer: 'flat', step: null, part: 'paint' as const }
  const place = { ...newLayer('Flat', { type: 'paint', plane: null }, [], 'flat'), visible: false }
  host.receive({ type: 'artwork', artwork: { ...artwork, layers: [...artwork.layers, place] }, version: 2 })
  host.receive({ type: 'plane-from', id: 9, at, from: { type: 'pixels', target: { type: 'artwork' } } })
  const { plane } = await heard('painted', 9)
  expect(plane.channels).toBe(4)
  const flat = { ...artwork, layers: [{ ...place, visible: true, source: { type: 'paint' as const, plane } }] }
  const [want, got] = await Promise.all([artwork, flat].map((a) => compute(newTestEngine(kernels, sources), a)))
  expect(got!.pixels).toEqual(want!.pixels)
})

test('making pixels is given up at once, leaves nothing, and the next is made', async () => {
  const { host, heard, said, artwork, engine } = await hosted(Array.from({ length: 8 }, () => newStep('median', { radius: { value: 6, unit: 'px' } })))
  const place = { ...newLayer('Flat', { type: 'paint', plane: null }, [], 'flat'), visible: false }
  host.receive({ type: 'artwork', artwork: { ...artwork, layers: [...artwork.layers, place] }, version: 2 })
  const at = { layer: 'flat', step: null, part: 'paint' as const }
  const target = { type: 'chain' as const, layer: 'top', steps: 8 }
  host.receive({ type: 'plane-from', id: 3, at, from: { type: 'pixels', target } })
  // one that waits, and the one that runs
  host.receive({ type: 'plane-from', id: 4, at, from: { type: 'pixels', target } })
  await new Promise((r) => setTimeout(r, 20))
  host.receive({ type: 'cancel', id: 4 })
  host.receive({ type: 'cancel', id: 3 })
  host.receive({ type: 'plane-from', id: 5, at, from: { type: 'pixels', target: { type: 'chain', layer: 'top', steps: 0 } } })
  await heard('painted', 5)
  expect(said.filter((m) => m.type === 'painted').map((m) => m.id)).toEqual([5])
  expect(said.some((m) => m.type === 'failed')).toBe(false)
  engine.clear()
})

describe('painting on what is laid elsewhere', () => {
  const way = placed({ x: 360, y: 200, scaleX: 0.6, scaleY: 0.9, angle: 30, slant: 0 }, { x: 320, y: 240 })
  const laid = (stays: boolean, matrix = way): Artwork => {
    const a = artworkFromPhoto({ asset, width: W, height: H, title: 't' })
    const top = { ...newLayer('Top', { type: 'fill' as const, colour: '#ffffff', alpha: 1 }, [], 'top'), mask: { ...newMask('empty'), stays } }
    return { ...a, layers: [{ ...top, placement: { matrix: [...matrix] as typeof top.placement.matrix, pivot: null } }] }
  }
  const paint = async (artwork: Artwork) => {
    const engine = newTestEngine(kernels, sources)
    const session = new StrokeSession(engine, artwork, { ...order, brush: plainBrush({ breadth: 40, cover: 1 }) }, view, null)
    const under = new Uint16Array(W * H * 4)
    session.add(
      samplesOf([
        [250, 180],
        [330, 200],
        [420, 220],
      ]),
    )
    const painted = await session.end(
      { cancelled: false },
      (pic) => {
        const { x, y, w, h } = pic.region
        for (let row = 0; row < h; row++) under.set(kernels.u16(pic.ptr + row * pic.stride, w * 4), ((y + row) * W + x) * 4)
      },
      digest,
    )
    for (const b of painted.blobs) sources.blobs.set(b.name, b.bytes)
    const a = structuredClone(artwork)
    a.layers[0]!.mask!.plane = { index: painted.index, channels: 1 }
    return { under, pixels: (await compute(newTestEngine(kernels, sources), a)).pixels }
  }
  const cover = (p: Uint16Array, x: number, y: number) => p[(y * W + x) * 4 + 3]! / 65535

  test.each([
    ['a mask that rides', false],
    ['a mask that stays', true],
  ])('%s: the stroke is where the hand was, as broad as the brush', async (_, stays) => {
    const { pixels, under } = await paint(laid(stays))
    expect(Buffer.compare(Buffer.from(pixels.buffer), Buffer.from(under.buffer))).toBe(0)
    for (const [x, y] of [
      [270, 185],
      [330, 199],
      [400, 215],
    ] as const)
      expect(cover(pixels, x, y)).toBeGreaterThan(0.97)
    // the line goes down by about one in five: across it, 20 pixels are its half
    for (const [x, y] of [
      [330, 199 + 16],
      [330, 199 - 16],
    ] as const)
      expect(cover(pixels, x, y)).toBeGreaterThan(0.9)
    for (const [x, y] of [
      [330, 199 + 26],
      [330, 199 - 26],
      [212, 172],
      [465, 230],
    ] as const)
      expect(cover(pixels, x, y)).toBeLessThan(0.05)
  })

  test('a layer of paint that was moved is painted on over the whole sheet', async () => {
    const artwork = laid(false)
    artwork.layers = [{ ...newLayer('Paint', { type: 'paint', plane: null }, [], 'top'), placement: { matrix: [1, 0, -300, 0, 1, 0, 0, 0, 1], pivot: null } }]
    const engine = newTestEngine(kernels, sources)
    const paintAt = { layer: 'top', step: null, part: 'paint' as const }
    const session = new StrokeSession(engine, artwork, { ...order, at: paintAt, laying: { type: 'paint', colour: 0xffff00000000n } }, view, null)
    session.add(
      samplesOf([
        [500, 100],
        [600, 100],
      ]),
    )
    const painted = await session.end({ cancelled: false }, () => undefined, digest)
    for (const b of painted.blobs) sources.blobs.set(b.name, b.bytes)
    const a = structuredClone(artwork)
    ;(a.layers[0]!.source as { plane: unknown }).plane = { index: painted.index, channels: 4 }
    const { pixels } = await compute(newTestEngine(kernels, sources), a)
    expect(cover(pixels, 550, 100)).toBeGreaterThan(0.3)
    expect(cover(pixels, 250, 100)).toBe(0)
  })
})

test('a dab through a map is the ellipse that its rim is sent to', () => {
  const dab = { x: 200, y: 120, rx: 12, ry: 5, cos: 0.8, sin: 0.6, dx: 0.6, dy: -0.8, soft: 0.3, cover: 1, face: 0, ground: 0 }
  for (const m of [
    placed({ x: 50, y: 40, scaleX: 1.7, scaleY: 0.6, angle: 25, slant: 10 }, { x: 0, y: 0 }),
    times([1, 0, 0, 0, 1, 0, 0.0003, -0.0004, 1], placed({ x: 50, y: 40, scaleX: 0.7, scaleY: 0.8, angle: -70, slant: 0 }, { x: 0, y: 0 })),
  ]) {
    const [to] = dabThrough(m, dab)
    for (let a = 0; a < 360; a += 15) {
      const [c, s] = [Math.cos((a * Math.PI) / 180), Math.sin((a * Math.PI) / 180)]
      // a point of the rim, as near the middle as perspective stays straight there
      const near = 0.02
      const rim = { x: dab.x + near * (dab.rx * c * dab.cos - dab.ry * s * dab.sin), y: dab.y + near * (dab.rx * c * dab.sin + dab.ry * s * dab.cos) }
      const p = mapped(m, rim)!
      const [dx, dy] = [(p.x - to!.x) / near, (p.y - to!.y) / near]
      const [u, v] = [(dx * to!.cos + dy * to!.sin) / to!.rx, (-dx * to!.sin + dy * to!.cos) / to!.ry]
      expect(u * u + v * v).toBeCloseTo(1, 2)
    }
    // the way it goes is the way a step along it goes
    const near = 0.01
    const step = mapped(m, { x: dab.x + near * dab.dx, y: dab.y + near * dab.dy })!
    const long = Math.hypot(step.x - to!.x, step.y - to!.y)
    expect((step.x - to!.x) / long).toBeCloseTo(to!.dx, 3)
    expect((step.y - to!.y) / long).toBeCloseTo(to!.dy, 3)
  }
})
