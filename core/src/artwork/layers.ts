import { QuillError } from '../base/errors.ts'
import { identity, kindOf, times, type Matrix } from '../base/transform.ts'
import type { PictureRef } from '../steps/params/index.ts'
import { registry, stepAt, stepById } from '../steps/registry.ts'
import { identityPlacement, type Artwork, type Layer, type Source, type StepUse } from './schema.ts'

/** A short random id, unique inside an artwork. */
export function freshId(): string {
  return globalThis.crypto.randomUUID().replaceAll('-', '').slice(0, 12)
}

/** A step at its defaults (or with some values given), ready to be put into a chain. @param version an earlier one; the newest, where not given */
export function newStep(step: string, params: Record<string, unknown> = {}, id = freshId(), version?: number): StepUse {
  const def = version === undefined ? stepById(step) : stepAt(step, version)
  return { id, step, version: def.version, params: { ...def.defaults, ...params }, inputs: {}, on: true, opacity: 1, blend: 'normal', mask: null, span: null }
}

/** A layer with nothing done to it yet. */
export function newLayer(name: string, source: Source, chain: StepUse[] = [], id = freshId()): Layer {
  return {
    id,
    name,
    visible: true,
    locked: false,
    mark: null,
    folded: false,
    followsBelow: false,
    source,
    chain,
    mask: null,
    lightMap: null,
    study: null,
    placement: identityPlacement,
    inset: null,
    blend: 'normal',
    opacity: 1,
    span: null,
    spanBelow: null,
  }
}

/** A gradient as a layer begins with it: down the sheet, from dark to clear. */
export const newGradient: Extract<Source, { type: 'gradient' }> = {
  type: 'gradient',
  shape: 'straight',
  stops: [
    [0, '#1f2a38', 1],
    [1, '#1f2a38', 0],
  ],
  from: { x: 0.5, y: 0 },
  to: { x: 0.5, y: 1 },
  beyond: 'last colour',
}

type Stops = Extract<Source, { type: 'gradient' }>['stops']
/** Stops that were moved, added or taken out, with how far each covers: as before where they are as many, else as it was at their place. */
export function mixedStops(before: Stops, now: readonly (readonly [at: number, colour: string])[]): Stops {
  const coverAt = (x: number): number => {
    let i = 0
    while (i < before.length - 2 && x > before[i + 1]![0]) i++
    const [[from, , a], [to, , b]] = [before[i]!, before[i + 1]!]
    return a + (b - a) * Math.min(1, Math.max(0, to > from ? (x - from) / (to - from) : 1))
  }
  return now.map(([x, colour], i) => [x, colour, now.length === before.length ? before[i]![2] : Number(coverAt(x).toFixed(4))])
}

/** Every list of layers in the artwork: the top one and those of groups. */
export function* layerLists(layers: readonly Layer[]): Generator<readonly Layer[]> {
  yield layers
  for (const l of layers) if (l.source.type === 'group') yield* layerLists(l.source.layers)
}

export function* allLayers(layers: readonly Layer[]): Generator<Layer> {
  for (const list of layerLists(layers)) yield* list
}

/** The layers with one of them changed, however deep it stands; all others are the same objects. */
export function mapLayer(layers: readonly Layer[], id: string, change: (layer: Layer) => Layer): Layer[] {
  return layers.map((l) => {
    if (l.id === id) return change(l)
    if (l.source.type !== 'group') return l
    const inside = mapLayer(l.source.layers, id, change)
    return inside.some((x, i) => x !== (l.source as { layers: Layer[] }).layers[i]) ? { ...l, source: { ...l.source, layers: inside } } : l
  })
}

/** Whether anything in a layer's own space was painted by hand besides what it is made of. */
export const isPainted = ({ mask, lightMap, study, chain }: Pick<Layer, 'mask' | 'lightMap' | 'study' | 'chain'>): boolean =>
  Boolean(mask?.plane || lightMap?.plane || study || chain.some((use) => use.mask?.plane))

/** The list that holds a layer and its place in it. Throws `unknown-layer`. */
export function locate(layers: Layer[], id: string): { list: Layer[]; index: number; layer: Layer } {
  for (const list of layerLists(layers)) {
    const index = list.findIndex((l) => l.id === id)
    if (index >= 0) return { list: list as Layer[], index, layer: list[index]! }
  }
  throw new QuillError('unknown-layer', `There is no layer “${id}” in this artwork.`, { id })
}

/** The place of the layer that one follows: the nearest beneath it that follows none. Its own where it follows none; the lowest has none to follow. */
export function baseOf(list: readonly Layer[], index: number): number {
  let i = index
  while (i > 0 && list[i]!.followsBelow) i--
  return i
}

/**
 * Whether a group's layers lie on what is below the group, each by its own blend mode (W3C Compositing 1, 3.4: a non-isolated group). A group with
 * steps, a light map, a blend mode or a placement of its own, or that is followed, is a picture of its own first.
 */
export function isOpenGroup(list: readonly Layer[], index: number): boolean {
  const { source, chain, lightMap, blend, followsBelow, placement } = list[index]!
  if (source.type !== 'group' || source.isolated || kindOf(placement.matrix) !== 'still') return false
  return chain.length === 0 && !lightMap && blend === 'normal' && !(followsBelow && index > 0) && !list[index + 1]?.followsBelow
}

/** The step in a layer's chain. Throws `unknown-step`. */
export function locateStep(layer: Layer, id: string): { index: number; step: StepUse } {
  const index = layer.chain.findIndex((s) => s.id === id)
  if (index < 0) throw new QuillError('unknown-step', `Layer “${layer.name}” has no step “${id}”.`, { id })
  return { index, step: layer.chain[index]! }
}

/** The files whose pixels an artwork is made of: its layers' photos and the pictures its steps go by, by SHA-256. Of steps that are not known there are none. */
export function assetsOf(artwork: Pick<Artwork, 'layers'>): string[] {
  const assets = new Set<string>()
  for (const l of allLayers(artwork.layers)) {
    if (l.source.type === 'photo') assets.add(l.source.asset)
    if (l.source.type === 'paper' && typeof l.source.paper === 'object') assets.add(l.source.paper.asset)
    for (const use of l.chain) {
      for (const input of Object.values(use.inputs)) if (input.type === 'photo') assets.add(input.asset)
      for (const [name, spec] of Object.entries((registry.all.get(`${use.step}@${use.version}`) ?? registry.newest.get(use.step))?.params ?? {})) {
        if (spec.type === 'picture' && use.params[name]) assets.add((use.params[name] as PictureRef).asset)
      }
    }
  }
  return [...assets]
}

/** The photo lowest among layers, and where it is laid, in all the groups it stands in: what the sheet was made from, and what comparing shows. */
export function firstPhoto(layers: readonly Layer[], within: Matrix = identity): { source: Source & { type: 'photo' }; matrix: Matrix } | null {
  for (const { source, placement } of layers) {
    const matrix = times(within, placement.matrix)
    if (source.type === 'photo') return { source, matrix }
    const inside = source.type === 'group' ? firstPhoto(source.layers, matrix) : null
    if (inside) return inside
  }
  return null
}

/** The layers that a layer names: those it copies live, repeats, masks itself or its steps by, or gives its steps to read. Not those it holds. */
export function namedLayers(layer: Layer): string[] {
  const names: string[] = []
  const copy = JSON.parse(
    JSON.stringify({ source: layer.source.type === 'group' ? { type: 'below' as const } : layer.source, mask: layer.mask, chain: layer.chain }),
  ) as Pick<Layer, 'source' | 'mask' | 'chain'>
  renameLayers(copy, (id) => {
    names.push(id)
    return id
  })
  return names
}

/** Gives the layers that a layer names other ids, in place. */
export function renameLayers(layer: Pick<Layer, 'source' | 'mask' | 'chain'>, rename: (id: string) => string): void {
  const { source, mask, chain } = layer
  if (source.type === 'live') source.layer = rename(source.layer)
  if (source.type === 'panels') {
    if (source.of !== null) source.of = rename(source.of)
    for (const p of source.panels) if (p.own !== null) p.own = rename(p.own)
  }
  for (const m of [mask, ...chain.map((use) => use.mask)]) if (m?.live) m.live.layer = rename(m.live.layer)
  for (const use of chain) for (const input of Object.values(use.inputs)) if (input.type === 'layer') input.layer = rename(input.layer)
}

/**
 * Another photo in the place of one, wherever it is shown: as large, covering what that one covered, its middle where the other's was; all that is made of
 * it stays. What was painted on a layer stays where it is. In place.
 * @throws QuillError `missing-photo` where the artwork does not show it
 */
export function replacePhoto(draft: { layers: Layer[] }, from: string, to: { asset: string; width: number; height: number }): void {
  let found = false
  for (const layer of allLayers(draft.layers)) {
    const { source, placement } = layer
    if (source.type !== 'photo' || source.asset !== from) continue
    found = true
    const { w, h } = source.shown ?? { w: source.width, h: source.height }
    const by = Math.max(w / to.width, h / to.height)
    const shown = { w: Math.max(w, Math.round(to.width * by)), h: Math.max(h, Math.round(to.height * by)) }
    const same = shown.w === to.width && shown.h === to.height
    layer.source = { type: 'photo', ...to, ...(same ? {} : { shown }) }
    const [dx, dy] = isPainted(layer) ? [0, 0] : [Math.round((w - shown.w) / 2), Math.round((h - shown.h) / 2)]
    if (dx === 0 && dy === 0) continue
    placement.matrix = [...times(placement.matrix, [1, 0, dx, 0, 1, dy, 0, 0, 1])] as Layer['placement']['matrix']
    if (placement.pivot) placement.pivot = { x: placement.pivot.x - dx, y: placement.pivot.y - dy }
  }
  if (!found) throw new QuillError('missing-photo', 'The artwork does not show that photo any more. Nothing was changed.')
}

/** Whether a layer shows what lies below it, changed: then it stands in its place instead of covering it. */
export const madeOfBelow = ({ source }: Pick<Layer, 'source'>): boolean => source.type === 'below' || source.type === 'mend'
