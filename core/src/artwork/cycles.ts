import { layerLists } from '../artwork/layers.ts'
import type { Layer } from '../artwork/schema.ts'

/**
 * Layers that are made out of each other in a circle, by name, or null. A live copy depends on the layer it copies,
 * “what lies below” on all layers beneath in its group, a group on its layers.
 */
export function findLiveCycle(layers: readonly Layer[]): string[] | null {
  const needs = new Map<string, string[]>()
  const names = new Map<string, string>()
  for (const list of layerLists(layers)) {
    list.forEach((layer, i) => {
      names.set(layer.id, layer.name)
      const { source } = layer
      needs.set(
        layer.id,
        source.type === 'live'
          ? [source.layer]
          : source.type === 'below'
            ? list.slice(0, i).map((l) => l.id)
            : source.type === 'group'
              ? source.layers.map((l) => l.id)
              : [],
      )
    })
  }
  const state = new Map<string, 'open' | 'done'>()
  const path: string[] = []
  const visit = (id: string): string[] | null => {
    if (state.get(id) === 'done') return null
    if (state.get(id) === 'open') return [...path.slice(path.indexOf(id)), id]
    state.set(id, 'open')
    path.push(id)
    for (const n of needs.get(id) ?? []) {
      const found = visit(n)
      if (found) return found
    }
    path.pop()
    state.set(id, 'done')
    return null
  }
  for (const id of needs.keys()) {
    const found = visit(id)
    if (found) return found.map((i) => names.get(i) ?? i)
  }
  return null
}
