import { Catch, HttpException, Logger, type ArgumentsHost, type ExceptionFilter } from '@nestjs/common'
import { QuillError } from '@nimble-quill/core'
import type { Request, Response } from 'express'
import { ConnectionError, DatabaseError } from 'sequelize'
import { ProblemException, statusOf } from './problem.ts'

const DISK_FULL =
  'The disk of the server is full. What was saved before is safe, and this change stays in your browser; make room on the server, then save again.'

/** ER_SERVER_SHUTDOWN and ER_CONNECTION_KILLED (MariaDB Knowledge Base, “MariaDB Error Codes”). */
const [SHUTTING_DOWN, KILLED] = [1053, 1927]

const tooLarge = () =>
  new ProblemException(413, 'too-large', 'Too large', 'The request is larger than is taken: 2 MB of JSON, and 16 kB before signing in. Nothing was changed.')

const databaseAway = () =>
  new ProblemException(
    503,
    'database-away',
    'The database does not answer',
    'The database does not answer just now. What was saved before is safe, and unsaved changes stay in your browser; it is tried again by itself.',
  )

/** Turns whatever was thrown into problem details. */
export function problemFrom(error: unknown): ProblemException | null {
  if (error instanceof ProblemException) return error
  if (error instanceof QuillError) return new ProblemException(statusOf[error.code] ?? 500, error.code, 'Not possible', error.message)
  if (error instanceof ConnectionError || (error as { name?: string })?.name === 'SequelizeConnectionAcquireTimeoutError') {
    return databaseAway()
  }
  const code = (error as NodeJS.ErrnoException)?.code
  // the body's reader has errors of its own
  if ((error as { type?: string })?.type === 'entity.too.large') return tooLarge()
  if (code === 'ENOSPC') return new ProblemException(507, 'disk-full', 'Disk full', DISK_FULL)
  if (error instanceof DatabaseError) {
    const { errno, fatal, code: why } = error.original as { errno?: number; fatal?: boolean; code?: string }
    // the connection broke under the query: the driver marks such errors as fatal
    if (fatal || errno === SHUTTING_DOWN || errno === KILLED || why?.startsWith('ECONN') || why === 'EPIPE') return databaseAway()
    // ER_DISK_FULL, ER_RECORD_FILE_FULL, and the operating system's "no space left"
    if (errno === 1021 || errno === 1114 || /Errcode: 28|No space left/.test(error.message))
      return new ProblemException(507, 'disk-full', 'Disk full', DISK_FULL)
  }
  if (error instanceof HttpException) {
    const status = error.getStatus()
    if (status === 404) return new ProblemException(404, 'not-found', 'Not found', 'There is nothing at this address.')
    if (status === 429) return new ProblemException(429, 'too-many', 'Too many tries', 'Too many tries in a short time. Wait a minute, then try again.')
    // Nest wraps the body parser's failures
    if (status === 400 && /JSON/.test(error.message))
      return new ProblemException(400, 'not-json', 'Not JSON', 'The request is not valid JSON. Nothing was changed.')
    if (status === 413) return tooLarge()
    return new ProblemException(status, 'refused', 'Refused', error.message)
  }
  return null
}

/** Answers every failure as application/problem+json; unexpected ones are logged and answered without their insides. */
@Catch()
export class ProblemFilter implements ExceptionFilter {
  private readonly log = new Logger('problem')

  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>()
    const request = host.switchToHttp().getRequest<Request>()
    let problem = problemFrom(error)
    if (!problem) {
      this.log.error(`${request.method} ${request.path}`, error instanceof Error ? error.stack : String(error))
      problem = new ProblemException(
        500,
        'fault',
        'A fault of the program',
        'Something went wrong on the server that should not have. What was saved before is safe; try again, and tell us if it happens twice.',
      )
    }
    if (response.headersSent) {
      response.end()
      return
    }
    // only success is kept by caches
    response.set('Cache-Control', 'no-store')
    response.status(problem.getStatus()).type('application/problem+json').send(JSON.stringify(problem.problem))
  }
}
