import { z } from 'zod'
import { blendModes } from '../blend/modes.ts'

export const ARTWORK_FORMAT = 'nimble-quill/artwork'
export const ARTWORK_VERSION = 1
export const RECIPE_FORMAT = 'nimble-quill/recipe'
export const RECIPE_VERSION = 1

const id = z.string().min(1).max(40)
const sha256 = z.string().regex(/^[0-9a-f]{64}$/, 'a SHA-256 in hexadecimal')
const colour = z.string().regex(/^#[0-9a-f]{6}$/i, 'a colour as #rrggbb')
const opacity = z.number().min(0).max(1)

/** Painted tiles, named by the hash of their index. */
export const maskSchema = z.strictObject({ index: sha256 }).nullable()
/** The tones (0…1) between which a step or layer acts, and the widths of its soft ends. */
export const spanSchema = z.strictObject({ low: z.number(), high: z.number(), softLow: z.number().min(0), softHigh: z.number().min(0) }).nullable()
/** x′ = a·x + c·y + e, y′ = b·x + d·y + f, in artwork pixels. */
export const placementSchema = z.strictObject({ a: z.number(), b: z.number(), c: z.number(), d: z.number(), e: z.number(), f: z.number() })

export const stepSchema = z.strictObject({
  id,
  step: z.string().min(1).max(60),
  version: z.number().int().min(1),
  params: z.record(z.string(), z.unknown()),
  on: z.boolean(),
  opacity,
  blend: z.enum(blendModes),
  mask: maskSchema,
  span: spanSchema,
})

const photoSource = z.strictObject({ type: z.literal('photo'), asset: sha256, width: z.number().int().min(1), height: z.number().int().min(1) })
const openPhotoSource = z.strictObject({ type: z.literal('open-photo') })
const fillSource = z.strictObject({ type: z.literal('fill'), colour, alpha: opacity })
const belowSource = z.strictObject({ type: z.literal('below') })
const liveSource = z.strictObject({ type: z.literal('live'), layer: id })

export const layerSchema = z.strictObject({
  id,
  name: z.string().min(1).max(120),
  visible: z.boolean(),
  followsBelow: z.boolean(),
  get source() {
    return z.discriminatedUnion('type', [photoSource, openPhotoSource, fillSource, belowSource, liveSource, groupSource])
  },
  chain: z.array(stepSchema).max(200),
  mask: maskSchema,
  placement: placementSchema,
  blend: z.enum(blendModes),
  opacity,
  span: spanSchema,
})
const groupSource = z.strictObject({
  type: z.literal('group'),
  get layers() {
    return z.array(layerSchema).max(200)
  },
})

/** One parameter that a control drives, and how. */
export const driveSchema = z.strictObject({
  layer: id,
  step: id.nullable(),
  /** Of the step; 'opacity' where step is null: the layer's own. */
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
  id,
  title: z.string(),
  help: z.string(),
  kind: z.discriminatedUnion('type', [
    z.strictObject({ type: z.literal('number'), min: z.number(), max: z.number(), step: z.number(), low: z.string(), high: z.string() }),
    z.strictObject({ type: z.literal('choice'), options: z.array(z.strictObject({ value: z.string(), title: z.string() })).min(1) }),
  ]),
  default: z.union([z.number(), z.string()]),
  drives: z.array(driveSchema),
})

/** A recipe as used in an artwork: its controls with their values, and what each still drives. */
export const recipeUseSchema = z.strictObject({
  id,
  recipe: z.string(),
  title: z.string(),
  controls: z.array(controlSchema),
  values: z.record(z.string(), z.union([z.number(), z.string()])),
})

export const artworkSchema = z.strictObject({
  format: z.literal(ARTWORK_FORMAT),
  version: z.literal(ARTWORK_VERSION),
  title: z.string().min(1).max(200),
  /** The frame in artwork coordinates. */
  sheet: z.strictObject({
    x: z.number().int(),
    y: z.number().int(),
    w: z.number().int().min(1),
    h: z.number().int().min(1),
    ppi: z.number().min(1).max(10000),
  }),
  /** Artwork pixels that 100 % of a length stands for; stays when the frame is moved. */
  reference: z.number().positive(),
  /** The one light of all reliefs: direction and height in degrees. */
  lamp: z.strictObject({ direction: z.number(), height: z.number().min(0).max(90) }),
  /** Centre of the place judged at 100 %, artwork pixels. */
  lookSpot: z.strictObject({ x: z.number(), y: z.number() }),
  /** Bottom to top. */
  layers: z.array(layerSchema).max(200),
  recipes: z.array(recipeUseSchema).max(50),
})

export const recipeSchema = z.strictObject({
  format: z.literal(RECIPE_FORMAT),
  version: z.literal(RECIPE_VERSION),
  id: z.string().regex(/^[a-z0-9-]+$/),
  title: z.string(),
  help: z.string(),
  layers: z.array(layerSchema).min(1),
  controls: z.array(controlSchema).max(12),
})

export type Artwork = z.infer<typeof artworkSchema>
export type Layer = z.infer<typeof layerSchema>
export type Source = Layer['source']
export type StepUse = z.infer<typeof stepSchema>
export type Control = z.infer<typeof controlSchema>
export type Drive = z.infer<typeof driveSchema>
export type RecipeUse = z.infer<typeof recipeUseSchema>
export type Recipe = z.infer<typeof recipeSchema>
export type Placement = z.infer<typeof placementSchema>

export const identityPlacement: Placement = { a: 1, b: 0, c: 0, d: 1, e: 0, f: 0 }
