import { Injectable } from '@nestjs/common'
import { Op, QueryTypes } from 'sequelize'
import { Database } from '../database/database.module.ts'
import { Render } from '../database/models.ts'

/** Where waiting renders are taken from. Another transport would stand behind the same calls. */
export interface RenderQueue {
  /** Claims the next render for `seconds`, or null. One that a dead process left running comes back by itself. */
  claim(seconds: number): Promise<Render | null>
  /** Sign of life; answers whether it was cancelled meanwhile. */
  renew(id: string, seconds: number, progress: number): Promise<{ cancelled: boolean }>
}

/** The queue in the table of renders itself. */
@Injectable()
export class TableQueue implements RenderQueue {
  private readonly database: Database

  constructor(database: Database) {
    this.database = database
  }

  async claim(seconds: number): Promise<Render | null> {
    const { sequelize } = this.database
    return sequelize.transaction(async (transaction) => {
      const rows = await sequelize.query<{ id: string }>(
        `SELECT id FROM renders WHERE state = 'waiting' OR (state = 'running' AND leaseUntil < :now)
         ORDER BY createdAt LIMIT 1 FOR UPDATE SKIP LOCKED`,
        { replacements: { now: new Date() }, type: QueryTypes.SELECT, transaction },
      )
      if (rows.length === 0) return null
      const render = (await Render.findByPk(rows[0]!.id, { transaction }))!
      return render.update({ state: 'running', progress: 0, leaseUntil: new Date(Date.now() + seconds * 1000) }, { transaction })
    })
  }

  async renew(id: string, seconds: number, progress: number): Promise<{ cancelled: boolean }> {
    await Render.update({ leaseUntil: new Date(Date.now() + seconds * 1000), progress }, { where: { id, state: 'running' } })
    return { cancelled: (await Render.count({ where: { id, [Op.or]: [{ cancelAsked: true }, { state: 'cancelled' }] } })) > 0 }
  }
}
