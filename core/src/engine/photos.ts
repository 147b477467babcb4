import { QuillError } from '../base/errors.ts'
import { intersect } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from '../steps/contract.ts'
import { fresh, paste } from './pixels.ts'
import type { Request } from './request.ts'
import { levelSize, SOURCE_TILE, type SourceInfo, type SourceReader } from './sources.ts'
import type { Kept, Store } from './store.ts'

/** Tiles that are asked for side by side. */
const COMING = 16
/** Tiles in a row from which on the picture is read whole, from the top: the next row is asked for ahead. */
const WIDE = 5
/** Tiles asked for ahead, at most. */
const AHEAD = 48

/** Reads stored photos, keeping their unpacked tiles. */
export class Photos {
  private readonly kernels: Kernels
  private readonly sources: SourceReader
  private readonly infos = new Map<string, SourceInfo>()
  /** When the last tile was unpacked. */
  private last = 0
  private readonly store: Store
  /** Tiles asked for before they are needed. */
  private readonly ahead = new Map<string, Promise<Uint8Array>>()

  /** @param store where unpacked tiles are kept */
  constructor(kernels: Kernels, sources: SourceReader, store: Store) {
    this.kernels = kernels
    this.sources = sources
    this.store = store
  }

  /** Throws QuillError `missing-photo`, `source-unreadable`. */
  async info(asset: string): Promise<SourceInfo> {
    let info = this.infos.get(asset)
    if (!info) this.infos.set(asset, (info = await this.sources.info(asset)))
    return info
  }

  /** Reads a region inside a stored level of a photo into `out`. */
  async read(asset: string, info: SourceInfo, level: number, out: Pic, request: Request): Promise<void> {
    const { region } = out
    const tiles: { tx: number; ty: number; name: string }[] = []
    for (let ty = Math.floor(region.y / SOURCE_TILE); ty * SOURCE_TILE < region.y + region.h; ty++)
      for (let tx = Math.floor(region.x / SOURCE_TILE); tx * SOURCE_TILE < region.x + region.w; tx++) tiles.push({ tx, ty, name: nameOf(asset, level, tx, ty) })
    const coming = new Map<string, Promise<Uint8Array>>()
    let asked = 0
    for (const [i, { tx, ty, name }] of tiles.entries()) {
      let kept = this.store.take(name, () => true)
      if (!kept) {
        // the next ones that are not here yet are read side by side
        for (; asked < tiles.length && (asked <= i || coming.size < COMING); asked++) {
          const next = tiles[asked]!
          if (asked > i && this.store.has(next.name)) continue
          coming.set(next.name, this.fetch(asset, level, next.tx, next.ty))
        }
        const waiting = performance.now()
        const bytes = await (coming.get(name) ?? this.fetch(asset, level, tx, ty))
        coming.delete(name)
        if (request.signal.cancelled) throw new QuillError('cancelled', 'Stopped.')
        // what it would cost to have it again, the way here included
        kept = this.unpack(name, bytes, info, level, tx, ty, asset, Math.max(waiting, this.last))
        this.last = performance.now()
      }
      paste(this.kernels, kept, out, region)
      this.store.release(kept)
    }
    const last = tiles.at(-1)
    const row = last ? tiles.filter((t) => t.ty === last.ty) : []
    if (row.length < WIDE || (last!.ty + 1) * SOURCE_TILE >= levelSize(info, level).h) return
    for (const { tx, ty } of row) {
      const name = nameOf(asset, level, tx, ty + 1)
      if (this.ahead.size < AHEAD && !this.ahead.has(name) && !this.store.has(name)) this.ahead.set(name, this.fetch(asset, level, tx, ty + 1))
    }
  }

  /** Asks for a tile; a failure is told where it is awaited. */
  private fetch(asset: string, level: number, tx: number, ty: number): Promise<Uint8Array> {
    const name = nameOf(asset, level, tx, ty)
    const ahead = this.ahead.get(name)
    this.ahead.delete(name)
    if (ahead) return ahead
    const bytes = this.sources.tile(asset, level, tx, ty)
    // one that failed is asked for anew
    bytes.catch(() => this.ahead.delete(name))
    return bytes
  }

  private unpack(name: string, bytes: Uint8Array, info: SourceInfo, level: number, tx: number, ty: number, asset: string, started: number): Kept {
    const region = intersect({ x: tx * SOURCE_TILE, y: ty * SOURCE_TILE, w: SOURCE_TILE, h: SOURCE_TILE }, { x: 0, y: 0, ...levelSize(info, level) })
    const rowBytes = region.w * info.channels * (info.depth / 8)
    if (bytes.length !== rowBytes * region.h)
      throw new QuillError('source-unreadable', 'A part of the photo could not be read. The artwork is safe; add the photo again.', { asset })
    const { kernels } = this
    const pic = fresh(kernels, region)
    kernels.scratch(bytes.length, (ptr) => {
      kernels.bytes(ptr, bytes.length).set(bytes)
      kernels.raw.unpack(ptr, rowBytes, pic.ptr, pic.stride, region.w, region.h, info.channels, info.depth)
    })
    return this.store.put(name, {
      ptr: pic.ptr,
      stride: pic.stride,
      bytes: region.w * region.h * 8,
      region,
      hi: region.y + region.h,
      cost: performance.now() - started,
    })
  }
}

const nameOf = (asset: string, level: number, tx: number, ty: number) => `source ${asset}/${level}/${tx},${ty}`
