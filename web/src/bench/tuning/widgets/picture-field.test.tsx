import { MantineProvider } from '@mantine/core'
import { Notifications } from '@mantine/notifications'
import type { PictureRef } from '@nimble-quill/core'
import { act, fireEvent, render, screen, waitFor } from '@testing-library/react'
import { useState } from 'react'
import { Provider } from 'react-redux'
import { api } from '../../../store/api.ts'
import { makeStore } from '../../../store/store.ts'
import { PictureField } from './PictureField.tsx'

const store = makeStore()

const photo = (name: string, digit: string) => ({
  id: `00000000-0000-4000-8000-00000000000${digit}`,
  name,
  asset: digit.repeat(64),
  width: 1600,
  height: 1200,
  depth: 8,
  alpha: false,
  bytes: 1,
  createdAt: '2026-11-25T10:00:00.000Z',
})
const mockDesk = [photo('Canvas.jpg', '1'), photo('Heron on a post.jpg', '2')]
// the test environment has no fetch
jest.mock('../../../store/api.ts', () => ({ ...jest.requireActual<object>('../../../store/api.ts'), usePhotosQuery: () => ({ data: mockDesk }) }))

/** A request that answers as it is told. */
class Sent {
  static answer = { status: 201, response: photo('Linen.jpg', '3') as unknown }
  upload: { onprogress?: (e: unknown) => void; onload?: () => void } = {}
  onload?: () => void
  status = 0
  response: unknown
  open() {}
  setRequestHeader() {}
  abort() {}
  send() {
    setTimeout(() => {
      this.upload.onprogress?.({ lengthComputable: true, loaded: 1, total: 2 })
      Object.assign(this, Sent.answer)
      this.onload?.()
    }, 5)
  }
}

let told: unknown[]
beforeEach(() => {
  ;(globalThis as { XMLHttpRequest: unknown }).XMLHttpRequest = Sent
  told = []
  jest.spyOn(store, 'dispatch').mockImplementation(((action: unknown) => told.push(action)) as never)
})

function field(start: PictureRef | null = null): () => PictureRef | null {
  let now = start
  function Keeper() {
    const [value, setValue] = useState(start)
    now = value
    return <PictureField label="Picture" value={value} onChange={setValue} />
  }
  render(
    <Provider store={store}>
      <MantineProvider env="test">
        <Notifications />
        <Keeper />
      </MantineProvider>
    </Provider>,
  )
  return () => now
}
const opened = async () => {
  fireEvent.click(screen.getByRole('button', { name: /^Picture:/ }))
  return screen.findByRole('option', { name: 'Canvas.jpg' })
}

test('one of the desk’s pictures is chosen, shown by its name, and taken off again', async () => {
  const value = field()
  expect(screen.getByRole('button', { name: 'Picture: None' })).toBeTruthy()
  fireEvent.click(await opened())
  expect(value()).toEqual({ asset: '1'.repeat(64), width: 1600, height: 1200 })
  expect(screen.getByRole('button', { name: 'Picture: Canvas.jpg' })).toBeTruthy()
  expect((await opened()).getAttribute('aria-selected')).toBe('true')
  fireEvent.click(screen.getByRole('button', { name: 'None' }))
  expect(value()).toBeNull()
})

test('a picture that is no longer on the desk is told, and kept', async () => {
  const value = field({ asset: '9'.repeat(64), width: 10, height: 10 })
  expect(screen.getByRole('button', { name: 'Picture: A picture no longer on the desk' })).toBeTruthy()
  await opened()
  expect(value()!.asset).toBe('9'.repeat(64))
})

test('a new picture is sent, chosen and on the desk; what cannot be added is told, and the choice stays', async () => {
  const value = field()
  await opened()
  const send = (name: string) => {
    const input = document.querySelector<HTMLInputElement>('input[type="file"]')!
    fireEvent.change(input, { target: { files: [new File(['x'], name)] } })
  }
  send('Linen.jpg')
  await waitFor(() => expect(value()?.asset).toBe('3'.repeat(64)))
  // the desk's list is asked for anew
  expect(told).toContainEqual(api.util.invalidateTags(['photos']))
  Sent.answer = { status: 415, response: { detail: 'This is not a picture. Nothing was added.' } }
  await opened()
  send('notes.txt')
  expect(await screen.findByText('This is not a picture. Nothing was added.')).toBeTruthy()
  expect(value()?.asset).toBe('3'.repeat(64))
  await act(async () => undefined)
})
