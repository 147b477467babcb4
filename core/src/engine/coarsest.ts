import { halvings } from '../base/levels.ts'
import { spanTable, type Span } from '../blend/span.ts'
import { coarsestOf } from '../steps/steepness.ts'
import { walk, type Node } from './nodes.ts'

// The coarsest levels at which mixed pictures come out as at full size.

/** Coarser than any view. */
export const COARSEST = 16
/** Pixels of a level that the smallest length of a step must span for differences to come out as at full size (measured: tones within 2 % on the finest drawings). */
const SEEN = 3

/** The coarsest level at which the difference of two pictures is shown: that of the finest step that only one went through. */
export function coarsestDifference(below: Node, above: Node): number {
  const shared = new Set<Node>()
  walk(below, (n) => shared.add(n) && true)
  let finest = Infinity
  walk(above, (n) => {
    if (shared.has(n)) return false
    if (n.kind === 'step' && n.def.finest) finest = Math.min(finest, n.def.finest(n.params as never))
    return true
  })
  return finest === Infinity ? COARSEST : halvings(finest / SEEN)
}

const spans = new Map<string, number>()

/** The coarsest level at which a tonal span is seen: as for a table of its shape. */
export function coarsestSpan(span: Span | null): number {
  if (!span) return COARSEST
  const name = JSON.stringify(span)
  let level = spans.get(name)
  if (level === undefined) {
    if (spans.size > 500) spans.clear()
    spans.set(name, (level = coarsestOf(spanTable(span))))
  }
  return level
}
