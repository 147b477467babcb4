import type { Problem, Saved, SaveArtwork } from '@nimble-quill/contracts'
import type { Artwork } from '@nimble-quill/core'
import { del, get, keys, set } from 'idb-keyval'
import type { SaveState } from '../slice.ts'
import { sendParts } from './parts.ts'

/** A change that the server has not acknowledged yet, kept in this browser. */
export interface Unsent {
  artworkId: string
  /** The revision it is based on. */
  base: number
  /** The id of the save that brings it: sent again, the server knows it. */
  save: string
  /** Saves sent before it, on the same revision, whose answers have not come. */
  after: string[]
  document: Artwork
  at: number
}

const PREFIX = 'outbox:'
const keyOf = (artworkId: string, tab: string) => `${PREFIX}${artworkId}:${tab}`
export const tabLock = (tab: string) => `quill-tab:${tab}`

/** A name for this tab, held as a lock for as long as it lives, so that other tabs leave its changes alone. */
export function nameTab(): string {
  const tab = crypto.randomUUID()
  void navigator.locks?.request(tabLock(tab), () => new Promise(() => undefined))
  return tab
}

/**
 * What a tab writes at the moment it is closed, when its database may not take anything any more: by the same keys.
 */
function lastWords(): { keys: string[]; read: (key: string) => Unsent | null } {
  const keys = Object.keys(window.localStorage).filter((k) => k.startsWith(PREFIX))
  return {
    keys,
    read: (key) => {
      try {
        return JSON.parse(window.localStorage.getItem(key) ?? 'null') as Unsent | null
      } catch {
        return null
      }
    },
  }
}

/**
 * What has become of a change that a closed tab left: `taken`, only the answer was lost; `follows`, it goes on from what the server has now, based on
 * that revision or on a save of its own tab's that made it; `apart`, others have changed the artwork since.
 */
export function fateOf(unsent: Unsent, now: { revision: number; saves: readonly string[] }): 'taken' | 'follows' | 'apart' {
  if (now.saves.includes(unsent.save)) return 'taken'
  const last = now.saves[0]
  return unsent.base === now.revision || (last !== undefined && (unsent.after ?? []).includes(last)) ? 'follows' : 'apart'
}

/** Changes to an artwork that closed tabs left unsent, oldest first. */
export async function leftBehind(artworkId: string): Promise<{ key: string; unsent: Unsent }[]> {
  const held = new Set(((await navigator.locks?.query())?.held ?? []).map((l) => l.name))
  const found: { key: string; unsent: Unsent }[] = []
  const words = lastWords()
  for (const key of new Set([...(await keys<string>()), ...words.keys])) {
    if (typeof key !== 'string' || !key.startsWith(`${PREFIX}${artworkId}:`)) continue
    if (held.has(tabLock(key.split(':')[2]!))) continue
    const both = [await get<Unsent>(key), words.read(key)].filter((u) => u != null)
    const unsent = both.sort((a, b) => b.at - a.at)[0]
    if (unsent) found.push({ key, unsent })
  }
  return found.sort((a, b) => a.unsent.at - b.unsent.at)
}
export const forget = (key: string): Promise<void> => {
  window.localStorage.removeItem(key)
  return del(key)
}

interface Report {
  (news: { state: SaveState; message?: string; revision?: number }): void
}

const AWAY = 'The server does not answer. Your changes are kept in this browser and sent when it is back.'

/** How long the hand must rest before a change is sent. */
const REST = 700
const LONGEST_WAIT = 15_000
/** Saves whose answers did not come, that are named at most. */
const MOST_OPEN = 64

/**
 * Saves an artwork as it is worked on: every change goes into this browser's database at once and to the server when the
 * hand rests. A lost connection is waited out; a change made elsewhere is reported and nothing overwritten.
 */
export class Outbox {
  private readonly artworkId: string
  private readonly key: string
  private readonly report: Report
  private revision: number
  private latest: Unsent | null = null
  /** Saves that were sent on the present revision, and whose answers have not come. */
  private open: string[]
  private timer: ReturnType<typeof setTimeout> | null = null
  private sending = false
  private wait = 1000
  private stopped = false
  private readonly online = () => this.soon(0)
  private readonly hidden = () => {
    if (document.visibilityState === 'hidden') this.leave()
  }
  private readonly leave = () => {
    if (!this.latest || this.stopped) return
    // the database may not take anything any more; this is there when it returns
    try {
      window.localStorage.setItem(this.key, JSON.stringify(this.latest))
    } catch {
      // a document larger than it holds: the database has the last but one at least
    }
    void this.send(true)
  }

  /**
   * @param from what an earlier tab left, where this one goes on with it
   */
  constructor(artworkId: string, tab: string, revision: number, report: Report, from: Unsent | null = null) {
    this.artworkId = artworkId
    this.key = keyOf(artworkId, tab)
    this.revision = revision
    this.report = report
    // it may have been sent already, unseen by that tab
    this.open = from ? [...(from.after ?? []), from.save].slice(-MOST_OPEN) : []
    window.addEventListener('online', this.online)
    window.addEventListener('pagehide', this.leave)
    document.addEventListener('visibilitychange', this.hidden)
  }

  /** Takes a change. */
  put(document: Artwork): void {
    if (this.stopped) return
    this.latest = { artworkId: this.artworkId, base: this.revision, save: crypto.randomUUID(), after: [...this.open], document, at: Date.now() }
    void set(this.key, this.latest).catch(() => undefined)
    this.report({ state: 'unsaved' })
    this.soon(REST)
  }

  /** Sends what is waiting and stops; the change stays in this browser if the server does not take it. */
  async close(): Promise<void> {
    window.removeEventListener('online', this.online)
    window.removeEventListener('pagehide', this.leave)
    document.removeEventListener('visibilitychange', this.hidden)
    if (this.timer) clearTimeout(this.timer)
    while (this.sending) await new Promise((r) => setTimeout(r, 30))
    if (this.latest && !this.stopped) await this.send(true)
    this.stopped = true
  }

  /** Sends now; resolves when the server has it, or it is clear that it has not. */
  async flush(): Promise<boolean> {
    while (this.sending) await new Promise((r) => setTimeout(r, 30))
    if (this.latest) await this.send(false)
    return this.latest === null
  }

  /** Gives the waiting change up: it was kept another way, or is not wanted. */
  async drop(): Promise<void> {
    this.stopped = true
    this.latest = null
    await forget(this.key)
  }

  private soon(ms: number): void {
    if (this.timer) clearTimeout(this.timer)
    this.timer = setTimeout(() => void this.send(false), ms)
  }

  /** @param tries how often what the server misses may be sent: a root, its pages, their tiles */
  private async send(last: boolean, tries = 5): Promise<void> {
    const unsent = this.latest
    if (!unsent || this.stopped || (this.sending && !last)) return
    this.sending = true
    this.report({ state: 'saving' })
    // sent again, it is the same save: the server knows what it made of it
    if (!this.open.includes(unsent.save)) this.open = [...this.open, unsent.save].slice(-MOST_OPEN)
    try {
      const ask: SaveArtwork = { revision: unsent.base, save: unsent.save, after: unsent.after, document: unsent.document }
      const body = JSON.stringify(ask)
      const response = await fetch(`/api/artworks/${this.artworkId}`, {
        method: 'PUT',
        headers: { 'Content-Type': 'application/json' },
        body,
        // goes on after the page is closed; browsers allow that up to 64 KiB
        keepalive: last && body.length < 60_000,
      })
      if (response.ok) {
        const saved = (await response.json()) as Saved
        this.revision = saved.revision
        this.open = []
        this.wait = 1000
        if (this.latest === unsent) {
          this.latest = null
          await forget(this.key)
          this.report({ state: 'saved', revision: saved.revision })
        } else if (this.latest) {
          this.latest = { ...this.latest, base: saved.revision, after: [] }
          await set(this.key, this.latest)
          this.report({ state: 'unsaved', revision: saved.revision })
          this.soon(REST)
        }
        return
      }
      const problem = (await response.json().catch(() => null)) as (Problem & { missing?: string[] }) | null
      if (problem?.code === 'plane-parts-missing' && problem.missing) {
        // what was painted goes first; then the same save again
        const gone = await sendParts(problem.missing)
        if (gone.length === 0 && tries > 1) {
          this.sending = false
          return await this.send(last, tries - 1)
        }
        this.report({
          state: 'refused',
          message:
            'Parts of what was painted are neither on the server nor in this browser. Undo to before they were painted; the rest is kept in this browser.',
        })
        return
      }
      const message = problem?.detail ?? 'The server does not take the change just now. It is kept in this browser and tried again.'
      if (response.status === 409) {
        this.stopped = true
        this.report({ state: 'conflict', message })
      } else if (response.status === 401 || response.status === 422 || response.status === 404 || response.status === 413) {
        this.report({ state: 'refused', message })
      } else this.later(message)
    } catch (error) {
      this.later(error instanceof TypeError ? AWAY : error instanceof Error ? error.message : AWAY)
    } finally {
      this.sending = false
    }
  }

  private later(message: string): void {
    this.report({ state: 'away', message })
    this.soon(this.wait)
    this.wait = Math.min(LONGEST_WAIT, this.wait * 2)
  }
}
