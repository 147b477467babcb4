import type { Artwork } from '../artwork/schema.ts'
import { QuillError } from '../errors.ts'
import { viewGrid, type Engine, type Signal } from './engine.ts'
import { GraphCompiler, type Node, type Target } from './graph.ts'
import { atLevel, intersect, isEmpty, type Region } from './region.ts'

/** What a page may ask of an engine worker. */
export type ToEngine =
  | { type: 'artwork'; artwork: Artwork; version: number }
  /**
   * Tiles of the visible part, at each level in turn (coarse before fine). A newer view of the same slot drops an
   * older one. `region` is in artwork pixels.
   */
  | { type: 'view'; id: number; slot: string; target: Target; region: Region; levels: number[] }
  /**
   * A small picture: whole (long side at least `side` where the artwork has it), or `side` × `side`·aspect pixels round
   * the look spot at full size. `artwork` where it is not the one on the bench.
   */
  | { type: 'picture'; id: number; artwork?: Artwork; target: Target; side: number; spot?: { w: number; h: number } }
  | { type: 'cancel'; id: number }

export type FromEngine =
  | { type: 'ready' }
  | { type: 'tile'; id: number; slot: string; version: number; level: number; region: Region; pixels: ArrayBuffer }
  | { type: 'level-done'; id: number; slot: string; version: number; level: number; ms: number }
  | { type: 'picture'; id: number; w: number; h: number; pixels: ArrayBuffer }
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
  private busy: Job | null = null

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
      case 'view': {
        this.views = this.views.filter((j) => j.slot !== m.slot)
        if (this.busy?.slot === m.slot) this.busy.signal.cancelled = true
        const signal = { cancelled: false }
        this.views.push({ id: m.id, slot: m.slot, signal, run: () => this.view(m, signal) })
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
        if (this.busy?.id === m.id) this.busy.signal.cancelled = true
        return
    }
    if (!this.busy) void this.work()
  }

  private async work(): Promise<void> {
    for (;;) {
      const job = this.views.shift() ?? this.pictures.shift()
      if (!job) return
      this.busy = job
      try {
        await job.run()
      } catch (error) {
        const { code, message } = error as QuillError
        if (code !== 'cancelled') {
          this.post(
            {
              type: 'failed',
              id: job.id,
              code: code ?? 'fault',
              message: error instanceof QuillError ? message : `The picture could not be computed (${message}). The artwork is safe; try again.`,
            },
            [],
          )
        }
      }
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
      for (const region of tilesFromCentre(visible)) {
        const pixels = await this.pixels(node, level, region, signal)
        this.post({ type: 'tile', id: m.id, slot: m.slot, version, level, region, pixels }, [pixels])
      }
      this.post({ type: 'level-done', id: m.id, slot: m.slot, version, level, ms: performance.now() - started }, [])
    }
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
    const pixels = await this.pixels(node, level, region, signal)
    this.post({ type: 'picture', id: m.id, w: region.w, h: region.h, pixels }, [pixels])
  }

  private pixels(node: Node, level: number, region: Region, signal: Signal): Promise<ArrayBuffer> {
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
      { signal },
    )
  }
}

/** The grid's tiles that a region touches, cut to it, the middle ones first. */
export function tilesFromCentre(region: Region): Region[] {
  if (isEmpty(region)) return []
  const { w, h } = viewGrid
  const tiles: Region[] = []
  for (let ty = Math.floor(region.y / h); ty * h < region.y + region.h; ty++) {
    for (let tx = Math.floor(region.x / w); tx * w < region.x + region.w; tx++) tiles.push(intersect({ x: tx * w, y: ty * h, w, h }, region))
  }
  const cx = region.x + region.w / 2
  const cy = region.y + region.h / 2
  const far = (r: Region) => Math.hypot(r.x + r.w / 2 - cx, r.y + r.h / 2 - cy)
  return tiles.sort((a, b) => far(a) - far(b))
}
