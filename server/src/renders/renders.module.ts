import { Module } from '@nestjs/common'
import { ArtworksModule } from '../artworks/artworks.module.ts'
import { TableQueue } from './render-queue.ts'
import { RendersController } from './renders.controller.ts'
import { RendersService } from './renders.service.ts'

@Module({ imports: [ArtworksModule], controllers: [RendersController], providers: [RendersService, TableQueue] })
export class RendersModule {}
