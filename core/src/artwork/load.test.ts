import { QuillError } from '../base/errors.ts'
import { allLayers, newStep } from './layers.ts'
import { artworkFromPhoto, loadArtwork, loadRecipe } from './load.ts'
import { recipes } from '../recipes/registry.ts'

const good = () => {
  const a = artworkFromPhoto({ asset: 'f'.repeat(64), width: 30, height: 20, title: 'A' })
  a.layers[0]!.chain.push(newStep('levels'))
  return JSON.parse(JSON.stringify(a)) as Record<string, never> & { layers: { chain: { step: string; version: number; params: Record<string, unknown> }[] }[] }
}
const failure = (json: unknown): QuillError => {
  try {
    loadArtwork(json)
  } catch (e) {
    return e as QuillError
  }
  throw new Error('was taken')
}

test('what is not an artwork, or not a whole one, is told so', () => {
  for (const json of [null, 7, 'x', {}, { format: 'other' }]) expect(failure(json).code).toBe('artwork-invalid')
  expect(failure({ ...good(), sheet: { x: 0, y: 0, w: 0, h: 5, ppi: 300, sized: true } }).message).toContain('sheet.w')
  expect(failure({ ...good(), extra: 1 }).code).toBe('artwork-invalid')
})

test('a later version is refused politely, an unknown step named with what there is', () => {
  const newer = failure({ ...good(), version: 99 })
  expect(newer.code).toBe('artwork-newer')
  expect(newer.message).toMatch(/later version.*Nothing has been changed/s)
  const a = good()
  a.layers[0]!.chain[0]!.step = 'sparkle'
  expect(failure(a).message).toContain('gaussian-blur')
  const b = good()
  b.layers[0]!.chain[0]!.version = 7
  expect(failure(b).code).toBe('unknown-step-version')
})

test('parameters are checked one by one, missing ones get their defaults', () => {
  const a = good()
  a.layers[0]!.chain[0]!.params = { black: 300 }
  expect(failure(a).code).toBe('param-invalid')
  const b = good()
  b.layers[0]!.chain[0]!.params = { glow: 1 }
  expect(failure(b).code).toBe('unknown-param')
  const c = good()
  c.layers[0]!.chain[0]!.params = { black: 20 }
  expect(loadArtwork(c).layers[0]!.chain[0]!.params).toMatchObject({ black: 20, white: 255, midtone: 1 })
})

test.each(recipes.map((r) => [r.id, r] as const))('recipe %s is valid, and its controls drive what is there', (_, recipe) => {
  expect(loadRecipe(JSON.parse(JSON.stringify(recipe)))).toEqual(recipe)
  for (const c of recipe.controls) {
    for (const d of c.drives) {
      const layer = [...allLayers(recipe.layers)].find((l) => l.id === d.layer)
      expect(layer).toBeDefined()
      if (d.step !== null) expect(layer!.chain.find((s) => s.id === d.step)?.params).toHaveProperty(d.param)
      if (d.choose && c.kind.type === 'choice') expect(Object.keys(d.choose).sort()).toEqual(c.kind.options.map((o) => o.value).sort())
    }
  }
})
