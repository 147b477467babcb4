import { newLayer, newStep } from '../artwork/layers.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import type { Artwork, Layer } from '../artwork/schema.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, newTestEngine, testPicture } from '../testing/pictures.ts'

// How the work grows with the number of steps and layers: by kernel calls, which no machine's load changes.

const asset = 'c'.repeat(64)
const [W, H] = [90, 70]
let plain: Kernels
let counted: Kernels
let calls = 0
let sources: MemorySources
beforeAll(async () => {
  plain = await loadKernels()
  const raw = Object.fromEntries(
    Object.entries(plain.raw).map(([name, f]) => [
      name,
      (...a: never[]) => {
        // functions of one number, for tables, are none
        if (a.length > 2) calls++
        return (f as (...a: never[]) => unknown)(...a)
      },
    ]),
  )
  counted = { ...plain, raw: raw as unknown as Kernels['raw'] }
  sources = new MemorySources()
  await sources.add(plain, asset, { width: W, height: H, channels: 3, depth: 8 }, testPicture(W, H))
})

const photo = () => artworkFromPhoto({ asset, width: W, height: H, title: 'growth' })
const span = { low: 0.2, high: 0.7, softLow: 0.1, softHigh: 0.1 }
/** The i-th of steps that differ, so that none is made once for two. */
const step = (i: number) => newStep(i % 3 === 1 ? 'gaussian-blur' : 'exposure', i % 3 === 1 ? { sigma: { value: 1 + i / 64, unit: 'px' } } : { stops: i / 640 })
const chain = (n: number, more: object): Artwork => {
  const a = photo()
  a.layers[0]!.chain = Array.from({ length: n }, (_, i) => ({ ...step(i), ...more }))
  return a
}
const layers = (n: number, source: (i: number) => Layer['source'], more: object = { opacity: 0.5 }): Artwork => {
  const a = photo()
  a.layers[0]!.id = 'l0'
  return { ...a, layers: [a.layers[0]!, ...Array.from({ length: n }, (_, i) => ({ ...newLayer(`L${i}`, source(i), [step(i)], `l${i + 1}`), ...more }))] }
}
const groups = (n: number): Artwork => {
  const a = photo()
  let inner: Layer[] = a.layers
  // groups in groups, fifteen deep, and as many of those as it takes
  const made: Layer[] = []
  for (let i = 0; i < n; i++) {
    inner = [...inner, { ...newLayer(`G${i}`, { type: 'below' }, [step(i)]), opacity: 0.5 }]
    if (i % 15 === 14 || i === n - 1) {
      made.push({ ...newLayer(`all ${i}`, { type: 'group', isolated: true, layers: inner }), opacity: 0.7 })
      inner = [newLayer(`fill ${i}`, { type: 'fill', colour: '#808080', alpha: 0.5 })]
    } else inner = [{ ...newLayer(`in ${i}`, { type: 'group', isolated: true, layers: inner }), opacity: 0.9 }]
  }
  return { ...a, layers: made }
}
const shapes: Record<string, (n: number) => Artwork> = {
  'a chain at half opacity': (n) => chain(n, { opacity: 0.5 }),
  'a chain that blends': (n) => chain(n, { blend: 'multiply' }),
  'a chain within a tonal span': (n) => chain(n, { span }),
  'layers of what lies below': (n) => layers(n, () => ({ type: 'below' })),
  'layers of what lies below, within a span': (n) => layers(n, () => ({ type: 'below' }), { span, opacity: 0.8 }),
  'live layers, each of the one before': (n) => layers(n, (i) => ({ type: 'live', layer: `l${i}` })),
  'live layers that show the difference': (n) => layers(n, (i) => ({ type: 'live', layer: `l${i}` }), { blend: 'color-dodge' }),
  'groups in groups': groups,
}

test.each(Object.entries(shapes))('%s: twice as many, twice the kernel calls', async (_, make) => {
  const at = async (n: number, level: number, quick: boolean) => {
    const engine = newTestEngine(counted, sources)
    await compute(engine, make(n), { level, quick })
    // tables are there now
    engine.clear()
    calls = 0
    const before = engine.runs
    await compute(engine, make(n), { level, quick })
    engine.clear()
    return { calls, runs: engine.runs - before }
  }
  for (const [level, quick] of [
    [0, false],
    [1, true],
    [2, false],
  ] as const) {
    const found: { n: number; calls: number; runs: number }[] = []
    for (const n of [4, 8, 16, 32, 64]) found.push({ n, ...(await at(n, level, quick)) })
    const last = found.at(-1)!
    for (const [i, half] of found.slice(0, -1).entries()) expect(found[i + 1]!.calls).toBeLessThanOrEqual(half.calls * 2.1 + 10)
    // each step, and what brings it in, once at each level it must be computed at
    expect(last.runs).toBeLessThanOrEqual(64 * 3 * (level + 1) + 12 * (level + 2))
  }
})

test('many pieces of work compute the same pixels as one: each once', async () => {
  const engine = newTestEngine(plain, sources)
  const artwork = layers(12, (i) => (i % 2 ? { type: 'below' } : { type: 'live', layer: `l${i}` }))
  const pixels = async (piece: number) => {
    const of = new Map<string, number>()
    engine.onRun = (s, r) => of.set(s.name, (of.get(s.name) ?? 0) + r.w * r.h)
    await compute(engine, artwork, { piece })
    return of
  }
  const one = await pixels(1 << 24)
  const many = await pixels(W * 4)
  expect(many).toEqual(one)
  for (const n of one.values()) expect(n).toBeLessThanOrEqual(W * H)
})

test('what is held at once is bounded: it grows with how far steps look, not with how many rows there are', async () => {
  const own = await loadKernels()
  const tall = new MemorySources()
  const rows = 6000
  await tall.add(own, asset, { width: 60, height: rows, channels: 3, depth: 8 }, testPicture(60, rows))
  const a = artworkFromPhoto({ asset, width: 60, height: rows, title: 't' })
  a.layers[0]!.chain = Array.from({ length: 20 }, (_, i) => ({ ...step(3 * i + 1), opacity: 0.5 }))
  const engine = newTestEngine(own, tall)
  let most = 0
  engine.onRun = () => (most = Math.max(most, own.allocator.bytesInUse))
  const { GraphCompiler } = await import('./graph.ts')
  const node = new GraphCompiler(a, own.hash).compile({ type: 'artwork' })
  await engine.bands(node, 0, a.sheet, () => undefined, { piece: 60 * 16 })
  // the photo's tiles, and for each step a few rows more than it looks at
  expect(most).toBeLessThan(60 * rows * 8 + 60 * 8 * 20 * 2 * 80)
  engine.clear()
})

test('a picture far larger than what may be held is computed in whole rows, each pixel once, however far a step looks', async () => {
  // what is handed out is not held: the picture itself takes three times the engine's bytes
  const own = await loadKernels()
  const tall = new MemorySources()
  const [w, rows] = [2200, 1500]
  await tall.add(own, asset, { width: w, height: rows, channels: 3, depth: 8 }, testPicture(w, rows))
  const a = artworkFromPhoto({ asset, width: w, height: rows, title: 't' })
  a.layers[0]!.chain = [newStep('levels', { black: 10 }), newStep('gaussian-blur', { sigma: { value: 40, unit: 'px' } }), newStep('curves')]
  const engine = newTestEngine(own, tall, 8 * 2 ** 20)
  const worked = new Map<string, number>()
  engine.onRun = (s, r) => worked.set(s.name, (worked.get(s.name) ?? 0) + r.w * r.h)
  const { GraphCompiler } = await import('./graph.ts')
  await engine.bands(new GraphCompiler(a, own.hash).compile({ type: 'artwork' }), 0, a.sheet, () => undefined, {})
  expect(Math.max(...worked.values())).toBe(w * rows)
  engine.clear()
})

test('where memory does not suffice for whole rows of all stages, it goes by columns: the same bits, bounded work', async () => {
  const [w, h] = [2400, 260]
  const a = artworkFromPhoto({ asset, width: w, height: h, title: 't' })
  a.layers[0]!.id = 'l0'
  // every second layer of one three below: rows are held long
  a.layers = [
    a.layers[0]!,
    ...Array.from({ length: 24 }, (_, i): Layer => {
      const source: Layer['source'] = i % 2 ? { type: 'live', layer: `l${Math.max(0, i - 3)}` } : { type: 'below' }
      return { ...newLayer(`L${i}`, source, [newStep('gaussian-blur', { sigma: { value: 2 + i / 50, unit: 'px' } })], `l${i + 1}`), opacity: 0.5 }
    }),
  ]
  const worked = async (memory: number) => {
    const own = await loadKernels(memory)
    const wide = new MemorySources()
    await wide.add(own, asset, { width: w, height: h, channels: 3, depth: 8 }, testPicture(w, h))
    const engine = newTestEngine(own, wide, 24 * 2 ** 20)
    let [pixels, narrowest] = [0, w]
    engine.onRun = (_, r) => {
      pixels += r.w * r.h
      narrowest = Math.min(narrowest, r.w)
    }
    const made = await compute(engine, a, { keep: 'render' })
    engine.clear()
    return { made: made.pixels, pixels, narrowest }
  }
  const ample = await worked(2 ** 30)
  const scarce = await worked(36 * 2 ** 20)
  expect(ample.narrowest).toBe(w)
  expect(scarce.narrowest).toBeLessThan(w / 2)
  expect(Buffer.from(scarce.made.buffer).equals(Buffer.from(ample.made.buffer))).toBe(true)
  expect(scarce.pixels).toBeLessThan(4 * ample.pixels)
})

test('tables are made once where they fit, and never anew for every piece where they do not', async () => {
  const own = await loadKernels()
  let made = 0
  const { hueShift } = own.raw
  const watched = { ...own, raw: { ...own.raw, hueShift: (...a: Parameters<typeof hueShift>) => (made++, hueShift(...a)) } }
  const [w, h] = [400, 400]
  const large = new MemorySources()
  await large.add(own, asset, { width: w, height: h, channels: 3, depth: 8 }, testPicture(w, h))
  const counted = async (n: number) => {
    made = 0
    const a = artworkFromPhoto({ asset, width: w, height: h, title: 't' })
    a.layers[0]!.chain = Array.from({ length: n }, (_, i) => newStep('hue-saturation', { hue: 1 + i + n }))
    const engine = newTestEngine(watched, large)
    // eight pieces
    await compute(engine, a, { piece: w * 50 })
    engine.clear()
    return made
  }
  expect(await counted(20)).toBe(20)
  // two more than are kept: most are found all the same
  expect(await counted(26)).toBeLessThan(8 * 26 * 0.6)
})
