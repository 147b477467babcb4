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

/** The state after so many entries were done: backwards or forwards. @param done 0 … all that were done or undone */
export function jump(history: History, done: number): History {
  let now = history
  while (now.done.length > done && now.done.length > 0) now = undo(now)
  while (now.done.length < done && now.undone.length > 0) now = redo(now)
  return now
}

/** A state that can be jumped to. */
export interface HistoryPoint {
  /** Entries done by then. */
  done: number
  /** What was done last; null: as it was opened. */
  title: string | null
  artwork: Artwork
}

/** The latest states, the newest first, those undone among them. @param most of them */
export function pointsOf(history: History, most: number): HistoryPoint[] {
  const points: HistoryPoint[] = []
  const { done, undone } = history
  let artwork = history.artwork
  for (let i = done.length; i >= 0 && points.length < most; i--) {
    points.push({ done: i, title: done[i - 1]?.title ?? null, artwork })
    if (i > 0) artwork = applyEdit(artwork, done[i - 1]!.inverse)
  }
  const ahead: HistoryPoint[] = []
  artwork = history.artwork
  for (let i = undone.length - 1; i >= 0; i--) {
    artwork = applyEdit(artwork, undone[i]!.patches)
    ahead.push({ done: done.length + undone.length - i, title: undone[i]!.title, artwork })
  }
  return [...ahead.reverse(), ...points]
}
