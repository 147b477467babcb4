import { polygon, type Contour, type Path } from '../paths/path.ts'
import { simplified } from '../paths/simplify.ts'
import type { AreaFrom } from './order.ts'

/** Arcs that an ellipse is drawn by; a cubic arc of an eighth is off by 4 millionths of the radius (Riškus 2006). */
const ARCS = 8
/** How far places of a free hand may be left out, pixels. */
const OFF = 0.25

const ellipse = (x: number, y: number, rx: number, ry: number): Contour => {
  const step = (2 * Math.PI) / ARCS
  const k = (4 / 3) * Math.tan(step / 4)
  const at = (i: number) => ({ c: Math.cos(i * step), s: Math.sin(i * step) })
  const pieces = Array.from({ length: ARCS }, (_, i) => {
    const [p, q] = [at(i), at(i + 1)]
    return {
      via: { x: x + rx * (p.c - k * p.s), y: y + ry * (p.s + k * p.c) },
      via2: { x: x + rx * (q.c + k * q.s), y: y + ry * (q.s - k * q.c) },
      to: { x: x + rx * q.c, y: y + ry * q.s },
    }
  })
  return { from: { x: x + rx, y }, pieces }
}

/** The contour of a rectangle, an ellipse in its box, or an outline; null where it goes round nothing. */
export function outlineOf(from: Extract<AreaFrom, { type: 'rectangle' | 'ellipse' | 'outline' }>): Path | null {
  if (from.type === 'outline') {
    const points = simplified(from.points, OFF)
    return points.length < 3 ? null : [polygon(points)]
  }
  const { x, y, w, h } = from
  if (!(w > 0 && h > 0)) return null
  if (from.type === 'ellipse') return [ellipse(x + w / 2, y + h / 2, w / 2, h / 2)]
  return [
    polygon([
      { x, y },
      { x: x + w, y },
      { x: x + w, y: y + h },
      { x, y: y + h },
    ]),
  ]
}
