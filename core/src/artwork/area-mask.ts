import { kindOf } from '../base/transform.ts'
import { locate } from './layers.ts'
import { newMask } from './planes.ts'
import type { Artwork, Mask, StepUse } from './schema.ts'
import { spaceOf, toSheet } from './spaces.ts'

/**
 * A mask that lets a layer or its steps act in the area alone: it rides with a layer that lies where it lies by itself, and stays on the sheet under one that is laid
 * elsewhere. Null where there is no area, or where the layer's group is laid elsewhere: there the area would have to be painted anew.
 * Throws `unknown-layer`.
 */
export function areaMask(artwork: Artwork, id: string): Mask {
  if (!artwork.area) return null
  const { layer } = locate(artwork.layers, id)
  const rides = kindOf(toSheet(artwork, layer)) === 'still'
  if (!rides && kindOf(spaceOf(artwork.layers, id)) !== 'still') return null
  return { ...newMask('empty'), plane: artwork.area, stays: !rides }
}

/** The mask of a group that is about to be laid on the sheet: the area, where there is one. */
export const groupInArea = ({ area }: Artwork): Mask => (area ? { ...newMask('empty'), plane: area } : null)

/** A step that is about to be added, acting in the area where there is one. */
export function withinArea(artwork: Artwork, layer: string, step: StepUse): StepUse {
  return step.mask ? step : { ...step, mask: areaMask(artwork, layer) }
}
