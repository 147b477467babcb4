import { Module } from '@nestjs/common'
import { OwnRecipesController } from './own-recipes.controller.ts'
import { OwnRecipesService } from './own-recipes.service.ts'

@Module({ controllers: [OwnRecipesController], providers: [OwnRecipesService] })
export class OwnRecipesModule {}
