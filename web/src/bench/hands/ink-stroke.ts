import { simplified, type InkPlace } from '@nimble-quill/core'
import { getStrokePoints } from 'perfect-freehand'

/** What a pen for ink is set to. */
export interface InkPen {
  /** Sheet pixels. */
  breadth: number
  /** What of the breadth pressure decides, 0…1. */
  pressure: number
  /** What of the stroke runs out to a point at each end, 0…1. */
  taper: number
  /** How far tremors are smoothed away, 0…1. */
  steadiness: number
}

/** What was drawn: sheet pixels, and how hard (a half where nothing is pressed). */
export interface Drawn {
  x: number
  y: number
  p: number
}

/** A line may leave what was drawn by this, sheet pixels: less than is seen. */
const OFF = 0.12

/** A drawn line as a stroke of ink, in sheet pixels: smoothed, of the breadth that pressure and taper give it, with as few places as it needs. */
export function inkStroke(drawn: readonly Drawn[], { breadth, pressure, taper, steadiness }: InkPen, pressed: boolean): InkPlace[] {
  const points = getStrokePoints(
    drawn.map(({ x, y, p }) => [x, y, p]),
    { size: breadth, streamline: 0.15 + 0.75 * steadiness, last: true, simulatePressure: false },
  )
  const line: { x: number; y: number; p: number; along: number }[] = []
  for (const { point, pressure: p } of points) {
    const [x, y] = point as [number, number]
    const last = line.at(-1)
    const gone = last ? Math.hypot(x - last.x, y - last.y) : 0
    if (last && gone < 1e-3) continue
    line.push({ x, y, p, along: (last?.along ?? 0) + gone })
  }
  const first = drawn[0]!
  // a touch that hardly moved is a dot
  if (line.length < 2 || drawn.every((d) => Math.hypot(d.x - first.x, d.y - first.y) < 1)) return [{ x: first.x, y: first.y, half: breadth / 2 }]
  const long = line.at(-1)!.along
  const run = taper * Math.min(long / 2, 6 * breadth + long * 0.25)
  const places = line.map(({ x, y, p, along }): InkPlace => {
    const ends = run > 0 ? Math.min(1, along / run, (long - along) / run) : 1
    return { x, y, half: (breadth / 2) * (pressed ? 1 - pressure * (1 - p) : 1) * Math.sqrt(Math.max(0, ends)) }
  })
  return thinned(places)
}

/** Places that a line, or its breadth, bends at. */
export function thinned(places: readonly InkPlace[]): InkPlace[] {
  const kept = new Set(simplified(places, OFF))
  const out: InkPlace[] = []
  places.forEach((p, i) => {
    const last = out.at(-1)
    // where the breadth changes, places stay too
    if (kept.has(p) || i === places.length - 1 || !last || Math.abs(p.half - last.half) > 0.15 * Math.max(0.5, last.half)) out.push(p)
  })
  return out
}

/** A stroke with a place at least so often, ink pixels: what is bent is bent smoothly. */
export function densified(places: readonly InkPlace[], apart = 4): InkPlace[] {
  const out: InkPlace[] = places.slice(0, 1)
  for (let i = 1; i < places.length; i++) {
    const [a, b] = [places[i - 1]!, places[i]!]
    const n = Math.max(1, Math.ceil(Math.hypot(b.x - a.x, b.y - a.y) / apart))
    for (let k = 1; k <= n; k++) {
      const t = k / n
      out.push({ x: a.x + (b.x - a.x) * t, y: a.y + (b.y - a.y) * t, half: a.half + (b.half - a.half) * t })
    }
  }
  return out
}

/** Bends a stroke: the place of a number goes by (dx, dy), those up to the next grips with it, ever less. */
export function bent(places: readonly InkPlace[], at: number, reach: number, dx: number, dy: number): InkPlace[] {
  return places.map((p, i) => {
    const t = Math.abs(i - at) / Math.max(1, reach)
    if (t >= 1) return p
    const by = 0.5 + 0.5 * Math.cos(Math.PI * t)
    return { ...p, x: p.x + dx * by, y: p.y + dy * by }
  })
}

/** Numbers of the places that a stroke is bent by: its ends, and a few between. */
export function grips(places: readonly InkPlace[], most = 9): number[] {
  const n = places.length
  if (n <= 1) return n ? [0] : []
  const count = Math.min(most, n)
  return [...new Set(Array.from({ length: count }, (_, k) => Math.round((k * (n - 1)) / (count - 1))))]
}
