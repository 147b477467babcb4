import type { Mended } from '../artwork/schema.ts'
import { QuillError } from '../base/errors.ts'
import { hashOf } from '../base/hash.ts'
import { grow, intersect, isEmpty, union, type Region } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { heal } from '../mend/heal.ts'
import { constantOf, emptyPlane, EMPTY_TILE, entryOf, isConstantEntry, PLANE_TILE, tileBytes, withEntries, type Entry, type Plane } from '../planes/plane.ts'
import type { ReadWhole } from './facts.ts'
import type { Node } from './nodes.ts'
import { tilesIn, type PlaneTiles } from './planes.ts'
import type { Request } from './request.ts'
import type { Undertakings } from './undertakings.ts'

export type MendedNode = Extract<Node, { kind: 'mended' }>

/** Planes that are kept, the last ones made. */
const KEPT = 12
/** And what their tiles may take together, where there is more than one. */
const BYTES = 128 * 2 ** 20
/** Pixels round a place that are healed at once, at most. */
const MOST = 24e6
const SIZE = PLANE_TILE * PLANE_TILE

/**
 * What was mended, as planes of four channels that are computed: of each place its source's colours, covering as far as it was painted. One place after the other,
 * each upon what the ones before left, at full size; a further place takes the others as they are. The photo is never touched, and what lies below is read anew where it
 * was changed.
 */
export class MendedPlanes {
  private readonly kernels: Kernels
  private readonly planes: PlaneTiles
  private readonly read: ReadWhole
  private readonly undertakings: Undertakings
  private readonly known = new Map<string, Plane>()
  /** The last of each layer, for the picture under a moving hand. */
  private readonly last = new Map<string, Plane>()

  constructor(kernels: Kernels, planes: PlaneTiles, read: ReadWhole, undertakings: Undertakings) {
    this.kernels = kernels
    this.planes = planes
    this.read = read
    this.undertakings = undertakings
  }

  /** The plane of a node. @throws QuillError `cancelled`, and what reading throws */
  async of(node: MendedNode, request: Request): Promise<Plane> {
    const { below, mended, salt } = node
    const names = mended.map((_, i) => hashOf('mended', salt, below.key, mended.slice(0, i + 1)))
    const name = names.at(-1)!
    const old = this.last.get(node.shape)
    const known = this.known.get(name)
    if (!known && old && (request.lends || (request.frozen && below.shape !== below.key))) return old
    const found = known ?? (await this.undertakings.join(name, request, (own) => this.upTo(node, names, own)))
    this.keep(this.last, node.shape, found)
    return found
  }

  private keep(map: Map<string, Plane>, name: string, plane: Plane): void {
    map.delete(name)
    map.set(name, plane)
    // planes of one layer share what they have in common: each tile is counted once
    const held = () => new Set([...map.values()].flatMap((p) => [...(p.own?.values() ?? [])])).size * tileBytes(4)
    while (map.size > KEPT || (map.size > 1 && held() > BYTES)) map.delete(map.keys().next().value!)
  }

  private async upTo({ below, mended, extent }: MendedNode, names: readonly string[], request: Request): Promise<Plane> {
    let done = names.length
    while (done > 0 && !this.known.has(names[done - 1]!)) done--
    let plane = done > 0 ? this.known.get(names[done - 1]!)! : emptyPlane(4)
    for (let i = done; i < names.length; i++) {
      request.tell?.('Mending', i / names.length)
      plane = await this.withPlace(below, extent, plane, mended[i]!, names[i]!, request)
      this.keep(this.known, names[i]!, plane)
    }
    return plane
  }

  /** The plane with one place more. */
  private async withPlace(below: Node, extent: Region, plane: Plane, place: Mended, name: string, request: Request): Promise<Plane> {
    const covers = await this.coverOf(place, extent)
    if (covers.length === 0) return plane
    const patch = place.way === 'clone' ? null : await this.healed(below, plane, place, covers, extent, request)
    const own = new Map(plane.own)
    const changes: { tx: number; ty: number; entry: Entry }[] = []
    for (const { tx, ty, codes, part } of covers) {
      await request.pause()
      const before = await this.tileOf(plane, tx, ty)
      const taken = patch ? null : await this.picture(below, plane, moved(part, place.dx, place.dy), request)
      const out = new Uint16Array(SIZE * 4)
      out.set(before)
      for (let y = 0; y < part.h; y++)
        for (let x = 0; x < part.w; x++) {
          const at = (part.y - ty * PLANE_TILE + y) * PLANE_TILE + part.x - tx * PLANE_TILE + x
          const cover = codes[at]!
          if (cover === 0) continue
          if (taken) lay(out, at * 4, taken, (y * part.w + x) * 4, cover)
          else lay(out, at * 4, patch!.px, ((part.y + y - patch!.region.y) * patch!.region.w + part.x + x - patch!.region.x) * 4, cover)
        }
      const entry = `made ${hashOf(name, tx, ty)}`
      own.set(entry, new Uint8Array(out.buffer))
      own.delete(entryOf(plane, tx, ty) ?? '')
      changes.push({ tx, ty, entry })
    }
    return { ...withEntries(plane, changes), own }
  }

  /** The tiles that a place covers, and the smallest part of each that holds all of it. */
  private async coverOf(place: Mended, extent: Region): Promise<{ tx: number; ty: number; codes: Uint16Array; part: Region }[]> {
    const cover = await this.planes.open(place.cover!.index, 1)
    const found: { tx: number; ty: number; codes: Uint16Array; part: Region }[] = []
    for (const tile of tilesIn(extent)) {
      const entry = entryOf(cover, tile.tx, tile.ty) ?? EMPTY_TILE
      if (entry === EMPTY_TILE) continue
      let codes: Uint16Array
      if (isConstantEntry(entry)) codes = new Uint16Array(SIZE).fill(Number(constantOf(entry)))
      else {
        const held = await this.planes.tile(entry, 1)
        codes = this.kernels.u16(held.ptr, SIZE).slice()
        held.done()
      }
      const box = boxOf(codes)
      const part = box && intersect({ ...box, x: box.x + tile.x, y: box.y + tile.y }, extent)
      if (part && !isEmpty(part)) found.push({ tx: tile.tx, ty: tile.ty, codes, part })
    }
    return found
  }

  /** All that a place covers, healed: what lies at its source goes over into what lies round it. */
  private async healed(
    below: Node,
    plane: Plane,
    { dx, dy }: Mended,
    covers: readonly { tx: number; ty: number; codes: Uint16Array; part: Region }[],
    extent: Region,
    request: Request,
  ): Promise<{ px: Uint16Array; region: Region }> {
    const all = covers.reduce<Region>((sum, c) => union(sum, c.part), { x: 0, y: 0, w: 0, h: 0 })
    const region = intersect(grow(all, 1), extent)
    if (region.w * region.h > MOST)
      throw new QuillError('paint-refused', 'So large a place cannot be healed at once. Clone it, or heal it in parts; the artwork is as it was.')
    const inside = new Uint8Array(region.w * region.h)
    for (const { tx, ty, codes, part } of covers)
      for (let y = part.y; y < part.y + part.h; y++)
        for (let x = part.x; x < part.x + part.w; x++)
          if (codes[(y - ty * PLANE_TILE) * PLANE_TILE + x - tx * PLANE_TILE]! > 0) inside[(y - region.y) * region.w + x - region.x] = 1
    const there = await this.picture(below, plane, region, request)
    const taken = await this.picture(below, plane, moved(region, dx, dy), request)
    await request.pause()
    await heal(region.w, region.h, taken, there, (i) => inside[i] === 1, request.pause)
    return { px: taken, region }
  }

  /** What lies below with what was mended so far: RGBA codes of a region. */
  private async picture(below: Node, plane: Plane, region: Region, request: Request): Promise<Uint16Array> {
    const { kernels } = this
    const out = await this.read(
      below,
      0,
      { ...request, quick: false, lends: false },
      ({ ptr, stride }) => {
        const px = new Uint16Array(region.w * region.h * 4)
        for (let y = 0; y < region.h; y++) px.set(kernels.u16(ptr + y * stride, region.w * 4), y * region.w * 4)
        return px
      },
      region,
    )
    for (const tile of tilesIn(region)) {
      if (entryOf(plane, tile.tx, tile.ty) === undefined) continue
      const codes = await this.tileOf(plane, tile.tx, tile.ty)
      const part = intersect(tile, region)
      for (let y = part.y; y < part.y + part.h; y++)
        for (let x = part.x; x < part.x + part.w; x++) {
          const from = ((y - tile.y) * PLANE_TILE + x - tile.x) * 4
          if (codes[from + 3]! > 0) lay(out, ((y - region.y) * region.w + x - region.x) * 4, codes, from, 65535)
        }
    }
    return out
  }

  private async tileOf(plane: Plane, tx: number, ty: number): Promise<Uint16Array> {
    const entry = entryOf(plane, tx, ty)
    const bytes = entry === undefined ? undefined : plane.own?.get(entry)
    return bytes ? new Uint16Array(bytes.buffer, bytes.byteOffset, tileBytes(4) / 2) : new Uint16Array(SIZE * 4)
  }
}

const moved = (r: Region, dx: number, dy: number): Region => ({ ...r, x: r.x + dx, y: r.y + dy })

/** Source-over of one pixel, straight alpha (Porter and Duff 1984), by a share of 65535. */
function lay(out: Uint16Array, i: number, from: Uint16Array, j: number, share: number): void {
  const a = (from[j + 3]! * share) / 65535
  if (a === 0) return
  const kept = (out[i + 3]! * (65535 - a)) / 65535
  const sum = a + kept
  for (let c = 0; c < 3; c++) out[i + c] = Math.round((from[j + c]! * a + out[i + c]! * kept) / sum)
  out[i + 3] = Math.round(sum)
}

/** The smallest rectangle of a tile outside of which there is nothing. */
function boxOf(codes: Uint16Array): Region | null {
  let [left, top, right, low] = [PLANE_TILE, PLANE_TILE, -1, -1]
  for (let y = 0, i = 0; y < PLANE_TILE; y++)
    for (let x = 0; x < PLANE_TILE; x++, i++) {
      if (codes[i] === 0) continue
      if (x < left) left = x
      if (x > right) right = x
      if (y < top) top = y
      low = y
    }
  return right < 0 ? null : { x: left, y: top, w: right - left + 1, h: low - top + 1 }
}
