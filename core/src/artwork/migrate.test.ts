import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { QuillError } from '../base/errors.ts'
import { defineStep } from '../steps/contract.ts'
import { number } from '../steps/params/index.ts'
import { registryOf, stepAt } from '../steps/registry.ts'
import { LONGEST_SIDE, MOST_DEPTH, MOST_LAYERS, MOST_STEPS } from './bounds.ts'
import { newLayer, newStep } from './layers.ts'
import { artworkFromPhoto, checkStep, loadArtwork, loadRecipe } from './load.ts'
import { recipes } from '../recipes/registry.ts'
import type { Artwork, Layer } from './schema.ts'

const folder = join(__dirname, '../testing/data/artworks-1')
const saved = (file: string) => JSON.parse(readFileSync(join(folder, file), 'utf8')) as Record<string, never>
const photo = () => artworkFromPhoto({ asset: 'f'.repeat(64), width: 30, height: 20, title: 'A' })
const code = (json: unknown): string => {
  try {
    loadArtwork(JSON.parse(JSON.stringify(json)))
    return 'taken'
  } catch (e) {
    return e instanceof QuillError ? e.code : `not a named error: ${String(e)}`
  }
}

describe('documents of version 1', () => {
  // their pixels are compared in golden.test.ts
  test.each(readdirSync(folder))('%s opens, and what it said it still says', (file) => {
    const before = saved(file) as unknown as Artwork
    const now = loadArtwork(saved(file))
    expect(now.version).toBe(3)
    expect(now.field).toEqual({ x: 0, y: 0, w: before.sheet.w, h: before.sheet.h })
    expect(now).toMatchObject({ title: before.title, reference: before.reference, lamp: before.lamp, lookSpot: before.lookSpot })
    // the one span a layer had went by what lies below
    const said = (layers: Layer[], span: 'span' | 'spanBelow'): unknown[] =>
      layers.map((l) => [
        l.id,
        l.name,
        l.visible,
        l.blend,
        l.opacity,
        l[span],
        l.source.type === 'group' ? said(l.source.layers, span) : l.source,
        // values that a step has got since are at their defaults
        l.chain.map((s) => [s.id, s.step, s.version, { ...stepAt(s.step, s.version).defaults, ...s.params }, s.on, s.opacity, s.blend, s.span]),
      ])
    expect(said(now.layers, 'spanBelow')).toEqual(said(before.layers, 'span'))
    // once of this version, always the same
    expect(loadArtwork(JSON.parse(JSON.stringify(now)))).toEqual(now)
  })

  test('placements and masks keep their meaning', () => {
    const old = saved('tangled.json') as unknown as { layers: Record<string, unknown>[] }
    old.layers[0]!['placement'] = { a: 1, b: 2, c: 3, d: 4, e: 5, f: 6 }
    old.layers[0]!['mask'] = { index: 'a'.repeat(64) }
    const layer = loadArtwork(old).layers[0]!
    // x′ = a·x + c·y + e, y′ = b·x + d·y + f
    expect(layer.placement.matrix).toEqual([1, 3, 5, 2, 4, 6, 0, 0, 1])
    expect(layer.mask).toMatchObject({ plane: { index: 'a'.repeat(64), channels: 1 }, start: 'full', strength: 1 })
  })

  test('recipes of version 1 are read', () => {
    const [recipe] = recipes
    const without = (o: object, ...keys: string[]) => Object.fromEntries(Object.entries(o).filter(([k]) => !keys.includes(k)))
    const old = without(recipe!, 'edition', 'retouch')
    const layers = recipe!.layers.map((l) => ({
      ...without(l, 'locked', 'mark', 'folded', 'lightMap', 'study', 'inset', 'spanBelow'),
      placement: { a: 1, b: 0, c: 0, d: 1, e: 0, f: 0 },
      chain: l.chain.map((use) => without(use, 'inputs')),
    }))
    // they did not say where retouching goes
    expect(loadRecipe({ ...old, version: 1, layers })).toEqual({ ...recipe, edition: 1, retouch: null })
  })

  test('what is broken is named, not thrown from deep inside', () => {
    for (const broken of [
      { layers: 7 },
      { layers: [null] },
      { layers: [{ source: 5, chain: 'x' }] },
      { sheet: null },
      { recipes: [1] },
      { version: '1' },
      { version: 0 },
    ])
      expect(code({ ...saved('tangled.json'), ...broken })).toBe('artwork-invalid')
  })
})

describe('bounds', () => {
  const sheet = (w: number, h: number) => ({ ...photo(), sheet: { ...photo().sheet, w, h } })

  test('sheets', () => {
    expect(code(sheet(20_000, 20_000))).toBe('taken')
    for (const [w, h] of [
      [1, 1e9],
      [32_000, 32_000],
      [LONGEST_SIDE + 1, 1],
      [2 ** 31, 1],
      [20_001, 20_000],
    ] as const)
      expect(code(sheet(w, h))).toBe('artwork-too-large')
    expect(() => artworkFromPhoto({ asset: 'f'.repeat(64), width: 70_000, height: 2, title: 't' })).toThrow(/at most 60000/)
  })

  test('layers, steps, and groups in groups, however deep', () => {
    const many = (n: number): Layer[] => Array.from({ length: n }, (_, i) => newLayer(`L${i}`, { type: 'below' }, [], `l${i}`))
    expect(code({ ...photo(), layers: many(MOST_LAYERS) })).toBe('taken')
    expect(code({ ...photo(), layers: many(MOST_LAYERS + 1) })).toBe('artwork-too-large')
    const steps = (n: number) => Array.from({ length: n }, (_, i) => newStep('invert', {}, `s${i}`))
    expect(code({ ...photo(), layers: [newLayer('a', { type: 'below' }, steps(MOST_STEPS), 'a')] })).toBe('taken')
    expect(code({ ...photo(), layers: [newLayer('a', { type: 'below' }, steps(MOST_STEPS + 1), 'a')] })).toBe('artwork-too-large')
    const nested = (depth: number) => {
      let layers = many(1)
      for (let i = 0; i < depth; i++) layers = [newLayer('g', { type: 'group', isolated: true, layers }, [], `g${i}`)]
      return { ...photo(), layers }
    }
    expect(code(nested(MOST_DEPTH))).toBe('taken')
    expect(code(nested(MOST_DEPTH + 1))).toBe('artwork-too-large')
    expect(code(nested(500))).toBe('artwork-too-large')
  })

  test('a circle of live layers is found, whichever way it goes', () => {
    const a = (more: Partial<Layer>, source: Layer['source'] = { type: 'below' }) => ({ ...newLayer('A', source, [newStep('invert', {}, 's')], 'a'), ...more })
    const b = newLayer('B', { type: 'live', layer: 'a' }, [], 'b')
    expect(code({ ...photo(), layers: [a({}, { type: 'live', layer: 'b' }), b] })).toBe('live-cycle')
    expect(code({ ...photo(), layers: [a({}, { type: 'group', isolated: true, layers: [b] })] })).toBe('live-cycle')
    const reads = { ...newStep('invert', {}, 's'), inputs: { other: { type: 'layer' as const, layer: 'b', steps: null } } }
    expect(code({ ...photo(), layers: [a({ chain: [reads] }), b] })).toBe('live-cycle')
    const mask = {
      plane: null,
      start: 'full' as const,
      live: { layer: 'b', by: 'alpha' as const },
      stays: false,
      turnedRound: false,
      edge: { move: 0, unit: 'px' as const, soften: { value: 0, unit: 'px' as const } },
      strength: 1,
      thins: false,
    }
    expect(code({ ...photo(), layers: [a({ mask }), b] })).toBe('live-cycle')
    expect(code({ ...photo(), layers: [a({}), b] })).toBe('taken')
  })

  test('a placement that leaves nothing of a layer', () => {
    expect(code({ ...photo(), layers: [{ ...newLayer('A', { type: 'below' }), placement: { matrix: [0, 0, 0, 0, 1, 0, 0, 0, 1], pivot: null } }] })).toBe(
      'artwork-invalid',
    )
  })
})

describe('versions of a step', () => {
  const base = { id: 'test-glow', title: 'Glow', group: 'tone', kind: 'point', help: 'h', method: 'for the test', run: () => undefined } as const
  const amount = number({ title: 'Amount', default: 0, min: 0, max: 1, step: 0.1, help: 'h' })
  const first = defineStep({ ...base, version: 1, params: { amount } })
  const second = defineStep({ ...base, version: 2, params: { amount } })
  const third = defineStep({
    ...base,
    version: 3,
    params: { strength: amount },
    migrate: ({ amount: a, ...rest }, from) => ({ params: { ...rest, strength: (a as number) / from }, word: 'looks a little softer now.' }),
  })
  const use = (version: number, params: Record<string, unknown>) => ({ ...newStep('invert'), step: 'test-glow', version, params })

  test('an older one that is kept computes as ever', () => {
    const kept = registryOf([second], [first])
    expect(stepAt('test-glow', 1, kept)).toBe(first)
    expect(checkStep(use(1, { amount: 0.5 }), [], kept)).toMatchObject({ version: 1, params: { amount: 0.5 } })
    expect(stepAt('test-glow', 2, kept)).toBe(second)
  })

  test('one that is not is migrated, with a word to the user', () => {
    const words: string[] = []
    expect(checkStep(use(2, { amount: 0.5 }), words, registryOf([third], []))).toMatchObject({ version: 3, params: { strength: 0.25 } })
    expect(words).toEqual(['Glow: looks a little softer now.'])
  })

  test('a value that nobody knows is named; a later version refused; two steps of one name are a fault', () => {
    expect(() => checkStep(use(2, { amount: 0.5, sparkle: 1 }), [], registryOf([third], []))).toThrow(/no value called “sparkle”/)
    expect(() => checkStep(use(4, {}), [], registryOf([third], []))).toThrow(/later version/)
    expect(() => registryOf([first], [first])).toThrow(/test-glow@1/)
  })
})

test('the schema tells what it holds: every part that is not computed yet can be written down', () => {
  const plane = { index: 'b'.repeat(64), channels: 4 as const }
  const a = photo()
  const px = (value: number) => ({ value, unit: 'px' as const })
  const layer = (source: Layer['source'], i: number, more: Partial<Layer> = {}): Layer => ({ ...newLayer(`L${i}`, source, [], `l${i}`), ...more })
  const full: Artwork = {
    ...a,
    guides: [{ axis: 'upright', at: 12.5 }],
    areas: [{ id: 'face', name: 'Face', plane }],
    pins: [{ id: 'eye', x: 3, y: 4, radius: px(20) }],
    colourways: [{ id: 'warm', name: 'Warm', change: { type: 'hue', degrees: 30 } }],
    layers: [
      ...a.layers,
      layer(
        {
          type: 'gradient',
          shape: 'round',
          stops: [
            [0, '#000000', 1],
            [1, '#ffffff', 0],
          ],
          from: { x: 0, y: 0 },
          to: { x: 9, y: 9 },
          beyond: 'mirror',
        },
        1,
      ),
      layer({ type: 'paper', paper: 'laid', width: { value: 300, unit: 'mm' }, colour: null }, 2, { mark: 3, locked: true, folded: true }),
      layer({ type: 'paint', plane }, 3, {
        lightMap: { plane, strength: 1, span: null },
        study: { masses: plane, flow: null, edges: null, detail: null, focus: null, ground: null },
      }),
      layer({ type: 'ink', blob: 'c'.repeat(64), colour: '#101010' }, 4, { spanBelow: { low: 0, high: 1, softLow: 0, softHigh: 0 } }),
      layer({ type: 'mend', blob: null, plane: null }, 5),
      layer(
        {
          type: 'lettering',
          text: 'Lantern Week',
          font: 'x',
          size: px(40),
          colour: '#000000',
          align: 'left',
          leading: 1.2,
          tracking: 0,
          outline: null,
          box: { x: 0, y: 0, w: 9, h: 9 },
          blob: null,
        },
        6,
      ),
      layer(
        {
          type: 'panels',
          of: 'l1',
          rows: 2,
          columns: 2,
          gutter: px(0),
          margin: px(0),
          backing: '#ffffff',
          keeps: 'sheet',
          screens: 'stay',
          deal: 1,
          colourways: ['warm'],
          panels: [],
        },
        7,
      ),
      layer({ type: 'group', isolated: false, layers: [] }, 8, {
        inset: {
          outline: [
            [0, 0],
            [9, 0],
            [9, 9],
          ],
          border: px(2),
          colour: '#000000',
          gutter: px(4),
        },
        blend: 'add',
      }),
    ],
  }
  expect(loadArtwork(JSON.parse(JSON.stringify(full)))).toEqual(full)
})
