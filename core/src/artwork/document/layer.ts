import { z } from 'zod'
import { blendSchema, idSchema, inputSchema, insetSchema, lightMapSchema, maskSchema, placementSchema, shareSchema, spanSchema, studySchema } from './parts.ts'
import { plainSources } from './source.ts'

export const stepSchema = z.strictObject({
  id: idSchema,
  step: z.string().min(1).max(60),
  version: z.number().int().min(1),
  params: z.record(z.string(), z.unknown()),
  /** Other pictures it reads, by the names the step gives them. */
  inputs: z.record(z.string(), inputSchema),
  on: z.boolean(),
  opacity: shareSchema,
  blend: blendSchema,
  mask: maskSchema,
  span: spanSchema,
})

export const layerSchema = z.strictObject({
  id: idSchema,
  name: z.string().min(1).max(120),
  visible: z.boolean(),
  locked: z.boolean(),
  /** One of the marks that rows can be told apart by. */
  mark: z.number().int().min(1).max(8).nullable(),
  folded: z.boolean(),
  followsBelow: z.boolean(),
  get source() {
    return z.discriminatedUnion('type', [...plainSources, groupSource])
  },
  chain: z.array(stepSchema).max(2000),
  mask: maskSchema,
  lightMap: lightMapSchema,
  study: studySchema,
  placement: placementSchema,
  inset: insetSchema,
  blend: blendSchema,
  opacity: shareSchema,
  /** Of its own tones, and of those of what lies below. */
  span: spanSchema,
  spanBelow: spanSchema,
})
const groupSource = z.strictObject({
  type: z.literal('group'),
  /** What its layers read as lying below ends at its floor (W3C: an isolated group). */
  isolated: z.boolean(),
  get layers() {
    return z.array(layerSchema).max(500)
  },
})
