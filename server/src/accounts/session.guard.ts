import { createParamDecorator, Injectable, SetMetadata, type CanActivate, type ExecutionContext } from '@nestjs/common'
import { Reflector } from '@nestjs/core'
import type { NextFunction, Request, Response } from 'express'
import type { Account } from '../database/models.ts'
import { ProblemException } from '../problems/problem.ts'
import { AccountsService } from './accounts.service.ts'

export const COOKIE = 'quill'
const OPEN = 'open'

/** Marks a route that needs no session. */
export const Open = () => SetMetadata(OPEN, true)

export type SignedIn = Request & { account?: Account; cookies: Record<string, string> }

/** The signed-in account of a request. */
export const Me = createParamDecorator((_: unknown, context: ExecutionContext) => context.switchToHttp().getRequest<SignedIn>().account!)

/** Says whose session a request belongs to, before its body is read: strangers may send little. */
export function whoComes(accounts: AccountsService) {
  return (request: SignedIn, _: Response, next: NextFunction): void => {
    const token = request.cookies[COOKIE]
    if (!token) return next()
    accounts.whose(token).then((account) => {
      if (account) request.account = account
      next()
    }, next)
  }
}

/** Lets only signed-in accounts through, and changes only from pages of this server. */
@Injectable()
export class SessionGuard implements CanActivate {
  private readonly reflector: Reflector

  constructor(reflector: Reflector) {
    this.reflector = reflector
  }

  canActivate(context: ExecutionContext): boolean {
    const request = context.switchToHttp().getRequest<SignedIn>()
    const { origin } = request.headers
    if (!['GET', 'HEAD', 'OPTIONS'].includes(request.method) && origin !== undefined && !sameHost(origin, request.headers.host)) {
      throw new ProblemException(403, 'other-origin', 'Refused', 'The request came from another site. Nothing was changed.')
    }
    if (request.account || this.reflector.getAllAndOverride<boolean>(OPEN, [context.getHandler(), context.getClass()])) return true
    throw new ProblemException(
      401,
      'not-signed-in',
      'Not signed in',
      'You are not signed in, or the session has ended. Sign in; unsaved changes stay in this browser.',
    )
  }
}

function sameHost(origin: string, host: string | undefined): boolean {
  try {
    return new URL(origin).host === host
  } catch {
    return false
  }
}
