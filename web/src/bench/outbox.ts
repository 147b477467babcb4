import type { Problem, Saved } from '@nimble-quill/contracts'
import type { Artwork } from '@nimble-quill/core'
import { del, get, keys, set } from 'idb-keyval'
import type { SaveState } from './slice.ts'

/** A change that the server has not acknowledged yet, kept in this browser. */
export interface Unsent {
  artworkId: string
  /** The revision it is based on. */
  base: number
  document: Artwork
  at: number
}

const PREFIX = 'outbox:'
const keyOf = (artworkId: string, tab: string) => `${PREFIX}${artworkId}:${tab}`
const tabLock = (tab: string) => `quill-tab:${tab}`

/** A name for this tab, held as a lock for as long as it lives, so that other tabs leave its changes alone. */
export function nameTab(): string {
  const tab = crypto.randomUUID()
  void navigator.locks?.request(tabLock(tab), () => new Promise(() => undefined))
  return tab
}

/** Changes to an artwork that closed tabs left unsent, oldest first. */
export async function leftBehind(artworkId: string): Promise<{ key: string; unsent: Unsent }[]> {
  const held = new Set(((await navigator.locks?.query())?.held ?? []).map((l) => l.name))
  const found: { key: string; unsent: Unsent }[] = []
  for (const key of await keys<string>()) {
    if (typeof key !== 'string' || !key.startsWith(`${PREFIX}${artworkId}:`)) continue
    if (held.has(tabLock(key.split(':')[2]!))) continue
    const unsent = await get<Unsent>(key)
    if (unsent) found.push({ key, unsent })
  }
  return found.sort((a, b) => a.unsent.at - b.unsent.at)
}
export const forget = (key: string) => del(key)

interface Report {
  (news: { state: SaveState; message?: string; revision?: number }): void
}

/** How long the hand must rest before a change is sent. */
const REST = 700
const LONGEST_WAIT = 15_000

/**
 * Saves an artwork as it is worked on: every change goes into this browser's database at once and to the server when the
 * hand rests. A lost connection is waited out; a change made elsewhere is reported and nothing overwritten.
 */
export class Outbox {
  private readonly artworkId: string
  private readonly key: string
  private readonly report: Report
  private revision: number
  private latest: Artwork | null = null
  private timer: ReturnType<typeof setTimeout> | null = null
  private sending = false
  private wait = 1000
  private stopped = false
  private readonly online = () => this.soon(0)
  private readonly hidden = () => {
    if (document.visibilityState === 'hidden') void this.send(true)
  }

  constructor(artworkId: string, tab: string, revision: number, report: Report) {
    this.artworkId = artworkId
    this.key = keyOf(artworkId, tab)
    this.revision = revision
    this.report = report
    window.addEventListener('online', this.online)
    document.addEventListener('visibilitychange', this.hidden)
  }

  /** Takes a change. */
  put(document: Artwork): void {
    if (this.stopped) return
    this.latest = document
    void set(this.key, { artworkId: this.artworkId, base: this.revision, document, at: Date.now() } satisfies Unsent).catch(() => undefined)
    this.report({ state: 'unsaved' })
    this.soon(REST)
  }

  /** Sends what is waiting and stops; the change stays in this browser if the server does not take it. */
  async close(): Promise<void> {
    window.removeEventListener('online', this.online)
    document.removeEventListener('visibilitychange', this.hidden)
    if (this.timer) clearTimeout(this.timer)
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
    await del(this.key)
  }

  private soon(ms: number): void {
    if (this.timer) clearTimeout(this.timer)
    this.timer = setTimeout(() => void this.send(false), ms)
  }

  private async send(last: boolean): Promise<void> {
    const document = this.latest
    if (!document || this.sending || this.stopped) return
    this.sending = true
    this.report({ state: 'saving' })
    try {
      const body = JSON.stringify({ revision: this.revision, document })
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
        this.wait = 1000
        if (this.latest === document) {
          this.latest = null
          await del(this.key)
          this.report({ state: 'saved', revision: saved.revision })
        } else {
          await set(this.key, { artworkId: this.artworkId, base: this.revision, document: this.latest!, at: Date.now() } satisfies Unsent)
          this.report({ state: 'unsaved', revision: saved.revision })
          this.soon(REST)
        }
        return
      }
      const problem = (await response.json().catch(() => null)) as Problem | null
      const message = problem?.detail ?? 'The server does not take the change just now. It is kept in this browser and tried again.'
      if (response.status === 409) {
        this.stopped = true
        this.report({ state: 'conflict', message })
      } else if (response.status === 401 || response.status === 422 || response.status === 404 || response.status === 413) {
        this.report({ state: 'refused', message })
      } else this.later(message)
    } catch {
      this.later('The server does not answer. Your changes are kept in this browser and sent when it is back.')
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
