import { QuillError } from '../base/errors.ts'

/** Room behind every block, so that a vector load at its end stays inside it. */
const TAIL = 64
const ALIGN = 64

/**
 * Hands out blocks of one WebAssembly memory: first fit over a sorted list of free ranges, which join when they meet.
 * Blocks are tiles and tables, a few thousand at most, so the list stays short.
 */
export class Allocator {
  private readonly free_: { at: number; size: number }[] = []
  private readonly used = new Map<number, number>()
  private top: number
  private readonly memory: WebAssembly.Memory
  private readonly limit: number
  /** Asked to give memory back when an allocation does not fit; answers whether it did. */
  onPressure: (() => boolean) | null = null
  bytesInUse = 0

  constructor(memory: WebAssembly.Memory, base: number, limit: number) {
    this.memory = memory
    this.top = Math.ceil(base / ALIGN) * ALIGN
    this.limit = limit
  }

  /** The address of a fresh block of at least `bytes`, aligned to 64. Throws `out-of-memory`. */
  alloc(bytes: number): number {
    const size = Math.ceil((bytes + TAIL) / ALIGN) * ALIGN
    for (;;) {
      const at = this.take(size)
      if (at >= 0) {
        this.used.set(at, size)
        this.bytesInUse += size
        return at
      }
      if (!this.onPressure?.()) {
        throw new QuillError(
          'out-of-memory',
          'The picture engine has no memory left for this picture. Nothing is lost; close other artworks or render at a smaller size.',
          {
            bytes,
            limit: this.limit,
          },
        )
      }
    }
  }

  free(at: number): void {
    const size = this.used.get(at)
    if (size === undefined) throw new Error(`free of an address that is not in use: ${at}`)
    this.used.delete(at)
    this.bytesInUse -= size
    let i = this.free_.findIndex((f) => f.at > at)
    if (i < 0) i = this.free_.length
    this.free_.splice(i, 0, { at, size })
    this.join(i)
    this.join(i - 1)
  }

  private join(i: number): void {
    const a = this.free_[i]
    const b = this.free_[i + 1]
    if (a && b && a.at + a.size === b.at) {
      a.size += b.size
      this.free_.splice(i + 1, 1)
    }
  }

  private take(size: number): number {
    for (let i = 0; i < this.free_.length; i++) {
      const f = this.free_[i]!
      if (f.size < size) continue
      const at = f.at
      if (f.size === size) this.free_.splice(i, 1)
      else {
        f.at += size
        f.size -= size
      }
      return at
    }
    // a free range that touches the top is taken along
    const last = this.free_.at(-1)
    const start = last && last.at + last.size === this.top ? last.at : this.top
    const end = start + size
    if (end > this.limit) return -1
    if (end > this.memory.buffer.byteLength) {
      const need = Math.ceil((end - this.memory.buffer.byteLength) / 65536)
      // grown by an eighth at least, so that views are not detached at every tile
      const want = Math.min(
        Math.max(need, Math.ceil(this.memory.buffer.byteLength / 65536 / 8)),
        Math.floor((this.limit - this.memory.buffer.byteLength) / 65536),
      )
      try {
        this.memory.grow(Math.max(need, want))
      } catch {
        return -1
      }
    }
    if (start !== this.top) this.free_.pop()
    this.top = end
    return start
  }
}
