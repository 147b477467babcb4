import fc from 'fast-check'
import { blendModes } from '../blend/modes.ts'
import { QuillError } from '../base/errors.ts'
import { stepById, steps } from '../steps/registry.ts'
import { applyEdit, perform, type Command } from './commands.ts'
import { record, redo, startHistory, undo } from './history.ts'
import { allLayers, freshId, newLayer, newStep } from './layers.ts'
import { artworkFromPhoto, loadArtwork } from './load.ts'
import { instantiate } from './recipe.ts'
import { graphite } from '../recipes/graphite.ts'
import { recipes } from '../recipes/registry.ts'
import type { Artwork } from './schema.ts'

const asset = 'e'.repeat(64)
function sketch(): Artwork {
  const a = artworkFromPhoto({ asset, width: 300, height: 200, title: 'Sketch' })
  const { layers, use } = instantiate(graphite, a.layers[0]!.source)
  return { ...a, layers, recipes: [use] }
}

/** A command that may make sense on this artwork, from a few random numbers. */
function someCommand(a: Artwork, [kind, n, m, share]: [number, number, number, number]): Command {
  const layers = [...allLayers(a.layers)]
  const layer = layers[n % Math.max(1, layers.length)] ?? newLayer('none', { type: 'below' })
  const step = layer.chain[m % Math.max(1, layer.chain.length)]
  const blend = blendModes[m % 16]!
  const def = steps[n % steps.length]!
  switch (kind % 29) {
    case 0:
      return { type: 'add-layer', layer: newLayer(`L${m}`, m % 2 ? { type: 'below' } : { type: 'live', layer: layer.id }), index: m }
    case 1:
      return { type: 'remove-layer', layer: layer.id }
    case 2:
      return { type: 'duplicate-layer', layer: layer.id, ids: Array.from({ length: 20 }, freshId) }
    case 3:
      return { type: 'move-layer', layer: layer.id, index: m % 6 }
    case 4:
      return { type: 'rename-layer', layer: layer.id, name: `name ${m}` }
    case 5:
      return { type: 'set-layer', layer: layer.id, opacity: share }
    case 6:
      return { type: 'set-layer', layer: layer.id, blend, visible: m % 3 !== 0 }
    case 7:
      return { type: 'add-step', layer: layer.id, index: m % 5, step: newStep(def.id) }
    case 8:
      return { type: 'remove-step', layer: layer.id, step: step?.id ?? 'none' }
    case 9:
      return { type: 'move-step', layer: layer.id, step: step?.id ?? 'none', toLayer: layers[m % Math.max(1, layers.length)]?.id ?? 'none', index: n % 5 }
    case 10:
      return { type: 'set-step', layer: layer.id, step: step?.id ?? 'none', on: m % 2 === 0, blend, opacity: share }
    case 11:
      return { type: 'set-param', layer: layer.id, step: step?.id ?? 'none', param: 'midtone', value: 0.2 + share }
    case 12: {
      const recipe = recipes[n % recipes.length]!
      const { layers, use } = instantiate(recipe, { type: 'photo', asset, width: 300, height: 200 })
      return { type: 'apply-recipe', layers, use, replace: m % 3 === 0 }
    }
    case 18:
      return { type: 'group-layers', layers: layers.filter((_, i) => (m >> (i % 5)) % 2 === 1).map((l) => l.id), group: freshId(), name: 'Group' }
    case 19:
      return { type: 'ungroup', layer: layer.id }
    case 20: {
      const groups = [null, ...layers.filter((l) => l.source.type === 'group').map((l) => l.id)]
      return { type: 'move-layers', layers: [layer.id, layers[m % Math.max(1, layers.length)]?.id ?? 'none'], list: groups[n % groups.length]!, index: m % 7 }
    }
    case 21:
      return { type: 'make-own', layer: layer.id, ids: Array.from({ length: 40 }, freshId) }
    case 22:
      return { type: 'duplicate-layer', layer: layer.id, live: true, ids: [freshId()] }
    case 23:
      return { type: 'set-layer', layer: layer.id, locked: m % 5 === 0, mark: m % 9 || null, folded: m % 2 === 0, followsBelow: n % 3 === 0 }
    case 24:
      return { type: 'remove-layers', layers: [layer.id, layers[m % Math.max(1, layers.length)]?.id ?? 'none'] }
    case 13:
      return { type: 'set-lamp', direction: (share - 0.5) * 1000, height: m * 4 }
    case 14:
      return { type: 'set-ppi', ppi: 1 + m * 30 }
    case 15:
      return { type: 'set-params', layer: layer.id, step: step?.id ?? 'none', params: step ? { ...stepById(step.step).sample } : {}, name: 'telling values' }
    case 16:
      return { type: 'set-fill', layer: layer.id, colour: '#203040', alpha: share }
    default:
      return { type: 'set-control', use: a.recipes[0]?.id ?? 'none', control: 'pencil', value: Math.round(share * 100) }
    case 25:
      return {
        type: 'place-layers',
        layers: [{ layer: layer.id, matrix: [0.1 + share, 0, m, share - 0.5, 1, n, 0, 0, 1], ...(m % 2 ? { pivot: m % 3 ? { x: m, y: n } : null } : {}) }],
        what: 'Move',
      }
    case 26:
      return { type: 'set-guides', guides: Array.from({ length: m % 4 }, (_, i) => ({ axis: i % 2 ? 'upright' : 'level', at: n * i })), what: 'Guides' }
    case 27:
      return {
        type: 'set-input',
        layer: layer.id,
        step: step?.id ?? 'none',
        input: 'picture',
        value: { type: 'layer', layer: layers[m % Math.max(1, layers.length)]?.id ?? 'none', steps: null },
      }
  }
}

const numbers = fc.array(fc.tuple(fc.nat(28), fc.nat(40), fc.nat(40), fc.double({ min: 0, max: 1, noNaN: true })), { minLength: 1, maxLength: 25 })

test('whatever is done can be undone to the beginning and done again to the end; every artwork on the way is valid', () => {
  fc.assert(
    fc.property(numbers, (moves) => {
      const start = sketch()
      const frozen = JSON.stringify(start)
      let h = startHistory(start)
      const seen = [h.artwork]
      for (const m of moves) {
        try {
          const next = record(h, someCommand(h.artwork, m))
          if (next !== h) seen.push(next.artwork)
          h = next
        } catch (error) {
          // refused with a name, nothing changed
          expect(error).toBeInstanceOf(QuillError)
        }
        expect(loadArtwork(JSON.parse(JSON.stringify(h.artwork)))).toEqual(h.artwork)
      }
      expect(h.done.length).toBe(seen.length - 1)
      for (let i = seen.length - 2; i >= 0; i--) {
        h = undo(h)
        expect(h.artwork).toEqual(seen[i])
      }
      expect(undo(h)).toBe(h)
      expect(JSON.stringify(start)).toBe(frozen)
      for (let i = 1; i < seen.length; i++) {
        h = redo(h)
        expect(h.artwork).toEqual(seen[i])
      }
      expect(redo(h)).toBe(h)
    }),
    { numRuns: 120 },
  )
})

test('a drag is one entry of the history', () => {
  const a = sketch()
  const layer = a.layers.at(-1)!
  let h = startHistory(a)
  for (const value of [0.9, 0.8, 0.7]) h = record(h, { type: 'set-param', layer: layer.id, step: layer.chain[0]!.id, param: 'midtone', value }, 'drag 1')
  h = record(h, { type: 'set-param', layer: layer.id, step: layer.chain[0]!.id, param: 'midtone', value: 0.5 }, 'drag 2')
  expect(h.done.map((e) => e.title)).toEqual(['Levels: Midtone to 0.7', 'Levels: Midtone to 0.5'])
  expect(undo(undo(h)).artwork).toEqual(a)
  expect(redo(undo(undo(h))).artwork.layers.at(-1)!.chain[0]!.params.midtone).toBe(0.7)
  // however long a drag, its entry stays small
  expect(h.done[0]!.patches).toHaveLength(2)
})

test('reordering keeps every step, in the wanted order', () => {
  fc.assert(
    fc.property(fc.integer({ min: 2, max: 8 }), fc.nat(), fc.nat(), (n, from, to) => {
      const a = artworkFromPhoto({ asset, width: 10, height: 10, title: 't' })
      const layer = a.layers[0]!
      layer.chain = Array.from({ length: n }, (_, i) => newStep('invert', {}, `s${i}`))
      const ids = layer.chain.map((s) => s.id)
      const [moved] = ids.splice(from % n, 1)
      ids.splice(to % n, 0, moved!)
      const next = perform(a, { type: 'move-step', layer: layer.id, step: moved!, toLayer: layer.id, index: to % n }).artwork
      expect(next.layers[0]!.chain.map((s) => s.id)).toEqual(ids)
    }),
  )
})

describe('commands refuse what makes no sense', () => {
  const code = (a: Artwork, c: Command) => {
    try {
      perform(a, c)
      return 'done'
    } catch (e) {
      return (e as QuillError).code
    }
  }
  const a = sketch()

  test('deleting a layer that another is made from', () => {
    expect(code(a, { type: 'remove-layer', layer: a.layers[0]!.id })).toBe('command-refused')
  })
  test('values out of range or of a wrong kind', () => {
    const [layer, step] = [a.layers[3]!.id, a.layers[3]!.chain[0]!.id]
    expect(code(a, { type: 'set-param', layer, step, param: 'midtone', value: 40 })).toBe('param-invalid')
    expect(code(a, { type: 'set-param', layer, step, param: 'glitter', value: 1 })).toBe('unknown-param')
    expect(code(a, { type: 'set-control', use: a.recipes[0]!.id, control: 'pencil', value: 400 })).toBe('param-invalid')
    expect(code(a, { type: 'set-control', use: a.recipes[0]!.id, control: 'wobble', value: 4 })).toBe('unknown-control')
  })
  test('a circle of live layers', () => {
    const two = { ...a, layers: [newLayer('A', { type: 'live', layer: 'b' }, [], 'a'), newLayer('B', { type: 'fill', colour: '#ffffff', alpha: 1 }, [], 'b')] }
    expect(code(two, { type: 'add-layer', index: 1, layer: newLayer('C', { type: 'live', layer: 'c' }, [], 'c') })).toBe('live-cycle')
  })
})

describe('a recipe’s controls', () => {
  test('drive their parameters; typing over one sets it free', () => {
    let h = startHistory(sketch())
    const use = h.artwork.recipes[0]!.id
    const layer = h.artwork.layers[1]!
    const sigma = () => h.artwork.layers[1]!.chain[1]!.params.sigma as { value: number }
    h = record(h, { type: 'set-control', use, control: 'pencil', value: 100 })
    expect(sigma()).toEqual({ value: 2.6, unit: '%' })
    h = record(h, { type: 'set-param', layer: layer.id, step: layer.chain[1]!.id, param: 'sigma', value: { value: 9, unit: 'px' } })
    h = record(h, { type: 'set-control', use, control: 'pencil', value: 0 })
    expect(sigma()).toEqual({ value: 9, unit: 'px' })
    h = undo(undo(h))
    h = record(h, { type: 'set-control', use, control: 'pencil', value: 0 })
    expect(sigma()).toEqual({ value: 0.1, unit: '%' })
  })

  test('let go of what is deleted; a recipe that drives nothing is forgotten', () => {
    let a = sketch()
    for (const id of [a.layers[3]!.id, a.layers[2]!.id, a.layers[1]!.id, a.layers[0]!.id]) a = perform(a, { type: 'remove-layer', layer: id }).artwork
    expect(a.recipes).toEqual([])
    expect(a.layers).toEqual([])
  })
})

test('several values of a step in one edit; a wrong one changes nothing', () => {
  const a = artworkFromPhoto({ asset: 'a'.repeat(64), width: 30, height: 20, title: 't' })
  a.layers[0]!.chain = [newStep('levels', {}, 's')]
  const layer = a.layers[0]!.id
  const { artwork, edit } = perform(a, { type: 'set-params', layer, step: 's', params: { black: 10, midtone: 2 }, name: 'two values' })
  expect(artwork.layers[0]!.chain[0]!.params).toMatchObject({ black: 10, midtone: 2, white: 255 })
  expect(edit.title).toBe('Levels: two values')
  expect(() => perform(a, { type: 'set-params', layer, step: 's', params: { black: 10, midtone: 99 }, name: 'x' })).toThrow('midtone')
})

test('the lamp turns round and stands between the rim and overhead; the resolution is a number of pixels an inch', () => {
  const a = artworkFromPhoto({ asset: 'a'.repeat(64), width: 30, height: 20, title: 't' })
  const lamp = (direction: number, height: number) => perform(a, { type: 'set-lamp', direction, height }).artwork.lamp
  expect(lamp(190, 40)).toEqual({ direction: -170, height: 40 })
  expect(lamp(-540, 0)).toEqual({ direction: -180, height: 5 })
  expect(lamp(10, 300).height).toBe(90)
  expect(() => lamp(Number.NaN, 40)).toThrow('left where it was')
  const { artwork, edit } = perform(a, { type: 'set-ppi', ppi: 150 })
  expect(artwork.sheet).toEqual({ ...a.sheet, ppi: 150, sized: true })
  expect(edit.title).toBe('Sheet at 150 ppi')
  for (const ppi of [0, -3, 20000, Number.NaN]) expect(() => perform(a, { type: 'set-ppi', ppi })).toThrow('pixels per inch')
})

test('a tonal span is held to the scale, and taken off again', () => {
  const a = artworkFromPhoto({ asset: 'a'.repeat(64), width: 30, height: 20, title: 't' })
  a.layers[0]!.chain = [newStep('invert', {}, 's')]
  const layer = a.layers[0]!.id
  const on = perform(a, { type: 'set-step', layer, step: 's', span: { low: 0.8, high: 0.2, softLow: -1, softHigh: 3 } })
  expect(on.artwork.layers[0]!.chain[0]!.span).toEqual({ low: 0.8, high: 0.8, softLow: 0, softHigh: 1 })
  expect(on.edit.title).toBe('Tonal span of Invert')
  expect(perform(on.artwork, { type: 'set-step', layer, step: 's', span: null }).artwork.layers[0]!.chain[0]!.span).toBeNull()
  expect(perform(a, { type: 'set-layer', layer, span: { low: 0, high: 1, softLow: 0, softHigh: 0 } }).edit.title).toBe('Tonal span of “Photo”')
})

test('the colour of a fill, and of nothing else', () => {
  const a = artworkFromPhoto({ asset: 'a'.repeat(64), width: 30, height: 20, title: 't' })
  a.layers.push(newLayer('Fill', { type: 'fill', colour: '#ffffff', alpha: 1 }, [], 'f'))
  const { artwork } = perform(a, { type: 'set-fill', layer: 'f', colour: '#102030', alpha: 2 })
  expect(artwork.layers[1]!.source).toEqual({ type: 'fill', colour: '#102030', alpha: 1 })
  expect(() => perform(a, { type: 'set-fill', layer: 'f', colour: 'red', alpha: 1 })).toThrow('#rrggbb')
  expect(() => perform(a, { type: 'set-fill', layer: a.layers[0]!.id, colour: '#102030', alpha: 1 })).toThrow('not a fill')
})

test('steps take another order in the places that they have between the others; undone they are as they were', () => {
  const a = artworkFromPhoto({ asset: 'a'.repeat(64), width: 30, height: 20, title: 't' })
  a.layers[0]!.chain = ['levels', 'invert', 'threshold', 'posterize'].map((s) => newStep(s, {}, s))
  const { artwork, edit } = perform(a, { type: 'order-steps', layer: a.layers[0]!.id, steps: ['posterize', 'levels', 'invert'] })
  expect(artwork.layers[0]!.chain.map((s) => s.id)).toEqual(['posterize', 'levels', 'threshold', 'invert'])
  expect(applyEdit(artwork, edit.inverse)).toEqual(a)
  expect(() => perform(a, { type: 'order-steps', layer: a.layers[0]!.id, steps: ['gone', 'levels'] })).toThrow(/no step/)
})

test('back to a kept state: all but the title, and forward again', () => {
  const a = artworkFromPhoto({ asset: 'a'.repeat(64), width: 30, height: 20, title: 'Now' })
  const kept = { ...structuredClone(a), title: 'Then', layers: [{ ...structuredClone(a.layers[0]!), name: 'Older' }] }
  const { artwork, edit } = perform(a, { type: 'restore-state', state: kept, name: 'Flat' })
  expect(artwork).toEqual({ ...kept, title: 'Now' })
  expect(edit.title).toBe('Back to “Flat”')
  expect(applyEdit(artwork, edit.inverse)).toEqual(a)
})
