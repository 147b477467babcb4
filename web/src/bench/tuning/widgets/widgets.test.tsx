import { MantineProvider } from '@mantine/core'
import { fireEvent, render, screen } from '@testing-library/react'
import { useState, type ReactNode } from 'react'
import { DropperContext } from '../dropper.ts'
import { MeasuredContext } from '../measured.ts'
import { laidOut } from '../../proofs/Cells.tsx'
import { about, spaced } from '../../proofs/ProofSheet.tsx'
import { ordersOf } from '../../proofs/WaySheet.tsx'
import { BoundsEditor } from './BoundsEditor.tsx'
import { ColourField } from './ColourField.tsx'
import { GradientEditor } from './GradientEditor.tsx'
import { HueRing } from './HueRing.tsx'
import { MixTable } from './MixTable.tsx'
import { hexList, PaletteEditor } from './PaletteEditor.tsx'
import { RoseEditor } from './RoseEditor.tsx'
import { SpanEditor, withEnd, zoneOf } from './SpanEditor.tsx'

const shown = (inside: ReactNode) => render(<MantineProvider env="test">{inside}</MantineProvider>)
/** An editor that keeps what it is told; answers what that is. */
function kept<T>(start: T, draw: (value: T, onChange: (v: T) => void) => ReactNode): () => T {
  let now = start
  function Keeper() {
    const [value, setValue] = useState(start)
    now = value
    return draw(value, setValue)
  }
  shown(<Keeper />)
  return () => now
}

test('a gradient: stops move with the arrow keys between their neighbours, and go with Delete', () => {
  const stops = kept<[number, string][]>(
    [
      [0, '#000000'],
      [0.5, '#808080'],
      [1, '#ffffff'],
    ],
    (v, on) => <GradientEditor stops={v} space="srgb" onChange={on} />,
  )
  const middle = screen.getByRole('slider', { name: 'Stop 2, #808080' })
  fireEvent.keyDown(middle, { key: 'ArrowRight' })
  expect(stops()[1]![0]).toBeCloseTo(0.51, 9)
  for (let i = 0; i < 30; i++) fireEvent.keyDown(middle, { key: 'ArrowRight', shiftKey: true })
  expect(stops()[1]![0]).toBeLessThan(1)
  fireEvent.click(screen.getByRole('button', { name: 'Turn round' }))
  expect(stops()[0]).toEqual([0, '#ffffff'])
  fireEvent.keyDown(screen.getAllByRole('slider')[1]!, { key: 'Delete' })
  expect(stops()).toHaveLength(2)
  fireEvent.keyDown(screen.getAllByRole('slider')[0]!, { key: 'Delete' })
  expect(stops()).toHaveLength(2)
})

test('a palette: found colours are taken over, changed and removed; a list of hex codes is read from any text', () => {
  const found = { before: {} as never, after: {} as never, facts: { palette: ['#112233', '#445566', '#778899'] }, shown: undefined }
  let now: string[] = []
  function Keeper() {
    const [value, setValue] = useState<string[]>([])
    now = value
    return (
      <MeasuredContext.Provider value={found}>
        <PaletteEditor colours={value} max={63} onChange={setValue} />
      </MeasuredContext.Provider>
    )
  }
  shown(<Keeper />)
  fireEvent.click(screen.getByRole('button', { name: 'Change them by hand' }))
  expect(now).toEqual(found.facts.palette)
  fireEvent.click(screen.getByRole('button', { name: 'Remove colour 2' }))
  expect(now).toEqual(['#112233', '#778899'])
  fireEvent.click(screen.getByRole('button', { name: 'Find them in the photo' }))
  expect(now).toEqual([])
  expect(hexList('#FFAA00\n00ff11, #123456; not #12345 nor 1234567 abcdef')).toEqual(['#ffaa00', '#00ff11', '#123456', '#abcdef'])
})

test('boundaries between tones stay in order, and the first change sets what was even', () => {
  const set = kept<number[]>([], (v, on) => <BoundsEditor set={v} even={[64, 128, 191]} max={11} onChange={on} />)
  fireEvent.keyDown(screen.getByRole('slider', { name: 'Boundary 2' }), { key: 'ArrowLeft', shiftKey: true })
  expect(set()).toEqual([64, 118, 191])
  for (let i = 0; i < 20; i++) fireEvent.keyDown(screen.getByRole('slider', { name: 'Boundary 1' }), { key: 'ArrowRight', shiftKey: true })
  expect(set()[0]).toBeLessThan(118)
  fireEvent.keyDown(screen.getByRole('slider', { name: 'Boundary 3' }), { key: 'Delete' })
  expect(set()).toHaveLength(2)
  fireEvent.click(screen.getByRole('button', { name: 'Evenly' }))
  expect(set()).toEqual([])
})

test('the hue ring and the edge rose: by keys, within their range, and back with a double click', () => {
  const hues = kept([0, 0, 0, 0, 0, 0, 0, 0], (v, on) => <HueRing title="Saturation" values={v} min={-1} max={1} onChange={on} />)
  const blue = screen.getByRole('slider', { name: 'Saturation, blue' })
  for (let i = 0; i < 12; i++) fireEvent.keyDown(blue, { key: 'ArrowUp', shiftKey: true })
  expect(hues()[5]).toBe(1)
  fireEvent.doubleClick(blue)
  expect(hues()[5]).toBe(0)
})

test('the edge rose takes a way out and brings it back; all and none', () => {
  const rose = kept(
    Array.from({ length: 16 }, () => 1),
    (v, on) => <RoseEditor weights={v} onChange={on} />,
  )
  const up = screen.getByRole('slider', { name: 'Edges that face 90°' })
  fireEvent.doubleClick(up)
  expect(rose()[4]).toBe(0)
  fireEvent.keyDown(up, { key: 'ArrowUp' })
  expect(rose()[4]).toBeCloseTo(0.05, 9)
  fireEvent.click(screen.getByRole('button', { name: 'None' }))
  expect(rose().every((v) => v === 0)).toBe(true)
})

test('a mixer’s weights are typed in per cent and moved with the arrow keys', () => {
  const mix = kept([1, 0, 0, 1], (v, on) => <MixTable rows={['Red', 'Green']} columns={['Red', 'Green']} values={v} onChange={on} />)
  const field = screen.getByLabelText('Red out of Green, per cent')
  fireEvent.keyDown(field, { key: 'ArrowUp', shiftKey: true })
  expect(mix()).toEqual([1, 0.1, 0, 1])
  fireEvent.change(field, { target: { value: '-25' } })
  expect(mix()).toEqual([1, -0.25, 0, 1])
})

describe('a tonal span', () => {
  test('its ends keep their order, and are told as zones', () => {
    const s = { low: 0.3, high: 0.7, softLow: 0.1, softHigh: 0.1 }
    expect(withEnd(s, 'low', 0.9)).toEqual({ ...s, low: 0.7 })
    expect(withEnd(s, 'high', 0.1)).toEqual({ ...s, high: 0.3 })
    expect(withEnd(s, 'softLow', 0.5)).toEqual({ ...s, softLow: 0 })
    expect(withEnd(s, 'softHigh', 0.95)).toEqual({ ...s, softHigh: 0.25 })
    expect([zoneOf(0), zoneOf(0.5), zoneOf(1)]).toEqual(['0', 'V', 'X'])
  })

  test('is switched on and off, and moved by keys', () => {
    const span = kept<Parameters<typeof withEnd>[0] | null>(null, (v, on) => <SpanEditor span={v} onChange={on} onHelp={() => undefined} />)
    fireEvent.click(screen.getByRole('switch', { name: 'Tonal span' }))
    expect(span()).not.toBeNull()
    const low = span()!.low
    fireEvent.keyDown(screen.getByRole('slider', { name: 'Full from' }), { key: 'ArrowLeft' })
    expect(span()!.low).toBeCloseTo(low - 0.01, 9)
    fireEvent.click(screen.getByRole('switch', { name: 'Tonal span' }))
    expect(span()).toBeNull()
  })
})

test('a colour is asked of the picture, and typed as hex', () => {
  let ask: ((hex: string) => void) | null = null
  const seen: string[] = []
  shown(
    <DropperContext.Provider value={{ asked: false, ask: (take) => (ask = take), answer: () => undefined }}>
      <ColourField label="Ink" value="#101010" onChange={(hex) => seen.push(hex)} />
    </DropperContext.Provider>,
  )
  fireEvent.click(screen.getByRole('button', { name: 'Pick ink from the picture' }))
  ask!('#aabbcc')
  expect(seen).toEqual(['#aabbcc'])
  fireEvent.click(screen.getByRole('button', { name: 'Ink, #101010' }))
  fireEvent.change(screen.getByLabelText('Ink, hex'), { target: { value: '#00FF00' } })
  expect(seen.at(-1)).toBe('#00ff00')
})

test('values of a proof sheet: by ratio or by difference', () => {
  expect(spaced(1, 16, 5, true)).toEqual([1, 2, 4, 8, 16].map((v) => expect.closeTo(v, 9)))
  expect(spaced(0, 8, 5, false)).toEqual([0, 2, 4, 6, 8])
})

test('a proof sheet of whole numbers offers whole numbers, as many as there are cells where the range has them', () => {
  const layers = { min: 1, max: 8, now: 2, byRatio: false, whole: true }
  expect(about(layers, 9)).toEqual({ from: 1, to: 8 })
  expect(about({ ...layers, max: 3 }, 9)).toEqual({ from: 1, to: 3 })
  expect(about({ ...layers, max: 255, now: 128, min: 0 }, 9)).toEqual({ from: 43, to: 213 })
  expect(about({ min: 0, max: 1, now: 0.5, byRatio: false, whole: false }, 9)).toEqual({ from: 0.167, to: 0.833 })
  expect(about({ ...layers, max: 64, now: 63, byRatio: true }, 9).to).toBe(64)
})

test('few cells are large: as many side by side as make the pictures largest', () => {
  const room = { w: 1200, h: 660 }
  expect(laidOut(3, room, 0.8)).toEqual({ across: 3, w: 394, h: 493 })
  expect(laidOut(9, room, 1.5).across).toBe(3)
  expect(laidOut(2, room, 3).across).toBe(1)
  expect(laidOut(1, room, 1.5)).toEqual({ across: 1, w: 951, h: 634 })
  // two values varied: the rows are those of the second
  expect(laidOut(8, room, 1, 4).across).toBe(4)
})

test('every order of some steps once, the one they have first', () => {
  expect(ordersOf(['a', 'b', 'c'])).toEqual([
    ['a', 'b', 'c'],
    ['a', 'c', 'b'],
    ['b', 'a', 'c'],
    ['b', 'c', 'a'],
    ['c', 'a', 'b'],
    ['c', 'b', 'a'],
  ])
  expect(new Set(ordersOf([1, 2, 3, 4]).map(String)).size).toBe(24)
  expect(ordersOf([])).toEqual([[]])
})
