import { z } from 'zod'
import { colourwaySchema } from './colourway.ts'
import { idSchema, lengthSchema, planeSchema, pointSchema, rectangleSchema } from './parts.ts'
import { layerSchema } from './layer.ts'
import { recipeUseSchema } from './recipe.ts'

export const ARTWORK_FORMAT = 'nimble-quill/artwork'
export const ARTWORK_VERSION = 3

export const artworkSchema = z.strictObject({
  format: z.literal(ARTWORK_FORMAT),
  version: z.literal(ARTWORK_VERSION),
  title: z.string().min(1).max(200),
  /** The frame in artwork coordinates. `sized`: its print size was said by somebody; else it stands for a usual one. */
  sheet: rectangleSchema.extend({ ppi: z.number().min(1).max(10000), sized: z.boolean() }),
  /** The first sheet: places, screens and first rows are counted from it, also when the frame is moved. */
  field: rectangleSchema,
  /** Artwork pixels that 100 % of a length stands for; stays when the frame is moved. */
  reference: z.number().positive(),
  /** The one light of all reliefs: direction and height in degrees. */
  lamp: z.strictObject({ direction: z.number(), height: z.number().min(0).max(90) }),
  /** Centre of the place judged at 100 %, artwork pixels. */
  lookSpot: pointSchema,
  /** Whether papers, grounds and relief are seen and delivered, and whether marks stay broken without them. */
  stock: z.strictObject({ papers: z.boolean(), relief: z.boolean(), marks: z.enum(['broken', 'closed']) }),
  guides: z.array(z.strictObject({ axis: z.enum(['upright', 'level']), at: z.number() })).max(200),
  /** Where hands and new steps act, on the sheet: white inside. Not there or null: everywhere. */
  area: planeSchema.optional(),
  /** Areas kept by name. */
  areas: z.array(z.strictObject({ id: idSchema, name: z.string().min(1).max(120), plane: planeSchema })).max(100),
  /** Further spots round which techniques go finer. */
  pins: z.array(z.strictObject({ id: idSchema, x: z.number(), y: z.number(), radius: lengthSchema })).max(100),
  colourways: z.array(colourwaySchema).max(200),
  /** Bottom to top. */
  layers: z.array(layerSchema).max(500),
  recipes: z.array(recipeUseSchema).max(50),
})
