import { Body, Controller, Delete, Get, HttpCode, Param, Post, Req, Res, Sse, type MessageEvent } from '@nestjs/common'
import { createRenderSchema, type Render as RenderAnswer } from '@nimble-quill/contracts'
import type { Response } from 'express'
import { filter, interval, last, map, merge, takeUntil, type Observable } from 'rxjs'
import type { z } from 'zod'
import { AccountsService } from '../accounts/accounts.service.ts'
import { COOKIE, Me, type SignedIn } from '../accounts/session.guard.ts'
import type { Account } from '../database/models.ts'
import { idOf } from '../problems/id.pipe.ts'
import { checked } from '../problems/zod.pipe.ts'
import { renderAnswer, RendersService } from './renders.service.ts'

/** Milliseconds between signs of life in a stream of events. */
const ALIVE = 15_000

@Controller('api/renders')
export class RendersController {
  private readonly renders: RendersService
  private readonly accounts: AccountsService

  constructor(renders: RendersService, accounts: AccountsService) {
    this.renders = renders
    this.accounts = accounts
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
  events(@Me() me: Account, @Req() request: SignedIn): Observable<MessageEvent> {
    const news = this.renders.news.pipe(
      filter((n) => n.accountId === me.id),
      map((n) => ({ data: n.render })),
    )
    // a sign of life, so that a dropped line is noticed
    const alive = interval(ALIVE).pipe(
      map(() => ({ type: 'alive', data: '' })),
      takeUntil(this.renders.news.pipe(last(null, null))),
    )
    return merge(news, alive).pipe(takeUntil(this.accounts.until(request.cookies[COOKIE]!, ALIVE)))
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
