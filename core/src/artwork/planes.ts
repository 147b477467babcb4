import { isStudyPart, studyWords, type StudyPart } from '../base/study-parts.ts'
import { allLayers, locate, locateStep } from './layers.ts'
import type { Artwork, Layer, Mask, Mended } from './schema.ts'

/** Where in an artwork something is painted. */
export interface PlaneAddress {
  /** A layer's id; of an area its own, '' for the one that hands act in. */
  layer: string
  /** Of a step's mask; null: the layer's own. Of a mended place its id. */
  step: string | null
  /** Its mask, what it is made of, the light under its chain, a mended place, or what was found in its photo; or an area of the sheet. */
  part: 'mask' | 'paint' | 'light' | 'area' | 'mend' | StudyPart
}

/** A plane as a document names it. */
export interface PlaneRef {
  index: string
  channels: 1 | 4
}

/** Where the area is that hands act in. */
export const AREA: PlaneAddress = { layer: '', step: null, part: 'area' }

export const sameAddress = (a: PlaneAddress, b: PlaneAddress): boolean => a.layer === b.layer && a.step === b.step && a.part === b.part

/** A mask before anything was painted. */
export const newMask = (start: 'full' | 'empty'): NonNullable<Mask> => ({
  plane: null,
  start,
  live: null,
  stays: false,
  turnedRound: false,
  edge: { move: 0, unit: 'px', soften: { value: 0, unit: 'px' } },
  strength: 1,
  thins: false,
})

/** The mask of a layer or step. Throws `unknown-layer`, `unknown-step`. */
export function maskAt(artwork: Artwork, layer: string, step: string | null): Mask {
  const at = locate(artwork.layers, layer).layer
  return step === null ? at.mask : locateStep(at, step).step.mask
}

/**
 * What is painted at an address: its plane (null: nothing yet) and how many channels it has; undefined where nothing can be painted there.
 * Throws `unknown-layer`, `unknown-step`.
 */
export function planeAt(artwork: Artwork, { layer, step, part }: PlaneAddress): { plane: PlaneRef | null; channels: 1 | 4 } | undefined {
  if (part === 'area') {
    const kept = artwork.areas.find((a) => a.id === layer)
    return layer === '' ? { plane: artwork.area ?? null, channels: 1 } : kept && { plane: kept.plane, channels: 1 }
  }
  const at = locate(artwork.layers, layer).layer
  if (part === 'mask') {
    const mask = maskAt(artwork, layer, step)
    return mask && !mask.live ? { plane: mask.plane, channels: 1 } : undefined
  }
  if (isStudyPart(part)) return { plane: at.study?.[part] ?? null, channels: channelsOfStudy(part) }
  if (part === 'mend') {
    const place = mendedIn(at).find((m) => m.id === step)
    return place && { plane: place.cover, channels: 1 }
  }
  if (part === 'light') return at.lightMap ? { plane: at.lightMap.plane, channels: 1 } : undefined
  return at.source.type === 'paint' ? { plane: at.source.plane, channels: 4 } : undefined
}

/** The mended places of a layer. */
export const mendedIn = ({ source }: Layer): Mended[] => (source.type === 'mend' ? (source.mended ?? []) : [])

/** Channels of what is painted over a part of a study: directions have a colour each, and cover. */
export const channelsOfStudy = (part: StudyPart): 1 | 4 => (part === 'flow' ? 4 : 1)

/** Puts a plane where it belongs; there must be a place for it. In place. */
export function setPlane(artwork: Artwork, { layer: id, step, part }: PlaneAddress, plane: PlaneRef | null): void {
  if (part === 'area') {
    const kept = artwork.areas.find((a) => a.id === id)
    if (kept) kept.plane = plane
    else if (plane) artwork.area = plane
    else delete artwork.area
    return
  }
  const { layer } = locate(artwork.layers, id)
  if (isStudyPart(part)) {
    const study = layer.study ?? { masses: null, flow: null, edges: null, detail: null, focus: null, ground: null }
    study[part] = plane
    layer.study = Object.values(study).every((p) => p === null) ? null : study
  } else if (part === 'mend') {
    const place = mendedIn(layer).find((m) => m.id === step)
    if (place) place.cover = plane
  } else if (part === 'light') layer.lightMap!.plane = plane
  else if (part === 'mask') (step === null ? layer.mask : locateStep(layer, step).step.mask)!.plane = plane
  else if (layer.source.type === 'paint') layer.source.plane = plane
}

/** Every plane that a document names. */
export function planesOf(artwork: Pick<Artwork, 'layers' | 'areas' | 'area'>): PlaneRef[] {
  const found = new Map<string, PlaneRef>()
  const add = (plane: PlaneRef | null | undefined) => plane && found.set(plane.index, { index: plane.index, channels: plane.channels })
  for (const l of allLayers(artwork.layers)) {
    add(l.mask?.plane)
    add(l.lightMap?.plane)
    if (l.source.type === 'paint' || l.source.type === 'mend') add(l.source.plane)
    for (const { cover } of mendedIn(l)) add(cover)
    for (const p of Object.values(l.study ?? {})) add(p)
    for (const use of l.chain) add(use.mask?.plane)
  }
  add(artwork.area)
  for (const area of artwork.areas ?? []) add(area.plane)
  return [...found.values()]
}

/** The ink that a document names, by its roots. */
export function inksOf(artwork: Pick<Artwork, 'layers'>): string[] {
  return [...new Set([...allLayers(artwork.layers)].flatMap(({ source }) => (source.type === 'ink' && source.blob ? [source.blob] : [])))]
}

/** What a place for painting is called: “mask of Hatching”. */
export function addressName(artwork: Artwork, { layer, step, part }: PlaneAddress, titleOf: (step: string) => string): string {
  if (part === 'area') return layer === '' ? 'the area' : `the area “${artwork.areas.find((a) => a.id === layer)?.name ?? ''}”`
  const at: Layer = locate(artwork.layers, layer).layer
  if (isStudyPart(part)) return `${studyWords[part].title.toLowerCase()} of ${at.name}`
  if (part === 'light') return `light map of ${at.name}`
  if (part === 'paint' || part === 'mend') return at.name
  return `mask of ${step === null ? at.name : titleOf(step)}`
}
