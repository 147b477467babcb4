import { Body, Controller, Delete, Get, HttpCode, Inject, Post, Req, Res, UseGuards } from '@nestjs/common'
import { signInSchema, signUpSchema, type Account as AccountAnswer } from '@nimble-quill/contracts'
import { ThrottlerGuard } from '@nestjs/throttler'
import type { Response } from 'express'
import type { z } from 'zod'
import { CONFIG, type Config } from '../config.ts'
import type { Account } from '../database/models.ts'
import { notFound } from '../problems/problem.ts'
import { checked } from '../problems/zod.pipe.ts'
import { AccountsService } from './accounts.service.ts'
import { AccountThrottle } from './sign-in.guard.ts'
import { COOKIE, Me, Open, type SignedIn } from './session.guard.ts'

const answer = ({ id, name, email }: Account): AccountAnswer => ({ id, name, email })

@Controller('api')
export class AccountsController {
  private readonly config: Config
  private readonly accounts: AccountsService

  constructor(@Inject(CONFIG) config: Config, accounts: AccountsService) {
    this.config = config
    this.accounts = accounts
  }

  @Open()
  @Get('welcome')
  async welcome(): Promise<{ demo: boolean }> {
    return { demo: this.config.demo && (await this.accounts.demo()) !== null }
  }

  @Open()
  @UseGuards(ThrottlerGuard)
  @Post('accounts')
  async signUp(@Body(checked(signUpSchema)) body: z.output<typeof signUpSchema>, @Res({ passthrough: true }) response: Response): Promise<AccountAnswer> {
    return this.enter(await this.accounts.signUp(body.name, body.email, body.password), response)
  }

  @Open()
  @UseGuards(ThrottlerGuard, AccountThrottle)
  @Post('session')
  @HttpCode(200)
  async signIn(@Body(checked(signInSchema)) body: z.output<typeof signInSchema>, @Res({ passthrough: true }) response: Response): Promise<AccountAnswer> {
    return this.enter(await this.accounts.signIn(body.email, body.password), response)
  }

  @Open()
  @Post('session/demo')
  @HttpCode(200)
  async demo(@Res({ passthrough: true }) response: Response): Promise<AccountAnswer> {
    const account = this.config.demo ? await this.accounts.demo() : null
    if (!account) throw notFound('demo studio')
    return this.enter(account, response)
  }

  @Get('session')
  who(@Me() account: Account): AccountAnswer {
    return answer(account)
  }

  @Delete('session')
  @HttpCode(204)
  async signOut(@Req() request: SignedIn, @Res({ passthrough: true }) response: Response): Promise<void> {
    await this.accounts.end(request.cookies[COOKIE]!)
    response.clearCookie(COOKIE, { path: '/' })
  }

  private async enter(account: Account, response: Response): Promise<AccountAnswer> {
    const { token, maxAge } = await this.accounts.begin(account)
    response.cookie(COOKIE, token, { httpOnly: true, sameSite: 'lax', secure: this.config.tls, path: '/', maxAge })
    return answer(account)
  }
}
