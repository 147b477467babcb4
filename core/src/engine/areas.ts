import { alike, type Likeness } from '../areas/like.ts'
import { outlineOf } from '../areas/outline.ts'
import type { Alike, AreaFrom, AreaHow, AreaOrder } from '../areas/order.ts'
import { AREA, maskAt, planeAt } from '../artwork/planes.ts'
import type { Artwork } from '../artwork/schema.ts'
import { groundOf } from '../artwork/spaces.ts'
import { locate } from '../artwork/layers.ts'
import { QuillError } from '../base/errors.ts'
import { intersect, isEmpty, type Region } from '../base/region.ts'
import { labOfRgb } from '../colour/oklab.ts'
import { transferTables } from '../colour/srgb.ts'
import { edgesOf, PARTS, type Path } from '../paths/path.ts'
import {
  constantEntry,
  constantOf,
  emptyPlane,
  EMPTY_TILE,
  FULL,
  isConstantEntry,
  PLANE_TILE,
  tileBytes,
  withEntries,
  type Entry,
  type Plane,
} from '../planes/plane.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from '../steps/contract.ts'
import { tableIn } from '../steps/table-cache.ts'
import type { Engine } from './engine.ts'
import { GraphCompiler } from './graph.ts'
import type { Node } from './nodes.ts'
import type { Painted } from './painter.ts'
import { fresh, paste } from './pixels.ts'
import { named, PlaneMaker, type Digest } from './plane-maker.ts'
import { tilesIn } from './planes.ts'
import type { Signal } from './request.ts'

// Areas: planes of one channel on the sheet, white inside. What is taken is made tile by tile and put together with what is there.

/** Rows that a picture is read in. */
const BAND = 256
/** How large a picture's likeness may be to be kept for another bound, pixels: three bytes each. */
const KEPT_PIXELS = 40e6
/** Parts of a ΔE in what kernels measure, and of a tone of 0…255. */
const DELTA_PARTS = 128
const TONE_PARTS = 257
/** What counts as an edge: so many ΔE over two pixels, in the halves that kernels measure. */
const EDGE = 2 * 7
/** An area by likeness runs out over so much of its bound more. */
const SOFT = 0.25

/** How two shares of a place go together: 65535 inside. The larger and smaller of both, so that the same taken twice is the same. */
const ways: Record<AreaHow, (a: number, b: number) => number> = {
  instead: (_, b) => b,
  add: (a, b) => (a > b ? a : b),
  away: (a, b) => (a < 65535 - b ? a : 65535 - b),
  share: (a, b) => (a < b ? a : b),
}

/** A picture's likeness to one place, kept from one taking to the next: another bound then takes no new look at the picture. */
export interface AlikeMemory {
  name: string
  likeness: Likeness
}

/** A tile of what is taken: one value, or 65536 codes that are good until the next is asked for. */
type TileOf = (tile: Region & { tx: number; ty: number }) => Entry | Uint16Array

/**
 * Makes the area that an order leaves of the one that is there.
 * @param memory of the last look at the picture, taken over and left behind
 * @throws QuillError `area-empty` where nothing would be left, `area-refused` where there is nothing to act on; what compiling and reading throw
 */
export async function orderedArea(
  engine: Engine,
  artwork: Artwork,
  order: AreaOrder,
  signal: Signal,
  { digest = named, memory = {}, tell }: { digest?: Digest; memory?: { last?: AlikeMemory }; tell?: (share: number) => void } = {},
): Promise<Painted> {
  const upon = order.type === 'take' ? order.upon : undefined
  const now = upon === undefined ? (planeAt(artwork, AREA)!.plane?.index ?? null) : upon
  const there = now ? await engine.planes.open(now, 1) : null
  const make = new AreaMaker(engine, artwork, signal, digest, tell)
  if (order.type === 'edge') {
    if (!now) throw none('moved, softened or rounded')
    const { round, move, soften } = order
    return make.fromNode(make.compiler.compile({ type: 'area', plane: now, round, move, soften }), null, 'instead')
  }
  if (order.type === 'turn-round') {
    if (!there) throw none('turned round')
    return make.together(there, 'away', () => FULL, true)
  }
  const { how, from } = order
  // taking from all, where there is no area yet, is taking from the whole sheet
  const base = there ?? (how === 'away' || how === 'share' ? make.all() : emptyPlane(1))
  return make.taken(base, how, from, memory)
}

const none = (what: string) => new QuillError('area-refused', `There is no area that could be ${what}. Take one first.`)
const EMPTY = 'That would leave no area at all, so nothing was changed.'

class AreaMaker {
  readonly compiler: GraphCompiler

  private readonly engine: Engine
  private readonly artwork: Artwork
  private readonly ground: Region
  private readonly signal: Signal
  private readonly digest: Digest
  private readonly tell: ((share: number) => void) | undefined

  constructor(engine: Engine, artwork: Artwork, signal: Signal, digest: Digest, tell: ((share: number) => void) | undefined) {
    this.engine = engine
    this.artwork = artwork
    this.ground = groundOf(artwork)
    this.signal = signal
    this.digest = digest
    this.tell = tell
    this.compiler = new GraphCompiler(artwork, engine.kernels.hash)
  }

  /** All of the sheet, as a plane. */
  all(): Plane {
    return withEntries(
      emptyPlane(1),
      tilesIn(this.ground).map(({ tx, ty }) => ({ tx, ty, entry: FULL })),
    )
  }

  async taken(base: Plane, how: AreaHow, from: AreaFrom, memory: { last?: AlikeMemory }): Promise<Painted> {
    switch (from.type) {
      case 'all':
        return this.together(base, how, () => FULL)
      case 'kept': {
        const other = await this.engine.planes.open(from.plane, 1)
        return this.fromPlane(base, how, other)
      }
      case 'mask': {
        const mask = maskAt(this.artwork, from.layer, from.step)
        if (!mask) throw new QuillError('area-refused', 'There is no mask that an area could be taken from.')
        return this.fromNode(this.compiler.compile({ type: 'mask', layer: from.layer, step: from.step }), base, how, mask.turnedRound)
      }
      case 'cover': {
        const { layer } = locate(this.artwork.layers, from.layer)
        const node = this.compiler.compile({ type: 'for-plane', layer: layer.id, at: AREA })
        return this.fromNode(node, base, how, false, true)
      }
      case 'alike':
        return this.fromLikeness(base, how, from, memory)
      default: {
        const path = outlineOf(from)
        if (!path) throw new QuillError('area-empty', 'What was drawn goes round nothing. The area is left as it was.')
        return this.fromPath(base, how, path)
      }
    }
  }

  /** Puts what is taken together with a base, tile by tile; where both are one value nothing is computed. */
  async together(base: Plane, how: AreaHow, tileOf: TileOf, turned = false): Promise<Painted> {
    const { engine, ground, signal } = this
    const { kernels, planes } = engine
    const put = ways[how]
    // what was taken away from all is what was out: 65535 less each
    const of = turned ? (a: number) => 65535 - a : put
    const maker = new PlaneMaker(kernels, planes, emptyPlane(1), EMPTY_TILE, this.digest)
    const bytes = tileBytes(1)
    const ptr = kernels.allocator.alloc(bytes)
    let any = false
    try {
      for (const tile of tilesIn(ground)) {
        if (signal.cancelled) throw new QuillError('cancelled', 'Stopped.')
        const { tx, ty } = tile
        const part = intersect(tile, ground)
        const whole = part.w === PLANE_TILE && part.h === PLANE_TILE
        const a = planes.entryAt({ plane: base, blank: EMPTY_TILE }, 0, tx, ty)
        const b = tileOf(tile)
        if (whole && isConstantEntry(a) && typeof b === 'string') {
          const v = of(Number(constantOf(a)), Number(constantOf(b)))
          any ||= v > 0
          maker.put(constantEntry(v), tx, ty)
          continue
        }
        const out = new Uint16Array(PLANE_TILE * PLANE_TILE)
        const held = isConstantEntry(a) ? null : await planes.tile(a, 1)
        const before = held ? kernels.u16(held.ptr, PLANE_TILE * PLANE_TILE) : null
        const one = before ? 0 : Number(constantOf(a))
        const all = typeof b === 'string' ? Number(constantOf(b)) : 0
        const [left, top] = [part.x - tile.x, part.y - tile.y]
        const taken = typeof b === 'string' ? null : b
        let most = 0
        for (let y = top; y < top + part.h; y++)
          for (let i = y * PLANE_TILE + left; i < y * PLANE_TILE + left + part.w; i++) {
            const v = of(before ? before[i]! : one, taken ? taken[i]! : all)
            if (v > most) most = v
            out[i] = v
          }
        any ||= most > 0
        held?.done()
        kernels.u16(ptr, out.length).set(out)
        await maker.keep(ptr, tx, ty)
      }
    } finally {
      kernels.allocator.free(ptr)
    }
    if (!any) throw new QuillError('area-empty', EMPTY)
    return maker.end(ground)
  }

  private async fromPlane(base: Plane, how: AreaHow, other: Plane): Promise<Painted> {
    const { kernels, planes } = this.engine
    const tiles = new Map<Entry, Uint16Array>()
    // together asks in order; what is not one value is fetched first
    for (const { tx, ty } of tilesIn(this.ground)) {
      const entry = planes.entryAt({ plane: other, blank: EMPTY_TILE }, 0, tx, ty)
      if (isConstantEntry(entry) || tiles.has(entry)) continue
      const held = await planes.tile(entry, 1)
      tiles.set(entry, kernels.u16(held.ptr, PLANE_TILE * PLANE_TILE).slice())
      held.done()
    }
    return this.together(base, how, ({ tx, ty }) => {
      const entry = planes.entryAt({ plane: other, blank: EMPTY_TILE }, 0, tx, ty)
      return tiles.get(entry) ?? entry
    })
  }

  private fromPath(base: Plane, how: AreaHow, path: Path): Promise<Painted> {
    const { kernels } = this.engine
    const { points, counts } = edgesOf(path, 0)
    let [left, top, right, low] = [Infinity, Infinity, -Infinity, -Infinity]
    for (let i = 0; i < points.length; i += 2) {
      left = Math.min(left, points[i]! / PARTS)
      right = Math.max(right, points[i]! / PARTS)
      top = Math.min(top, points[i + 1]! / PARTS)
      low = Math.max(low, points[i + 1]! / PARTS)
    }
    const box = { x: Math.floor(left), y: Math.floor(top), w: Math.ceil(right) - Math.floor(left), h: Math.ceil(low) - Math.floor(top) }
    if (isEmpty(intersect(box, this.ground))) throw new QuillError('area-empty', 'That lies beside the sheet. The area is left as it was.')
    return this.together(base, how, (tile) => {
      if (isEmpty(intersect(tile, box))) return EMPTY_TILE
      return kernels.scratch(points.byteLength + counts.byteLength + tileBytes(1) + 64, (at) => {
        const all = new Int32Array(kernels.memory.buffer, at, points.length + counts.length)
        all.set(points)
        all.set(counts, points.length)
        const dst = (at + all.byteLength + 15) & ~15
        kernels.raw.pathCover(at, at + points.byteLength, counts.length, tile.x, tile.y, PLANE_TILE, PLANE_TILE, 0, dst, PLANE_TILE * 2)
        return kernels.u16(dst, PLANE_TILE * PLANE_TILE).slice()
      })
    })
  }

  /**
   * What a node shows, as tones or by what it covers.
   * @param base null: it stands alone
   */
  async fromNode(node: Node, base: Plane | null, how: AreaHow, turned = false, alpha = false): Promise<Painted> {
    const { kernels } = this.engine
    const { x, y, w, h } = this.ground
    const codes = new Uint16Array(w * h)
    const table = tableIn(kernels, turned ? 'tones turned round' : 'mask of tones', () =>
      Uint16Array.from({ length: 65536 }, (_, v) => (turned ? 65535 - v : v)),
    )
    if (node.kind === 'empty') codes.fill(turned ? 65535 : 0)
    else
      await this.read(node, (pic) => {
        const { raw } = kernels
        const size = pic.region.w * pic.region.h
        kernels.scratch(size * 2, (dst) => {
          if (alpha) raw.alphaPicture(pic.ptr, pic.stride, pic.ptr, pic.stride, pic.region.w, pic.region.h)
          raw.lumaMask(pic.ptr, pic.stride, dst, pic.region.w * 2, pic.region.w, pic.region.h, table)
          codes.set(kernels.u16(dst, size), (pic.region.y - y) * w)
        })
      })
    return this.together(base ?? emptyPlane(1), how, tilesOf(codes, { x, y, w, h }))
  }

  /** Reads the ground by bands of its whole width, one row more above and below; each is the reader's own. */
  private async read(node: Node, use: (pic: Pic) => void, border = 0): Promise<void> {
    const { engine, ground, signal } = this
    for (let y = ground.y; y < ground.y + ground.h; y += BAND) {
      const h = Math.min(BAND, ground.y + ground.h - y)
      const region = { x: ground.x - border, y: y - border, w: ground.w + 2 * border, h: h + 2 * border }
      const all = fresh(engine.kernels, region)
      try {
        await engine.bands(node, 0, region, (pic) => paste(engine.kernels, pic, all, pic.region), { signal, keep: 'render' })
        use({ ptr: all.ptr, stride: all.stride, region })
      } finally {
        all.done()
      }
      this.tell?.((y + h - ground.y) / ground.h)
    }
  }

  private async fromLikeness(base: Plane, how: AreaHow, from: Alike, memory: { last?: AlikeMemory }): Promise<Painted> {
    const { ground } = this
    const at = { x: Math.floor(from.x), y: Math.floor(from.y) }
    if (isEmpty(intersect({ ...at, w: 1, h: 1 }, ground))) throw new QuillError('area-empty', 'That lies beside the sheet. The area is left as it was.')
    const node = this.compiler.compile({ type: 'artwork' })
    const edges = from.edges && from.together
    const name = JSON.stringify([node.key, ground, at, from.by, edges])
    if (memory.last?.name !== name) delete memory.last
    const likeness = memory.last?.likeness ?? (await this.look(node, at, from.by, edges))
    if (ground.w * ground.h <= KEPT_PIXELS) memory.last = { name, likeness }
    const parts = from.by === 'colour' ? DELTA_PARTS : TONE_PARTS
    const within = Math.round(Math.max(0, from.within) * parts)
    const codes = alike(likeness, {
      within,
      soft: Math.max(parts, within * SOFT),
      from: from.together ? { x: at.x - ground.x, y: at.y - ground.y } : null,
      edge: EDGE,
    })
    return this.together(base, how, tilesOf(codes, ground))
  }

  /** How unlike each pixel of a picture is to one of its places. */
  private async look(node: Node, at: { x: number; y: number }, by: 'colour' | 'tone', edges: boolean): Promise<Likeness> {
    const { kernels } = this.engine
    const { raw } = kernels
    const { y, w, h } = this.ground
    const unlike = new Uint16Array(w * h)
    const change = edges ? new Uint8Array(w * h) : null
    const square = intersect({ x: at.x - 1, y: at.y - 1, w: 3, h: 3 }, this.ground)
    const seed = await this.engine.withRegion(node, 0, square, (pic) => seedOf(kernels, pic), { signal: this.signal, keep: 'render' })
    const { decode } = transferTables(kernels)
    await this.read(
      node,
      (pic) => {
        const wide = pic.region.w
        const high = pic.region.h
        const first = (pic.region.y + 1 - y) * w
        kernels.scratch(w * (high - 2) * 2, (dst) => {
          if (by === 'tone') {
            // clear is white paper
            const here = pic.ptr + pic.stride + 8
            raw.onWhite(here, pic.stride, w, high - 2)
            raw.lumaMask(
              here,
              pic.stride,
              dst,
              w * 2,
              w,
              high - 2,
              tableIn(kernels, `away from tone ${seed.tone}`, () => Uint16Array.from({ length: 65536 }, (_, v) => Math.abs(v - seed.tone))),
            )
          }
          if (by === 'colour' || edges) {
            raw.labCodes(pic.ptr, pic.stride, pic.ptr, pic.stride, wide, high, decode)
            const here = pic.ptr + pic.stride + 8
            if (by === 'colour') raw.labUnlike(here, pic.stride, dst, w * 2, w, high - 2, ...seed.lab)
          }
          unlike.set(kernels.u16(dst, w * (high - 2)), first)
          if (!change) return
          raw.labContrast(pic.ptr, pic.stride, dst, w, w, high - 2)
          change.set(kernels.bytes(dst, w * (high - 2)), first)
        })
      },
      1,
    )
    return { w, h, unlike, change }
  }
}

/** The mean of some pixels as they are seen on white: its tone, and its Lab in 1/128. */
function seedOf({ raw, u16 }: Kernels, { ptr, stride, region: { w, h } }: Pic): { tone: number; lab: [number, number, number] } {
  const { pow } = raw
  raw.onWhite(ptr, stride, w, h)
  const sum = [0, 0, 0]
  for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) u16(ptr + y * stride + x * 8, 3).forEach((v, c) => (sum[c]! += v))
  const [r, g, b] = sum.map((v) => Math.round(v / (w * h))) as [number, number, number]
  const lab = labOfRgb([r / 65535, g / 65535, b / 65535], pow).map((v) => Math.round(v * DELTA_PARTS)) as [number, number, number]
  // as the kernels' own (BT.709)
  return { tone: Math.floor((r * 13933 + g * 46871 + b * 4732) / 65536), lab }
}

/** Tiles of codes that lie row by row over a region; outside it is empty. */
function tilesOf(codes: Uint16Array, region: Region): TileOf {
  const out = new Uint16Array(PLANE_TILE * PLANE_TILE)
  return (tile) => {
    const part = intersect(tile, region)
    if (part.w < PLANE_TILE || part.h < PLANE_TILE) out.fill(0)
    const n = part.w
    for (let j = 0; j < part.h; j++) {
      const from = (part.y - region.y + j) * region.w + part.x - region.x
      out.set(codes.subarray(from, from + n), (part.y - tile.y + j) * PLANE_TILE + part.x - tile.x)
    }
    return out
  }
}
