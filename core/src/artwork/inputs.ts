import { stepAt } from '../steps/registry.ts'
import { layerLists, mapLayer } from './layers.ts'
import type { Artwork, StepUse } from './schema.ts'
import { findLiveCycle } from './cycles.ts'

/**
 * A step with its other pictures chosen, as it is put into a chain: the nearest layer beneath, else above, in the same list, that is not made of this one.
 * None where there is none.
 */
export function withInputs(artwork: Artwork, layer: string, use: StepUse): StepUse {
  const names = Object.keys(stepAt(use.step, use.version).inputs ?? {}).filter((name) => !use.inputs[name])
  if (names.length === 0) return use
  const list = [...layerLists(artwork.layers)].find((l) => l.some((x) => x.id === layer)) ?? []
  const at = list.findIndex((l) => l.id === layer)
  for (const { id } of [...list.slice(0, Math.max(0, at)).reverse(), ...list.slice(at + 1)]) {
    const inputs = { ...use.inputs, ...Object.fromEntries(names.map((name) => [name, { type: 'layer' as const, layer: id, steps: null }])) }
    const chosen = { ...use, inputs }
    const tried = mapLayer(artwork.layers, layer, (l) => ({ ...l, chain: [...l.chain, chosen] }))
    if (!findLiveCycle(tried)) return chosen
  }
  return use
}
