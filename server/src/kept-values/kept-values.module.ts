import { Module } from '@nestjs/common'
import { KeptValuesController } from './kept-values.controller.ts'
import { KeptValuesService } from './kept-values.service.ts'

@Module({ controllers: [KeptValuesController], providers: [KeptValuesService] })
export class KeptValuesModule {}
