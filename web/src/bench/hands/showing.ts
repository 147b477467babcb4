import { locate, newLayer, type Artwork, type Layer, type Mask, type PlaneAddress } from '@nimble-quill/core'
import type { Showing } from './slice.ts'

/** The layer that shows a mask over the artwork. */
const OVERLAY = 'mask-overlay'
const COLOUR = '#0f6b86'

/** Where the mask stands in what is shown, besides its own place. */
export const shownAt: readonly PlaneAddress[] = [{ layer: OVERLAY, step: null, part: 'mask' }]

/** The artwork with a mask laid over it as a colour where it does not act, or alone, white where it acts. */
export function withMaskShown(artwork: Artwork, { layer, step }: PlaneAddress, showing: Showing): Artwork {
  if (showing === 'picture') return artwork
  const at = locate(artwork.layers, layer).layer
  const mask: Mask = step === null ? at.mask : (at.chain.find((s) => s.id === step)?.mask ?? null)
  if (!mask) return artwork
  if (showing === 'alone') {
    const black: Layer = newLayer('Black', { type: 'fill', colour: '#000000', alpha: 1 }, [], 'mask-ground')
    const white: Layer = { ...newLayer('White', { type: 'fill', colour: '#ffffff', alpha: 1 }, [], OVERLAY), mask }
    // what the artwork is made of stays, unseen: the mask may be kept live from a layer
    return { ...artwork, layers: [...artwork.layers.map((l) => ({ ...l, visible: false })), black, white] }
  }
  const over: Layer = {
    ...newLayer('Mask', { type: 'fill', colour: COLOUR, alpha: 1 }, [], OVERLAY),
    opacity: 0.45,
    mask: { ...mask, turnedRound: !mask.turnedRound },
  }
  return { ...artwork, layers: [...artwork.layers, over] }
}
