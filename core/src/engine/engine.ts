import type { Study } from '../study/study.ts'
import { QuillError } from '../base/errors.ts'
import { atLevel, contains, intersect, isEmpty, union, type Region } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from '../steps/contract.ts'
import { StageBuilder, type Workshop } from './build.ts'
import { Facts, type ReadWhole } from './facts.ts'
import type { Node } from './nodes.ts'
import { coarsestAt, type StepNode } from './levels.ts'
import { Inks } from './inks.ts'
import { MendedPlanes } from './mended.ts'
import { Photos } from './photos.ts'
import { PlaneTiles, type PlaneUse } from './planes.ts'
import { Stamps } from './stamps.ts'
import { fresh, partOf, paste, type Lent } from './pixels.ts'
import { newRequest, type Request, type Signal, type Turns } from './request.ts'
import type { SourceReader } from './sources.ts'
import type { Stage } from './stage.ts'
import { Store, type Kept } from './store.ts'
import { Stream } from './stream.ts'
import { Tables } from './tables.ts'
import { Undertakings } from './undertakings.ts'

/** What is to be computed, and how. */
export interface Asked {
  signal?: Signal
  /** For the picture under a moving hand: a step's word that it should be computed finer (`coarsest`) is a wish only. */
  quick?: boolean
  /** Leaves one core to the page. */
  alone?: boolean
  /** Facts and plans stay as they were last found: for the picture under a brush. */
  frozen?: boolean
  /** A plan that is still to be laid is stood in for by the last one over the same input: for quick pictures. */
  lends?: boolean
  /** Told how far a plan is that the picture waits for. */
  tell?: (title: string, share: number) => void
  /**
   * What of the intermediate pictures is kept for the requests that come: of `view`s what fits, first what `first` names by node key (the
   * inputs of what is being edited); of a `render` nothing.
   */
  keep?: 'view' | 'small' | 'render'
  first?: (key: string) => boolean
  /** Of those that are kept, only what this allows, by node key: what an edit has just made is made anew by the next. */
  may?: (key: string) => boolean
  /** Pixels worked on at once; for tests. */
  piece?: number
}

/** What of the engine's memory kept pictures may take, and what is held while one is computed. */
const KEPT_SHARE = 0.6
/** What unpacked tiles of photos may take besides: at least, and of the engine's memory. */
const PHOTO_BYTES = 64 * 2 ** 20
const PHOTO_SHARE = 0.2
/** The same of planes. */
const PLANE_BYTES = 32 * 2 ** 20
const PLANE_SHARE = 0.25
/** Tiles of views of which is remembered what was painted under them. */
const REMEMBERED = 4000
/** Pictures to keep of one request, of what may be kept. */
const REQUEST_SHARE = 0.6
/** And one picture at most, unless it is what is read by what was edited: else it costs more room than it saves time. */
const ONE_SHARE = 0.15
/** Width of the columns into which a picture is divided where whole rows do not fit, at least; and what of the memory their rows are gathered in. */
const COLUMN = 256
const GATHERED_SHARE = 0.25
/** What more columns may take than what is kept beside them leaves: they keep nothing themselves. */
const COLUMNS_SHARE = 1.75
/** Pixels worked on at once in a column, at least, where that fits. */
const GOOD_PIECE = 1 << 18
/** Places a row and a column at which a column is tried. */
const TRIALS = 3
/** Side of the tiles that a view is kept in. */
export const VIEW_TILE = 512
/** What of a tile may have been painted over for the rest to be copied. */
const WORTH_MENDING = 0.5

/**
 * Computes regions of graph nodes. One an instance of the kernels. Requests may be made while others are running: they share what is kept
 * and the memory, nothing else.
 */
export class Engine {
  readonly kernels: Kernels
  readonly store: Store
  /** Unpacked tiles of photos: by themselves, or each row of them would drive out what took long to make. */
  private readonly photoTiles: Store
  private readonly planeTiles: Store
  /** What is painted by hand. */
  readonly planes: PlaneTiles
  /** What is drawn by hand, as strokes. */
  readonly inks: Inks
  /** Of tiles of views, by shape and place: under which name they are kept, and what was painted under them. */
  private readonly shown = new Map<string, { name: string; uses: ReadonlyMap<string, PlaneUse> }>()
  private readonly shop: Workshop
  private readonly turns: Turns
  private readonly bytes: number
  /** Pieces of work done since the start, a stage and a region each; for tests and the bench. */
  runs = 0
  /** Told of each piece of work; for tests. */
  onRun: ((stage: Stage, region: Region) => void) | null = null

  /**
   * @param breathe lets waiting events happen (a macrotask)
   * @param bytes how much kernel memory pictures may take, kept ones and those held while one is computed
   */
  constructor(kernels: Kernels, sources: SourceReader, breathe: () => Promise<void>, bytes = 384 * 2 ** 20) {
    this.kernels = kernels
    this.bytes = bytes
    this.turns = { last: 0, breathe }
    this.store = new Store(kernels, bytes)
    this.photoTiles = new Store(kernels, Math.max(PHOTO_BYTES, bytes * PHOTO_SHARE))
    const photos = new Photos(kernels, sources, this.photoTiles)
    const whole: ReadWhole = (node, level, request, use, region) => this.whole(node, level, request, use, region)
    const undertakings = new Undertakings(this.turns)
    const facts = new Facts(kernels, whole, undertakings)
    // tables are made by the kernels' instance alone
    this.planeTiles = new Store(kernels, Math.max(PLANE_BYTES, bytes * PLANE_SHARE))
    this.planes = new PlaneTiles(kernels, sources, this.planeTiles)
    this.inks = new Inks(sources)
    this.shop = {
      kernels,
      photos,
      facts,
      tables: new Tables(kernels),
      planes: this.planes,
      inks: this.inks,
      mended: new MendedPlanes(kernels, this.planes, whole, undertakings),
    }
    kernels.allocator.onPressure = () => this.photoTiles.evictOne() || this.store.evictOne() || this.planeTiles.evictOne()
  }

  /**
   * Computes a region of a node and shows it to `use` while it is in memory. It may reach beyond the node; there it is clear.
   * @throws QuillError `cancelled` when the signal is set, `missing-photo`, `source-unreadable`, `out-of-memory`, `kernel-failed`
   */
  withRegion<T>(node: Node, level: number, region: Region, use: (pic: Pic) => T | Promise<T>, asked: Asked = {}): Promise<T> {
    return named(async () => {
      const request = newRequest(this.turns, asked)
      const stage = await new StageBuilder(this.shop, request).stageOf(node, level)
      return this.gathered(stage, region, request, asked, use)
    })
  }

  /** Computes a region and hands it out by bands of its full width, from the top. Errors as withRegion. */
  bands(node: Node, level: number, region: Region, onBand: (pic: Pic) => void | Promise<void>, asked: Asked = {}): Promise<void> {
    return named(async () => {
      const request = newRequest(this.turns, asked)
      const stage = await new StageBuilder(this.shop, request).stageOf(node, level)
      await this.flow(stage, region, request, asked, onBand)
    })
  }

  /**
   * What a view shows: handed out part by part, what is kept of it at once. Computed in whole tiles, which are kept.
   * @param settled of the full-size result, reduced to the level (`bounds`: the sheet); what is delivered is what is judged then
   * @param onPart called with pixels inside `region` until all of it was covered
   */
  view(
    { node, level, region, settled }: { node: Node; level: number; region: Region; settled?: { sheet: Region } },
    onPart: (pic: Pic) => void | Promise<void>,
    asked: Asked = {},
  ): Promise<void> {
    return named(async () => {
      const request = newRequest(this.turns, asked)
      const builder = new StageBuilder(this.shop, request)
      const bounds = settled ? union(node.extent, settled.sheet) : node.extent
      const stage = settled ? await builder.settled(node, level, bounds) : await builder.stageOf(node, level)
      const extent = atLevel(bounds, level)
      // under a moving hand nothing is seen twice
      if (request.quick) return this.flow(stage, region, request, asked, onPart)
      const missing: Region[] = []
      const stamps = new Stamps(stage, this.planes)
      const nameOf = (tile: Region) => this.tileName(stage, stamps, tile, extent)
      for (const tile of tilesOf(region, VIEW_TILE)) {
        // what of the view lies beyond the picture is not in a tile
        const holds = (k: Kept) => contains(k.region, intersect(tile, region))
        let kept = this.store.take(nameOf(tile), holds)
        if (!kept && stamps.any && (await this.mend(stage, stamps, tile, extent, request, asked))) kept = this.store.take(nameOf(tile), holds)
        if (!kept) {
          missing.push(tile)
          continue
        }
        try {
          await onPart(partOf(kept, intersect(kept.region, region)))
        } finally {
          this.store.release(kept)
        }
      }
      const all = missing.length === tilesOf(region, VIEW_TILE).length
      // what is only panned into leaves the larger pictures that are kept
      const how: Asked = all ? asked : { ...asked, keep: 'render' }
      for (const part of joined(missing)) await this.tiles(stage, stamps, part, region, extent, request, how, onPart)
    })
  }

  /**
   * What of a picture under a brush has changed since it was last shown, as under a moving hand.
   * @param before what the last call gave back; null: all of it is shown
   */
  painted(
    { node, level, region }: { node: Node; level: number; region: Region },
    before: ReadonlyMap<string, PlaneUse> | null,
    onPart: (pic: Pic) => void | Promise<void>,
    asked: Asked = {},
  ): Promise<ReadonlyMap<string, PlaneUse>> {
    return named(async () => {
      const how = { ...asked, quick: true, frozen: true }
      const request = newRequest(this.turns, how)
      const stage = await new StageBuilder(this.shop, request).stageOf(node, level)
      const stamps = new Stamps(stage, this.planes, true)
      for (const part of (before && stamps.partsSince(before, region)) ?? [region]) if (!isEmpty(part)) await this.flow(stage, part, request, how, onPart)
      return stamps.uses()
    })
  }

  /** Whether a node cannot be computed coarser than at full size, so that each view of it is the full-size picture, reduced. */
  onlyAtFullSize(node: Node): boolean {
    return coarsestAt(node) === 0
  }

  /** What a step found out about its input, and what it has to show of it. Errors as withRegion. */
  known(node: StepNode, signal?: Signal): Promise<{ facts: unknown; shown: unknown }> {
    return named(async () => {
      const request = newRequest(this.turns, signal ? { signal } : {})
      return { shown: await this.shop.facts.shown(node, request), facts: await this.shop.facts.of(node, request) }
    })
  }

  /** The plan of a planned step. Errors as withRegion. */
  plan(node: StepNode, signal?: Signal): Promise<unknown> {
    return named(async () => {
      const request = newRequest(this.turns, signal ? { signal } : {})
      return this.shop.facts.plan(node, await this.shop.facts.of(node, request), request)
    })
  }

  /** The study of a node. Errors as withRegion. */
  study(node: Node, signal?: Signal): Promise<Study> {
    return named(() => this.shop.facts.study(node, newRequest(this.turns, { ...(signal ? { signal } : {}), alone: true })))
  }

  /** Bytes that tiles of planes take; for the bench. */
  get planeBytes(): number {
    return this.planeTiles.bytes
  }

  /** Gives back all that is kept and not in use. */
  clear(): void {
    this.store.clear()
    this.photoTiles.clear()
    this.planeTiles.clear()
  }

  /** The whole of a node, or a region, at a level, kept: for facts and plans. */
  private async whole<T>(node: Node, level: number, request: Request, use: (pic: Pic) => T | Promise<T>, region?: Region): Promise<T> {
    const stage = await new StageBuilder(this.shop, request).stageOf(node, level)
    return this.gathered(stage, region ?? stage.extent, request, { keep: 'small', first: (key) => stage.name.startsWith(key) }, use)
  }

  /** A region of a stage in one piece. */
  private async gathered<T>(stage: Stage, region: Region, request: Request, asked: Asked, use: (pic: Pic) => T | Promise<T>): Promise<T> {
    let all: Lent | null = null
    let found: { is: T } | null = null
    try {
      await this.flow(stage, region, request, asked, async (pic) => {
        // all at once needs no copy
        if (pic.region.h === region.h) found = { is: await use(pic) }
        else {
          all ??= fresh(this.kernels, region)
          paste(this.kernels, pic, all, pic.region)
        }
      })
      if (found) return (found as { is: T }).is
      return await use(all!)
    } finally {
      ;(all as Lent | null)?.done()
    }
  }

  /**
   * Computes a region of a stage by bands from the top. Where memory does not suffice, what is kept is given up, and it goes on by columns, or with
   * less at once where it cannot be divided.
   * @param room of the engine's bytes, what may be used
   */
  private async flow(
    stage: Stage,
    region: Region,
    request: Request,
    asked: Asked,
    onBand: (pic: Pic) => void | Promise<void>,
    room = this.bytes,
  ): Promise<void> {
    let next = region.y
    let { piece } = asked
    let narrow = false
    const keeping = asked.keep === 'view' || asked.keep === 'small'
    for (let budget = keeping ? room * (1 - KEPT_SHARE) : room; ; budget /= 4) {
      const stream = this.stream(stage, request, asked, budget, keeping, piece)
      const rest = { ...region, y: next, h: region.y + region.h - next }
      const handOut = async (pic: Pic) => {
        await onBand(pic)
        next = pic.region.y + pic.region.h
      }
      try {
        const { bytes, divisible } = await stream.open(rest)
        if ((narrow || bytes > this.bytes) && divisible && region.w > COLUMN) {
          stream.close()
          return await this.columns(stage, rest, request, asked, handOut, keeping ? budget * COLUMNS_SHARE : budget)
        }
        // what is held makes room among what is kept
        this.store.makeRoom(Math.min(this.store.limit, bytes))
        await stream.run(handOut)
        return
      } catch (error) {
        if (!(error instanceof QuillError) || error.code !== 'out-of-memory' || budget < room / 1000) throw error
        piece = undefined
        narrow = true
      } finally {
        stream.close()
      }
      this.clear()
    }
  }

  private stream(stage: Stage, request: Request, asked: Asked, budget: number, keeping: boolean, piece?: number): Stream {
    return new Stream(stage, {
      kernels: this.kernels,
      request,
      store: this.store,
      budget,
      keep: keeping
        ? {
            bytes: this.bytes * KEPT_SHARE * REQUEST_SHARE,
            most: this.bytes * ONE_SHARE,
            first: (s) => asked.first?.(keyOf(s)) ?? false,
            may: (s) => asked.may?.(keyOf(s)) ?? true,
            grown: asked.keep === 'view',
          }
        : null,
      ...(piece ? { piece } : {}),
      onRun: (s, r) => {
        this.runs++
        this.onRun?.(s, r)
      },
    })
  }

  /**
   * A region by columns, each as wide as fits, gathered into bands: where many stages look far, rows of the whole width of all of them are more than
   * memory holds. What lies between two columns or bands is computed twice, as far as the stages look.
   */
  private async columns(
    stage: Stage,
    region: Region,
    request: Request,
    asked: Asked,
    onBand: (pic: Pic) => void | Promise<void>,
    budget: number,
  ): Promise<void> {
    let rows = Math.max(1, Math.min(region.h, Math.floor((budget * GATHERED_SHARE) / (region.w * 8))))
    const room = budget * (1 - GATHERED_SHARE)
    const how: Asked = { ...asked, keep: 'render' }
    let width = region.w
    // about as wide as high: what is turned looks at least that way
    const least = COLUMN >> Math.min(2, Math.max(0, stage.level))
    for (let fits = false; !fits && (width > least || rows > least);) {
      if (width > rows || rows <= least) width = Math.max(least, Math.ceil(width / 2))
      else rows = Math.max(least, Math.ceil(rows / 2))
      fits = true
      // what is laid elsewhere asks for more in some places than in others
      for (let i = 0; fits && i < TRIALS * TRIALS; i++) {
        const [w, h] = [Math.min(width, region.w), Math.min(rows, region.h)]
        const x = region.x + Math.floor(((region.w - w) * (i % TRIALS)) / (TRIALS - 1))
        const y = region.y + Math.floor(((region.h - h) * Math.floor(i / TRIALS)) / (TRIALS - 1))
        const trial = this.stream(stage, request, how, room, false)
        try {
          const reckoned = await trial.open({ x, y, w, h })
          // in pieces so small that handing them out costs more than computing them, it does not fit well
          fits = reckoned.fits && reckoned.piece >= GOOD_PIECE
        } finally {
          trial.close()
        }
      }
    }
    for (let y = region.y; y < region.y + region.h; y += rows) {
      const band = { ...region, y, h: Math.min(rows, region.y + region.h - y) }
      const all = fresh(this.kernels, band)
      try {
        for (let x = region.x; x < region.x + region.w; x += width) {
          const column = { ...band, x, w: Math.min(width, region.x + region.w - x) }
          await this.flow(stage, column, request, how, (pic) => paste(this.kernels, pic, all, pic.region), room)
        }
        await onBand(all)
      } finally {
        all.done()
      }
    }
  }

  /** What a tile of a view is called: by its stage, or where something is painted under it, by that. */
  private tileName(stage: Stage, stamps: Stamps, tile: Region, extent: Region): string {
    if (!stamps.any) return `${stage.name}/tile ${tile.x},${tile.y}`
    const name = `${stage.shape}/tile ${tile.x},${tile.y}/${stamps.of(intersect(tile, extent))}`
    this.remember(`${stage.shape}/${tile.x},${tile.y}`, name, stamps)
    return name
  }

  /** Remembers under which name a tile is kept, once it is. */
  private remember(place: string, name: string, stamps: Stamps): void {
    if (!this.store.has(name)) return
    if (this.shown.size > REMEMBERED) this.shown.delete(this.shown.keys().next().value!)
    this.shown.delete(place)
    this.shown.set(place, { name, uses: stamps.uses() })
  }

  /**
   * Makes a tile of a view out of one kept from before something was painted: a copy, with just that computed anew.
   * @returns whether it could be made
   */
  private async mend(stage: Stage, stamps: Stamps, tile: Region, extent: Region, request: Request, asked: Asked): Promise<boolean> {
    const before = this.shown.get(`${stage.shape}/${tile.x},${tile.y}`)
    if (!before) return false
    const there = intersect(tile, extent)
    const parts = stamps.partsSince(before.uses, there)
    if (!parts || parts.reduce((sum, p) => sum + p.w * p.h, 0) > there.w * there.h * WORTH_MENDING) return false
    const old = this.store.take(before.name, (k) => contains(k.region, there) && k.hi >= there.y + there.h)
    if (!old) return false
    const pic = fresh(this.kernels, there)
    try {
      paste(this.kernels, old, pic, there)
      for (const part of parts) await this.flow(stage, part, request, { ...asked, keep: 'render' }, (band) => paste(this.kernels, band, pic, band.region))
      const { ptr, stride } = pic
      const name = this.tileName(stage, stamps, tile, extent)
      const bytes = there.w * there.h * 8
      this.store.release(this.store.put(name, { ptr, stride, bytes, region: there, hi: there.y + there.h, cost: old.cost }))
      this.remember(`${stage.shape}/${tile.x},${tile.y}`, name, stamps)
      return true
    } catch (error) {
      pic.done()
      throw error
    } finally {
      this.store.release(old)
    }
  }

  /** A rectangle of whole tiles of a view: computed, kept, shown. */
  private async tiles(
    stage: Stage,
    stamps: Stamps,
    part: Region,
    region: Region,
    extent: Region,
    request: Request,
    asked: Asked,
    onPart: (pic: Pic) => void | Promise<void>,
  ): Promise<void> {
    // what lies beyond the picture is not kept, but may be looked at
    const inside = intersect(part, union(extent, region))
    const open = new Map<string, Lent>()
    try {
      await this.flow(stage, inside, request, asked, async (band) => {
        for (const tile of tilesOf(band.region, VIEW_TILE)) {
          const there = intersect(tile, extent)
          // a band beyond the picture may still lie in the grid's last tiles, which are kept by then
          if (isEmpty(intersect(band.region, there))) continue
          const name = this.tileName(stage, stamps, tile, extent)
          let pic = open.get(name)
          if (!pic) open.set(name, (pic = fresh(this.kernels, there)))
          paste(this.kernels, band, pic, band.region)
          if (band.region.y + band.region.h < there.y + there.h) continue
          open.delete(name)
          const { ptr, stride } = pic
          const bytes = there.w * there.h * 8
          // as dear as the stages it is made of were for as many pixels
          const cost = ((stage.ms + 1) * bytes) / (Math.max(1, inside.w * inside.h) * 8)
          this.store.release(this.store.put(name, { ptr, stride, bytes, region: there, hi: there.y + there.h, cost }))
          if (stamps.any) this.remember(`${stage.shape}/${tile.x},${tile.y}`, name, stamps)
        }
        const shown = intersect(band.region, region)
        if (!isEmpty(shown)) await onPart(partOf(band, shown))
      })
    } finally {
      for (const pic of open.values()) pic.done()
    }
  }
}

/** The key of the node that a stage computes. */
const keyOf = (stage: Stage): string => stage.name.slice(0, stage.name.indexOf('/'))

/** The grid's tiles that a region touches, whole, row by row. */
function tilesOf({ x, y, w, h }: Region, side: number): Region[] {
  const tiles: Region[] = []
  for (let ty = Math.floor(y / side) * side; ty < y + h; ty += side)
    for (let tx = Math.floor(x / side) * side; tx < x + w; tx += side) tiles.push({ x: tx, y: ty, w: side, h: side })
  return tiles
}

/** Tiles row by row, joined to as few rectangles as lie in rows and of one width under each other. */
function joined(tiles: readonly Region[]): Region[] {
  const rows: Region[] = []
  for (const t of tiles) {
    const last = rows.at(-1)
    if (last && last.y === t.y && last.x + last.w === t.x) last.w += t.w
    else rows.push({ ...t })
  }
  const parts: Region[] = []
  for (const r of rows) {
    const above = parts.find((p) => p.x === r.x && p.w === r.w && p.y + p.h === r.y)
    if (above) above.h += r.h
    else parts.push(r)
  }
  return parts
}

/** Traps inside the kernels get a name. */
async function named<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    if (error instanceof WebAssembly.RuntimeError)
      throw new QuillError('kernel-failed', 'A computation failed inside the picture engine. The artwork is safe; try the step again.', {
        cause: String(error),
      })
    throw error
  }
}

/** Computes a frame by full-width strips from top to bottom, so that memory does not grow with its height. @param frame in pixels of the level */
export function renderStrips(
  engine: Engine,
  node: Node,
  level: number,
  frame: Region,
  onStrip: (pic: Pic, done: number) => void | Promise<void>,
  options: { signal?: Signal; piece?: number; quick?: boolean } = {},
): Promise<void> {
  return engine.bands(node, level, frame, (pic) => onStrip(pic, (pic.region.y + pic.region.h - frame.y) / frame.h), { ...options, keep: 'render' })
}
