import type { PathPoint } from './path.ts'
import { simplified, smoothThrough } from './simplify.ts'

// taken once: loops over points look nothing up
const { ceil, max, min, sqrt } = Math

/** A line whose places are each the mean of those about it (weights of a Gaussian along it); its ends stay. */
export function evenedLine<P extends { x: number; y: number }>(points: readonly P[], sigma: number, closed: boolean): P[] {
  const r = ceil(2 * sigma)
  if (r < 1 || points.length < 3) return [...points]
  const weights = Array.from({ length: r + 1 }, (_, k) => 1 / (1 + (k / sigma) ** 2) ** 2)
  const n = points.length
  return points.map((p, i) => {
    // towards an open end the window shrinks, so that the end stays where it is
    const most = closed ? r : min(r, i, n - 1 - i)
    let [sx, sy, sum] = [0, 0, 0]
    for (let k = -most; k <= most; k++) {
      const q = points[closed ? (i + k + n) % n : i + k]!
      const weight = weights[k < 0 ? -k : k]!
      sx += q.x * weight
      sy += q.y * weight
      sum += weight
    }
    return { ...p, x: sx / sum, y: sy / sum }
  })
}

/**
 * A line as a sure hand draws it: what shaking a search has left is gone. Its places are evened, those that matter kept (Douglas and Peucker 1973), and a smooth
 * line is laid through them (Catmull and Rom 1974), with a place about every pixel. Ends stay; no place is further than twice `off` from where it was on the evened line.
 * @param sigma how far places are evened along the line, pixels
 * @param off how far the line may lie beside what was found, pixels
 */
export function fairLine<P extends PathPoint>(points: readonly P[], sigma: number, off: number, closed: boolean): P[] {
  const line = evenedLine(points, sigma, closed)
  // a ring has no ends to hold on to
  if (closed || line.length < 6) return line
  const places = new Map(line.map((p, i) => [p, i]))
  const kept = simplified(line, off)
  const out: P[] = [line[0]!]
  smoothThrough(kept).forEach(({ via, via2, to }, k) => {
    const [a, first, last] = [kept[k]!, places.get(kept[k]!)!, places.get(kept[k + 1]!)!]
    const n = last - first
    for (let i = 1; i <= n; i++) {
      const t = i / n
      const [b0, b1, b2, b3] = [(1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t ** 3]
      const found = line[first + i]!
      const [dx, dy] = [b0 * a.x + b1 * via.x + b2 * via2.x + b3 * to.x - found.x, b0 * a.y + b1 * via.y + b2 * via2.y + b3 * to.y - found.y]
      const held = min(1, (2 * off) / max(1e-9, sqrt(dx * dx + dy * dy)))
      out.push({ ...found, x: found.x + dx * held, y: found.y + dy * held })
    }
  })
  return out
}
