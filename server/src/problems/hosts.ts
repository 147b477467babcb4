import { isIP } from 'node:net'
import type { NextFunction, Request, Response } from 'express'
import type { Config } from '../config.ts'
import { ProblemException } from './problem.ts'

/**
 * Refuses requests to names that are not meant: a page elsewhere whose name is made to point here would else be taken for this server's own (DNS
 * rebinding). Plain addresses have no name that could be turned.
 */
export function knownHosts({ host, hosts }: Config) {
  const known = new Set(['localhost', host.toLowerCase(), ...hosts])
  return (request: Request, _: Response, next: NextFunction): void => {
    const name = nameOf(request.headers.host)
    if (name !== null && (isIP(name) !== 0 || known.has(name))) return next()
    next(
      new ProblemException(
        421,
        'unknown-host',
        'Unknown host',
        'This server does not go by that name. Nothing was changed; use the address it was started with, or name the host in QUILL_HOSTS.',
      ),
    )
  }
}

/** The host without its port, in small letters; an IPv6 address without its brackets. */
function nameOf(host: string | undefined): string | null {
  const found = /^(?:\[([0-9a-f:.]+)\]|([^:/?#@\\]+))(?::\d+)?$/i.exec(host ?? '')
  return found ? (found[1] ?? found[2]!).toLowerCase() : null
}
