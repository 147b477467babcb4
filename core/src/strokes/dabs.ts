import { mapped, type Matrix } from '../base/transform.ts'
import type { Brush, Symmetry } from './brush.ts'
import type { Point } from './path.ts'
import { dealt, tips } from './tips.ts'

/** One touch of a brush: artwork pixels. */
export interface Dab {
  x: number
  y: number
  /** Half its length and breadth. */
  rx: number
  ry: number
  /** Its long axis, a unit vector. */
  cos: number
  sin: number
  /** The way the stroke goes there, a unit vector. */
  dx: number
  dy: number
  /** Soft share of its radius. */
  soft: number
  cover: number
  /** From which height its hairs take. */
  face: number
  /** From which height the ground takes. */
  ground: number
}

/** A brush in artwork pixels. */
export interface Sized extends Omit<Brush, 'breadth'> {
  breadth: number
}

/** Shortest way between two dabs, pixels. */
const CLOSEST = 0.5
/** What the lightest touch leaves of what pressure decides. */
const LIGHTEST = 0.05

/** How pressure is taken. */
export function answered(p: number, response: Brush['pressure']['response']): number {
  if (response === 'even') return p
  return response === 'gentle' ? p * (2 - p) : p * p
}

/** How hairs lift and touch along the way (breadths), 0…1. */
function lifts(along: number): number {
  const at = Math.floor(along)
  const t = along - at
  const [a, b] = [dealt(at, 8, 7) / 2 ** 32, dealt(at + 1, 8, 7) / 2 ** 32]
  return a + (b - a) * t * t * (3 - 2 * t)
}

/** The dab of a brush at the n-th place of its line, and the pixels to the next place. */
export function dabAt(brush: Sized, at: Point, n: number): { dab: Dab; next: number } {
  const tip = tips[brush.tip]
  const p = LIGHTEST + (1 - LIGHTEST) * answered(at.p, brush.pressure.response)
  const loose = 1 - brush.regularity
  const chance = (k: number) => dealt(n, k, 7) / 2 ** 32
  const size = (1 - brush.pressure.breadth * (1 - p)) * (1 - loose * 0.5 * chance(1))
  const breadth = Math.max(1, brush.breadth * size)
  const stray = (tip.strays + loose * 0.3) * breadth
  // how dry: full at first, nothing at the end
  const left = brush.dry > 0 ? Math.max(0, 1 - at.along / (brush.dry * brush.breadth)) : 1
  let [cos, sin] = [at.dx, at.dy]
  if (tip.rolls) [cos, sin] = turnOf(chance(2))
  else if (brush.turn === 'fixed') [cos, sin] = wayOf(brush.angle)
  else if (brush.turn === 'tilt') {
    const length = Math.sqrt(at.tiltX * at.tiltX + at.tiltY * at.tiltY)
    if (length > 0) [cos, sin] = [at.tiltX / length, at.tiltY / length]
    else [cos, sin] = wayOf(brush.angle)
  }
  // a chisel that lies by the way goes across it
  if (brush.turn === 'way' && !tip.rolls && tip.aspect < 1) [cos, sin] = [-sin, cos]
  const radius = breadth / 2
  // a rim of a pixel at least, so that it is not a staircase
  const soft = Math.min(1, Math.max(1 / radius, (1 - brush.edge) * tip.softness))
  const dry = 1 - left
  return {
    dab: {
      x: at.x + (chance(3) - 0.5) * 2 * stray,
      y: at.y + (chance(4) - 0.5) * 2 * stray,
      rx: radius,
      ry: Math.max(0.5, radius * tip.aspect),
      cos,
      sin,
      dx: at.dx,
      dy: at.dy,
      soft,
      cover: brush.cover * (1 - brush.pressure.cover * (1 - p)) * (left > 0 ? 1 : 0),
      face: brush.hairs * (0.55 + 0.25 * (1 - p) + (tip.rolls ? 0 : 0.3 * (lifts(at.along / brush.breadth) - 0.5))) + dry * 0.5,
      ground: (tip.ground ? 0.35 * (1 - 0.5 * p) : 0) + brush.tooth * (0.6 - 0.35 * p) + (tip.ground || brush.tooth > 0 ? dry * 0.5 : 0),
    },
    next: Math.max(CLOSEST, breadth / tip.dabs) * (1 + loose * (chance(5) - 0.5)),
  }
}

/** Cosine and sine by which tips turn: rational points of the circle, so that no machine rounds them otherwise. */
function turnOf(t: number): [number, number] {
  // the half-angle's tangent −1…1 gives a half of the circle; the other half by the sign
  const u = (t * 2) % 1
  const h = 2 * u - 1
  const d = 1 + h * h
  const sign = t < 0.5 ? 1 : -1
  return [(sign * (1 - h * h)) / d, (sign * 2 * h) / d]
}

const ways = new Map<number, [number, number]>()
/** A unit vector at an angle in degrees, counter-clockwise as seen (rows go down). By series, not by the host. */
export function wayOf(degrees: number): [number, number] {
  const known = ways.get(degrees)
  if (known) return known
  let rest = degrees % 360
  if (rest < 0) rest += 360
  let [cos, sin] = [1, 0]
  // quarters exactly, then the rest by its Taylor series
  const quarters = Math.floor(rest / 90)
  const x = ((rest - quarters * 90) * 3.141592653589793) / 180
  let [c, s, term] = [1, 0, 1]
  for (let k = 1; k < 20; k++) {
    term = (term * x) / k
    const sign = k % 4 < 2 ? 1 : -1
    if (k % 2) s += sign * term
    else c += sign * term
  }
  ;[cos, sin] = [c, s]
  for (let q = 0; q < quarters; q++) [cos, sin] = [-sin, cos]
  const way: [number, number] = [cos, -sin]
  ways.set(degrees, way)
  return way
}

/**
 * What a dab is where a map sends it: its middle by the map, its ellipse by the map's derivative there (the axes are those of the image ellipse: half the
 * sum of squares and its deviation). None beyond the horizon. Only + − × ÷ √.
 */
export function dabThrough(m: Matrix, dab: Dab): Dab[] {
  const at = mapped(m, dab)
  if (!at) return []
  const w = m[6] * dab.x + m[7] * dab.y + m[8]
  const [a, b, c, d] = [(m[0] - at.x * m[6]) / w, (m[1] - at.x * m[7]) / w, (m[3] - at.y * m[6]) / w, (m[4] - at.y * m[7]) / w]
  // the images of its half axes
  const [px, py] = [(a * dab.cos + b * dab.sin) * dab.rx, (c * dab.cos + d * dab.sin) * dab.rx]
  const [qx, qy] = [(-a * dab.sin + b * dab.cos) * dab.ry, (-c * dab.sin + d * dab.cos) * dab.ry]
  const [xx, xy, yy] = [px * px + qx * qx, px * py + qx * qy, py * py + qy * qy]
  const [mean, half] = [(xx + yy) / 2, (xx - yy) / 2]
  const far = Math.sqrt(half * half + xy * xy)
  const [rx, ry] = [Math.sqrt(mean + far), Math.sqrt(Math.max(0, mean - far))]
  // along the larger one; a circle keeps the way it had
  let [ux, uy] = half >= 0 ? [half + far, xy] : [xy, far - half]
  if (far < mean * 1e-9) [ux, uy] = [px, py]
  const length = Math.sqrt(ux * ux + uy * uy)
  if (!(rx > 0 && length > 0)) return []
  const [wx, wy] = [a * dab.dx + b * dab.dy, c * dab.dx + d * dab.dy]
  const speed = Math.sqrt(wx * wx + wy * wy) || 1
  // its soft rim is a pixel wide at least
  return [
    {
      ...dab,
      x: at.x,
      y: at.y,
      rx,
      ry: Math.max(0.5, ry),
      cos: ux / length,
      sin: uy / length,
      dx: wx / speed,
      dy: wy / speed,
      soft: Math.min(1, Math.max(dab.soft, 1 / Math.max(1, rx))),
    },
  ]
}

/** A dab with its images by symmetry, itself first. */
export function repeated(dab: Dab, symmetry: Symmetry): Dab[] {
  if (symmetry.type === 'none') return [dab]
  const [ox, oy] = [dab.x - symmetry.x, dab.y - symmetry.y]
  if (symmetry.type === 'mirror') {
    const [ax, ay] = wayOf(symmetry.angle)
    const mirrored = (x: number, y: number): [number, number] => {
      const d = 2 * (x * ax + y * ay)
      return [d * ax - x, d * ay - y]
    }
    const [x, y] = mirrored(ox, oy)
    const [cos, sin] = mirrored(dab.cos, dab.sin)
    const [dx, dy] = mirrored(dab.dx, dab.dy)
    return [dab, { ...dab, x: symmetry.x + x, y: symmetry.y + y, cos, sin, dx, dy }]
  }
  return Array.from({ length: symmetry.n }, (_, i) => {
    const [c, s] = wayOf((360 / symmetry.n) * i)
    const turned = (x: number, y: number): [number, number] => [x * c - y * s, x * s + y * c]
    const [[x, y], [cos, sin], [dx, dy]] = [turned(ox, oy), turned(dab.cos, dab.sin), turned(dab.dx, dab.dy)]
    return { ...dab, x: symmetry.x + x, y: symmetry.y + y, cos, sin, dx, dy }
  })
}
