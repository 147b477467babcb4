import type { Region } from '../base/region.ts'
import type { AnyStep } from '../steps/contract.ts'
import type { Ellipse, Place } from '../steps/params/index.ts'
import { inputsOf, type Node } from './nodes.ts'

// What may be computed at which level. Level n is 1/2ⁿ of full size, −1 is twice it.

export type StepNode = Node & { kind: 'step' }

/** Coarser than any view. */
export const COARSEST = 16
/** Long side of the picture that facts are measured on, at most. */
const ANALYSIS_SIDE = 1024
/** Long side of a study, and of another picture that a step measures, at most. */
export const STUDY_SIDE = 1536

/** The finest level at which a picture's long side has at most `side` pixels: its own size alone decides. */
export function analysisLevel(extent: Region, side = ANALYSIS_SIDE): number {
  let level = 0
  while (Math.max(extent.w, extent.h) / 2 ** level > side) level++
  return level
}

/** Parameters with their lengths and places in pixels of a level. */
export function paramsAt(def: Pick<AnyStep, 'params' | 'bySheet'>, params: Record<string, unknown>, level: number): Record<string, unknown> {
  const scale = 2 ** level
  const out: Record<string, unknown> = {}
  for (const [name, spec] of Object.entries(def.params)) {
    const value = params[name]
    if (spec.type === 'length') out[name] = (value as number) / scale
    else if (spec.type === 'place') out[name] = { x: (value as Place).x / scale, y: (value as Place).y / scale }
    else if (spec.type === 'ellipse') {
      const { x, y, rx, ry } = value as Ellipse
      out[name] = { x: x / scale, y: y / scale, rx: rx / scale, ry: ry / scale }
    } else out[name] = value
  }
  if (def.bySheet) out['sheet'] = params['sheet']
  // of what is not in the registry, values that are no parameters
  if (params['gradient'] !== undefined) out['gradient'] = params['gradient']
  return out
}

/** Whether a step must be computed row by row at its parameters. */
export function runsByRows({ def, params }: StepNode): boolean {
  return def.kind === 'sequential' && (def.carries?.(paramsAt(def, params, 0) as never) ?? true)
}

/** The coarsest level that a step itself may be computed at. */
export function coarsestOfStep(node: StepNode): number {
  return runsByRows(node) ? 0 : (node.def.coarsest?.(paramsAt(node.def, node.params, 0) as never) ?? COARSEST)
}

const known = new WeakMap<Node, number>()

/**
 * The coarsest level at which what a node shows is more than a reduced picture of something finer. What works pixel by pixel on such a
 * picture is done before it is reduced: it costs little, and hard borders stay right.
 */
export function coarsestAt(node: Node): number {
  const open = [node]
  while (open.length) {
    const n = open.at(-1)!
    const inputs = pointwise(n) ? inputsOf(n) : []
    const missing = known.has(n) ? [] : inputs.filter((i) => !known.has(i))
    if (missing.length) {
      open.push(...missing)
      continue
    }
    open.pop()
    if (known.has(n)) continue
    const own =
      n.kind === 'step' ? coarsestOfStep(n) : n.kind === 'over' || n.kind === 'replace' || n.kind === 'light' || n.kind === 'panels' ? n.coarsest : COARSEST
    known.set(n, Math.min(own, ...inputs.map((i) => known.get(i)!)))
  }
  return known.get(node)!
}

const pointwise = (n: Node): boolean =>
  n.kind === 'over' ||
  n.kind === 'replace' ||
  n.kind === 'light' ||
  n.kind === 'lit' ||
  (n.kind === 'step' && (n.def.kind === 'table' || n.def.kind === 'point'))
