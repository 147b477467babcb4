import { recipes } from '../recipes/registry.ts'
import { areaMask, groupInArea, withinArea } from './area-mask.ts'
import { perform } from './commands.ts'
import { resizeArtwork } from './framing.ts'
import { instantiate } from './recipe.ts'
import { newLayer, newStep } from './layers.ts'
import { artworkFromPhoto } from './load.ts'
import { paintedPlaces, placesOnSheet } from './framing.ts'
import { AREA, planeAt, planesOf } from './planes.ts'
import type { Artwork } from './schema.ts'

const plane = { index: 'a'.repeat(64), channels: 1 as const }
const other = { index: 'b'.repeat(64), channels: 1 as const }
const fresh = (): Artwork => ({ ...artworkFromPhoto({ asset: 'c'.repeat(64), width: 80, height: 60, title: 't' }), area: plane })

it('a new step acts in the area', () => {
  const a = fresh()
  const { id } = a.layers[0]!
  const use = withinArea(a, id, newStep('invert'))
  expect(use.mask).toMatchObject({ plane, start: 'empty', stays: false })
  const { artwork } = perform(a, { type: 'add-step', layer: id, index: 0, step: use })
  expect(artwork.layers[0]!.chain[0]!.mask).toMatchObject({ plane })
  expect(withinArea({ ...a, area: null }, id, newStep('invert')).mask).toBeNull()
})

it('on a layer that lies elsewhere it stays on the sheet; in a group that does it is left out', () => {
  const a = structuredClone(fresh())
  a.layers[0]!.placement.matrix = [1, 0, 9, 0, 1, 0, 0, 0, 1]
  expect(areaMask(a, a.layers[0]!.id)).toMatchObject({ stays: true })
  const group = newLayer('g', { type: 'group', isolated: true, layers: a.layers }, [], 'g')
  group.placement = { matrix: [2, 0, 0, 0, 2, 0, 0, 0, 1], pivot: null }
  expect(areaMask({ ...a, layers: [group] }, a.layers[0]!.id)).toBeNull()
})

it('a recipe shows in the area alone', () => {
  const a = fresh()
  const recipe = instantiate(recipes[0]!, a.layers[0]!.source as never)
  const { artwork } = perform(a, { type: 'apply-recipe', ...recipe, replace: false, group: 'g', mask: groupInArea(a) })
  expect(artwork.layers.at(-1)).toMatchObject({ id: 'g', mask: { plane, start: 'empty' } })
  expect(groupInArea({ ...a, area: null })).toBeNull()
})

it('an area is named in the document, undone, kept by name, and brought along', () => {
  const { area: _, ...none } = fresh()
  const taken = perform(none as Artwork, { type: 'paint', at: AREA, plane, what: 'Area, an ellipse' })
  expect(taken.artwork.area).toEqual(plane)
  expect(taken.edit.title).toBe('Area, an ellipse')
  const kept = perform(taken.artwork, { type: 'set-areas', areas: [{ id: 'k', name: ' Sky ', plane: other }], what: 'Keep an area' }).artwork
  expect(kept.areas[0]!.name).toBe('Sky')
  expect(planesOf(kept).map((p) => p.index)).toEqual([plane.index, other.index])
  expect(paintedPlaces(kept)).toEqual([AREA, { ...AREA, layer: 'k' }])
  expect(placesOnSheet(kept)).toEqual(paintedPlaces(kept))
  const gone = perform(kept, { type: 'paint', at: AREA, plane: null, what: 'Let the area go' }).artwork
  expect('area' in gone).toBe(false)
  expect(() => perform(kept, { type: 'set-areas', areas: [{ id: 'k', name: '  ', plane }], what: '' })).toThrow('kept by a name')

  const draft = structuredClone(kept)
  const scaled = { index: 'd'.repeat(64), channels: 1 as const }
  expect(() => resizeArtwork(structuredClone(kept), 160, [{ at: AREA, plane: scaled }])).toThrow('brought along')
  resizeArtwork(draft, 160, [
    { at: AREA, plane: scaled },
    { at: { ...AREA, layer: 'k' }, plane: scaled },
  ])
  expect([draft.area, planeAt(draft, { ...AREA, layer: 'k' })!.plane]).toEqual([scaled, scaled])
})
