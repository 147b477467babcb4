import { z } from 'zod'
import { colourwaySchema } from './colourway.ts'
import { idSchema } from './parts.ts'
import { layerSchema } from './layer.ts'

export const RECIPE_FORMAT = 'nimble-quill/recipe'
export const RECIPE_VERSION = 3

/** One parameter that a control drives, and how. */
export const driveSchema = z.strictObject({
  layer: idSchema,
  step: idSchema.nullable(),
  /** Of the step; where step is null, of the layer: its 'opacity', or a number of its panel sheet. */
  param: z.string(),
  unit: z.enum(['px', '%', 'mm']).optional(),
  /** Pairs control value → parameter value, straight lines between them. */
  map: z
    .array(z.tuple([z.number(), z.number()]))
    .min(2)
    .optional(),
  /** For a control that is a choice: its value → the parameter's value. */
  choose: z.record(z.string(), z.json()).optional(),
})
export const controlSchema = z.strictObject({
  id: idSchema,
  title: z.string(),
  help: z.string(),
  kind: z.discriminatedUnion('type', [
    z.strictObject({ type: z.literal('number'), min: z.number(), max: z.number(), step: z.number(), low: z.string(), high: z.string() }),
    z.strictObject({ type: z.literal('choice'), options: z.array(z.strictObject({ value: z.string(), title: z.string() })).min(1) }),
    /** A value of the parameter that its first drive names, of whatever type: a colour, a palette, a length … */
    z.strictObject({ type: z.literal('value') }),
  ]),
  default: z.json(),
  drives: z.array(driveSchema),
})

/** Where what is painted out by hand goes: right above this layer, so above lines and below paper. */
const retouchSchema = z.strictObject({ above: idSchema }).nullable()

/** What a photo can fall short in: tonal spread, separation of subject from ground, noise, focus, calm, size against the print. */
const QUALITIES = ['flat', 'alike', 'noisy', 'soft', 'busy', 'few'] as const
export type Quality = (typeof QUALITIES)[number]

/** A recipe as used in an artwork: its controls with their values, and what each still drives. */
export const recipeUseSchema = z.strictObject({
  id: idSchema,
  recipe: z.string(),
  /** Which edition of the recipe it was. */
  edition: z.number().int().min(1),
  title: z.string(),
  controls: z.array(controlSchema),
  values: z.record(z.string(), z.json()),
  retouch: retouchSchema,
})

export const recipeSchema = z.strictObject({
  format: z.literal(RECIPE_FORMAT),
  version: z.literal(RECIPE_VERSION),
  id: z.string().regex(/^[a-z0-9-]+$/),
  /** Counts up when what it makes changes; artworks keep the steps they were begun with. */
  edition: z.number().int().min(1),
  title: z.string(),
  help: z.string(),
  /** What it needs of a photo, each by what happens where that is missing: a clause that goes on from what is missing. */
  needs: z.partialRecord(z.enum(QUALITIES), z.string().min(1).max(120)).optional(),
  layers: z.array(layerSchema).min(1),
  controls: z.array(controlSchema).max(12),
  /** Those that its panel sheets are dealt. */
  colourways: z.array(colourwaySchema).max(200).optional(),
  retouch: retouchSchema,
})
