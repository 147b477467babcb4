import { allLayers, locate, locateStep } from './layers.ts'
import type { Artwork, Layer, Mask } from './schema.ts'

/** Where in an artwork something is painted. */
export interface PlaneAddress {
  layer: string
  /** Of a step's mask; null: the layer's own. */
  step: string | null
  part: 'mask' | 'paint' | 'light'
}

/** A plane as a document names it. */
export interface PlaneRef {
  index: string
  channels: 1 | 4
}

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
  const at = locate(artwork.layers, layer).layer
  if (part === 'mask') {
    const mask = maskAt(artwork, layer, step)
    return mask && !mask.live ? { plane: mask.plane, channels: 1 } : undefined
  }
  if (part === 'light') return at.lightMap ? { plane: at.lightMap.plane, channels: 1 } : undefined
  return at.source.type === 'paint' ? { plane: at.source.plane, channels: 4 } : undefined
}

/** Every plane that a document names. */
export function planesOf(artwork: Pick<Artwork, 'layers' | 'areas'>): PlaneRef[] {
  const found = new Map<string, PlaneRef>()
  const add = (plane: PlaneRef | null | undefined) => plane && found.set(plane.index, { index: plane.index, channels: plane.channels })
  for (const l of allLayers(artwork.layers)) {
    add(l.mask?.plane)
    add(l.lightMap?.plane)
    if (l.source.type === 'paint' || l.source.type === 'mend') add(l.source.plane)
    for (const p of Object.values(l.study ?? {})) add(p)
    for (const use of l.chain) add(use.mask?.plane)
  }
  for (const area of artwork.areas ?? []) add(area.plane)
  return [...found.values()]
}

/** What a place for painting is called: “mask of Hatching”. */
export function addressName(artwork: Artwork, { layer, step, part }: PlaneAddress, titleOf: (step: string) => string): string {
  const at: Layer = locate(artwork.layers, layer).layer
  if (part === 'light') return `light map of ${at.name}`
  if (part === 'paint') return at.name
  return `mask of ${step === null ? at.name : titleOf(step)}`
}
