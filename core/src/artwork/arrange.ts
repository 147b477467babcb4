import { QuillError } from '../base/errors.ts'
import { identity, inverse, kindOf, times, type Matrix } from '../base/transform.ts'
import { stepAt } from '../steps/registry.ts'
import { allLayers, freshId, layerLists, locate, namedLayers, newLayer, renameLayers } from './layers.ts'
import { tidied } from './placing.ts'
import { identityPlacement, type Artwork, type Layer, type StepUse } from './schema.ts'
import { isStill, spaceOf, toSheet } from './spaces.ts'

// How layers and groups are arranged: moved among each other, put into groups and out of them, copied. On a draft, which is changed.

const plain = <T>(v: T): T => JSON.parse(JSON.stringify(v)) as T

/** The list that a group holds, or the artwork's own. @throws QuillError `unknown-layer`, `command-refused` */
export function listOf(draft: Artwork, group: string | null | undefined): Layer[] {
  if (!group) return draft.layers
  const { layer } = locate(draft.layers, group)
  if (layer.source.type !== 'group') throw new QuillError('command-refused', `“${layer.name}” is not a group.`)
  return layer.source.layers
}

/** The layer itself and all that it holds. */
const withinOf = (layer: Layer): Layer[] => [layer, ...(layer.source.type === 'group' ? allLayers(layer.source.layers) : [])]

/** Layers by their ids from the lowest to the highest, without those that one of the others holds. @throws QuillError `unknown-layer` */
export function inTheirOrder(layers: readonly Layer[], ids: readonly string[]): Layer[] {
  for (const id of ids) locate(layers as Layer[], id)
  const asked = new Set(ids)
  const found: Layer[] = []
  const visit = (list: readonly Layer[]): void => {
    for (const l of list) {
      if (asked.has(l.id)) found.push(l)
      else if (l.source.type === 'group') visit(l.source.layers)
    }
  }
  visit(layers)
  return found
}

/** Takes layers out and puts them, in their order, into a list; `index` is counted while they are still there. @throws QuillError `command-refused` */
export function moveLayers(draft: Artwork, ids: readonly string[], group: string | null, index: number): void {
  const moved = inTheirOrder(draft.layers, ids)
  const inside = new Set(moved.flatMap((l) => withinOf(l).map((w) => w.id)))
  if (group !== null && inside.has(group))
    throw new QuillError('command-refused', `“${locate(draft.layers, group).layer.name}” cannot be put into itself. The layers are left where they were.`)
  const to = listOf(draft, group)
  let at = Math.max(0, Math.min(to.length, Math.trunc(index)))
  // where they lie on the sheet they stay, whatever group they come from or into
  const back = inverse(group === null ? identity : toSheet(draft, locate(draft.layers, group).layer))
  const copies = moved.map((l) => {
    const way = back && times(back, spaceOf(draft.layers, l.id))
    return way && kindOf(way) !== 'still' ? laidBy(plain(l), way) : plain(l)
  })
  for (const { id } of copies) {
    const { list, index: was } = locate(draft.layers, id)
    if (list === to && was < at) at--
    list.splice(was, 1)
  }
  to.splice(at, 0, ...copies)
}

/** A layer laid by one map more. */
const laidBy = (layer: Layer, way: Matrix): Layer => ({
  ...layer,
  placement: { ...layer.placement, matrix: [...tidied(times(way, layer.placement.matrix))] as Layer['placement']['matrix'] },
})

/** Puts layers into a new open group, which stands where the highest of them stood: so the picture stays where they lay side by side. */
export function groupLayers(draft: Artwork, ids: readonly string[], group: string, name: string): void {
  const members = inTheirOrder(draft.layers, ids)
  if (members.length === 0) throw new QuillError('command-refused', 'A group is made of layers. Choose some first.')
  const { list, index } = locate(draft.layers, members.at(-1)!.id)
  // what followed the layer that is now the lowest of the group has something else below it
  list.splice(index + 1, 0, newLayer(name, { type: 'group', isolated: false, layers: [] }, [], group))
  moveLayers(
    draft,
    members.map((l) => l.id),
    group,
    0,
  )
}

/** Layers that name one that is to go, and are not to go themselves. */
function usersOf(draft: Artwork, gone: ReadonlySet<string>): Layer | undefined {
  for (const list of layerLists(draft.layers)) for (const l of list) if (!gone.has(l.id) && namedLayers(l).some((id) => gone.has(id))) return l
  return undefined
}

/** @throws QuillError `command-refused` where another layer is made of one of them, live */
export function removeLayers(draft: Artwork, ids: readonly string[]): void {
  const going = inTheirOrder(draft.layers, ids)
  const gone = new Set(going.flatMap((l) => withinOf(l).map((w) => w.id)))
  // a panel whose layer goes is a panel of its sheet again
  for (const { source } of allLayers(draft.layers)) {
    if (source.type === 'panels') for (const p of source.panels) if (p.own !== null && gone.has(p.own)) p.own = null
  }
  const user = usersOf(draft, gone)
  if (user) {
    const used = going.find((l) => withinOf(l).some((w) => namedLayers(user).includes(w.id)))!
    throw new QuillError(
      'command-refused',
      `“${used.name}” cannot be deleted: “${user.name}” is made from it, live. Make that one its own or delete it first, or hide this one.`,
      { layer: used.id, usedBy: user.id },
    )
  }
  for (const { id } of going) {
    const { list, index } = locate(draft.layers, id)
    list.splice(index, 1)
  }
}

/** Puts a group's layers where it stood. What the group did itself (steps, mask, blend, opacity) goes with it. @throws QuillError `command-refused` */
export function ungroup(draft: Artwork, id: string): void {
  const { list, index, layer } = locate(draft.layers, id)
  if (layer.source.type !== 'group') throw new QuillError('command-refused', `“${layer.name}” is not a group.`)
  const user = usersOf(draft, new Set([id]))
  if (user)
    throw new QuillError('command-refused', `“${layer.name}” stays a group: “${user.name}” is made from it, live. Make that one its own first.`, {
      layer: id,
      usedBy: user.id,
    })
  const { visible } = layer
  list.splice(index, 1, ...plain(layer.source.layers).map((l) => ({ ...laidBy(l, layer.placement.matrix), visible: l.visible && visible })))
}

/** A copy of a layer and all it holds under new ids; what it names of its own is the copy's. */
export function copyOfLayer(layer: Layer, next: () => string = freshId): Layer {
  const renamed = new Map<string, string>()
  const copyOf = (l: Layer): Layer => {
    const id = next()
    renamed.set(l.id, id)
    return {
      ...plain(l),
      id,
      chain: l.chain.map((s) => ({ ...plain(s), id: next() }) as StepUse),
      source: l.source.type === 'group' ? { ...l.source, layers: l.source.layers.map(copyOf) } : { ...l.source },
    }
  }
  const copy = copyOf(layer)
  for (const l of allLayers([copy])) {
    renameLayers(l, (id) => renamed.get(id) ?? id)
    // panels that were taken out stand over the sheet they were taken from
    if (l.source.type === 'panels') {
      const own = new Set(renamed.values())
      l.source = { ...l.source, panels: l.source.panels.map((p) => (p.own !== null && !own.has(p.own) ? { ...p, own: null } : p)) }
    }
  }
  return copy
}

/**
 * Makes a live copy a layer of its own: a group that holds what it was copied from, under the steps that the copy had.
 * @throws QuillError `command-refused`
 */
export function makeOwn(draft: Artwork, id: string, next: () => string = freshId): void {
  const { layer } = locate(draft.layers, id)
  if (layer.source.type !== 'live') throw new QuillError('command-refused', `“${layer.name}” is its own already.`)
  const from = locate(draft.layers, layer.source.layer)
  const reads = withinOf(from.layer).find((l) => l.source.type === 'below' || l.source.type === 'mend')
  if (reads && (reads === from.layer || !(from.layer.source.type === 'group' && from.layer.source.isolated)))
    throw new QuillError(
      'command-refused',
      `“${layer.name}” stays live: “${reads.name}” is made of what lies below it there, and here something else lies below. Nothing was changed.`,
    )
  // its picture is what its chain makes: how it was mixed with what lay below, and where, is not in the copy
  const copy = {
    ...copyOfLayer(from.layer, next),
    name: from.layer.name,
    visible: true,
    locked: false,
    followsBelow: false,
    mask: null,
    blend: 'normal' as const,
    opacity: 1,
    span: null,
    spanBelow: null,
    placement: identityPlacement,
  }
  // what acted on paper before it was copied is laid elsewhere with the copy
  const moves = !isStill(layer) && copy.chain.some((use) => stepAt(use.step, use.version).onPaper)
  if (layer.lightMap || layer.study || moves || copy.source.type === 'group') layer.source = { type: 'group', isolated: true, layers: [copy] }
  else {
    layer.source = copy.source
    layer.lightMap = copy.lightMap
    layer.study = copy.study
    layer.chain = [...copy.chain, ...layer.chain]
  }
}

/** The layer that keeps one from being changed: itself, or a group that it is in; null where none is locked. */
export function lockedBy(layers: readonly Layer[], id: string): Layer | null {
  const visit = (list: readonly Layer[], locked: Layer | null): Layer | null | undefined => {
    for (const l of list) {
      const by = locked ?? (l.locked ? l : null)
      if (l.id === id) return by
      if (l.source.type === 'group') {
        const found = visit(l.source.layers, by)
        if (found !== undefined) return found
      }
    }
    return undefined
  }
  return visit(layers, null) ?? null
}
