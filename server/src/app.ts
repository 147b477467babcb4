import 'reflect-metadata'
import { NestFactory } from '@nestjs/core'
import type { NestExpressApplication } from '@nestjs/platform-express'
import cookieParser from 'cookie-parser'
import helmet from 'helmet'
import { AppModule } from './app.module.ts'
import type { Config } from './config.ts'
import { Database, migrate } from './database/database.module.ts'
import { ProblemFilter } from './problems/problem.filter.ts'

/** Builds the application with its tables brought up to date; it does not listen yet. */
export async function createApp(config: Config, quiet = false): Promise<NestExpressApplication> {
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(config), {
    logger: quiet ? false : ['error', 'warn'],
    bodyParser: false,
    abortOnError: false,
  })
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          'default-src': ["'self'"],
          'script-src': ["'self'", "'wasm-unsafe-eval'"],
          'worker-src': ["'self'", 'blob:'],
          // Mantine writes its variables into style elements
          'style-src': ["'self'", "'unsafe-inline'"],
          'img-src': ["'self'", 'blob:', 'data:'],
          'font-src': ["'self'", 'data:'],
          'connect-src': ["'self'"],
          'object-src': ["'none'"],
          'base-uri': ["'self'"],
          'frame-ancestors': ["'none'"],
          'form-action': ["'self'"],
        },
      },
      crossOriginEmbedderPolicy: { policy: 'require-corp' },
      crossOriginOpenerPolicy: { policy: 'same-origin' },
      crossOriginResourcePolicy: { policy: 'same-origin' },
      strictTransportSecurity: config.tls,
    }),
  )
  app.use(cookieParser())
  app.useBodyParser('json', { limit: '20mb' })
  app.useGlobalFilters(new ProblemFilter())
  app.enableShutdownHooks()
  await migrate(app.get(Database).sequelize)
  return app
}
