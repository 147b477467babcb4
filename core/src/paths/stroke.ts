import type { Contour, PathPoint, Piece } from './path.ts'

// The outline of a line that is drawn with some breadth: one contour, so that its rim is covered once.

/** A place along a line, and how broad it is drawn there. */
export interface StrokePoint extends PathPoint {
  /** Artwork pixels; 0 where it ends in a point. */
  breadth: number
}
export interface StrokeForm {
  /** How it ends. */
  cap: 'round' | 'flat'
  /** How it goes round a corner. */
  join: 'round' | 'pointed'
  /** A pointed corner reaches no further than so many half breadths; beyond it is cut. Common practice: 4, as in SVG 1.1. */
  limit?: number
}

/** An arc of a circle, at most a quarter, as a curve stands off it by less than 0.03 % of the radius (common practice). */
function arcPieces(c: PathPoint, r: number, from: number, by: number): Piece[] {
  const n = Math.max(1, Math.ceil(Math.abs(by) / (Math.PI / 2) - 1e-9))
  const step = by / n
  const k = (4 / 3) * Math.tan(step / 4) * r
  const pieces: Piece[] = []
  for (let i = 0; i < n; i++) {
    const [a, b] = [from + i * step, from + (i + 1) * step]
    const [p, q] = [
      { x: c.x + r * Math.cos(a), y: c.y + r * Math.sin(a) },
      { x: c.x + r * Math.cos(b), y: c.y + r * Math.sin(b) },
    ]
    pieces.push({ via: { x: p.x - k * Math.sin(a), y: p.y + k * Math.cos(a) }, via2: { x: q.x + k * Math.sin(b), y: q.y - k * Math.cos(b) }, to: q })
  }
  return pieces
}

/** By the root, which is exact everywhere: what follows decides. */
const apart = (a: PathPoint, b: PathPoint): number => Math.sqrt((a.x - b.x) ** 2 + (a.y - b.y) ** 2)

const turnOf = (from: number, to: number): number => {
  let by = to - from
  while (by <= -Math.PI) by += 2 * Math.PI
  while (by > Math.PI) by -= 2 * Math.PI
  return by
}

/**
 * The outline of a line through points, each with a breadth. Along a piece the breadth changes evenly.
 * @returns null where there is nothing to draw: no two places apart, or no breadth anywhere
 */
export function outlineOf(line: readonly StrokePoint[], { cap, join, limit = 4 }: StrokeForm): Contour | null {
  const points = line.filter((p, i) => i === 0 || apart(p, line[i - 1]!) > 1e-6)
  if (points.length < 2 || points.every((p) => p.breadth <= 0)) {
    const [only] = points
    if (!only || only.breadth <= 0 || cap !== 'round') return null
    const r = only.breadth / 2
    return { from: { x: only.x + r, y: only.y }, pieces: arcPieces(only, r, 0, 2 * Math.PI) }
  }
  const pieces: Piece[] = []
  let from: PathPoint | null = null
  let at: PathPoint | null = null
  const go = (to: PathPoint) => {
    if (!from) from = to
    else if (apart(to, at!) > 1e-9) pieces.push({ to })
    at = to
  }
  const side = (p: StrokePoint, angle: number): PathPoint => ({ x: p.x + (p.breadth / 2) * Math.cos(angle), y: p.y + (p.breadth / 2) * Math.sin(angle) })
  /** One side, gone along: its normal stands a quarter turn to the left of the way. */
  const along = (list: readonly StrokePoint[]) => {
    for (let i = 0; i < list.length - 1; i++) {
      const [p, q] = [list[i]!, list[i + 1]!]
      const normal = Math.atan2(q.y - p.y, q.x - p.x) - Math.PI / 2
      go(side(p, normal))
      go(side(q, normal))
      const next = list[i + 2]
      if (!next || q.breadth <= 0) continue
      const by = turnOf(normal, Math.atan2(next.y - q.y, next.x - q.x) - Math.PI / 2)
      // on the inner side of a corner both pieces run through each other
      if (by <= 1e-6) continue
      const r = q.breadth / 2
      const reach = 1 / Math.cos(by / 2)
      if (join === 'round') {
        const arc = arcPieces(q, r, normal, by)
        pieces.push(...arc)
        at = arc.at(-1)!.to
      } else if (reach <= limit && reach > 0) go({ x: q.x + r * reach * Math.cos(normal + by / 2), y: q.y + r * reach * Math.sin(normal + by / 2) })
    }
    const [p, q] = [list.at(-2)!, list.at(-1)!]
    if (cap === 'round' && q.breadth > 0) {
      const arc = arcPieces(q, q.breadth / 2, Math.atan2(q.y - p.y, q.x - p.x) - Math.PI / 2, Math.PI)
      pieces.push(...arc)
      at = arc.at(-1)!.to
    }
  }
  along(points)
  along([...points].reverse())
  return { from: from!, pieces }
}
