import { Controller, Delete, Get, HttpCode, Inject, Param, Post, Query, Req, Res, UseGuards } from '@nestjs/common'
import { Throttle, ThrottlerGuard } from '@nestjs/throttler'
import type { Photo as PhotoAnswer } from '@nimble-quill/contracts'
import type { SourceInfo } from '@nimble-quill/core'
import type { Request, Response } from 'express'
import { z } from 'zod'
import { Me } from '../accounts/session.guard.ts'
import type { Account } from '../database/models.ts'
import { idOf } from '../problems/id.pipe.ts'
import { leaving } from '../problems/leaving.ts'
import { notFound, ProblemException } from '../problems/problem.ts'
import { sendFile } from '../problems/send-file.ts'
import { checked } from '../problems/zod.pipe.ts'
import { MAX_BYTES } from './limits.ts'
import { photoAnswer, PhotosService, SMALL_SIZES } from './photos.service.ts'
import type { Store } from './store.ts'
import { STORE } from './tokens.ts'

const FOREVER = 'private, max-age=31536000, immutable'
const nameSchema = z.string().trim().min(1).max(255)
const at = z.coerce.number().int().min(0).max(1_000_000)

@Controller('api')
export class PhotosController {
  private readonly photos: PhotosService
  private readonly store: Store

  constructor(photos: PhotosService, @Inject(STORE) store: Store) {
    this.photos = photos
    this.store = store
  }

  @Get('photos')
  async list(@Me() me: Account): Promise<PhotoAnswer[]> {
    return (await this.photos.list(me.id)).map(photoAnswer)
  }

  @Post('photos')
  @UseGuards(ThrottlerGuard)
  @Throttle({ default: { limit: 240, ttl: 60_000 } })
  async add(
    @Me() me: Account,
    @Query('name', checked(nameSchema, 'The name')) name: string,
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ): Promise<PhotoAnswer> {
    const declared = Number(request.headers['content-length'] ?? 0)
    if (declared > MAX_BYTES) {
      throw new ProblemException(
        413,
        'photo-too-large',
        'Too large',
        `The file has ${Math.ceil(declared / 2 ** 20)} MB; photos may have up to ${MAX_BYTES / 2 ** 20} MB. Nothing was added; save it smaller or as JPEG.`,
      )
    }
    return photoAnswer(await this.photos.add(me.id, name, request, leaving(response)))
  }

  @Delete('photos/:id')
  @HttpCode(204)
  remove(@Me() me: Account, @Param('id', idOf('photo')) id: string): Promise<void> {
    return this.photos.remove(me.id, id)
  }

  @Post('photos/:id/restore')
  @HttpCode(200)
  async restore(@Me() me: Account, @Param('id', idOf('photo')) id: string): Promise<PhotoAnswer> {
    return photoAnswer(await this.photos.restore(me.id, id))
  }

  @Get('photos/:id/small/:size')
  async small(@Me() me: Account, @Param('id', idOf('photo')) id: string, @Param('size') size: string, @Res() response: Response): Promise<void> {
    const photo = await this.photos.find(me.id, id, true)
    if (!(SMALL_SIZES as readonly number[]).includes(Number(size))) throw notFound('size')
    await sendFile(response, this.store.small(photo.asset, Number(size)), 'small copy', { 'Content-Type': 'image/webp', 'Cache-Control': FOREVER })
  }

  @Get('sources/:asset')
  async source(@Me() me: Account, @Param('asset') asset: string): Promise<SourceInfo> {
    return (await this.photos.pyramid(me.id, asset)).info
  }

  @Get('sources/:asset/:level/:x/:y')
  async tile(
    @Me() me: Account,
    @Param('asset') asset: string,
    @Param('level', checked(at)) level: number,
    @Param('x', checked(at)) x: number,
    @Param('y', checked(at)) y: number,
    @Res() response: Response,
  ): Promise<void> {
    const bytes = await (await this.photos.pyramid(me.id, asset)).raw(level, x, y)
    if (!bytes) throw notFound('tile')
    response.set({ 'Content-Type': 'application/octet-stream', 'Cache-Control': FOREVER }).send(bytes)
  }
}
