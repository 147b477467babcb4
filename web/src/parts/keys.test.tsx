import { fireEvent, render, screen } from '@testing-library/react'
import { takesText, useKeys } from './keys.ts'

function Keys({ run }: { run: (key: string) => void }) {
  useKeys('v,space', (e) => run(e.key))
  return (
    <>
      <input aria-label="text" />
      <input aria-label="tick" type="checkbox" />
      <input aria-label="shown" readOnly />
      <button>press</button>
      <div tabIndex={0} role="group" aria-label="picture" />
    </>
  )
}
const press = (on: Element, key: string, code: string) => {
  fireEvent.keyDown(on, { key, code })
  fireEvent.keyUp(on, { key, code })
}

test('a shortcut is heard wherever the focus is, but not where text is typed; Space stays with what it presses', () => {
  const told: string[] = []
  render(<Keys run={(k) => told.push(k)} />)
  for (const name of ['tick', 'shown', 'picture']) press(screen.getByLabelText(name), 'v', 'KeyV')
  press(screen.getByRole('button'), 'v', 'KeyV')
  expect(told).toEqual(['v', 'v', 'v', 'v'])
  press(screen.getByLabelText('text'), 'v', 'KeyV')
  expect(told).toHaveLength(4)
  for (const e of [screen.getByLabelText('tick'), screen.getByRole('button'), screen.getByLabelText('text')]) press(e, ' ', 'Space')
  expect(told).toHaveLength(4)
  press(screen.getByLabelText('picture'), ' ', 'Space')
  expect(told).toEqual(['v', 'v', 'v', 'v', ' '])
})

test('what takes text', () => {
  const made = (html: string) => {
    document.body.innerHTML = html
    return document.body.firstElementChild
  }
  expect(['<input>', '<input type="number">', '<textarea></textarea>'].map((h) => takesText(made(h)))).toEqual([true, true, true])
  expect(['<input type="range">', '<input readonly>', '<button></button>'].map((h) => takesText(made(h)))).toEqual([false, false, false])
  expect(takesText(null)).toBe(false)
})
