import type { StrokeOrder } from '@nimble-quill/core'
import { createStore, delMany, entries, set } from 'idb-keyval'
import { tabLock } from './outbox.ts'

// The points of strokes, written down as they come and before they are pixels: a stroke whose tab is closed, or whose engine dies, is painted again
// when the artwork is opened.

/** A stroke as it was begun: its order, and the plane it began on. */
interface Begun {
  order: StrokeOrder
  base: string | null
  at: number
}
export interface LeftStroke extends Begun {
  keys: string[]
  samples: number[]
}

let opened: ReturnType<typeof createStore> | null = null
const store = () => (opened ??= createStore('quill-journal', 'strokes'))
/** Milliseconds between two writings of a stroke that goes on. */
const WRITE_EVERY = 60

let count = 0

/** The journal of one stroke. */
export class StrokeJournal {
  private readonly name: string
  private readonly keys: string[] = []
  private waiting: number[] = []
  private timer: ReturnType<typeof setTimeout> | null = null

  constructor(artworkId: string, tab: string, begun: Begun) {
    this.name = `${artworkId}:${tab}:${Date.now().toString(36)}-${++count}`
    this.write('', begun)
  }

  private write(part: string, value: unknown): void {
    const key = `${this.name}:${part}`
    this.keys.push(key)
    // a browser that keeps nothing still paints
    void set(key, value, store()).catch(() => undefined)
  }

  add(samples: readonly number[]): void {
    this.waiting.push(...samples)
    this.timer ??= setTimeout(() => this.flush(), WRITE_EVERY)
  }

  flush(): void {
    if (this.timer) clearTimeout(this.timer)
    this.timer = null
    if (this.waiting.length) this.write(String(this.keys.length).padStart(6, '0'), this.waiting.splice(0))
  }

  /** The stroke is in the artwork, or is not wanted. */
  done(): void {
    if (this.timer) clearTimeout(this.timer)
    void delMany(this.keys, store()).catch(() => undefined)
  }
}

/** Strokes on an artwork that closed tabs left, the oldest first. */
export async function leftStrokes(artworkId: string): Promise<LeftStroke[]> {
  const held = new Set(((await navigator.locks?.query())?.held ?? []).map((l) => l.name))
  const found = new Map<string, LeftStroke>()
  const all = (await entries<string, Begun | number[]>(store())).sort(([a], [b]) => (a < b ? -1 : 1))
  for (const [key, value] of all) {
    const [artwork, tab, stroke, part] = key.split(':')
    if (artwork !== artworkId || held.has(tabLock(tab!))) continue
    const name = `${tab}:${stroke}`
    if (part === '') found.set(name, { ...(value as Begun), keys: [key], samples: [] })
    else {
      const left = found.get(name)
      left?.keys.push(key)
      left?.samples.push(...(value as number[]))
    }
  }
  return [...found.values()].sort((a, b) => a.at - b.at)
}
export const forgetStroke = (left: LeftStroke): Promise<void> => delMany(left.keys, store())
