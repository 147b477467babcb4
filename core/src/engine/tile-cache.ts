import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from '../steps/contract.ts'

interface Tile {
  pic: Pic
  bytes: number
  pins: number
}

/** Tiles by name, bounded in bytes; the least recently used go first, pinned ones never. */
export class TileCache {
  private readonly tiles = new Map<string, Tile>()
  private readonly kernels: Kernels
  readonly limit: number
  private bytes = 0

  constructor(kernels: Kernels, limit: number) {
    this.kernels = kernels
    this.limit = limit
  }

  /** The tile, pinned until released; or null. */
  take(name: string): Pic | null {
    const tile = this.tiles.get(name)
    if (!tile) return null
    this.tiles.delete(name)
    this.tiles.set(name, tile)
    tile.pins++
    return tile.pic
  }

  has(name: string): boolean {
    return this.tiles.has(name)
  }

  /** Hands a picture over to the cache; it is pinned until released. */
  put(name: string, pic: Pic): void {
    const bytes = pic.stride * pic.region.h
    this.tiles.set(name, { pic, bytes, pins: 1 })
    this.bytes += bytes
    while (this.bytes > this.limit && this.evictOne());
  }

  /** As put, where the same thing may have been put meanwhile: then the new one is given back. Pinned until released. */
  putOnce(name: string, pic: Pic): Pic {
    const kept = this.take(name)
    if (!kept) {
      this.put(name, pic)
      return pic
    }
    this.kernels.allocator.free(pic.ptr)
    return kept
  }

  release(name: string): void {
    const tile = this.tiles.get(name)
    if (tile) tile.pins--
  }

  clear(): void {
    while (this.evictOne());
  }

  get size(): { tiles: number; bytes: number } {
    return { tiles: this.tiles.size, bytes: this.bytes }
  }

  /** Gives up the least recently used tile that is not pinned; false where there is none. */
  evictOne(): boolean {
    for (const [name, tile] of this.tiles) {
      if (tile.pins > 0) continue
      this.tiles.delete(name)
      this.bytes -= tile.bytes
      this.kernels.allocator.free(tile.pic.ptr)
      return true
    }
    return false
  }
}
