import { artworkFromPhoto, instantiate, newStep, recipeById } from '@nimble-quill/core'
import { bench, choose, command, open, redone, tryOut, undone } from './slice.ts'

const asset = 'a'.repeat(64)
function opened() {
  const a = artworkFromPhoto({ asset, width: 60, height: 40, title: 'A' })
  const { layers, use } = instantiate(recipeById('graphite'), a.layers[0]!.source)
  return bench.reducer(undefined, open({ id: '1', revision: 3, artwork: { ...a, layers, recipes: [use] }, picker: false, unsaved: false }))
}

test('commands change the artwork, mark it unsaved, and can be undone and redone', () => {
  let s = opened()
  const start = s.history!.artwork
  const layer = start.layers[0]!
  s = bench.reducer(s, command({ command: { type: 'add-step', layer: layer.id, index: 1, step: newStep('invert') } }))
  expect(s.history!.artwork.layers[0]!.chain.map((x) => x.step)).toEqual(['masses', 'invert', 'black-white', 'gaussian-blur'])
  expect(s.save.state).toBe('unsaved')
  expect(s.history!.done.at(-1)!.title).toBe('Add Invert')
  s = bench.reducer(s, undone())
  expect(s.history!.artwork).toEqual(start)
  s = bench.reducer(s, redone())
  expect(s.history!.artwork.layers[0]!.chain).toHaveLength(4)
})

test('a refused command changes nothing and leaves its reason', () => {
  const s = opened()
  const next = bench.reducer(s, command({ command: { type: 'remove-layer', layer: s.history!.artwork.layers[0]!.id } }))
  expect(next.history).toBe(s.history)
  expect(next.refusal).toContain('is made from it, live')
})

test('the choice moves to the layer when its step is deleted', () => {
  let s = opened()
  const layer = s.history!.artwork.layers[1]!
  s = bench.reducer(s, choose({ type: 'step', layer: layer.id, step: layer.chain[0]!.id }))
  s = bench.reducer(s, command({ command: { type: 'remove-step', layer: layer.id, step: layer.chain[0]!.id } }))
  expect(s.choice).toEqual({ type: 'layer', layer: layer.id })
})

test('trying shows what would be, and leaves the artwork', () => {
  const s = opened()
  const layer = s.history!.artwork.layers[0]!
  const tried = bench.reducer(s, tryOut({ type: 'add-step', layer: layer.id, index: 0, step: newStep('invert') }))
  expect(tried.tried!.layers[0]!.chain).toHaveLength(4)
  expect(tried.history).toBe(s.history)
  expect(bench.reducer(tried, tryOut(null)).tried).toBeNull()
})
