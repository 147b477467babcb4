import { newLayer, type Layer } from '@nimble-quill/core'
import { entriesOf, placeAbove, stepped } from './entries.ts'

const fill = (id: string, more: Partial<Layer> = {}): Layer => ({ ...newLayer(id, { type: 'fill', colour: '#ffffff', alpha: 1 }, [], id), ...more })
const group = (id: string, layers: Layer[], more: Partial<Layer> = {}): Layer => ({
  ...newLayer(id, { type: 'group', isolated: false, layers }, [], id),
  ...more,
})
const layers = [fill('a'), group('g', [fill('b'), group('h', [fill('c')], { folded: true }), fill('d', { followsBelow: true })]), fill('e')]
const rows = entriesOf(layers)
const entry = (id: string) => rows.find((e) => e.layer.id === id)!

test('rows stand from the top down, those of groups under their own, folded ones closed', () => {
  expect(rows.map((e) => `${e.layer.id}${e.depth}`)).toEqual(['e0', 'g0', 'd1', 'h1', 'b1', 'a0'])
  expect(entry('d')).toMatchObject({ group: 'g', index: 2, of: 3, follows: true })
  // the lowest of a list follows nothing
  expect(entriesOf([fill('x', { followsBelow: true })])[0]!.follows).toBe(false)
})

test('a key moves a row within its list, and at the end out of its group', () => {
  const up = (id: string) => stepped(rows, entry(id), true)
  const down = (id: string) => stepped(rows, entry(id), false)
  expect(up('a')).toEqual({ layers: ['a'], list: null, index: 2 })
  expect(down('e')).toEqual({ layers: ['e'], list: null, index: 1 })
  expect(up('d')).toEqual({ layers: ['d'], list: null, index: 2 })
  expect(down('b')).toEqual({ layers: ['b'], list: null, index: 1 })
  expect([up('e'), down('a')]).toEqual([null, null])
})

test('a new layer stands above the chosen one, or on top in an unfolded group', () => {
  expect(placeAbove(layers, 'a')).toEqual({ list: null, index: 1 })
  expect(placeAbove(layers, 'b')).toEqual({ list: 'g', index: 1 })
  expect(placeAbove(layers, 'g')).toEqual({ list: 'g', index: 3 })
  expect(placeAbove(layers, 'h')).toEqual({ list: 'g', index: 2 })
  expect(placeAbove(layers, 'gone')).toEqual({ list: null, index: 3 })
})
