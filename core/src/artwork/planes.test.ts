import { artworkFromPhoto } from './load.ts'
import { perform, applyEdit, type Command } from './commands.ts'
import { newLayer, newStep } from './layers.ts'
import { addressName, newMask, planeAt, planesOf } from './planes.ts'
import type { Artwork } from './schema.ts'

const index = 'e'.repeat(64)
const plane = { index, channels: 1 as const }

function artwork(): Artwork {
  const a = artworkFromPhoto({ asset: 'a'.repeat(64), width: 60, height: 40, title: 't' })
  a.layers[0]!.id = 'photo'
  a.layers[0]!.chain = [newStep('halftone', {}, 'screen')]
  a.layers.push(newLayer('Paint', { type: 'paint', plane: null }, [], 'paint'))
  return a
}
/** Does a command, undoes it, and gives back what it made with its title. */
function done(a: Artwork, c: Command): { made: Artwork; title: string } {
  const { artwork: made, edit } = perform(a, c)
  expect(applyEdit(made, edit.inverse)).toEqual(a)
  return { made, title: edit.title }
}

test('masks are given, tuned and taken off, of layers and steps, each an entry of the history', () => {
  const a = artwork()
  const { made, title } = done(a, { type: 'set-mask', layer: 'photo', step: 'screen', mask: newMask('empty') })
  expect(title).toBe('Mask of Halftone')
  expect(made.layers[0]!.chain[0]!.mask?.start).toBe('empty')
  expect(done(made, { type: 'tune-mask', layer: 'photo', step: 'screen', change: { thins: true } }).title).toBe('Mask of Halftone thins its marks')
  expect(done(made, { type: 'tune-mask', layer: 'photo', step: 'screen', change: { turnedRound: true } }).title).toBe('Turn the mask of Halftone round')
  const weak = done(made, { type: 'tune-mask', layer: 'photo', step: 'screen', change: { strength: 1.7 } })
  expect(weak.made.layers[0]!.chain[0]!.mask?.strength).toBe(1)
  const edge = { move: -3, unit: 'mm' as const, soften: { value: 2, unit: 'px' as const } }
  expect(done(made, { type: 'tune-mask', layer: 'photo', step: 'screen', change: { edge } }).made.layers[0]!.chain[0]!.mask?.edge).toEqual(edge)
  expect(() => perform(made, { type: 'tune-mask', layer: 'photo', step: 'screen', change: { edge: { ...edge, move: NaN } } })).toThrow(/lengths/)
  expect(() => perform(a, { type: 'tune-mask', layer: 'photo', step: null, change: { strength: 1 } })).toThrow(/no mask/)
  expect(done(made, { type: 'set-mask', layer: 'photo', step: 'screen', mask: null }).title).toBe('Take the mask off Halftone')
})

test('what was painted goes where it was painted, and nowhere else', () => {
  let a = artwork()
  const at = { layer: 'photo', step: 'screen', part: 'mask' as const }
  expect(() => perform(a, { type: 'paint', at, plane, what: 'Stroke' })).toThrow(/no longer there/)
  a = done(a, { type: 'set-mask', layer: 'photo', step: 'screen', mask: newMask('full') }).made
  const painted = done(a, { type: 'paint', at, plane, what: 'Stroke' })
  expect(painted.title).toBe('Stroke on mask of Halftone')
  expect(planeAt(painted.made, at)).toEqual({ plane, channels: 1 })
  expect(planesOf(painted.made)).toEqual([plane])
  expect(() => perform(a, { type: 'paint', at, plane: { index, channels: 4 }, what: 'Stroke' })).toThrow(/one channel/)
  // what it started with lies round the strokes already
  expect(() => perform(painted.made, { type: 'tune-mask', layer: 'photo', step: 'screen', change: { start: 'empty' } })).toThrow(/before it is painted/)
  expect(done(a, { type: 'tune-mask', layer: 'photo', step: 'screen', change: { start: 'empty' } }).title).toBe('Mask of Halftone starts empty')
  const paint = { layer: 'paint', step: null, part: 'paint' as const }
  expect(() => perform(a, { type: 'paint', at: paint, plane, what: 'Stroke' })).toThrow(/four/)
  expect(done(a, { type: 'paint', at: paint, plane: { index, channels: 4 }, what: 'Fill' }).title).toBe('Fill on Paint')
  const light = { layer: 'photo', step: null, part: 'light' as const }
  const lit = done(a, { type: 'set-light-map', layer: 'photo', lightMap: { plane: null, strength: 1, span: { low: 0.9, high: 0.2, softLow: 0, softHigh: 0 } } })
  // the ends of a span are put in order
  expect(lit.made.layers[0]!.lightMap?.span).toMatchObject({ low: 0.9, high: 0.9 })
  expect(done(lit.made, { type: 'paint', at: light, plane, what: 'Dodge' }).title).toBe(`Dodge on light map of ${a.layers[0]!.name}`)
})

test('a mask kept live cannot be painted, and one kept from itself is refused', () => {
  const a = artwork()
  const live = (layer: string) => ({ ...newMask('full'), live: { layer, by: 'alpha' as const } })
  const { made } = done(a, { type: 'set-mask', layer: 'photo', step: null, mask: live('paint') })
  expect(planeAt(made, { layer: 'photo', step: null, part: 'mask' })).toBeUndefined()
  expect(() => perform(a, { type: 'set-mask', layer: 'photo', step: null, mask: live('photo') })).toThrow(/circle/)
  expect(() => perform(made, { type: 'set-mask', layer: 'paint', step: null, mask: live('photo') })).toThrow(/circle/)
  // nor is a layer deleted that another's mask is kept from
  expect(() => perform(made, { type: 'remove-layer', layer: 'paint' })).toThrow(/cannot be deleted/)
})

test('places are called by what they are of', () => {
  const a = artwork()
  const named = (step: string | null, part: 'mask' | 'paint' | 'light', layer = 'photo') => addressName(a, { layer, step, part }, () => 'Halftone')
  expect(named('screen', 'mask')).toBe('mask of Halftone')
  expect(named(null, 'mask')).toBe(`mask of ${a.layers[0]!.name}`)
  expect(named(null, 'paint', 'paint')).toBe('Paint')
})
