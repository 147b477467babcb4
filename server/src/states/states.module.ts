import { Module } from '@nestjs/common'
import { ArtworksModule } from '../artworks/artworks.module.ts'
import { StatesController } from './states.controller.ts'
import { StatesService } from './states.service.ts'

@Module({ imports: [ArtworksModule], controllers: [StatesController], providers: [StatesService] })
export class StatesModule {}
