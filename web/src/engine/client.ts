import type {
  AreaOrder,
  AreaOutline,
  Artwork,
  FromEngine,
  Measured,
  Suitability,
  PaintView,
  PlaneAddress,
  PlaneFrom,
  PlaneRef,
  Region,
  Sized,
  StrokeOrder,
  Target,
  ToEngine,
} from '@nimble-quill/core'
import { startWorker } from './worker-url.ts'

export interface SmallPicture {
  w: number
  h: number
  pixels: ArrayBuffer
}
type TileMessage = FromEngine & { type: 'tile' }
type DoneMessage = FromEngine & { type: 'level-done' }

interface ViewListener {
  onTile: (m: TileMessage) => void
  onLevel: (m: DoneMessage) => void
  /** How much of the visible part is the full-size result, reduced. */
  onSettled?: (share: number) => void
  /** The picture waits for something that takes long: what it is, and how far. */
  onPlanning?: (title: string, share: number) => void
  onFail: (code: string, message: string) => void
}

/** What a stroke or a filling left: the plane to be put into the artwork, and the names of its new parts. */
export interface Painted {
  plane: PlaneRef
  damage: Region
  parts: string[]
}
/** A stroke that runs. */
export interface Stroke {
  /** Samples as whole numbers, six each. */
  add: (samples: number[]) => void
  /** The pen was lifted. */
  end: () => void
  /** What it left; rejects as soon as it fails. */
  done: Promise<Painted>
  cancel: () => void
}
interface Painting {
  onTile: ((m: TileMessage) => void) | null
  resolve: (p: Painted) => void
  reject: (e: Error) => void
}

interface View extends ViewListener {
  ask: ToEngine
  /** It failed once already for a reason of the engine's own. */
  again: boolean
  /** Shares settled, by the id of each part. */
  parts: Map<number, number>
  helping: number | null
}

interface Picture {
  ask: ToEngine
  again: boolean
  resolve: (p: SmallPicture) => void
  reject: (e: Error) => void
}

/** The engine died; what it was doing can be asked of the next one. */
export class EngineLost extends Error {}

/** Failures after which the worker is replaced and what it was asked is asked once more. */
const ITS_OWN = new Set(['kernel-failed', 'out-of-memory'])

/** Below this many full-size pixels a second worker would take longer to start than to help. */
const WORTH_HELP = 3e6

/** The page's side of the engine worker. One for the bench; it starts again when the worker dies. */
export class EngineClient {
  private worker: Worker
  private last = 0
  private version = 0
  private deaths = 0
  private artwork: Artwork | null = null
  private readonly views = new Map<string, View>()
  /**
   * A second worker that settles the other half, where memory cannot be shared (the page is not isolated from other origins)
   * and there is more than one core. Elsewhere the engine worker has threads of its own.
   */
  private helper: Worker | null = null
  private helperKnows = 0
  private helperLost = globalThis.crossOriginIsolated || navigator.hardwareConcurrency < 2
  private readonly pictures = new Map<number, Picture>()
  private readonly painting = new Map<number, Painting>()
  private readonly lines = new Map<number, { resolve: (m: never) => void; reject: (e: Error) => void }>()
  private readying: { id: number; hear: () => void } | null = null
  private outlining: { id: number; hear: (outline: AreaOutline) => void } | null = null
  private measuring: { id: number; hear: (found: Measured) => void } | null = null
  onTrouble: (message: string) => void = () => undefined

  constructor() {
    this.worker = this.start()
  }

  private start(): Worker {
    const worker = startWorker()
    worker.onmessage = (e: MessageEvent<FromEngine>) => this.receive(e.data)
    worker.onerror = () => {
      this.onTrouble('The picture engine stopped and was started again. Your artwork is safe.')
      this.replace()
    }
    return worker
  }

  /** A fresh worker; what was in sight or awaited is asked for once more. */
  private replace(): void {
    this.worker.terminate()
    this.helper?.terminate()
    this.helper = null
    this.worker = this.start()
    for (const p of this.lines.values()) p.reject(new Error('The picture engine stopped. The artwork is safe; try again.'))
    this.lines.clear()
    for (const p of this.painting.values()) p.reject(new EngineLost('The picture engine stopped. What was painted before is safe.'))
    this.painting.clear()
    const waiting = [...this.pictures]
    this.pictures.clear()
    const stopped = !this.artwork || ++this.deaths > 3
    if (!stopped) {
      this.send({ type: 'artwork', artwork: this.artwork!, version: this.version })
      for (const view of this.views.values()) this.send(view.ask)
    }
    for (const [id, p] of waiting) {
      if (stopped || p.again) p.reject(new Error('The picture engine stopped.'))
      else {
        this.pictures.set(id, { ...p, again: true })
        this.send(p.ask)
      }
    }
  }

  private send(m: ToEngine): void {
    this.worker.postMessage(m)
  }

  close(): void {
    this.worker.terminate()
    this.helper?.terminate()
  }

  /** Tells the engine which artwork is on the bench; later requests are about it. */
  setArtwork(artwork: Artwork): number {
    if (artwork !== this.artwork) {
      this.artwork = artwork
      this.send({ type: 'artwork', artwork, version: ++this.version })
    }
    return this.version
  }

  private ask(slot: string, ask: ToEngine & { id: number }, listener: ViewListener, first: ToEngine = ask): void {
    const helping = this.views.get(slot)?.helping
    if (helping) this.helper?.postMessage({ type: 'cancel', id: helping } satisfies ToEngine)
    this.views.set(slot, { ask, again: false, parts: new Map([[ask.id, 0]]), helping: null, ...listener })
    this.send(first)
  }

  /** The second worker, knowing the artwork; null where there is none to be had. */
  private help(): Worker | null {
    if (this.helperLost || !this.artwork) return null
    if (!this.helper) {
      const helper = startWorker()
      helper.onmessage = (e: MessageEvent<FromEngine>) => this.receive(e.data)
      helper.onerror = () => {
        // the one worker does it alone from now on
        helper.terminate()
        this.helper = null
        this.helperLost = true
        for (const view of this.views.values()) {
          if (view.helping === null) continue
          view.parts.delete(view.helping)
          view.helping = null
          this.send(view.ask)
        }
      }
      this.helper = helper
      this.helperKnows = 0
    }
    if (this.helperKnows !== this.version) {
      this.helper.postMessage({ type: 'artwork', artwork: this.artwork, version: this.version } satisfies ToEngine)
      this.helperKnows = this.version
    }
    return this.helper
  }

  /**
   * Asks for the visible part; a newer request of the slot replaces the older.
   * @param of another artwork than the one on the bench
   */
  view(slot: string, target: Target, region: Region, levels: number[], listener: ViewListener, beyond = false, of: Artwork | null = null): void {
    const id = ++this.last
    this.ask(slot, { type: 'view', id, slot, target, region, levels, ...(beyond && { beyond }), ...(of && { of }) }, listener)
  }

  /**
   * Asks for the visible part of the full-size result, reduced to a level; the next view or settling of the slot drops it.
   * @param first before small pictures that wait
   * @param beyond also what lies outside the sheet
   */
  settle(slot: string, target: Target, region: Region, level: number, listener: ViewListener, first = false, beyond = false): void {
    const whole = { type: 'settle', id: ++this.last, slot, target, region, level, ...(first ? { first } : {}), ...(beyond && { beyond }) } as const
    const helper = region.w * region.h > WORTH_HELP ? this.help() : null
    if (!helper) {
      this.ask(slot, whole, listener)
      return
    }
    // two halves, cut where pixels of the level end; if one worker is lost the other is asked for the whole
    const middle = Math.round((region.x + region.w / 2) / 512) * 512
    this.ask(slot, whole, listener, { ...whole, region: { ...region, w: middle - region.x } })
    const id = ++this.last
    const view = this.views.get(slot)!
    view.helping = id
    view.parts.set(id, 0)
    helper.postMessage({ ...whole, id, region: { ...region, x: middle, w: region.x + region.w - middle } } satisfies ToEngine)
  }

  /** A small picture, as soon as views leave time for it. */
  picture(ask: { artwork?: Artwork; target: Target; side: number; spot?: { w: number; h: number } }, signal: AbortSignal): Promise<SmallPicture> {
    return this.small({ type: 'picture', id: ++this.last, ...ask }, signal)
  }

  /** A stroke of a brush, black on nothing; its breadth in pixels of the picture. */
  swatch(brush: Sized, w: number, h: number, signal: AbortSignal): Promise<SmallPicture> {
    return this.small({ type: 'swatch', id: ++this.last, brush, w, h }, signal)
  }

  /** The mean colour of a square of full-size pixels, as a picture of one pixel. */
  sample(target: Target, x: number, y: number, side: number, signal: AbortSignal): Promise<SmallPicture> {
    return this.small({ type: 'sample', id: ++this.last, target, x, y, side }, signal)
  }

  private small(request: ToEngine & { id: number }, signal: AbortSignal): Promise<SmallPicture> {
    const { id } = request
    return new Promise((resolve, reject) => {
      this.pictures.set(id, { ask: request, again: false, resolve, reject })
      signal.addEventListener('abort', () => {
        if (!this.pictures.delete(id)) return
        this.send({ type: 'cancel', id })
        reject(new DOMException('no longer wanted', 'AbortError'))
      })
      this.send(request)
    })
  }

  /** Lets the engine compute beforehand what lies under a brush. */
  ready(at: PlaneAddress, also: readonly PlaneAddress[], view: PaintView, hear: () => void): void {
    const id = ++this.last
    this.readying = { id, hear }
    this.send({ type: 'paint-ready', id, at, also, view })
  }

  /** Begins a stroke; `onTile` is told of what changes under it. One at a time: the next when this one's end has been told. */
  stroke(order: StrokeOrder, view: PaintView, onTile: (m: TileMessage) => void): Stroke {
    const id = ++this.last
    const answer = new Promise<Painted>((resolve, reject) => this.painting.set(id, { onTile, resolve, reject }))
    // who does not wait for it is not to be shouted at
    answer.catch(() => undefined)
    this.send({ type: 'stroke', id, order, view })
    return {
      add: (samples) => this.send({ type: 'stroke-goes', id, samples: Int32Array.from(samples) }),
      end: () => this.send({ type: 'stroke-ends', id }),
      done: answer,
      cancel: () => {
        this.painting.get(id)?.reject(new DOMException('given up', 'AbortError'))
        this.painting.delete(id)
        this.send({ type: 'cancel', id })
      },
    }
  }

  /** Makes a whole plane: of one value, or from a picture. Rejects with AbortError where it is given up. */
  planeFrom(at: PlaneAddress, from: PlaneFrom, signal?: AbortSignal): Promise<Painted> {
    return this.plane({ type: 'plane-from', id: ++this.last, at, from }, signal)
  }

  private plane(ask: ToEngine & { id: number }, signal?: AbortSignal): Promise<Painted> {
    const { id } = ask
    return new Promise((resolve, reject) => {
      this.painting.set(id, { onTile: null, resolve, reject })
      this.send(ask)
      signal?.addEventListener('abort', () => {
        if (!this.painting.delete(id)) return
        reject(new DOMException('given up', 'AbortError'))
        this.send({ type: 'cancel', id })
      })
    })
  }

  /** Makes the area that hands act in another. Rejects with AbortError where it is given up. */
  area(order: AreaOrder, signal?: AbortSignal): Promise<Painted> {
    return this.plane({ type: 'area', id: ++this.last, order }, signal)
  }

  /** Where to take from to mend what was painted over; `not`: tried already. Rejects with a sentence where there is nothing. */
  mendSource(at: PlaneAddress, not: readonly { dx: number; dy: number }[]): Promise<FromEngine & { type: 'mend-source' }> {
    const id = ++this.last
    return new Promise((resolve, reject) => {
      this.lines.set(id, { resolve, reject })
      this.send({ type: 'mend-source', id, at, not })
    })
  }

  /** Where an area ends, as it is seen at a level; only the newest request is answered. */
  outline(plane: string, region: Region, level: number, hear: (outline: AreaOutline) => void): void {
    const id = ++this.last
    this.outlining = { id, hear }
    this.send({ type: 'area-outline', id, plane, region, level })
  }

  /** The lines that a step of the artwork on the bench draws. Rejects with a sentence where it draws none. */
  linesOf(layer: string, step: string): Promise<FromEngine & { type: 'lines' }> {
    const id = ++this.last
    return new Promise((resolve, reject) => {
      this.lines.set(id, { resolve, reject })
      this.send({ type: 'lines', id, layer, step })
    })
  }

  /** The lines of an SVG file, in millimetres. Rejects with a sentence where it cannot be read. */
  readLines(text: string): Promise<FromEngine & { type: 'read-lines' }> {
    const id = ++this.last
    return new Promise((resolve, reject) => {
      this.lines.set(id, { resolve, reject })
      this.send({ type: 'read-lines', id, text })
    })
  }

  /** How the photo of the artwork on the bench will take techniques; null where there is none. Rejects where it cannot be read. */
  suits(): Promise<Suitability | null> {
    const id = ++this.last
    return new Promise((resolve, reject) => {
      this.lines.set(id, { resolve: (m) => resolve((m as FromEngine & { type: 'suits' }).found), reject })
      this.send({ type: 'suit', id })
    })
  }

  /** Asks what is known of a step of the artwork on the bench; only the newest request is answered. */
  measure(layer: string, step: string, hear: (found: Measured) => void): void {
    const id = ++this.last
    this.measuring = { id, hear }
    this.send({ type: 'measure', id, layer, step })
  }

  private receive(m: FromEngine): void {
    if (m.type === 'measured') {
      if (m.id === this.measuring?.id) this.measuring.hear(m.found)
      return
    }
    if (m.type === 'area-outline') {
      if (m.id === this.outlining?.id) this.outlining.hear(m)
      return
    }
    if (m.type === 'paint-is-ready') {
      if (m.id === this.readying?.id) this.readying.hear()
      return
    }
    if (m.type === 'lines' || m.type === 'read-lines' || m.type === 'mend-source' || m.type === 'suits') {
      this.lines.get(m.id)?.resolve(m as never)
      this.lines.delete(m.id)
      return
    }
    if (m.type === 'failed' && this.lines.has(m.id)) {
      this.lines.get(m.id)!.reject(new Error(m.message))
      this.lines.delete(m.id)
      return
    }
    if (m.type === 'painted') {
      this.painting.get(m.id)?.resolve({ plane: m.plane, damage: m.damage, parts: m.blobs.map((b) => b.name) })
      this.painting.delete(m.id)
      return
    }
    const brush = 'id' in m ? this.painting.get(m.id) : undefined
    if (brush && m.type === 'tile') {
      brush.onTile?.(m)
      return
    }
    if (brush && m.type === 'failed') {
      this.painting.delete(m.id)
      // what is its own fault the next engine may do better
      brush.reject(ITS_OWN.has(m.code) ? new EngineLost(m.message) : new Error(m.message))
      if (ITS_OWN.has(m.code)) this.replace()
      return
    }
    if (m.type === 'planning') {
      for (const view of this.views.values()) view.onPlanning?.(m.title, m.share)
    } else if (m.type === 'tile' || m.type === 'level-done' || m.type === 'settled') {
      const view = this.views.get(m.slot)
      if (!view?.parts.has(m.id)) return
      if (m.type === 'tile') view.onTile(m)
      else if (m.type === 'settled') {
        view.parts.set(m.id, m.share)
        const shares = [...view.parts.values()]
        view.onSettled?.(shares.reduce((a, b) => a + b, 0) / shares.length)
      } else view.onLevel(m)
    } else if (m.type === 'picture') {
      this.pictures.get(m.id)?.resolve({ w: m.w, h: m.h, pixels: m.pixels })
      this.pictures.delete(m.id)
    } else if (m.type === 'failed') {
      const waiting = this.pictures.get(m.id)
      const view = [...this.views.values()].find((v) => v.parts.has(m.id))
      const asked = waiting ?? view
      if (asked && !asked.again && ITS_OWN.has(m.code)) {
        if (view) view.again = true
        this.replace()
      } else if (waiting) {
        this.pictures.delete(m.id)
        waiting.reject(new Error(m.message))
      } else view?.onFail(m.code, m.message)
    }
  }
}
