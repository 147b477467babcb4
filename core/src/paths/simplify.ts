import type { PathPoint } from './path.ts'

// Fewer points for the same line.

/** The square of the distance of a point from a piece between two others. */
function apart(p: PathPoint, a: PathPoint, b: PathPoint): number {
  const [dx, dy] = [b.x - a.x, b.y - a.y]
  const long = dx * dx + dy * dy
  const t = long > 0 ? Math.min(1, Math.max(0, ((p.x - a.x) * dx + (p.y - a.y) * dy) / long)) : 0
  const [ex, ey] = [p.x - a.x - t * dx, p.y - a.y - t * dy]
  return ex * ex + ey * ey
}

/**
 * The points of a line that matter: no point that is left out lies further than `off` from the line that stays (Douglas and Peucker, "Algorithms for the reduction of
 * the number of points", Cartographica 10, 1973). Both ends stay. The cost is that of looking at each point once for each halving of the line.
 * @param off in the points' own unit, 0 or more
 */
export function simplified<P extends PathPoint>(line: readonly P[], off: number): P[] {
  if (line.length < 3) return [...line]
  const keeps = new Uint8Array(line.length)
  keeps[0] = keeps[line.length - 1] = 1
  const open: [number, number][] = [[0, line.length - 1]]
  for (let piece = open.pop(); piece; piece = open.pop()) {
    const [from, to] = piece
    let [far, at] = [off * off, -1]
    for (let i = from + 1; i < to; i++) {
      const d = apart(line[i]!, line[from]!, line[to]!)
      if (d > far) [far, at] = [d, i]
    }
    if (at < 0) continue
    keeps[at] = 1
    open.push([from, at], [at, to])
  }
  return line.filter((_, i) => keeps[i])
}

/**
 * A smooth line through points: each piece a cubic whose ends run as their neighbours lie (Catmull and Rom, "A class of local interpolating splines", 1974; centripetal,
 * so that it makes no loops: Yuksel, Schaefer and Keyser 2011).
 */
export function smoothThrough(points: readonly PathPoint[]): { via: PathPoint; via2: PathPoint; to: PathPoint }[] {
  const at = (i: number): PathPoint => {
    if (i >= 0 && i < points.length) return points[i]!
    // beyond its ends the line goes on as it came
    const [a, b] = i < 0 ? [points[0]!, points[1]!] : [points.at(-1)!, points.at(-2)!]
    return { x: 2 * a.x - b.x, y: 2 * a.y - b.y }
  }
  const step = (a: PathPoint, b: PathPoint) => Math.max(1e-6, Math.sqrt(Math.hypot(b.x - a.x, b.y - a.y)))
  return points.slice(1).map((to, k) => {
    const [p0, p1, p2, p3] = [at(k - 1), at(k), to, at(k + 2)]
    const [d1, d2, d3] = [step(p0, p1), step(p1, p2), step(p2, p3)]
    const mixed = (c: 'x' | 'y') => ({
      via: (d1 * d1 * p2[c] - d2 * d2 * p0[c] + (2 * d1 * d1 + 3 * d1 * d2 + d2 * d2) * p1[c]) / (3 * d1 * (d1 + d2)),
      via2: (d3 * d3 * p1[c] - d2 * d2 * p3[c] + (2 * d3 * d3 + 3 * d3 * d2 + d2 * d2) * p2[c]) / (3 * d3 * (d3 + d2)),
    })
    const [x, y] = [mixed('x'), mixed('y')]
    return { via: { x: x.via, y: y.via }, via2: { x: x.via2, y: y.via2 }, to: { x: to.x, y: to.y } }
  })
}
