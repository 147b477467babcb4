import { Body, Controller, Delete, Get, HttpCode, Param, Put } from '@nestjs/common'
import { keepValuesSchema, type KeepValues, type KeptValues } from '@nimble-quill/contracts'
import { Me } from '../accounts/session.guard.ts'
import type { Account } from '../database/models.ts'
import { idOf } from '../problems/id.pipe.ts'
import { checked } from '../problems/zod.pipe.ts'
import { keptAnswer, KeptValuesService } from './kept-values.service.ts'

@Controller('api/kept-values')
export class KeptValuesController {
  private readonly kept: KeptValuesService

  constructor(kept: KeptValuesService) {
    this.kept = kept
  }

  @Get()
  async list(@Me() me: Account): Promise<KeptValues[]> {
    return (await this.kept.list(me.id)).map(keptAnswer)
  }

  @Put()
  async keep(@Me() me: Account, @Body(checked(keepValuesSchema)) body: KeepValues): Promise<KeptValues> {
    return keptAnswer(await this.kept.keep(me.id, body))
  }

  @Delete(':id')
  @HttpCode(204)
  forget(@Me() me: Account, @Param('id', idOf('set of values')) id: string): Promise<void> {
    return this.kept.forget(me.id, id)
  }
}
