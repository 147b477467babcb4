import { z } from 'zod'
import { colourSchema, idSchema, lengthSchema, planeSchema, pointSchema, rectangleSchema, sha256Schema, shareSchema } from './parts.ts'

// What a layer's chain starts from; groups stand with the layers, which they are made of.

/** Mended places that a layer has, at most. */
export const MOST_MENDED = 500

const side = z.number().int().min(1)
const photo = z.strictObject({
  type: z.literal('photo'),
  asset: sha256Schema,
  width: side,
  height: side,
  /** How large it is shown, where not as large as it is: so many pixels its layer's steps work on. */
  shown: z.strictObject({ w: side.max(200_000), h: side.max(200_000) }).optional(),
})
const openPhoto = z.strictObject({ type: z.literal('open-photo') })
const fill = z.strictObject({ type: z.literal('fill'), colour: colourSchema, alpha: shareSchema })
const gradient = z.strictObject({
  type: z.literal('gradient'),
  /** `from` and `to` in shares of the field's width and height; round: its middle, and a point on its rim. */
  shape: z.enum(['straight', 'round']),
  stops: z
    .array(z.tuple([shareSchema, colourSchema, shareSchema]))
    .min(2)
    .max(32),
  from: pointSchema,
  to: pointSchema,
  beyond: z.enum(['last colour', 'repeat', 'mirror']),
})
const paper = z.strictObject({
  type: z.literal('paper'),
  /** One of the papers that ship, or a picture of one. */
  paper: z.union([z.string().min(1).max(60), z.strictObject({ asset: sha256Schema, width: z.number().int().min(1), height: z.number().int().min(1) })]),
  width: lengthSchema,
  colour: colourSchema.nullable(),
})
const paint = z.strictObject({ type: z.literal('paint'), plane: planeSchema })
/** Pen strokes; they lie in a blob of their own. */
const ink = z.strictObject({
  type: z.literal('ink'),
  blob: sha256Schema.nullable(),
  colour: colourSchema,
  /** Pixels of the layer that one of its own is, once the artwork was made larger or smaller. */
  scale: z.number().positive().optional(),
})
/** One mended place: what lies so far away is laid where it is covered; healed, it goes over into what lies round about. A spot has found its source by itself. */
export const mendedSchema = z.strictObject({
  id: idSchema,
  way: z.enum(['clone', 'heal', 'spot']),
  /** From the place to its source, whole pixels of the layer; both 0: not known yet. */
  dx: z.number().int().min(-200_000).max(200_000),
  dy: z.number().int().min(-200_000).max(200_000),
  cover: planeSchema,
})
/** What was cloned and healed of what lies below, one after the other. */
const mend = z.strictObject({
  type: z.literal('mend'),
  blob: sha256Schema.nullable(),
  plane: planeSchema,
  mended: z.array(mendedSchema).max(MOST_MENDED).optional(),
})
const lettering = z.strictObject({
  type: z.literal('lettering'),
  text: z.string().max(10_000),
  font: z.string().min(1).max(120),
  size: lengthSchema,
  colour: colourSchema,
  align: z.enum(['left', 'middle', 'right']),
  /** Of the size: from line to line, and between letters. */
  leading: z.number().min(0).max(10),
  tracking: z.number().min(-1).max(10),
  outline: z.strictObject({ width: lengthSchema, colour: colourSchema }).nullable(),
  box: rectangleSchema,
  /** Its outlines, once they are drawn. */
  blob: sha256Schema.nullable(),
})
const below = z.strictObject({ type: z.literal('below') })
const live = z.strictObject({ type: z.literal('live'), layer: idSchema })
const panels = z.strictObject({
  type: z.literal('panels'),
  /** The layer that is repeated; null: all that lies below. */
  of: idSchema.nullable(),
  rows: z.number().int().min(1).max(12),
  columns: z.number().int().min(1).max(12),
  gutter: lengthSchema,
  margin: lengthSchema,
  backing: colourSchema,
  keeps: z.enum(['sheet', 'panels']),
  screens: z.enum(['shrink', 'stay']),
  deal: z.number().int().min(0).max(0x7fffffff),
  colourways: z.array(idSchema).max(144),
  panels: z
    .array(
      z.strictObject({
        row: z.number().int().min(0).max(11),
        column: z.number().int().min(0).max(11),
        colourway: idSchema.nullable(),
        locked: z.boolean(),
        /** A layer that stands there instead, edited by hand. */
        own: idSchema.nullable(),
      }),
    )
    .max(144),
  /** What they fill; the sheet, where it is not said. */
  box: rectangleSchema.optional(),
})

export const plainSources = [photo, openPhoto, fill, gradient, paper, paint, ink, mend, lettering, below, live, panels] as const
