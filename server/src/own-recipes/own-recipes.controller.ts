import { Body, Controller, Delete, Get, HttpCode, Param, Put } from '@nestjs/common'
import { keepRecipeSchema, type KeepRecipe, type OwnRecipe } from '@nimble-quill/contracts'
import { Me } from '../accounts/session.guard.ts'
import type { Account } from '../database/models.ts'
import { idOf } from '../problems/id.pipe.ts'
import { checked } from '../problems/zod.pipe.ts'
import { OwnRecipesService, recipeAnswer } from './own-recipes.service.ts'

@Controller('api/recipes')
export class OwnRecipesController {
  private readonly recipes: OwnRecipesService

  constructor(recipes: OwnRecipesService) {
    this.recipes = recipes
  }

  @Get()
  async list(@Me() me: Account): Promise<OwnRecipe[]> {
    return (await this.recipes.list(me.id)).map(recipeAnswer)
  }

  @Put()
  async keep(@Me() me: Account, @Body(checked(keepRecipeSchema)) body: KeepRecipe): Promise<OwnRecipe> {
    return recipeAnswer(await this.recipes.keep(me.id, body))
  }

  @Delete(':id')
  @HttpCode(204)
  forget(@Me() me: Account, @Param('id', idOf('recipe')) id: string): Promise<void> {
    return this.recipes.forget(me.id, id)
  }
}
