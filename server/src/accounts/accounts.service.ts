import { createHash, randomBytes } from 'node:crypto'
import { Injectable } from '@nestjs/common'
import { hash, verify } from '@node-rs/argon2'
import { filter, merge, Subject, switchMap, take, timer, type Observable } from 'rxjs'
import { Op, UniqueConstraintError } from 'sequelize'
import { Account, Session } from '../database/models.ts'
import { ProblemException } from '../problems/problem.ts'

export const DEMO_EMAIL = 'studio@brackwater.example'
const DAYS = 30

const sha256 = (s: string) => createHash('sha256').update(s).digest('hex')

/** Accounts and their sessions. */
@Injectable()
export class AccountsService {
  /** A hash that no password fits, so that an unknown address takes as long as a known one. */
  private nobody: Promise<string> | null = null
  private readonly ended = new Subject<string>()

  async signUp(name: string, email: string, password: string): Promise<Account> {
    // argon2id with the library's defaults (OWASP's first choice: 19 MiB, 2 passes)
    const passwordHash = await hash(password)
    try {
      return await Account.create({ name, email, passwordHash })
    } catch (error) {
      if (error instanceof UniqueConstraintError)
        throw new ProblemException(409, 'email-taken', 'Already signed up', 'There is already an account with this e-mail address. Sign in instead.')
      throw error
    }
  }

  async signIn(email: string, password: string): Promise<Account> {
    const account = await Account.findOne({ where: { email } })
    // the same work and the same answer whether the address or the password is wrong
    this.nobody ??= hash(randomBytes(16).toString('hex'))
    const right = await verify(account?.passwordHash ?? (await this.nobody), password)
    if (!account?.passwordHash || !right)
      throw new ProblemException(401, 'sign-in-failed', 'Not signed in', 'E-mail address or password is not right. Check both and try again.')
    return account
  }

  /** The demo studio's account, or null where it was not set up. */
  demo(): Promise<Account | null> {
    return Account.findOne({ where: { email: DEMO_EMAIL } })
  }

  /** A new session; the token goes into the cookie, its hash into the table. */
  async begin(account: Account): Promise<{ token: string; maxAge: number }> {
    const token = randomBytes(32).toString('base64url')
    const maxAge = DAYS * 24 * 3600 * 1000
    await Session.create({ tokenHash: sha256(token), accountId: account.id, expiresAt: new Date(Date.now() + maxAge) })
    await Session.destroy({ where: { expiresAt: { [Op.lt]: new Date() } } })
    return { token, maxAge }
  }

  /** The account of a session that has not ended, by one query. */
  async whose(token: string): Promise<Account | null> {
    const session = await Session.findOne({
      where: { tokenHash: sha256(token), expiresAt: { [Op.gt]: new Date() } },
      include: [{ model: Account, as: 'account', required: true }],
    })
    return session?.account ?? null
  }

  async end(token: string): Promise<void> {
    await Session.destroy({ where: { tokenHash: sha256(token) } })
    this.ended.next(token)
  }

  /** Completes when a session has ended: at once when it is ended here, else when it is looked for and not found. */
  until(token: string, every: number): Observable<unknown> {
    const gone = timer(every, every).pipe(
      // a database that is away does not end sessions
      switchMap(() => this.whose(token).catch(() => true)),
      filter((account) => account === null),
    )
    return merge(this.ended.pipe(filter((t) => t === token)), gone).pipe(take(1))
  }
}
