import { artworkSchema } from '@nimble-quill/core'
import { z } from 'zod'

/** RFC 9457 problem details; `code` is stable, `detail` is a sentence a person can act on. */
export const problemSchema = z.object({
  type: z.string(),
  title: z.string(),
  status: z.number().int(),
  detail: z.string(),
  code: z.string(),
})
export type Problem = z.infer<typeof problemSchema>

export const uuid = z.uuid()
const when = z.iso.datetime()

const email = z
  .string()
  .trim()
  .toLowerCase()
  .pipe(z.email('an e-mail address such as name@example.org').max(254, 'an e-mail address of at most 254 characters'))
export const signUpSchema = z.strictObject({
  name: z.string().trim().min(1).max(80),
  email,
  password: z.string().min(10, 'a password of at least 10 characters').max(200),
})
export const signInSchema = z.strictObject({ email, password: z.string().min(1).max(200) })
export const accountSchema = z.object({ id: uuid, name: z.string(), email: z.string() })
export type Account = z.infer<typeof accountSchema>
export const welcomeSchema = z.object({ demo: z.boolean().describe('Whether the demo studio can be entered with one click.') })

export const photoSchema = z.object({
  id: uuid,
  name: z.string(),
  asset: z.string().describe('SHA-256 of the file.'),
  width: z.number().int(),
  height: z.number().int(),
  depth: z.union([z.literal(8), z.literal(16)]),
  alpha: z.boolean(),
  bytes: z.number().int(),
  createdAt: when,
})
export type Photo = z.infer<typeof photoSchema>

export const sourceInfoSchema = z.object({
  width: z.number().int(),
  height: z.number().int(),
  channels: z.union([z.literal(3), z.literal(4)]),
  depth: z.union([z.literal(8), z.literal(16)]),
  levels: z.number().int(),
})

export const missingPartsSchema = z.strictObject({
  names: z
    .array(z.string().regex(/^[0-9a-f]{64}$/, 'a SHA-256 in hexadecimal'))
    .max(10_000)
    .describe('Names of parts of what was painted.'),
})
export const missingPartsAnswerSchema = z.object({ missing: z.array(z.string()).describe('Those that are not there.') })

export const keepValuesSchema = z.strictObject({
  step: z.string().min(1).max(60).describe('The step’s id; “brush” for a brush.'),
  name: z.string().trim().min(1).max(60),
  params: z.record(z.string(), z.unknown()).describe('Values of the step or brush; what is not named has its default.'),
})
export type KeepValues = z.output<typeof keepValuesSchema>
export const keptValuesSchema = z.object({
  id: uuid,
  step: z.string(),
  version: z.number().int(),
  name: z.string(),
  params: z.record(z.string(), z.unknown()),
  createdAt: when,
})
export type KeptValues = z.infer<typeof keptValuesSchema>

export const keepStateSchema = z.strictObject({
  name: z.string().trim().min(1).max(60),
  document: z.unknown().describe('The artwork document as it is to be kept.'),
})
export type KeepState = z.output<typeof keepStateSchema>
export const stateHeadSchema = z.object({ id: uuid, name: z.string(), createdAt: when })
export type StateHead = z.infer<typeof stateHeadSchema>
export const stateSchema = stateHeadSchema.extend({ document: z.unknown() })
export type State = z.infer<typeof stateSchema>

export const keepRecipeSchema = z.strictObject({ recipe: z.unknown().describe('See the recipe schema.') })
export type KeepRecipe = z.output<typeof keepRecipeSchema>
export const ownRecipeSchema = z.object({ id: uuid, title: z.string(), recipe: z.unknown(), createdAt: when })
export type OwnRecipe = z.infer<typeof ownRecipeSchema>

export const artworkHeadSchema = z.object({
  id: uuid,
  title: z.string(),
  revision: z.number().int(),
  width: z.number().int(),
  height: z.number().int(),
  createdAt: when,
  updatedAt: when,
})
export type ArtworkHead = z.infer<typeof artworkHeadSchema>
export const artworkAnswerSchema = artworkHeadSchema.extend({
  saves: z.array(uuid).describe('The ids of the last saves that were taken, the one that made this revision first.'),
  document: z.unknown().describe('The artwork document, see the artwork schema.'),
})
export type ArtworkAnswer = z.infer<typeof artworkAnswerSchema>
export const createArtworkSchema = z.strictObject({
  photo: uuid.optional().describe('Starts from a photo…'),
  print: z.number().min(1).max(20000).optional().describe('Millimetres that the long side of the photo is to have on paper; an A4 sheet’s, where not given.'),
  document: z.unknown().optional().describe('…or from a whole document.'),
})
export const saveArtworkSchema = z.strictObject({
  revision: z.number().int().min(0).describe('The revision the change is based on.'),
  save: uuid.optional().describe('An id of its own: sent again, it is answered with the revision it made.'),
  after: z
    .array(uuid)
    .max(64)
    .default([])
    .describe('Earlier saves of this page whose answers did not come: where one of them made the present revision, this one follows it.'),
  document: z.unknown(),
})
export type SaveArtwork = z.input<typeof saveArtworkSchema>
export const savedSchema = z.object({ revision: z.number().int(), updatedAt: when })
export type Saved = z.infer<typeof savedSchema>
export { artworkSchema }

/** Pictures, and files of lines: as shapes as broad as they are drawn, or as the lines in their middle. */
export const renderFormats = ['png', 'jpeg', 'svg', 'svg-lines'] as const
export const createRenderSchema = z.strictObject({
  artwork: uuid,
  format: z.enum(renderFormats).default('png'),
  quality: z.number().int().min(1).max(100).default(90).describe('JPEG only.'),
  ppi: z.number().int().min(1).max(10000).optional().describe('Pixels an inch written into the file; the sheet’s where not given.'),
  longSide: z.number().int().min(1).max(100000).optional().describe('Reduce to this long side.'),
})
export type RenderFormat = (typeof renderFormats)[number]
export type CreateRender = z.input<typeof createRenderSchema>
export const renderStates = ['waiting', 'running', 'done', 'failed', 'cancelled'] as const
export const renderSchema = z.object({
  id: uuid,
  artwork: uuid.nullable(),
  title: z.string(),
  format: z.enum(renderFormats),
  state: z.enum(renderStates),
  progress: z.number().min(0).max(1),
  width: z.number().int().nullable(),
  height: z.number().int().nullable(),
  bytes: z.number().int().nullable(),
  message: z.string().nullable().describe('Why it failed.'),
  createdAt: when,
  finishedAt: when.nullable(),
})
export type Render = z.infer<typeof renderSchema>
export const renderEventSchema = renderSchema
