import type { Patch } from 'immer'
import { applyEdit, perform, type Command } from './commands.ts'
import type { Artwork } from './schema.ts'

export interface Entry {
  title: string
  /** An edit with the same gesture as the one before joins it: a drag is one entry. */
  gesture: string | null
  patches: Patch[]
  inverse: Patch[]
}

/** An artwork with what was done to it and what was undone. Plain data, never changed in place. */
export interface History {
  artwork: Artwork
  done: Entry[]
  undone: Entry[]
}

const LONGEST = 500

export const startHistory = (artwork: Artwork): History => ({ artwork, done: [], undone: [] })

/** Whether both replace the values at the same places, and nothing else. */
function samePlaces(a: Patch[], b: Patch[]): boolean {
  return a.length === b.length && a.every((p, i) => p.op === 'replace' && b[i]!.op === 'replace' && p.path.join('/') === b[i]!.path.join('/'))
}

/** Performs a command. What was undone before is given up. */
export function record(history: History, command: Command, gesture: string | null = null): History {
  const { artwork, edit } = perform(history.artwork, command)
  if (edit.patches.length === 0) return history
  const last = history.done.at(-1)
  if (gesture !== null && last?.gesture === gesture && history.undone.length === 0) {
    // a drag replaces one value over and over: the last value and the first way back are all there is to keep
    const before = last.patches.length - edit.patches.length
    const joined: Entry =
      before >= 0 && samePlaces(last.patches.slice(before), edit.patches)
        ? { title: edit.title, gesture, patches: [...last.patches.slice(0, before), ...edit.patches], inverse: last.inverse }
        : { title: edit.title, gesture, patches: [...last.patches, ...edit.patches], inverse: [...edit.inverse, ...last.inverse] }
    return { artwork, done: [...history.done.slice(0, -1), joined], undone: [] }
  }
  return { artwork, done: [...history.done.slice(-LONGEST + 1), { ...edit, gesture }], undone: [] }
}

export function undo(history: History): History {
  const entry = history.done.at(-1)
  if (!entry) return history
  return { artwork: applyEdit(history.artwork, entry.inverse), done: history.done.slice(0, -1), undone: [...history.undone, { ...entry, gesture: null }] }
}

export function redo(history: History): History {
  const entry = history.undone.at(-1)
  if (!entry) return history
  return { artwork: applyEdit(history.artwork, entry.patches), done: [...history.done, entry], undone: history.undone.slice(0, -1) }
}
