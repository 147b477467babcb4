import { readSvg } from '../formats/svg-read.ts'
import { stepLines } from './line-file.ts'
import { allLayers, locate } from '../artwork/layers.ts'
import { shownSize } from '../artwork/framing.ts'
import { suitabilityOf, type Suitability } from '../study/suitability.ts'
import { AREA, type PlaneAddress, type PlaneRef } from '../artwork/planes.ts'
import { planeSpace } from '../artwork/spaces.ts'
import type { Span } from '../blend/span.ts'
import type { Blob as PlaneBlob, Entry, Plane } from '../planes/plane.ts'
import type { Laying, Painted } from './painter.ts'
import { areaPlane, blacksPlane, movedPlane, picturedPlane, pixelPlane } from './plane-from.ts'
import { strokeSwatch } from './swatch.ts'
import type { Sized } from '../strokes/dabs.ts'
import type { PlaneUse } from './planes.ts'
import { planeOn, samplesIn, showPainted, StrokeSession, type PaintView, type StrokeOrder } from './stroke-session.ts'
import { mendSource } from './mend-source.ts'
import type { Offset } from '../mend/find-source.ts'
import { areaOutline } from './area-outline.ts'
import { areaTiles } from './area-tiles.ts'
import { orderedArea, type AlikeMemory } from './areas.ts'
import { filledPlane } from './fill-plane.ts'
import type { AreaOrder } from '../areas/order.ts'
import type { Artwork } from '../artwork/schema.ts'
import { QuillError } from '../base/errors.ts'
import { inverse, kindOf, type Matrix } from '../base/transform.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from '../steps/contract.ts'
import type { Engine } from './engine.ts'
import { isPlanned, onSmallSheet } from './small-sheet.ts'
import { GraphCompiler, type Target } from './graph.ts'
import { inputsOf, walk, type Node } from './nodes.ts'
import type { Signal } from './request.ts'
import { histogramOf, type Histogram } from '../steps/tone/histogram.ts'
import { atLevel, intersect, union, type Region } from '../base/region.ts'

/** What a page may ask of an engine worker. */
export type ToEngine =
  | { type: 'artwork'; artwork: Artwork; version: number }
  /**
   * Tiles of the visible part, at each level in turn (coarse before fine). A newer view of the same slot drops an
   * older one. `region` is in artwork pixels. `beyond`: also what lies outside the sheet. `of`: of
   * another artwork than the one on the bench.
   */
  | { type: 'view'; id: number; slot: string; target: Target; region: Region; levels: number[]; beyond?: boolean; of?: Artwork }
  /**
   * The visible part of the full-size result, reduced to a level: what is delivered is what is judged. Dropped by a newer
   * view or settling of the slot. `first`: before small pictures, as after a stroke, when little of it is to be computed.
   */
  | { type: 'settle'; id: number; slot: string; target: Target; region: Region; level: number; first?: boolean; beyond?: boolean }
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
  /** Somebody is about to paint there: what the picture under the brush is made of is computed beforehand. */
  | { type: 'paint-ready'; id: number; at: PlaneAddress; also?: readonly PlaneAddress[]; view: PaintView }
  /** A stroke begins; its samples follow, its end or its cancel. One at a time. */
  | { type: 'stroke'; id: number; order: StrokeOrder; view: PaintView }
  /** Samples as whole numbers in a row, six each: x and y in 1/64 pixel, ms, pressure 0…1023, tilt in degrees. */
  | { type: 'stroke-goes'; id: number; samples: Int32Array }
  | { type: 'stroke-ends'; id: number }
  /** All of a plane gets one value, or is made from a picture. */
  | { type: 'plane-from'; id: number; at: PlaneAddress; from: PlaneFrom }
  /** A stroke of a brush on white, small; answered with a picture. */
  | { type: 'swatch'; id: number; brush: Sized; w: number; h: number }
  /** How the photo of the artwork on the bench will take techniques: measured on its study. */
  | { type: 'suit'; id: number }
  /** The mean colour of a square of a target at full size; answered with a picture of one pixel. */
  | { type: 'sample'; id: number; target: Target; x: number; y: number; side: number }
  /** The lines that a step draws, to be taken over as ink. */
  | { type: 'lines'; id: number; layer: string; step: string }
  /** The area that hands act in becomes another; answered like a stroke. */
  | { type: 'area'; id: number; order: AreaOrder }
  /** Where an area ends, as it is seen at a level; a newer request drops an older one. */
  | { type: 'area-outline'; id: number; plane: string; region: Region; level: number }
  /** Where to take from to mend what was painted over; `not`: tried already. */
  | { type: 'mend-source'; id: number; at: PlaneAddress; not: readonly Offset[] }
  /** The text of an SVG file, to be read away from the page. */
  | { type: 'read-lines'; id: number; text: string }
  | { type: 'cancel'; id: number }

/** What a whole plane is made of: one value, or how much of a layer's chain is there: by its tones (within a span), its edges, its alpha. */
export type PlaneFrom =
  | { type: 'value'; laying: Laying; area?: string }
  /** An area of the sheet, by its plane. */
  | { type: 'area'; plane: string }
  /** The blacks that a step fills. */
  | { type: 'blacks'; layer: string; step: string }
  /** Paint: all the pixels of a target. */
  | { type: 'pixels'; target: Target }
  /** What is painted there, laid elsewhere. */
  | { type: 'moved'; by: Matrix }
  | { type: 'picture'; layer: string; by: 'tones' | 'edges' | 'alpha'; span: Span | null }

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
  /** Something is made that takes long and that pictures wait for: what it is, and how far. */
  | { type: 'planning'; title: string; share: number }
  /** `rough`: not what the level should show, which would take too long; the settled picture follows. */
  | { type: 'level-done'; id: number; slot: string; version: number; level: number; ms: number; rough: boolean }
  | { type: 'settled'; id: number; slot: string; version: number; share: number }
  | { type: 'picture'; id: number; w: number; h: number; pixels: ArrayBuffer }
  | { type: 'measured'; id: number; found: Measured }
  /** null: there is no photo. */
  | { type: 'suits'; id: number; found: Suitability | null }
  | { type: 'mend-source'; id: number; dx: number; dy: number }
  /** Where an area ends: x and y of its places, and where each closed line begins. */
  | { type: 'area-outline'; id: number; places: Float32Array; starts: Int32Array }
  /** Lines of a step: x, y and half the breadth of each place, one after another, and where each line begins; how many areas were left out. */
  | { type: 'lines'; id: number; places: Float32Array; starts: Int32Array; areas: number; colour: string; laid: boolean }
  /** Lines of a file: as above, in millimetres; its size, and how many things were left out. */
  | { type: 'read-lines'; id: number; places: Float32Array; starts: Int32Array; width: number; height: number; left: number }
  | { type: 'paint-is-ready'; id: number }
  /** What a stroke left: the plane to put into the artwork, and what is new of it, to be kept before the artwork is. */
  | { type: 'painted'; id: number; at: PlaneAddress; plane: PlaneRef; damage: Region; blobs: PlaneBlob[] }
  | { type: 'failed'; id: number; code: string; message: string }

interface Job {
  id: number
  slot: string | null
  signal: Signal
  run: (signal: Signal) => Promise<void>
  /** It makes way for a stroke, or for anything where it is an offer, and is begun again. */
  later?: boolean
  /** A small picture of what would be, which is planned first, or words on the photo: it comes after all else and makes way for it. */
  offer?: boolean
}

/** Serves one page: keeps its artwork's graph, orders requests (views before small pictures), drops what is superseded. */
export class EngineHost {
  private readonly engine: Engine
  private readonly post: (m: FromEngine, transfer: ArrayBuffer[]) => void
  private compiler: GraphCompiler | null = null
  /** Keys of the nodes of the artwork before: what is read by new ones is what is being edited. */
  private before = new Set<string>()
  private now = new Set<string>()
  private artwork: Artwork | null = null
  private version = 0
  private views: Job[] = []
  private pictures: Job[] = []
  private settling: Job[] = []
  private offers: Job[] = []
  private busy: Job | null = null
  private stroke: { id: number; session: StrokeSession; queued: boolean } | null = null
  private strokes: Job[] = []
  /** What the view showed of what is painted when it was made ready. */
  private ready: { name: string; uses: ReadonlyMap<string, PlaneUse> } | null = null
  private readonly clock: () => number
  private readonly digest: ((bytes: Uint8Array) => Promise<string>) | undefined
  private toldPlanning = 0
  /** How like the picture is to where an area was last taken. */
  private readonly alike: { last?: AlikeMemory } = {}
  /** Milliseconds a pixel that the last quick picture took. */
  private pace = 0

  /**
   * @param digest SHA-256 in hexadecimal, where there is a faster one than core's
   * @param clock milliseconds that views are timed by
   */
  constructor(
    engine: Engine,
    post: (m: FromEngine, transfer: ArrayBuffer[]) => void,
    digest?: (bytes: Uint8Array) => Promise<string>,
    clock: () => number = () => performance.now(),
  ) {
    this.clock = clock
    this.engine = engine
    this.post = post
    this.digest = digest
  }

  /** Whether anything is being computed. */
  get working(): boolean {
    return this.busy !== null
  }

  receive(m: ToEngine): void {
    let waits = false
    switch (m.type) {
      case 'artwork':
        this.artwork = m.artwork
        this.version = m.version
        this.compiler = null
        if (this.now.size) this.before = this.now
        this.now = new Set()
        return
      case 'view':
      case 'settle': {
        this.views = this.views.filter((j) => j.slot !== m.slot)
        this.settling = this.settling.filter((j) => j.slot !== m.slot)
        if (this.busy?.slot === m.slot) this.busy.signal.cancelled = true
        const signal = { cancelled: false }
        const run = m.type === 'view' ? (s: Signal) => this.view(m, s) : (s: Signal) => this.settle(m, s)
        // settling waits until nothing else does
        ;(m.type === 'view' || m.first ? this.views : this.settling).push({ id: m.id, slot: m.slot, signal, run })
        break
      }
      case 'measure': {
        const signal = { cancelled: false }
        this.views = this.views.filter((j) => j.slot !== MEASURING)
        this.views.push({ id: m.id, slot: MEASURING, signal, run: (s) => this.measure(m, s) })
        break
      }
      case 'picture': {
        const signal = { cancelled: false }
        const offer = m.artwork !== undefined && isPlanned(m.artwork)
        ;(offer ? this.offers : this.pictures).push({ id: m.id, slot: null, signal, run: (s) => this.picture(m, s), offer })
        if (offer) waits = true
        break
      }
      case 'paint-ready': {
        this.views = this.views.filter((j) => j.slot !== READY)
        this.views.push({ id: m.id, slot: READY, signal: { cancelled: false }, run: (s) => this.makeReady(m, s) })
        break
      }
      case 'stroke': {
        this.stroke?.session.cancel()
        const { artwork, ready } = this
        if (!artwork) return
        const shown = ready && ready.name === this.readyName(m.order.at, m.view) ? ready.uses : null
        this.stroke = { id: m.id, session: new StrokeSession(this.engine, artwork, m.order, m.view, shown), queued: false }
        if (this.busy) {
          // the picture under the brush comes before all else
          this.busy.later = true
          this.busy.signal.cancelled = true
        }
        return
      }
      case 'stroke-goes':
        if (this.stroke?.id !== m.id) return
        this.stroke.session.add(samplesIn(m.samples))
        this.goOn(this.stroke)
        break
      case 'stroke-ends': {
        const { stroke } = this
        if (stroke?.id !== m.id) return
        stroke.session.ended = true
        this.strokes.push({ id: m.id, slot: null, signal: { cancelled: false }, run: (s) => this.endStroke(stroke, s) })
        break
      }
      case 'swatch':
        this.pictures.push({ id: m.id, slot: null, signal: { cancelled: false }, run: () => this.swatch(m) })
        break
      case 'suit':
        this.offers.unshift({ id: m.id, slot: null, signal: { cancelled: false }, run: (s) => this.suit(m, s), offer: true })
        waits = true
        break
      case 'sample':
        this.pictures.unshift({ id: m.id, slot: null, signal: { cancelled: false }, run: (s) => this.sample(m, s) })
        break
      case 'lines':
        this.pictures.unshift({ id: m.id, slot: null, signal: { cancelled: false }, run: (s) => this.lines(m, s) })
        break
      case 'read-lines':
        this.pictures.unshift({ id: m.id, slot: null, signal: { cancelled: false }, run: async () => this.readLines(m) })
        break
      case 'mend-source':
        this.strokes.push({ id: m.id, slot: null, signal: { cancelled: false }, run: (s) => this.mendSource(m, s) })
        break
      case 'area':
        this.strokes.push({ id: m.id, slot: null, signal: { cancelled: false }, run: (s) => this.area(m, s) })
        break
      case 'area-outline':
        this.views = this.views.filter((j) => j.slot !== OUTLINE)
        this.views.unshift({ id: m.id, slot: OUTLINE, signal: { cancelled: false }, run: (s) => this.outline(m, s) })
        break
      case 'plane-from':
        this.strokes.push({ id: m.id, slot: null, signal: { cancelled: false }, run: (s) => this.planeFrom(m, s) })
        break
      case 'cancel':
        if (this.stroke?.id === m.id) {
          this.strokes = this.strokes.filter((j) => j.id !== m.id)
          const { session } = this.stroke
          this.stroke = null
          // what works on it now ends first
          if (this.busy?.id === m.id) this.strokes.push({ id: 0, slot: null, signal: { cancelled: false }, run: async () => session.cancel() })
          else session.cancel()
        } else this.strokes = this.strokes.filter((j) => j.id !== m.id)
        this.views = this.views.filter((j) => j.id !== m.id)
        this.pictures = this.pictures.filter((j) => j.id !== m.id)
        this.settling = this.settling.filter((j) => j.id !== m.id)
        this.offers = this.offers.filter((j) => j.id !== m.id)
        if (this.busy?.id === m.id) {
          this.busy.later = false
          this.busy.signal.cancelled = true
        }
        return
    }
    if (this.busy?.offer && !waits) {
      this.busy.later = true
      this.busy.signal.cancelled = true
    }
    if (!this.busy) void this.work()
  }

  private async serve(job: Job): Promise<void> {
    try {
      await job.run(job.signal)
    } catch (error) {
      const { code, message } = error as QuillError
      if (code === 'cancelled') {
        if (job.later) this.again(job)
        return
      }
      if (job.id === this.stroke?.id) {
        this.stroke.session.cancel()
        this.stroke = null
      }
      const told = error instanceof QuillError ? message : `The picture could not be computed (${message}). The artwork is safe; try again.`
      this.post({ type: 'failed', id: job.id, code: code ?? 'fault', message: told }, [])
    }
  }

  private async work(): Promise<void> {
    for (;;) {
      // while a stroke runs nothing else is begun
      const job =
        this.strokes.shift() ?? (this.stroke ? undefined : (this.views.shift() ?? this.pictures.shift() ?? this.settling.shift() ?? this.offers.shift()))
      if (!job) return
      this.busy = job
      await this.serve(job)
      this.busy = null
    }
  }

  /** What made way for a stroke is begun again after it, before others of its kind. */
  private again(job: Job): void {
    const next = { ...job, signal: { cancelled: false }, later: false }
    const newer = job.slot !== null && [...this.views, ...this.settling].some((j) => j.slot === job.slot)
    if (newer) return
    if (job.offer) this.offers.unshift(next)
    else if (job.slot === null) this.pictures.unshift(next)
    else this.settling.unshift(next)
  }

  private readyName(at: PlaneAddress, view: PaintView): string {
    return JSON.stringify([at, view])
  }

  private async makeReady(m: ToEngine & { type: 'paint-ready' }, signal: Signal): Promise<void> {
    const artwork = this.artwork!
    const { plane } = await planeOn(this.engine, artwork, m.at)
    const name = this.readyName(m.at, m.view)
    const uses = await showPainted(this.engine, artwork, m.view, { at: m.at, also: m.also ?? [], plane, edition: 0 }, null, signal, () => undefined)
    if (artwork !== this.artwork) return
    this.ready = { name, uses }
    this.post({ type: 'paint-is-ready', id: m.id }, [])
  }

  /** Lets a stroke take what waits for it, as soon as the last was shown. */
  private goOn(stroke: NonNullable<EngineHost['stroke']>): void {
    if (stroke.queued || stroke.session.ended) return
    stroke.queued = true
    this.strokes.push({
      id: stroke.id,
      slot: null,
      signal: { cancelled: false },
      run: async (signal) => {
        stroke.queued = false
        await stroke.session.go(signal, this.underBrush(stroke))
      },
    })
  }

  private underBrush({ id, session }: NonNullable<EngineHost['stroke']>): (pic: Pic) => void {
    return (pic) => this.part({ id, slot: STROKE }, this.version, session.view.level, shown(this.engine.kernels, pic))
  }

  private async endStroke(stroke: NonNullable<EngineHost['stroke']>, signal: Signal): Promise<void> {
    const { id, session } = stroke
    const painted = await session.end(signal, this.underBrush(stroke), this.digest)
    this.stroke = null
    if (session.shown) this.ready = { name: this.readyName(session.order.at, session.view), uses: session.shown }
    this.told(id, session.order.at, painted)
  }

  private told(id: number, at: PlaneAddress, { index, plane, damage, blobs }: Painted): void {
    this.post(
      { type: 'painted', id, at, plane: { index, channels: plane.channels }, damage, blobs },
      blobs.map((b) => b.bytes.buffer as ArrayBuffer),
    )
  }

  private async swatch({ id, brush, w, h }: ToEngine & { type: 'swatch' }): Promise<void> {
    const pixels = await strokeSwatch(this.engine, brush, w, h)
    this.post({ type: 'picture', id, w, h, pixels }, [pixels])
  }

  private async sample(m: ToEngine & { type: 'sample' }, signal: Signal): Promise<void> {
    const node = this.compile(m.target)
    const half = Math.floor(m.side / 2)
    const region = intersect({ x: Math.floor(m.x) - half, y: Math.floor(m.y) - half, w: m.side, h: m.side }, this.artwork!.sheet)
    const pixels = await this.engine.withRegion(node, 0, region, (pic) => meanColour(new Uint8Array(to8(this.engine.kernels, pic))), { signal, keep: 'render' })
    this.post({ type: 'picture', id: m.id, w: 1, h: 1, pixels }, [pixels])
  }

  private readLines({ id, text }: ToEngine & { type: 'read-lines' }): void {
    const { lines, width, height, left } = readSvg(text)
    const starts = Int32Array.from({ length: lines.length + 1 }, () => 0)
    lines.forEach(({ points }, k) => (starts[k + 1] = starts[k]! + points.length))
    const places = new Float32Array(starts[lines.length]! * 3)
    lines.forEach(({ points, breadth }, k) => points.forEach((p, i) => places.set([p.x, p.y, breadth / 2], (starts[k]! + i) * 3)))
    const gone = Object.values(left).reduce((a, b) => a + b, 0)
    this.post({ type: 'read-lines', id, places, starts, width, height, left: gone }, [places.buffer as ArrayBuffer])
  }

  private async lines(m: ToEngine & { type: 'lines' }, signal: Signal): Promise<void> {
    if (!this.artwork) throw new QuillError('artwork-invalid', 'No artwork is open.')
    const { marks, colour, laid } = await stepLines(this.engine, this.artwork, m.layer, m.step, signal)
    const { points, starts, areaStarts } = marks
    const places = new Float32Array((points.length / 4) * 3)
    for (let i = 0; i < points.length / 4; i++) places.set(points.subarray(i * 4, i * 4 + 3), i * 3)
    this.post({ type: 'lines', id: m.id, places, starts: starts.slice(), areas: areaStarts.length - 1, colour, laid }, [places.buffer as ArrayBuffer])
  }

  private async planeFrom(m: ToEngine & { type: 'plane-from' }, signal: Signal): Promise<void> {
    if (!this.artwork) throw new QuillError('artwork-invalid', 'No artwork is open.')
    const { plane, blank } = await planeOn(this.engine, this.artwork, m.at)
    const { from } = m
    const painted =
      from.type === 'value'
        ? await this.filled(m.at, plane, blank, from, signal)
        : from.type === 'blacks'
          ? await blacksPlane(this.engine, this.artwork, plane, blank, m.at, from, signal, this.digest)
          : from.type === 'area'
            ? await areaPlane(this.engine, this.artwork, plane, blank, m.at, from.plane, signal, this.digest)
            : from.type === 'pixels'
              ? await pixelPlane(this.engine, this.artwork, plane, blank, from.target, signal, this.digest)
              : from.type === 'moved'
                ? await movedPlane(this.engine, this.artwork, m.at, from.by, signal, this.digest)
                : await picturedPlane(this.engine, this.artwork, plane, blank, m.at, from, signal, this.digest)
    this.engine.planes.remember(painted.index, painted.plane)
    this.told(m.id, m.at, painted)
  }

  private async filled(at: PlaneAddress, plane: Plane, blank: Entry, from: PlaneFrom & { type: 'value' }, signal: Signal): Promise<Painted> {
    const artwork = this.artwork!
    const { way, within } = planeSpace(artwork, at)
    const back = kindOf(way) === 'still' ? null : inverse(way)
    const area = from.area ? await areaTiles(this.engine, artwork, from.area, back, signal) : undefined
    return filledPlane(this.engine, plane, blank, within, from.laying, area, this.digest)
  }

  private async area({ id, order }: ToEngine & { type: 'area' }, signal: Signal): Promise<void> {
    if (!this.artwork) throw new QuillError('artwork-invalid', 'No artwork is open.')
    const painted = await orderedArea(this.engine, this.artwork, order, signal, {
      ...(this.digest ? { digest: this.digest } : {}),
      memory: this.alike,
      tell: (share) => this.planning('the area', share),
    })
    this.told(id, AREA, painted)
  }

  private async mendSource({ id, at, not }: ToEngine & { type: 'mend-source' }, signal: Signal): Promise<void> {
    if (!this.artwork) throw new QuillError('artwork-invalid', 'No artwork is open.')
    this.post({ type: 'mend-source', id, ...(await mendSource(this.engine, this.artwork, at, not, signal)) }, [])
  }

  private async outline(m: ToEngine & { type: 'area-outline' }, signal: Signal): Promise<void> {
    if (!this.artwork) return
    const { places, starts } = await areaOutline(this.engine, this.artwork, m.plane, m.region, m.level, signal)
    this.post({ type: 'area-outline', id: m.id, places, starts }, [places.buffer as ArrayBuffer])
  }

  private compile(target: Target, artwork?: Artwork): Node {
    if (artwork) return new GraphCompiler(artwork, this.engine.kernels.hash).compile(target)
    if (!this.artwork) throw new QuillError('artwork-invalid', 'No artwork is open.')
    this.compiler ??= new GraphCompiler(this.artwork, this.engine.kernels.hash)
    return this.compiler.compile(target)
  }

  /** The nodes of a target that were there before the last edit and are read by ones that were not: kept first. */
  private cut(node: Node): (key: string) => boolean {
    const cut = new Set<string>()
    walk(node, (n) => {
      this.now.add(n.key)
      if (!this.before.has(n.key)) for (const i of inputsOf(n)) if (this.before.has(i.key)) cut.add(i.key)
      return true
    })
    return (key) => cut.has(key)
  }

  /** Pictures of an artwork just opened, and of nodes that the last edit left as they were: worth keeping. */
  private lasting(): (key: string) => boolean {
    const { before } = this
    return (key) => before.size === 0 || before.has(key)
  }

  private async view(m: ToEngine & { type: 'view' }, signal: Signal): Promise<void> {
    const { version } = this
    const node = this.compile(m.target, m.of)
    const sheet = m.of ? m.of.sheet : this.frameOf(m)
    const first = m.of ? () => false : this.cut(node)
    const may = this.lasting()
    for (const level of m.levels) {
      const started = this.clock()
      const visible = intersect(atLevel(m.region, level), atLevel(sheet, level))
      const last = level === m.levels.at(-1)
      // all but the last are for the moving hand, and that one too where it would be the full-size picture and take its time
      const rough = last && level > 0 && this.engine.onlyAtFullSize(node) && this.pace * visible.w * visible.h * 4 ** level > PATIENCE
      const quick = rough || !last
      await this.engine.view({ node, level, region: visible }, (pic) => this.part(m, version, level, shown(this.engine.kernels, pic)), {
        signal,
        quick,
        lends: quick,
        alone: true,
        keep: 'view',
        first,
        may,
        tell: this.planning,
      })
      const ms = this.clock() - started
      if (quick) this.pace = ms / Math.max(1, visible.w * visible.h)
      this.post({ type: 'level-done', id: m.id, slot: m.slot, version, level, ms, rough }, [])
    }
  }

  /** Tells the page how far a plan is. */
  private readonly planning = (title: string, share: number): void => {
    const now = performance.now()
    if (now - this.toldPlanning < TELL_PLANNING) return
    this.toldPlanning = now
    this.post({ type: 'planning', title, share }, [])
  }

  /** Tells the page of pixels of a view. */
  private part(m: { id: number; slot: string }, version: number, level: number, { region, pixels }: Shown): void {
    this.post({ type: 'tile', id: m.id, slot: m.slot, version, level, region, pixels }, [pixels])
  }

  /** Where there is something to be seen. */
  private frameOf({ region, beyond }: { region: Region; beyond?: boolean }): Region {
    const { sheet } = this.artwork!
    return beyond ? union(sheet, region) : sheet
  }

  private async settle(m: ToEngine & { type: 'settle' }, signal: Signal): Promise<void> {
    const { version } = this
    const node = this.compile(m.target)
    const sheet = this.frameOf(m)
    const visible = intersect(atLevel(m.region, m.level), atLevel(sheet, m.level))
    const all = visible.w * visible.h
    let done = 0
    let told = performance.now()
    let waiting: Shown | null = null
    const tell = () => {
      if (!waiting) return
      this.part(m, version, m.level, waiting)
      done += waiting.region.w * waiting.region.h
      waiting = null
      told = performance.now()
      if (done < all) this.post({ type: 'settled', id: m.id, slot: m.slot, version, share: done / all }, [])
    }
    const onPart = async (pic: Pic) => {
      const part = shown(this.engine.kernels, pic)
      // the page draws what it is told at once, and needs a core for that
      const joined: Shown | null = waiting && under(waiting, part)
      if (!joined) tell()
      waiting = joined ?? part
      if (performance.now() - told > TELL_EVERY) tell()
      // small pictures asked for meanwhile come between
      const next = m.first ? undefined : this.pictures.shift()
      if (next) await this.serve(next)
    }
    await this.engine.view({ node, level: m.level, region: visible, settled: { sheet } }, onPart, {
      signal,
      keep: 'view',
      first: this.cut(node),
      may: this.lasting(),
      tell: this.planning,
    })
    tell()
    this.post({ type: 'settled', id: m.id, slot: m.slot, version, share: 1 }, [])
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
        keep: 'small',
        tell: this.planning,
      })
    }
    const before = await tones(input)
    const after = result === input ? before : await tones(result)
    const step = result.kind === 'replace' ? result.result : result
    const known = step.kind === 'step' && step !== input ? await this.engine.known(step, signal) : { facts: undefined, shown: undefined }
    this.post({ type: 'measured', id: m.id, found: { before, after, ...known } }, [])
  }

  /** Measures the lowest photo of the artwork, as it was taken. */
  private async suit({ id }: ToEngine & { type: 'suit' }, signal: Signal): Promise<void> {
    const { artwork } = this
    const layer = artwork && [...allLayers(artwork.layers)].find((l) => l.source.type === 'photo')
    if (!layer || layer.source.type !== 'photo') {
      this.post({ type: 'suits', id, found: null }, [])
      return
    }
    const { source } = layer
    const study = await this.engine.study(this.compile({ type: 'chain', layer: layer.id, steps: 0 }), signal)
    const { w, h } = shownSize(source)
    const inches = Math.max(w, h) / artwork.sheet.ppi
    this.post({ type: 'suits', id, found: suitabilityOf(study, Math.max(source.width, source.height), inches) }, [])
  }

  private async picture(m: ToEngine & { type: 'picture' }, signal: Signal): Promise<void> {
    // what something would be is planned small
    const other = m.artwork && !m.spot ? onSmallSheet(m.artwork, m.side) : m.artwork
    const artwork = other ?? this.artwork
    const node = this.compile(m.target, other)
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
    // a hand may be moving: the page needs a core, or it stutters (measured)
    const pixels = await this.engine.withRegion(node, level, region, (pic) => to8(this.engine.kernels, pic), {
      signal,
      quick: !m.spot,
      alone: true,
      keep: 'small',
    })
    this.post({ type: 'picture', id: m.id, w: region.w, h: region.h, pixels }, [pixels])
  }
}

/** What a view may take, milliseconds, where the settled picture would only show the same. */
const PATIENCE = 400
/** Milliseconds between two parts of a settling picture. */
const TELL_EVERY = 250
/** And between two words of how far a plan is. */
const TELL_PLANNING = 100
/** The queue's place for measuring; views have names of their own. */
const MEASURING = 'measuring'
/** And for where an area ends. */
const OUTLINE = 'area-outline'
/** And for making ready for a brush. */
const READY = 'paint-ready'
/** The slot of pixels under a brush. */
export const STROKE = 'stroke'
/** Long side of the picture that tones are counted on, at most. */
const MEASURED_SIDE = 512

/** Pixels as the page is told of them. */
interface Shown {
  region: Region
  pixels: ArrayBuffer
}

const shown = (kernels: Kernels, pic: Pic): Shown => ({ region: pic.region, pixels: to8(kernels, pic) })

/** Two parts of which the second lies right under the first, as one; null where it does not. */
function under(a: Shown, b: Shown): Shown | null {
  if (a.region.x !== b.region.x || a.region.w !== b.region.w || a.region.y + a.region.h !== b.region.y) return null
  const pixels = new Uint8Array(a.pixels.byteLength + b.pixels.byteLength)
  pixels.set(new Uint8Array(a.pixels))
  pixels.set(new Uint8Array(b.pixels), a.pixels.byteLength)
  return { region: { ...a.region, h: a.region.h + b.region.h }, pixels: pixels.buffer }
}

/** The mean of pixels, weighted by what they cover: one RGBA pixel. */
function meanColour(pixels: Uint8Array): ArrayBuffer {
  const sum = [0, 0, 0, 0]
  for (let i = 0; i < pixels.length; i += 4) {
    const a = pixels[i + 3]!
    for (let c = 0; c < 3; c++) sum[c]! += pixels[i + c]! * a
    sum[3]! += a
  }
  const all = sum[3]!
  return Uint8Array.of(...sum.slice(0, 3).map((v) => (all ? Math.round(v / all) : 0)), Math.round(all / Math.max(1, pixels.length / 4))).buffer
}

/** RGBA with 8 bits of a picture. */
function to8(kernels: Kernels, { ptr, stride, region: { w, h } }: Pic): ArrayBuffer {
  return kernels.scratch(w * h * 4, (out) => {
    kernels.raw.to8(ptr, stride, out, w * 4, w, h)
    return kernels.bytes(out, w * h * 4).slice().buffer
  })
}

/**
 * A region of a level, reduced from the full-size result by means of 2 × 2 pixels: RGBA8.
 * @param region in pixels of the level; @param sheet the frame, full size
 */
export async function reducedFromFull(engine: Engine, node: Node, level: number, region: Region, sheet: Region, signal: Signal): Promise<ArrayBuffer> {
  const out = new Uint8Array(region.w * region.h * 4)
  await engine.view(
    { node, level, region, settled: { sheet } },
    (pic) => {
      const part = new Uint8Array(to8(engine.kernels, pic))
      const { x, y, w, h } = pic.region
      for (let j = 0; j < h; j++) out.set(part.subarray(j * w * 4, (j + 1) * w * 4), ((y - region.y + j) * region.w + x - region.x) * 4)
    },
    { signal },
  )
  return out.buffer
}
