import { isOpenGroup, layerLists, namedLayers } from './layers.ts'
import { QuillError } from '../base/errors.ts'
import type { Layer } from './schema.ts'

/**
 * Layers that are made out of each other in a circle, by name, or null. A live copy depends on the layer it copies,
 * “what lies below” on all layers beneath in its group, a group on its layers.
 */
export function findLiveCycle(layers: readonly Layer[]): string[] | null {
  const { needs, names } = needsOf(layers, readsBelow)
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

/** Layers that would be made out of themselves if those that `alsoBelow` names were made of what lies below them, too; by id. */
export function wouldCircle(layers: readonly Layer[], alsoBelow: (layer: Layer) => boolean): ReadonlySet<string> {
  const { needs } = needsOf(layers, (layer) => readsBelow(layer) || alsoBelow(layer))
  const circular = new Set<string>()
  for (const list of layerLists(layers)) {
    for (const { id } of list.filter(alsoBelow)) {
      const seen = new Set<string>()
      const rest = [...(needs.get(id) ?? [])]
      while (rest.length > 0) {
        const next = rest.pop()!
        if (seen.has(next)) continue
        seen.add(next)
        rest.push(...(needs.get(next) ?? []))
      }
      if (seen.has(id)) circular.add(id)
    }
  }
  return circular
}

/** What each layer is made of, and the layers' names, by id. */
function needsOf(layers: readonly Layer[], below: (layer: Layer) => boolean): { needs: ReadonlyMap<string, string[]>; names: ReadonlyMap<string, string> } {
  const needs = new Map<string, string[]>()
  const names = new Map<string, string>()
  // what lies below the layers of an open group goes on beneath it
  const beneath = new Map<readonly Layer[], readonly string[]>()
  for (const list of layerLists(layers)) {
    list.forEach((layer, i) => {
      if (layer.source.type === 'group' && isOpenGroup(list, i))
        beneath.set(layer.source.layers, [...(beneath.get(list) ?? []), ...list.slice(0, i).map((l) => l.id)])
      names.set(layer.id, layer.name)
      needs.set(layer.id, [
        ...namedLayers(layer),
        ...(layer.source.type === 'group' ? layer.source.layers.map((l) => l.id) : []),
        ...(below(layer) ? [...(beneath.get(list) ?? []), ...list.slice(0, i).map((l) => l.id)] : []),
      ])
    })
  }
  return { needs, names }
}

const readsBelow = ({ source }: Layer): boolean => source.type === 'below' || source.type === 'mend' || (source.type === 'panels' && source.of === null)

/** The error that names such a circle. */
export const liveCycle = (layers: readonly string[]): QuillError =>
  new QuillError('live-cycle', `Layers are made out of each other in a circle: ${layers.join(' → ')}. Give one of them another source.`, { layers })
