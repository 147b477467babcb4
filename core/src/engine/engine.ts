import { QuillError } from '../base/errors.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Analysis, AnyStep, NeighbourhoodStep, Pic, Plane, PlannedStep, SequentialStep, TableStep } from '../steps/contract.ts'
import type { Place } from '../steps/params.ts'
import { coarsestOf } from '../steps/steepness.ts'
import { tableIn, tablesIn } from '../steps/table-cache.ts'
import { walk, type Node } from './graph.ts'
import { spanTable } from '../blend/span.ts'
import { atLevel, contains, intersect, isEmpty, sameRegion, union, type Region } from '../base/region.ts'
import { levelSize, SOURCE_TILE, type SourceInfo, type SourceReader } from './sources.ts'
import { doubleInto } from './double.ts'
import { TileCache } from './tile-cache.ts'

/** How the plane is cut: tiles for a view, full-width strips for a render. */
export interface Grid {
  w: number
  h: number
}
export const viewGrid: Grid = { w: 512, h: 512 }
/** Wide enough that every strip is cut by its node's extent alone. */
export const stripGrid = (rows: number): Grid => ({ w: 1 << 24, h: rows })

/** Set from outside to stop a computation; looked at between tiles. */
export interface Signal {
  cancelled: boolean
}

/** Pixels handed out: `done` gives them back. */
interface Lent extends Pic {
  /** Whether the receiver may write on them. */
  own: boolean
  done: () => void
}

export type StepNode = Node & { kind: 'step' }

/** Facts and plans that are remembered. */
const MADE = 64
/** What reduced grids may take. */
const CELL_BYTES = 96 * 2 ** 20
/** Coarser than any view. */
const COARSEST = 16
/** Rows of a band of a step that runs row by row. */
const BAND_ROWS = 64
/** Long side of the picture that facts are measured on, at most. */
const ANALYSIS_SIDE = 1024
/** Long side of another picture that a step studies, at most. */
const STUDY_SIDE = 1536

/** Milliseconds of work after which other events get a turn. */
const TURN = 12

/**
 * Computes regions of graph nodes out of regions of their inputs, keeping tiles. One engine an instance of the
 * kernels; requests are served one after the other.
 */
export class Engine {
  readonly kernels: Kernels
  readonly cache: TileCache
  /** Reduced grids by themselves: small and dear, they would be driven out by the strips they were made of. */
  private readonly cellCache: TileCache
  private readonly sources: SourceReader
  private readonly infos = new Map<string, SourceInfo>()
  private readonly made = new Map<string, unknown>()
  private readonly coarsestTables = new Map<string, number>()
  private readonly coarsest = new WeakMap<Node, number>()
  private readonly lumas = new WeakMap<StepNode, Uint16Array | null>()
  private readonly breathe: () => Promise<void>
  private grid: Grid = viewGrid
  private signal: Signal = { cancelled: false }
  private quick = false
  private turn = 0
  private line: Promise<unknown> = Promise.resolve()
  /** Tiles computed since the start, for tests and the bench. */
  computed = 0

  /**
   * @param breathe lets waiting events happen (a macrotask)
   * @param cacheBytes how much the kept tiles may take
   */
  constructor(kernels: Kernels, sources: SourceReader, breathe: () => Promise<void>, cacheBytes = 384 * 2 ** 20) {
    this.kernels = kernels
    this.sources = sources
    this.breathe = breathe
    this.cache = new TileCache(kernels, cacheBytes)
    this.cellCache = new TileCache(kernels, CELL_BYTES)
    kernels.allocator.onPressure = () => this.cache.evictOne() || this.cellCache.evictOne()
  }

  /**
   * Computes a region of a node and shows it to `use` while it is in memory.
   * @param options.quick takes a step's word that it should be computed finer (`coarsest`) as a wish: for the picture under a
   *   moving hand
   * @param options.alone leaves the other cores to the page
   * @throws QuillError `cancelled` when the signal is set, `missing-photo`, `source-unreadable`, `out-of-memory`, `kernel-failed`
   */
  async withRegion<T>(
    node: Node,
    level: number,
    region: Region,
    use: (pic: Pic) => T | Promise<T>,
    options: { grid?: Grid; signal?: Signal; quick?: boolean; alone?: boolean } = {},
  ): Promise<T> {
    const task = this.line.then(async () => {
      this.grid = options.grid ?? viewGrid
      this.signal = options.signal ?? { cancelled: false }
      this.quick = options.quick ?? false
      if (this.kernels.crew) this.kernels.crew.resting = options.alone ?? false
      const lent = await this.anywhere(node, level, region).catch((error: unknown) => {
        if (!(error instanceof QuillError) || error.code !== 'out-of-memory') throw error
        // once more, with all the room there is
        this.clear()
        return this.anywhere(node, level, region)
      })
      try {
        return await use(lent)
      } finally {
        lent.done()
      }
    })
    this.line = task.catch(() => undefined)
    try {
      return await task
    } catch (error) {
      if (error instanceof WebAssembly.RuntimeError) {
        throw new QuillError('kernel-failed', 'A computation failed inside the picture engine. The artwork is safe; try the step again.', {
          cause: String(error),
        })
      }
      throw error
    }
  }

  /** What a step found out about its input, and what it has to show of it. Errors as withRegion. */
  async known(node: StepNode, signal: Signal = { cancelled: false }): Promise<{ facts: unknown; shown: unknown }> {
    const task = this.line.then(async () => {
      this.grid = viewGrid
      this.signal = signal
      this.quick = false
      const { inspect } = node.def
      const level = analysisLevel(node.input.extent)
      const shown = inspect
        ? await this.onceFor(`${node.key}/shown`, node.input, level, (work) => inspect(work, levelParams(node.def, node.params, level) as never))
        : undefined
      return { facts: await this.factsOf(node), shown }
    })
    this.line = task.catch(() => undefined)
    return task
  }

  /** Gives back all that is kept and not in use. */
  clear(): void {
    this.cache.clear()
    this.cellCache.clear()
  }

  /** A region that may lie outside the node's extent; there it is clear. */
  private anywhere(node: Node, level: number, region: Region): Promise<Lent> {
    return this.beyond(node, level, region, (out, inside) => {
      if (isEmpty(inside)) this.kernels.raw.fillRect(out.ptr, out.stride, region.w, region.h, 0n)
      else this.clearAround(out, inside)
    })
  }

  /** A region with the border of the node repeated outwards where it reaches beyond: what neighbourhoods see. */
  private async padded(node: Node, level: number, region: Region): Promise<Lent> {
    const extent = atLevel(node.extent, level)
    if (isEmpty(intersect(region, extent))) {
      // all beyond: the nearest pixel of the border is taken along
      const near = (at: number, from: number, n: number) => Math.min(from + n - 1, Math.max(from, at))
      const edge = { x: near(region.x, extent.x, extent.w), y: near(region.y, extent.y, extent.h), w: 1, h: 1 }
      const all = await this.padded(node, level, union(region, edge))
      const ptr = all.ptr + (region.y - all.region.y) * all.stride + (region.x - all.region.x) * 8
      return { ptr, stride: all.stride, region, own: false, done: all.done }
    }
    return this.beyond(node, level, region, (out, inside) => {
      const x = inside.x - region.x
      const y = inside.y - region.y
      this.kernels.raw.replicateEdges(out.ptr, out.stride, region.w, region.h, x, y, x + inside.w, y + inside.h)
    })
  }

  /** A region of which only a part may lie inside the node's extent; `fill` sees to the rest. */
  private async beyond(node: Node, level: number, region: Region, fill: (out: Pic, inside: Region) => void): Promise<Lent> {
    const inside = intersect(region, atLevel(node.extent, level))
    if (sameRegion(inside, region)) return this.within(node, level, region)
    const out = this.fresh(region)
    try {
      if (!isEmpty(inside)) await this.copyInto(out, node, level, inside)
      fill(out, inside)
    } catch (error) {
      out.done()
      throw error
    }
    return out
  }

  /** Clears what lies round the inner rectangle. */
  private clearAround(out: Pic, inside: Region): void {
    const { x, y, w, h } = out.region
    const bands = [
      { x, y, w, h: inside.y - y },
      { x, y: inside.y + inside.h, w, h: y + h - inside.y - inside.h },
      { x, y: inside.y, w: inside.x - x, h: inside.h },
      { x: inside.x + inside.w, y: inside.y, w: x + w - inside.x - inside.w, h: inside.h },
    ]
    for (const b of bands) {
      if (!isEmpty(b)) this.kernels.raw.fillRect(out.ptr + (b.y - y) * out.stride + (b.x - x) * 8, out.stride, b.w, b.h, 0n)
    }
  }

  private async copyInto(out: Pic, node: Node, level: number, region: Region): Promise<void> {
    const part = await this.within(node, level, region)
    this.paste(part, out, region)
    part.done()
  }

  /** A region inside the node's extent: from kept tiles, or computed as it is asked for. */
  private async within(node: Node, level: number, region: Region): Promise<Lent> {
    if (!node.stored) return this.compute(node, level, region)
    const extent = atLevel(node.extent, level)
    const { w: gw, h: gh } = this.grid
    const first = { x: Math.floor(region.x / gw), y: Math.floor(region.y / gh) }
    const last = { x: Math.floor((region.x + region.w - 1) / gw), y: Math.floor((region.y + region.h - 1) / gh) }
    if (first.x === last.x && first.y === last.y) {
      const { name, pic } = await this.tile(node, level, extent, first.x, first.y)
      if (contains(pic.region, region)) {
        const at = pic.ptr + (region.y - pic.region.y) * pic.stride + (region.x - pic.region.x) * 8
        return { ptr: at, stride: pic.stride, region, own: false, done: () => this.cache.release(name) }
      }
      this.cache.release(name)
    }
    const out = this.fresh(region)
    try {
      for (let ty = first.y; ty <= last.y; ty++) {
        for (let tx = first.x; tx <= last.x; tx++) {
          const { name, pic } = await this.tile(node, level, extent, tx, ty)
          this.paste(pic, out, region)
          this.cache.release(name)
        }
      }
    } catch (error) {
      out.done()
      throw error
    }
    return out
  }

  /** A kept tile, pinned. */
  private async tile(node: Node, level: number, extent: Region, tx: number, ty: number): Promise<{ name: string; pic: Pic }> {
    const { w, h } = this.grid
    const name = `${node.key}/${level}${this.quick ? 'q' : ''}/${w}x${h}/${tx},${ty}`
    const kept = this.cache.take(name)
    if (kept) return { name, pic: kept }
    await this.pause()
    const region = intersect({ x: tx * w, y: ty * h, w, h }, extent)
    const lent = await this.compute(node, level, region)
    const pic = lent.own ? lent : this.copyOf(lent)
    this.computed++
    this.cache.put(name, { ptr: pic.ptr, stride: pic.stride, region })
    return { name, pic }
  }

  private readonly paused = () => this.pause()

  private async pause(): Promise<void> {
    const now = performance.now()
    if (now - this.turn > TURN) {
      await this.breathe()
      this.turn = performance.now()
    }
    if (this.signal.cancelled) throw new QuillError('cancelled', 'Stopped.')
  }

  /** Computes a region inside the node's extent, keeping nothing of the node itself. */
  private async compute(node: Node, level: number, region: Region): Promise<Lent> {
    switch (node.kind) {
      case 'photo':
        return this.readPhoto(node.asset, level, region)
      case 'fill': {
        const out = this.fresh(region)
        this.kernels.raw.fillRect(out.ptr, out.stride, region.w, region.h, node.pixel)
        return out
      }
      case 'empty': {
        const out = this.fresh(region)
        this.kernels.raw.fillRect(out.ptr, out.stride, region.w, region.h, 0n)
        return out
      }
      case 'over':
      case 'replace': {
        if (level > this.coarsestAt(node) && !this.quick) return this.reduced(node, level, region)
        const [first, second] = node.kind === 'over' ? [node.below, node.above] : [node.input, node.result]
        const a = await this.anywhere(first, level, region)
        let b: Lent
        try {
          b = await this.anywhere(second, level, region)
        } catch (error) {
          a.done()
          throw error
        }
        let out: Lent
        try {
          await this.pause()
          out = a.own ? a : b.own ? b : this.fresh(region)
        } catch (error) {
          a.done()
          b.done()
          throw error
        }
        const kernel = node.kind === 'over' ? this.kernels.raw.blend : this.kernels.raw.replace
        const mix = (mask: number, maskStride: number) =>
          kernel(node.mode, a.ptr, a.stride, b.ptr, b.stride, mask, maskStride, out.ptr, out.stride, region.w, region.h, node.opacity)
        const { span } = node
        if (!span) mix(0, 0)
        else {
          this.kernels.scratch(region.w * region.h * 2 + 16, (mask) => {
            const table = tableIn(this.kernels, `span ${JSON.stringify(span)}`, () => spanTable(span))
            this.kernels.raw.lumaMask(a.ptr, a.stride, mask, region.w * 2, region.w, region.h, table)
            mix(mask, region.w * 2)
          })
        }
        if (a !== out) a.done()
        if (b !== out) b.done()
        return out
      }
      case 'step':
        return this.computeStep(node, level, region)
    }
  }

  private async computeStep(node: StepNode, level: number, region: Region): Promise<Lent> {
    const { def } = node
    if (def.kind === 'table') return this.computeTables(node, level, region)
    const glance = this.quick && level > 0 && def.kind === 'sequential' ? def.glance : undefined
    const byRows = !glance && runsByRows(node)
    const own = byRows ? 0 : (def.coarsest?.(levelParams(def, node.params, 0) as never) ?? COARSEST)
    const coarsest = def.kind === 'point' ? Math.min(own, this.coarsestAt(node.input)) : own
    // the picture under a moving hand may lie a little; what must run row by row and has no glance may not
    if (level > coarsest && (!this.quick || byRows)) return this.reduced(node, level, region)
    const facts = await this.factsOf(node)
    if (byRows) return this.computeSequence(node, level, region, facts)
    const plan = def.kind === 'planned' ? await this.planOf(node, facts) : undefined
    const planes = await this.planesOf(node)
    const params = levelParams(def, node.params, level)
    const alone = def.kind === 'point' || def.kind === 'sequential'
    const needs = alone ? undefined : (def as NeighbourhoodStep).needs?.(region, params as never)
    const f = (def.kind === 'neighbourhood' && def.cells?.(params as never)) || 1
    const input = !needs
      ? await this.within(node.input, level, region)
      : f > 1
        ? await this.cells(node.input, level, f, { x: needs.x / f, y: needs.y / f, w: needs.w / f, h: needs.h / f })
        : await this.padded(node.input, level, needs)
    let out: Lent
    try {
      await this.pause()
      out = input.own && alone ? input : this.fresh(region)
      try {
        const work = { input, output: out, kernels: this.kernels, level, quick: this.quick, facts, extent: node.input.extent, planes, pause: this.paused }
        if (glance) glance(work, params as never)
        else if (def.kind === 'planned') await def.draw({ ...work, plan }, params as never)
        else if (def.kind === 'sequential') await def.run({ ...work, state: 0 }, params as never)
        else await def.run(work, params as never)
      } catch (error) {
        if (out !== input) out.done()
        throw error
      }
    } catch (error) {
      input.done()
      throw error
    }
    if (out !== input) input.done()
    return out
  }

  /** Whether a node cannot be computed coarser than at full size, so that each view of it is the full-size picture, reduced. */
  onlyAtFullSize(node: Node): boolean {
    return this.coarsestAt(node) === 0
  }

  /**
   * The coarsest level at which what a node shows is more than a reduced picture of something finer. What works pixel by pixel on such a
   * picture is done before it is reduced: it costs little, and hard borders stay right.
   */
  private coarsestAt(node: Node): number {
    const known = this.coarsest.get(node)
    if (known !== undefined) return known
    let level = COARSEST
    if (node.kind === 'over') level = Math.min(node.coarsest, this.coarsestAt(node.below), this.coarsestAt(node.above))
    else if (node.kind === 'replace') level = Math.min(node.coarsest, this.coarsestAt(node.input), this.coarsestAt(node.result))
    else if (node.kind === 'step') {
      const { def } = node
      level = runsByRows(node) ? 0 : (def.coarsest?.(levelParams(def, node.params, 0) as never) ?? COARSEST)
      if (def.kind === 'table' || def.kind === 'point') level = Math.min(level, this.coarsestAt(node.input))
    }
    this.coarsest.set(node, level)
    return level
  }

  /** A region of a node reduced to cells of f pixels, out of kept tiles of cells. */
  private async cells(node: Node, level: number, f: number, region: Region): Promise<Lent> {
    // a cell is as long as two pixels
    const wide = (r: Region): Region => ({ x: r.x * 2, y: r.y, w: r.w * 2, h: r.h })
    const across = this.grid.w > 1 << 20 ? 0 : Math.max(8, Math.floor(this.grid.w / f))
    const down = Math.max(1, Math.floor(Math.min(512, this.grid.h) / f))
    const out = this.fresh(wide(region))
    try {
      for (let ty = Math.floor(region.y / down); ty * down < region.y + region.h; ty++) {
        for (let tx = across ? Math.floor(region.x / across) : 0; across ? tx * across < region.x + region.w : tx === 0; tx++) {
          const [x, w] = across ? [tx * across, across] : [region.x, region.w]
          const name = `${node.key}/${level}${this.quick ? 'q' : ''}/cells ${f}/${x},${w}/${ty},${down}`
          const at = { x, y: ty * down, w, h: down }
          const pic = this.cellCache.take(name) ?? this.cellCache.putOnce(name, await this.cellTile(node, level, f, at, wide(at)))
          this.paste(pic, out, out.region)
          this.cellCache.release(name)
        }
      }
    } catch (error) {
      out.done()
      throw error
    }
    return { ...out, region }
  }

  private async cellTile(node: Node, level: number, f: number, cells: Region, stored: Region): Promise<Pic> {
    await this.pause()
    // the tents of the outermost cells reach a cell further
    const input = await this.padded(node, level, { x: (cells.x - 1) * f, y: (cells.y - 1) * f, w: (cells.w + 2) * f, h: (cells.h + 2) * f })
    try {
      const out = this.fresh(stored)
      this.kernels.raw.reduceCells(input.ptr, input.stride, f, out.ptr, out.stride, cells.w, cells.h)
      return { ptr: out.ptr, stride: out.stride, region: stored }
    } finally {
      input.done()
    }
  }

  /** A run of table steps is one table: results round to 16 bits between them anyway, so composing changes nothing. */
  private async computeTables(node: StepNode, level: number, region: Region): Promise<Lent> {
    const run: StepNode[] = [node]
    let below = node.input
    while (below.kind === 'step' && below.def.kind === 'table' && !below.stored && !this.lumaOf(below)) {
      run.push(below)
      below = below.input
    }
    const { kernels } = this
    const facts = new Map<StepNode, unknown>()
    for (const n of run) facts.set(n, await this.factsOf(n))
    const name = run.map((n) => n.key).join('+')
    const luma = this.lumaOf(node)
    const composed = (): [Uint16Array, Uint16Array, Uint16Array] => {
      const tables = run.map((n) => (n.def as TableStep).table(levelParams(n.def, n.params, 0) as never, kernels, facts.get(n)))
      const channel = (i: number) => {
        const list = tables.map((t) => (t instanceof Uint16Array ? t : t[i]!))
        const all = list.pop()!.slice()
        while (list.length) {
          const next = list.pop()!
          for (let v = 0; v < 65536; v++) all[v] = next[all[v]!]!
        }
        return all
      }
      const first = channel(0)
      return tables.every((t) => t instanceof Uint16Array) ? [first, first, first] : [first, channel(1), channel(2)]
    }
    if (!this.quick && level > 0) {
      let coarsest = this.coarsestTables.get(name)
      if (coarsest === undefined) {
        const all = new Set<Uint16Array>(composed())
        const own = run.map((n) => n.def.coarsest?.(levelParams(n.def, n.params, 0) as never) ?? 16)
        coarsest = Math.min(...own, ...[...all, ...(luma ? [luma] : [])].map(coarsestOf))
        if (this.coarsestTables.size > 200) this.coarsestTables.clear()
        this.coarsestTables.set(name, coarsest)
      }
      if (level > Math.min(coarsest, this.coarsestAt(below))) return this.reduced(node, level, region)
    }
    const input = await this.within(below, level, region)
    const out = input.own ? input : this.fresh(region)
    // after the input: what was computed for it may have pushed a table out
    const [r, g, b] = tablesIn(kernels, name, composed)
    const straight = r === g && isStraight(kernels.u16(r, 65536))
    const { w, h } = region
    if (!straight || !luma) kernels.raw.lut(input.ptr, input.stride, out.ptr, out.stride, w, h, r, g, b)
    const from = straight ? input : out
    if (luma) {
      const table = tableIn(kernels, `${name} luma`, () => luma)
      kernels.raw.lumaCurve(from.ptr, from.stride, out.ptr, out.stride, w, h, table)
    }
    if (out !== input) input.done()
    return out
  }

  /** The table for lightness alone that a table step has at its parameters. */
  private lumaOf(node: StepNode): Uint16Array | null {
    const { def } = node
    if (def.kind !== 'table' || !def.luma) return null
    let luma = this.lumas.get(node)
    if (luma === undefined) this.lumas.set(node, (luma = def.luma(levelParams(def, node.params, 0) as never)))
    return luma
  }

  /** What a step found out about its whole input. */
  private async factsOf(node: StepNode): Promise<unknown> {
    const { analyse } = node.def
    if (!analyse) return undefined
    return this.onceFor(`${node.key}/facts`, node.input, analysisLevel(node.input.extent), (work) =>
      analyse(work, levelParams(node.def, node.params, work.level) as never),
    )
  }

  private planOf(node: StepNode, facts: unknown): Promise<unknown> {
    const def = node.def as PlannedStep
    const level = Math.max(0, def.planAt(levelParams(def, node.params, 0) as never))
    return this.onceFor(`${node.key}/plan`, node.input, level, (work) =>
      def.plan({ ...work, facts, pause: this.paused }, levelParams(def, node.params, level) as never),
    )
  }

  /** What a step makes of the other pictures it goes by. */
  private async planesOf(node: StepNode): Promise<Record<string, Plane>> {
    const { study } = node.def
    const planes: Record<string, Plane> = {}
    if (!study) return planes
    for (const [name, picture] of Object.entries(node.pictures)) {
      const made = await this.onceFor(`${picture.key}/${node.def.id}`, picture, analysisLevel(picture.extent, STUDY_SIDE), study)
      planes[name] = made as Plane
    }
    return planes
  }

  /** Something made once of a whole node at a level, and remembered. */
  private async onceFor(name: string, node: Node, level: number, make: (work: Analysis) => unknown): Promise<unknown> {
    if (this.made.has(name)) return this.made.get(name)
    const quick = this.quick
    // what is found must not depend on who asked
    this.quick = false
    try {
      const input = await this.within(node, level, atLevel(node.extent, level))
      try {
        const found = await make({ input, kernels: this.kernels, level, extent: node.extent })
        if (this.made.size >= MADE) this.made.delete(this.made.keys().next().value!)
        this.made.set(name, found)
        return found
      } finally {
        input.done()
      }
    } finally {
      this.quick = quick
    }
  }

  /** A region of a step that runs row by row: bands from the nearest kept state on. */
  private async computeSequence(node: StepNode, level: number, region: Region, facts: unknown): Promise<Lent> {
    const def = node.def as SequentialStep
    const extent = atLevel(node.extent, level)
    const params = levelParams(def, node.params, level)
    const stateBytes = def.state(extent.w, params as never)
    const name = (what: string, i: number) => `${node.key}/${level}/${what}/${i}`
    const bandAt = (i: number) => ({ x: extent.x, y: extent.y + i * BAND_ROWS, w: extent.w, h: Math.min(BAND_ROWS, extent.h - i * BAND_ROWS) })
    const first = Math.floor((region.y - extent.y) / BAND_ROWS)
    const last = Math.floor((region.y + region.h - 1 - extent.y) / BAND_ROWS)
    const out = this.fresh(region)
    try {
      for (let i = first; i <= last; i++) {
        let band = this.cache.take(name('band', i))
        if (!band) {
          // from the nearest state that is kept, or from the top
          let from = i
          let state: Pic | null = null
          while (from > 0 && !(state = this.cache.take(name('state', from)))) from--
          try {
            for (let j = from; j <= i; j++) {
              const next = await this.nextBand(node, level, bandAt(j), stateBytes, state, facts)
              if (state) this.cache.release(name('state', j))
              state = this.cache.putOnce(name('state', j + 1), next.state)
              band = this.cache.putOnce(name('band', j), next.band)
              if (j < i) this.cache.release(name('band', j))
              else this.cache.release(name('state', j + 1))
              if (j === i) state = null
              from = j + 1
            }
          } catch (error) {
            if (state) this.cache.release(name('state', from))
            throw error
          }
        }
        this.paste(band!, out, region)
        this.cache.release(name('band', i))
      }
    } catch (error) {
      out.done()
      throw error
    }
    return out
  }

  /** Computes one band out of the state before it, and the state after it. */
  private async nextBand(
    node: StepNode,
    level: number,
    region: Region,
    stateBytes: number,
    before: Pic | null,
    facts: unknown,
  ): Promise<{ band: Pic; state: Pic }> {
    const def = node.def as SequentialStep
    await this.pause()
    const input = await this.within(node.input, level, region)
    const state = this.fresh({ x: 0, y: 0, w: Math.ceil(stateBytes / 8), h: 1 })
    const band = this.fresh(region)
    try {
      if (before) this.kernels.raw.copyRect(before.ptr, state.stride, state.ptr, state.stride, state.stride, 1)
      else this.kernels.bytes(state.ptr, state.stride).fill(0)
      const work = { input, output: band, kernels: this.kernels, level, quick: this.quick, facts, extent: node.input.extent, planes: {}, pause: this.paused }
      await def.run({ ...work, state: state.ptr }, levelParams(def, node.params, level) as never)
    } catch (error) {
      state.done()
      band.done()
      throw error
    } finally {
      input.done()
    }
    return { band, state }
  }

  /** For steps that would lie at this level: computed one level finer and halved. */
  private async reduced(node: Node, level: number, region: Region): Promise<Lent> {
    const fine = { x: region.x * 2, y: region.y * 2, w: region.w * 2, h: region.h * 2 }
    const input = await this.padded(node, level - 1, fine)
    const out = this.fresh(region)
    this.kernels.raw.halve(input.ptr, input.stride, fine.w, fine.h, out.ptr, out.stride)
    input.done()
    return out
  }

  private async readPhoto(asset: string, level: number, region: Region): Promise<Lent> {
    let info = this.infos.get(asset)
    if (!info) this.infos.set(asset, (info = await this.sources.info(asset)))
    if (level < 0) return this.enlarged(asset, info, level, region)
    if (level >= info.levels)
      return this.reduced({ kind: 'photo', asset, key: asset, stored: false, extent: { x: 0, y: 0, w: info.width, h: info.height } }, level, region)
    const size = levelSize(info, level)
    const out = this.fresh(region)
    // tiles that are not here yet are read side by side
    const coming = new Map<string, Promise<Uint8Array>>()
    for (let ty = Math.floor(region.y / SOURCE_TILE); ty * SOURCE_TILE < region.y + region.h; ty++) {
      for (let tx = Math.floor(region.x / SOURCE_TILE); tx * SOURCE_TILE < region.x + region.w && coming.size < 16; tx++) {
        const name = sourceName(asset, level, tx, ty)
        if (this.cache.has(name)) continue
        const bytes = this.sources.tile(asset, level, tx, ty)
        // a failure is told where the tile is awaited
        bytes.catch(() => undefined)
        coming.set(name, bytes)
      }
    }
    try {
      for (let ty = Math.floor(region.y / SOURCE_TILE); ty * SOURCE_TILE < region.y + region.h; ty++) {
        for (let tx = Math.floor(region.x / SOURCE_TILE); tx * SOURCE_TILE < region.x + region.w; tx++) {
          const { name, pic } = await this.sourceTile(asset, info, level, size, tx, ty, coming)
          this.paste(pic, out, region)
          this.cache.release(name)
        }
      }
    } catch (error) {
      out.done()
      throw error
    }
    return out
  }

  /** The photo at twice its size and more: cubic, from the next coarser level. */
  private async enlarged(asset: string, info: SourceInfo, level: number, region: Region): Promise<Lent> {
    const node: Node = { kind: 'photo', asset, key: asset, stored: false, extent: { x: 0, y: 0, w: info.width, h: info.height } }
    const x = Math.floor(region.x / 2) - 2
    const y = Math.floor(region.y / 2) - 2
    const below = { x, y, w: Math.ceil((region.x + region.w) / 2) + 2 - x, h: Math.ceil((region.y + region.h) / 2) + 2 - y }
    const input = await this.padded(node, level + 1, below)
    try {
      const out = this.fresh(region)
      doubleInto(this.kernels, input, out)
      return out
    } finally {
      input.done()
    }
  }

  private async sourceTile(
    asset: string,
    info: SourceInfo,
    level: number,
    size: { w: number; h: number },
    tx: number,
    ty: number,
    coming: ReadonlyMap<string, Promise<Uint8Array>>,
  ): Promise<{ name: string; pic: Pic }> {
    const name = sourceName(asset, level, tx, ty)
    const kept = this.cache.take(name)
    if (kept) return { name, pic: kept }
    const bytes = await (coming.get(name) ?? this.sources.tile(asset, level, tx, ty))
    if (this.signal.cancelled) throw new QuillError('cancelled', 'Stopped.')
    const region = intersect({ x: tx * SOURCE_TILE, y: ty * SOURCE_TILE, w: SOURCE_TILE, h: SOURCE_TILE }, { x: 0, y: 0, ...size })
    const rowBytes = region.w * info.channels * (info.depth / 8)
    if (bytes.length !== rowBytes * region.h)
      throw new QuillError('source-unreadable', 'A part of the photo could not be read. The artwork is safe; add the photo again.', { asset })
    const pic = this.fresh(region)
    const { kernels } = this
    kernels.scratch(bytes.length, (ptr) => {
      kernels.bytes(ptr, bytes.length).set(bytes)
      kernels.raw.unpack(ptr, rowBytes, pic.ptr, pic.stride, region.w, region.h, info.channels, info.depth)
    })
    this.cache.put(name, { ptr: pic.ptr, stride: pic.stride, region })
    return { name, pic }
  }

  private fresh(region: Region): Lent {
    const ptr = this.kernels.allocator.alloc(region.w * region.h * 8)
    return { ptr, stride: region.w * 8, region, own: true, done: () => this.kernels.allocator.free(ptr) }
  }

  private copyOf(lent: Lent): Lent {
    const copy = this.fresh(lent.region)
    this.paste(lent, copy, lent.region)
    lent.done()
    return copy
  }

  /** Copies what both cover of `region`. */
  private paste(from: Pic, to: Pic, region: Region): void {
    const part = intersect(intersect(from.region, to.region), region)
    if (isEmpty(part)) return
    const at = (p: Pic) => p.ptr + (part.y - p.region.y) * p.stride + (part.x - p.region.x) * 8
    this.kernels.raw.copyRect(at(from), from.stride, at(to), to.stride, part.w * 8, part.h)
  }
}

const sourceName = (asset: string, level: number, tx: number, ty: number) => `source/${asset}/${level}/${tx},${ty}`

/** The level at which facts about a picture are measured: its own size alone decides. */
function analysisLevel(extent: Region, side = ANALYSIS_SIDE): number {
  let level = 0
  while (Math.max(extent.w, extent.h) / 2 ** level > side) level++
  return level
}

/** Parameters with their lengths in pixels of a level. */
function levelParams(def: Pick<AnyStep, 'params' | 'bySheet'>, params: Record<string, unknown>, level: number): Record<string, unknown> {
  const scale = 2 ** level
  const out: Record<string, unknown> = {}
  for (const [name, spec] of Object.entries(def.params)) {
    const value = params[name]
    if (spec.type === 'length') out[name] = (value as number) / scale
    else if (spec.type === 'place') out[name] = { x: (value as Place).x / scale, y: (value as Place).y / scale }
    else out[name] = value
  }
  if (def.bySheet) out['sheet'] = params['sheet']
  return out
}

/** Whether a step must be computed row by row at its parameters. */
function runsByRows({ def, params }: StepNode): boolean {
  return def.kind === 'sequential' && (def.carries?.(levelParams(def, params, 0) as never) ?? true)
}

/** Whether a table changes nothing. */
function isStraight(table: Uint16Array): boolean {
  for (let i = 0; i < 65536; i += 257) if (table[i] !== i) return false
  return table.every((v, i) => v === i)
}

/**
 * Rows a strip should have: a neighbourhood's rows above and below are looked at anew for each strip, so strips are as high as the
 * cache allows with everything kept that the next strip will ask for; 64 … 512. A strip that drives out what it needs itself
 * would make every step compute its input again and again.
 * @param width pixels in a row at this level
 */
export function stripRows(engine: Engine, node: Node, level: number, width: number): number {
  // how far beyond a strip each kept node is looked at, and how many pictures are in hand at once
  const reach = new Map<Node, number>()
  walk(node, (n) => {
    if (n.kind === 'photo') reach.set(n, SOURCE_TILE)
    else if (n.stored && !reach.has(n)) reach.set(n, 0)
    if (n.kind === 'step' && n.def.kind !== 'table' && 'needs' in n.def && n.def.needs) {
      const params = levelParams(n.def, n.params, level) as never
      const f = (n.def.kind === 'neighbourhood' && n.def.cells?.(params)) || 1
      // cells are kept, so that the input itself is read once
      const far = f > 1 ? f : -n.def.needs({ x: 0, y: 0, w: 64, h: 64 }, params).y
      reach.set(n.input, Math.max(reach.get(n.input) ?? 0, far))
    }
    return true
  })
  const bytes = (rows: number) => [...reach.values()].reduce((sum, r) => sum + (2 * rows + 2 * r) * width * 8, 0)
  const farthest = Math.max(0, ...[...reach].map(([n, r]) => (n.kind === 'photo' ? 0 : r)))
  let rows = 64
  while (rows < 512 && rows < 3 * farthest && bytes(rows * 2) < engine.cache.limit * 0.9) rows *= 2
  // rows enough for each thread
  const threads = engine.kernels.crew?.threads ?? 1
  if (threads > 1 && rows < 256 && bytes(rows * 2) < engine.cache.limit * 0.9) rows *= 2
  return rows
}

/**
 * Computes a frame by full-width strips from top to bottom, so that memory does not grow with its height.
 * @param frame in pixels of the level
 */
export async function renderStrips(
  engine: Engine,
  node: Node,
  level: number,
  frame: Region,
  onStrip: (pic: Pic, done: number) => void | Promise<void>,
  options: { rows?: number; signal?: Signal } = {},
): Promise<void> {
  const rows = options.rows ?? stripRows(engine, node, level, frame.w)
  const grid = stripGrid(rows)
  for (let y = frame.y; y < frame.y + frame.h;) {
    // strips lie on the grid, so that each is one kept strip of the last node
    const next = Math.min(frame.y + frame.h, (Math.floor(y / rows) + 1) * rows)
    const strip = { x: frame.x, y, w: frame.w, h: next - y }
    await engine.withRegion(node, level, strip, (pic) => onStrip(pic, (next - frame.y) / frame.h), {
      grid,
      ...(options.signal ? { signal: options.signal } : {}),
    })
    y = next
  }
}
