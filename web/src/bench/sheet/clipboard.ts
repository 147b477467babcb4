import { newStep, type Command, type StepUse } from '@nimble-quill/core'

const KEY = 'quill.steps'

/** Keeps copies of steps for pasting, here or in another artwork or tab of this browser. */
export function copySteps(steps: readonly StepUse[]): void {
  localStorage.setItem(KEY, JSON.stringify(steps))
}

/** Commands that put what was copied into a chain from a place on, with fresh ids; none where nothing was copied. */
export function pasting(layer: string, index: number): { commands: Command[]; first: string | null } {
  let kept: StepUse[] = []
  try {
    kept = JSON.parse(localStorage.getItem(KEY) ?? '[]') as StepUse[]
  } catch {
    // what is not ours is passed over
  }
  const commands = kept.map((use, i): Command => ({ type: 'add-step', layer, index: index + i, step: { ...use, id: newStep(use.step).id } }))
  const first = commands[0]
  return { commands, first: first?.type === 'add-step' ? first.step.id : null }
}
