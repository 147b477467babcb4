import { grow, union, type Region } from '../base/region.ts'
import { cornersOf, extentOf, identity, kindOf, mapped, times, type Matrix, type Point } from '../base/transform.ts'
import { allLayers, locate } from './layers.ts'
import type { PlaneAddress } from './planes.ts'
import type { Artwork, Layer } from './schema.ts'

// Where layers lie: in their own pixels, in the space of the list they stand in (the sheet's, or a group's), on the sheet.

/**
 * Where what has no size of its own lies (fills, gradients, papers, paint): the first sheet, and the frame, wherever it was moved. So a frame that is drawn in
 * changes nothing within it.
 */
export function groundOf({ sheet: { x, y, w, h }, field }: Pick<Artwork, 'sheet' | 'field'>): Region {
  return union({ x, y, w, h }, field)
}

/** The rectangle that a layer fills in its own space. Of a group, what its layers fill together. */
export function ownExtent(artwork: Pick<Artwork, 'layers' | 'sheet' | 'field'>, layer: Layer): Region {
  const { source } = layer
  const sheet = groundOf(artwork)
  if (source.type === 'photo') return { x: 0, y: 0, ...(source.shown ?? { w: source.width, h: source.height }) }
  if (source.type === 'live') {
    const of = [...allLayers(artwork.layers)].find((l) => l.id === source.layer)
    return of ? ownExtent(artwork, of) : sheet
  }
  if (source.type === 'panels') return source.box ?? sheet
  if (source.type === 'group') {
    const all = source.layers.reduce<Region>((sum, l) => union(sum, laidBox(artwork, l) ?? NOTHING), NOTHING)
    return all.w > 0 ? all : sheet
  }
  return sheet
}
const NOTHING: Region = { x: 0, y: 0, w: 0, h: 0 }

/** The smallest rectangle round a layer where it is laid, in the space of its list; null where nothing of it is seen. */
export function laidBox(artwork: Pick<Artwork, 'layers' | 'sheet' | 'field'>, layer: Layer): Region | null {
  return extentOf(layer.placement.matrix, ownExtent(artwork, layer))
}

/** Its four corners where it is laid, in the space of its list; null where one of them is beyond the horizon. */
export function laidCorners(matrix: Matrix, own: Region): [Point, Point, Point, Point] | null {
  const corners = cornersOf(own).map((p) => mapped(matrix, p))
  return corners.every((p) => p !== null) ? (corners as [Point, Point, Point, Point]) : null
}

/** The way from the space of the list that a layer stands in to the sheet: through all the groups it is in. Identity where it is not there. */
export function spaceOf(layers: readonly Layer[], id: string): Matrix {
  const find = (list: readonly Layer[], within: Matrix): Matrix | null => {
    for (const l of list) {
      if (l.id === id) return within
      const found = l.source.type === 'group' ? find(l.source.layers, times(within, l.placement.matrix)) : null
      if (found) return found
    }
    return null
  }
  return find(layers, identity) ?? identity
}

/** What a layer is turned and measured about, in its own pixels: its pivot, or its middle. */
export function pivotOf(layer: Layer, own: Region): Point {
  return layer.placement.pivot ?? middleOf(own)
}
export const middleOf = ({ x, y, w, h }: Region): Point => ({ x: x + w / 2, y: y + h / 2 })

/** The layer's whole way to the sheet. */
export const toSheet = (artwork: Pick<Artwork, 'layers'>, layer: Layer): Matrix => times(spaceOf(artwork.layers, layer.id), layer.placement.matrix)

/** Whether a layer lies where it lies by itself. */
export const isStill = (layer: Layer): boolean => kindOf(layer.placement.matrix) === 'still'

/** Where a layer of paint can be painted on, in its own space: the sheet; laid elsewhere, without steps that go by its borders, beyond it as well. */
export function paintExtent(artwork: Pick<Artwork, 'sheet' | 'field'>, layer: Layer): Region {
  const ground = groundOf(artwork)
  const { w, h } = ground
  return grow(ground, isStill(layer) || layer.chain.length > 0 ? 0 : Math.max(w, h))
}

/**
 * The space that something is painted in: the way from it to the sheet, and where in it there is something to paint on.
 * @throws QuillError `unknown-layer`
 */
export function planeSpace(artwork: Artwork, at: PlaneAddress): { way: Matrix; within: Region } {
  const sheet = groundOf(artwork)
  if (at.part === 'area') return { way: identity, within: sheet }
  const { layer } = locate(artwork.layers, at.layer)
  const mask = at.part === 'mask' ? (at.step === null ? layer.mask : layer.chain.find((s) => s.id === at.step)?.mask) : null
  if (mask?.stays) return { way: spaceOf(artwork.layers, layer.id), within: sheet }
  const way = toSheet(artwork, layer)
  if (at.part === 'paint') return { way, within: paintExtent(artwork, layer) }
  return { way, within: kindOf(way) === 'still' ? sheet : ownExtent(artwork, layer) }
}
