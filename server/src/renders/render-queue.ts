import { randomUUID } from 'node:crypto'
import { Injectable } from '@nestjs/common'
import { Op, QueryTypes } from 'sequelize'
import { Database } from '../database/database.module.ts'
import { Render } from '../database/models.ts'

/** How often a render is begun before it is given up. */
export const ATTEMPTS = 3

/** A claimed render, and the token that every later write about it must show. */
export interface Claimed {
  render: Render
  token: string
}

/** Where waiting renders are taken from. Another transport would stand behind the same calls. */
export interface RenderQueue {
  /**
   * Claims the next render for `seconds`, or null: of the account with the fewest running ones, then of the one that has waited longest for its turn.
   * One that a dead process left running comes back by itself, at the latest. The token begins with the eight hexadecimal digits of `mark`, which
   * names the process that claims.
   */
  claim(seconds: number, mark?: string): Promise<Claimed | null>
  /** Sign of life; answers whether the claim still holds, and whether the render was cancelled meanwhile. */
  renew(id: string, token: string, seconds: number, progress: number): Promise<{ held: boolean; cancelled: boolean }>
  /** Gives a render back, to be begun again; where the claim does not hold any more, nothing. */
  release(id: string, token: string, counts: boolean): Promise<void>
  /** Gives back all that processes of these marks had claimed; their attempts count. */
  releaseAllOf(marks: readonly string[]): Promise<void>
  /** Writes the end of a render; answers whether the claim still held. */
  end(id: string, token: string, end: Partial<Render>): Promise<boolean>
  /** Renders that were begun as often as they may be, and left: to be told as failed. */
  givenUp(): Promise<Claimed[]>
}

/** The queue in the table of renders itself. */
@Injectable()
export class TableQueue implements RenderQueue {
  private readonly database: Database

  constructor(database: Database) {
    this.database = database
  }

  async claim(seconds: number, mark?: string): Promise<Claimed | null> {
    const { sequelize } = this.database
    const now = new Date()
    const free = `(state = 'waiting' OR (state = 'running' AND leaseUntil < :now)) AND attempts < ${ATTEMPTS}`
    // no locks while choosing: of two who choose the same one, the update lets one have it
    const rows = await sequelize.query<{ id: string }>(
      `SELECT r.id FROM renders r
       LEFT JOIN (SELECT accountId, SUM(state = 'running' AND leaseUntil >= :now) AS busy, MAX(startedAt) AS served FROM renders GROUP BY accountId) a
         ON a.accountId = r.accountId
       WHERE ${free} ORDER BY a.busy, a.served, r.createdAt, r.id LIMIT 8`,
      { replacements: { now }, type: QueryTypes.SELECT },
    )
    for (const { id } of rows) {
      const token = mark ? `${mark}${randomUUID().slice(8)}` : randomUUID()
      const [, changed] = await sequelize.query(
        `UPDATE renders SET state = 'running', progress = 0, claim = :token, attempts = attempts + 1, startedAt = :now, leaseUntil = :until WHERE id = :id AND ${free}`,
        { replacements: { id, token, now, until: new Date(now.getTime() + seconds * 1000) }, type: QueryTypes.UPDATE },
      )
      const render = changed === 1 ? await Render.findByPk(id) : null
      if (render) return { render, token }
    }
    return null
  }

  async renew(id: string, token: string, seconds: number, progress: number): Promise<{ held: boolean; cancelled: boolean }> {
    await Render.update({ leaseUntil: new Date(Date.now() + seconds * 1000), progress }, { where: { id, claim: token, state: 'running' } })
    const row = await Render.findOne({ where: { id, claim: token }, attributes: ['state', 'cancelAsked'] })
    return { held: row?.state === 'running', cancelled: row?.cancelAsked ?? false }
  }

  async release(id: string, token: string, counts: boolean): Promise<void> {
    await this.database.sequelize.query(
      `UPDATE renders SET state = 'waiting', progress = 0, claim = NULL, leaseUntil = NULL, attempts = attempts - :back WHERE id = :id AND claim = :token AND state = 'running'`,
      { replacements: { id, token, back: counts ? 0 : 1 } },
    )
  }

  async releaseAllOf(marks: readonly string[]): Promise<void> {
    if (marks.length === 0) return
    await this.database.sequelize.query(
      `UPDATE renders SET state = 'waiting', progress = 0, claim = NULL, leaseUntil = NULL WHERE state = 'running' AND LEFT(claim, 8) IN (:marks)`,
      { replacements: { marks } },
    )
  }

  async end(id: string, token: string, end: Partial<Render>): Promise<boolean> {
    const [changed] = await Render.update({ ...end, finishedAt: new Date(), leaseUntil: null }, { where: { id, claim: token, state: 'running' } })
    return changed === 1
  }

  async givenUp(): Promise<Claimed[]> {
    const rows = await Render.findAll({
      where: {
        attempts: { [Op.gte]: ATTEMPTS },
        [Op.or]: [{ state: 'waiting' }, { state: 'running', leaseUntil: { [Op.lt]: new Date() } }],
      },
    })
    const found: Claimed[] = []
    for (const render of rows) {
      const token = randomUUID()
      const [changed] = await Render.update(
        { claim: token, state: 'running', leaseUntil: new Date(Date.now() + 10_000) },
        { where: { id: render.id, claim: render.claim, state: render.state } },
      )
      if (changed === 1) found.push({ render: await render.reload(), token })
    }
    return found
  }
}
