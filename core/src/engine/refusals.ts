import type { Layer, StepUse } from '../artwork/schema.ts'
import { QuillError } from '../base/errors.ts'
import type { AnyStep } from '../steps/contract.ts'

// What of a document this engine cannot compute yet.

/** Sources that are still to come, in words. */
export const SOURCES = {
  lettering: 'lettering as its source',
}

/** What of a document this engine cannot compute yet is refused by name, not left out. */
export function refuse(what: string, of: string, details: Record<string, unknown>): never {
  throw new QuillError('not-supported', `${of} has ${what}, which this version cannot compute. The artwork is left as it is.`, details)
}

/** Refuses what a layer has. Throws QuillError `not-supported`. */
export function refuseUnsupported(layer: Layer): void {
  const what = layer.inset ? 'an inset' : null
  if (what) refuse(what, `Layer “${layer.name}”`, { layer: layer.id })
}

/** Refuses what a step is given. Throws QuillError `not-supported`. */
export function refuseUnsupportedStep(use: StepUse, { title, inputs }: AnyStep): void {
  const strange = Object.keys(use.inputs).find((name) => !inputs?.[name])
  if (strange !== undefined) refuse(`another picture to read (“${strange}”)`, `The step “${title}”`, { step: use.id })
}
