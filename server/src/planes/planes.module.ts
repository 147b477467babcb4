import { Global, Module } from '@nestjs/common'
import { PlanesController } from './planes.controller.ts'
import { PlanesService } from './planes.service.ts'

@Global()
@Module({ controllers: [PlanesController], providers: [PlanesService], exports: [PlanesService] })
export class PlanesModule {}
