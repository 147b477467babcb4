import { artworkFromPhoto } from '../artwork/load.ts'
import { newStep } from '../artwork/layers.ts'
import type { Artwork } from '../artwork/schema.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { stepById, steps } from '../steps/registry.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { addOtherPicture, settingsOf } from '../testing/settings.ts'
import { compute, newTestEngine, testPicture } from '../testing/pictures.ts'
import type { Engine } from './engine.ts'
import { GraphCompiler } from './graph.ts'

// Plans that are laid out of a study: when they are made, and when not.

let kernels: Kernels
const asset = '7'.repeat(64)
const other = '8'.repeat(64)
const [w, h] = [300, 220]
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: w, height: h, channels: 4, depth: 8 }, testPicture(w, h, 4))
  await sources.add(kernels, other, { width: 120, height: 90, channels: 4, depth: 8 }, testPicture(120, 90, 4))
})
afterEach(() => jest.restoreAllMocks())

function made(...chain: [id: string, params?: Record<string, unknown>][]): Artwork {
  const a = artworkFromPhoto({ asset, width: w, height: h, title: 't' })
  a.layers[0]!.chain = chain.map(([id, params], i) => newStep(id, params, `s${i}`))
  return a
}
const laying = (id: string) => jest.spyOn(stepById(id) as unknown as { lay: () => unknown }, 'lay')
const quickly = (engine: Engine, a: Artwork, lends: boolean) =>
  engine.view(
    { node: new GraphCompiler(a, kernels.hash).compile({ type: 'artwork' }), level: 1, region: { x: 0, y: 0, w: w / 2, h: h / 2 } },
    () => undefined,
    { quick: true, lends },
  )

test('values that only draw never plan again; those that planning reads do', async () => {
  const engine = newTestEngine(kernels, sources)
  const lay = laying('hatching')
  await compute(engine, made(['hatching']))
  await compute(engine, made(['hatching', { ink: '#802020', paper: '#f4efe0', tooth: { value: 4, unit: 'px' } }]))
  await compute(engine, made(['hatching', { ink: '#802020' }]), { level: 2 })
  expect(lay).toHaveBeenCalledTimes(1)
  await compute(engine, made(['hatching', { direction: 10 }]))
  expect(lay).toHaveBeenCalledTimes(2)
  // what comes back is not laid again
  await compute(engine, made(['hatching', { paper: '#eeeeee' }]))
  expect(lay).toHaveBeenCalledTimes(2)
})

test('one study serves all techniques over one input, at every size', async () => {
  const engine = newTestEngine(kernels, sources)
  const means = jest.spyOn(kernels.raw, 'meanRows')
  await compute(engine, made(['masses']))
  const study = means.mock.calls.length
  expect(study).toBeGreaterThan(90)
  await compute(engine, made(['ink-lines']))
  const lines = means.mock.calls.length
  await compute(engine, made(['contours']), { level: 1 })
  await compute(engine, made(['hatching', { follow: 'forms' }]), { level: 3 })
  // each blurs a few planes of its own, by three means each; the first that asks for colours finds two masses of them, for the others too
  expect(means.mock.calls.length - lines).toBeLessThan(40)
  expect(lines - study).toBeLessThan(40 + 56)
  // another input is another study
  await compute(engine, made(['levels', { black: 40 }], ['masses']))
  expect(means.mock.calls.length).toBeGreaterThan(2 * study)
})

test('facts that are one for several techniques are the same after each of them', async () => {
  const ids = ['wash', 'charcoal', 'flowing-oil', 'broad-brush', 'ink-lines', 'contours']
  const of = async (engine: Engine, id: string) => Buffer.from((await compute(engine, made([id]), { level: 1 })).pixels.buffer)
  const alone: Buffer[] = []
  for (const id of ids) alone.push(await of(newTestEngine(kernels, sources), id))
  for (const order of [ids, [...ids].reverse()]) {
    const engine = newTestEngine(kernels, sources)
    for (const id of order) expect([id, (await of(engine, id)).equals(alone[ids.indexOf(id)]!)]).toEqual([id, true])
  }
})

test('under a moving hand the last plan over the input is lent; it is never kept as the picture it stands for', async () => {
  const engine = newTestEngine(kernels, sources)
  const lay = laying('hatching')
  await compute(engine, made(['hatching']))
  const other = made(['hatching', { direction: 0, layers: 1 }])
  await quickly(engine, other, true)
  expect(lay).toHaveBeenCalledTimes(1)
  await quickly(engine, other, false)
  expect(lay).toHaveBeenCalledTimes(2)
  const fresh = newTestEngine(kernels, sources)
  for (const level of [0, 1, 2])
    expect((await compute(engine, other, { level, quick: level > 0 })).pixels).toEqual((await compute(fresh, other, { level, quick: level > 0 })).pixels)
  // what lies below is dragged: the plan with the same values is lent
  const below = (midtone: number) => made(['levels', { midtone }], ['hatching', { direction: 0, layers: 1 }])
  await quickly(engine, below(1), false)
  const before = lay.mock.calls.length
  await quickly(engine, below(1.3), true)
  await quickly(engine, below(1.5), true)
  expect(lay).toHaveBeenCalledTimes(before)
  // of a step that has none yet, one is laid
  await quickly(engine, made(['contours']), true)
  expect((await compute(engine, made(['contours']))).pixels).toEqual((await compute(fresh, made(['contours']))).pixels)
})

test.each([
  ['coloured-pencil', 'layMarks', { tooth: { value: 3, unit: 'px' } }],
  ['flowing-oil', 'layPaint', { gloss: 0.7 }],
] as const)('of %s what small pictures show is laid once, whatever is drawn on it', async (id, kernel, drawing) => {
  const engine = newTestEngine(kernels, sources)
  const small = { level: 2, quick: true }
  await compute(engine, made([id]), small)
  const spy = jest.spyOn(kernels.raw, kernel)
  const again = await compute(engine, made([id, drawing]), small)
  expect(spy).not.toHaveBeenCalled()
  const back = await compute(engine, made([id]), { ...small, quick: false })
  const calls = spy.mock.calls.length
  // what is not hurried is laid by all its places
  expect(calls).toBeGreaterThan(0)
  await compute(engine, made([id, { ...drawing, seed: 77 }]), small)
  expect(spy.mock.calls.length).toBeGreaterThan(calls)
  jest.restoreAllMocks()
  const fresh = newTestEngine(kernels, sources)
  expect(again.pixels).toEqual((await compute(fresh, made([id, drawing]), small)).pixels)
  expect(back.pixels).toEqual((await compute(fresh, made([id]), { ...small, quick: false })).pixels)
})

test('a plan given up half-way is laid on by itself, and the next look finds it', async () => {
  const engine = newTestEngine(kernels, sources)
  const signal = { cancelled: false }
  let turns = 0
  const { lay } = stepById('hatching') as unknown as { lay: (work: { pause: () => Promise<void> }, p: object) => Promise<unknown> }
  const spy = jest.spyOn(stepById('hatching') as unknown as { lay: typeof lay }, 'lay').mockImplementation((work, p) =>
    lay(
      {
        ...work,
        pause: async () => {
          if (++turns === 4) {
            signal.cancelled = true
            // until the one who waits has looked
            await new Promise((r) => setTimeout(r, 40))
          }
          await work.pause()
        },
      },
      p,
    ),
  )
  const a = made(['hatching', { spacing: { value: 3, unit: 'px' } }])
  const node = new GraphCompiler(a, kernels.hash).compile({ type: 'artwork' })
  await expect(engine.view({ node, level: 0, region: { x: 0, y: 0, w, h } }, () => undefined, { signal })).rejects.toMatchObject({ code: 'cancelled' })
  expect(turns).toBe(4)
  const { pixels } = await compute(engine, a)
  expect(spy).toHaveBeenCalledTimes(1)
  jest.restoreAllMocks()
  expect(pixels).toEqual((await compute(newTestEngine(kernels, sources), a)).pixels)
})

test('a plan that nobody waits for makes way for the next', async () => {
  const engine = newTestEngine(kernels, sources)
  const signal = { cancelled: false }
  const { lay } = stepById('hatching') as unknown as { lay: (work: { pause: () => Promise<void> }, p: object) => Promise<unknown> }
  let [begun, ended] = [0, 0]
  jest.spyOn(stepById('hatching') as unknown as { lay: typeof lay }, 'lay').mockImplementation(async (work, p) => {
    if (++begun === 1) {
      signal.cancelled = true
      await new Promise((r) => setTimeout(r, 60))
    }
    const found = await lay(work, p)
    ended++
    return found
  })
  const node = new GraphCompiler(made(['hatching']), kernels.hash).compile({ type: 'artwork' })
  await expect(engine.view({ node, level: 0, region: { x: 0, y: 0, w, h } }, () => undefined, { signal })).rejects.toMatchObject({ code: 'cancelled' })
  await compute(engine, made(['hatching', { layers: 1 }]))
  await new Promise((r) => setTimeout(r, 100))
  expect([begun, ended]).toEqual([2, 1])
})

test('moving the lamp, or what only draws, never plans again; nor is what a step found measured again', async () => {
  const engine = newTestEngine(kernels, sources)
  const lay = laying('paper-shapes')
  const analyse = jest.spyOn(stepById('paper-shapes') as unknown as { analyse: () => unknown }, 'analyse')
  const calls = () => [lay.mock.calls.length, analyse.mock.calls.length]
  const lit = (direction: number, params: Record<string, unknown>) => {
    const a = made(['paper-shapes', params])
    a.lamp = { ...a.lamp, direction }
    return a
  }
  const first = await compute(engine, lit(135, {}))
  expect(calls()).toEqual([1, 1])
  const turned = await compute(engine, lit(20, {}))
  expect(turned.pixels).not.toEqual(first.pixels)
  const thick = await compute(engine, lit(135, { thickness: { value: 5, unit: 'px' } }))
  expect(thick.pixels).not.toEqual(first.pixels)
  expect(calls()).toEqual([1, 1])
  await compute(engine, lit(135, { radius: { value: 4, unit: 'px' } }))
  expect(calls()).toEqual([2, 1])
  // a torn edge strays the farther the thicker its paper is
  await compute(engine, lit(135, { edge: 'torn' }))
  await compute(engine, lit(135, { edge: 'torn', thickness: { value: 5, unit: 'px' } }))
  expect(calls()).toEqual([4, 1])
  // what is found by a value is found anew where that changes
  const found = jest.spyOn(stepById('pastel') as unknown as { analyse: () => unknown }, 'analyse')
  for (const [params, times] of [
    [{}, 1],
    [{ hand: 10 }, 1],
    [{ count: 4 }, 2],
    [{}, 2],
  ] as const) {
    await compute(engine, made(['pastel', params]))
    expect([params, found.mock.calls.length]).toEqual([params, times])
  }
})

describe('what a step says that it goes by is all that it reads', () => {
  type Reads = (work: unknown, params: object) => unknown
  const spied = steps.filter((s) => s.analysedBy || (s.kind === 'planned' && s.drawnBy))
  test.each(spied.map((s) => [s.id, s] as const))('%s', async (_, step) => {
    expect(spied.length).toBeGreaterThan(12)
    await addOtherPicture(kernels, sources)
    const choices = Object.entries(step.params).filter(([, { type }]) => type === 'choice' || type === 'flag' || type === 'palette')
    const settings = settingsOf(step, 0, w).filter(([name]) => name === 'defaults' || choices.some(([n]) => name.startsWith(`${n} `)))
    const read = { analyse: new Set<string>(), lay: new Set<string>() }
    let drawn: readonly string[] = []
    const small = (...chain: Parameters<typeof made>): Artwork => {
      const a = artworkFromPhoto({ asset: other, width: 120, height: 90, title: 't' })
      a.layers[0]!.chain = chain.map(([id, params], i) => newStep(id, params, `s${i}`))
      return a
    }
    const plainly = await compute(newTestEngine(kernels, sources), small([step.id]), { level: 2 })
    for (const what of ['analyse', 'lay'] as const) {
      const its = (step as unknown as Record<string, Reads | undefined>)[what]
      if (!its) continue
      jest.spyOn(step as unknown as Record<string, Reads>, what).mockImplementation((work, params) => {
        if (what === 'lay' && step.kind === 'planned') {
          drawn = typeof step.drawnBy === 'function' ? step.drawnBy(params as never) : (step.drawnBy ?? [])
          read.lay.clear()
        }
        const watched = new Proxy(params, {
          // one that copies them all is not given what only draws
          ownKeys: (of) => Reflect.ownKeys(of).filter((n) => what !== 'lay' || !drawn.includes(n as string)),
          get: (of, name) => {
            read[what].add(name as string)
            return (of as Record<string | symbol, unknown>)[name]
          },
        })
        return its(work, watched)
      })
    }
    for (const [name, params] of settings) {
      const { pixels } = await compute(newTestEngine(kernels, sources), small([step.id, params]), { level: 2 })
      if (name === 'defaults') expect(pixels).toEqual(plainly.pixels)
      expect([name, [...read.lay].filter((n) => n === 'sheet' || drawn.includes(n))]).toEqual([name, []])
    }
    if (step.analysedBy) expect([...read.analyse].sort()).toEqual([...step.analysedBy].sort())
  })
})
