import { MantineProvider } from '@mantine/core'
import { fireEvent, render, screen } from '@testing-library/react'
import { useState } from 'react'
import { Provider } from 'react-redux'
import { makeStore } from '../../store/store.ts'
import { SheetSize } from './SheetSize.tsx'
import { LampDial, type Lamp } from './widgets/LampDial.tsx'

/** A dial that keeps what it is told; answers where the lamp stands. */
function dial(start: Lamp): () => Lamp {
  let now = start
  function Keeper() {
    const [lamp, setLamp] = useState(start)
    now = lamp
    return <LampDial lamp={lamp} onHelp={() => undefined} onChange={setLamp} />
  }
  render(
    <MantineProvider env="test">
      <Keeper />
    </MantineProvider>,
  )
  return () => now
}

describe('the lamp', () => {
  test('is turned and raised with the arrow keys, five times as far with shift, and says where it stands', () => {
    const lamp = dial({ direction: 135, height: 35 })
    const handle = screen.getByRole('slider', { name: 'Lamp' })
    expect(handle.getAttribute('aria-valuetext')).toBe('from 135°, 35° high')
    fireEvent.keyDown(handle, { key: 'ArrowLeft' })
    fireEvent.keyDown(handle, { key: 'ArrowUp', shiftKey: true })
    expect(lamp()).toEqual({ direction: 138, height: 50 })
    fireEvent.keyDown(handle, { key: 'ArrowRight', shiftKey: true })
    fireEvent.keyDown(handle, { key: 'ArrowDown' })
    expect(lamp()).toEqual({ direction: 123, height: 47 })
  })

  test('is typed in degrees, and stays where it is for what is not one', () => {
    const lamp = dial({ direction: 135, height: 35 })
    fireEvent.change(screen.getByLabelText('Lamp from'), { target: { value: '-90' } })
    fireEvent.change(screen.getByLabelText('Lamp high'), { target: { value: '60' } })
    expect(lamp()).toEqual({ direction: -90, height: 60 })
    fireEvent.change(screen.getByLabelText('Lamp high'), { target: { value: '' } })
    expect(lamp().height).toBe(60)
  })

  test('is dragged: round the middle its direction, towards the rim lower', () => {
    const lamp = dial({ direction: 0, height: 80 })
    const svg = screen.getByRole('group', { name: 'Lamp of the artwork' })
    svg.getBoundingClientRect = () => ({ left: 0, top: 0, width: 120, height: 120 }) as DOMRect
    const handle = screen.getByRole('slider', { name: 'Lamp' })
    fireEvent(handle, new MouseEvent('pointerdown', { bubbles: true, clientX: 60, clientY: 60, buttons: 1 }))
    fireEvent(handle, new MouseEvent('pointermove', { bubbles: true, clientX: 60, clientY: 10, buttons: 1 }))
    // straight above the middle, on the rim
    expect(lamp()).toEqual({ direction: 90, height: 5 })
    fireEvent(handle, new MouseEvent('pointermove', { bubbles: true, clientX: 35, clientY: 60, buttons: 1 }))
    expect(lamp().direction).toBe(180)
    expect(lamp().height).toBeGreaterThan(40)
    expect(lamp().height).toBeLessThan(55)
    // beyond the rim it is no lower
    fireEvent(handle, new MouseEvent('pointermove', { bubbles: true, clientX: 500, clientY: 60, buttons: 1 }))
    expect(lamp()).toEqual({ direction: 0, height: 5 })
  })
})

describe('the sheet', () => {
  const store = makeStore()
  let told: unknown[]
  beforeEach(() => {
    told = []
    jest.spyOn(store, 'dispatch').mockImplementation(((action: { payload: unknown }) => told.push(action.payload)) as never)
    render(
      <Provider store={store}>
        <MantineProvider env="test">
          <SheetSize sheet={{ x: 0, y: 0, w: 1920, h: 1280, ppi: 300, sized: true }} stock={{ papers: true, relief: true, marks: 'broken' }} />
        </MantineProvider>
      </Provider>,
    )
    fireEvent.click(screen.getByRole('button', { name: 'Sheet: 1920 × 1280 pixels, 300 ppi' }))
  })

  test('says how large it is on paper', () => {
    expect(screen.getByText(/^163 × 108 mm\. Marks/)).toBeTruthy()
  })

  test('takes a length on paper, and keeps what resolution that is', () => {
    const field = screen.getByLabelText('Long side on paper')
    fireEvent.change(field, { target: { value: '200' } })
    fireEvent.keyDown(field, { key: 'Enter' })
    // 1920 px / 200 mm × 25.4 mm an inch
    expect(told).toEqual([{ command: { type: 'set-ppi', ppi: 244 } }])
  })

  test('leaves papers and relief out for real stock', () => {
    fireEvent.click(screen.getByRole('switch', { hidden: true }))
    expect(told).toEqual([{ command: { type: 'set-stock', real: true, marks: 'broken' } }])
  })

  test('takes a resolution when it is whole, not while it is typed', () => {
    const field = screen.getByLabelText('Resolution')
    for (const part of ['1', '15', '150']) fireEvent.change(field, { target: { value: part } })
    expect(told).toEqual([])
    fireEvent.keyDown(field, { key: 'Enter' })
    expect(told).toEqual([{ command: { type: 'set-ppi', ppi: 150 } }])
  })

  test('leaves it as it is where nothing usable was typed', () => {
    const field = screen.getByLabelText('Resolution')
    fireEvent.change(field, { target: { value: '' } })
    fireEvent.blur(field)
    expect(told).toEqual([])
    expect((field as HTMLInputElement).value).toBe('300 ppi')
  })
})
