import { MantineProvider } from '@mantine/core'
import { steps, type ParamSpec } from '@nimble-quill/core'
import { fireEvent, render, screen } from '@testing-library/react'
import { Provider } from 'react-redux'
import { makeStore } from '../../store/store.ts'
import { ParamControl } from './ParamControl.tsx'

// the test environment has no fetch
jest.mock('../../store/api.ts', () => ({ ...jest.requireActual<object>('../../store/api.ts'), usePhotosQuery: () => ({ data: [] }) }))

const scale = { reference: 2000, ppi: 300 }
function show(spec: ParamSpec, value: unknown = spec.default) {
  const changes: unknown[] = []
  render(
    <Provider store={makeStore()}>
      <MantineProvider env="test">
        <ParamControl spec={spec} value={value} scale={scale} driven={false} onHelp={() => undefined} onChange={(v) => changes.push(v)} />
      </MantineProvider>
    </Provider>,
  )
  return changes
}
const spec = (step: string, param: string) => steps.find((s) => s.id === step)!.params[param]!

// walks the registry: a new step needs no interface code
test.each(steps.flatMap((s) => Object.entries(s.params).map(([name, p]) => [s.id, name, p] as const)))('%s: %s has a labelled control', (_, __, p) => {
  show(p)
  expect(screen.getAllByText(p.title).length).toBeGreaterThan(0)
  if (p.type === 'number' || p.type === 'length') expect(screen.getByLabelText(p.title)).toBeTruthy()
})

test('a share is typed in per cent, a length keeps its unit, arrow keys step', () => {
  const changes = show(spec('paper-tooth', 'strength'))
  fireEvent.change(screen.getByLabelText('Catch'), { target: { value: '35' } })
  fireEvent.keyDown(screen.getByLabelText('Catch'), { key: 'ArrowUp' })
  expect(changes).toEqual([0.35, 0.81])
})

test('a length in per cent', () => {
  const changes = show(spec('gaussian-blur', 'sigma'), { value: 0.5, unit: '%' })
  fireEvent.change(screen.getByLabelText('Sigma'), { target: { value: '0.8' } })
  expect(changes).toEqual([{ value: 0.8, unit: '%' }])
})

test('curve points are moved and removed by keyboard', () => {
  const changes = show(spec('curves', 'points'), [
    [0, 0],
    [0.5, 0.5],
    [1, 1],
  ])
  const point = screen.getByRole('slider', { name: 'Point 2' })
  fireEvent.keyDown(point, { key: 'ArrowUp' })
  fireEvent.keyDown(point, { key: 'Delete' })
  expect(changes).toEqual([
    [
      [0, 0],
      [0.5, 0.51],
      [1, 1],
    ],
    [
      [0, 0],
      [1, 1],
    ],
  ])
})
