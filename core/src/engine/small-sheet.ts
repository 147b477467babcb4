import { paintedPlaces, resizeArtwork } from '../artwork/framing.ts'
import { allLayers } from '../artwork/layers.ts'
import type { Artwork, StepUse } from '../artwork/schema.ts'
import { isLaid } from '../steps/contract.ts'
import { stepAt } from '../steps/registry.ts'

/** Long side of the sheet that small pictures of planned techniques are planned on: about four of their pixels one of the picture's. */
export const SMALL_SHEET = 448

/** Whether a step that is on is laid from a study. One that is not known is for others to tell. */
function takesLong({ step, version, on }: StepUse): boolean {
  if (!on) return false
  try {
    return isLaid(stepAt(step, version))
  } catch {
    return false
  }
}

/** Whether anything of it is laid from a study. */
export const isPlanned = (artwork: Pick<Artwork, 'layers'>): boolean => [...allLayers(artwork.layers)].some((l) => l.chain.some(takesLong))

/**
 * The same artwork on a smaller sheet, for a small picture of what it would be: where something is planned and nothing is painted. Techniques look the same at any
 * size, so that the photo's small brother is studied and planned in a fraction of the time; the artwork itself, where it is small enough or needs no plan.
 * @param side pixels that the picture's long side has at least
 */
export function onSmallSheet(artwork: Artwork, side: number): Artwork {
  const { w, h } = artwork.sheet
  const by = Math.max(SMALL_SHEET, side) / Math.max(w, h)
  if (by > 0.7 || !isPlanned(artwork)) return artwork
  // through text: layers may share a source, and each is to have its own
  const small = JSON.parse(JSON.stringify({ ...artwork, area: null, areas: [] })) as Artwork
  if (paintedPlaces(small).length > 0) return artwork
  resizeArtwork(small, Math.max(1, Math.round(w * by)), [])
  // millimetres stay what they are on the print
  small.sheet.ppi *= by
  return small
}
