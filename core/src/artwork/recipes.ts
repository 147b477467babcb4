import { QuillError } from '../base/errors.ts'
import { gappedTiles } from '../recipes/gapped-tiles.ts'
import { graphite } from '../recipes/graphite.ts'
import { newspaper } from '../recipes/newspaper.ts'
import { photogram } from '../recipes/photogram.ts'
import { pixelMosaic } from '../recipes/pixel-mosaic.ts'
import { washAndInk } from '../recipes/wash-and-ink.ts'
import type { Recipe } from './schema.ts'

/** Every recipe that ships, in the order of the picker. */
export const recipes: readonly Recipe[] = [graphite, washAndInk, newspaper, photogram, pixelMosaic, gappedTiles]

/** The recipe with this id. Throws `unknown-recipe`. */
export function recipeById(id: string): Recipe {
  const recipe = recipes.find((r) => r.id === id)
  const valid = recipes.map((r) => r.id)
  if (!recipe) throw new QuillError('unknown-recipe', `There is no recipe called “${id}”. Recipes are: ${valid.join(', ')}.`, { id, valid })
  return recipe
}
