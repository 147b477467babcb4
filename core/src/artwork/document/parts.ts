import { z } from 'zod'
import { blendModes } from '../../blend/modes.ts'

// What the parts of an artwork have in common.

export const idSchema = z.string().min(1).max(40)
export const sha256Schema = z.string().regex(/^[0-9a-f]{64}$/, 'a SHA-256 in hexadecimal')
export const colourSchema = z.string().regex(/^#[0-9a-f]{6}$/i, 'a colour as #rrggbb')
export const shareSchema = z.number().min(0).max(1)
export const lengthSchema = z.strictObject({ value: z.number().min(0), unit: z.enum(['px', '%', 'mm']) })
export const pointSchema = z.strictObject({ x: z.number(), y: z.number() })
export const rectangleSchema = z.strictObject({ x: z.number().int(), y: z.number().int(), w: z.number().int().min(1), h: z.number().int().min(1) })
export const blendSchema = z.enum(blendModes)

/** Painted pixels of 16 bits, in tiles that are named by their hash under an index. */
export const planeSchema = z.strictObject({ index: sha256Schema, channels: z.union([z.literal(1), z.literal(4)]) }).nullable()

/** Where a layer or a step acts. */
export const maskSchema = z
  .strictObject({
    /** What was painted; null: nothing yet. */
    plane: planeSchema,
    /** What there is where nothing was painted. */
    start: z.enum(['full', 'empty']),
    /** Another layer it is kept from, live. */
    live: z.strictObject({ layer: idSchema, by: z.enum(['alpha', 'tones']) }).nullable(),
    /** Stays on the sheet when the layer is moved, instead of riding with it. */
    stays: z.boolean(),
    turnedRound: z.boolean(),
    /** Moves its edge outwards (px, mm), negative inwards; and softens it. */
    edge: z.strictObject({ move: z.number(), unit: z.enum(['px', '%', 'mm']), soften: lengthSchema }),
    strength: shareSchema,
    /** Thins the marks that a step makes instead of fading them. */
    thins: z.boolean(),
  })
  .nullable()

/** The tones (0…1) between which a step or layer acts, and the widths of its soft ends. */
export const spanSchema = z.strictObject({ low: z.number(), high: z.number(), softLow: z.number().min(0), softHigh: z.number().min(0) }).nullable()

/** The painted dodge and burn under a chain. */
export const lightMapSchema = z.strictObject({ plane: planeSchema, strength: shareSchema, span: spanSchema }).nullable()

/** What was painted over each of the six things that are measured on a layer's photo. */
export const studySchema = z
  .strictObject({ masses: planeSchema, flow: planeSchema, edges: planeSchema, detail: planeSchema, focus: planeSchema, ground: planeSchema })
  .nullable()

const determinant = (m: readonly number[]) =>
  m[0]! * (m[4]! * m[8]! - m[5]! * m[7]!) - m[1]! * (m[3]! * m[8]! - m[5]! * m[6]!) + m[2]! * (m[3]! * m[7]! - m[4]! * m[6]!)
const nine = z.number()
/** A 3 × 3 matrix by rows, from the layer's own pixels to the sheet's (x′ = (m₀x + m₁y + m₂) / (m₆x + m₇y + m₈)), and what it is turned about. */
export const placementSchema = z.strictObject({
  matrix: z
    .tuple([nine, nine, nine, nine, nine, nine, nine, nine, nine])
    .refine((m) => Math.abs(determinant(m)) > 1e-12, 'a placement must not squeeze the layer to a line or a point'),
  pivot: pointSchema.nullable(),
})

/** An outline with border and gutter that crops a group. */
export const insetSchema = z
  .strictObject({
    outline: z
      .array(z.tuple([z.number(), z.number()]))
      .min(3)
      .max(1000),
    border: lengthSchema,
    colour: colourSchema,
    gutter: lengthSchema,
  })
  .nullable()

/** A picture that a step reads besides its input. */
export const inputSchema = z.discriminatedUnion('type', [
  /** A layer's chain after so many steps; null: all of them. */
  z.strictObject({ type: z.literal('layer'), layer: idSchema, steps: z.number().int().min(0).nullable() }),
  z.strictObject({ type: z.literal('photo'), asset: sha256Schema, width: z.number().int().min(1), height: z.number().int().min(1) }),
])
