import type { z } from 'zod'
import type { artworkSchema } from './document/artwork.ts'
import type { layerSchema, stepSchema } from './document/layer.ts'
import type { mendedSchema } from './document/source.ts'
import type { maskSchema, placementSchema } from './document/parts.ts'
import type { controlSchema, driveSchema, recipeSchema, recipeUseSchema } from './document/recipe.ts'

export { ARTWORK_FORMAT, ARTWORK_VERSION, artworkSchema } from './document/artwork.ts'
export { MOST_MENDED } from './document/source.ts'
export { layerSchema, stepSchema } from './document/layer.ts'
export { maskSchema, placementSchema, spanSchema } from './document/parts.ts'
export { controlSchema, driveSchema, RECIPE_FORMAT, RECIPE_VERSION, recipeSchema, recipeUseSchema, type Quality } from './document/recipe.ts'

export type Artwork = z.infer<typeof artworkSchema>
export type Layer = z.infer<typeof layerSchema>
export type Source = Layer['source']
export type Mended = z.infer<typeof mendedSchema>
export type StepUse = z.infer<typeof stepSchema>
export type Mask = z.infer<typeof maskSchema>
export type Control = z.infer<typeof controlSchema>
export type ControlValue = Control['default']
export type Drive = z.infer<typeof driveSchema>
export type RecipeUse = z.infer<typeof recipeUseSchema>
export type Recipe = z.infer<typeof recipeSchema>
export type Placement = z.infer<typeof placementSchema>

/** Where it lies by itself. */
export const identityPlacement: Placement = { matrix: [1, 0, 0, 0, 1, 0, 0, 0, 1], pivot: null }
