import { clampTo, intersect, isEmpty, type Region } from '../base/region.ts'
import type { Pic } from '../steps/contract.ts'
import type { PlaneUse } from './planes.ts'
import type { Request } from './request.ts'
import type { Kept } from './store.ts'

// A stage is one node of a graph at one level, in one request: what it reads, where, and the kernel calls that make its pixels.

/** How a stage reads another. */
export interface Edge {
  from: Stage
  to: Stage
  /** What of `from` is looked at for a region of `to`; a larger region never needs less. */
  need: (region: Region) => Region
  /** `need` gives back the region it is given. */
  samePlace: boolean
  /** It is laid elsewhere: `turned` where the rows of `to` do not go down those of `from`, so that all of them are needed at once. */
  laid: { turned: boolean } | null
  /** What is seen beyond the pixels of `from`: nothing is looked at there, it is clear, or its border is repeated. */
  beyond: 'never' | 'clear' | 'repeat'
  /** Something is read through it in this request. */
  asked: boolean
}

/** What the pixels of a stage are made of. */
export interface StageWork {
  /** As asked for by the stage's edges, in their order. */
  inputs: readonly Pic[]
  /** Where the pixels go; one of the inputs for a stage that works in place. */
  output: Pic
  request: Request
  /** Of a stage that goes row by row: the address of what is carried from row to row. */
  state: number
}

export interface Stage {
  /** Same name, same pixels. */
  name: string
  level: number
  /** Where it has pixels, at its level. */
  extent: Region
  /** Bytes a pixel: 8, or 16 for cells of floats. */
  pixelBytes: number
  /** Pixels looked at for one pixel, where it reduces. */
  reduces: number
  inputs: Edge[]
  readers: Edge[]
  /** May write its result over its input. */
  inPlace: boolean
  /** The plane it shows. */
  plane: PlaneUse | null
  /** Its pixels anywhere go by all of what it reads: by facts and plans, or by the rows before. */
  global: 'facts' | 'rows' | null
  /** As the name, but without what was painted. */
  shape: string
  /** Worth keeping for the next request: others read round about in it, or it took long itself. */
  dear: boolean
  /** Of a stage that goes row by row from the top: what it carries, and how many rows at once. */
  sequence: { bytes: number; rows: number } | null
  /** Facts, plans and the like, made before the first pixel. */
  prepare: ((request: Request) => Promise<void>) | null
  compute: (work: StageWork) => void | Promise<void>

  // what of it one request asks for

  /** What is needed of it. */
  region: Region
  /** Edges of readers that are computed in this request. */
  asked: Edge[]
  /** Rows that are held while they are needed; null for a stage whose only reader takes its pixels at once. */
  window: Window | null
  /** The stage with a window that it is computed with; itself, where it has one. */
  head: Stage | null
  /** Stages computed together with it, inputs first, itself last. */
  segment: Stage[]
  /** Milliseconds that its own kernel calls took. */
  ms: number
}

/** Rows of a stage in memory, from `top` to `hi`. */
export interface Window {
  ptr: number
  stride: number
  /** Columns of the border repeated on the left and the right of the region. */
  left: number
  right: number
  /** Rows there is room for. */
  rows: number
  top: number
  hi: number
  /** The whole region is held, for the requests that come. */
  whole: boolean
  kept: Kept | null
}

export const NOWHERE: Region = { x: 0, y: 0, w: 0, h: 0 }

export function newStage(given: Pick<Stage, 'name' | 'level' | 'extent' | 'compute'> & Partial<Stage>): Stage {
  return {
    pixelBytes: 8,
    reduces: 1,
    inputs: [],
    readers: [],
    inPlace: false,
    dear: false,
    plane: null,
    global: null,
    shape: given.name,
    sequence: null,
    prepare: null,
    region: NOWHERE,
    asked: [],
    window: null,
    head: null,
    segment: [],
    ms: 0,
    ...given,
  }
}

const same = (region: Region) => region

/** Lets a stage read another; `need` where it looks elsewhere than at the same place. */
export function reads(to: Stage, from: Stage, beyond: Edge['beyond'], need?: Edge['need'], laid: Edge['laid'] = null): void {
  const edge: Edge = { from, to, need: need ?? same, samePlace: !need, laid, beyond, asked: false }
  to.inputs.push(edge)
  from.readers.push(edge)
}

/** What of the pixels that there are is looked at for a region. */
export function seen(edge: Edge, region: Region): Region {
  const need = edge.need(region)
  return edge.beyond === 'repeat' ? (isEmpty(edge.from.extent) ? NOWHERE : clampTo(need, edge.from.extent)) : intersect(need, edge.from.extent)
}

/** Everything a stage is made of and itself, readers before what they read. */
export function readersFirst(root: Stage): Stage[] {
  const waiting = new Map<Stage, number>()
  const open = [root]
  const found = new Set([root])
  for (let s = open.pop(); s; s = open.pop()) {
    for (const { from } of s.inputs) {
      waiting.set(from, (waiting.get(from) ?? 0) + 1)
      if (found.has(from)) continue
      found.add(from)
      open.push(from)
    }
  }
  const order: Stage[] = []
  const ready = [root]
  for (let s = ready.pop(); s; s = ready.pop()) {
    order.push(s)
    for (const { from } of s.inputs) {
      const left = waiting.get(from)! - 1
      waiting.set(from, left)
      if (left === 0) ready.push(from)
    }
  }
  return order
}
