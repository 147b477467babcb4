import { z } from 'zod'
import { QuillError } from '../base/errors.ts'
import { tipIds } from './tips.ts'

/** Breadth of a brush, artwork pixels. */
export const BREADTH = { min: 1, max: 4000 }
const share = z.number().min(0).max(1)

/** How what the pen says is taken: as it is, or so that light (firm) hands reach further. */
export const responses = ['gentle', 'even', 'firm'] as const

/** A brush as a hand decides it. */
export const brushSchema = z.strictObject({
  tip: z.enum(tipIds),
  breadth: z.strictObject({ value: z.number().positive(), unit: z.enum(['px', 'mm']) }),
  /** 0 soft: the cover falls from the middle to the rim; 1 firm. */
  edge: share,
  /** What one dab lays of what is still uncovered. */
  cover: share,
  /** What one stroke reaches at most. */
  most: share,
  /** How far it takes on the colour of the paint it goes over, a dab; 1: it only smears. */
  pickUp: share,
  /** Breadths after which the brush has dried; 0: it never does. */
  dry: z.number().min(0).max(200),
  /** How much hairs and grain show, of the tips that have them. */
  hairs: share,
  /** How much the heights of the paper hold it back. */
  tooth: share,
  /** How far the brush lags behind the pen on a string, breadths. */
  steadiness: z.number().min(0).max(4),
  /** 1: dabs lie evenly; less: they stray and differ in size. */
  regularity: share,
  /** What the pen's pressure decides, and how it is taken. */
  pressure: z.strictObject({ breadth: share, cover: share, response: z.enum(responses) }),
  /** The tip turns with the way it goes, with the pen's tilt, or lies at an angle. */
  turn: z.enum(['way', 'tilt', 'fixed']),
  angle: z.number().min(-180).max(180),
})
export type Brush = z.infer<typeof brushSchema>

/** About which lines and points a stroke is repeated. */
export const symmetrySchema = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('none') }),
  /** Mirrored in a line through a point, at an angle in degrees counter-clockwise from level. */
  z.strictObject({ type: z.literal('mirror'), x: z.number(), y: z.number(), angle: z.number() }),
  /** Turned n times about a point. */
  z.strictObject({ type: z.literal('round'), x: z.number(), y: z.number(), n: z.number().int().min(2).max(24) }),
])
export type Symmetry = z.infer<typeof symmetrySchema>

export const defaultBrush: Brush = {
  tip: 'soft',
  breadth: { value: 120, unit: 'px' },
  edge: 0.3,
  cover: 0.35,
  most: 1,
  pickUp: 0,
  dry: 0,
  hairs: 0.6,
  tooth: 0,
  steadiness: 0,
  regularity: 1,
  pressure: { breadth: 0, cover: 0.5, response: 'gentle' },
  turn: 'way',
  angle: 0,
}

/** Under this name brushes are kept where steps' values are. */
export const BRUSH_VALUES = 'brush'
const BRUSH_VERSION = 1

/**
 * Values of a brush, checked; what is not named has its default.
 * @throws QuillError `param-invalid` in words
 */
export function checkBrush(params: Readonly<Record<string, unknown>>): { version: number; params: Brush } {
  const found = brushSchema.safeParse({ ...defaultBrush, ...params })
  if (found.success) return { version: BRUSH_VERSION, params: found.data }
  const { path, message } = found.error.issues[0]!
  throw new QuillError(
    'param-invalid',
    `A brush cannot be kept with this${path.length ? ` “${path.join('.')}”` : ''}: ${message}. Nothing was changed; check the value.`,
  )
}
