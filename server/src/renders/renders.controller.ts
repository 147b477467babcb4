import { Body, Controller, Delete, Get, HttpCode, Param, Post, Res, Sse, type MessageEvent } from '@nestjs/common'
import { createRenderSchema, type Render as RenderAnswer } from '@nimble-quill/contracts'
import type { Response } from 'express'
import { filter, interval, map, merge, type Observable } from 'rxjs'
import type { z } from 'zod'
import { Me } from '../accounts/session.guard.ts'
import type { Account } from '../database/models.ts'
import { idOf } from '../problems/id.pipe.ts'
import { checked } from '../problems/zod.pipe.ts'
import { renderAnswer, RendersService } from './renders.service.ts'

@Controller('api/renders')
export class RendersController {
  private readonly renders: RendersService

  constructor(renders: RendersService) {
    this.renders = renders
  }

  @Get()
  async list(@Me() me: Account): Promise<RenderAnswer[]> {
    return (await this.renders.list(me.id)).map(renderAnswer)
  }

  @Post()
  async add(@Me() me: Account, @Body(checked(createRenderSchema)) body: z.output<typeof createRenderSchema>): Promise<RenderAnswer> {
    return renderAnswer(await this.renders.add(me.id, body))
  }

  @Sse('events')
  events(@Me() me: Account): Observable<MessageEvent> {
    const news = this.renders.news.pipe(
      filter((n) => n.accountId === me.id),
      map((n) => ({ data: n.render })),
    )
    // a sign of life, so that a dropped line is noticed
    return merge(news, interval(15_000).pipe(map(() => ({ type: 'alive', data: '' }))))
  }

  @Post(':id/cancel')
  @HttpCode(200)
  async cancel(@Me() me: Account, @Param('id', idOf('render')) id: string): Promise<RenderAnswer> {
    return renderAnswer(await this.renders.cancel(me.id, id))
  }

  @Delete(':id')
  @HttpCode(204)
  remove(@Me() me: Account, @Param('id', idOf('render')) id: string): Promise<void> {
    return this.renders.remove(me.id, id)
  }

  @Get(':id/file')
  async file(@Me() me: Account, @Param('id', idOf('render')) id: string, @Res() response: Response): Promise<void> {
    const { path, name, type } = await this.renders.file(me.id, id)
    response.type(type).download(path, name, { dotfiles: 'allow' })
  }
}
