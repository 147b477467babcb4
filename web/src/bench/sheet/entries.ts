import { isOpenGroup, type Layer } from '@nimble-quill/core'

/** A row of the process sheet. */
export interface Entry {
  layer: Layer
  /** The group whose list it stands in; null: the artwork's own. */
  group: string | null
  /** Its place in that list from the bottom, and how many there are. */
  index: number
  of: number
  depth: number
  /** It stands on a layer that it follows. */
  follows: boolean
  /** A group whose layers lie on what is below it. */
  open: boolean
}

/** Rows from the top down, those in groups under their group's; what folded groups hold is left out. */
export function entriesOf(list: readonly Layer[], group: string | null = null, depth = 0): Entry[] {
  return list.flatMap((_, fromTop): Entry[] => {
    const index = list.length - 1 - fromTop
    const layer = list[index]!
    const entry = { layer, group, index, of: list.length, depth, follows: layer.followsBelow && index > 0, open: isOpenGroup(list, index) }
    return layer.source.type === 'group' && !layer.folded ? [entry, ...entriesOf(layer.source.layers as Layer[], layer.id, depth + 1)] : [entry]
  })
}

/** Where a row goes by one press of a key: in its list, and at the list's end out of its group. Null where there is no such place. */
export function stepped(
  entries: readonly Entry[],
  { layer, group, index, of }: Entry,
  up: boolean,
): { layers: string[]; list: string | null; index: number } | null {
  const layers = [layer.id]
  if (up ? index < of - 1 : index > 0) return { layers, list: group, index: up ? index + 2 : index - 1 }
  const owner = group === null ? undefined : entries.find((e) => e.layer.id === group)
  return owner ? { layers, list: owner.group, index: up ? owner.index + 1 : owner.index } : null
}

/** The place above a layer: in its own list; on top of what it holds where it is an unfolded group. */
export function placeAbove(layers: readonly Layer[], id: string): { list: string | null; index: number } {
  const visit = (list: readonly Layer[], group: string | null): { list: string | null; index: number } | null => {
    for (const [i, l] of list.entries()) {
      if (l.id === id) return l.source.type === 'group' && !l.folded ? { list: l.id, index: l.source.layers.length } : { list: group, index: i + 1 }
      const inside = l.source.type === 'group' ? visit(l.source.layers as Layer[], l.id) : null
      if (inside) return inside
    }
    return null
  }
  return visit(layers, null) ?? { list: null, index: layers.length }
}
