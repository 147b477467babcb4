import {
  allLayers,
  isStudyPart,
  locate,
  newMask,
  planeAt,
  sameAddress,
  stepAt,
  studyParts,
  studyWords,
  type Artwork,
  type Command,
  type Layer,
  type PlaneAddress,
  type StudyPart,
} from '@nimble-quill/core'

/** Something that can be painted on. */
export interface Target {
  at: PlaneAddress
  name: string
  /** It has to be made first. */
  make: Command | null
}

export const emptyLightMap: NonNullable<Layer['lightMap']> = { plane: null, strength: 1, span: null }

/** What of its photo's study the steps of a layer go by. */
export function studiedBy({ chain }: Layer): StudyPart[] {
  const parts = new Set(chain.flatMap((use) => (use.on ? (stepAt(use.step, use.version).goesBy ?? []) : [])))
  return studyParts.filter((part) => parts.has(part))
}

/** What can be painted on in a layer, what there is already first. */
export function targetsOf(layer: Layer): Target[] {
  const found: Target[] = []
  const mask = (step: string | null, name: string, has: boolean) =>
    found.push({
      at: { layer: layer.id, step, part: 'mask' },
      name: `Mask of ${name}`,
      make: has ? null : { type: 'set-mask', layer: layer.id, step, mask: newMask(step === null ? 'full' : 'empty') },
    })
  if (layer.source.type === 'paint') found.push({ at: { layer: layer.id, step: null, part: 'paint' }, name: layer.name, make: null })
  mask(null, layer.name, layer.mask !== null && layer.mask.live === null)
  found.push({
    at: { layer: layer.id, step: null, part: 'light' },
    name: `Light map of ${layer.name}`,
    make: layer.lightMap ? null : { type: 'set-light-map', layer: layer.id, lightMap: emptyLightMap },
  })
  for (const use of layer.chain) mask(use.id, stepAt(use.step, use.version).title, use.mask !== null && use.mask.live === null)
  for (const part of studiedBy(layer)) found.push({ at: { layer: layer.id, step: null, part }, name: `${studyWords[part].title} of ${layer.name}`, make: null })
  // what is there already first, what was found in a photo after it
  const rank = (t: Target) => (t.make ? 2 : isStudyPart(t.at.part) ? 1 : 0)
  return found.sort((a, b) => rank(a) - rank(b))
}

/** Whether something can still be painted on. */
export function isThere(artwork: Artwork, at: PlaneAddress): boolean {
  try {
    return planeAt(artwork, at) !== undefined
  } catch {
    return false
  }
}

export function targetName(artwork: Artwork, at: PlaneAddress): string {
  const { layer } = locate(artwork.layers, at.layer)
  return targetsOf(layer).find((t) => sameAddress(t.at, at))?.name ?? layer.name
}

/** Why painting there would not be seen, and what helps; null where it is seen. */
export function unseen(artwork: Artwork, { layer: id, step, part }: PlaneAddress): { says: string; offer: string; command: Command } | null {
  const { layer } = locate(artwork.layers, id)
  if (!layer.visible) return { says: `${layer.name} is hidden.`, offer: 'Show it', command: { type: 'set-layer', layer: id, visible: true } }
  if (layer.opacity === 0) return { says: `${layer.name} has no opacity.`, offer: 'Give it all', command: { type: 'set-layer', layer: id, opacity: 1 } }
  const use = layer.chain.find((s) => s.id === step)
  if (use && !use.on)
    return { says: `${stepAt(use.step, use.version).title} is off.`, offer: 'Switch it on', command: { type: 'set-step', layer: id, step: use.id, on: true } }
  if (use && use.opacity === 0)
    return {
      says: `${stepAt(use.step, use.version).title} has no opacity.`,
      offer: 'Give it all',
      command: { type: 'set-step', layer: id, step: use.id, opacity: 1 },
    }
  const mask = part === 'mask' ? (use ? use.mask : layer.mask) : null
  if (mask && mask.strength === 0)
    return {
      says: 'The mask has no strength.',
      offer: 'Give it all',
      command: { type: 'tune-mask', layer: id, step, change: { strength: 1 } },
    }
  if (isStudyPart(part) && !studiedBy(layer).includes(part)) {
    const asleep = layer.chain.find((s) => stepAt(s.step, s.version).goesBy?.includes(part))
    if (asleep)
      return {
        says: `${stepAt(asleep.step, asleep.version).title} is off.`,
        offer: 'Switch it on',
        command: { type: 'set-step', layer: id, step: asleep.id, on: true },
      }
  }
  if (part === 'light' && layer.lightMap?.strength === 0)
    return {
      says: 'The light map has no strength.',
      offer: 'Give it all',
      command: { type: 'set-light-map', layer: id, lightMap: { ...layer.lightMap, strength: 1 } },
    }
  return null
}

/** What is painted on when the brush is taken up: what is chosen, if it can be painted on, else nothing. */
export function suggested(artwork: Artwork, choice: { layer: string; step: string | null } | null): PlaneAddress | null {
  const layer = choice && [...allLayers(artwork.layers)].find((l) => l.id === choice.layer)
  if (!layer) return null
  const there = targetsOf(layer).filter((t) => t.make === null)
  const mine = there.find((t) => t.at.step === choice.step && (t.at.part === 'mask' || t.at.part === 'paint'))
  return (mine ?? (choice.step === null ? there[0] : undefined))?.at ?? null
}
