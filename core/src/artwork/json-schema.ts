import { z } from 'zod'
import { artworkSchema, recipeSchema } from './schema.ts'

/** JSON Schema (2020-12) of the documents, as written to docs/. */
export function jsonSchemas(): Record<'artwork' | 'recipe', unknown> {
  return { artwork: z.toJSONSchema(artworkSchema), recipe: z.toJSONSchema(recipeSchema) }
}
