import 'reflect-metadata'
import { NestFactory } from '@nestjs/core'
import type { NestExpressApplication } from '@nestjs/platform-express'
import cookieParser from 'cookie-parser'
import { json, type NextFunction, type Response } from 'express'
import type { IncomingMessage, Server } from 'node:http'
import helmet from 'helmet'
import { AccountsService } from './accounts/accounts.service.ts'
import { whoComes, type SignedIn } from './accounts/session.guard.ts'
import { AppModule } from './app.module.ts'
import type { Config } from './config.ts'
import { Database, migrate } from './database/database.module.ts'
import { knownHosts } from './problems/hosts.ts'
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
  app.use(knownHosts(config))
  app.use(notIdle(config.idleSeconds * 1000))
  app.use('/api', cookieParser(), whoComes(app.get(AccountsService)))
  const [small, document] = [json({ limit: '16kb' }), json({ limit: '2mb' })]
  app.use('/api', (request: SignedIn, response: Response, next: NextFunction) => (request.account ? document : small)(request, response, next))
  app.useGlobalFilters(new ProblemFilter())
  await migrate(app.get(Database).sequelize)
  const server = app.getHttpServer() as Server
  // a large photo over a slow line may take as long as it moves
  server.requestTimeout = 0
  return app
}

/** Ends requests whose bodies come no further; how long it takes to answer them is another matter. */
const notIdle = (ms: number) => (request: IncomingMessage, _: Response, next: NextFunction) => {
  const whole = !Number(request.headers['content-length'] ?? 0) && request.headers['transfer-encoding'] === undefined
  if (!whole) {
    request.setTimeout(ms, () => request.destroy())
    request.once('end', () => request.setTimeout(0))
  }
  next()
}

/** How long what is being answered may go on once the server is to stop. */
const LAST_WORDS = 1500

/**
 * Stops the application whatever is open: no new connections, event streams ended, renders given back to the queue, what is being sent given a
 * moment, the database closed last (it closes on shutdown, all others on destruction).
 */
export async function stopApp(app: NestExpressApplication): Promise<void> {
  const server = app.getHttpServer() as Server
  server.close()
  server.closeIdleConnections()
  const cut = setTimeout(() => server.closeAllConnections(), LAST_WORDS)
  try {
    await app.close()
  } finally {
    clearTimeout(cut)
  }
}
