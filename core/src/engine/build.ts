import { atLevel, grow, sameRegion, type Region } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { NeighbourhoodStep, Pic, SequentialStep } from '../steps/contract.ts'
import { doubleInto } from './double.ts'
import type { Facts } from './facts.ts'
import { drawInk, type Inks } from './inks.ts'
import type { Node } from './nodes.ts'
import type { MendedNode, MendedPlanes } from './mended.ts'
import { CLEAR, emptyPlane } from '../planes/plane.ts'
import { coarsestAt, coarsestOfStep, paramsAt, runsByRows, type StepNode } from './levels.ts'
import { lightHeights, lightTables } from './light.ts'
import type { Photos } from './photos.ts'
import { panelsStage } from './panels.ts'
import { mirrorStage } from './mirror.ts'
import { placeStage } from './place.ts'
import type { PlaneTiles } from './planes.ts'
import type { Request } from './request.ts'
import { newStage, reads, type Stage, type StageWork } from './stage.ts'
import type { Tables } from './tables.ts'

/** Rows after which what a step carries from row to row is kept. */
const SEQUENCE_ROWS = 64
/** Cells have a place everywhere. */
const EVERYWHERE: Region = { x: -(2 ** 28), y: -(2 ** 28), w: 2 ** 29, h: 2 ** 29 }

/** What stages are made with. */
export interface Workshop {
  kernels: Kernels
  photos: Photos
  tables: Tables
  facts: Facts
  planes: PlaneTiles
  inks: Inks
  mended: MendedPlanes
}

/** Makes the stages of one request: for each node and level one, whoever reads it. */
export class StageBuilder {
  private readonly shop: Workshop
  private readonly request: Request
  private readonly mark: string
  private readonly stages = new Map<string, Stage>()
  private readonly unfilled: { stage: Stage; node: Node; level: number }[] = []

  constructor(shop: Workshop, request: Request) {
    this.shop = shop
    this.request = request
    this.mark = request.quick ? (request.lends ? 'l' : 'q') : ''
  }

  /**
   * The stage of a node at a level, with all it is made of.
   * @throws QuillError `missing-photo`, `source-unreadable`
   */
  async stageOf(node: Node, level: number): Promise<Stage> {
    const stage = this.want(node, level)
    for (let next = this.unfilled.pop(); next; next = this.unfilled.pop()) await this.fill(next.stage, next.node, next.level)
    return stage
  }

  /**
   * The full-size result of a node, reduced to a level by means of 2 × 2 pixels: what is delivered, small.
   * @param bounds what there is at full size (the sheet and the node): the last pixel of a level may stand for less than a whole
   *   block, and what lies beyond does not count
   */
  async settled(node: Node, level: number, bounds: Region): Promise<Stage> {
    let stage = await this.stageOf(node, 0)
    if (!sameRegion(node.extent, bounds)) {
      const framed = newStage({
        name: `${stage.name}/framed ${JSON.stringify(bounds)}`,
        shape: `${stage.shape}/framed ${JSON.stringify(bounds)}`,
        level: 0,
        extent: bounds,
        inPlace: true,
        compute: this.copy,
      })
      reads(framed, stage, 'clear')
      stage = framed
    }
    return this.halved(stage, level, bounds)
  }

  /** A picture of full size, reduced to a level by means of 2 × 2 pixels. */
  private halved(full: Stage, level: number, bounds: Region): Stage {
    let stage = full
    for (let l = 1; l <= level; l++) {
      const name = `${stage.name}/${l}`
      let half = this.stages.get(name)
      if (!half) {
        half = newStage({ name, shape: `${stage.shape}/${l}`, level: l, extent: atLevel(bounds, l), reduces: 4, compute: this.halve })
        reads(half, stage, 'repeat', twice)
        this.stages.set(name, half)
      }
      stage = half
    }
    return stage
  }

  /** A picture laid elsewhere, out of its input at the level, or levels, at which about one pixel makes one. */
  private place(stage: Stage, node: Node & { kind: 'place' }, level: number): void {
    const { input } = node
    // at full size each reads a photo by itself: together they would ask for all of it at once
    const want = (k: number) => this.want(input, k, input.kind === 'photo' && level <= 0 ? `/for ${node.key}` : '')
    // what is delivered is made of the finished picture; a view of less of it
    const inputAt = (k: number) => (k <= 0 || level > 0 ? want(k) : this.halved(want(0), k, input.extent))
    placeStage(this.shop.kernels, stage, node, inputAt)
  }

  private readonly copy = ({ inputs, output }: StageWork) => {
    const [input] = inputs
    if (input!.ptr !== output.ptr) this.shop.kernels.raw.copyRect(input!.ptr, input!.stride, output.ptr, output.stride, output.region.w * 8, output.region.h)
  }

  private readonly halve = ({ inputs, output }: StageWork) => {
    const { ptr, stride, region } = inputs[0]!
    this.shop.kernels.raw.halve(ptr, stride, region.w, region.h, output.ptr, output.stride)
  }

  /** @param by for whom it is made, where that one has it to itself */
  private want(node: Node, level: number, by = ''): Stage {
    const name = `${node.key}/${level}${this.mark}${by}`
    const known = this.stages.get(name)
    if (known) return known
    const stage = newStage({ name, shape: `${node.shape}/${level}${this.mark}`, level, extent: atLevel(node.extent, level), compute: () => undefined })
    this.stages.set(name, stage)
    this.unfilled.push({ stage, node, level })
    return stage
  }

  private async fill(stage: Stage, node: Node, level: number): Promise<void> {
    const { kernels, tables } = this.shop
    const { raw } = kernels
    switch (node.kind) {
      case 'photo':
        return this.photo(stage, node, level)
      case 'empty':
      case 'fill': {
        const pixel = node.kind === 'fill' ? node.pixel : 0n
        stage.compute = ({ output: { ptr, stride, region } }) => raw.fillRect(ptr, stride, region.w, region.h, pixel)
        return
      }
      case 'over':
      case 'replace': {
        if (level > coarsestAt(node) && !this.request.quick) return this.reduce(stage, node, level)
        const [first, second] = node.kind === 'over' ? [node.below, node.above] : [node.input, node.result]
        const { mode, opacity, span, own, mask: hand } = node
        const kernel = node.kind === 'replace' ? raw.replace : node.atop ? raw.blendAtop : raw.blend
        reads(stage, this.want(first, level), 'clear')
        reads(stage, this.want(second, level), 'clear')
        if (hand) reads(stage, this.want(hand.node, level), 'clear')
        stage.inPlace = true
        stage.compute = ({ inputs, output }) => {
          const [a, b, m] = inputs as [Pic, Pic, Pic | undefined]
          const { w, h } = output.region
          const mix = (mask: number, maskStride: number) =>
            kernel(mode, a.ptr, a.stride, b.ptr, b.stride, mask, maskStride, output.ptr, output.stride, w, h, opacity)
          // one after the other, multiplied into the first
          const by: ((mask: number) => void)[] = []
          if (hand) by.push((mask) => tables.handMask(hand, m!, mask))
          if (span) by.push((mask) => tables.spanMask(span, a, mask))
          if (own) by.push((mask) => tables.spanMask(own, b, mask))
          if (by.length === 0) return mix(0, 0)
          kernels.scratch(w * h * 2 + 16, (mask) => {
            by[0]!(mask)
            for (const more of by.slice(1)) {
              kernels.scratch(w * h * 2 + 16, (next) => {
                more(next)
                raw.multiplyMask(next, w * 2, mask, w * 2, w, h)
              })
            }
            mix(mask, w * 2)
          })
        }
        return
      }
      case 'plane':
        return this.plane(stage, node, level)
      case 'mended':
        return this.mended(stage, node, level)
      case 'ink':
        return this.ink(stage, node, level)
      case 'light': {
        if (level > coarsestAt(node) && !this.request.quick) return this.reduce(stage, node, level)
        reads(stage, this.want(node.input, level), 'clear')
        reads(stage, this.want(node.map, level), 'clear')
        stage.inPlace = true
        stage.compute = ({ inputs, output: { ptr, stride, region } }) => {
          const [input, map] = inputs as [Pic, Pic]
          const t = lightTables(kernels, node.strength, node.span)
          raw.lightMap(input.ptr, input.stride, map.ptr, map.stride, ptr, stride, region.w, region.h, t.span, t.stops, t.light, t.gains, t.codes)
        }
        return
      }
      case 'step':
        return this.step(stage, node, level)
      case 'lit': {
        if (level > coarsestAt(node.heights) && !this.request.quick) return this.reduce(stage, node, level)
        reads(stage, this.want(node.input, level), 'clear')
        // at the picture's border the heights go on: it is no cliff
        const heights = newStage({
          name: `${stage.name}/heights`,
          shape: `${stage.shape}/heights`,
          level,
          extent: stage.extent,
          inPlace: true,
          compute: this.copy,
        })
        reads(heights, this.want(node.heights, level), 'clear')
        reads(stage, heights, 'repeat', (region) => grow(region, 1))
        stage.inPlace = true
        stage.compute = ({ inputs, output }) => lightHeights(kernels, node.lamp, level, inputs[0]!, inputs[1]!, output)
        return
      }
      case 'place':
        return this.place(stage, node, level)
      case 'mirror':
        return mirrorStage(kernels, stage, node, this.want(node.input, level))
      case 'panels':
        if (level > coarsestAt(node) && !this.request.quick) return this.reduce(stage, node, level)
        return panelsStage(kernels, stage, node, this.want(node.input, level), this.request.quick === true)
    }
  }

  /** Computed one level finer and halved: for what would lie at this level. */
  private reduce(stage: Stage, node: Node, level: number): void {
    reads(stage, this.want(node, level - 1), 'repeat', twice)
    stage.reduces = 4
    stage.compute = this.halve
  }

  private async photo(stage: Stage, node: Node & { kind: 'photo' }, level: number): Promise<void> {
    const { photos, kernels } = this.shop
    const info = await photos.info(node.asset)
    if (level >= info.levels) return this.reduce(stage, node, level)
    if (level < 0) {
      reads(stage, this.want(node, level + 1), 'repeat', aroundHalf)
      stage.compute = ({ inputs, output }) => doubleInto(kernels, inputs[0]!, output)
      return
    }
    stage.compute = ({ output, request }) => photos.read(node.asset, info, level, output, request)
  }

  private async ink(stage: Stage, node: Node & { kind: 'ink' }, level: number): Promise<void> {
    // strokes that lie on each other cover a pixel once, and how much of it is known at full size only
    if (level > 0 && !this.request.quick) return this.reduce(stage, node, level)
    const { inks, kernels } = this.shop
    const marks = await inks.marksOf(node.blob, node.extent, node.scale)
    stage.compute = ({ output }) => drawInk(kernels, marks, node.colour, level, output)
  }

  private async mended(stage: Stage, node: MendedNode, level: number): Promise<void> {
    const { planes, kernels, mended } = this.shop
    if (level < 0) {
      reads(stage, this.want(node, level + 1), 'repeat', aroundHalf)
      stage.compute = ({ inputs, output }) => doubleInto(kernels, inputs[0]!, output)
      return
    }
    const use = { plane: await mended.of(node, this.request), blank: CLEAR }
    stage.plane = use
    stage.compute = ({ output, request }) => planes.read(use, level, output, request)
  }

  private async plane(stage: Stage, node: Node & { kind: 'plane' }, level: number): Promise<void> {
    const { planes, kernels } = this.shop
    if (level < 0) {
      reads(stage, this.want(node, level + 1), 'repeat', aroundHalf)
      stage.compute = ({ inputs, output }) => doubleInto(kernels, inputs[0]!, output)
      return
    }
    const plane = node.plane ?? (node.index ? await planes.open(node.index, node.channels) : emptyPlane(node.channels))
    const use = { plane, blank: node.blank }
    stage.plane = use
    stage.compute = ({ output, request }) => planes.read(use, level, output, request)
  }

  private async step(stage: Stage, node: StepNode, level: number): Promise<void> {
    const { kernels, facts, tables } = this.shop
    const { def } = node
    const { quick } = this.request
    if (def.kind === 'table') {
      const { steps, below } = tables.runOf(node)
      const found = new Map<StepNode, unknown>()
      const find = async (request: Request) => {
        for (const n of steps) found.set(n, await facts.of(n, request))
      }
      if (!quick && level > 0) {
        await find(this.request)
        if (level > Math.min(tables.coarsestOf(steps, found), coarsestAt(below))) return this.reduce(stage, node, level)
      } else if (steps.some((n) => n.def.analyse)) stage.prepare = find
      if (steps.some((n) => n.def.analyse)) stage.global = 'facts'
      reads(stage, this.want(below, level), 'never')
      stage.inPlace = true
      stage.compute = ({ inputs, output }) => tables.apply(steps, found, inputs[0]!, output)
      return
    }
    const glance = quick && level > 0 && def.kind === 'sequential' ? def.glance : undefined
    const byRows = !glance && runsByRows(node)
    const own = coarsestOfStep(node)
    const coarsest = byRows ? 0 : def.kind === 'point' ? Math.min(own, coarsestAt(node.input)) : own
    // the picture under a moving hand may lie a little; what must run row by row and has no glance may not
    if (level > coarsest && (!quick || byRows)) return this.reduce(stage, node, level)
    const params = paramsAt(def, node.params, level) as never
    const input = this.want(node.input, level)
    const cells = (def.kind === 'neighbourhood' && (def as NeighbourhoodStep).cells?.(params)) || 1
    const needs = (def as Partial<NeighbourhoodStep>).needs
    // what reaches beyond its input sees nothing there
    const beyond = sameRegion(node.extent, node.input.extent) ? 'repeat' : 'clear'
    if (cells > 1) {
      const toCells = (r: Region): Region => ({ x: r.x / cells, y: r.y / cells, w: r.w / cells, h: r.h / cells })
      reads(stage, this.cellsOf(input, cells, beyond), 'never', (region) => toCells(needs!(region, params, level)))
    } else if (needs) reads(stage, input, beyond, (region) => needs(region, params, level))
    else reads(stage, input, 'never')
    const names = def.kind === 'point' || def.kind === 'planned' ? Object.keys(node.others) : []
    const around = needs && ((region: Region) => needs(region, params, level))
    for (const name of names) reads(stage, this.want(node.others[name]!, level), 'clear', around)
    stage.global = byRows ? 'rows' : def.kind === 'planned' || def.analyse ? 'facts' : null
    stage.dear = def.kind === 'neighbourhood' || def.kind === 'planned' || byRows
    stage.inPlace = def.kind === 'point' || (def.kind === 'sequential' && !byRows)
    const made: { facts: unknown; plan: unknown; planes: Awaited<ReturnType<Facts['planes']>> } = { facts: undefined, plan: undefined, planes: {} }
    if (def.analyse || def.measure || def.kind === 'planned') {
      stage.prepare = async (request) => {
        made.facts = await facts.of(node, request)
        if (def.kind === 'planned') made.plan = await facts.plan(node, made.facts, request)
        made.planes = await facts.planes(node, request)
      }
    }
    if (byRows) stage.sequence = { bytes: (def as SequentialStep).state(stage.extent.w, params), rows: SEQUENCE_ROWS }
    const extent = node.input.extent
    stage.compute = ({ inputs, output, request, state }) => {
      const others = Object.fromEntries(names.map((name, i) => [name, inputs[i + 1]!]))
      const work = { input: inputs[0]!, others, output, kernels, level, quick, facts: made.facts, extent, planes: made.planes, pause: request.pause }
      if (glance) return glance(work, params)
      if (def.kind === 'planned') return def.draw({ ...work, plan: made.plan }, params)
      if (def.kind === 'sequential') return def.run({ ...work, state }, params)
      return def.run(work, params)
    }
  }

  /** A picture reduced to cells of f × f pixels. */
  private cellsOf(input: Stage, f: number, beyond: 'repeat' | 'clear'): Stage {
    const name = `${input.name}/cells ${f} ${beyond}`
    const known = this.stages.get(name)
    if (known) return known
    const { raw } = this.shop.kernels
    const stage = newStage({
      name,
      shape: `${input.shape}/cells ${f} ${beyond}`,
      level: input.level,
      extent: EVERYWHERE,
      pixelBytes: 16,
      reduces: f * f,
      dear: true,
      compute: ({ inputs, output }) => raw.reduceCells(inputs[0]!.ptr, inputs[0]!.stride, f, output.ptr, output.stride, output.region.w, output.region.h),
    })
    this.stages.set(name, stage)
    // the tents of the outermost cells reach a cell further
    reads(stage, input, beyond, (cells) => {
      const { x, y, w, h } = grow(cells, 1)
      return { x: x * f, y: y * f, w: w * f, h: h * f }
    })
    return stage
  }
}

const twice = (r: Region): Region => ({ x: r.x * 2, y: r.y * 2, w: r.w * 2, h: r.h * 2 })

/** What enlarging twice looks at: two pixels more on each side. */
function aroundHalf(r: Region): Region {
  const x = Math.floor(r.x / 2) - 2
  const y = Math.floor(r.y / 2) - 2
  return { x, y, w: Math.ceil((r.x + r.w) / 2) + 2 - x, h: Math.ceil((r.y + r.h) / 2) + 2 - y }
}
