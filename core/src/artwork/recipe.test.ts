import { GraphCompiler } from '../engine/graph.ts'
import { walk } from '../engine/nodes.ts'
import type { Length } from '../steps/params/index.ts'
import { stepById } from '../steps/registry.ts'
import { allLayers, assetsOf, newStep } from './layers.ts'
import { artworkFromPhoto, loadArtwork, loadRecipe } from './load.ts'
import { madeBy } from './recipe.ts'
import { recipes } from '../recipes/registry.ts'
import type { Artwork, Recipe } from './schema.ts'

/** A recipe on a photo of this long side. */
function on(recipe: Recipe, width: number): Artwork {
  const a = artworkFromPhoto({ asset: String(width).padEnd(64, '0'), width, height: Math.round(width * 0.75), title: 't', ppi: 300 })
  return madeBy(a, recipe)
}
/** Every length of its steps, as stored. */
const stored = (a: Artwork): Length[] =>
  [...allLayers(a.layers)].flatMap((l) =>
    l.chain.flatMap((use) => Object.entries(stepById(use.step).params).flatMap(([name, spec]) => (spec.type === 'length' ? [use.params[name] as Length] : []))),
  )
/** The same in artwork pixels, as they are computed with, step by step. */
function resolved(a: Artwork): number[] {
  const found: number[] = []
  walk(new GraphCompiler(a, 'salt').compile({ type: 'artwork' }), (n) => {
    if (n.kind === 'step') for (const [name, spec] of Object.entries(n.def.params)) if (spec.type === 'length') found.push(n.params[name] as number)
    return true
  })
  return found
}

test.each(recipes.map((r) => [r.id, r] as const))(
  '%s on a photo is an artwork that can be saved and read, and its controls drive what is there',
  (_, recipe) => {
    const artwork = on(recipe, 1200)
    const read = loadArtwork(JSON.parse(JSON.stringify(artwork)))
    expect(read).toEqual(artwork)
    // put on twice, nothing is called alike either
    const twice = { ...artwork, layers: [...artwork.layers, ...on(recipe, 1200).layers] }
    expect(loadArtwork(JSON.parse(JSON.stringify(twice))).layers).toHaveLength(2 * artwork.layers.length)
    for (const control of artwork.recipes[0]!.controls) {
      expect(control.drives.length).toBeGreaterThan(0)
      for (const d of control.drives) {
        const layer = [...allLayers(artwork.layers)].find((l) => l.id === d.layer)!
        if (d.step === null) expect(d.param === 'opacity' || Object.keys(layer.source)).toEqual(d.param === 'opacity' || expect.arrayContaining([d.param]))
        else expect(Object.keys(stepById(layer.chain.find((s) => s.id === d.step)!.step).params).concat('opacity')).toContain(d.param)
      }
    }
  },
)

test('the files an artwork is made of: photos and the pictures of its steps, each once; none of a step that is not known', () => {
  const a = on(
    recipes.find((r) => r.id === 'wash-and-ink')!,
    1200,
  )
  const photo = a.layers.flatMap((l) => (l.source.type === 'photo' ? [l.source.asset] : []))[0]!
  const picture = { asset: 'c'.repeat(64), width: 10, height: 10 }
  a.layers[0]!.chain = [newStep('surface-relief', { kind: 'picture', picture }), newStep('surface-relief'), { ...newStep('invert'), step: 'sparkle' }]
  expect(assetsOf(a).sort()).toEqual([photo, picture.asset].sort())
})

describe('a recipe put on another photo', () => {
  test.each(recipes.map((r) => [r.id, r] as const))('%s: its lengths keep their values and units', (_, recipe) => {
    const [small, large] = [on(recipe, 1200), on(recipe, 4800)]
    expect(stored(small).length).toBeGreaterThan(0)
    expect(stored(large)).toEqual(stored(small))
  })

  test('per cent grow with the photo; pixels and millimetres stay what they are on the sheet', () => {
    const base = recipes.find((r) => r.id === 'graphite')!
    const blur = (unit: Length['unit'], value: number): Recipe => {
      const copy = structuredClone(base)
      copy.controls = []
      copy.layers = [copy.layers[0]!]
      copy.layers[0]!.chain = [newStep('gaussian-blur', { sigma: { value, unit } }, 'b')]
      // as it is kept in a file
      return loadRecipe(JSON.parse(JSON.stringify(copy)))
    }
    for (const [unit, value, grown] of [
      ['%', 0.5, 4],
      ['px', 6, 1],
      ['mm', 0.5, 1],
    ] as const) {
      const [small, large] = [on(blur(unit, value), 1200), on(blur(unit, value), 4800)]
      expect(stored(large)).toEqual([{ value, unit }])
      expect(resolved(large)[0]! / resolved(small)[0]!).toBeCloseTo(grown, 9)
    }
    // 0.5 mm at 300 ppi
    expect(resolved(on(blur('mm', 0.5), 1200))[0]).toBeCloseTo((0.5 / 25.4) * 300, 9)
  })
})
