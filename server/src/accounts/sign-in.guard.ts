import { Injectable } from '@nestjs/common'
import { ThrottlerGuard } from '@nestjs/throttler'

/** Counts tries by the e-mail address that is tried, wherever they come from; beside the count by the sender's address. */
@Injectable()
export class AccountThrottle extends ThrottlerGuard {
  protected override async getTracker(request: { body?: { email?: unknown } }): Promise<string> {
    return `account ${String(request.body?.email ?? '')
      .trim()
      .toLowerCase()}`
  }
}
