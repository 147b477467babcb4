import { intersect, isEmpty, union, type Region } from '../base/region.ts'
import { QuillError } from '../base/errors.ts'
import type { Kernels } from '../kernels/kernels.ts'
import {
  constantEntry,
  constantOf,
  constantPixel,
  entryOf,
  indexOf,
  isConstantEntry,
  nameOfBytes,
  PLANE_TILE,
  tileBytes,
  withEntries,
  type Blob,
  type Entry,
  type Plane,
} from '../planes/plane.ts'
import type { Symmetry } from '../strokes/brush.ts'
import type { Matrix } from '../base/transform.ts'
import { dabAt, dabThrough, repeated, type Dab, type Sized } from '../strokes/dabs.ts'
import { StrokePath, type Sample } from '../strokes/path.ts'
import { faceOf, groundHeights, tips } from '../strokes/tips.ts'
import { tableIn } from '../steps/table-cache.ts'
import { doubledWay } from '../study/painted.ts'
import { tilesIn, type HeldTile, type PlaneTiles } from './planes.ts'

/**
 * What a stroke does: it draws a plane of one channel towards a value, lays a colour (RGB codes in the low 48 bits) or the way it goes (red and green hold the
 * cosine and sine of twice its angle, a half for 0), or takes away what covers.
 */
export type Laying = { type: 'grey'; value: number } | { type: 'paint'; colour: bigint } | { type: 'comb' } | { type: 'erase' }

export interface StrokeStart {
  plane: Plane
  blank: Entry
  brush: Sized
  symmetry: Symmetry
  laying: Laying
  /** Where there is something to paint on. */
  within: Region
  /** From where the hand is to where it is painted; the same, where it is left out. */
  way?: Matrix
  /** The paper whose heights the brush catches on: how far its peaks stand apart, pixels; null: a rough ground of the brush's own. */
  paper?: { pitch: number; seed: number } | null
  /** The area that it is held to, tile by tile; everywhere, where it is left out. */
  area?: AreaTiles
}

/** An area's tiles in the space of a plane: all of one is in, nothing is, or 256 × 256 codes of 16 bits in kernel memory. */
export type AreaTiles = (tx: number, ty: number) => Promise<'all' | 'none' | HeldTile>

/** What a finished stroke left: the plane, what is new under names, and where it changed. */
export interface Painted {
  index: string
  plane: Plane
  blobs: Blob[]
  damage: Region
}

interface Tile {
  tx: number
  ty: number
  /** Cover of the stroke, floats. */
  cover: number
  /** The plane's bytes before the stroke: of a kept tile, held until the end, or of one that all blank ones share. */
  base: number
  letGo: () => void
  /** And with it. */
  live: number
  name: Entry
  /** How much of it is in the area. */
  area: 'all' | 'none' | HeldTile
  /** Heights of the paper there, once they are needed. */
  ground: number
  /** What of it was changed by the last portion, and by the whole stroke; pixels of the plane. */
  fresh: Region
  all: Region
}

const NOTHING: Region = { x: 0, y: 0, w: 0, h: 0 }
/** How steeply hairs and ground take what stands up. */
const FACE_GAIN = 5
const GROUND_GAIN = 3.5
/** Samples that one stroke may have: hours. */
const LONGEST = 200_000

/** Names of running tiles are never used again. */
let running = 0

/**
 * One stroke on a plane. What it covers is summed in floats and merged into the plane's own pixels once, so a thousand faint dabs lose nothing, and the
 * same samples give the same bits in whatever portions they come.
 */
export class Painter {
  private readonly kernels: Kernels
  private readonly planes: PlaneTiles
  private readonly start: StrokeStart
  private readonly path: StrokePath
  private readonly tiles = new Map<string, Tile>()
  /** Tiles of one value, by that. */
  private readonly constants = new Map<Entry, number>()
  private waiting: Dab[] = []
  private dabs = 0
  /** The colour the brush carries, 0…1, where it picks up what it goes over, or lays its way. */
  private readonly carried: [number, number, number] | null
  private samples = 0
  /** The plane as it is now; its changed tiles have names of their own. */
  plane: Plane

  constructor(kernels: Kernels, planes: PlaneTiles, start: StrokeStart) {
    this.kernels = kernels
    this.planes = planes
    this.start = start
    this.plane = start.plane
    const { brush, symmetry, laying } = start
    this.carried =
      laying.type === 'comb'
        ? [0.5, 0.5, 0]
        : laying.type === 'paint' && brush.pickUp > 0
          ? ([0n, 16n, 32n].map((shift) => Number((laying.colour >> shift) & 0xffffn) / 65535) as [number, number, number])
          : null
    this.path = new StrokePath(brush.steadiness * brush.breadth, (at) => {
      const { dab, next } = dabAt(brush, at, this.dabs++)
      if (dab.cover > 0) for (const d of repeated(dab, symmetry)) this.waiting.push(...(start.way ? dabThrough(start.way, d) : [d]))
      return next
    })
  }

  /**
   * Goes on with the stroke. @returns where the plane changed, pixels
   * @throws QuillError `paint-refused` for a stroke without end
   */
  async add(samples: readonly Sample[]): Promise<Region> {
    this.samples += samples.length
    if (this.samples > LONGEST)
      throw new QuillError('paint-refused', `A stroke may have ${LONGEST} points. What it laid so far can be kept: lift the brush and set it down again.`)
    for (const s of samples) this.path.add(s)
    return this.lay()
  }

  /** The pen was lifted: the rest of its line. */
  finish(): Promise<Region> {
    this.path.finish()
    return this.lay()
  }

  private async lay(): Promise<Region> {
    const { start } = this
    const dabs = this.waiting
    this.waiting = []
    const touched = new Set<Tile>()
    for (const dab of dabs) {
      const box = intersect(boxOf(dab), start.within)
      if (isEmpty(box)) continue
      if (start.laying.type === 'comb') {
        const { x, y } = doubledWay(dab.dx, dab.dy)
        Object.assign(this.carried!, [0.5 + 0.5 * x, 0.5 + 0.5 * y])
      } else if (this.carried) await this.pickUp(dab, this.carried)
      for (const place of tilesIn(box)) {
        const tile = await this.tileAt(place.tx, place.ty)
        if (tile.area === 'none') continue
        const part = intersect(place, box)
        touched.add(tile)
        tile.fresh = union(tile.fresh, part)
        this.dab(tile, dab, part)
      }
    }
    const changes: { tx: number; ty: number; entry: Entry }[] = []
    let damage = NOTHING
    for (const tile of touched) {
      this.merge(tile, tile.fresh)
      damage = union(damage, tile.fresh)
      tile.all = union(tile.all, tile.fresh)
      this.planes.drop(tile.name)
      const before = entryOf(this.plane, tile.tx, tile.ty) ?? start.blank
      tile.name = `live ${++running}`
      this.planes.changed(tile.name, before, tile.fresh)
      tile.fresh = NOTHING
      this.planes.hold(tile.name, tile.live)
      changes.push({ tx: tile.tx, ty: tile.ty, entry: tile.name })
    }
    if (changes.length) this.plane = withEntries(this.plane, changes)
    return damage
  }

  private dab(tile: Tile, dab: Dab, part: Region): void {
    const { kernels } = this
    const { brush } = this.start
    const tip = tips[brush.tip]
    const heights = tip.face ? tableIn(kernels, `tip ${brush.tip}`, () => faceOf(tip)!) : 0
    const ground = dab.ground > 0 ? this.groundOf(tile) : 0
    kernels.scratch(64, (ptr) => {
      const { x, y } = part
      kernels
        .f32(ptr, 13)
        .set([
          x + 0.5 - dab.x,
          y + 0.5 - dab.y,
          dab.cos,
          dab.sin,
          1 / dab.rx,
          1 / dab.ry,
          1 / dab.soft,
          dab.cover,
          brush.most,
          dab.face,
          FACE_GAIN,
          dab.ground,
          GROUND_GAIN,
        ])
      const place = (y - tile.ty * PLANE_TILE) * PLANE_TILE + (x - tile.tx * PLANE_TILE)
      const { carried } = this
      if (carried) kernels.raw.dabColour(tile.cover + place * 16, PLANE_TILE * 16, part.w, part.h, ptr, heights, ground, x & 255, y & 255, ...carried)
      else kernels.raw.dab(tile.cover + place * 4, PLANE_TILE * 4, part.w, part.h, ptr, heights, ground, x & 255, y & 255)
    })
  }

  /** Lets the brush take on the colour that lies in the middle of where it comes down: of the plane with what the stroke has laid so far. */
  private async pickUp(dab: Dab, carried: [number, number, number]): Promise<void> {
    const { kernels, start } = this
    const { pickUp } = start.brush
    const at = { x: Math.floor(dab.x), y: Math.floor(dab.y), w: 1, h: 1 }
    if (isEmpty(intersect(at, start.within))) return
    const [place] = tilesIn(at)
    const tile = await this.tileAt(place!.tx, place!.ty)
    const offset = (at.y - place!.y) * PLANE_TILE + (at.x - place!.x)
    kernels.scratch(16, (out) => {
      kernels.raw.mergeColours(tile.base + offset * 8, 8, tile.cover + offset * 16, 16, out, 8, 1, 1, 0)
      const codes = kernels.u16(out, 4)
      const share = pickUp * (codes[3]! / 65535)
      for (let c = 0; c < 3; c++) carried[c]! += (codes[c]! / 65535 - carried[c]!) * share
    })
  }

  /** Heights under a tile, 256 × 256 from its first pixel. */
  private groundOf(tile: Tile): number {
    const { kernels } = this
    const { paper } = this.start
    if (!paper) return tableIn(kernels, 'rough ground', groundHeights)
    if (!tile.ground) {
      tile.ground = kernels.allocator.alloc(PLANE_TILE * PLANE_TILE * 2)
      kernels.raw.toothHeights(tile.ground, PLANE_TILE * 2, PLANE_TILE, PLANE_TILE, tile.tx * PLANE_TILE, tile.ty * PLANE_TILE, 1 / paper.pitch, paper.seed)
    }
    return tile.ground
  }

  private merge(tile: Tile, part: Region): void {
    const { raw } = this.kernels
    const offset = (part.y - tile.ty * PLANE_TILE) * PLANE_TILE + (part.x - tile.tx * PLANE_TILE)
    const own = this.carried ? 16 : 4
    const { area } = tile
    if (typeof area === 'object') {
      const bytes = PLANE_TILE * own
      this.kernels.scratch(part.h * bytes, (held) => {
        raw.heldCover(tile.cover + offset * own, bytes, area.ptr + offset * 2, PLANE_TILE * 2, held, bytes, part.w, part.h, own / 4)
        this.mergeCover(tile, part, offset, held)
      })
    } else this.mergeCover(tile, part, offset, tile.cover + offset * own)
  }

  private mergeCover(tile: Tile, part: Region, offset: number, cover: number): void {
    const { raw } = this.kernels
    const { laying, brush, plane } = this.start
    const pixel = plane.channels * 2
    const stride = PLANE_TILE * pixel
    const own = this.carried ? 16 : 4
    const { wet } = tips[brush.tip]
    const [base, live] = [tile.base + offset * pixel, tile.live + offset * pixel]
    if (this.carried) raw.mergeColours(base, stride, cover, PLANE_TILE * own, live, stride, part.w, part.h, wet)
    else if (laying.type === 'grey') raw.mergeGrey(base, stride, cover, PLANE_TILE * 4, live, stride, part.w, part.h, laying.value, wet)
    else {
      const colour = laying.type === 'paint' ? laying.colour : 0n
      raw.mergePaint(base, stride, cover, PLANE_TILE * 4, live, stride, part.w, part.h, colour, laying.type === 'erase' ? 1 : 0, wet)
    }
  }

  private async tileAt(tx: number, ty: number): Promise<Tile> {
    const at = `${tx},${ty}`
    const known = this.tiles.get(at)
    if (known) return known
    const { kernels } = this
    const { plane, blank } = this.start
    const bytes = tileBytes(plane.channels)
    const entry = entryOf(plane, tx, ty) ?? blank
    const held = isConstantEntry(entry) ? null : await this.planes.tile(entry, plane.channels)
    const letGo = held?.done ?? (() => undefined)
    try {
      const area = (await this.start.area?.(tx, ty)) ?? 'all'
      const base = held?.ptr ?? this.constant(entry)
      const covered = PLANE_TILE * PLANE_TILE * (this.carried ? 16 : 4)
      const cover = kernels.allocator.alloc(covered)
      kernels.bytes(cover, covered).fill(0)
      const live = kernels.allocator.alloc(bytes)
      kernels.raw.copyRect(base, bytes, live, bytes, bytes, 1)
      const tile: Tile = { tx, ty, cover, base, letGo, live, name: '', area, ground: 0, fresh: NOTHING, all: NOTHING }
      this.tiles.set(at, tile)
      return tile
    } catch (error) {
      letGo()
      throw error
    }
  }

  /** A tile of one value, made once a stroke. */
  private constant(entry: Entry): number {
    const known = this.constants.get(entry)
    if (known) return known
    const { kernels } = this
    const { channels } = this.start.plane
    const ptr = kernels.allocator.alloc(tileBytes(channels))
    if (channels === 1) kernels.raw.fillGrey(ptr, PLANE_TILE * 2, PLANE_TILE, PLANE_TILE, Number(constantOf(entry)))
    else kernels.raw.fillRect(ptr, PLANE_TILE * 8, PLANE_TILE, PLANE_TILE, BigInt.asIntN(64, constantOf(entry)))
    this.constants.set(entry, ptr)
    return ptr
  }

  /**
   * Names what the stroke left by its bytes and hands it over; the stroke is over.
   * @param digest SHA-256 in hexadecimal, where the host has a faster one
   */
  async end(digest: (bytes: Uint8Array) => Promise<string> = async (bytes) => nameOfBytes(bytes)): Promise<Painted> {
    const { kernels, planes, start } = this
    const { channels } = start.plane
    const bytes = tileBytes(channels)
    const blobs: Blob[] = []
    const changes: { tx: number; ty: number; entry: Entry | null }[] = []
    let damage = NOTHING
    for (const tile of this.tiles.values()) {
      const before = entryOf(start.plane, tile.tx, tile.ty) ?? start.blank
      let entry: Entry
      if (kernels.raw.isConstant(tile.live, bytes, channels * 2)) {
        const codes = kernels.u16(tile.live, 4)
        entry =
          channels === 1
            ? constantEntry(codes[0]!)
            : constantPixel(BigInt(codes[0]!) | (BigInt(codes[1]!) << 16n) | (BigInt(codes[2]!) << 32n) | (BigInt(codes[3]!) << 48n))
      } else {
        const copy = kernels.bytes(tile.live, bytes).slice()
        entry = await digest(copy)
        if (entry !== before) blobs.push({ name: entry, bytes: copy })
      }
      changes.push({ tx: tile.tx, ty: tile.ty, entry: entry === start.blank ? null : entry })
      if (entry !== before) {
        damage = union(damage, tile.all)
        planes.changed(entry, before, tile.all)
      }
      planes.drop(tile.name)
      if (!isConstantEntry(entry)) {
        planes.keep(entry, tile.live, channels)
        tile.live = 0
      }
    }
    const plane = withEntries(start.plane, changes)
    const { root, pages } = indexOf(plane)
    const old = new Set(indexOf(start.plane).pages.map((p) => p.name))
    blobs.push(...pages.filter((p) => !old.has(p.name)), root)
    planes.remember(root.name, plane)
    this.cancel()
    return { index: root.name, plane, blobs, damage }
  }

  /** Gives the stroke up. */
  cancel(): void {
    const { allocator } = this.kernels
    for (const tile of this.tiles.values()) {
      this.planes.drop(tile.name)
      allocator.free(tile.cover)
      tile.letGo()
      if (typeof tile.area === 'object') tile.area.done()
      if (tile.live) allocator.free(tile.live)
      if (tile.ground) allocator.free(tile.ground)
    }
    this.tiles.clear()
    for (const ptr of this.constants.values()) allocator.free(ptr)
    this.constants.clear()
    this.plane = this.start.plane
  }
}

/** The pixels that a dab reaches. */
function boxOf({ x, y, rx, ry, cos, sin }: Dab): Region {
  // of an ellipse turned
  const w = Math.sqrt(rx * rx * cos * cos + ry * ry * sin * sin)
  const h = Math.sqrt(rx * rx * sin * sin + ry * ry * cos * cos)
  const left = Math.floor(x - w)
  const top = Math.floor(y - h)
  return { x: left, y: top, w: Math.ceil(x + w) - left, h: Math.ceil(y + h) - top }
}
