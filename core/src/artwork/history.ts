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

/** Performs a command. What was undone before is given up. */
export function record(history: History, command: Command, gesture: string | null = null): History {
  const { artwork, edit } = perform(history.artwork, command)
  if (edit.patches.length === 0) return history
  const last = history.done.at(-1)
  if (gesture !== null && last?.gesture === gesture && history.undone.length === 0) {
    const joined: Entry = { title: edit.title, gesture, patches: [...last.patches, ...edit.patches], inverse: [...edit.inverse, ...last.inverse] }
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
