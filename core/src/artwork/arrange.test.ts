import type { QuillError } from '../base/errors.ts'
import { perform, type Command } from './commands.ts'
import { applyEdit } from './commands.ts'
import { allLayers, newLayer, newStep } from './layers.ts'
import { artworkFromPhoto } from './load.ts'
import { newMask } from './planes.ts'
import { instantiate } from './recipe.ts'
import { recipes } from '../recipes/registry.ts'
import type { Artwork, Layer } from './schema.ts'

const asset = 'e'.repeat(64)
const photo = (id: string, more: Partial<Layer> = {}): Layer => ({
  ...newLayer(id.toUpperCase(), { type: 'photo', asset, width: 30, height: 20 }, [newStep('invert', {}, `${id}-s`)], id),
  ...more,
})
const group = (id: string, layers: Layer[], more: Partial<Layer> = {}): Layer => ({
  ...newLayer(id.toUpperCase(), { type: 'group', isolated: false, layers }, [], id),
  ...more,
})
const artwork = (...layers: Layer[]): Artwork => ({ ...artworkFromPhoto({ asset, width: 30, height: 20, title: 't' }), layers })
const done = (a: Artwork, c: Command): Artwork => {
  const { artwork: next, edit } = perform(a, c)
  expect(applyEdit(next, edit.inverse)).toEqual(a)
  expect(edit.title).toMatch(/^[A-Z“]/)
  return next
}
const tree = (layers: readonly Layer[]): unknown[] => layers.map((l) => (l.source.type === 'group' ? [l.id, ...tree(l.source.layers)] : l.id))
const refused = (a: Artwork, c: Command): string => {
  try {
    perform(a, c)
  } catch (e) {
    expect((e as QuillError).code).toMatch(/command-refused|live-cycle|artwork-too-large/)
    return (e as Error).message
  }
  throw new Error('it was done')
}

test('layers are moved into groups, out of them, among each other, several at once in their order', () => {
  const a = artwork(photo('a'), group('g', [photo('b'), photo('c')]), photo('d'))
  expect(tree(done(a, { type: 'move-layers', layers: ['a'], list: 'g', index: 1 }).layers)).toEqual([['g', 'b', 'a', 'c'], 'd'])
  expect(tree(done(a, { type: 'move-layers', layers: ['c', 'b'], list: null, index: 0 }).layers)).toEqual(['b', 'c', 'a', ['g'], 'd'])
  // counted while they are still there
  expect(tree(done(a, { type: 'move-layers', layers: ['a'], list: null, index: 2 }).layers)).toEqual([['g', 'b', 'c'], 'a', 'd'])
  expect(tree(done(a, { type: 'move-layers', layers: ['d', 'a'], list: 'g', index: 9 }).layers)).toEqual([['g', 'b', 'c', 'a', 'd']])
  // a group takes what it holds with it, once
  expect(tree(done(a, { type: 'move-layers', layers: ['g', 'b'], list: null, index: 3 }).layers)).toEqual(['a', 'd', ['g', 'b', 'c']])
})

test('a group is not put into itself, nor deeper than documents go', () => {
  const a = artwork(group('g', [group('h', [photo('b')])]))
  expect(refused(a, { type: 'move-layers', layers: ['g'], list: 'h', index: 0 })).toMatch(/“H” cannot be put into itself/)
  expect(refused(a, { type: 'move-layers', layers: ['g'], list: 'g', index: 0 })).toMatch(/itself/)
  let deep = artwork(photo('p'))
  for (let i = 0; i < 15; i++) deep = perform(deep, { type: 'group-layers', layers: [deep.layers[0]!.id], group: `g${i}`, name: 'G' }).artwork
  expect(() =>
    perform(perform(deep, { type: 'group-layers', layers: ['g14'], group: 'x', name: 'G' }).artwork, {
      type: 'group-layers',
      layers: ['x'],
      group: 'y',
      name: 'G',
    }),
  ).toThrow(/deep/)
})

test('layers side by side are grouped where the highest stood, and ungrouped back', () => {
  const a = artwork(photo('a'), photo('b'), photo('c'), photo('d'))
  const grouped = done(a, { type: 'group-layers', layers: ['c', 'b'], group: 'g', name: 'Faces' })
  expect(tree(grouped.layers)).toEqual(['a', ['g', 'b', 'c'], 'd'])
  expect(grouped.layers[1]).toMatchObject({ name: 'Faces', source: { isolated: false } })
  const back = done(grouped, { type: 'ungroup', layer: 'g' })
  expect(back.layers).toEqual(a.layers)
  expect(refused(a, { type: 'ungroup', layer: 'a' })).toMatch(/not a group/)
  expect(refused(a, { type: 'group-layers', layers: [], group: 'g', name: 'x' })).toMatch(/Choose some/)
})

test('500 layers are an artwork, 501 are told', () => {
  const full = artwork(...Array.from({ length: 500 }, (_, i) => photo(`p${i}`, { chain: [] })))
  expect(refused(full, { type: 'duplicate-layer', layer: 'p0' })).toMatch(/at most 500 layers/)
  expect(refused(full, { type: 'add-layer', layer: photo('x'), index: 0 })).toMatch(/at most 500 layers/)
})

test('a live copy changes with what it was made from; made its own it does not', () => {
  const a = artwork(photo('a', { lightMap: { plane: null, strength: 0.5, span: null }, blend: 'multiply', opacity: 0.3 }))
  const live = done(a, { type: 'duplicate-layer', layer: 'a', live: true, ids: ['copy'] })
  expect(live.layers[1]).toMatchObject({ id: 'copy', name: 'A, live', source: { type: 'live', layer: 'a' }, chain: [] })
  const own = done(live, { type: 'make-own', layer: 'copy', ids: ['n1', 'n2'] })
  // what its chain makes, and nothing of how it was mixed
  expect(own.layers[1]).toMatchObject({ source: a.layers[0]!.source, lightMap: a.layers[0]!.lightMap, blend: 'normal', opacity: 1 })
  expect(own.layers[1]!.chain.map((s) => s.step)).toEqual(['invert'])
  expect(own.layers[1]!.chain[0]!.id).not.toBe('a-s')
  // with a light map of its own, over that of the original
  const both = { ...live, layers: [live.layers[0]!, { ...live.layers[1]!, lightMap: { plane: null, strength: 1, span: null } }] }
  expect(done(both, { type: 'make-own', layer: 'copy' }).layers[1]).toMatchObject({ lightMap: { strength: 1 }, source: { type: 'group', isolated: true } })
  expect(refused(a, { type: 'make-own', layer: 'a' })).toMatch(/its own already/)
  const below = artwork(photo('a'), newLayer('Below', { type: 'below' }, [], 'b'), newLayer('Copy', { type: 'live', layer: 'b' }, [], 'c'))
  expect(refused(below, { type: 'make-own', layer: 'c' })).toMatch(/“Copy” stays live: “Below” is made of what lies below it there/)
})

test('what others are made of live is not taken away from under them', () => {
  const a = artwork(group('g', [photo('a')]), newLayer('Copy', { type: 'live', layer: 'a' }, [], 'c'), newLayer('Mask', { type: 'below' }, [], 'm'))
  a.layers[2]!.mask = { ...newMask('full'), live: { layer: 'g', by: 'alpha' } }
  expect(refused(a, { type: 'remove-layer', layer: 'a' })).toMatch(/“A” cannot be deleted: “Copy” is made from it, live/)
  expect(refused(a, { type: 'remove-layers', layers: ['g'] })).toMatch(/made from it, live/)
  expect(refused(a, { type: 'ungroup', layer: 'g' })).toMatch(/“G” stays a group: “Mask”/)
  // together they may go
  expect(tree(done(a, { type: 'remove-layers', layers: ['g', 'c', 'm'] }).layers)).toEqual([])
})

test('what is locked is not changed, nor what a locked group holds; it may be shown, marked, folded, copied and unlocked', () => {
  const a = artwork(group('g', [photo('a')], { locked: true }), photo('b', { locked: true }), photo('c'))
  const changes: Command[] = [
    { type: 'set-layer', layer: 'b', opacity: 0.5 },
    { type: 'remove-layer', layer: 'b' },
    { type: 'add-step', layer: 'b', index: 0, step: newStep('invert') },
    { type: 'set-param', layer: 'b', step: 'b-s', param: 'x', value: 1 },
    { type: 'move-step', layer: 'c', step: 'c-s', toLayer: 'b', index: 0 },
    { type: 'set-mask', layer: 'b', step: null, mask: newMask('full') },
    { type: 'paint', at: { layer: 'b', step: null, part: 'mask' }, plane: null, what: 'Stroke' },
    { type: 'move-layers', layers: ['b', 'c'], list: null, index: 0 },
    { type: 'group-layers', layers: ['b', 'c'], group: 'x', name: 'x' },
  ]
  for (const c of changes) expect(refused(a, c)).toMatch(/“B” is locked.*unlock it first/)
  expect(refused(a, { type: 'set-layer', layer: 'a', blend: 'multiply' })).toMatch(/“A” is in “G”, which is locked/)
  expect(refused(a, { type: 'move-layers', layers: ['c'], list: 'g', index: 0 })).toMatch(/locked|left/)
  let b = a
  for (const c of [
    { type: 'set-layer', layer: 'b', visible: false },
    { type: 'set-layer', layer: 'b', mark: 3 },
    { type: 'set-layer', layer: 'g', folded: true },
    { type: 'duplicate-layer', layer: 'b' },
    { type: 'set-layer', layer: 'b', locked: false },
    { type: 'set-layer', layer: 'b', opacity: 0.5 },
  ] as Command[])
    b = done(b, c)
  expect([...allLayers(b.layers)].find((l) => l.id === 'b')).toMatchObject({ locked: false, opacity: 0.5, visible: false, mark: 3 })
  // the copy of a locked layer is not locked
  expect(b.layers[2]!.locked).toBe(false)
})

test('a control of a recipe does not reach into a locked layer', () => {
  const a = artwork(photo('a'))
  const { layers, use } = instantiate(recipes[0]!, a.layers[0]!.source)
  const drawn = { ...a, layers, recipes: [use] }
  const control = use.controls.find((c) => c.kind.type === 'number' && c.drives.length > 0)!
  const turn: Command = { type: 'set-control', use: use.id, control: control.id, value: 30 }
  expect(done(drawn, turn)).not.toEqual(drawn)
  const locked = perform(drawn, { type: 'set-layer', layer: control.drives[0]!.layer, locked: true }).artwork
  expect(refused(locked, turn)).toMatch(/is locked/)
})

test('merged layers leave one where the highest of them stood', () => {
  const a = artwork(photo('a'), group('g', [photo('b'), photo('c')]), photo('d'))
  const merged = newLayer('Merged', { type: 'paint', plane: null }, [], 'm')
  expect(tree(done(a, { type: 'merge-layers', layers: ['c', 'a'], layer: merged }).layers)).toEqual([['g', 'b', 'm'], 'd'])
  expect(tree(done(a, { type: 'merge-layers', layers: ['a', 'g', 'd'], layer: merged }).layers)).toEqual(['m'])
  const used = artwork(photo('a'), newLayer('Copy', { type: 'live', layer: 'a' }, [], 'c'))
  expect(refused(used, { type: 'merge-layers', layers: ['a'], layer: merged })).toMatch(/made from it, live/)
  expect(tree(done(used, { type: 'merge-layers', layers: ['a', 'c'], layer: merged }).layers)).toEqual(['m'])
})
