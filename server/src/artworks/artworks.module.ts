import { Module } from '@nestjs/common'
import { ArtworksController } from './artworks.controller.ts'
import { ArtworksService } from './artworks.service.ts'

@Module({ controllers: [ArtworksController], providers: [ArtworksService], exports: [ArtworksService] })
export class ArtworksModule {}
