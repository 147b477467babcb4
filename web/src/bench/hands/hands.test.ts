import { artworkFromPhoto, newLayer, newMask, newStep, type Artwork } from '@nimble-quill/core'
import { choose } from '../slice.ts'
import { breadthIn, samplesFrom, type PenEvent } from './pen.ts'
import { hands, paintOn, putDown, setHands, takeColour } from './slice.ts'
import { shownAt, withMaskShown } from './showing.ts'
import { isThere, suggested, targetName, targetsOf, unseen } from './targets.ts'
import { layingOf } from './laying.ts'
import { lightGroundOf } from './light-ground.ts'

function artwork(): Artwork {
  const a = artworkFromPhoto({ asset: 'a'.repeat(64), width: 60, height: 40, title: 't' })
  a.layers[0]!.id = 'photo'
  a.layers[0]!.name = 'Photo'
  a.layers[0]!.chain = [newStep('halftone', {}, 'screen')]
  a.layers.push(newLayer('Touches', { type: 'paint', plane: null }, [], 'paint'))
  return a
}

describe('pen events become whole numbers', () => {
  const event = (given: Partial<PenEvent>): PenEvent => ({
    clientX: 10,
    clientY: 20,
    timeStamp: 1000,
    pressure: 0.5,
    tiltX: 0,
    tiltY: 0,
    pointerType: 'mouse',
    ...given,
  })
  const place = (e: { clientX: number; clientY: number }) => ({ x: e.clientX / 4, y: e.clientY / 4 })

  it('in 1/64 of a pixel, milliseconds from the beginning, pressure of 1023', () => {
    expect(samplesFrom([event({ pointerType: 'pen', pressure: 0.25, tiltX: 12.4, timeStamp: 1016.6 })], place, 1000)).toEqual([160, 320, 17, 256, 12, 0])
  })

  it('a mouse swells gently, a finger without pressure is a whole one', () => {
    const p = (e: Partial<PenEvent>) => samplesFrom([event(e)], place, 1000)[3]!
    expect(p({})).toBe(Math.round(0.55 * 1023))
    expect(p({ timeStamp: 1120 })).toBe(1023)
    expect(p({ timeStamp: 1060 })).toBeGreaterThan(p({}))
    expect(p({ pointerType: 'touch', pressure: 0 })).toBe(1023)
    expect(p({ pointerType: 'touch', pressure: 0.3 })).toBe(Math.round(0.3 * 1023))
  })

  it('breadths in millimetres go by the sheet', () => {
    expect(breadthIn({ value: 25.4, unit: 'mm' }, 300)).toBe(300)
    expect(breadthIn({ value: 0.1, unit: 'px' }, 300)).toBe(1)
  })
})

test('what a stroke does follows from what it is on and what was chosen', () => {
  const on = (part: 'mask' | 'paint' | 'light') => ({ layer: 'l', step: null, part })
  expect(layingOf({ on: on('mask'), doing: 'lay', colour: '#000000' })).toEqual({ type: 'grey', value: 65535 })
  expect(layingOf({ on: on('mask'), doing: 'take', colour: '#000000' })).toEqual({ type: 'grey', value: 0 })
  expect(layingOf({ on: on('light'), doing: 'back', colour: '#000000' })).toEqual({ type: 'grey', value: 32768 })
  expect(layingOf({ on: on('paint'), doing: 'take', colour: '#000000' })).toEqual({ type: 'erase' })
  expect(layingOf({ on: on('paint'), doing: 'lay', colour: '#ff0001' })).toEqual({ type: 'paint', colour: 0x0101_0000_ffffn })
})

describe('targets', () => {
  it('are those there are first, the others with what makes them', () => {
    const a = artwork()
    a.layers[0]!.chain[0]!.mask = newMask('empty')
    expect(targetsOf(a.layers[0]!).map((t) => [t.name, t.make?.type ?? null])).toEqual([
      ['Mask of Halftone', null],
      ['Mask of Photo', 'set-mask'],
      ['Light map of Photo', 'set-light-map'],
    ])
    expect(targetName(a, { layer: 'paint', step: null, part: 'paint' })).toBe('Touches')
    expect(isThere(a, { layer: 'gone', step: null, part: 'mask' })).toBe(false)
  })

  it('are suggested only where they are there: nothing is guessed', () => {
    const a = artwork()
    expect(suggested(a, { layer: 'paint', step: null })).toEqual({ layer: 'paint', step: null, part: 'paint' })
    expect(suggested(a, { layer: 'photo', step: null })).toBeNull()
    expect(suggested(a, { layer: 'photo', step: 'screen' })).toBeNull()
    a.layers[0]!.chain[0]!.mask = newMask('empty')
    expect(suggested(a, { layer: 'photo', step: 'screen' })).toEqual({ layer: 'photo', step: 'screen', part: 'mask' })
    expect(suggested(a, null)).toBeNull()
  })

  it('that are not seen say why and what helps', () => {
    const a = artwork()
    const at = { layer: 'photo', step: 'screen', part: 'mask' as const }
    expect(unseen(a, at)).toBeNull()
    a.layers[0]!.chain[0]!.on = false
    expect(unseen(a, at)).toMatchObject({ says: 'Halftone is off.', command: { type: 'set-step', on: true } })
    a.layers[0]!.visible = false
    expect(unseen(a, at)).toMatchObject({ says: 'Photo is hidden.', command: { type: 'set-layer', visible: true } })
  })
})

describe('the hand', () => {
  const { reducer } = hands
  const at = { layer: 'photo', step: null, part: 'mask' as const }

  it('is put down when something else is chosen, and does its first thing on another place', () => {
    let s = reducer(undefined, paintOn(at))
    expect(s.held).toBe('paint')
    s = reducer(s, setHands({ doing: 'take', showing: 'alone' }))
    expect(reducer(s, paintOn(at)).doing).toBe('take')
    expect(reducer(s, paintOn({ ...at, layer: 'other' })).doing).toBe('lay')
    s = reducer(s, choose({ type: 'layer', layer: 'other' }))
    expect([s.held, s.showing]).toEqual([null, 'picture'])
  })

  it('keeps colours by their last use', () => {
    let s = reducer(undefined, putDown())
    for (const c of ['#111111', '#222222', '#111111']) s = reducer(s, takeColour(c))
    expect(s.tray.slice(0, 2)).toEqual(['#111111', '#222222'])
  })
})

test('a mask is shown over the artwork turned round, or alone, by a layer that the stroke is told of', () => {
  const a = artwork()
  const mask = { ...newMask('empty'), turnedRound: true }
  a.layers[0]!.mask = mask
  const at = { layer: 'photo', step: null, part: 'mask' as const }
  expect(withMaskShown(a, at, 'picture')).toBe(a)
  const over = withMaskShown(a, at, 'overlay').layers.at(-1)!
  expect(over.mask).toEqual({ ...mask, turnedRound: false })
  expect(over.id).toBe(shownAt[0]!.layer)
  const alone = withMaskShown(a, at, 'alone').layers
  expect(alone.filter((l) => l.visible).map((l) => l.name)).toEqual(['Black', 'White'])
  expect(alone.at(-1)!.mask).toEqual(mask)
})

test('the light ground is the mean of the lightest quarter of what covers', () => {
  expect(lightGroundOf(Uint8Array.of(10, 10, 10, 255, 255, 255, 255, 0, 240, 238, 230, 255))).toBe('#f0eee6')
  const grey = (...v: number[]) => Uint8Array.from(v.flatMap((x) => [x, x, x, 255]))
  // one bare speck among eight does not decide alone
  expect(lightGroundOf(grey(255, 235, 40, 40, 200, 90, 10, 0))).toBe('#f5f5f5')
  expect(lightGroundOf(Uint8Array.of(0, 0, 0, 0))).toBe('#ffffff')
})
