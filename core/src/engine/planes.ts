import { QuillError } from '../base/errors.ts'
import { intersect, isEmpty, type Region } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import {
  constantOf,
  entryOf,
  isConstantEntry,
  nameOfBytes,
  parsePage,
  parseRoot,
  PLANE_TILE,
  tileBytes,
  unreadable,
  type Channels,
  type Entry,
  type Page,
  type Plane,
} from '../planes/plane.ts'
import type { Pic } from '../steps/contract.ts'
import type { Request } from './request.ts'
import type { SourceReader } from './sources.ts'
import type { Store } from './store.ts'

/** Planes and names of halved tiles that are remembered. */
const KNOWN_PLANES = 400
const KNOWN_HALVES = 50_000

/** The finest levels, whose tiles are fetched four (and sixteen) at once. */
const SIDE_BY_SIDE = 2

/**
 * The level whose halved tiles the host may keep: a sixteenth of the plane, from which all coarser levels come. A plane that is opened again is shown
 * small without reading all its parts.
 */
export const KEPT_LEVEL = 2

/** Waits for all, and for those that go on when one has failed. */
async function allOf(work: readonly Promise<void>[]): Promise<void> {
  for (const end of await Promise.allSettled(work)) if (end.status === 'rejected') throw end.reason
}

/** A tile in kernel memory; `done` lets go of it. */
export interface HeldTile {
  ptr: number
  done: () => void
}

/** How a plane is read: what its blank tiles are. */
export interface PlaneUse {
  plane: Plane
  blank: Entry
}

/**
 * Tiles of planes in kernel memory, at any level, bounded in bytes. Levels above 0 are means of 2 × 2, made on demand and named by the four tiles they
 * are made of, so that a dab makes anew only what it touched, and undo finds what was.
 */
export class PlaneTiles {
  private readonly kernels: Kernels
  private readonly sources: SourceReader
  private readonly store: Store
  private readonly planes = new Map<string, Plane>()
  private readonly pages = new Map<string, Page>()
  private readonly live = new Map<Entry, number>()
  private readonly halves = new Map<string, Entry>()
  private readonly levels = new WeakMap<Plane, Map<string, Entry>>()
  private count = 0
  /** Where in a tile its bytes are others than those of the tile before it, as far as that is known. */
  private readonly changes = new Map<Entry, { from: Entry; part: Region }>()

  constructor(kernels: Kernels, sources: SourceReader, store: Store) {
    this.kernels = kernels
    this.sources = sources
    this.store = store
  }

  /**
   * A plane by the name of its index.
   * @throws QuillError `plane-unreadable`, `source-unreadable`
   */
  async open(index: string, channels: Channels): Promise<Plane> {
    const known = this.planes.get(index)
    if (known) return known
    const root = parseRoot(await this.blob(index))
    if (root.channels !== channels) throw unreadable(`it has ${root.channels} channels instead of ${channels}`)
    const pages = new Map<string, Page>()
    const all = await Promise.all(root.pages.map(({ name }) => this.page(name, channels)))
    root.pages.forEach(({ at }, i) => pages.set(at, all[i]!))
    const plane = { channels, pages }
    this.remember(index, plane)
    return plane
  }

  /** Lets a plane that was just painted be known by its name. */
  remember(index: string, plane: Plane): void {
    if (this.planes.size >= KNOWN_PLANES) this.planes.delete(this.planes.keys().next().value!)
    this.planes.set(index, plane)
  }

  private async page(name: string, channels: Channels): Promise<Page> {
    let page = this.pages.get(name)
    if (!page) {
      page = parsePage(await this.blob(name), channels)
      if (this.pages.size > KNOWN_PLANES * 4) this.pages.clear()
      this.pages.set(name, page)
    }
    return page
  }

  private async blob(name: string): Promise<Uint8Array> {
    if (!this.sources.blob) throw unreadable('it is not there')
    const bytes = await this.sources.blob(name)
    if (this.sources.guarded?.(name)) return bytes
    const own = this.sources.digest ? await this.sources.digest(bytes) : nameOfBytes(bytes)
    if (own !== name) throw unreadable('a part of it is not what its name says')
    return bytes
  }

  /** A tile that a stroke is working on, under a name of its own until it is dropped or renamed. The memory stays the stroke's. */
  hold(name: Entry, ptr: number): void {
    this.live.set(name, ptr)
  }
  drop(name: Entry): void {
    this.live.delete(name)
  }

  /** Takes over the memory of a finished tile. */
  keep(name: Entry, ptr: number, channels: Channels): void {
    this.live.delete(name)
    this.handOver(name, ptr, channels).done()
  }

  /** Says where a finished tile differs from the one it was painted on; `part` in pixels of the plane. */
  changed(name: Entry, from: Entry, part: Region): void {
    if (this.changes.size > KNOWN_HALVES) this.changes.clear()
    this.changes.set(name, { from, part })
  }

  /** Whether a region of a level shows another thing in two states of a plane. */
  differs(a: PlaneUse, b: PlaneUse, level: number, region: Region): boolean {
    return tilesIn(region).some((tile) => this.tileDiffers(a, b, level, tile.tx, tile.ty, region))
  }

  private tileDiffers(a: PlaneUse, b: PlaneUse, level: number, tx: number, ty: number, region: Region): boolean {
    const old = this.entryAt(a, level, tx, ty)
    const now = this.entryAt(b, level, tx, ty)
    if (old === now) return false
    const side = PLANE_TILE
    if (isEmpty(intersect({ x: tx * side, y: ty * side, w: side, h: side }, region))) return false
    if (level > 0) {
      const finer = { x: region.x * 2, y: region.y * 2, w: region.w * 2, h: region.h * 2 }
      return FOUR.some(([x, y]) => this.tileDiffers(a, b, level - 1, tx * 2 + x, ty * 2 + y, finer))
    }
    const [there, back] = [this.changes.get(now), this.changes.get(old)]
    const part = there?.from === old ? there.part : back?.from === now ? back.part : null
    return !part || !isEmpty(intersect(part, region))
  }

  /** A tile in memory; its bytes are fetched where they are not there. */
  async tile(entry: Entry, channels: Channels, own?: ReadonlyMap<Entry, Uint8Array>): Promise<HeldTile> {
    const live = this.live.get(entry)
    if (live !== undefined) return { ptr: live, done: () => undefined }
    const kept = this.store.take(`plane ${entry}`, () => true)
    if (kept) return { ptr: kept.ptr, done: () => this.store.release(kept) }
    // a newer state of the stroke has taken its place
    if (entry.startsWith('live')) throw new QuillError('cancelled', 'Stopped.')
    const bytes = own?.get(entry) ?? (await this.blob(entry))
    if (bytes.length !== tileBytes(channels)) throw unreadable('a part of it has another size')
    // it may have been fetched twice
    const other = this.store.take(`plane ${entry}`, () => true)
    if (other) return { ptr: other.ptr, done: () => this.store.release(other) }
    const ptr = this.kernels.allocator.alloc(bytes.length)
    this.kernels.bytes(ptr, bytes.length).set(bytes)
    return this.handOver(entry, ptr, channels)
  }

  private handOver(entry: Entry, ptr: number, channels: Channels): HeldTile {
    const stride = PLANE_TILE * channels * 2
    const region = { x: 0, y: 0, w: PLANE_TILE, h: PLANE_TILE }
    // what has to be fetched is dearer than what is halved
    const kept = this.store.put(`plane ${entry}`, { ptr, stride, bytes: stride * PLANE_TILE, region, hi: PLANE_TILE, cost: entry.startsWith('½') ? 1 : 8 })
    return { ptr: kept.ptr, done: () => this.store.release(kept) }
  }

  /** What a tile of a level is: one value, the name of a tile, or the four tiles it is the mean of. */
  entryAt({ plane, blank }: PlaneUse, level: number, tx: number, ty: number): Entry {
    if (level <= 0) return entryOf(plane, tx, ty) ?? blank
    let memo = this.levels.get(plane)
    if (!memo) this.levels.set(plane, (memo = new Map()))
    const at = `${blank}/${level}/${tx},${ty}`
    const known = memo.get(at)
    if (known) return known
    const four = FOUR.map(([x, y]) => this.entryAt({ plane, blank }, level - 1, tx * 2 + x, ty * 2 + y))
    let entry = four[0]!
    if (!isConstantEntry(entry) || four.some((e) => e !== entry)) {
      const name = four.join(' ')
      const half = this.halves.get(name)
      if (half) entry = half
      else {
        if (this.halves.size > KNOWN_HALVES) this.halves.clear()
        this.halves.set(name, (entry = `½${++this.count}`))
      }
    }
    memo.set(at, entry)
    return entry
  }

  /** A tile of a level in memory. */
  private async tileAt(use: PlaneUse, level: number, tx: number, ty: number): Promise<HeldTile> {
    const entry = this.entryAt(use, level, tx, ty)
    const { channels } = use.plane
    const kept = entry.startsWith('½') ? this.store.take(`plane ${entry}`, () => true) : null
    if (kept) return { ptr: kept.ptr, done: () => this.store.release(kept) }
    if (!entry.startsWith('½')) return this.tile(entry, channels, use.plane.own)
    const { raw, allocator } = this.kernels
    const half = PLANE_TILE / 2
    const pixel = channels * 2
    const stride = PLANE_TILE * pixel
    const deep = level === KEPT_LEVEL && this.sources.halved ? this.deepName(use, level, tx, ty) : null
    const known = deep ? await this.sources.halved!(deep).catch(() => null) : null
    const ptr = allocator.alloc(stride * PLANE_TILE)
    if (known?.length === stride * PLANE_TILE) {
      this.kernels.bytes(ptr, known.length).set(known)
      return this.made(entry, ptr, channels)
    }
    try {
      const quarter = async ([x, y]: readonly [number, number]) => {
        const from = this.entryAt(use, level - 1, tx * 2 + x, ty * 2 + y)
        const to = ptr + y * half * stride + x * half * pixel
        if (isConstantEntry(from)) {
          if (channels === 1) raw.fillGrey(to, stride, half, half, Number(constantOf(from)))
          else raw.fillRect(to, stride, half, half, BigInt.asIntN(64, constantOf(from)))
          return
        }
        const tile = await this.tileAt(use, level - 1, tx * 2 + x, ty * 2 + y)
        if (channels === 1) raw.halveGrey(tile.ptr, stride, to, stride, half, half)
        else raw.halve(tile.ptr, stride, PLANE_TILE, PLANE_TILE, to, stride)
        tile.done()
      }
      // parts that come from afar come side by side, not too many at once
      if (level <= SIDE_BY_SIDE) await allOf(FOUR.map(quarter))
      else for (const place of FOUR) await quarter(place)
    } catch (error) {
      allocator.free(ptr)
      throw error
    }
    if (deep) this.sources.keepHalved?.(deep, this.kernels.bytes(ptr, stride * PLANE_TILE).slice())
    return this.made(entry, ptr, channels)
  }

  /** A halved tile, which may have been made by somebody else meanwhile. */
  private made(entry: Entry, ptr: number, channels: Channels): HeldTile {
    const other = this.store.take(`plane ${entry}`, () => true)
    if (!other) return this.handOver(entry, ptr, channels)
    this.kernels.allocator.free(ptr)
    return { ptr: other.ptr, done: () => this.store.release(other) }
  }

  /** What a halved tile is made of, as a name that holds beyond this session; null while a stroke works on a part of it. */
  private deepName(use: PlaneUse, level: number, tx: number, ty: number): string | null {
    const side = 2 ** level
    const parts: Entry[] = []
    for (let y = 0; y < side; y++) for (let x = 0; x < side; x++) parts.push(this.entryAt(use, 0, tx * side + x, ty * side + y))
    if (parts.some((e) => e.startsWith('live') || e.startsWith('made'))) return null
    return nameOfBytes(new TextEncoder().encode(`${use.plane.channels} ${level} ${parts.join(' ')}`))
  }

  /** Reads a region of a level as a picture: planes of one channel become grey and opaque. */
  async read(use: PlaneUse, level: number, out: Pic, request: Request): Promise<void> {
    const { raw } = this.kernels
    const { channels } = use.plane
    const stride = PLANE_TILE * channels * 2
    for (const tile of tilesIn(out.region)) {
      const { tx, ty } = tile
      const part = intersect(tile, out.region)
      const to = out.ptr + (part.y - out.region.y) * out.stride + (part.x - out.region.x) * 8
      const entry = this.entryAt(use, level, tx, ty)
      if (isConstantEntry(entry)) {
        raw.fillRect(to, out.stride, part.w, part.h, BigInt.asIntN(64, pixelOf(entry, channels)))
        continue
      }
      const held = await this.tileAt(use, level, tx, ty)
      try {
        if (request.signal.cancelled) throw new QuillError('cancelled', 'Stopped.')
        const from = held.ptr + (part.y - tile.y) * stride + (part.x - tile.x) * channels * 2
        if (channels === 1) raw.greyPicture(from, stride, to, out.stride, part.w, part.h)
        else raw.copyRect(from, stride, to, out.stride, part.w * 8, part.h)
      } finally {
        held.done()
      }
    }
  }

  /** Names all that a region of a level shows: same stamp, same pixels. */
  stamp(use: PlaneUse, level: number, region: Region): string {
    return tilesIn(region)
      .map(({ tx, ty }) => this.entryAt(use, Math.max(0, level), tx, ty))
      .join(' ')
  }
}

const FOUR = [
  [0, 0],
  [1, 0],
  [0, 1],
  [1, 1],
] as const

/** The tiles that a region touches. */
export function tilesIn({ x, y, w, h }: Region): (Region & { tx: number; ty: number })[] {
  const tiles: (Region & { tx: number; ty: number })[] = []
  for (let ty = Math.floor(y / PLANE_TILE); ty * PLANE_TILE < y + h; ty++)
    for (let tx = Math.floor(x / PLANE_TILE); tx * PLANE_TILE < x + w; tx++)
      tiles.push({ tx, ty, x: tx * PLANE_TILE, y: ty * PLANE_TILE, w: PLANE_TILE, h: PLANE_TILE })
  return tiles
}

/** The RGBA16 pixel that a constant tile shows. */
function pixelOf(entry: Entry, channels: Channels): bigint {
  const v = constantOf(entry)
  return channels === 4 ? v : v | (v << 16n) | (v << 32n) | (0xffffn << 48n)
}
