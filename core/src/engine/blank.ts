import { maskAt, type PlaneAddress } from '../artwork/planes.ts'
import type { Artwork } from '../artwork/schema.ts'
import { CLEAR, EMPTY_TILE, FULL, NEUTRAL, type Entry } from '../planes/plane.ts'

/** What blank tiles of a place are. Throws `unknown-layer`, `unknown-step`. */
export function blankAt(artwork: Artwork, at: PlaneAddress): Entry {
  if (at.part === 'area' || at.part === 'mend') return EMPTY_TILE
  if (at.part === 'paint' || at.part === 'flow') return CLEAR
  if (at.part !== 'mask') return NEUTRAL
  return maskAt(artwork, at.layer, at.step)?.start === 'full' ? FULL : EMPTY_TILE
}
