import type { Kernels } from '../kernels/kernels.ts'
import type { Region } from '../base/region.ts'

/** Rows of a picture that are kept from one request to the next. */
export interface Kept {
  ptr: number
  stride: number
  bytes: number
  /** What it stands for; rows from its top down to `hi` are computed. */
  region: Region
  hi: number
  /** Milliseconds it would take to compute again. */
  cost: number
  /** Requests that read it now. */
  pins: number
  /** What it is worth, by GreedyDual-Size. */
  worth: number
}

/**
 * Kept pictures by name, bounded in bytes. What is given up first is what costs least to compute again for the bytes it takes, and has
 * not been asked for (GreedyDual-Size: Cao and Irani, "Cost-aware WWW proxy caching algorithms", 1997); what is being read never.
 */
export class Store {
  private readonly kernels: Kernels
  readonly limit: number
  private readonly entries = new Map<string, Kept[]>()
  /** The worth of what was given up last: what comes later counts from there. */
  private clock = 0
  bytes = 0

  constructor(kernels: Kernels, limit: number) {
    this.kernels = kernels
    this.limit = limit
  }

  /** A kept picture that holds the whole region (with rows perhaps still to be computed), pinned; or null. */
  take(name: string, holds: (kept: Kept) => boolean): Kept | null {
    const kept = this.entries.get(name)?.find(holds)
    if (!kept) return null
    kept.pins++
    kept.worth = this.clock + kept.cost / kept.bytes
    return kept
  }

  has(name: string): boolean {
    return this.entries.has(name)
  }

  /** Hands a picture over. Smaller ones of the same name that nobody reads and that it holds are given up for it. It is pinned. */
  put(name: string, kept: Omit<Kept, 'pins' | 'worth'>): Kept {
    const list = this.entries.get(name) ?? []
    for (const old of list) {
      const { region: o } = old
      const { region: r } = kept
      if (old.pins === 0 && o.x >= r.x && o.y >= r.y && o.x + o.w <= r.x + r.w && Math.min(old.hi, o.y + o.h) <= kept.hi) this.drop(name, old)
    }
    const entry: Kept = { ...kept, pins: 1, worth: this.clock + kept.cost / kept.bytes }
    this.entries.set(name, [...(this.entries.get(name) ?? []), entry])
    this.bytes += kept.bytes
    this.makeRoom(0)
    return entry
  }

  release(kept: Kept): void {
    kept.pins--
    if (kept.pins === 0) this.makeRoom(0)
  }

  /** Gives up pictures until so many bytes more would fit; as far as that goes. */
  makeRoom(bytes: number): void {
    while (this.bytes + bytes > this.limit && this.evictOne());
  }

  /** Gives up the picture that is worth least; false where there is none that nobody reads. */
  evictOne(): boolean {
    let least: Kept | null = null
    let of = ''
    for (const [name, list] of this.entries) {
      for (const kept of list) {
        if (kept.pins > 0 || (least && kept.worth >= least.worth)) continue
        least = kept
        of = name
      }
    }
    if (!least) return false
    this.clock = Math.max(this.clock, least.worth)
    this.drop(of, least)
    return true
  }

  clear(): void {
    while (this.evictOne());
  }

  get size(): { pictures: number; bytes: number } {
    return { pictures: [...this.entries.values()].reduce((n, l) => n + l.length, 0), bytes: this.bytes }
  }

  private drop(name: string, kept: Kept): void {
    const list = this.entries.get(name)!.filter((k) => k !== kept)
    if (list.length) this.entries.set(name, list)
    else this.entries.delete(name)
    this.bytes -= kept.bytes
    this.kernels.allocator.free(kept.ptr)
  }
}
