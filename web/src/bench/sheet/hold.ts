import type { Target } from '@nimble-quill/core'

/** Shows a target large while a proof is held. */
export type OnHold = (hold: { target: Target; note: string } | null) => void
