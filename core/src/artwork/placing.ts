import type { Region } from '../base/region.ts'
import {
  about,
  cornersOf,
  decided,
  determinant,
  extentOf,
  identity,
  inverse,
  isAffine,
  isConvex,
  mapped,
  moved,
  placed,
  scaled,
  times,
  toCorners,
  turned,
  type Matrix,
  type Point,
} from '../base/transform.ts'
import { laidCorners, middleOf } from './spaces.ts'

// What a hand does to a placement. All points are in the space of the layer's list, but those called own.

/** What the sentence is where a corner is dragged so that `cornerTo` finds nothing. */
export const FOLDS = 'A corner cannot pass a side or its neighbour: the picture would fold over. It stays where it was.'

/** Upright and turned by quarters, a layer lies on whole pixels: so that copies are exact, and halves are halved. Others lie anywhere. */
export function tidied(m: Matrix): Matrix {
  if (!isAffine(m)) return m
  const [a, b, c, d, e, f] = m.map((v) => v / m[8]) as unknown as Matrix
  const straight = (b === 0 && d === 0) || (a === 0 && e === 0)
  return straight ? [a, b, Math.round(c) + 0, d, e, Math.round(f) + 0, 0, 0, 1] : [a, b, c, d, e, f, 0, 0, 1]
}

/** Moved by pixels of its list's space; upright ones by whole pixels. */
export const movedBy = (m: Matrix, dx: number, dy: number): Matrix => tidied(times(moved(dx, dy), m))

/**
 * Scaled so that a point of its own comes to lie under the hand, while another stays.
 * @param axes both, keeping their ratio or not; or one
 * @returns null where it would be squeezed to nothing, or folded over
 */
export function scaledTo(m: Matrix, stays: Point, grip: Point, to: Point, axes: 'ratio' | 'both' | 'x' | 'y'): Matrix | null {
  const back = inverse(m)
  const at = back && mapped(back, to)
  if (!at) return null
  const [dx, dy] = [grip.x - stays.x, grip.y - stays.y]
  let [sx, sy] = [dx ? (at.x - stays.x) / dx : 1, dy ? (at.y - stays.y) / dy : 1]
  if (axes === 'ratio') sx = sy = ((at.x - stays.x) * dx + (at.y - stays.y) * dy) / (dx * dx + dy * dy)
  if (axes === 'x') sy = 1
  if (axes === 'y') sx = 1
  if (!(sx > 0 && sy > 0)) return null
  const next = tidied(times(m, about(stays, scaled(sx, sy))))
  return usable(next) ? next : null
}

/** Turned about a point that stays, from where the hand took hold to where it is. @param step degrees that the angle is a multiple of; 0: any */
export function turnedTo(m: Matrix, pivot: Point, from: Point, to: Point, step: number): Matrix {
  const angle = (p: Point) => (Math.atan2(p.y - pivot.y, p.x - pivot.x) * 180) / Math.PI
  let by = angle(to) - angle(from)
  if (step > 0) {
    const is = isAffine(m) ? decided(m, { x: 0, y: 0 })!.angle : 0
    by = Math.round((is + by) / step) * step - is
  }
  return turnedBy(m, pivot, by)
}

/** Turned about a point that stays, degrees clockwise. */
export function turnedBy(m: Matrix, pivot: Point, degrees: number): Matrix {
  const next = times(about(pivot, turned(degrees)), m)
  if (!isAffine(next)) return next
  // what is upright but for rounding is upright
  const near = (v: number) => (Math.abs(v) < 1e-9 * Math.max(...[0, 1, 3, 4].map((i) => Math.abs(next[i]!))) ? 0 : v)
  return tidied(next.map((v, i) => ([0, 1, 3, 4].includes(i) ? near(v) : v)) as unknown as Matrix)
}

/** Flipped about a point that stays: left to right, or top to bottom. */
export const flipped = (m: Matrix, pivot: Point, way: 'across' | 'down'): Matrix =>
  tidied(times(about(pivot, way === 'across' ? scaled(-1, 1) : scaled(1, -1)), m))

/**
 * One corner dragged by itself, the others stay: in perspective.
 * @param corner 0 … 3, round it from its own upper left
 * @returns null where it would fold over: a corner dragged through a side or its neighbour
 */
export function cornerTo(m: Matrix, own: Region, corner: number, to: Point): Matrix | null {
  const corners = laidCorners(m, own)
  if (!corners) return null
  const next = corners.map((p, i) => (i === corner ? to : p)) as [Point, Point, Point, Point]
  const found = toCorners(own, next)
  return found && isConvex(next) && usable(found) ? found : null
}

/** Without its perspective: the parallelogram that touches it at its middle. */
export function withoutPerspective(m: Matrix, own: Region): Matrix {
  if (isAffine(m)) return m
  const at = middleOf(own)
  const p = mapped(m, at)
  if (!p) return identity
  const w = m[6] * at.x + m[7] * at.y + m[8]
  const [a, b, d, e] = [(m[0] - p.x * m[6]) / w, (m[1] - p.x * m[7]) / w, (m[3] - p.y * m[6]) / w, (m[4] - p.y * m[7]) / w]
  return tidied([a, b, p.x - a * at.x - b * at.y, d, e, p.y - d * at.x - e * at.y, 0, 0, 1])
}

/** Laid into a rectangle whole, or so that it covers it; in the middle. */
export function fittedInto(own: Region, into: Region, way: 'inside' | 'cover'): Matrix {
  const [sx, sy] = [into.w / own.w, into.h / own.h]
  const s = way === 'inside' ? Math.min(sx, sy) : Math.max(sx, sy)
  const [p, q] = [middleOf(own), middleOf(into)]
  return tidied([s, 0, q.x - p.x * s, 0, s, q.y - p.y * s, 0, 0, 1])
}

/** A placement of exactly such a scale, turn and slant, about a point of its own that stays where it is laid. */
export function decidedAs(
  m: Matrix,
  pivotOwn: Point,
  change: Partial<{ x: number; y: number; scaleX: number; scaleY: number; angle: number; slant: number }>,
): Matrix | null {
  const now = decided(m, pivotOwn)
  if (!now) return null
  const next = placed({ ...now, ...change }, pivotOwn)
  const exact = turnedBy(next, { x: change.x ?? now.x, y: change.y ?? now.y }, 0)
  return usable(exact) ? exact : null
}

/** Whether a placement squeezes nothing to a line or a point. */
export const usable = (m: Matrix): boolean => m.every(Number.isFinite) && Math.abs(determinant(m)) > 1e-12

/** Why a layer cannot be laid so, in a sentence; null where it can. */
export function refused(m: Matrix, own: Region, name: string): string | null {
  const left = `“${name}” is left where it was.`
  if (!usable(m)) return `A layer has some width and some height: at 0 px it could not be seen or taken hold of again. ${left}`
  const corners = cornersOf(own).map((p) => mapped(m, p))
  const laid = extentOf(m, own)
  if (!laid) return `All of it would lie beyond the horizon. ${left}`
  if (corners.every((p) => p !== null)) {
    const side = (i: number, k: number) => Math.hypot(corners[k]!.x - corners[i]!.x, corners[k]!.y - corners[i]!.y)
    if (Math.max(side(0, 1), side(3, 2)) < LEAST || Math.max(side(0, 3), side(1, 2)) < LEAST) return `A layer is at least half a pixel wide and high. ${left}`
    if (Math.max(side(0, 1), side(3, 2), side(0, 3), side(1, 2)) > MOST) return `A layer is at most ${MOST / 1000} thousand pixels wide and high. ${left}`
  }
  return null
}
const LEAST = 0.5
const MOST = 400_000

export type Alignment = 'left' | 'centre' | 'right' | 'top' | 'middle' | 'bottom'

/** How far each of some boxes is moved so that all lie along one line of a rectangle. */
export function aligned(boxes: readonly Region[], to: Region, how: Alignment): { dx: number; dy: number }[] {
  return boxes.map((b) => ({
    dx: how === 'left' ? to.x - b.x : how === 'right' ? to.x + to.w - b.x - b.w : how === 'centre' ? to.x + to.w / 2 - b.x - b.w / 2 : 0,
    dy: how === 'top' ? to.y - b.y : how === 'bottom' ? to.y + to.h - b.y - b.h : how === 'middle' ? to.y + to.h / 2 - b.y - b.h / 2 : 0,
  }))
}

/** How far each of some boxes is moved so that the gaps between them are even; the outermost stay. */
export function distributed(boxes: readonly Region[], way: 'across' | 'down'): { dx: number; dy: number }[] {
  const [from, size] = way === 'across' ? (['x', 'w'] as const) : (['y', 'h'] as const)
  const order = boxes.map((_, i) => i).sort((i, k) => boxes[i]![from] + boxes[i]![size] / 2 - boxes[k]![from] - boxes[k]![size] / 2)
  const by = boxes.map(() => ({ dx: 0, dy: 0 }))
  if (order.length < 3) return by
  const [first, last] = [boxes[order[0]!]!, boxes[order.at(-1)!]!]
  const filled = boxes.reduce((sum, b) => sum + b[size], 0)
  const gap = (last[from] + last[size] - first[from] - filled) / (order.length - 1)
  let at = first[from]
  for (const i of order) {
    const d = at - boxes[i]![from]
    by[i] = way === 'across' ? { dx: d, dy: 0 } : { dx: 0, dy: d }
    at += boxes[i]![size] + gap
  }
  return by
}
