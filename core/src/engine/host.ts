import { locate } from '../artwork/layers.ts'
import type { Artwork } from '../artwork/schema.ts'
import { QuillError } from '../base/errors.ts'
import { stripGrid, stripRows, viewGrid, type Engine, type Grid, type Signal } from './engine.ts'
import { GraphCompiler, type Node, type Target } from './graph.ts'
import { histogramOf, type Histogram } from '../steps/tone/histogram.ts'
import { atLevel, intersect, isEmpty, type Region } from '../base/region.ts'

/** What a page may ask of an engine worker. */
export type ToEngine =
  | { type: 'artwork'; artwork: Artwork; version: number }
  /**
   * Tiles of the visible part, at each level in turn (coarse before fine). A newer view of the same slot drops an
   * older one. `region` is in artwork pixels.
   */
  | { type: 'view'; id: number; slot: string; target: Target; region: Region; levels: number[] }
  /**
   * The visible part of the full-size result, reduced to a level: what is delivered is what is judged. Dropped by a newer
   * view or settling of the slot.
   */
  | { type: 'settle'; id: number; slot: string; target: Target; region: Region; level: number }
  /**
   * A small picture: whole (long side at least `side` where the artwork has it), or `side` × `side`·aspect pixels round
   * the look spot at full size. `artwork` where it is not the one on the bench.
   */
  | { type: 'picture'; id: number; artwork?: Artwork; target: Target; side: number; spot?: { w: number; h: number } }
  /**
   * What is known of a step: the tones of its input and of its result, what it found out, what it has to show. A newer request drops an
   * older one.
   */
  | { type: 'measure'; id: number; layer: string; step: string }
  | { type: 'cancel'; id: number }

/** What is known of a step at the parameters it has. */
export interface Measured {
  before: Histogram
  after: Histogram
  /** What its `analyse` found, where it has one. */
  facts: unknown
  /** What its `inspect` has to show, where it has one. */
  shown: unknown
}

export type FromEngine =
  | { type: 'ready' }
  | { type: 'tile'; id: number; slot: string; version: number; level: number; region: Region; pixels: ArrayBuffer }
  /** `rough`: not what the level should show, which would take too long; the settled picture follows. */
  | { type: 'level-done'; id: number; slot: string; version: number; level: number; ms: number; rough: boolean }
  | { type: 'settled'; id: number; slot: string; version: number; share: number }
  | { type: 'picture'; id: number; w: number; h: number; pixels: ArrayBuffer }
  | { type: 'measured'; id: number; found: Measured }
  | { type: 'failed'; id: number; code: string; message: string }

interface Job {
  id: number
  slot: string | null
  signal: Signal
  run: () => Promise<void>
}

/** Serves one page: keeps its artwork's graph, orders requests (views before small pictures), drops what is superseded. */
export class EngineHost {
  private readonly engine: Engine
  private readonly post: (m: FromEngine, transfer: ArrayBuffer[]) => void
  private compiler: GraphCompiler | null = null
  private artwork: Artwork | null = null
  private version = 0
  private views: Job[] = []
  private pictures: Job[] = []
  private settling: Job[] = []
  private busy: Job | null = null
  /** Milliseconds a pixel that the last quick picture took. */
  private pace = 0

  constructor(engine: Engine, post: (m: FromEngine, transfer: ArrayBuffer[]) => void) {
    this.engine = engine
    this.post = post
  }

  receive(m: ToEngine): void {
    switch (m.type) {
      case 'artwork':
        this.artwork = m.artwork
        this.version = m.version
        this.compiler = null
        return
      case 'view':
      case 'settle': {
        this.views = this.views.filter((j) => j.slot !== m.slot)
        this.settling = this.settling.filter((j) => j.slot !== m.slot)
        if (this.busy?.slot === m.slot) this.busy.signal.cancelled = true
        const signal = { cancelled: false }
        const run = m.type === 'view' ? () => this.view(m, signal) : () => this.settle(m, signal)
        // settling waits until nothing else does
        ;(m.type === 'view' ? this.views : this.settling).push({ id: m.id, slot: m.slot, signal, run })
        break
      }
      case 'measure': {
        const signal = { cancelled: false }
        this.views = this.views.filter((j) => j.slot !== MEASURING)
        this.views.push({ id: m.id, slot: MEASURING, signal, run: () => this.measure(m, signal) })
        break
      }
      case 'picture': {
        const signal = { cancelled: false }
        this.pictures.push({ id: m.id, slot: null, signal, run: () => this.picture(m, signal) })
        break
      }
      case 'cancel':
        this.views = this.views.filter((j) => j.id !== m.id)
        this.pictures = this.pictures.filter((j) => j.id !== m.id)
        this.settling = this.settling.filter((j) => j.id !== m.id)
        if (this.busy?.id === m.id) this.busy.signal.cancelled = true
        return
    }
    if (!this.busy) void this.work()
  }

  private async serve(job: Job): Promise<void> {
    try {
      await job.run()
    } catch (error) {
      const { code, message } = error as QuillError
      if (code === 'cancelled') return
      const told = error instanceof QuillError ? message : `The picture could not be computed (${message}). The artwork is safe; try again.`
      this.post({ type: 'failed', id: job.id, code: code ?? 'fault', message: told }, [])
    }
  }

  private async work(): Promise<void> {
    for (;;) {
      const job = this.views.shift() ?? this.pictures.shift() ?? this.settling.shift()
      if (!job) return
      this.busy = job
      await this.serve(job)
      this.busy = null
    }
  }

  private compile(target: Target, artwork?: Artwork): Node {
    if (artwork) return new GraphCompiler(artwork, this.engine.kernels.hash).compile(target)
    if (!this.artwork) throw new QuillError('artwork-invalid', 'No artwork is open.')
    this.compiler ??= new GraphCompiler(this.artwork, this.engine.kernels.hash)
    return this.compiler.compile(target)
  }

  private async view(m: ToEngine & { type: 'view' }, signal: Signal): Promise<void> {
    const { version } = this
    const node = this.compile(m.target)
    const sheet = this.artwork!.sheet
    for (const level of m.levels) {
      const started = performance.now()
      const visible = intersect(atLevel(m.region, level), atLevel(sheet, level))
      const last = level === m.levels.at(-1)
      // all but the last are for the moving hand, and that one too where it would be the full-size picture and take its time
      const rough = last && level > 0 && this.engine.onlyAtFullSize(node) && this.pace * visible.w * visible.h * 4 ** level > PATIENCE
      const quick = rough || !last
      for (const region of tilesFromCentre(visible)) {
        const pixels = await this.pixels(node, level, region, signal, quick)
        this.post({ type: 'tile', id: m.id, slot: m.slot, version, level, region, pixels }, [pixels])
      }
      const ms = performance.now() - started
      if (quick) this.pace = ms / Math.max(1, visible.w * visible.h)
      this.post({ type: 'level-done', id: m.id, slot: m.slot, version, level, ms, rough }, [])
    }
  }

  private async settle(m: ToEngine & { type: 'settle' }, signal: Signal): Promise<void> {
    const { version } = this
    const node = this.compile(m.target)
    const visible = intersect(atLevel(m.region, m.level), atLevel(this.artwork!.sheet, m.level))
    // most of the width: full-width strips one beside the other, which keep little; a part: blocks about the middle
    const wide = visible.w * 2 ** m.level > node.extent.w / 2
    const rows = wide ? stripRows(this.engine, node, 0, node.extent.w) : 0
    const blocks = wide ? bandsOf(visible, rows >> m.level) : tilesFromCentre(visible, Math.max(64, SETTLE_SIDE >> m.level))
    for (const [i, region] of blocks.entries()) {
      const pixels = await reducedFromFull(this.engine, node, m.level, region, this.artwork!.sheet, signal, wide ? stripGrid(rows) : viewGrid)
      this.post({ type: 'tile', id: m.id, slot: m.slot, version, level: m.level, region, pixels }, [pixels])
      this.post({ type: 'settled', id: m.id, slot: m.slot, version, share: (i + 1) / blocks.length }, [])
      // small pictures asked for meanwhile come between
      const next = this.pictures.shift()
      if (next) await this.serve(next)
    }
  }

  private async measure(m: ToEngine & { type: 'measure' }, signal: Signal): Promise<void> {
    if (!this.artwork) throw new QuillError('artwork-invalid', 'No artwork is open.')
    const { layer } = locate(this.artwork.layers, m.layer)
    const at = layer.chain.findIndex((s) => s.id === m.step)
    const target = (steps: number): Target => ({ type: 'chain', layer: m.layer, steps })
    const [input, result] = [this.compile(target(at)), this.compile(target(at + 1))]
    const { kernels } = this.engine
    const tones = (node: Node) => {
      let level = 0
      while (Math.max(node.extent.w, node.extent.h) / 2 ** level > MEASURED_SIDE) level++
      return this.engine.withRegion(node, level, atLevel(node.extent, level), (pic) => histogramOf({ input: pic, kernels }), {
        signal,
        quick: true,
        alone: true,
      })
    }
    const before = await tones(input)
    const after = result === input ? before : await tones(result)
    const step = result.kind === 'replace' ? result.result : result
    const known = step.kind === 'step' && step !== input ? await this.engine.known(step, signal) : { facts: undefined, shown: undefined }
    this.post({ type: 'measured', id: m.id, found: { before, after, ...known } }, [])
  }

  private async picture(m: ToEngine & { type: 'picture' }, signal: Signal): Promise<void> {
    const artwork = m.artwork ?? this.artwork
    const node = this.compile(m.target, m.artwork)
    const sheet = artwork!.sheet
    let level = 0
    let region: Region
    if (m.spot) {
      const { x, y } = artwork!.lookSpot
      const { w, h } = m.spot
      const left = Math.max(sheet.x, Math.min(Math.round(x - w / 2), sheet.x + sheet.w - w))
      const top = Math.max(sheet.y, Math.min(Math.round(y - h / 2), sheet.y + sheet.h - h))
      region = intersect({ x: left, y: top, w, h }, sheet)
    } else {
      while (Math.max(sheet.w, sheet.h) / 2 ** (level + 1) >= m.side) level++
      region = atLevel(sheet, level)
    }
    // round the look spot little is wanted of each step: small tiles
    const pixels = await this.pixels(node, level, region, signal, !m.spot, m.spot ? SPOT_GRID : viewGrid)
    this.post({ type: 'picture', id: m.id, w: region.w, h: region.h, pixels }, [pixels])
  }

  private pixels(node: Node, level: number, region: Region, signal: Signal, quick = false, grid = viewGrid): Promise<ArrayBuffer> {
    const { kernels } = this.engine
    return this.engine.withRegion(
      node,
      level,
      region,
      (pic) =>
        kernels.scratch(region.w * region.h * 4, (ptr) => {
          kernels.raw.to8(pic.ptr, pic.stride, ptr, region.w * 4, region.w, region.h)
          return kernels.bytes(ptr, region.w * region.h * 4).slice().buffer
        }),
      // a hand may be moving: the page needs the other core, or it stutters (measured)
      { signal, quick, grid, alone: true },
    )
  }
}

/** What a view may take, milliseconds, where the settled picture would only show the same. */
const PATIENCE = 400
/** Tiles of small pictures round the look spot. */
const SPOT_GRID: Grid = { w: 64, h: 64 }
/** The queue's place for measuring; views have names of their own. */
const MEASURING = 'measuring'
/** Long side of the picture that tones are counted on, at most. */
const MEASURED_SIDE = 512

/** Side of a block that settles at once, in full-size pixels: about as long as a tile takes. */
const SETTLE_SIDE = 1024

/**
 * A region of a level, reduced from the full-size result by means of 2 × 2 pixels: RGBA8.
 * @param region in pixels of the level; @param sheet the frame, full size
 */
export function reducedFromFull(
  engine: Engine,
  node: Node,
  level: number,
  region: Region,
  sheet: Region,
  signal: Signal,
  grid: Grid = viewGrid,
): Promise<ArrayBuffer> {
  const { raw, allocator, bytes } = engine.kernels
  const scale = 2 ** level
  const [x, y] = [region.x * scale, region.y * scale]
  // the last pixel of a level may stand for less than a whole block: what lies beyond the picture does not count
  const right = Math.max(node.extent.x + node.extent.w, sheet.x + sheet.w)
  const bottom = Math.max(node.extent.y + node.extent.h, sheet.y + sheet.h)
  const there = { x, y, w: Math.min(region.w * scale, right - x), h: Math.min(region.h * scale, bottom - y) }
  return engine.withRegion(
    node,
    0,
    there,
    (pic) => {
      let { w, h } = there
      let ptr = pic.ptr
      let stride = pic.stride
      for (let l = 0; l < level; l++) {
        const [ow, oh] = [(w + 1) >> 1, (h + 1) >> 1]
        const out = allocator.alloc(ow * oh * 8)
        raw.halve(ptr, stride, w, h, out, ow * 8)
        if (l > 0) allocator.free(ptr)
        ptr = out
        stride = ow * 8
        w = ow
        h = oh
      }
      const out = allocator.alloc(w * h * 4)
      raw.to8(ptr, stride, out, w * 4, w, h)
      const pixels = bytes(out, w * h * 4).slice().buffer
      allocator.free(out)
      if (level > 0) allocator.free(ptr)
      return pixels
    },
    { signal, grid },
  )
}

/** A region in bands of so many rows, aligned to 0: from the middle down, then from the middle up, for that is where one looks first. */
function bandsOf({ x, y, w, h }: Region, rows: number): Region[] {
  const bands: Region[] = []
  for (let top = Math.floor(y / rows) * rows; top < y + h; top += rows) bands.push(intersect({ x, y: top, w, h: rows }, { x, y, w, h }))
  const middle = bands.length >> 1
  return [...bands.slice(middle), ...bands.slice(0, middle).reverse()]
}

/** The grid's tiles that a region touches, cut to it, the middle ones first. */
export function tilesFromCentre(region: Region, side = viewGrid.w): Region[] {
  if (isEmpty(region)) return []
  const [w, h] = [side, side]
  const tiles: Region[] = []
  for (let ty = Math.floor(region.y / h); ty * h < region.y + region.h; ty++) {
    for (let tx = Math.floor(region.x / w); tx * w < region.x + region.w; tx++) tiles.push(intersect({ x: tx * w, y: ty * h, w, h }, region))
  }
  const cx = region.x + region.w / 2
  const cy = region.y + region.h / 2
  const far = (r: Region) => Math.hypot(r.x + r.w / 2 - cx, r.y + r.h / 2 - cy)
  return tiles.sort((a, b) => far(a) - far(b))
}
