// Documents of earlier versions become ones of this version here, one version at a time, on plain JSON: what they mean stays the same,
// down to the pixel. What does not have the right form is left to the schema to name.

type Json = Record<string, unknown>
type Migration = (document: Json) => Json

const isObject = (v: unknown): v is Json => typeof v === 'object' && v !== null && !Array.isArray(v)

function maskFrom1(mask: unknown): unknown {
  if (!isObject(mask) || !('index' in mask)) return mask
  return {
    plane: { index: mask['index'], channels: 1 },
    start: 'full',
    live: null,
    stays: false,
    turnedRound: false,
    edge: { move: 0, unit: 'px', soften: { value: 0, unit: 'px' } },
    strength: 1,
    thins: false,
  }
}

function placementFrom1(placement: unknown): unknown {
  if (!isObject(placement)) return placement
  const { a, b, c, d, e, f } = placement
  return { matrix: [a, c, e, b, d, f, 0, 0, 1], pivot: null }
}

function layerFrom1(layer: unknown): unknown {
  if (!isObject(layer)) return layer
  const { source, chain } = layer
  return {
    ...layer,
    locked: false,
    mark: null,
    folded: false,
    source:
      isObject(source) && source['type'] === 'group' && Array.isArray(source['layers'])
        ? { ...source, isolated: true, layers: source['layers'].map(layerFrom1) }
        : source,
    chain: Array.isArray(chain) ? chain.map((use: unknown) => (isObject(use) ? { ...use, inputs: {}, mask: maskFrom1(use['mask']) } : use)) : chain,
    mask: maskFrom1(layer['mask']),
    lightMap: null,
    study: null,
    placement: placementFrom1(layer['placement']),
    inset: null,
    spanBelow: null,
  }
}

const layersFrom1 = (layers: unknown): unknown => (Array.isArray(layers) ? layers.map(layerFrom1) : layers)

/** Version 2: the first sheet is remembered, masks and placements are richer, layers have marks, locks and more. */
const artworkFrom1: Migration = (document) => {
  const { sheet, recipes } = document
  const { x, y, w, h } = isObject(sheet) ? sheet : {}
  return {
    ...document,
    version: 2,
    sheet: isObject(sheet) ? { ...sheet, sized: false } : sheet,
    field: { x, y, w, h },
    stock: { papers: true, relief: true, marks: 'broken' },
    guides: [],
    areas: [],
    pins: [],
    colourways: [],
    layers: layersFrom1(document['layers']),
    recipes: Array.isArray(recipes) ? recipes.map((use: unknown) => (isObject(use) ? { ...use, edition: 1, retouch: null } : use)) : recipes,
  }
}

const recipeFrom1: Migration = (document) => ({ ...document, version: 2, edition: 1, retouch: null, layers: layersFrom1(document['layers']) })

/** Until version 2 the one span that a layer had went by what lies below it. */
function layerFrom2(layer: unknown): unknown {
  if (!isObject(layer)) return layer
  const { source, span, spanBelow } = layer
  return {
    ...layer,
    source: isObject(source) && source['type'] === 'group' ? { ...source, layers: layersFrom2(source['layers']) } : source,
    span: null,
    spanBelow: span ?? spanBelow,
  }
}
const layersFrom2 = (layers: unknown): unknown => (Array.isArray(layers) ? layers.map(layerFrom2) : layers)

/** Version 3: a layer acts between its own tones (`span`) and between those of what lies below (`spanBelow`). */
const from2: Migration = (document) => ({ ...document, version: 3, layers: layersFrom2(document['layers']) })

/** By the version they start from. */
const artworkMigrations: Record<number, Migration> = { 1: artworkFrom1, 2: from2 }
const recipeMigrations: Record<number, Migration> = { 1: recipeFrom1, 2: from2 }

function migrated(document: Json, migrations: Record<number, Migration>): Json {
  let now = document
  const next = () => (typeof now['version'] === 'number' ? migrations[now['version']] : undefined)
  for (let step = next(); step; step = next()) now = step(now)
  return now
}

/** An artwork's JSON as one of this version; JSON of no known version is given back as it is. */
export const migrateArtwork = (document: Json): Json => migrated(document, artworkMigrations)
/** A recipe's JSON as one of this version. */
export const migrateRecipe = (document: Json): Json => migrated(document, recipeMigrations)
