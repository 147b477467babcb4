// Paths: contours of straight and curved pieces in artwork pixels.

export interface PathPoint {
  x: number
  y: number
}
/** A piece goes on from where the one before ended: straight, or a Bézier curve with one or two points that draw it. */
export type Piece = { to: PathPoint } | { via: PathPoint; to: PathPoint } | { via: PathPoint; via2: PathPoint; to: PathPoint }
export interface Contour {
  from: PathPoint
  pieces: readonly Piece[]
}
export type Path = readonly Contour[]

/** Contours as straight edges: points in 1/256 pixel of a level, contour by contour, and how many each has. */
export interface Edges {
  points: Int32Array
  counts: Int32Array
}

/** Parts of a pixel that points are rounded to. */
export const PARTS = 256
/** A curve leaves its chords by no more than this, pixels of the level. */
const OFF = 1 / 128
/** Chords of one curve, at most. */
const MOST = 1024

/** Rounded once to 1/256 artwork pixel, so that all levels begin from the same. */
const rounded = (v: number): number => Math.round(v * PARTS) / PARTS

/**
 * How many chords a curve is drawn with at a scale: by its second differences (Wang, "Determination of the number of segments", in Goldman, "Pyramid algorithms",
 * 2003: n² = d (d − 1) / 8 · |second difference| / tolerance). Decided by comparing, so that every machine decides the same.
 * @param bend the largest second difference, squared, pixels of the level; factor d (d − 1)
 */
function chords(bend: number, factor: number): number {
  // n⁴ = (factor / 8 / OFF)² · bend
  const most = (factor / 8 / OFF) ** 2 * bend
  let n = 1
  while (n < MOST && n * n * n * n < most) n++
  return n
}

const squared = (a: PathPoint, b: PathPoint, c: PathPoint, scale: number): number => {
  const [x, y] = [(a.x - 2 * b.x + c.x) * scale, (a.y - 2 * b.y + c.y) * scale]
  return x * x + y * y
}

/**
 * A path as straight edges at a level: curves cut by their own bend and the level alone, so that any part of any picture is made of the same edges.
 * @param level 0 is full size, n is 1/2ⁿ
 */
export function edgesOf(path: Path, level: number): Edges {
  const scale = 2 ** -level
  const points: number[] = []
  const counts: number[] = []
  const put = (x: number, y: number) => points.push(Math.round(x * scale * PARTS), Math.round(y * scale * PARTS))
  for (const { from, pieces } of path) {
    const before = points.length
    let at = { x: rounded(from.x), y: rounded(from.y) }
    put(at.x, at.y)
    for (const piece of pieces) {
      const to = { x: rounded(piece.to.x), y: rounded(piece.to.y) }
      if ('via2' in piece) {
        const [b, c] = [piece.via, piece.via2].map((p) => ({ x: rounded(p.x), y: rounded(p.y) })) as [PathPoint, PathPoint]
        const n = chords(Math.max(squared(at, b, c, scale), squared(b, c, to, scale)), 6)
        for (let i = 1; i < n; i++) {
          const t = i / n
          const u = 1 - t
          const [wa, wb, wc, wd] = [u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t]
          put(wa * at.x + wb * b.x + wc * c.x + wd * to.x, wa * at.y + wb * b.y + wc * c.y + wd * to.y)
        }
      } else if ('via' in piece) {
        const b = { x: rounded(piece.via.x), y: rounded(piece.via.y) }
        const n = chords(squared(at, b, to, scale), 2)
        for (let i = 1; i < n; i++) {
          const t = i / n
          const u = 1 - t
          const [wa, wb, wc] = [u * u, 2 * u * t, t * t]
          put(wa * at.x + wb * b.x + wc * to.x, wa * at.y + wb * b.y + wc * to.y)
        }
      }
      put(to.x, to.y)
      at = to
    }
    counts.push((points.length - before) / 2)
  }
  return { points: Int32Array.from(points), counts: Int32Array.from(counts) }
}

/** A closed polygon. */
export const polygon = (corners: readonly PathPoint[]): Contour => ({ from: corners[0]!, pieces: corners.slice(1).map((to) => ({ to })) })
