import { Global, Module } from '@nestjs/common'
import { APP_GUARD } from '@nestjs/core'
import { AccountsController } from './accounts.controller.ts'
import { AccountsService } from './accounts.service.ts'
import { SessionGuard } from './session.guard.ts'

@Global()
@Module({ controllers: [AccountsController], providers: [AccountsService, { provide: APP_GUARD, useClass: SessionGuard }], exports: [AccountsService] })
export class AccountsModule {}
