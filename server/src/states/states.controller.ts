import { Body, Controller, Delete, Get, HttpCode, Param, Put } from '@nestjs/common'
import { keepStateSchema, type KeepState, type State, type StateHead } from '@nimble-quill/contracts'
import { Me } from '../accounts/session.guard.ts'
import type { Account } from '../database/models.ts'
import { idOf } from '../problems/id.pipe.ts'
import { checked } from '../problems/zod.pipe.ts'
import { stateHead, StatesService } from './states.service.ts'

@Controller('api/artworks/:artwork/states')
export class StatesController {
  private readonly states: StatesService

  constructor(states: StatesService) {
    this.states = states
  }

  @Get()
  async list(@Me() me: Account, @Param('artwork', idOf('artwork')) artwork: string): Promise<StateHead[]> {
    return (await this.states.list(me.id, artwork)).map(stateHead)
  }

  @Put()
  async keep(@Me() me: Account, @Param('artwork', idOf('artwork')) artwork: string, @Body(checked(keepStateSchema)) body: KeepState): Promise<StateHead> {
    return stateHead(await this.states.keep(me.id, artwork, body))
  }

  @Get(':id')
  read(@Me() me: Account, @Param('artwork', idOf('artwork')) artwork: string, @Param('id', idOf('state')) id: string): Promise<State> {
    return this.states.read(me.id, artwork, id)
  }

  @Delete(':id')
  @HttpCode(204)
  forget(@Me() me: Account, @Param('artwork', idOf('artwork')) artwork: string, @Param('id', idOf('state')) id: string): Promise<void> {
    return this.states.forget(me.id, artwork, id)
  }
}
