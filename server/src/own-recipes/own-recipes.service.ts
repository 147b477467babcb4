import { Injectable } from '@nestjs/common'
import type { KeepRecipe, OwnRecipe } from '@nimble-quill/contracts'
import { loadRecipe } from '@nimble-quill/core'
import { OwnRecipes } from '../database/models.ts'
import { notFound, ProblemException } from '../problems/problem.ts'

/** An account keeps so many recipes of its own at most. */
const MOST = 200

export const recipeAnswer = (r: OwnRecipes): OwnRecipe => ({
  id: r.id,
  title: r.title,
  recipe: JSON.parse(r.recipe) as unknown,
  createdAt: r.createdAt.toISOString(),
})

/** Recipes that an account made; every query is bound to their owner. */
@Injectable()
export class OwnRecipesService {
  list(accountId: string): Promise<OwnRecipes[]> {
    return OwnRecipes.findAll({ where: { accountId }, order: [['title', 'ASC']] })
  }

  /**
   * Keeps a recipe; one of the same title is replaced.
   * @throws QuillError `recipe-invalid` and what loadRecipe says of other forms and versions, ProblemException `recipes-full`
   */
  async keep(accountId: string, { recipe: json }: KeepRecipe): Promise<OwnRecipes> {
    const recipe = loadRecipe(json)
    const fresh = { recipe: JSON.stringify(recipe), createdAt: new Date() }
    const title = recipe.title.slice(0, 120)
    const known = await OwnRecipes.findOne({ where: { accountId, title } })
    if (known) return known.update(fresh)
    if ((await OwnRecipes.count({ where: { accountId } })) >= MOST)
      throw new ProblemException(
        422,
        'recipes-full',
        'Too many',
        `${MOST} recipes of your own are kept already. Nothing was lost; forget some you no longer use.`,
      )
    return OwnRecipes.create({ accountId, title, ...fresh })
  }

  async forget(accountId: string, id: string): Promise<void> {
    if ((await OwnRecipes.destroy({ where: { accountId, id } })) === 0) throw notFound('recipe')
  }
}
