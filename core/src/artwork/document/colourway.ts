import { z } from 'zod'
import { colourSchema, idSchema, shareSchema } from './parts.ts'

/** One set of colours for a picture. */
export const colourwaySchema = z.strictObject({
  id: idSchema,
  name: z.string().min(1).max(120),
  change: z.discriminatedUnion('type', [
    z.strictObject({ type: z.literal('hue'), degrees: z.number() }),
    z.strictObject({ type: z.literal('palette'), colours: z.array(colourSchema).min(1).max(63) }),
    z.strictObject({
      type: z.literal('gradient'),
      stops: z
        .array(z.tuple([shareSchema, colourSchema]))
        .min(2)
        .max(32),
    }),
  ]),
})
