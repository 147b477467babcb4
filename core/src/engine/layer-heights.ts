import { allLayers, baseOf, isOpenGroup, locate, madeOfBelow, newLayer, newStep } from '../artwork/layers.ts'
import { PAPER_RELIEF, paperById } from '../artwork/papers.ts'
import type { Artwork, Layer, Source, StepUse } from '../artwork/schema.ts'
import { groundOf } from '../artwork/spaces.ts'
import { wouldCircle } from '../artwork/cycles.ts'
import { union, type Region } from '../base/region.ts'
import { isAffine, kindOf, type Matrix } from '../base/transform.ts'
import type { AnyStep } from '../steps/contract.ts'
import { stepAt } from '../steps/registry.ts'
import { evened } from '../steps/surface/evened.ts'
import { FARTHEST, type NodeMaker } from './node-maker.ts'
import type { MaskNode, Node } from './nodes.ts'

/** The middle grey that stands for no height. */
const FLAT = BigInt.asIntN(64, 0xffff_8000_8000_8000n)

/** A layer's colours, step by step. */
export interface Chain {
  /** The source, and what it is after each step. */
  after: Node[]
  /** Its end, laid where it is asked for. */
  end: Node
  /** Where it has pixels in its own space. */
  own: Region
}
/** The space that a step of a layer runs in, where the layer's own is not the sheet's. */
export type Space = 'own' | 'sheet' | 'both'
/** A place among layers. */
export interface ListPlace {
  list: readonly Layer[]
  index: number
}

/** What heights ask of those who compile the colours that they belong to. */
export interface Colours {
  chainOf(list: readonly Layer[], index: number, laid: boolean): Chain
  layerMask(list: readonly Layer[], index: number, onSheet: Region): MaskNode | null
  step(input: Node, use: StepUse, own: boolean, whole: Layer, space: Space, heights: boolean): Node
  onRealStock(def: AnyStep): boolean
  openOwner(list: readonly Layer[]): ListPlace | null
  ownerOf(list: readonly Layer[]): ListPlace | undefined
}

/** Compiles the heights of an artwork's layers: what its lamp lights, and what drawings catch on. */
export class LayerHeights {
  private readonly artwork: Artwork
  private readonly make: NodeMaker
  private readonly colours: Colours
  private readonly rising = new Map<readonly Layer[], boolean>()
  private risesAtAll: boolean | null = null
  /** Layers whose tooth cannot go by what lies below, since that is made out of them. */
  private circular: ReadonlySet<string> | null = null
  private readonly known = new Map<string, Node | null>()

  constructor(artwork: Artwork, make: NodeMaker, colours: Colours) {
    this.artwork = artwork
    this.make = make
    this.colours = colours
  }

  /** The heights of what the layers of a list lie on. */
  floorOf(list: readonly Layer[]): Node | null {
    const owner = this.colours.openOwner(list)
    return owner && this.upTo(owner.list, owner.index - 1, this.floorOf(owner.list))
  }

  /**
   * The heights of all layers of a list up to `index`, put together as their colours are: what covers takes the height of what it covers, or has its own.
   * @param floor of what the list lies on; null, as the answer may be: flat
   */
  upTo(list: readonly Layer[], index: number, floor: Node | null): Node | null {
    if (index < 0 || !this.rises(list)) return floor
    return this.once(`sheet ${list[index]!.id} ${floor?.key}`, () => this.putTogether(list, index, floor))
  }

  /** Heights that were put together once are known: layers may be made of each other in many ways. */
  private once(name: string, make: () => Node | null): Node | null {
    const known = this.known.get(name)
    if (known !== undefined) return known
    const made = make()
    this.known.set(name, made)
    return made
  }

  private putTogether(list: readonly Layer[], index: number, floor: Node | null): Node | null {
    const base = baseOf(list, index)
    const layer = list[base]!
    const below = this.upTo(list, base - 1, floor)
    if (!layer.visible || layer.opacity === 0) return below
    const { source } = layer
    if (source.type === 'group' && isOpenGroup(list, base)) {
      const result = this.upTo(source.layers, source.layers.length - 1, below)
      return result === below ? below : this.mixed('replace', below ?? this.flat(), result ?? this.flat(), list, base)
    }
    if (madeOfBelow(layer)) {
      const own = this.ofChain(list, base, true, undefined, below)
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
    const mask = this.colours.layerMask(list, index, extent)
    if (kind === 'replace') return this.make.replace(below, above, 0, opacity, null, mask)
    return this.make.composite(below, above, extent, { opacity, mask })
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
    const heights = this.ofChain(list, index, true)
    return heights && this.make.atop(this.colours.chainOf(list, index, true).end, heights)
  }

  /**
   * Heights laid elsewhere. Their border is solid, since how far they count goes by the colours they are of; what is made smaller is flatter by as
   * much, so that its slopes stay as steep.
   */
  private placeHeights(heights: Node, matrix: Matrix): Node {
    const laid = this.make.place(heights, matrix, 'solid')
    const [a, b, , d, e] = matrix.map((v) => v / matrix[8]) as unknown as Matrix
    const by = isAffine(matrix) ? Math.sqrt(Math.abs(a * e - b * d)) : 1
    return laid.kind === 'empty' || by >= 1 ? laid : this.make.replace(this.make.fill(FLAT, laid.extent), laid, 0, by, null, null)
  }

  /** No height anywhere. */
  private flat(): Node {
    return this.make.fill(FLAT, FARTHEST)
  }

  /**
   * The heights that a layer's chain has after some of its steps (all where it is not said), as `chainOf` has its colours; null: flat.
   * @param below of what lies below, where the layer starts from that
   */
  ofChain(list: readonly Layer[], index: number, laid: boolean, steps = Infinity, below?: Node | null): Node | null {
    const name = `chain ${list[index]!.id} ${laid} ${steps} ${below === undefined ? 'its own' : below?.key}`
    return this.once(name, () => this.afterSteps(list, index, laid, steps, below))
  }

  private afterSteps(list: readonly Layer[], index: number, laid: boolean, steps: number, below: Node | null | undefined): Node | null {
    const layer = list[index]!
    const { source, placement, chain } = layer
    const moves = laid && kindOf(placement.matrix) !== 'still'
    let heights: Node | null = null
    if (source.type === 'group') heights = this.upTo(source.layers, source.layers.length - 1, null)
    else if (source.type === 'live') {
      const at = locate(this.artwork.layers, source.layer)
      heights = this.ofChain(at.list, at.index, false)
    } else if (madeOfBelow(layer)) heights = below === undefined ? this.upTo(list, index - 1, this.floorOf(list)) : below
    else if (source.type === 'paper' && typeof source.paper === 'string' && this.artwork.stock.papers) heights = this.paperHeights(source)
    let space: Space = moves ? 'own' : 'both'
    const { after } = this.colours.chainOf(list, index, laid)
    for (const [i, use] of chain.entries()) {
      if (i >= steps) break
      const def = stepAt(use.step, use.version)
      if (space === 'own' && use.on && def.onPaper) {
        if (heights) heights = this.placeHeights(heights, placement.matrix)
        space = 'sheet'
      }
      if (!use.on || !def.raises || this.colours.onRealStock(def)) continue
      const { extent } = after[i + 1]!
      if (extent.w > 0) heights = this.colours.step(heights ?? this.make.fill(FLAT, extent), use, true, layer, space, true)
    }
    return heights && space === 'own' && steps === Infinity ? this.placeHeights(heights, placement.matrix) : heights
  }

  /** The surface of a paper that ships. */
  private paperHeights(source: Extract<Source, { type: 'paper' }>): Node | null {
    const paper = paperById(source.paper as string)
    if (!paper || !this.artwork.stock.relief) return null
    const use = { ...newStep('surface-relief', { kind: paper.kind, pitch: source.width, depth: paper.depth }, 'paper'), version: PAPER_RELIEF }
    return this.colours.step(this.make.fill(FLAT, groundOf(this.artwork)), use, true, newLayer('Paper', { type: 'below' }, [], 'paper'), 'both', true)
  }

  /**
   * The surface that a layer lies on, as evenHeights tells it: of all that lies below; where that is flat, or made out of the layer itself, the papers that
   * are laid over it, for a drawing's paper may be put on top of it; null where there is none.
   */
  under(list: readonly Layer[], index: number): Node | null {
    const heights = this.surfaceUnder(list, index)
    if (!heights) return null
    // what is beyond the sheet is no ground to compare with
    return this.make.apply(this.make.atop(this.make.fill(FLAT, groundOf(this.artwork)), heights), evened, {
      reach: Math.min(180, Math.max(24, (4 * this.artwork.sheet.ppi) / 25.4)),
    })
  }

  private surfaceUnder(list: readonly Layer[], index: number): Node | null {
    const catches = ({ chain }: Layer) => chain.some((use) => use.on && stepAt(use.step, use.version).catchesOn !== undefined)
    this.circular ??= wouldCircle(this.artwork.layers, catches)
    if (!this.circular.has(list[index]!.id)) {
      const below = this.upTo(list, baseOf(list, index) - 1, this.floorOf(list))
      if (below) return below
    }
    for (let at: { list: readonly Layer[]; index: number } | undefined = { list, index }; at; at = this.colours.ownerOf(at.list)) {
      if (at.list !== list && kindOf(at.list[at.index]!.placement.matrix) !== 'still') return null
      for (const { visible, opacity, source, placement } of [...at.list.slice(0, at.index).reverse(), ...at.list.slice(at.index + 1)]) {
        if (!visible || opacity === 0 || source.type !== 'paper' || typeof source.paper !== 'string') continue
        const heights = this.paperHeights(source)
        if (heights) return kindOf(placement.matrix) === 'still' ? heights : this.placeHeights(heights, placement.matrix)
      }
    }
    return null
  }
}
