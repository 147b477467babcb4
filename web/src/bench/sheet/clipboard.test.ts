import { newStep } from '@nimble-quill/core'
import { copySteps, pasting } from './clipboard.ts'

beforeEach(() => localStorage.clear())

test('copied steps are put in one after the other, with ids of their own and everything they had', () => {
  const steps = [
    { ...newStep('threshold', { level: 90 }), opacity: 0.4, blend: 'multiply' as const, on: false },
    { ...newStep('gaussian-blur', { sigma: { value: 0.4, unit: 'mm' } }), span: { low: 0.2, high: 0.6, softLow: 0.1, softHigh: 0.1 } },
  ]
  copySteps(steps)
  const { commands, first } = pasting('layer', 3)
  expect(commands.map((c) => c.type === 'add-step' && [c.layer, c.index, c.step.step])).toEqual([
    ['layer', 3, 'threshold'],
    ['layer', 4, 'gaussian-blur'],
  ])
  commands.forEach((c, i) => {
    if (c.type !== 'add-step') throw new Error('another command')
    expect(c.step.id).not.toBe(steps[i]!.id)
    expect({ ...c.step, id: '' }).toEqual({ ...steps[i], id: '' })
  })
  expect(first).toBe(commands[0]!.type === 'add-step' && commands[0].step.id)
  // pasted twice, they are other steps again
  const again = pasting('layer', 3).commands[0]!
  expect(again.type === 'add-step' && again.step.id).not.toBe(first)
})

test('nothing copied, or something that is not ours: nothing is put in', () => {
  expect(pasting('layer', 0)).toEqual({ commands: [], first: null })
  localStorage.setItem('quill.steps', '{not json')
  expect(pasting('layer', 0)).toEqual({ commands: [], first: null })
})
