import { planeAt, type PlaneAddress } from '../artwork/planes.ts'
import { allLayers } from '../artwork/layers.ts'
import type { Artwork } from '../artwork/schema.ts'
import { planeSpace } from '../artwork/spaces.ts'
import { inverse, kindOf } from '../base/transform.ts'
import { QuillError } from '../base/errors.ts'
import { atLevel, intersect, isEmpty, type Region } from '../base/region.ts'
import { emptyPlane, type Entry, type Plane } from '../planes/plane.ts'
import type { Symmetry } from '../strokes/brush.ts'
import type { Sized } from '../strokes/dabs.ts'
import { resolveLength, type Length, type LengthSpec } from '../steps/params/index.ts'
import { paperTooth } from '../steps/surface/paper-tooth.ts'
import type { Sample } from '../strokes/path.ts'
import type { Pic } from '../steps/contract.ts'
import { areaTiles } from './area-tiles.ts'
import { blankAt } from './blank.ts'
import type { Engine } from './engine.ts'
import { GraphCompiler, type Painting, type Target } from './graph.ts'
import { inputsOf, walk, type Node } from './nodes.ts'
import { Painter, type Laying, type Painted } from './painter.ts'
import type { PlaneUse } from './planes.ts'
import type { Signal } from './request.ts'

/** What of an artwork is shown while somebody paints on it. */
export interface PaintView {
  target: Target
  /** Artwork pixels. */
  region: Region
  level: number
}

/** What a stroke is begun with. */
export interface StrokeOrder {
  at: PlaneAddress
  /** Where else in what is shown the same plane stands. */
  also?: readonly PlaneAddress[]
  brush: Sized
  symmetry: Symmetry
  laying: Laying
  /** The area of the sheet that it is held to, by its plane; everywhere, where it is left out. */
  area?: string
}

/** Numbers that a sample is sent as. */
export const SAMPLE_NUMBERS = 6

/** Samples as whole numbers in a row: x, y, t, pressure, tilt x, tilt y. */
export function samplesIn(numbers: ArrayLike<number>): Sample[] {
  const samples: Sample[] = []
  for (let i = 0; i + SAMPLE_NUMBERS <= numbers.length; i += SAMPLE_NUMBERS)
    samples.push({ x: numbers[i]!, y: numbers[i + 1]!, t: numbers[i + 2]!, p: numbers[i + 3]!, tiltX: numbers[i + 4]!, tiltY: numbers[i + 5]! })
  return samples
}

/** The plane at an address as the artwork names it. Throws `paint-refused` where nothing can be painted, and what `open` throws. */
export async function planeOn(engine: Engine, artwork: Artwork, at: PlaneAddress): Promise<{ plane: Plane; blank: Entry }> {
  const there = planeAt(artwork, at)
  if (!there)
    throw new QuillError('paint-refused', 'There is nothing to paint on: the layer or step has no mask, or is not made of paint. Choose what to paint on.')
  const plane = there.plane ? await engine.planes.open(there.plane.index, there.channels) : emptyPlane(there.channels)
  return { plane, blank: blankAt(artwork, at) }
}

/** The paper of an artwork as a brush catches on it: the uppermost tooth that is shown; null where there is none. */
export function paperOf(artwork: Artwork): { pitch: number; seed: number } | null {
  const shown = [...allLayers(artwork.layers)].filter((l) => l.visible)
  const use = shown.flatMap((l) => l.chain.filter((s) => s.on && s.step === paperTooth.id)).at(-1)
  if (!use) return null
  const spec = paperTooth.params['pitch'] as LengthSpec
  const pitch = resolveLength(spec, (use.params['pitch'] ?? spec.default) as Length, { reference: artwork.reference, ppi: artwork.sheet.ppi })
  return { pitch, seed: Number(use.params['seed'] ?? paperTooth.defaults['seed']) }
}

let editions = 0

/** A stroke that runs in an artwork: it paints, and shows what that changes. */
export class StrokeSession {
  private readonly engine: Engine
  private readonly artwork: Artwork
  readonly order: StrokeOrder
  readonly view: PaintView
  private painter: Painter | null = null
  private readonly waiting: Sample[] = []
  shown: ReadonlyMap<string, PlaneUse> | null
  ended = false

  /** @param shown what the view showed when it began; null: it is shown anew */
  constructor(engine: Engine, artwork: Artwork, order: StrokeOrder, view: PaintView, shown: ReadonlyMap<string, PlaneUse> | null) {
    this.engine = engine
    this.artwork = artwork
    this.order = order
    this.view = view
    this.shown = shown
  }

  add(samples: readonly Sample[]): void {
    this.waiting.push(...samples)
  }

  private async begun(signal: Signal): Promise<Painter> {
    if (this.painter) return this.painter
    const { brush, symmetry, laying, at, area } = this.order
    const { plane, blank } = await planeOn(this.engine, this.artwork, at)
    if ((laying.type === 'grey') !== (plane.channels === 1))
      throw new QuillError('paint-refused', 'A colour cannot be laid on a mask, nor a tone on a layer of paint.')
    if (laying.type === 'comb' ? at.part !== 'flow' : laying.type === 'paint' && at.part === 'flow')
      throw new QuillError('paint-refused', 'Only the flow is combed, and it takes no colours.')
    const { way, within } = planeSpace(this.artwork, at)
    const back = kindOf(way) === 'still' ? null : inverse(way)
    this.painter = new Painter(this.engine.kernels, this.engine.planes, {
      plane,
      blank,
      brush,
      symmetry,
      laying,
      within: back ? within : this.artwork.sheet,
      ...(back ? { way: back } : {}),
      paper: paperOf(this.artwork),
      ...(area ? { area: await areaTiles(this.engine, this.artwork, area, back, signal) } : {}),
    })
    return this.painter
  }

  /** Takes all that waits into the plane and shows it. */
  async go(signal: Signal, onPart: (pic: Pic) => void): Promise<void> {
    const painter = await this.begun(signal)
    if (!isEmpty(await painter.add(this.waiting.splice(0)))) await this.show(painter, signal, onPart)
  }

  private async show(painter: Painter, signal: Signal, onPart: (pic: Pic) => void): Promise<void> {
    this.shown = await showPainted(
      this.engine,
      this.artwork,
      this.view,
      { at: this.order.at, also: this.order.also ?? [], plane: painter.plane, edition: ++editions },
      this.shown,
      signal,
      onPart,
    )
  }

  /** The pen was lifted: the rest is shown, what was painted gets its names. */
  async end(signal: Signal, onPart: (pic: Pic) => void, digest?: (bytes: Uint8Array) => Promise<string>): Promise<Painted> {
    const painter = await this.begun(signal)
    await painter.add(this.waiting.splice(0))
    await painter.finish()
    await this.show(painter, signal, onPart)
    return painter.end(digest)
  }

  cancel(): void {
    this.painter?.cancel()
  }
}

/**
 * Shows what of a view changes by a plane that is being painted, and keeps what it is made of for the next time.
 * @param before what the last call gave back; null: all of it
 */
export async function showPainted(
  engine: Engine,
  artwork: Artwork,
  view: PaintView,
  painting: Painting,
  before: ReadonlyMap<string, PlaneUse> | null,
  signal: Signal,
  onPart: (pic: Pic) => void,
): Promise<ReadonlyMap<string, PlaneUse>> {
  const node = new GraphCompiler(artwork, engine.kernels.hash, painting).compile(view.target)
  const region = intersect(atLevel(view.region, view.level), atLevel(artwork.sheet, view.level))
  const { changing, cut } = underBrush(node)
  return engine.painted({ node, level: view.level, region }, before, onPart, {
    signal,
    alone: true,
    keep: 'view',
    first: (key) => cut.has(key),
    may: (key) => !changing.has(key),
  })
}

/** The nodes that change with what is painted, and those that do not and are read by them. */
function underBrush(node: Node): { changing: Set<string>; cut: Set<string> } {
  const readers = new Map<Node, Node[]>()
  const open: Node[] = []
  walk(node, (n) => {
    for (const i of inputsOf(n)) readers.set(i, [...(readers.get(i) ?? []), n])
    if (n.kind === 'plane' && n.plane) open.push(n)
    return true
  })
  const changing = new Set<string>()
  const found: Node[] = []
  for (let n = open.pop(); n; n = open.pop()) {
    if (changing.has(n.key)) continue
    changing.add(n.key)
    found.push(n)
    open.push(...(readers.get(n) ?? []))
  }
  const cut = new Set<string>()
  for (const n of found) for (const i of inputsOf(n)) if (!changing.has(i.key)) cut.add(i.key)
  return { changing, cut }
}
