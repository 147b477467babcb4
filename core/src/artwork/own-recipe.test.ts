import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { recipeById } from '../recipes/registry.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, newTestEngine, testPicture } from '../testing/pictures.ts'
import { newLayer, newStep } from './layers.ts'
import { artworkFromPhoto, loadRecipe } from './load.ts'
import { choosableOf, ownRecipe, type Chosen } from './own-recipe.ts'
import { newPanels, turnedHues } from './panels.ts'
import { newMask } from './planes.ts'
import { instantiate, madeBy } from './recipe.ts'
import type { Artwork } from './schema.ts'

const asset = 'e5'.repeat(32)
let kernels: Kernels
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: 160, height: 120, channels: 3, depth: 8 }, testPicture(160, 120, 3))
})
const photo = () => artworkFromPhoto({ asset, width: 160, height: 120, title: 't' })
function drawn(): Artwork {
  const a = photo()
  const ways = turnedHues(3)
  a.colourways = [...ways, ...turnedHues(2)]
  a.layers = [
    {
      ...a.layers[0]!,
      id: 'photo',
      chain: [newStep('gaussian-blur', { sigma: { value: 1.6, unit: 'px' } }, 'blur'), newStep('posterize', { tones: 5 }, 'flat')],
    },
    newLayer('Warm', { type: 'fill', colour: '#f0d0a0', alpha: 1 }, [], 'warm'),
    newLayer(
      'Panels',
      newPanels(
        'photo',
        2,
        2,
        ways.map((c) => c.id),
        { x: 0, y: 0, w: 160, h: 120 },
      ),
      [],
      'panels',
    ),
  ]
  a.layers[1]!.blend = 'multiply'
  return a
}
const given = (controls: Chosen[] = []) => ({ title: 'Marsh panels', help: '', controls })
const blur: Chosen = { layer: 'photo', step: 'blur', param: 'sigma', title: 'Softness', help: 'How soft.', ends: { low: 0, high: 4 } }
const pixelsOf = async (a: Artwork) => (await compute(newTestEngine(kernels, sources), a, { level: 0 })).pixels

test('put on the photo that it was made of, it gives the very same picture', async () => {
  const recipe = ownRecipe(drawn(), given([blur]))
  const again = madeBy(photo(), recipe)
  expect(await pixelsOf(again)).toEqual(await pixelsOf(drawn()))
})

test('out and in again is the identity; the photo is left open, unused colourways stay behind', () => {
  const recipe = ownRecipe(drawn(), given([blur]))
  expect(loadRecipe(JSON.parse(JSON.stringify(recipe)))).toEqual(recipe)
  expect(recipe).toMatchObject({ id: 'marsh-panels', title: 'Marsh panels', edition: 1 })
  expect(recipe.layers[0]!.source).toEqual({ type: 'open-photo' })
  expect(recipe.colourways).toHaveLength(3)
})

test('lengths in pixels become shares: on a larger photo they are longer', () => {
  const recipe = ownRecipe(drawn(), given())
  // 1.6 of 160 pixels
  expect(recipe.layers[0]!.chain[0]!.params['sigma']).toEqual({ value: 1, unit: '%' })
})

test('a number becomes a dial between its ends, its default what the artwork has; another value is taken whole', () => {
  const recipe = ownRecipe(
    drawn(),
    given([
      blur,
      { layer: 'photo', step: 'flat', param: 'by', title: 'Plates', help: '' },
      { layer: 'warm', step: null, param: 'opacity', title: 'Warmth', help: '', ends: { low: 0, high: 1 } },
    ]),
  )
  expect(recipe.controls.map((c) => [c.title, c.kind.type, c.default])).toEqual([
    ['Softness', 'number', 25],
    ['Plates', 'value', 'luminance'],
    ['Warmth', 'number', 100],
  ])
  const { layers } = instantiate(recipe, { type: 'open-photo' }, { 'own-1': 50, 'own-2': 'channels', 'own-3': 20 })
  expect(layers[0]!.chain[0]!.params['sigma']).toEqual({ value: 2, unit: '%' })
  expect(layers[0]!.chain[1]!.params['by']).toBe('channels')
  expect(layers[1]!.opacity).toBeCloseTo(0.2)
})

test('what is painted stays behind, the masks stay', () => {
  const a = drawn()
  a.layers[0]!.mask = { ...newMask('empty'), plane: { index: 'f'.repeat(64), channels: 1 } }
  a.layers.push(newLayer('Paint', { type: 'paint', plane: { index: 'f'.repeat(64), channels: 4 } }))
  const recipe = ownRecipe(a, given())
  expect(JSON.stringify(recipe)).not.toContain('f'.repeat(64))
  expect(recipe.layers[0]!.mask).toMatchObject({ plane: null, start: 'empty' })
})

test('controls of the recipe it was made with are kept where that is wished', () => {
  const a = madeBy(photo(), recipeById('graphite'), { darkness: 70 })
  const recipe = ownRecipe(a, { ...given(), keep: true })
  expect(recipe.controls.map((c) => c.title)).toEqual(recipeById('graphite').controls.map((c) => c.title))
  expect(recipe.controls.find((c) => c.id.endsWith('darkness'))!.default).toBe(70)
})

test.each([
  [{ ...given(), title: '  ' }, /needs a title/],
  [given([{ ...blur, step: 'gone' }]), /no step/],
  [given([{ ...blur, param: 'glow' }]), /drives nothing/],
  [given([{ ...blur, ends: { low: 2, high: 2 } }]), /drives nothing: its ends are the same/],
  [given(Array.from({ length: 13 }, () => blur)), /at most 12 controls/],
])('what cannot be is told in a sentence (%#)', (wanted, message) => {
  expect(() => ownRecipe(drawn(), wanted)).toThrow(message)
})

test('an artwork without a photo makes no recipe', () => {
  const a = drawn()
  a.layers = [a.layers[1]!]
  expect(() => ownRecipe(a, given())).toThrow(/has none/)
})

test('every value that could become a control is offered with its range, the top layer first', () => {
  const all = choosableOf(drawn())
  expect(all[0]).toMatchObject({ layer: 'panels', param: 'opacity' })
  expect(all.find((c) => c.step === 'blur')).toMatchObject({ where: 'Photo · Gaussian blur', number: { value: 1, unit: '%' } })
  expect(all.find((c) => c.param === 'by')!.number).toBeNull()
})
