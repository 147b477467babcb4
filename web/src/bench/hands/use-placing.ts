import {
  allLayers,
  extentOf,
  identity,
  inverse,
  laidCorners,
  linesOf,
  mapped,
  ownExtent,
  pivotOf,
  spaceOf,
  times,
  toSheet,
  union,
  type Artwork,
  type Layer,
  type Line,
  type Matrix,
  type Point,
  type Region,
} from '@nimble-quill/core'
import { useMemo } from 'react'
import { useAct, useApp } from '../../store/store.ts'
import { command } from '../slice.ts'

/** What is placed: one layer in its own pixels, or several together in the sheet's. */
export interface Placing {
  /** As it was when this was found. */
  artwork: Artwork
  layers: readonly Layer[]
  /** What is laid, in its own space. */
  own: Region
  /** From its own space to that in which it is laid, and on from there to the sheet. */
  matrix: Matrix
  within: Matrix
  /** In its own space: what it is turned and measured about. */
  pivot: Point
  /** Corners on the sheet, round it from its own upper left; null where one lies beyond the horizon. */
  corners: readonly [Point, Point, Point, Point] | null
  /** The smallest rectangle round it on the sheet. */
  box: Region
  name: string
}

const NOTHING: Region = { x: 0, y: 0, w: 0, h: 0 }
const boxOnSheet = (artwork: Artwork, layer: Layer): Region => extentOf(toSheet(artwork, layer), ownExtent(artwork, layer)) ?? NOTHING

/** What the hand *Place* acts on: the layers that are chosen. Null where there are none. */
export function placingOf(artwork: Artwork, ids: readonly string[]): Placing | null {
  const all = new Map([...allLayers(artwork.layers)].map((l) => [l.id, l]))
  const layers = ids.flatMap((id) => all.get(id) ?? [])
  if (layers.length === 0) return null
  if (layers.length === 1) {
    const layer = layers[0]!
    const own = ownExtent(artwork, layer)
    const within = spaceOf(artwork.layers, layer.id)
    const matrix = layer.placement.matrix as Matrix
    const way = times(within, matrix)
    return {
      artwork,
      layers,
      own,
      matrix,
      within,
      pivot: pivotOf(layer, own),
      corners: laidCorners(way, own),
      box: extentOf(way, own) ?? NOTHING,
      name: layer.name,
    }
  }
  const box = layers.reduce<Region>((sum, l) => union(sum, boxOnSheet(artwork, l)), NOTHING)
  return {
    artwork,
    layers,
    own: box,
    matrix: identity,
    within: identity,
    pivot: { x: box.x + box.w / 2, y: box.y + box.h / 2 },
    corners: laidCorners(identity, box),
    box,
    name: `${layers.length} layers`,
  }
}

/** A command that lays what is placed by another matrix than it had. */
export function placeCommand({ artwork, layers, matrix: was }: Placing, matrix: Matrix, what: string) {
  if (layers.length === 1) return { type: 'place-layers' as const, layers: [{ layer: layers[0]!.id, matrix }], what }
  const by = times(matrix, inverse(was) ?? identity)
  return {
    type: 'place-layers' as const,
    layers: layers.map((l) => {
      const space = spaceOf(artwork.layers, l.id)
      return { layer: l.id, matrix: times(inverse(space) ?? identity, times(by, times(space, l.placement.matrix as Matrix))) }
    }),
    what,
  }
}

/** Lines that a dragged layer is drawn to: the sheet's edges, middles and thirds, guides, the edges and middles of other layers that are seen. */
export function linesFor(artwork: Artwork, ids: ReadonlySet<string>): Line[] {
  const lines = [...linesOf(artwork.sheet, 'Sheet', true)]
  for (const g of artwork.guides) lines.push({ axis: g.axis === 'upright' ? 'x' : 'y', at: g.at, name: 'Guide' })
  let n = 0
  const visit = (list: readonly Layer[], within: Matrix) => {
    for (const l of list) {
      if (!l.visible || ids.has(l.id) || n > OTHERS) continue
      const box = extentOf(times(within, l.placement.matrix as Matrix), ownExtent(artwork, l))
      // one that fills the sheet has no lines of its own
      const fills = box && box.x === artwork.sheet.x && box.y === artwork.sheet.y && box.w === artwork.sheet.w && box.h === artwork.sheet.h
      if (box && !fills) {
        n++
        lines.push(...linesOf(box, l.name))
      }
      if (l.source.type === 'group') visit(l.source.layers as Layer[], times(within, l.placement.matrix as Matrix))
    }
  }
  visit(artwork.layers, identity)
  return lines
}
/** Layers of which lines are taken. */
const OTHERS = 60

/** The layers that are chosen, the hand's deeds on them. */
export function usePlacing(artwork: Artwork) {
  const act = useAct()
  const choice = useApp((s) => s.bench.choice)
  const also = useApp((s) => s.bench.also)
  const main = choice && choice.type !== 'recipe' ? choice.layer : null
  const placing = useMemo(() => placingOf(artwork, main ? [main, ...also] : also), [artwork, main, also])
  const put = (matrix: Matrix, what: string, gesture?: string, base: Placing | null = placing) => {
    if (!base) return
    const from = gesture ? { gesture: `place.${gesture}` } : {}
    act(command({ command: placeCommand(base, matrix, what), ...from }))
  }
  return { placing, put }
}

/** Where on the sheet what is placed has a point of its own. */
export const onSheet = ({ within, matrix }: Placing, own: Point): Point | null => mapped(times(within, matrix), own)
/** A point of the sheet in the space that it is laid in. */
export const inList = ({ within }: Placing, p: Point): Point => mapped(inverse(within) ?? identity, p) ?? p
