import type { Response } from 'express'

/** Set when who asked has gone before the answer was sent. */
export function leaving(response: Response): AbortSignal {
  const left = new AbortController()
  response.once('close', () => {
    if (!response.writableFinished) left.abort()
  })
  return left.signal
}
