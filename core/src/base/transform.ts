import type { Region } from './region.ts'

// Plane projective maps, as placements are: from a layer's own pixels to the sheet's. Pixel (i, j) covers i … i + 1, j … j + 1.
// The host's sine and its like stand only where a hand's decision becomes a matrix, which is then written down; never where pixels are computed.

/** A 3 × 3 matrix by rows: x′ = (m₀x + m₁y + m₂) / (m₆x + m₇y + m₈), y′ = (m₃x + m₄y + m₅) / (m₆x + m₇y + m₈). */
export type Matrix = readonly [number, number, number, number, number, number, number, number, number]
export interface Point {
  x: number
  y: number
}

export const identity: Matrix = [1, 0, 0, 0, 1, 0, 0, 0, 1]

/** First b, then a. */
export function times(a: Matrix, b: Matrix): Matrix {
  const at = (i: number, j: number) => a[3 * i]! * b[j]! + a[3 * i + 1]! * b[3 + j]! + a[3 * i + 2]! * b[6 + j]!
  return [at(0, 0), at(0, 1), at(0, 2), at(1, 0), at(1, 1), at(1, 2), at(2, 0), at(2, 1), at(2, 2)]
}

export const determinant = (m: Matrix): number => m[0] * (m[4] * m[8] - m[5] * m[7]) - m[1] * (m[3] * m[8] - m[5] * m[6]) + m[2] * (m[3] * m[7] - m[4] * m[6])

/** The way back, its last entry made 1 where it is not 0. Null where the map squeezes the plane to a line or a point. */
export function inverse(m: Matrix): Matrix | null {
  const d = determinant(m)
  if (!(Math.abs(d) > 1e-12)) return null
  const [a, b, c, e, f, g, h, i, j] = m
  const adjoint: Matrix = [
    f * j - g * i,
    c * i - b * j,
    b * g - c * f,
    g * h - e * j,
    a * j - c * h,
    c * e - a * g,
    e * i - f * h,
    b * h - a * i,
    a * f - b * e,
  ]
  const by = adjoint[8] !== 0 ? adjoint[8] : d
  return adjoint.map((v) => v / by) as unknown as Matrix
}

/** Where a point goes; null for one on or behind the horizon (w ≤ 0). */
export function mapped(m: Matrix, { x, y }: Point): Point | null {
  const w = m[6] * x + m[7] * y + m[8]
  return w > HORIZON ? { x: (m[0] * x + m[1] * y + m[2]) / w, y: (m[3] * x + m[4] * y + m[5]) / w } : null
}
/** Nearer to the horizon than this nothing is shown. */
export const HORIZON = 1e-6

export const isAffine = (m: Matrix): boolean => m[6] === 0 && m[7] === 0

const whole = (v: number): boolean => Number.isInteger(v)

/**
 * What computing a placement comes to: nothing; a copy of pixels (whole moves, quarter turns, flips); halving (half the size, on whole pixels);
 * resampling at one level; or at a level a pixel.
 */
export function kindOf(given: Matrix): 'still' | 'copy' | 'half' | 'affine' | 'projective' {
  if (!isAffine(given)) return 'projective'
  const m = given.map((v) => v / given[8])
  const [a, b, c, d, e, f] = m as [number, number, number, number, number, number]
  const turned = a === 0 && e === 0
  const upright = b === 0 && d === 0
  const ones = upright ? [a, e] : turned ? [b, d] : null
  if (!ones || !whole(c) || !whole(f)) return 'affine'
  if (ones.every((v) => Math.abs(v) === 1)) return a === 1 && e === 1 && c === 0 && f === 0 ? 'still' : 'copy'
  return upright && a === 0.5 && e === 0.5 ? 'half' : 'affine'
}

/** Moved by pixels. */
export const moved = (dx: number, dy: number): Matrix => [1, 0, dx, 0, 1, dy, 0, 0, 1]

/** A map about a point: that point stays. */
export const about = ({ x, y }: Point, m: Matrix): Matrix => times(moved(x, y), times(m, moved(-x, -y)))

export const scaled = (sx: number, sy = sx): Matrix => [sx, 0, 0, 0, sy, 0, 0, 0, 1]

/** Turned clockwise on the screen, degrees; quarters exactly. */
export function turned(degrees: number): Matrix {
  const quarter = (((degrees / 90) % 4) + 4) % 4
  const rad = (degrees * Math.PI) / 180
  const [c, s] = whole(quarter) ? [[1, 0, -1, 0][quarter]!, [0, 1, 0, -1][quarter]!] : [Math.cos(rad), Math.sin(rad)]
  return [c, -s, 0, s, c, 0, 0, 0, 1]
}

/** The corners of a region, round it from the upper left, clockwise. */
export const cornersOf = ({ x, y, w, h }: Region): [Point, Point, Point, Point] => [
  { x, y },
  { x: x + w, y },
  { x: x + w, y: y + h },
  { x, y: y + h },
]

/**
 * The smallest region of whole pixels that holds what becomes of a region; of a projective map what lies before the horizon (the outline is clipped
 * where w falls to it, after Sutherland and Hodgman 1974). Null where nothing is seen.
 */
export function extentOf(m: Matrix, region: Region): Region | null {
  const corners = cornersOf(region)
  const depth = ({ x, y }: Point) => m[6] * x + m[7] * y + m[8] - HORIZON * 2
  const seen: Point[] = []
  corners.forEach((p, i) => {
    const q = corners[(i + 1) % 4]!
    const [a, b] = [depth(p), depth(q)]
    if (a >= 0) seen.push(p)
    if (a >= 0 !== b >= 0) seen.push({ x: p.x + ((q.x - p.x) * a) / (a - b), y: p.y + ((q.y - p.y) * a) / (a - b) })
  })
  const places = seen.flatMap((p) => mapped(m, p) ?? [])
  if (places.length === 0) return null
  const [xs, ys] = [places.map((p) => p.x), places.map((p) => p.y)]
  // a whole pixel that is off by rounding alone is none
  const low = (v: number) => Math.floor(v + 1e-7)
  const high = (v: number) => Math.ceil(v - 1e-7)
  const [x0, y0, x1, y1] = [low(Math.min(...xs)), low(Math.min(...ys)), high(Math.max(...xs)), high(Math.max(...ys))]
  return { x: x0, y: y0, w: x1 - x0, h: y1 - y0 }
}

/**
 * The map that takes a region's corners to four others, in their order (Heckbert 1989, "Fundamentals of Texture Mapping and Image Warping", section 2.2.3:
 * unit square to quadrilateral). Null where the four are no convex quadrilateral that runs round the same way.
 */
export function toCorners(region: Region, to: readonly [Point, Point, Point, Point]): Matrix | null {
  if (!isConvex(to)) return null
  const [p0, p1, p2, p3] = to
  const sx = p0.x - p1.x + p2.x - p3.x
  const sy = p0.y - p1.y + p2.y - p3.y
  const [dx1, dy1, dx2, dy2] = [p1.x - p2.x, p1.y - p2.y, p3.x - p2.x, p3.y - p2.y]
  const d = dx1 * dy2 - dx2 * dy1
  const [g, h] = sx === 0 && sy === 0 ? [0, 0] : [(sx * dy2 - dx2 * sy) / d, (dx1 * sy - sx * dy1) / d]
  const unit: Matrix = [p1.x - p0.x + g * p1.x, p3.x - p0.x + h * p3.x, p0.x, p1.y - p0.y + g * p1.y, p3.y - p0.y + h * p3.y, p0.y, g, h, 1]
  const { x, y, w, h: height } = region
  const m = times(unit, [1 / w, 0, -x / w, 0, 1 / height, -y / height, 0, 0, 1])
  return m.map((v) => v / m[8]) as unknown as Matrix
}

/** Whether four points run round a convex quadrilateral, either way: no corner was dragged through a side or its neighbour. */
export function isConvex(points: readonly Point[]): boolean {
  const turns = points.map((p, i) => {
    const q = points[(i + 1) % points.length]!
    const r = points[(i + 2) % points.length]!
    return (q.x - p.x) * (r.y - q.y) - (q.y - p.y) * (r.x - q.x)
  })
  return turns.every((t) => t > 1e-9) || turns.every((t) => t < -1e-9)
}

/** How many of its own pixels a pixel of the sheet stands for at a point, along the way it is most: more than 1 is reduced. */
export function reduction(back: Matrix, at: Point): number {
  const w = back[6] * at.x + back[7] * at.y + back[8]
  const p = mapped(back, at)
  if (!p) return Infinity
  const row = (i: 0 | 3, v: number) => [(back[i] - v * back[6]) / w, (back[i + 1]! - v * back[7]) / w] as const
  const [[a, b], [c, d]] = [row(0, p.x), row(3, p.y)]
  // the larger singular value of the Jacobian
  const [e, f, g, h] = [(a + d) / 2, (a - d) / 2, (c + b) / 2, (c - b) / 2]
  return Math.sqrt(e * e + h * h) + Math.sqrt(f * f + g * g)
}

/** A placement by what a hand decides: where the pivot lies, how far it is scaled, turned and slanted. */
export interface Decided {
  x: number
  y: number
  scaleX: number
  scaleY: number
  /** Degrees clockwise. */
  angle: number
  /** Slant of the upright axis, degrees. */
  slant: number
}

/** An affine placement as decided about a pivot of the layer's own pixels; null for a projective one. */
export function decided(m: Matrix, pivot: Point): Decided | null {
  if (!isAffine(m)) return null
  const [a, b, , c, d] = m.map((v) => v / m[8]) as unknown as Matrix
  const { x, y } = mapped(m, pivot)!
  const scaleX = Math.hypot(a, c)
  const angle = Math.atan2(c, a)
  // what is left once it is turned back: an upper triangle
  const along = (b * a + d * c) / scaleX
  const across = (d * a - b * c) / scaleX
  const degrees = (v: number) => (v * 180) / Math.PI
  return { x, y, scaleX, scaleY: across, angle: degrees(angle), slant: degrees(Math.atan2(along, across < 0 ? -across : across)) * (across < 0 ? -1 : 1) }
}

/** The placement of what was decided about a pivot. */
export function placed({ x, y, scaleX, scaleY, angle, slant }: Decided, pivot: Point): Matrix {
  const shear: Matrix = [1, slant === 0 ? 0 : Math.tan((slant * Math.PI) / 180), 0, 0, 1, 0, 0, 0, 1]
  return times(moved(x, y), times(turned(angle), times(shear, times(scaled(scaleX, scaleY), moved(-pivot.x, -pivot.y)))))
}
