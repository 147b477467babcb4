import { perform } from '../artwork/commands.ts'
import { withInputs } from '../artwork/inputs.ts'
import { newLayer, newStep } from '../artwork/layers.ts'
import { artworkFromPhoto, loadArtwork } from '../artwork/load.ts'
import type { Artwork, Layer, StepUse } from '../artwork/schema.ts'
import { atLevel } from '../base/region.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, newTestEngine, stripGrid, testPicture } from '../testing/pictures.ts'

// Steps that read other pictures: layers, or what they were after one of their steps.

const [W, H] = [120, 90]
const [a1, a2] = ['a'.repeat(64), 'b'.repeat(64)]
let kernels: Kernels
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, a1, { width: W, height: H, channels: 3, depth: 8 }, testPicture(W, H, 3, 4))
  await sources.add(kernels, a2, { width: W, height: H, channels: 3, depth: 8 }, testPicture(W, H, 3, 9))
})

const photo = (id: string, asset: string, chain: StepUse[] = [], more: Partial<Layer> = {}): Layer => ({
  ...newLayer(id, { type: 'photo', asset, width: W, height: H }, chain, id),
  ...more,
})
const artwork = (layers: Layer[]): Artwork => ({ ...artworkFromPhoto({ asset: a1, width: W, height: H, title: 't' }), layers })
const shown = async (layers: Layer[], more: Parameters<typeof compute>[2] = {}) =>
  (await compute(newTestEngine(kernels, sources), artwork(layers), more)).pixels
const mix = (layer: string, more: Partial<StepUse> = {}, steps: number | null = null): StepUse => ({
  ...newStep('mix-in', {}, 'm'),
  inputs: { picture: { type: 'layer', layer, steps } },
  ...more,
})
const furthest = (a: Uint16Array, b: Uint16Array) => a.reduce((m, v, i) => Math.max(m, Math.abs(v - b[i]!)), 0)
const hidden = { visible: false }

test('mixed in by the step’s own blend mode and opacity: as a layer over it would be', async () => {
  for (const [blend, opacity] of [
    ['normal', 0.4],
    ['soft-light', 0.5],
    ['multiply', 1],
    ['difference', 0.7],
  ] as const) {
    const got = await shown([photo('b', a2, [], hidden), photo('a', a1, [mix('b', { blend, opacity })])])
    const want = await shown([photo('a', a1), photo('b', a2, [], { blend, opacity })])
    expect(furthest(got, want)).toBeLessThanOrEqual(2)
  }
})

test('live, whether that layer is shown or not; what it was after one of its steps; where it lies by itself', async () => {
  const chain = [newStep('invert', {}, 'i'), newStep('threshold', {}, 't')]
  const whole = await shown([photo('b', a2, chain, hidden), photo('a', a1, [mix('b')])])
  expect(furthest(whole, await shown([photo('b', a2, chain)]))).toBe(0)
  const after = await shown([photo('b', a2, chain, hidden), photo('a', a1, [mix('b', {}, 1)])])
  expect(furthest(after, await shown([photo('b', a2, [chain[0]!])]))).toBe(0)
  const moved = { placement: { matrix: [1, 0, 30, 0, 1, 0, 0, 0, 1] as Layer['placement']['matrix'], pivot: null } }
  expect(furthest(await shown([photo('b', a2, chain, { ...hidden, ...moved }), photo('a', a1, [mix('b')])]), whole)).toBe(0)
  // none chosen changes nothing
  expect(furthest(await shown([photo('a', a1, [newStep('mix-in', {}, 'm')])]), await shown([photo('a', a1)]))).toBe(0)
})

test('strips, tiles, little memory and each level: the same bits', async () => {
  const layers = [
    photo('b', a2, [newStep('gaussian-blur', { sigma: { value: 3, unit: 'px' } }, 'g')], hidden),
    photo('a', a1, [newStep('invert', {}, 'i'), mix('b', { blend: 'overlay', opacity: 0.6 })]),
  ]
  for (const level of [0, 1, 2]) {
    const whole = await shown(layers, { level })
    for (const grid of [stripGrid(9), { w: 32, h: 32 }])
      expect(furthest(await shown(layers, { level, grid, region: atLevel(artwork(layers).sheet, level) }), whole)).toBe(0)
  }
  expect(furthest((await compute(newTestEngine(kernels, sources, 60_000), artwork(layers))).pixels, await shown(layers))).toBe(0)
})

test('chosen by a command, undoable by name; circles and names that are none are told', () => {
  const a = artwork([photo('b', a2), photo('a', a1, [newStep('mix-in', {}, 'm')])])
  const done = perform(a, { type: 'set-input', layer: 'a', step: 'm', input: 'picture', value: { type: 'layer', layer: 'b', steps: null } })
  expect(done.edit.title).toBe('Picture of Mix in')
  expect(done.artwork.layers[1]!.chain[0]!.inputs).toEqual({ picture: { type: 'layer', layer: 'b', steps: null } })
  expect(loadArtwork(JSON.parse(JSON.stringify(done.artwork)))).toEqual(done.artwork)
  expect(perform(done.artwork, { type: 'set-input', layer: 'a', step: 'm', input: 'picture', value: null }).artwork.layers[1]!.chain[0]!.inputs).toEqual({})
  const circle = { ...done.artwork, layers: [photo('b', a2, [newStep('mix-in', {}, 'n')]), done.artwork.layers[1]!] }
  expect(() => perform(circle, { type: 'set-input', layer: 'b', step: 'n', input: 'picture', value: { type: 'layer', layer: 'a', steps: null } })).toThrow(
    /circle/,
  )
  expect(() => perform(a, { type: 'set-input', layer: 'a', step: 'm', input: 'glitter', value: null })).toThrow(/no picture called/)
  expect(() => perform(a, { type: 'set-input', layer: 'a', step: 'm', input: 'picture', value: { type: 'layer', layer: 'gone', steps: null } })).toThrow(
    /no layer/,
  )
  // a layer that is mixed in somewhere is not deleted under it
  expect(() => perform(done.artwork, { type: 'remove-layer', layer: 'b' })).toThrow(/made from it/)
})

test('put in by hand it reads the nearest layer that is not made of this one', () => {
  const use = newStep('mix-in', {}, 'm')
  const layers = [photo('low', a2), photo('a', a1), { ...newLayer('copy', { type: 'live' as const, layer: 'a' }, [], 'copy') }]
  expect(withInputs(artwork(layers), 'a', use).inputs).toEqual({ picture: { type: 'layer', layer: 'low', steps: null } })
  expect(withInputs(artwork(layers.slice(1)), 'a', use).inputs).toEqual({})
  expect(withInputs(artwork(layers), 'a', newStep('invert')).inputs).toEqual({})
})
