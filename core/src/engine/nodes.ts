import type { Artwork, Mended } from '../artwork/schema.ts'
import type { Region } from '../base/region.ts'
import type { StudyPart } from '../base/study-parts.ts'
import type { Matrix } from '../base/transform.ts'
import type { Span } from '../blend/span.ts'
import type { Channels, Entry, Plane } from '../planes/plane.ts'
import type { AnyStep } from '../steps/contract.ts'
import type { Spot } from '../study/painted.ts'

// What a graph is made of, and how it is gone through.

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
  /** A picture `w` × `h` that begins at (0, 0), in many places. */
  | { kind: 'panels'; input: Node; w: number; h: number; cells: readonly Cell[]; coarsest: number }
  /** A piece of w × h pixels from (0, 0), repeated as in mirrors, from `origin` on. */
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
export interface Mixing {
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

export const maskInputs = (mask: MaskNode | null): Node[] => (mask ? [mask.node] : [])

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
