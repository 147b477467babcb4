import { inverse, kindOf, locate, newLayer, planeSpace, type Artwork, type Layer, type Mask, type PlaneAddress } from '@nimble-quill/core'
import type { Showing } from './slice.ts'

/** The layer that shows a mask over the artwork. */
const OVERLAY = 'mask-overlay'
const COLOUR = '#0f6b86'

/** Where the mask stands in what is shown, besides its own place. */
export const shownAt: readonly PlaneAddress[] = [{ layer: OVERLAY, step: null, part: 'mask' }]

/** The artwork with a mask laid over it as a colour where it does not act, or alone, white where it acts. */
export function withMaskShown(artwork: Artwork, address: PlaneAddress, showing: Showing): Artwork {
  if (showing === 'picture') return artwork
  const { layer, step } = address
  const at = locate(artwork.layers, layer).layer
  const mask: Mask = step === null ? at.mask : (at.chain.find((s) => s.id === step)?.mask ?? null)
  if (!mask) return artwork
  if (showing === 'alone') {
    const black: Layer = newLayer('Black', { type: 'fill', colour: '#000000', alpha: 1 }, [], 'mask-ground')
    const white: Layer = {
      ...laidAs(artwork, address, newLayer('White', { type: 'fill', colour: '#ffffff', alpha: 1 }, [], OVERLAY)),
      mask: { ...mask, stays: false },
    }
    // what the artwork is made of stays, unseen: the mask may be kept live from a layer
    return { ...artwork, layers: [...artwork.layers.map((l) => ({ ...l, visible: false })), black, white] }
  }
  const over: Layer = {
    ...laidAs(artwork, address, newLayer('Mask', { type: 'fill', colour: COLOUR, alpha: 1 }, [], OVERLAY)),
    opacity: 0.45,
    mask: { ...mask, stays: false, turnedRound: !mask.turnedRound },
  }
  return { ...artwork, layers: [...artwork.layers, over] }
}

/** A fill of the sheet, whose mask lies as one does that is painted elsewhere: in a group that is laid so, laid back again. */
function laidAs(artwork: Artwork, at: PlaneAddress, fill: Layer): Layer {
  const { way } = planeSpace(artwork, at)
  const back = kindOf(way) === 'still' ? null : inverse(way)
  if (!back) return fill
  const placement = (matrix: typeof way): Layer['placement'] => ({ matrix: [...matrix], pivot: null })
  const inside: Layer = { ...fill, id: `${OVERLAY}-fill`, placement: placement(back) }
  return { ...newLayer(fill.name, { type: 'group', isolated: true, layers: [inside] }, [], OVERLAY), placement: placement(way) }
}
