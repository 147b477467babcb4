import { MantineProvider } from '@mantine/core'
import type { CurvePoint, Histogram as Counts } from '@nimble-quill/core'
import { fireEvent, render, screen } from '@testing-library/react'
import { useState } from 'react'
import { CurveEditor } from './CurveEditor.tsx'
import { MeasuredContext } from '../measured.ts'
import { Histogram } from './Histogram.tsx'

/** A curve editor that keeps what it is told; answers the points, and the gestures it was told them in. */
function curve(start: CurvePoint[]): { points: () => CurvePoint[]; gestures: (string | undefined)[] } {
  let now = start
  const gestures: (string | undefined)[] = []
  function Keeper() {
    const [points, setPoints] = useState(start)
    now = points
    return (
      <CurveEditor
        points={points}
        onChange={(p, gesture) => {
          gestures.push(gesture)
          setPoints(p)
        }}
      />
    )
  }
  render(
    <MantineProvider env="test">
      <Keeper />
    </MantineProvider>,
  )
  return { points: () => now, gestures }
}

describe('the curve', () => {
  const start: CurvePoint[] = [
    [0, 0],
    [0.5, 0.5],
    [1, 1],
  ]

  test('points are nudged with the arrow keys, kept between their neighbours and inside the square', () => {
    const { points, gestures } = curve(start)
    const middle = screen.getByRole('slider', { name: 'Point 2' })
    fireEvent.keyDown(middle, { key: 'ArrowUp' })
    fireEvent.keyDown(middle, { key: 'ArrowUp', shiftKey: true })
    expect(points()[1]).toEqual([0.5, 0.56])
    // one gesture: undone in one go
    expect(new Set(gestures).size).toBe(1)
    for (let i = 0; i < 20; i++) fireEvent.keyDown(middle, { key: 'ArrowRight', shiftKey: true })
    expect(points()[1]![0]).toBeLessThan(1)
    for (let i = 0; i < 20; i++) fireEvent.keyDown(middle, { key: 'ArrowUp', shiftKey: true })
    expect(points()[1]![1]).toBe(1)
    expect(middle.getAttribute('aria-valuetext')).toMatch(/ to 255$/)
  })

  test('a point is typed in tones, and nonsense is passed over', () => {
    const { points } = curve(start)
    fireEvent.focus(screen.getByRole('slider', { name: 'Point 2' }))
    fireEvent.change(screen.getByLabelText('Point 2, out'), { target: { value: '51' } })
    expect(points()[1]![1]).toBeCloseTo(0.2, 4)
    fireEvent.change(screen.getByLabelText('Point 2, in'), { target: { value: '102' } })
    expect(points()[1]![0]).toBeCloseTo(0.4, 4)
    fireEvent.change(screen.getByLabelText('Point 2, in'), { target: { value: '' } })
    fireEvent.change(screen.getByLabelText('Point 2, in'), { target: { value: '999' } })
    expect(points()[1]![0]).toBeCloseTo(0.4, 4)
  })

  test('Delete takes a point away, but never the last two', () => {
    const { points } = curve(start)
    fireEvent.keyDown(screen.getByRole('slider', { name: 'Point 2' }), { key: 'Delete' })
    expect(points()).toEqual([
      [0, 0],
      [1, 1],
    ])
    fireEvent.keyDown(screen.getByRole('slider', { name: 'Point 2' }), { key: 'Delete' })
    expect(points()).toHaveLength(2)
  })

  test('a click on the ground adds a point there; beside another one it does not', () => {
    const { points } = curve(start)
    const ground = screen.getByRole('group', { name: 'Tone curve' })
    ground.getBoundingClientRect = () => ({ left: 0, top: 0, width: 200, height: 200 }) as DOMRect
    const press = (clientX: number, clientY: number) => fireEvent(ground, new MouseEvent('pointerdown', { bubbles: true, clientX, clientY }))
    press(50, 60)
    expect(points()).toHaveLength(4)
    expect(points()[1]).toEqual([0.25, 0.7])
    press(51, 10)
    expect(points()).toHaveLength(4)
    // what lies under the pointer is the ground within the frame
    fireEvent(ground.querySelector('rect')!, new MouseEvent('pointerdown', { bubbles: true, clientX: 150, clientY: 20 }))
    expect(points().at(-2)).toEqual([0.75, 0.9])
  })

  test('a point is dragged, kept between its neighbours; a mere press moves nothing', () => {
    const { points } = curve(start)
    const ground = screen.getByRole('group', { name: 'Tone curve' })
    ground.getBoundingClientRect = () => ({ left: 0, top: 0, width: 200, height: 200 }) as DOMRect
    const before = points()
    const point = screen.getByRole('slider', { name: 'Point 2' })
    const tell = (type: string, clientX: number, clientY: number) =>
      fireEvent(point, new MouseEvent(type, { bubbles: true, clientX, clientY, buttons: type === 'pointerup' ? 0 : 1 }))
    tell('pointerdown', 100, 100)
    expect(points()).toEqual(before)
    tell('pointermove', 60, 40)
    expect(points()[1]).toEqual([0.3, 0.8])
    tell('pointermove', 900, 40)
    expect(points()[1]![0]).toBeCloseTo(0.996, 4)
    tell('pointerup', 900, 40)
    tell('pointermove', 10, 10)
    expect(points()[1]![0]).toBeCloseTo(0.996, 4)
  })
})

describe('the histogram', () => {
  const counts = (f: (i: number) => number): number[] => Array.from({ length: 256 }, (_, i) => f(i))
  const of = (luma: number[]): Counts => ({ luma, red: luma, green: luma, blue: luma }) as Counts
  const shown = (after: number[]) =>
    render(
      <MantineProvider env="test">
        <MeasuredContext.Provider value={{ before: of(counts(() => 4)), after: of(after), facts: undefined, shown: undefined }}>
          <Histogram width={260} mark={128} />
        </MeasuredContext.Provider>
      </MantineProvider>,
    )

  test('says what share is cut off at black and at white', () => {
    // 100 of 1000 at black, 5 at white
    const { container } = shown(counts((i) => (i === 0 ? 100 : i === 255 ? 5 : i === 90 ? 895 : 0)))
    expect(container.querySelector('[data-part="ends"]')!.textContent).toMatch(/▾ 10 % black.*0\.5 % white ▾/)
  })

  test('and the ends of the scale where nothing is', () => {
    const { container } = shown(counts((i) => (i > 40 && i < 200 ? 5 : 0)))
    expect(container.querySelector('[data-part="ends"]')!.textContent).toMatch(/^0.*255$/)
    expect(container.querySelectorAll('[data-cut]')).toHaveLength(0)
  })

  test('shows the channels where they are asked for', () => {
    const { container } = shown(counts(() => 3))
    fireEvent.click(screen.getByText('RGB'))
    expect((screen.getByRole('radio', { name: 'RGB' }) as HTMLInputElement).checked).toBe(true)
    expect(container.querySelector('[data-part="histogram"] svg, [data-part="histogram"] .recharts-wrapper')).not.toBeNull()
  })
})
