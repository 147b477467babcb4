import { HttpException } from '@nestjs/common'
import type { Problem } from '@nimble-quill/contracts'
import type { QuillErrorCode } from '@nimble-quill/core'

/** An answer that says what went wrong (RFC 9457). */
export class ProblemException extends HttpException {
  readonly problem: Problem & Record<string, unknown>

  constructor(status: number, code: string, title: string, detail: string, more: Record<string, unknown> = {}) {
    super(detail, status)
    this.problem = { type: `urn:nimble-quill:${code}`, title, status, detail, code, ...more }
  }
}

/** How it answers for what is not there, and for what belongs to another account. */
export const notFound = (what: string) =>
  new ProblemException(404, 'not-found', 'Not found', `There is no such ${what}. It may have been deleted; go back to the desk to see what is there.`)

/** HTTP statuses of the core's named errors. */
export const statusOf: Partial<Record<QuillErrorCode, number>> = {
  'artwork-invalid': 422,
  'artwork-newer': 422,
  'artwork-too-large': 422,
  'recipe-invalid': 422,
  'unknown-step': 422,
  'unknown-step-version': 422,
  'unknown-recipe': 422,
  'unknown-control': 422,
  'unknown-param': 422,
  'param-invalid': 422,
  'too-many-marks': 422,
  'unknown-layer': 422,
  'live-cycle': 422,
  'plane-unreadable': 422,
  'paint-refused': 422,
  'area-refused': 422,
  'area-empty': 422,
  'missing-photo': 422,
  'not-supported': 422,
  'command-refused': 422,
  cancelled: 503,
  'kernel-failed': 503,
  'out-of-memory': 503,
  'photo-empty': 422,
  'photo-not-a-picture': 415,
  'photo-spoilt': 422,
  'photo-too-large': 413,
}
