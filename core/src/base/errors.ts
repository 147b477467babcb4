/** Every failure the core can explain. The code is stable; the message says what happened and what to do. */
export type QuillErrorCode =
  | 'too-many-marks'
  | 'no-lines'
  | 'file-unreadable'
  | 'artwork-invalid'
  | 'artwork-newer'
  | 'artwork-too-large'
  | 'recipe-invalid'
  | 'unknown-step'
  | 'unknown-step-version'
  | 'unknown-recipe'
  | 'unknown-control'
  | 'unknown-param'
  | 'param-invalid'
  | 'unknown-layer'
  | 'live-cycle'
  | 'missing-photo'
  | 'not-supported'
  | 'command-refused'
  | 'source-unreadable'
  | 'plane-unreadable'
  | 'paint-refused'
  | 'area-refused'
  | 'area-empty'
  | 'photo-empty'
  | 'photo-not-a-picture'
  | 'photo-spoilt'
  | 'photo-too-large'
  | 'render-failed'
  | 'out-of-memory'
  | 'kernel-failed'
  | 'cancelled'

/** A named, expected failure; anything else that is thrown is a fault of the program. */
export class QuillError extends Error {
  readonly code: QuillErrorCode
  readonly details: Readonly<Record<string, unknown>>

  constructor(code: QuillErrorCode, message: string, details: Record<string, unknown> = {}) {
    super(message)
    this.name = 'QuillError'
    this.code = code
    this.details = details
  }
}
