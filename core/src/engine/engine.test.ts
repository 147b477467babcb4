import { artworkFromPhoto } from '../artwork/load.ts'
import { instantiate, madeBy } from '../artwork/recipe.ts'
import { recipes } from '../recipes/registry.ts'
import { newLayer, newStep } from '../artwork/layers.ts'
import type { Artwork } from '../artwork/schema.ts'
import { QuillError } from '../base/errors.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { steps } from '../steps/registry.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { addOtherPicture, otherPicture } from '../testing/settings.ts'
import { compute, newTestEngine, stripGrid, testPicture, waitFor } from '../testing/pictures.ts'
import { GraphCompiler } from './graph.ts'
import { isPlanned } from './small-sheet.ts'
import { Store } from './store.ts'

const asset = 'b'.repeat(64)
const W = 333
const H = 217
/** What the registry is walked on: more than one tile each way, and no multiple of one. */
const small = { asset: 'd'.repeat(64), width: 201, height: 139 }
let kernels: Kernels
let crewed: Kernels
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  crewed = await loadKernels(2 ** 29, 2)
  await waitFor(() => crewed.crew!.threads === 2)
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 4, depth: 8 }, testPicture(W, H, 4))
  await sources.add(kernels, small.asset, { width: small.width, height: small.height, channels: 4, depth: 8 }, testPicture(small.width, small.height, 4))
  await addOtherPicture(kernels, sources)
})

const photo = () => artworkFromPhoto({ asset, width: W, height: H, title: 'test' })
function withChain(...chain: ReturnType<typeof newStep>[]): Artwork {
  return chained(photo(), ...chain)
}
function chained(a: Artwork, ...chain: ReturnType<typeof newStep>[]): Artwork {
  a.layers[0]!.chain = chain
  return a
}
const begun = () => artworkFromPhoto({ ...small, title: 'test' })
const everything = (): [string, Artwork][] => [
  ...steps.map((s): [string, Artwork] => [s.id, chained(begun(), newStep(s.id, s.sample as Record<string, unknown>))]),
  ...recipes.map((r): [string, Artwork] => [`recipe ${r.id}`, madeBy(begun(), r)]),
  [
    'relief from a picture',
    chained(begun(), newStep('surface-relief', { kind: 'picture', picture: otherPicture, width: { value: 70, unit: 'px' }, depth: 0.8 })),
  ],
  [
    'wide blur of a half-clear picture',
    chained(
      begun(),
      newStep('gaussian-blur', { sigma: { value: 17, unit: 'px' } }),
      newStep('invert'),
      newStep('gaussian-blur', { sigma: { value: 6, unit: 'px' } }),
    ),
  ],
]

/** Computes with an engine that is used once, and leaves nothing behind in kernel memory. */
async function alone(on: Kernels, artwork: Artwork, options: Parameters<typeof compute>[2] = {}): ReturnType<typeof compute> {
  const engine = newTestEngine(on, sources)
  const result = await compute(engine, artwork, options)
  engine.clear()
  return result
}

// walks the registry: a step is covered the day it is added
describe.each(everything())('%s', (_, artwork) => {
  // a plan takes long, and is the same however its picture is cut: it is laid three times, in one piece, in small ones, and by two threads; pixels are made anew each time
  const held = isPlanned(artwork)
  const engines = new Map<string, ReturnType<typeof newTestEngine>>()
  async function made(name: 'whole' | 'cut' | 'crew', options: Parameters<typeof compute>[2] = {}): ReturnType<typeof compute> {
    const on = name === 'crew' ? crewed : kernels
    if (!held) return alone(on, artwork, options)
    const engine = engines.get(name) ?? newTestEngine(on, sources)
    engines.set(name, engine)
    const result = await compute(engine, artwork, options)
    engine.clear()
    return result
  }

  test('tiles of 64, 97 and 512 pixels, strips, pieces of any size, and the whole picture are the same bits at every level', async () => {
    // of what is planned the coarser levels are the finest one reduced: one way of cutting shows that
    for (const level of held ? [-1, 0, 1] : [-1, 0, 1, 3]) {
      const few = held && level !== 0
      const whole = await made('whole', { level, piece: 1 << 24 })
      for (const piece of few ? [5000] : [1 << 11, 5000, 1 << 14]) {
        const pieced = await made('cut', { level, piece })
        expect(Buffer.compare(Buffer.from(pieced.pixels.buffer), Buffer.from(whole.pixels.buffer))).toBe(0)
      }
      // at twice the size there is four times as much of it
      if (level < 0) continue
      for (const grid of few ? [{ w: 97, h: 97 }] : [{ w: 64, h: 64 }, { w: 97, h: 97 }, { w: 512, h: 512 }, stripGrid(16)]) {
        const tiled = await made('cut', { level, grid })
        expect(Buffer.compare(Buffer.from(tiled.pixels.buffer), Buffer.from(whole.pixels.buffer))).toBe(0)
      }
    }
  }, 240_000)

  test('two threads on shared memory give the same bits as one', async () => {
    for (const level of [0, 1]) {
      const one = await made('whole', { level })
      const two = await made('crew', { level })
      expect(Buffer.compare(Buffer.from(two.pixels.buffer), Buffer.from(one.pixels.buffer))).toBe(0)
    }
  })

  test('a region alone is the same bits as that part of the whole', async () => {
    const whole = await made('whole')
    const region = { x: 101, y: 33, w: 77, h: 61 }
    const part = await made('cut', { region, grid: { w: 64, h: 64 } })
    for (let y = 0; y < region.h; y++) {
      const from = ((y + region.y) * small.width + region.x) * 4
      expect(part.pixels.subarray(y * region.w * 4, (y + 1) * region.w * 4)).toEqual(whole.pixels.subarray(from, from + region.w * 4))
    }
  })

  afterAll(() => engines.clear())
})

test.each([2, 3, 5, 8])('%d threads give the same bits, in pieces that are worth sharing, and none waits for ever', async (threads) => {
  const many = await loadKernels(2 ** 29, threads)
  await waitFor(() => many.crew!.threads === threads)
  const large = new MemorySources()
  const [w, h] = [1100, 900]
  await large.add(kernels, asset, { width: w, height: h, channels: 3, depth: 8 }, testPicture(w, h))
  const base = artworkFromPhoto({ asset, width: w, height: h, title: 't' })
  for (const id of ['graphite', 'newspaper-print']) {
    const { layers, use } = instantiate(
      recipes.find((r) => r.id === id)!,
      base.layers[0]!.source,
    )
    const artwork = { ...base, layers, recipes: [use] }
    const one = newTestEngine(kernels, large)
    const want = await compute(one, artwork)
    one.clear()
    for (const piece of [1 << 15, 1 << 17, 1 << 20]) {
      const engine = newTestEngine(many, large)
      // a view spares one of them
      const got = await compute(engine, artwork, { piece, alone: piece === 1 << 17 })
      engine.clear()
      expect(Buffer.compare(Buffer.from(got.pixels.buffer), Buffer.from(want.pixels.buffer))).toBe(0)
    }
  }
})

describe('what is kept', () => {
  const blurred = newStep('gaussian-blur', { sigma: { value: 5, unit: 'px' } })
  const levels = (midtone: number) => withChain(blurred, newStep('levels', { midtone }))

  test('changing a step computes nothing before it again', async () => {
    const engine = newTestEngine(kernels, sources)
    const ran: string[] = []
    engine.onRun = (s) => ran.push(s.name)
    await compute(engine, levels(0.5), { keep: 'view' })
    const before = ran.length
    const got = await compute(engine, levels(0.6), { keep: 'view' })
    // the levels alone
    expect(ran.length - before).toBe(1)
    const again = ran.length
    await compute(engine, levels(0.6), { keep: 'view' })
    expect(ran.length).toBe(again)
    expect(got.pixels).toEqual((await alone(kernels, levels(0.6))).pixels)
    engine.clear()
  })

  test('a region that grows goes on where it ended, and gives the same bits', async () => {
    const engine = newTestEngine(kernels, sources)
    const whole = await alone(kernels, levels(0.5))
    for (const h of [60, 130, H]) {
      const region = { x: 0, y: 0, w: W, h }
      const got = await compute(engine, levels(0.5), { region, keep: 'view' })
      expect(got.pixels).toEqual(whole.pixels.subarray(0, W * h * 4))
    }
    engine.clear()
  })

  test('stays within its bytes, and the picture is right all the same', async () => {
    const artwork = withChain(newStep('gaussian-blur', { sigma: { value: 9, unit: 'px' } }), newStep('gaussian-blur', { sigma: { value: 2, unit: 'px' } }))
    const small = newTestEngine(kernels, sources, 900_000)
    const got = await compute(small, artwork, { keep: 'view' })
    expect(small.store.size.bytes).toBeLessThanOrEqual(900_000)
    expect(got.pixels).toEqual((await alone(kernels, artwork)).pixels)
    small.clear()
  })

  test('what costs much to make again outlives what costs little, whatever was asked for last', () => {
    const store = new Store(kernels, 1000)
    const put = (name: string, cost: number) =>
      store.release(store.put(name, { ptr: kernels.allocator.alloc(300), stride: 300, bytes: 300, region: { x: 0, y: 0, w: 1, h: 1 }, hi: 1, cost }))
    put('dear', 50)
    for (let i = 0; i < 6; i++) put(`cheap ${i}`, 1)
    expect(store.has('dear')).toBe(true)
    // but not for ever: what is never asked for ages
    for (let i = 0; i < 200; i++) put(`next ${i}`, 1)
    expect(store.has('dear')).toBe(false)
    store.clear()
    expect(store.bytes).toBe(0)
  })

  test('gives all its memory back', async () => {
    const own = await loadKernels()
    const mine = new MemorySources()
    await mine.add(own, asset, { width: 90, height: 70, channels: 3, depth: 8 }, testPicture(90, 70))
    const a = artworkFromPhoto({ asset, width: 90, height: 70, title: 't' })
    a.layers[0]!.chain = [newStep('gaussian-blur'), newStep('invert'), newStep('gaussian-blur', { sigma: { value: 20, unit: 'px' } })]
    const engine = newTestEngine(own, mine)
    for (const keep of ['view', 'small', 'render'] as const) await compute(engine, a, { keep })
    engine.clear()
    // what stays is the composed table of the invert step
    expect(own.allocator.bytesInUse).toBeLessThan(140_000)
  })
})

describe('structural keys', () => {
  const key = (a: Artwork) => new GraphCompiler(a, kernels.hash).compile({ type: 'artwork' }).key
  const blur = newStep('gaussian-blur', { sigma: { value: 2, unit: '%' } }, 'same')

  test('same meaning, same key; other parameters, order, kernels or photo, another', () => {
    const a = withChain(blur, newStep('invert'))
    expect(key(withChain({ ...blur, id: 'other' }, newStep('invert')))).toBe(key(a))
    // 2 % of the reference length is the same length in pixels
    expect(key(withChain(newStep('gaussian-blur', { sigma: { value: (2 / 100) * W, unit: 'px' } }), newStep('invert')))).toBe(key(a))
    expect(key(withChain(newStep('invert'), blur))).not.toBe(key(a))
    expect(key(withChain({ ...blur, opacity: 0.5 }, newStep('invert')))).not.toBe(key(a))
    expect(new GraphCompiler(a, 'other kernels').compile({ type: 'artwork' }).key).not.toBe(key(a))
  })

  test('a step that is off, or without opacity, is not there', () => {
    expect(key(withChain({ ...blur, on: false }, newStep('invert', {}, 'i')))).toBe(key(withChain(newStep('invert', {}, 'i'))))
    expect(key(withChain({ ...blur, opacity: 0 }, newStep('invert', {}, 'i')))).toBe(key(withChain(newStep('invert', {}, 'i'))))
  })
})

describe('layers', () => {
  test('live copies read a layer before its blend and opacity; groups and fills composite', async () => {
    const a = photo()
    const base = { ...a.layers[0]!, id: 'base', chain: [newStep('invert')], opacity: 0.3, blend: 'multiply' as const }
    const direct = await compute(newTestEngine(kernels, sources), withChain(newStep('invert')))
    const live = await compute(newTestEngine(kernels, sources), {
      ...a,
      layers: [{ ...base, visible: false }, newLayer('copy', { type: 'live', layer: 'base' })],
    })
    expect(live.pixels).toEqual(direct.pixels)
    const group = await compute(newTestEngine(kernels, sources), {
      ...a,
      layers: [newLayer('group', { type: 'group', isolated: true, layers: [{ ...base, opacity: 1, blend: 'normal' }] })],
    })
    expect(group.pixels).toEqual(direct.pixels)
    const paper = await compute(newTestEngine(kernels, sources), { ...a, layers: [newLayer('paper', { type: 'fill', colour: '#8040ff', alpha: 1 })] })
    expect([...paper.pixels.subarray(0, 4)]).toEqual([0x8080, 0x4040, 0xffff, 65535])
  })

  test('“what lies below” replaces, and its opacity brings the untouched picture back', async () => {
    const a = photo()
    const below = { ...newLayer('below', { type: 'below' }, [newStep('invert')]), opacity: 0.25 }
    const got = await compute(newTestEngine(kernels, sources), { ...a, layers: [...a.layers, below] })
    const plain = await compute(newTestEngine(kernels, sources), a)
    // an expectation a pixel would take seconds
    let [clear, furthest] = [0, 0]
    const { abs, max } = Math
    for (let i = 0; i < got.pixels.length; i += 4) {
      if (got.pixels[i + 3] !== plain.pixels[i + 3]) clear++
      if (plain.pixels[i + 3] === 0) continue
      const p = plain.pixels[i]!
      furthest = max(furthest, abs(got.pixels[i]! - (p + 0.25 * (65535 - 2 * p))))
    }
    expect(clear).toBe(0)
    expect(furthest).toBeLessThan(3)
  })
})

describe('failures have names', () => {
  const failure = async (a: Artwork) => compute(newTestEngine(kernels, sources), a).catch((e: QuillError) => e.code)

  test('live layers in a circle', async () => {
    const a = photo()
    expect(await failure({ ...a, layers: [newLayer('A', { type: 'live', layer: 'b' }, [], 'a'), newLayer('B', { type: 'below' }, [], 'b')] })).toBe(
      'live-cycle',
    )
    expect(await failure({ ...a, layers: [newLayer('A', { type: 'live', layer: 'a' }, [], 'a')] })).toBe('live-cycle')
  })

  test('a missing photo, layer or step', async () => {
    expect(await failure(artworkFromPhoto({ asset: 'c'.repeat(64), width: 9, height: 9, title: 't' }))).toBe('missing-photo')
    const a = photo()
    expect(await failure({ ...a, layers: [newLayer('A', { type: 'live', layer: 'nowhere' })] })).toBe('unknown-layer')
    expect(await failure({ ...a, layers: [newLayer('A', { type: 'open-photo' })] })).toBe('missing-photo')
    a.layers[0]!.chain = [{ ...newStep('invert'), step: 'sparkle' }]
    expect(await failure(a)).toBe('unknown-step')
  })

  test('what this version cannot compute is refused, not left out', async () => {
    const a = photo()
    a.layers[0]!.inset = {
      outline: [
        [0, 0],
        [9, 0],
        [9, 9],
      ],
      border: { value: 1, unit: 'px' },
      colour: '#000000',
      gutter: { value: 1, unit: 'px' },
    }
    expect(await failure(a)).toBe('not-supported')
  })

  test('a cancelled computation stops before its next tile', async () => {
    const engine = newTestEngine(kernels, sources)
    const signal = { cancelled: false }
    const running = compute(engine, withChain(newStep('gaussian-blur')), { grid: { w: 16, h: 16 }, signal }).catch((e: QuillError) => e.code)
    await new Promise((r) => setImmediate(r))
    signal.cancelled = true
    expect(await running).toBe('cancelled')
    expect(engine.runs).toBeLessThan(Math.ceil(W / 16) * Math.ceil(H / 16))
    // and the engine goes on working
    await compute(engine, withChain(newStep('invert')))
  })

  test('a sheet much larger than its picture: the blank part of it can be stopped too', async () => {
    const engine = newTestEngine(kernels, sources)
    const a = withChain(newStep('invert'))
    const node = new GraphCompiler(a, kernels.hash).compile({ type: 'artwork' })
    const signal = { cancelled: false }
    let bands = 0
    const running = engine.bands(
      node,
      0,
      { x: 0, y: 0, w: 20_000, h: 20_000 },
      (pic) => {
        // the picture, then nothing, in strips that do not take long
        if (pic.region.y < H) return
        expect(pic.region.h * pic.stride).toBeLessThanOrEqual(2 ** 23)
        expect(kernels.u16(pic.ptr, 4)).toEqual(new Uint16Array(4))
        if (++bands === 3) signal.cancelled = true
      },
      { signal },
    )
    await expect(running).rejects.toMatchObject({ code: 'cancelled' })
    expect(bands).toBe(3)
    engine.clear()
  })

  test('a trap inside a kernel has a name, also where a step is measured', async () => {
    const broken = { ...kernels, raw: { ...kernels.raw, lut: () => { throw new WebAssembly.RuntimeError('unreachable') } } } // prettier-ignore
    const engine = newTestEngine(broken, sources)
    await expect(compute(engine, withChain(newStep('invert')))).rejects.toMatchObject({ code: 'kernel-failed' })
    const a = withChain(newStep('invert'), newStep('equalise-locally'), newStep('threshold', { by: 'otsu' }))
    const node = new GraphCompiler(a, kernels.hash).compile({ type: 'artwork' })
    await expect(engine.known(node as never)).rejects.toMatchObject({ code: 'kernel-failed' })
    engine.clear()
  })

  test('memory that does not suffice', async () => {
    const tiny = await loadKernels(4 * 2 ** 20)
    const own = new MemorySources()
    await own.add(tiny, asset, { width: 200, height: 100, channels: 3, depth: 8 }, testPicture(200, 100))
    const a = artworkFromPhoto({ asset, width: 200, height: 100, title: 't' })
    a.sheet = { ...a.sheet, w: 4000, h: 4000 }
    a.layers = [newLayer('fill', { type: 'fill', colour: '#ffffff', alpha: 1 })]
    await expect(compute(newTestEngine(tiny, own), a)).rejects.toMatchObject({ code: 'out-of-memory' })
  })
})

test.each([
  [1, 1],
  [1, 800],
  [800, 1],
  [2, 3],
])('a picture of %d × %d works', async (w, h) => {
  const own = new MemorySources()
  await own.add(kernels, small.asset, { width: w, height: h, channels: 3, depth: 8 }, testPicture(w, h))
  await addOtherPicture(kernels, own)
  for (const [id, artwork] of everything()) {
    const layers = artwork.layers.map((l) => (l.source.type === 'photo' ? { ...l, source: { ...l.source, width: w, height: h } } : l))
    const a = { ...artwork, layers, sheet: { ...artwork.sheet, w, h }, reference: Math.max(w, h) }
    for (const level of [0, 2]) {
      const engine = newTestEngine(kernels, own)
      const { pixels, region } = await compute(engine, a, { level })
      engine.clear()
      expect(region).toEqual({ x: 0, y: 0, w: Math.ceil(w / 2 ** level), h: Math.ceil(h / 2 ** level) })
      // one step is there to open the sheet
      if (id !== 'tone-to-alpha') expect(pixels.every((v, i) => i % 4 !== 3 || v === 65535)).toBe(true)
    }
  }
})
