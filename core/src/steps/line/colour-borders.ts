import type { Kernels } from '../../kernels/kernels.ts'
import { blurred, field, slopes, type Field } from '../../study/fields.ts'
import { massesOf } from '../../study/masses.ts'
import type { Study } from '../../study/study.ts'
import type { Analysis } from '../contract.ts'
import { coloursOf, type Colours } from '../paint/colours.ts'
import { share } from '../params/index.ts'

// taken once: loops over planes look nothing up
const { floor, max, min, sqrt } = Math

/** The masses that borders are looked for in, thousandths of the long side: those that a study calls fine. */
const FINE = 2.4
/** What a step from blue to yellow counts against one from red to green. */
const BLUE = 0.7

/** How many pixels of which size, in full-size pixels, and where the first begins. */
type Pixels = Pick<Study, 'w' | 'h' | 'x' | 'y' | 'scale'>

/** The masses of a picture's colours without their lightness, and where they are. */
export interface Opponents extends Pixels {
  /** From green to red, and from yellow to blue, 0 … 1; both nearer to the middle where it is dark, as they are to an eye. */
  red: Field
  blue: Field
}

/** The colours whose borders are looked for, in masses. */
export async function opponentsOf(work: Analysis): Promise<Opponents> {
  const { region } = work.input
  const scale = 2 ** work.level
  const [red, blue] = planesOf(coloursOf(work))
  await work.pause()
  const size = (FINE * max(region.w, region.h)) / 1000
  return {
    w: region.w,
    h: region.h,
    x: region.x * scale,
    y: region.y * scale,
    scale,
    red: await massesOf(work.kernels, red, size, work.pause),
    blue: await massesOf(work.kernels, blue, size, work.pause),
  }
}

/** How much the borders of colours are drawn. */
export const coloursShare = share({
  title: 'Where colours meet',
  default: 0.5,
  help: 'How strong an edge is where two colours of one lightness meet: at 0 lines go by tone alone, as from a photo without colour; in full such an edge counts like one from light to dark.',
})

/** What steps have in common that draw borders of colours too. */
export const withColours = {
  migrate: (stored: Record<string, unknown>) => ({ params: { ...stored, colours: 0 } }),
  analysedBy: [],
  analyse: opponentsOf,
  beyond: true,
}

/** Borders of colours that lightness does not show, over the pixels of a study. */
export interface ColourBorders {
  /** By how much more a place is an edge than its lightness says, in steps of lightness; highest on the border. */
  height: Field
  /** The axis across the border, of any length; made when asked for. */
  across: () => { x: Field; y: Field }
}

/** Red against green, and blue against both, of display-encoded colours. */
function planesOf({ w, h, rgb: [red, green, blue] }: Colours): [Field, Field] {
  const [u, v] = [field(w, h), field(w, h)]
  const [to, other] = [u.v, v.v]
  for (let i = 0; i < to.length; i++) {
    to[i] = 0.5 + 0.5 * (red[i]! - green[i]!)
    other[i] = 0.5 + 0.5 * BLUE * (blue[i]! - 0.5 * (red[i]! + green[i]!))
  }
  return [u, v]
}

/**
 * Where colours meet that are alike in lightness: the slope of the colours (Di Zenzo, "A note on the gradient of a multi-image", 1986) less that of the lightness, both of
 * masses.
 * @param sigma what is smaller is no border, pixels of the study
 * @param counts how much of a step of lightness a step of colour from the one end to the other is, 0 … 1
 * @throws what `pause` throws
 */
export async function colourBorders(
  kernels: Kernels,
  opponents: Opponents,
  study: Pixels & Pick<Study, 'fine'>,
  sigma: number,
  counts: number,
  pause: () => Promise<void>,
): Promise<ColourBorders> {
  const calm = max(0.7, (sigma * study.scale) / opponents.scale)
  const slope = (of: Field) => slopes(kernels, blurred(kernels, of, calm))
  const [u, v] = [slope(opponents.red), slope(opponents.blue)]
  await pause()
  const tone = slope(over(study.fine, study, opponents))
  await pause()
  // the slope of a step of 1 after the blur, the pixel and the operator
  const unit = 1 / sqrt(2 * 3.141592653589793 * (calm * calm + 0.6))
  const height = moreThan([u.x.v, u.y.v, v.x.v, v.y.v], tone.x.v, tone.y.v, (2 * counts) / unit, 1 / unit)
  return {
    height: over({ ...u.x, v: height }, opponents, study),
    across: () => {
      const [x, y] = aligned(u.x.v, u.y.v, v.x.v, v.y.v)
      return { x: over({ ...u.x, v: x }, opponents, study), y: over({ ...u.y, v: y }, opponents, study) }
    },
  }
}

/** A plane over the pixels of another, by straight lines between its values; borders repeated. */
function over(of: Field, from: Pixels, to: Pixels): Field {
  if (from.scale === to.scale && from.x === to.x && from.y === to.y && of.w === to.w && of.h === to.h) return of
  const out = field(to.w, to.h)
  const by = to.scale / from.scale
  const columns = placesOf(to.w, (to.x - from.x) / from.scale + 0.5 * by - 0.5, by, of.w)
  const rows = placesOf(to.h, (to.y - from.y) / from.scale + 0.5 * by - 0.5, by, of.h)
  for (let y = 0; y < to.h; y++)
    alongRow(out.v, y * to.w, of.v, rows.first[y]! * of.w, min(rows.first[y]! + 1, of.h - 1) * of.w, rows.share[y]!, columns, of.w - 1)
  return out
}

interface Places {
  /** Which value lies before each place, and which share of the next is in it. */
  first: Uint32Array
  share: Float64Array
}

/** Places along a side of `n` values, so far apart, from the first on. */
function placesOf(count: number, from: number, by: number, n: number): Places {
  const [first, share] = [new Uint32Array(count), new Float64Array(count)]
  for (let i = 0; i < count; i++) {
    const place = min(n - 1, max(0, from + i * by))
    first[i] = floor(place)
    share[i] = place - first[i]!
  }
  return { first, share }
}

// loops in small functions of their own: they are compiled at once, and well

/** A row between two rows of another plane. @param last its last column */
function alongRow(to: Float32Array, start: number, v: Float32Array, upper: number, lower: number, down: number, { first, share }: Places, last: number): void {
  for (let i = 0; i < first.length; i++) {
    const x = first[i]!
    const next = x < last ? x + 1 : last
    const top = v[upper + x]! + (v[upper + next]! - v[upper + x]!) * share[i]!
    const low = v[lower + x]! + (v[lower + next]! - v[lower + x]!) * share[i]!
    to[start + i] = top + (low - top) * down
  }
}

/** How much longer one slope, of two planes, is than another, each times what it counts. */
function moreThan([a, b, c, d]: readonly Float32Array[], x: Float32Array, y: Float32Array, counts: number, other: number): Float32Array {
  const [ux, uy, vx, vy] = [a!, b!, c!, d!]
  const out = new Float32Array(ux.length)
  for (let i = 0; i < out.length; i++) {
    const all = sqrt(ux[i]! * ux[i]! + uy[i]! * uy[i]! + vx[i]! * vx[i]! + vy[i]! * vy[i]!)
    out[i] = max(0, counts * all - other * sqrt(x[i]! * x[i]! + y[i]! * y[i]!))
  }
  return out
}

/** Slopes and others added as if both rose the same way. */
function aligned(x: Float32Array, y: Float32Array, otherX: Float32Array, otherY: Float32Array): [Float32Array, Float32Array] {
  const [outX, outY] = [new Float32Array(x.length), new Float32Array(x.length)]
  for (let i = 0; i < outX.length; i++) {
    const sign = x[i]! * otherX[i]! + y[i]! * otherY[i]! < 0 ? -1 : 1
    outX[i] = x[i]! + sign * otherX[i]!
    outY[i] = y[i]! + sign * otherY[i]!
  }
  return [outX, outY]
}
