import { halvings } from '../base/levels.ts'
import { allLayers, baseOf, firstPhoto, isOpenGroup, layerLists, locate, madeOfBelow, newLayer, newStep } from '../artwork/layers.ts'
import { pinRadius } from '../artwork/pins.ts'
import { PAPER_GRID, PAPER_RELIEF, paperById } from '../artwork/papers.ts'
import type { Artwork, Layer, Mask, Mended, Source, StepUse } from '../artwork/schema.ts'
import { hashOf } from '../base/hash.ts'
import { AREA, channelsOfStudy, maskAt, mendedIn, planeAt, sameAddress, type PlaneAddress } from '../artwork/planes.ts'
import { groundOf, paintExtent, planeSpace, spaceOf, toSheet } from '../artwork/spaces.ts'
import { CLEAR, EMPTY_TILE, FULL, NEUTRAL, type Channels, type Entry, type Plane } from '../planes/plane.ts'
import { gaussianBlur } from '../steps/smooth/gaussian-blur.ts'
import { boxOf, panelGrid, panelMatrix, panelPicture, panelsOf, type PanelSource } from '../artwork/panels.ts'
import { stepOfColourway } from '../artwork/colourways.ts'
import { blankAt } from './blank.ts'
import { gradientFill } from './gradient-fill.ts'
import { evened } from '../steps/surface/evened.ts'
import { alphaAsGrey, moveEdge } from './mask-steps.ts'
import { blendModeIndex, differencing } from '../blend/modes.ts'
import { spanTable, type Span } from '../blend/span.ts'
import { QuillError } from '../base/errors.ts'
import type { AnyStep } from '../steps/contract.ts'
import { resolveLength, type Ellipse, type Length, type LengthSpec, type PictureRef, type Place, type Scale } from '../steps/params/index.ts'
import { stepAt } from '../steps/registry.ts'
import type { Spot } from '../study/painted.ts'
import type { StudyPart } from '../base/study-parts.ts'
import { cellOf, studyView, studyViewBeyond } from './study-view.ts'
import { coarsestOf } from '../steps/steepness.ts'
import { findLiveCycle, liveCycle, wouldCircle } from '../artwork/cycles.ts'
import { grow, intersect, isEmpty, union, type Region } from '../base/region.ts'
import { extentOf, identity, inverse, isAffine, kindOf, mapped, times, type Matrix } from '../base/transform.ts'

/** A place where the picture is shown; its upper left corner in full-size pixels. */
export interface Cell {
  x: number
  y: number
  /** The point step that changes its colours; null: as it is. */
  step: { def: AnyStep; params: Record<string, unknown> } | null
}

/**
 * One thing to compute. The key names its pixels: the hash of what it does, with which parameters (lengths in artwork
 * pixels), out of what. Same key, same pixels, at every level.
 */
export type Node = {
  key: string
  /** The same without what was painted: of a node under which nothing is, the key. Same shape, same pixels where nothing was painted since. */
  shape: string
  /** Where it has pixels, at full size. */
  extent: Region
} & (
  | { kind: 'photo'; asset: string }
  | { kind: 'fill'; pixel: bigint }
  | { kind: 'empty' }
  /** Pen strokes, by the root of their blobs; `scale`: pixels a unit of theirs. */
  | { kind: 'ink'; blob: string; colour: string; scale: number }
  /** `joins`: a table step that may become one table with the table steps it reads. */
  | {
      kind: 'step'
      def: AnyStep
      params: Record<string, unknown>
      input: Node
      others: Record<string, Node>
      pictures: Record<string, Node>
      joins: boolean
      /** How hands have changed the study that it goes by. */
      hands: StudyHands | null
    }
  /** `plane`: of a stroke that runs; else its index says what was painted, null: nothing. */
  | { kind: 'plane'; index: string | null; plane: Plane | null; channels: Channels; blank: Entry }
  /** What was mended of a picture, by itself: clear elsewhere. */
  | { kind: 'mended'; below: Node; mended: readonly Mended[]; salt: string }
  /** `span` goes by the tones of the first of both pictures, `own` by those of the second. `atop`: only where there is something below. */
  | ({ kind: 'over'; below: Node; above: Node; atop: boolean } & Mixing)
  | ({ kind: 'replace'; input: Node; result: Node } & Mixing)
  | { kind: 'light'; input: Node; map: Node; strength: number; span: Span | null; coarsest: number }
  /** Laid elsewhere: `back` is the way from the sheet's pixels to its input's. A solid edge goes on as its last pixels do; a soft one becomes clear. */
  | { kind: 'place'; input: Node; back: Matrix; matrix: Matrix; edge: 'soft' | 'solid' }
  /** Lit by the artwork's one lamp, by a grey picture of heights. */
  | { kind: 'lit'; input: Node; heights: Node; lamp: Artwork['lamp'] }
  /** A piece of w × h pixels from (0, 0), repeated as in mirrors, from `origin` on. */
  /** A picture `w` × `h` that begins at (0, 0), in many places. */
  | { kind: 'panels'; input: Node; w: number; h: number; cells: readonly Cell[]; coarsest: number }
  | { kind: 'mirror'; input: Node; w: number; h: number; origin: { x: number; y: number } }
)

/** What hands have changed of a study: named by value, since a plan goes by all of it. */
export interface StudyHands {
  /** Over where the studied picture lies; what was painted stays as it was while a brush is down. */
  planes: readonly { part: StudyPart; node: Node }[]
  /** The linear part of the way from where it was combed to the studied picture; null: the same. */
  turn: readonly [number, number, number, number] | null
  /** Full-size pixels of the studied picture. */
  spots: readonly Spot[]
}

/** How one picture is mixed with another. */
interface Mixing {
  mode: number
  opacity: number
  span: Span | null
  own: Span | null
  mask: MaskNode | null
  coarsest: number
}

/** A grey picture of how much something acts; `turned`: where it is black instead of white; `strength`: 0 lets it act everywhere. */
export interface MaskNode {
  node: Node
  turned: boolean
  strength: number
}

/** A plane that a stroke is changing: what stands there instead of what the artwork names. */
export interface Painting {
  at: PlaneAddress
  /** Where else the same is shown: a mask as an overlay. */
  also?: readonly PlaneAddress[]
  plane: Plane
  /** Counts the states of all strokes. */
  edition: number
}

/** What of an artwork is to be computed. */
export type Target =
  /** All that is visible; lit by the lamp, where something has height, unless it is to be laid over the same again. */
  | { type: 'artwork'; unlit?: boolean }
  /** All that lies up to a layer, itself included. */
  | { type: 'sheet'; layer: string }
  /** A layer's chain after `steps` of its steps (0: its source). */
  | { type: 'chain'; layer: string; steps: number }
  /** A layer's whole chain in the space of something that is painted: of the layer itself as it lies by itself, of others where they are laid. */
  | { type: 'for-plane'; layer: string; at: PlaneAddress }
  /** The photo the artwork was made from, as it lies. */
  | { type: 'photo' }
  /** What was found in a layer's photo, with what hands have painted over it: for its first step that goes by it. */
  | { type: 'study'; layer: string; part: StudyPart }
  /** What is painted at a place, as a grey or coloured picture, laid elsewhere. */
  | { type: 'painted'; at: PlaneAddress; by: Matrix }
  /** An area of the sheet as a grey picture, its corners rounded, its edge moved and softened (pixels), laid elsewhere. */
  | { type: 'area'; plane: string; round?: number; move?: number; soften?: number; by?: Matrix }
  /** A mask as a grey picture on the sheet, as it acts but for its strength. */
  | { type: 'mask'; layer: string; step: string | null }

/** The lamp of steps that are not lit: they stay the same when it moves. */
const UNLIT = { direction: 0, height: 90 }
const EMPTY: Region = { x: 0, y: 0, w: 0, h: 0 }

/** Turns artworks into graphs. Nodes already known by their key are used again. */
export class GraphCompiler {
  private readonly artwork: Artwork
  private readonly scale: Scale
  private readonly salt: string
  private readonly nodes = new Map<string, Node>()
  private readonly chains = new Map<string, Chain>()
  private readonly sheets = new Map<string, Node>()
  private readonly runs = new Map<string, Node>()
  private owners: Map<readonly Layer[], { list: readonly Layer[]; index: number }> | null = null
  private readonly painting: Painting | null
  private readonly rising = new Map<readonly Layer[], boolean>()
  private risesAtAll: boolean | null = null
  /** Layers whose tooth cannot go by what lies below, since that is made out of them. */
  private circular: ReadonlySet<string> | null = null
  private readonly heights = new Map<string, Node | null>()

  /**
   * @param salt hash of the kernel module: other kernels, other keys
   * @param painting a stroke that runs
   * @throws QuillError `live-cycle`
   */
  constructor(artwork: Artwork, salt: string, painting: Painting | null = null) {
    this.painting = painting
    this.artwork = artwork
    this.salt = salt
    this.scale = { reference: artwork.reference, ppi: artwork.sheet.ppi }
    const cycle = findLiveCycle(artwork.layers)
    if (cycle) throw liveCycle(cycle)
  }

  /** The node of a target. Throws QuillError `unknown-layer`, `unknown-step`, `missing-photo`, `not-supported`. */
  compile(target: Target): Node {
    switch (target.type) {
      case 'artwork': {
        const { layers } = this.artwork
        const all = this.sheetOf(layers, layers.length - 1)
        return target.unlit ? all : this.litBy(all, this.heightsOf(layers, layers.length - 1, null))
      }
      case 'sheet': {
        const { list, index } = locate(this.artwork.layers, target.layer)
        return this.litBy(this.sheetOf(list, index), this.heightsOf(list, index, this.heightFloor(list)))
      }
      case 'chain': {
        const { list, index } = locate(this.artwork.layers, target.layer)
        const { after, end } = this.chainOf(list, index, true)
        const all = target.steps >= after.length - 1
        const steps = Math.max(0, target.steps)
        return this.litBy(all ? end : after[steps]!, this.chainHeights(list, index, true, all ? undefined : steps))
      }
      case 'for-plane': {
        const { list, index } = locate(this.artwork.layers, target.layer)
        const { way } = planeSpace(this.artwork, target.at)
        if (target.layer === target.at.layer && !this.maskStays(target.at)) return this.chainOf(list, index).end
        const node = this.place(this.chainOf(list, index, true).end, spaceOf(this.artwork.layers, target.layer))
        const back = inverse(way)
        return back ? this.place(node, back) : this.empty()
      }
      case 'study':
        return this.studyView(target.layer, target.part)
      case 'painted': {
        const { at, by } = target
        const there = planeAt(this.artwork, at)
        if (!there) return this.empty()
        return this.place(this.plane(at, there.plane, there.channels, blankAt(this.artwork, at), planeSpace(this.artwork, at).within), by, 'solid')
      }
      case 'area':
        return this.area(target)
      case 'mask': {
        const { list, index, layer } = locate(this.artwork.layers, target.layer)
        const mask = maskAt(this.artwork, target.layer, target.step)
        const at: PlaneAddress = { layer: target.layer, step: target.step, part: 'mask' }
        const { way, within } = planeSpace(this.artwork, at)
        const found = this.maskOf(mask, at, mask?.live ? this.chainOf(list, index).own : within, mask?.live ? toSheet(this.artwork, layer) : way)
        return found?.node ?? this.empty()
      }
      case 'photo': {
        const photo = firstPhoto(this.artwork.layers)
        return photo ? this.place(this.photo(photo.source), photo.matrix) : this.empty()
      }
    }
  }

  private area({ plane, round = 0, move = 0, soften = 0, by }: Extract<Target, { type: 'area' }>): Node {
    let node = this.plane(AREA, { index: plane }, 1, EMPTY_TILE, groundOf(this.artwork), false)
    const moved = (by: number) => {
      if (by !== 0) node = this.apply(node, moveEdge, { by: Math.abs(by), inwards: by < 0 })
    }
    // opened, then closed (Serra 1982): what sticks out and what cuts in is rounded alike
    for (const by of [-round, round, round, -round]) moved(by)
    moved(move)
    if (soften > 0) node = this.apply(node, gaussianBlur, { sigma: soften })
    return by ? this.place(node, by) : node
  }

  private maskStays(at: PlaneAddress): boolean {
    return at.part === 'mask' && (maskAt(this.artwork, at.layer, at.step)?.stays ?? false)
  }

  private intern(node: Node): Node {
    const known = this.nodes.get(node.key)
    if (known) return known
    this.nodes.set(node.key, node)
    return node
  }

  /** Names a node by what it does and what it is made of. */
  private named(inputs: readonly Node[], ...does: unknown[]): { key: string; shape: string } {
    const key = hashOf(...does, ...inputs.map((n) => n.key))
    return { key, shape: inputs.every((n) => n.shape === n.key) ? key : hashOf('shape', ...does, ...inputs.map((n) => n.shape)) }
  }

  private plain(
    node:
      | Omit<Extract<Node, { kind: 'ink' }>, 'shape'>
      | Omit<Extract<Node, { kind: 'photo' }>, 'shape'>
      | Omit<Extract<Node, { kind: 'fill' }>, 'shape'>
      | Omit<Extract<Node, { kind: 'empty' }>, 'shape'>,
  ): Node {
    return this.intern({ ...node, shape: node.key } as Node)
  }

  private isPainted(at: PlaneAddress): boolean {
    return this.painting !== null && [this.painting.at, ...(this.painting.also ?? [])].some((p) => sameAddress(p, at))
  }

  /** What was painted at a place of the artwork. @param follows what a running stroke makes of it */
  private plane(at: PlaneAddress, given: { index: string } | null, channels: Channels, blank: Entry, extent: Region, follows = true): Node {
    const { painting } = this
    const live = follows && painting && this.isPainted(at) ? painting : null
    const index = live ? null : (given?.index ?? null)
    return this.intern({
      kind: 'plane',
      key: hashOf('plane', live ? live.edition : index, channels, blank, extent),
      shape: hashOf('plane of', at, channels, blank, extent),
      extent,
      index,
      plane: live?.plane ?? null,
      channels,
      blank,
    })
  }

  /**
   * Where a layer or step acts; null: everywhere.
   * @param extent of what it is laid on, in the space it is painted in
   * @param way from the space it is painted in to the one it is used in
   */
  private maskOf(mask: Mask, at: PlaneAddress, extent: Region, way: Matrix = identity): MaskNode | null {
    if (!mask) return null
    // also where nothing is painted yet: the first stroke finds what was computed before it
    let node: Node
    if (mask.live) {
      const from = locate(this.artwork.layers, mask.live.layer)
      node = this.chainOf(from.list, from.index).end
      if (node.kind !== 'empty' && mask.live.by === 'alpha') node = this.apply(node, alphaAsGrey, {})
    } else node = this.plane(at, mask.plane, 1, mask.start === 'full' ? FULL : EMPTY_TILE, extent)
    const { move, unit, soften } = mask.edge
    if (node.kind !== 'empty') {
      const by = resolveLength(moveEdge.params['by'] as LengthSpec, { value: Math.abs(move), unit }, this.scale)
      if (by > 0) node = this.apply(node, moveEdge, { by, inwards: move < 0 })
      if (soften.value > 0) node = this.apply(node, gaussianBlur, { sigma: resolveLength(gaussianBlur.params['sigma'] as LengthSpec, soften, this.scale) })
    }
    return { node: this.place(node, way), turned: mask.turnedRound, strength: mask.strength }
  }

  /** The mask of a layer: one that rides is painted in the layer's own space, one that stays in the sheet's. */
  private layerMask(list: readonly Layer[], index: number, onSheet: Region): MaskNode | null {
    const { id, mask, placement } = list[index]!
    const at: PlaneAddress = { layer: id, step: null, part: 'mask' }
    if (!mask || mask.stays || kindOf(placement.matrix) === 'still') return this.maskOf(mask, at, onSheet)
    return this.maskOf(mask, at, this.chainOf(list, index, true).own, placement.matrix)
  }

  /** A picture laid elsewhere. What would reach further than pixels can be counted is cut there. */
  private place(input: Node, matrix: Matrix, edge: 'soft' | 'solid' = 'soft'): Node {
    if (input.kind === 'empty' || kindOf(matrix) === 'still') return input
    const by = isAffine(matrix) ? (matrix.map((v) => v / matrix[8]) as unknown as Matrix) : matrix
    const found = extentOf(by, input.extent)
    const extent = found && intersect(found, FARTHEST)
    const back = inverse(by)
    if (!back || !extent || isEmpty(extent)) return this.empty()
    return this.intern({ ...this.named([input], 'place', by, edge), kind: 'place', extent, input, matrix: by, back, edge })
  }

  /** A step that is not in a chain. */
  private apply(input: Node, def: AnyStep, params: Record<string, unknown>): Node {
    return this.intern({
      ...this.named([input], 'step', this.salt, def.id, def.version, params, false),
      kind: 'step',
      extent: input.extent,
      def,
      params,
      input,
      others: {},
      pictures: {},
      joins: false,
      hands: null,
    })
  }

  /** The picture of one part of a layer's study, where the layer is laid. */
  private studyView(id: string, part: StudyPart): Node {
    const { list, index, layer } = locate(this.artwork.layers, id)
    const at = layer.chain.findIndex((use) => use.on && stepAt(use.step, use.version).goesBy?.includes(part))
    const { after } = this.chainOf(list, index)
    const input = after[Math.max(0, at)]!
    if (input.kind === 'empty') return input
    const plane = layer.study?.[part] ?? null
    const address: PlaneAddress = { layer: id, step: null, part }
    const painted = this.plane(address, plane, channelsOfStudy(part), blankAt(this.artwork, address), input.extent)
    const shown = at >= 0 ? layer.chain[at]! : null
    // as the step sees it that goes by it first
    const view = shown && stepAt(shown.step, shown.version).beyond ? studyViewBeyond : studyView
    const params = { ...view.defaults, part, cell: cellOf(input.extent) }
    const others = { painted }
    const hands = part === 'detail' ? this.handsOf(layer, view, input.extent, false, ['spots']) : null
    const node = this.intern({
      ...this.named([input, painted], 'step', this.salt, view.id, view.version, params, handsKey(hands)),
      kind: 'step',
      extent: input.extent,
      def: view,
      params,
      input,
      others,
      pictures: {},
      joins: false,
      hands,
    })
    return this.place(node, toSheet(this.artwork, layer))
  }

  /**
   * How hands have changed the study that a step goes by; null: not at all.
   * @param extent of what it studies
   * @param laid whether that lies where the layer is laid, instead of in the layer's own space
   */
  private handsOf(
    layer: Layer,
    { goesBy }: Pick<AnyStep, 'goesBy'>,
    extent: Region,
    laid: boolean,
    of: readonly ('planes' | 'spots')[] = ['planes', 'spots'],
  ): StudyHands | null {
    if (!goesBy) return null
    const matrix = layer.placement.matrix as Matrix
    const planes = of.includes('planes')
      ? goesBy.flatMap((part) => {
          const plane = layer.study?.[part]
          if (!plane) return []
          const address: PlaneAddress = { layer: layer.id, step: null, part }
          const its = laid ? extentOf(inverse(matrix)!, extent) : extent
          const node = its && this.plane(address, plane, channelsOfStudy(part), blankAt(this.artwork, address), intersect(its, FARTHEST), false)
          return node ? [{ part, node: laid ? this.place(node, matrix, 'solid') : node }] : []
        })
      : []
    const spots: Spot[] = []
    const back = of.includes('spots') && goesBy.includes('detail') ? inverse(times(spaceOf(this.artwork.layers, layer.id), laid ? identity : matrix)) : null
    if (back) {
      const { lookSpot, pins, sheet } = this.artwork
      const add = (x: number, y: number, radius: number, raise: number) => {
        const [middle, rim] = [mapped(back, { x, y }), mapped(back, { x: x + radius, y })]
        if (middle && rim) spots.push({ ...middle, radius: Math.sqrt((rim.x - middle.x) ** 2 + (rim.y - middle.y) ** 2), raise })
      }
      add(lookSpot.x, lookSpot.y, LOOKED_AT * Math.max(sheet.w, sheet.h), LOOK_RAISES)
      for (const pin of pins) add(pin.x, pin.y, pinRadius(pin, this.artwork), 1)
    }
    if (planes.length === 0 && spots.length === 0) return null
    return { planes, turn: laid ? [matrix[0], matrix[1], matrix[3], matrix[4]] : null, spots }
  }

  private empty(): Node {
    return this.plain({ kind: 'empty', key: 'empty', extent: EMPTY })
  }

  private photo(source: { asset: string; width: number; height: number; shown?: { w: number; h: number } | undefined }): Node {
    const { width, height, shown } = source
    const own = this.plain({
      kind: 'photo',
      key: hashOf(this.salt, 'photo', source.asset),
      extent: { x: 0, y: 0, w: width, h: height },
      asset: source.asset,
    })
    return shown ? this.place(own, [shown.w / width, 0, 0, 0, shown.h / height, 0, 0, 0, 1], 'solid') : own
  }

  /** What the layers of a list lie on: nothing, or what is below the open group that they are in. */
  private floorOf(list: readonly Layer[]): Node {
    const owner = this.openOwner(list)
    return owner ? this.sheetOf(owner.list, owner.index - 1) : this.empty()
  }

  /** The open group that holds a list. */
  private openOwner(list: readonly Layer[]): { list: readonly Layer[]; index: number } | null {
    const owner = this.ownerOf(list)
    return owner && isOpenGroup(owner.list, owner.index) ? owner : null
  }

  /** The group that holds a list. */
  private ownerOf(list: readonly Layer[]): { list: readonly Layer[]; index: number } | undefined {
    if (!this.owners) {
      this.owners = new Map()
      for (const all of layerLists(this.artwork.layers))
        all.forEach((l, index) => l.source.type === 'group' && this.owners!.set(l.source.layers, { list: all, index }))
    }
    return this.owners.get(list)
  }

  /** The heights of what the layers of a list lie on. */
  private heightFloor(list: readonly Layer[]): Node | null {
    const owner = this.openOwner(list)
    return owner && this.heightsOf(owner.list, owner.index - 1, this.heightFloor(owner.list))
  }

  /** All layers of a list up to `index`, composited over a floor. */
  private sheetOf(list: readonly Layer[], index: number, floor: Node = this.floorOf(list)): Node {
    if (index < 0) return floor
    const name = `${floor.key} ${list[index]!.id}`
    const known = this.sheets.get(name)
    if (known) return known
    const base = baseOf(list, index)
    const { visible, opacity } = list[base]!
    const below = this.sheetOf(list, base - 1, floor)
    const sheet = visible && opacity > 0 ? this.lay(below, list, base, index) : below
    this.sheets.set(name, sheet)
    return sheet
  }

  /** A layer, with those that follow it up to `index`, over what lies below. */
  private lay(below: Node, list: readonly Layer[], base: number, index: number): Node {
    const layer = list[base]!
    refuseUnsupported(layer)
    const { source } = layer
    if (source.type === 'group' && isOpenGroup(list, base)) {
      const result = this.sheetOf(source.layers, source.layers.length - 1, below)
      return below.kind === 'empty' && result.kind !== 'empty' ? this.over(below, result, list, base) : this.replaced(below, result, list, base)
    }
    const above = this.runOf(list, base, index)
    return madeOfBelow(layer) ? this.replaced(below, above, list, base) : this.over(below, above, list, base)
  }

  /** A layer's picture, with what follows it laid where it covers. */
  private runOf(list: readonly Layer[], base: number, index: number): Node {
    if (index === base) return this.chainOf(list, base, true).end
    const layer = list[index]!
    const known = this.runs.get(layer.id)
    if (known) return known
    const below = this.runOf(list, base, index - 1)
    let run = below
    if (layer.visible && layer.opacity > 0 && below.kind !== 'empty') {
      refuseUnsupported(layer)
      const above = this.chainOf(list, index, true).end
      run = madeOfBelow(layer) ? this.replaced(below, above, list, index) : this.over(below, above, list, index, true)
    }
    this.runs.set(layer.id, run)
    return run
  }

  /**
   * The lamp as a layer's own space has it: what is turned or flipped after it was lit is lit by the artwork's one lamp all the same. What lies on paper is lit where it
   * lies, and is as it always was.
   */
  private lampOver(layer: Layer, placed: boolean): Artwork['lamp'] {
    const { lamp } = this.artwork
    const way = placed ? spaceOf(this.artwork.layers, layer.id) : toSheet(this.artwork, layer)
    const [a, b, , d, e] = way.map((v) => v / way[8]) as unknown as Matrix
    if (b === 0 && d === 0 && a === e && a > 0) return lamp
    const turn = (lamp.direction * Math.PI) / 180
    const [x, y] = [Math.cos(turn), -Math.sin(turn)]
    // the inverse of its linear part, but for its size; in hundredths of a degree, so that every machine finds the same
    const side = a * e - b * d < 0 ? -1 : 1
    const [u, v] = [side * (e * x - b * y), side * (a * y - d * x)]
    return { ...lamp, direction: Math.round((Math.atan2(-v, u) * 18000) / Math.PI) / 100 }
  }

  /** A picture lit by the lamp, where it has heights. */
  private litBy(input: Node, heights: Node | null): Node {
    if (!heights || input.kind === 'empty') return input
    const { lamp } = this.artwork
    return this.intern({ ...this.named([input, heights], 'lit', this.salt, lamp), kind: 'lit', extent: input.extent, input, heights, lamp })
  }

  /**
   * The heights of all layers of a list up to `index`, put together as their colours are: what covers takes the height of what it covers, or has its own.
   * @param floor of what the list lies on; null, as the answer may be: flat
   */
  private heightsOf(list: readonly Layer[], index: number, floor: Node | null): Node | null {
    if (index < 0 || !this.rises(list)) return floor
    return this.once(`sheet ${list[index]!.id} ${floor?.key}`, () => this.heightsUpTo(list, index, floor))
  }

  /** Heights that were put together once are known: layers may be made of each other in many ways. */
  private once(name: string, make: () => Node | null): Node | null {
    const known = this.heights.get(name)
    if (known !== undefined) return known
    const made = make()
    this.heights.set(name, made)
    return made
  }

  private heightsUpTo(list: readonly Layer[], index: number, floor: Node | null): Node | null {
    const base = baseOf(list, index)
    const layer = list[base]!
    const below = this.heightsOf(list, base - 1, floor)
    if (!layer.visible || layer.opacity === 0) return below
    const { source } = layer
    if (source.type === 'group' && isOpenGroup(list, base)) {
      const result = this.heightsOf(source.layers, source.layers.length - 1, below)
      return result === below ? below : this.mixed('replace', below ?? this.flat(), result ?? this.flat(), list, base)
    }
    if (madeOfBelow(layer)) {
      const own = this.chainHeights(list, base, true, undefined, below)
      return own === below ? below : this.mixed('replace', below ?? this.flat(), own ?? this.flat(), list, base)
    }
    const run = this.covered(list, base)
    let heights = run ? this.mixed('over', below ?? this.flat(), run, list, base) : below
    for (let i = base + 1; i <= index; i++) {
      const next = list[i]!.visible && list[i]!.opacity > 0 && !madeOfBelow(list[i]!) ? this.covered(list, i) : null
      if (next) heights = this.mixed('over', heights ?? this.flat(), next, list, i)
    }
    return heights
  }

  /** Heights mixed as a layer says: by how far it covers and its mask, whatever its blend mode and its tones. */
  private mixed(kind: 'over' | 'replace', below: Node, above: Node, list: readonly Layer[], index: number): Node {
    const { opacity } = list[index]!
    const extent = union(below.extent, above.extent)
    const mask = this.layerMask(list, index, extent)
    if (kind === 'replace') return this.replace(below, above, 0, opacity, null, mask)
    return this.composite(below, above, extent, { opacity, mask })
  }

  /** Whether any layer of a list, or of a group in it, may give height. */
  private rises(list: readonly Layer[]): boolean {
    let known = this.rising.get(list)
    if (known === undefined) {
      const own = ({ source, chain }: Layer) => (source.type === 'paper' && typeof source.paper === 'string') || chain.some((use) => use.on && this.raises(use))
      const all = (of: readonly Layer[]): boolean => of.some((l) => own(l) || l.source.type === 'live' || (l.source.type === 'group' && all(l.source.layers)))
      this.rising.set(list, (known = this.anyRises(own) && all(list)))
    }
    return known
  }

  private anyRises(own: (layer: Layer) => boolean): boolean {
    return (this.risesAtAll ??= [...allLayers(this.artwork.layers)].some(own))
  }

  private raises(use: StepUse): boolean {
    return stepAt(use.step, use.version).raises === true
  }

  /** A layer's heights, covering where it does; null where it has none of its own. */
  private covered(list: readonly Layer[], index: number): Node | null {
    const heights = this.chainHeights(list, index, true)
    return heights && this.atop(this.chainOf(list, index, true).end, heights)
  }

  /** One picture over another, whatever their tones. */
  private composite(
    below: Node,
    above: Node,
    extent: Region,
    { mode = 0, opacity = 1, atop = false, mask = null }: { mode?: number; opacity?: number; atop?: boolean; mask?: MaskNode | null },
  ): Node {
    return this.intern({
      ...this.named([below, above, ...maskInputs(mask)], 'over', mode, opacity, null, null, atop, mask && [mask.turned, mask.strength]),
      kind: 'over',
      extent,
      mode,
      opacity,
      span: null,
      own: null,
      mask,
      below,
      above,
      atop,
      coarsest: COARSEST,
    })
  }

  /** One picture where another covers. */
  private atop(below: Node, above: Node): Node {
    if (below.kind === 'empty') return below
    return this.composite(below, above, below.extent, { atop: true })
  }

  /**
   * Heights laid elsewhere. Their border is solid, since how far they count goes by the colours they are of; what is made smaller is flatter by as
   * much, so that its slopes stay as steep.
   */
  private placeHeights(heights: Node, matrix: Matrix): Node {
    const laid = this.place(heights, matrix, 'solid')
    const [a, b, , d, e] = matrix.map((v) => v / matrix[8]) as unknown as Matrix
    const by = isAffine(matrix) ? Math.sqrt(Math.abs(a * e - b * d)) : 1
    return laid.kind === 'empty' || by >= 1 ? laid : this.replace(this.fill(FLAT, laid.extent), laid, 0, by, null, null)
  }

  /** No height anywhere. */
  private flat(): Node {
    return this.fill(FLAT, FARTHEST)
  }

  /**
   * The heights that a layer's chain has after some of its steps (all where it is not said), as `chainOf` has its colours; null: flat.
   * @param below of what lies below, where the layer starts from that
   */
  private chainHeights(list: readonly Layer[], index: number, laid: boolean, steps = Infinity, below?: Node | null): Node | null {
    const name = `chain ${list[index]!.id} ${laid} ${steps} ${below === undefined ? 'its own' : below?.key}`
    return this.once(name, () => this.heightsAfter(list, index, laid, steps, below))
  }

  private heightsAfter(list: readonly Layer[], index: number, laid: boolean, steps: number, below: Node | null | undefined): Node | null {
    const layer = list[index]!
    const { source, placement, chain } = layer
    const moves = laid && kindOf(placement.matrix) !== 'still'
    let heights: Node | null = null
    if (source.type === 'group') heights = this.heightsOf(source.layers, source.layers.length - 1, null)
    else if (source.type === 'live') {
      const at = locate(this.artwork.layers, source.layer)
      heights = this.chainHeights(at.list, at.index, false)
    } else if (madeOfBelow(layer)) heights = below === undefined ? this.heightsOf(list, index - 1, this.heightFloor(list)) : below
    else if (source.type === 'paper' && typeof source.paper === 'string' && this.artwork.stock.papers) heights = this.paperHeights(source)
    let space: Space = moves ? 'own' : 'both'
    const { after } = this.chainOf(list, index, laid)
    for (const [i, use] of chain.entries()) {
      if (i >= steps) break
      const def = stepAt(use.step, use.version)
      if (space === 'own' && use.on && def.onPaper) {
        if (heights) heights = this.placeHeights(heights, placement.matrix)
        space = 'sheet'
      }
      if (!use.on || !def.raises || this.onRealStock(def)) continue
      const { extent } = after[i + 1]!
      if (extent.w > 0) heights = this.step(heights ?? this.fill(FLAT, extent), use, true, layer, space, true)
    }
    return heights && space === 'own' && steps === Infinity ? this.placeHeights(heights, placement.matrix) : heights
  }

  /** A picture over another one as a layer says. */
  private over(below: Node, above: Node, list: readonly Layer[], index: number, atop = false): Node {
    if (above.kind === 'empty') return below
    const layer = list[index]!
    const extent = atop ? below.extent : union(below.extent, above.extent)
    const mode = blendModeIndex(layer.blend)
    const { opacity, spanBelow: span, span: own } = layer
    const mask = this.layerMask(list, index, extent)
    if (below.kind === 'empty' && opacity === 1 && !span && !own && !mask) return above
    return this.intern({
      ...this.named([below, above, ...maskInputs(mask)], 'over', mode, opacity, span, own, atop, mask && [mask.turned, mask.strength]),
      kind: 'over',
      extent,
      mode,
      opacity,
      span,
      own,
      mask,
      below,
      above,
      atop,
      coarsest: Math.min(differencing.has(layer.blend) ? coarsestDifference(below, above) : COARSEST, coarsestSpan(span), coarsestSpan(own)),
    })
  }

  /** A picture instead of the one it was made of, as a layer says. */
  private replaced(input: Node, result: Node, list: readonly Layer[], index: number): Node {
    if (result.kind === 'empty') return input
    const layer = list[index]!
    const mask = this.layerMask(list, index, union(input.extent, result.extent))
    return this.replace(input, result, blendModeIndex(layer.blend), layer.opacity, layer.spanBelow, mask, layer.span)
  }

  private replace(input: Node, result: Node, mode: number, opacity: number, span: Span | null, mask: MaskNode | null, own: Span | null = null): Node {
    if (input === result || input.kind === 'empty' || opacity === 0) return input
    if (mode === 0 && opacity === 1 && !span && !own && !mask) return result
    return this.intern({
      ...this.named([input, result, ...maskInputs(mask)], 'replace', mode, opacity, span, own, mask && [mask.turned, mask.strength]),
      kind: 'replace',
      extent: result.extent,
      mode,
      opacity,
      span,
      own,
      mask,
      input,
      result,
      coarsest: Math.min(coarsestSpan(span), coarsestSpan(own)),
    })
  }

  /**
   * A layer's source and the result after each of its steps. Its own steps run in its own space; the first that acts on paper, and what comes after
   * it, where the layer is laid.
   * @param laid where its placement says; else where it lies by itself, as live copies read it
   */
  private chainOf(list: readonly Layer[], index: number, laid = false): Chain {
    const layer = list[index]!
    const { matrix } = layer.placement
    const moves = laid && kindOf(matrix) !== 'still'
    const name = `${layer.id} ${moves}`
    const known = this.chains.get(name)
    if (known) return known
    let node = this.lit(this.sourceOf(list, index), layer)
    const after = [node]
    // what others read too stays a picture of its own
    let own = layer.source.type !== 'live'
    let space: Space = moves ? 'own' : 'both'
    let extent = node.extent
    for (const use of layer.chain) {
      if (space === 'own' && use.on && stepAt(use.step, use.version).onPaper) {
        extent = node.extent
        node = this.place(node, matrix)
        space = 'sheet'
      }
      const next = this.step(node, use, own, layer, space, false, () => this.there(list, index))
      own ||= next !== node
      after.push((node = next))
    }
    if (space !== 'sheet') extent = node.extent
    const chain = { after, end: space === 'own' ? this.place(node, matrix) : node, own: extent }
    this.chains.set(name, chain)
    return chain
  }

  /** A layer's source with what was dodged and burnt under its chain. */
  private lit(input: Node, layer: Layer): Node {
    const { lightMap } = layer
    const at: PlaneAddress = { layer: layer.id, step: null, part: 'light' }
    if (!lightMap || input.kind === 'empty' || lightMap.strength === 0) return input
    const { strength, span } = lightMap
    const map = this.plane(at, lightMap.plane, 1, NEUTRAL, input.extent)
    return this.intern({
      ...this.named([input, map], 'light', strength, span),
      kind: 'light',
      extent: input.extent,
      input,
      map,
      strength,
      span,
      coarsest: coarsestSpan(span),
    })
  }

  private sourceOf(list: readonly Layer[], index: number): Node {
    const { source, name } = list[index]!
    switch (source.type) {
      case 'photo':
        return this.photo(source)
      case 'open-photo':
        throw new QuillError('missing-photo', `Layer “${name}” has no photo. Put the recipe on a photo first.`)
      case 'fill': {
        return this.fill(pixelOfHex(source.colour, source.alpha), groundOf(this.artwork))
      }
      case 'below':
        return this.below(list, index)
      case 'mend':
        return this.mended(list[index]!, this.below(list, index))
      case 'live': {
        const at = locate(this.artwork.layers, source.layer)
        return this.chainOf(at.list, at.index).end
      }
      case 'group':
        return this.sheetOf(source.layers, source.layers.length - 1, isOpenGroup(list, index) ? this.empty() : undefined)
      case 'paint': {
        const layer = list[index]!
        return this.plane({ layer: layer.id, step: null, part: 'paint' }, source.plane, 4, CLEAR, paintExtent(this.artwork, layer))
      }
      case 'ink': {
        const extent = paintExtent(this.artwork, list[index]!)
        const { blob, colour, scale = 1 } = source
        if (!blob) return this.fill(0n, extent)
        return this.plain({ kind: 'ink', key: hashOf(this.salt, 'ink', blob, colour, scale, extent), extent, blob, colour, scale })
      }
      case 'gradient': {
        const { field } = this.artwork
        // its places are counted from the first sheet, which stays when the frame is moved
        const at = (p: { x: number; y: number }) => ({ x: field.x + p.x * field.w, y: field.y + p.y * field.h })
        const { from, to, ...gradient } = source
        return this.apply(this.fill(0n, groundOf(this.artwork)), gradientFill, { from: at(from), to: at(to), gradient })
      }
      case 'paper':
        return this.paper(source)
      case 'panels':
        return this.panels(list, index, source)
      case 'lettering':
        return refuse(SOURCES[source.type], `Layer “${name}”`, { layer: list[index]!.id })
    }
  }

  /** All that lies below a layer: of one that follows, the run that it is in. */
  private below(list: readonly Layer[], index: number): Node {
    const base = baseOf(list, index)
    return base < index ? this.runOf(list, base, index - 1) : this.sheetOf(list, index - 1)
  }

  /** What lies below with its mended places. One that is being painted is cloned meanwhile, and healed when it is done. */
  private mended(layer: Layer, below: Node): Node {
    if (below.kind === 'empty') return below
    const all = mendedIn(layer).filter((m) => m.dx !== 0 || m.dy !== 0)
    const at = (m: Mended): PlaneAddress => ({ layer: layer.id, step: m.id, part: 'mend' })
    const painted = all.findIndex((m) => this.isPainted(at(m)))
    const done = (painted < 0 ? all : all.slice(0, painted)).filter((m) => m.cover)
    const mended = this.mendedOver(layer, below, done)
    if (painted < 0) return mended
    const { dx, dy, cover } = all[painted]!
    const mask = { node: this.plane(at(all[painted]!), cover, 1, EMPTY_TILE, groundOf(this.artwork)), turned: false, strength: 1 }
    return this.replace(mended, this.place(mended, [1, 0, -dx, 0, 1, -dy, 0, 0, 1]), 0, 1, null, mask)
  }

  private mendedOver(layer: Layer, below: Node, mended: readonly Mended[]): Node {
    if (mended.length === 0) return below
    const { extent } = below
    const above = this.intern({
      kind: 'mended',
      key: hashOf('mended', this.salt, below.key, mended),
      // its tiles say themselves what they show
      shape: hashOf('mended of', layer.id, extent),
      extent,
      below,
      mended,
      salt: this.salt,
    })
    return this.composite(below, above, extent, {})
  }

  /** A sheet of paper: of a colour, its surface lit by the artwork's lamp; or a picture, as wide as it is said to be. */
  private paper(source: Extract<Source, { type: 'paper' }>): Node {
    if (!this.artwork.stock.papers) return this.empty()
    const sheet = groundOf(this.artwork)
    if (typeof source.paper === 'string') {
      const paper = paperById(source.paper)
      if (!paper) throw new QuillError('not-supported', `There is no paper “${source.paper}” in this version. The artwork is left as it is.`)
      return this.fill(pixelOfHex(source.colour ?? paper.colour, 1), sheet)
    }
    const { asset, width, height } = source.paper
    const wide = resolveLength(PAPER_WIDTH, source.width, this.scale)
    const whole = (v: number) => Math.max(PAPER_GRID, Math.round(v / PAPER_GRID) * PAPER_GRID)
    const [pw, ph] = [whole(wide), whole((wide * height) / width)]
    const piece = this.place(this.photo({ asset, width, height }), [pw / width, 0, 0, 0, ph / height, 0, 0, 0, 1], 'solid')
    const { field } = this.artwork
    const origin = { x: field.x, y: field.y }
    const laid = this.intern({ ...this.named([piece], 'mirror', pw, ph, origin, sheet), kind: 'mirror', extent: sheet, input: piece, w: pw, h: ph, origin })
    if (!source.colour) return laid
    const mode = blendModeIndex('multiply')
    const tint = this.fill(pixelOfHex(source.colour, 1), sheet)
    return this.composite(laid, tint, sheet, { mode, atop: true })
  }

  /**
   * The surface that a layer lies on, as evenHeights tells it: of all that lies below; where that is flat, or made out of the layer itself, the papers that
   * are laid over it, for a drawing's paper may be put on top of it; null where there is none.
   */
  private there(list: readonly Layer[], index: number): Node | null {
    const heights = this.surfaceUnder(list, index)
    if (!heights) return null
    // what is beyond the sheet is no ground to compare with
    return this.apply(this.atop(this.fill(FLAT, groundOf(this.artwork)), heights), evened, { reach: Math.min(180, Math.max(24, (4 * this.scale.ppi) / 25.4)) })
  }

  private surfaceUnder(list: readonly Layer[], index: number): Node | null {
    const catches = ({ chain }: Layer) => chain.some((use) => use.on && stepAt(use.step, use.version).catchesOn !== undefined)
    this.circular ??= wouldCircle(this.artwork.layers, catches)
    if (!this.circular.has(list[index]!.id)) {
      const below = this.heightsOf(list, baseOf(list, index) - 1, this.heightFloor(list))
      if (below) return below
    }
    for (let at: { list: readonly Layer[]; index: number } | undefined = { list, index }; at; at = this.ownerOf(at.list)) {
      if (at.list !== list && kindOf(at.list[at.index]!.placement.matrix) !== 'still') return null
      for (const { visible, opacity, source, placement } of [...at.list.slice(0, at.index).reverse(), ...at.list.slice(at.index + 1)]) {
        if (!visible || opacity === 0 || source.type !== 'paper' || typeof source.paper !== 'string') continue
        const heights = this.paperHeights(source)
        if (heights) return kindOf(placement.matrix) === 'still' ? heights : this.placeHeights(heights, placement.matrix)
      }
    }
    return null
  }

  /** A picture made as large as a panel, shown in each of them in its colourway; gutters and margins show the backing. */
  private panels(list: readonly Layer[], index: number, source: PanelSource): Node {
    const { artwork } = this
    const box = boxOf(artwork, source)
    const [whole, grid] = [panelPicture(artwork, source), panelGrid(artwork, source)]
    // a sheet so small that there is no room for panels shows its backing
    if (grid.w < 1 || grid.h < 1) return this.fill(pixelOfHex(source.backing, 1), box)
    const matrix = panelMatrix(whole, grid)
    const shown = this.panelPicture(list, index, source, matrix)
    if (shown.kind === 'empty') return this.fill(pixelOfHex(source.backing, 1), box)
    const input = this.cropped(shown, { x: 0, y: 0, w: grid.w, h: grid.h })
    const ways = new Map(artwork.colourways.map((c) => [c.id, stepOfColourway(c)]))
    const cells = panelsOf(artwork, source)
      .filter((p) => p.own === null)
      .map((p): Cell => ({ x: p.region.x, y: p.region.y, step: p.colourway === null ? null : (ways.get(p.colourway) ?? null) }))
    const coarsest = Math.min(COARSEST, ...cells.map(({ step }) => step?.def.coarsest?.({ ...step.def.defaults, ...step.params } as never) ?? COARSEST))
    const does = cells.map(({ x, y, step }) => [x, y, step && [step.def.id, step.def.version, step.params]])
    const { w, h } = grid
    const node = this.intern({ ...this.named([input], 'panels', this.salt, w, h, box, does), kind: 'panels', extent: { ...box }, input, w, h, cells, coarsest })
    return this.composite(this.fill(pixelOfHex(source.backing, 1), box), node, box, {})
  }

  /** The picture of a panel sheet by a matrix: finished and then made smaller, or what is on paper made anew at that size. */
  private panelPicture(list: readonly Layer[], index: number, source: PanelSource, matrix: Matrix): Node {
    if (source.of === null) return this.place(this.sheetOf(list, baseOf(list, index) - 1), matrix)
    const at = locate(this.artwork.layers, source.of)
    const of = at.list[at.index]!
    if (source.screens === 'shrink' || !of.chain.some((use) => use.on && stepAt(use.step, use.version).onPaper))
      return this.place(this.chainOf(at.list, at.index).end, matrix)
    const small: Layer = { ...of, id: `${of.id} in ${list[index]!.id}`, placement: { matrix: [...matrix], pivot: null } }
    return this.chainOf(at.list.with(at.index, small), at.index, true).end
  }

  /** What of a picture lies within a rectangle. */
  private cropped(input: Node, extent: Region): Node {
    return this.composite(this.fill(0n, extent), input, extent, {})
  }

  /** The surface of a paper that ships. */
  private paperHeights(source: Extract<Source, { type: 'paper' }>): Node | null {
    const paper = paperById(source.paper as string)
    if (!paper || !this.artwork.stock.relief) return null
    const use = { ...newStep('surface-relief', { kind: paper.kind, pitch: source.width, depth: paper.depth }, 'paper'), version: PAPER_RELIEF }
    return this.step(this.fill(FLAT, groundOf(this.artwork)), use, true, newLayer('Paper', { type: 'below' }, [], 'paper'), 'both', true)
  }

  private fill(pixel: bigint, extent: Region): Node {
    const { x, y, w, h } = extent
    return this.plain({ kind: 'fill', key: hashOf('fill', String(pixel), x, y, w, h), extent: { x, y, w, h }, pixel })
  }

  /** Whether the paper that the artwork is printed on does a step's work. */
  private onRealStock({ stock }: AnyStep): boolean {
    const { papers, relief, marks } = this.artwork.stock
    return stock === 'relief' ? !relief : stock === 'tooth' && !papers && marks === 'closed'
  }

  /** The other pictures that a step reads. */
  private othersOf(use: StepUse, { inputs }: AnyStep): Record<string, Node> {
    const others: Record<string, Node> = {}
    for (const name of Object.keys(inputs ?? {})) {
      const given = use.inputs[name]
      if (!given) continue
      let node: Node
      if (given.type === 'photo') node = this.photo(given)
      else {
        const { list, index } = locate(this.artwork.layers, given.layer)
        const { after, end } = this.chainOf(list, index)
        node = given.steps === null ? end : (after[given.steps] ?? end)
      }
      if (node.kind !== 'empty') others[name] = node
    }
    return others
  }

  /**
   * @param own whether the input belongs to the layer alone
   * @param space where it runs, of a layer that is laid elsewhere
   * @param heights whether the input is the picture of heights
   * @param there the surface that the layer lies on, evened out
   */
  private step(input: Node, use: StepUse, own: boolean, whole: Layer, space: Space, heights = false, there: () => Node | null = () => null): Node {
    const def = stepAt(use.step, use.version)
    const { id: layer } = whole
    const matrix = whole.placement.matrix as Matrix
    // what gives height leaves the colours as they are
    if (def.raises && !heights) return input
    if (!use.on || input.kind === 'empty' || this.onRealStock(def)) return input
    refuseUnsupportedStep(use, def)
    const rides = !use.mask?.stays
    const [way, its] =
      space === 'both' || rides === (space === 'own')
        ? [identity, input.extent]
        : rides
          ? [matrix, extentOf(inverse(matrix)!, input.extent)]
          : [inverse(matrix)!, extentOf(matrix, input.extent)]
    const mask = its && this.maskOf(use.mask, { layer, step: use.id, part: 'mask' }, intersect(its, FARTHEST), way)
    const thins = mask !== null && use.mask!.thins && def.marks === true
    // marks are thinned where what they are made of is lightened
    const taken = thins ? this.replace(this.fill(WHITE, input.extent), input, 0, 1, null, mask) : input
    const others = this.othersOf(use, def)
    const params: Record<string, unknown> = {}
    const pictures: Record<string, Node> = {}
    for (const [name, spec] of Object.entries(def.params)) {
      const given = use.params[name] ?? spec.default
      if (spec.type === 'length') params[name] = resolveLength(spec, given as Length, this.scale)
      else if (spec.type === 'place') {
        const { x, y, w, h } = input.extent
        params[name] = { x: x + (given as Place).x * w, y: y + (given as Place).y * h }
      } else if (spec.type === 'ellipse') {
        const { x, y, w, h } = input.extent
        const e = given as Ellipse
        params[name] = { x: x + e.x * w, y: y + e.y * h, rx: e.rx * w, ry: e.ry * h }
      } else params[name] = given
      if (spec.type === 'picture' && given) pictures[name] = this.photo(given as PictureRef)
    }
    if (def.catchesOn?.(params as never)) {
      const surface = there()
      if (surface) others['there'] = surface
      else params['paper'] = 'own'
    }
    const lamp = !def.lit ? UNLIT : def.onPaper ? this.artwork.lamp : this.lampOver(whole, space === 'sheet')
    if (def.bySheet) params['sheet'] = { ppi: this.scale.ppi, reference: this.scale.reference, lamp }
    const joins = def.kind === 'table' && own && !def.analyse && taken.kind === 'step' && taken.def.kind === 'table'
    const by = Math.ceil(def.grows?.(params as never) ?? 0)
    const hands = this.handsOf(whole, def, taken.extent, space === 'sheet')
    const does = ['step', this.salt, def.id, def.version, params, joins, ...Object.keys(others), ...(hands ? [handsKey(hands)] : [])]
    const result = this.intern({
      ...this.named([taken, ...Object.values(others)], ...does),
      kind: 'step',
      extent: by > 0 ? grow(input.extent, by) : input.extent,
      def,
      params,
      input: taken,
      others,
      pictures,
      joins,
      hands,
    })
    if (heights) return this.replace(input, result, 0, use.opacity, null, mask)
    return this.replace(input, result, blendModeIndex(use.blend), use.opacity, use.span, thins ? null : mask)
  }
}

/** A colour written as #rrggbb and how far it covers, as an RGBA16 pixel. */
function pixelOfHex(colour: string, cover: number): bigint {
  const v = [1, 3, 5].map((i) => BigInt(Number.parseInt(colour.slice(i, i + 2), 16) * 257))
  const alpha = BigInt(Math.floor(cover * 65535 + 0.5))
  return BigInt.asIntN(64, v[0]! | (v[1]! << 16n) | (v[2]! << 32n) | (alpha << 48n))
}
/** How wide a picture of paper may lie. */
const PAPER_WIDTH = { type: 'length', min: 32, max: 60000, default: { value: 200, unit: 'mm' } } as LengthSpec

interface Chain {
  /** The source, and what it is after each step. */
  after: Node[]
  /** Its end, laid where it is asked for. */
  end: Node
  /** Where it has pixels in its own space. */
  own: Region
}
/** The space that a step of a layer runs in, where the layer's own is not the sheet's. */
type Space = 'own' | 'sheet' | 'both'
/** Beyond this nothing has pixels. */
const FARTHEST: Region = { x: -(2 ** 22), y: -(2 ** 22), w: 2 ** 23, h: 2 ** 23 }

const maskInputs = (mask: MaskNode | null): Node[] => (mask ? [mask.node] : [])
const WHITE = -1n
/** The middle grey that stands for no height. */
const FLAT = BigInt.asIntN(64, 0xffff_8000_8000_8000n)

/** How far round the look spot a picture is studied more closely, of the sheet's long side, and by how much. */
const LOOKED_AT = 0.1
const LOOK_RAISES = 0.6

/** What hands have changed, by value. */
const handsKey = (hands: StudyHands | null) => hands && [hands.planes.map(({ part, node }) => [part, node.key]), hands.turn, hands.spots]

/** Coarser than any view. */
const COARSEST = 16
/** Pixels of a level that the smallest length of a step must span for differences to come out as at full size (measured: tones within 2 % on the finest drawings). */
const SEEN = 3

/** The coarsest level at which the difference of two pictures is shown: that of the finest step that only one went through. */
function coarsestDifference(below: Node, above: Node): number {
  const shared = new Set<Node>()
  walk(below, (n) => shared.add(n) && true)
  let finest = Infinity
  walk(above, (n) => {
    if (shared.has(n)) return false
    if (n.kind === 'step' && n.def.finest) finest = Math.min(finest, n.def.finest(n.params as never))
    return true
  })
  return finest === Infinity ? COARSEST : halvings(finest / SEEN)
}

const spans = new Map<string, number>()

/** The coarsest level at which a tonal span is seen: as for a table of its shape. */
function coarsestSpan(span: Span | null): number {
  if (!span) return COARSEST
  const name = JSON.stringify(span)
  let level = spans.get(name)
  if (level === undefined) {
    if (spans.size > 500) spans.clear()
    spans.set(name, (level = coarsestOf(spanTable(span))))
  }
  return level
}

/** The nodes that a node is made of directly; other pictures that a step goes by are not among them. */
export function inputsOf(node: Node): readonly Node[] {
  switch (node.kind) {
    case 'photo':
    case 'fill':
    case 'empty':
    case 'ink':
    case 'plane':
      return []
    case 'light':
      return [node.input, node.map]
    case 'mended':
      return [node.below]
    case 'step':
      return [node.input, ...Object.values(node.others)]
    case 'place':
    case 'mirror':
    case 'panels':
      return [node.input]
    case 'over':
      return [node.below, node.above, ...maskInputs(node.mask)]
    case 'lit':
      return [node.input, node.heights]
    case 'replace':
      return [node.input, node.result, ...maskInputs(node.mask)]
  }
}

/** Visits a node and what it is made of, each once, as long as `on` wants to go deeper. */
export function walk(node: Node, on: (n: Node) => boolean): void {
  const seen = new Set([node])
  const open = [node]
  for (let n = open.pop(); n; n = open.pop()) {
    if (!on(n)) continue
    for (const input of inputsOf(n)) {
      if (seen.has(input)) continue
      seen.add(input)
      open.push(input)
    }
  }
}

/** A node and all it is made of, each once, inputs before what reads them. */
export function inOrder(node: Node): Node[] {
  const order: Node[] = []
  const seen = new Set<Node>()
  const open: { node: Node; next: number }[] = [{ node, next: 0 }]
  while (open.length) {
    const at = open.at(-1)!
    const input = inputsOf(at.node)[at.next++]
    if (!input) {
      order.push(at.node)
      open.pop()
    } else if (!seen.has(input)) {
      seen.add(input)
      open.push({ node: input, next: 0 })
    }
  }
  return order
}

/** Sources that are still to come, in words. */
const SOURCES = {
  lettering: 'lettering as its source',
}

/** What of a document this engine cannot compute yet is refused by name, not left out. */
function refuse(what: string, of: string, details: Record<string, unknown>): never {
  throw new QuillError('not-supported', `${of} has ${what}, which this version cannot compute. The artwork is left as it is.`, details)
}

function refuseUnsupported(layer: Layer): void {
  const what = layer.inset ? 'an inset' : null
  if (what) refuse(what, `Layer “${layer.name}”`, { layer: layer.id })
}

function refuseUnsupportedStep(use: StepUse, { title, inputs }: AnyStep): void {
  const strange = Object.keys(use.inputs).find((name) => !inputs?.[name])
  if (strange !== undefined) refuse(`another picture to read (“${strange}”)`, `The step “${title}”`, { step: use.id })
}
