import { allLayers, type Artwork, type Source } from '@nimble-quill/core'

const SOURCE_NAMES: Record<Source['type'], string> = {
  photo: 'Photo',
  'open-photo': 'Photo',
  fill: 'Fill',
  gradient: 'Gradient',
  paper: 'Paper',
  paint: 'Paint',
  ink: 'Ink',
  mend: 'Mended places',
  lettering: 'Lettering',
  panels: 'Panel sheet',
  below: 'What lies below',
  live: 'Live copy',
  group: 'Group',
}

/** What a layer starts from, in words. */
export function sourceName(artwork: Artwork, source: Source): string {
  if (source.type !== 'live') return SOURCE_NAMES[source.type]
  return `${[...allLayers(artwork.layers)].find((l) => l.id === source.layer)?.name ?? 'Layer'}, live`
}
