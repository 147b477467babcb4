import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Res } from '@nestjs/common'
import { createArtworkSchema, saveArtworkSchema, type ArtworkAnswer, type ArtworkHead, type Saved } from '@nimble-quill/contracts'
import type { Response } from 'express'
import type { z } from 'zod'
import { Me } from '../accounts/session.guard.ts'
import type { Account } from '../database/models.ts'
import { idOf } from '../problems/id.pipe.ts'
import { leaving } from '../problems/leaving.ts'
import { ProblemException } from '../problems/problem.ts'
import { sendFile } from '../problems/send-file.ts'
import { checked } from '../problems/zod.pipe.ts'
import { ArtworksService, head } from './artworks.service.ts'

@Controller('api/artworks')
export class ArtworksController {
  private readonly artworks: ArtworksService

  constructor(artworks: ArtworksService) {
    this.artworks = artworks
  }

  @Get()
  async list(@Me() me: Account): Promise<ArtworkHead[]> {
    return (await this.artworks.list(me.id)).map(head)
  }

  @Post()
  async create(@Me() me: Account, @Body(checked(createArtworkSchema)) body: z.output<typeof createArtworkSchema>): Promise<ArtworkAnswer> {
    if (body.photo !== undefined) return this.artworks.whole(await this.artworks.fromPhoto(me.id, body.photo, body.print))
    if (body.document !== undefined) return this.artworks.whole(await this.artworks.fromDocument(me.id, body.document))
    throw new ProblemException(400, 'request-invalid', 'Not as expected', 'An artwork begins from a photo or from a document; name one of them.')
  }

  @Get(':id')
  async read(@Me() me: Account, @Param('id', idOf('artwork')) id: string): Promise<ArtworkAnswer> {
    return this.artworks.whole(await this.artworks.find(me.id, id))
  }

  @Put(':id')
  save(
    @Me() me: Account,
    @Param('id', idOf('artwork')) id: string,
    @Body(checked(saveArtworkSchema)) body: z.output<typeof saveArtworkSchema>,
  ): Promise<Saved> {
    return this.artworks.save(me.id, id, body)
  }

  @Post(':id/duplicate')
  async duplicate(@Me() me: Account, @Param('id', idOf('artwork')) id: string): Promise<ArtworkAnswer> {
    return this.artworks.whole(await this.artworks.duplicate(me.id, id))
  }

  @Delete(':id')
  @HttpCode(204)
  remove(@Me() me: Account, @Param('id', idOf('artwork')) id: string): Promise<void> {
    return this.artworks.remove(me.id, id)
  }

  @Post(':id/restore')
  @HttpCode(200)
  async restore(@Me() me: Account, @Param('id', idOf('artwork')) id: string): Promise<ArtworkHead> {
    return head(await this.artworks.restore(me.id, id))
  }

  @Get(':id/thumbnail')
  async thumbnail(@Me() me: Account, @Param('id', idOf('artwork')) id: string, @Res() response: Response): Promise<void> {
    const path = await this.artworks.thumbnail(me.id, id, leaving(response))
    await sendFile(response, path, 'thumbnail', { 'Content-Type': 'image/png', 'Cache-Control': 'private, max-age=86400' })
  }
}
