import { baseOf, firstPhoto, isOpenGroup, layerLists, locate, madeOfBelow } from '../artwork/layers.ts'
import { pinRadius } from '../artwork/pins.ts'
import { PAPER_GRID, paperById } from '../artwork/papers.ts'
import type { Artwork, Layer, Mask, Mended, Source, StepUse } from '../artwork/schema.ts'
import { hashOf } from '../base/hash.ts'
import { AREA, channelsOfStudy, maskAt, mendedIn, planeAt, sameAddress, type PlaneAddress } from '../artwork/planes.ts'
import { groundOf, paintExtent, planeSpace, spaceOf, toSheet } from '../artwork/spaces.ts'
import { CLEAR, EMPTY_TILE, FULL, NEUTRAL, type Channels, type Entry, type Plane } from '../planes/plane.ts'
import { gaussianBlur } from '../steps/smooth/gaussian-blur.ts'
import { boxOf, panelGrid, panelMatrix, panelPicture, panelsOf, type PanelSource } from '../artwork/panels.ts'
import { stepOfColourway } from '../artwork/colourways.ts'
import { blankAt } from './blank.ts'
import { COARSEST, coarsestDifference, coarsestSpan } from './coarsest.ts'
import { gradientFill } from './gradient-fill.ts'
import { LayerHeights, type Chain, type ListPlace, type Space } from './layer-heights.ts'
import { alphaAsGrey, moveEdge } from './mask-steps.ts'
import { FARTHEST, NodeMaker, pixelOfHex } from './node-maker.ts'
import { maskInputs, type Cell, type MaskNode, type Node, type StudyHands } from './nodes.ts'
import { refuse, refuseUnsupported, refuseUnsupportedStep, SOURCES } from './refusals.ts'
import { blendModeIndex, differencing } from '../blend/modes.ts'
import { QuillError } from '../base/errors.ts'
import type { AnyStep } from '../steps/contract.ts'
import { resolveLength, type Ellipse, type Length, type LengthSpec, type PictureRef, type Place, type Scale } from '../steps/params/index.ts'
import { stepAt } from '../steps/registry.ts'
import type { Spot } from '../study/painted.ts'
import type { StudyPart } from '../base/study-parts.ts'
import { cellOf, studyView, studyViewBeyond } from './study-view.ts'
import { findLiveCycle, liveCycle } from '../artwork/cycles.ts'
import { grow, intersect, union, type Region } from '../base/region.ts'
import { extentOf, identity, inverse, kindOf, mapped, times, type Matrix } from '../base/transform.ts'

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

/** Turns artworks into graphs. Nodes already known by their key are used again. */
export class GraphCompiler {
  private readonly artwork: Artwork
  private readonly scale: Scale
  private readonly chains = new Map<string, Chain>()
  private readonly sheets = new Map<string, Node>()
  private readonly runs = new Map<string, Node>()
  private owners: Map<readonly Layer[], ListPlace> | null = null
  private readonly painting: Painting | null
  private readonly make: NodeMaker
  private readonly heights: LayerHeights

  /**
   * @param salt hash of the kernel module: other kernels, other keys
   * @param painting a stroke that runs
   * @throws QuillError `live-cycle`
   */
  constructor(artwork: Artwork, salt: string, painting: Painting | null = null) {
    this.painting = painting
    this.artwork = artwork
    this.make = new NodeMaker(salt)
    this.heights = new LayerHeights(artwork, this.make, {
      chainOf: (list, index, laid) => this.chainOf(list, index, laid),
      layerMask: (list, index, onSheet) => this.layerMask(list, index, onSheet),
      step: (...given) => this.step(...given),
      onRealStock: (def) => this.onRealStock(def),
      openOwner: (list) => this.openOwner(list),
      ownerOf: (list) => this.ownerOf(list),
    })
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
        return target.unlit ? all : this.make.litBy(all, this.heights.upTo(layers, layers.length - 1, null), this.artwork.lamp)
      }
      case 'sheet': {
        const { list, index } = locate(this.artwork.layers, target.layer)
        return this.make.litBy(this.sheetOf(list, index), this.heights.upTo(list, index, this.heights.floorOf(list)), this.artwork.lamp)
      }
      case 'chain': {
        const { list, index } = locate(this.artwork.layers, target.layer)
        const { after, end } = this.chainOf(list, index, true)
        const all = target.steps >= after.length - 1
        const steps = Math.max(0, target.steps)
        return this.make.litBy(all ? end : after[steps]!, this.heights.ofChain(list, index, true, all ? undefined : steps), this.artwork.lamp)
      }
      case 'for-plane': {
        const { list, index } = locate(this.artwork.layers, target.layer)
        const { way } = planeSpace(this.artwork, target.at)
        if (target.layer === target.at.layer && !this.maskStays(target.at)) return this.chainOf(list, index).end
        const node = this.make.place(this.chainOf(list, index, true).end, spaceOf(this.artwork.layers, target.layer))
        const back = inverse(way)
        return back ? this.make.place(node, back) : this.make.empty()
      }
      case 'study':
        return this.studyView(target.layer, target.part)
      case 'painted': {
        const { at, by } = target
        const there = planeAt(this.artwork, at)
        if (!there) return this.make.empty()
        return this.make.place(this.plane(at, there.plane, there.channels, blankAt(this.artwork, at), planeSpace(this.artwork, at).within), by, 'solid')
      }
      case 'area':
        return this.area(target)
      case 'mask': {
        const { list, index, layer } = locate(this.artwork.layers, target.layer)
        const mask = maskAt(this.artwork, target.layer, target.step)
        const at: PlaneAddress = { layer: target.layer, step: target.step, part: 'mask' }
        const { way, within } = planeSpace(this.artwork, at)
        const found = this.maskOf(mask, at, mask?.live ? this.chainOf(list, index).own : within, mask?.live ? toSheet(this.artwork, layer) : way)
        return found?.node ?? this.make.empty()
      }
      case 'photo': {
        const photo = firstPhoto(this.artwork.layers)
        return photo ? this.make.place(this.make.photo(photo.source), photo.matrix) : this.make.empty()
      }
    }
  }

  private area({ plane, round = 0, move = 0, soften = 0, by }: Extract<Target, { type: 'area' }>): Node {
    let node = this.plane(AREA, { index: plane }, 1, EMPTY_TILE, groundOf(this.artwork), false)
    const moved = (by: number) => {
      if (by !== 0) node = this.make.apply(node, moveEdge, { by: Math.abs(by), inwards: by < 0 })
    }
    // opened, then closed (Serra 1982): what sticks out and what cuts in is rounded alike
    for (const by of [-round, round, round, -round]) moved(by)
    moved(move)
    if (soften > 0) node = this.make.apply(node, gaussianBlur, { sigma: soften })
    return by ? this.make.place(node, by) : node
  }

  private maskStays(at: PlaneAddress): boolean {
    return at.part === 'mask' && (maskAt(this.artwork, at.layer, at.step)?.stays ?? false)
  }

  private isPainted(at: PlaneAddress): boolean {
    return this.painting !== null && [this.painting.at, ...(this.painting.also ?? [])].some((p) => sameAddress(p, at))
  }

  /** What was painted at a place of the artwork. @param follows what a running stroke makes of it */
  private plane(at: PlaneAddress, given: { index: string } | null, channels: Channels, blank: Entry, extent: Region, follows = true): Node {
    const { painting } = this
    const live = follows && painting && this.isPainted(at) ? painting : null
    const index = live ? null : (given?.index ?? null)
    return this.make.intern({
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
      if (node.kind !== 'empty' && mask.live.by === 'alpha') node = this.make.apply(node, alphaAsGrey, {})
    } else node = this.plane(at, mask.plane, 1, mask.start === 'full' ? FULL : EMPTY_TILE, extent)
    const { move, unit, soften } = mask.edge
    if (node.kind !== 'empty') {
      const by = resolveLength(moveEdge.params['by'] as LengthSpec, { value: Math.abs(move), unit }, this.scale)
      if (by > 0) node = this.make.apply(node, moveEdge, { by, inwards: move < 0 })
      if (soften.value > 0) node = this.make.apply(node, gaussianBlur, { sigma: resolveLength(gaussianBlur.params['sigma'] as LengthSpec, soften, this.scale) })
    }
    return { node: this.make.place(node, way), turned: mask.turnedRound, strength: mask.strength }
  }

  /** The mask of a layer: one that rides is painted in the layer's own space, one that stays in the sheet's. */
  private layerMask(list: readonly Layer[], index: number, onSheet: Region): MaskNode | null {
    const { id, mask, placement } = list[index]!
    const at: PlaneAddress = { layer: id, step: null, part: 'mask' }
    if (!mask || mask.stays || kindOf(placement.matrix) === 'still') return this.maskOf(mask, at, onSheet)
    return this.maskOf(mask, at, this.chainOf(list, index, true).own, placement.matrix)
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
    const node = this.make.intern({
      ...this.make.named([input, painted], 'step', this.make.salt, view.id, view.version, params, handsKey(hands)),
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
    return this.make.place(node, toSheet(this.artwork, layer))
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
          return node ? [{ part, node: laid ? this.make.place(node, matrix, 'solid') : node }] : []
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

  /** What the layers of a list lie on: nothing, or what is below the open group that they are in. */
  private floorOf(list: readonly Layer[]): Node {
    const owner = this.openOwner(list)
    return owner ? this.sheetOf(owner.list, owner.index - 1) : this.make.empty()
  }

  /** The open group that holds a list. */
  private openOwner(list: readonly Layer[]): ListPlace | null {
    const owner = this.ownerOf(list)
    return owner && isOpenGroup(owner.list, owner.index) ? owner : null
  }

  /** The group that holds a list. */
  private ownerOf(list: readonly Layer[]): ListPlace | undefined {
    if (!this.owners) {
      this.owners = new Map()
      for (const all of layerLists(this.artwork.layers))
        all.forEach((l, index) => l.source.type === 'group' && this.owners!.set(l.source.layers, { list: all, index }))
    }
    return this.owners.get(list)
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

  /** A picture over another one as a layer says. */
  private over(below: Node, above: Node, list: readonly Layer[], index: number, atop = false): Node {
    if (above.kind === 'empty') return below
    const layer = list[index]!
    const extent = atop ? below.extent : union(below.extent, above.extent)
    const mode = blendModeIndex(layer.blend)
    const { opacity, spanBelow: span, span: own } = layer
    const mask = this.layerMask(list, index, extent)
    if (below.kind === 'empty' && opacity === 1 && !span && !own && !mask) return above
    return this.make.intern({
      ...this.make.named([below, above, ...maskInputs(mask)], 'over', mode, opacity, span, own, atop, mask && [mask.turned, mask.strength]),
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
    return this.make.replace(input, result, blendModeIndex(layer.blend), layer.opacity, layer.spanBelow, mask, layer.span)
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
        node = this.make.place(node, matrix)
        space = 'sheet'
      }
      const next = this.step(node, use, own, layer, space, false, () => this.heights.under(list, index))
      own ||= next !== node
      after.push((node = next))
    }
    if (space !== 'sheet') extent = node.extent
    const chain = { after, end: space === 'own' ? this.make.place(node, matrix) : node, own: extent }
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
    return this.make.intern({
      ...this.make.named([input, map], 'light', strength, span),
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
        return this.make.photo(source)
      case 'open-photo':
        throw new QuillError('missing-photo', `Layer “${name}” has no photo. Put the recipe on a photo first.`)
      case 'fill': {
        return this.make.fill(pixelOfHex(source.colour, source.alpha), groundOf(this.artwork))
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
        return this.sheetOf(source.layers, source.layers.length - 1, isOpenGroup(list, index) ? this.make.empty() : undefined)
      case 'paint': {
        const layer = list[index]!
        return this.plane({ layer: layer.id, step: null, part: 'paint' }, source.plane, 4, CLEAR, paintExtent(this.artwork, layer))
      }
      case 'ink': {
        const extent = paintExtent(this.artwork, list[index]!)
        const { blob, colour, scale = 1 } = source
        if (!blob) return this.make.fill(0n, extent)
        return this.make.plain({ kind: 'ink', key: hashOf(this.make.salt, 'ink', blob, colour, scale, extent), extent, blob, colour, scale })
      }
      case 'gradient': {
        const { field } = this.artwork
        // its places are counted from the first sheet, which stays when the frame is moved
        const at = (p: { x: number; y: number }) => ({ x: field.x + p.x * field.w, y: field.y + p.y * field.h })
        const { from, to, ...gradient } = source
        return this.make.apply(this.make.fill(0n, groundOf(this.artwork)), gradientFill, { from: at(from), to: at(to), gradient })
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
    return this.make.replace(mended, this.make.place(mended, [1, 0, -dx, 0, 1, -dy, 0, 0, 1]), 0, 1, null, mask)
  }

  private mendedOver(layer: Layer, below: Node, mended: readonly Mended[]): Node {
    if (mended.length === 0) return below
    const { extent } = below
    const above = this.make.intern({
      kind: 'mended',
      key: hashOf('mended', this.make.salt, below.key, mended),
      // its tiles say themselves what they show
      shape: hashOf('mended of', layer.id, extent),
      extent,
      below,
      mended,
      salt: this.make.salt,
    })
    return this.make.composite(below, above, extent, {})
  }

  /** A sheet of paper: of a colour, its surface lit by the artwork's lamp; or a picture, as wide as it is said to be. */
  private paper(source: Extract<Source, { type: 'paper' }>): Node {
    if (!this.artwork.stock.papers) return this.make.empty()
    const sheet = groundOf(this.artwork)
    if (typeof source.paper === 'string') {
      const paper = paperById(source.paper)
      if (!paper) throw new QuillError('not-supported', `There is no paper “${source.paper}” in this version. The artwork is left as it is.`)
      return this.make.fill(pixelOfHex(source.colour ?? paper.colour, 1), sheet)
    }
    const { asset, width, height } = source.paper
    const wide = resolveLength(PAPER_WIDTH, source.width, this.scale)
    const whole = (v: number) => Math.max(PAPER_GRID, Math.round(v / PAPER_GRID) * PAPER_GRID)
    const [pw, ph] = [whole(wide), whole((wide * height) / width)]
    const piece = this.make.place(this.make.photo({ asset, width, height }), [pw / width, 0, 0, 0, ph / height, 0, 0, 0, 1], 'solid')
    const { field } = this.artwork
    const origin = { x: field.x, y: field.y }
    const laid = this.make.intern({
      ...this.make.named([piece], 'mirror', pw, ph, origin, sheet),
      kind: 'mirror',
      extent: sheet,
      input: piece,
      w: pw,
      h: ph,
      origin,
    })
    if (!source.colour) return laid
    const mode = blendModeIndex('multiply')
    const tint = this.make.fill(pixelOfHex(source.colour, 1), sheet)
    return this.make.composite(laid, tint, sheet, { mode, atop: true })
  }

  /** A picture made as large as a panel, shown in each of them in its colourway; gutters and margins show the backing. */
  private panels(list: readonly Layer[], index: number, source: PanelSource): Node {
    const { artwork } = this
    const box = boxOf(artwork, source)
    const [whole, grid] = [panelPicture(artwork, source), panelGrid(artwork, source)]
    // a sheet so small that there is no room for panels shows its backing
    if (grid.w < 1 || grid.h < 1) return this.make.fill(pixelOfHex(source.backing, 1), box)
    const matrix = panelMatrix(whole, grid)
    const shown = this.panelPicture(list, index, source, matrix)
    if (shown.kind === 'empty') return this.make.fill(pixelOfHex(source.backing, 1), box)
    const input = this.make.cropped(shown, { x: 0, y: 0, w: grid.w, h: grid.h })
    const ways = new Map(artwork.colourways.map((c) => [c.id, stepOfColourway(c)]))
    const cells = panelsOf(artwork, source)
      .filter((p) => p.own === null)
      .map((p): Cell => ({ x: p.region.x, y: p.region.y, step: p.colourway === null ? null : (ways.get(p.colourway) ?? null) }))
    const coarsest = Math.min(COARSEST, ...cells.map(({ step }) => step?.def.coarsest?.({ ...step.def.defaults, ...step.params } as never) ?? COARSEST))
    const does = cells.map(({ x, y, step }) => [x, y, step && [step.def.id, step.def.version, step.params]])
    const { w, h } = grid
    const node = this.make.intern({
      ...this.make.named([input], 'panels', this.make.salt, w, h, box, does),
      kind: 'panels',
      extent: { ...box },
      input,
      w,
      h,
      cells,
      coarsest,
    })
    return this.make.composite(this.make.fill(pixelOfHex(source.backing, 1), box), node, box, {})
  }

  /** The picture of a panel sheet by a matrix: finished and then made smaller, or what is on paper made anew at that size. */
  private panelPicture(list: readonly Layer[], index: number, source: PanelSource, matrix: Matrix): Node {
    if (source.of === null) return this.make.place(this.sheetOf(list, baseOf(list, index) - 1), matrix)
    const at = locate(this.artwork.layers, source.of)
    const of = at.list[at.index]!
    if (source.screens === 'shrink' || !of.chain.some((use) => use.on && stepAt(use.step, use.version).onPaper))
      return this.make.place(this.chainOf(at.list, at.index).end, matrix)
    const small: Layer = { ...of, id: `${of.id} in ${list[index]!.id}`, placement: { matrix: [...matrix], pivot: null } }
    return this.chainOf(at.list.with(at.index, small), at.index, true).end
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
      if (given.type === 'photo') node = this.make.photo(given)
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
    const taken = thins ? this.make.replace(this.make.fill(WHITE, input.extent), input, 0, 1, null, mask) : input
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
      if (spec.type === 'picture' && given) pictures[name] = this.make.photo(given as PictureRef)
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
    const does = ['step', this.make.salt, def.id, def.version, params, joins, ...Object.keys(others), ...(hands ? [handsKey(hands)] : [])]
    const result = this.make.intern({
      ...this.make.named([taken, ...Object.values(others)], ...does),
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
    if (heights) return this.make.replace(input, result, 0, use.opacity, null, mask)
    return this.make.replace(input, result, blendModeIndex(use.blend), use.opacity, use.span, thins ? null : mask)
  }
}

/** How wide a picture of paper may lie. */
const PAPER_WIDTH = { type: 'length', min: 32, max: 60000, default: { value: 200, unit: 'mm' } } as LengthSpec

const WHITE = -1n
/** How far round the look spot a picture is studied more closely, of the sheet's long side, and by how much. */
const LOOKED_AT = 0.1
const LOOK_RAISES = 0.6

/** What hands have changed, by value. */
const handsKey = (hands: StudyHands | null) => hands && [hands.planes.map(({ part, node }) => [part, node.key]), hands.turn, hands.spots]
