import type { Region } from '../base/region.ts'
import type { InkPlace } from './ink.ts'

/** How lines grow thinner with depth: which side of the sheet is far, and what of their breadth is left there, 0…1. */
export interface Depth {
  far: 'above' | 'below' | 'left' | 'right'
  left: number
}

/**
 * What of its breadth a line has at a place: all of it at the near side of a frame, less and less towards the far one (in a picture of a plain, things grow smaller in
 * proportion to how near they are to the horizon).
 * @param frame what the ramp goes over; beyond it it stays as at its side
 */
export function depthAt({ far, left }: Depth, { x, y, w, h }: Region, p: { x: number; y: number }): number {
  const [across, down] = [(p.x - x) / w, (p.y - y) / h]
  const near = { above: down, below: 1 - down, left: across, right: 1 - across }[far]
  return left + (1 - left) * Math.min(1, Math.max(0, near))
}

/** Places of a line with the breadths that they have by their depth. @param at where a place lies in the frame */
export const withDepth = (places: readonly InkPlace[], depth: Depth, frame: Region, at: (p: InkPlace) => { x: number; y: number } | null): InkPlace[] =>
  places.map((p) => {
    const q = at(p)
    return q ? { ...p, half: p.half * depthAt(depth, frame, q) } : p
  })
