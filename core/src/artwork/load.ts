import { z } from 'zod'
import { QuillError } from '../base/errors.ts'
import { registry, stepAt, type Registry } from '../steps/registry.ts'
import { checkBounds, checkSheet } from './bounds.ts'
import { findLiveCycle, liveCycle } from './cycles.ts'
import { allLayers, newLayer } from './layers.ts'
import { migrateArtwork, migrateRecipe } from './migrate.ts'
import {
  ARTWORK_FORMAT,
  ARTWORK_VERSION,
  artworkSchema,
  RECIPE_FORMAT,
  RECIPE_VERSION,
  recipeSchema,
  type Artwork,
  type Layer,
  type Recipe,
  type StepUse,
} from './schema.ts'

/** The first few things Zod found, with their places, in one sentence. */
export function explainZod(error: z.ZodError): string {
  return error.issues
    .slice(0, 3)
    .map((i) => `${i.path.length ? i.path.join('.') + ': ' : ''}${i.message}`)
    .join('; ')
}

/**
 * Checks a step's id, version and parameters; missing parameters get their defaults. Values of a version that is not kept any more become ones of
 * the newest.
 * @param words takes what the user should be told of that
 * @throws QuillError `unknown-step`, `unknown-step-version`, `unknown-param`, `param-invalid`
 */
export function checkStep(use: StepUse, words: string[] = [], of: Registry = registry): StepUse {
  const def = stepAt(use.step, use.version, of)
  let { params } = use
  if (use.version !== def.version) {
    const now = def.migrate?.(params, use.version) ?? { params }
    params = now.params
    if (now.word) words.push(`${def.title}: ${now.word}`)
  }
  const known = Object.keys(def.params)
  const strange = Object.keys(params).find((k) => !known.includes(k))
  if (strange !== undefined) {
    throw new QuillError(
      'unknown-param',
      `The step “${use.step}” has no value called “${strange}”. ${known.length ? `It has: ${known.join(', ')}.` : 'It has none.'}`,
      { step: use.step, param: strange, valid: known },
    )
  }
  const parsed = def.schema.safeParse(params)
  if (!parsed.success) throw new QuillError('param-invalid', `The step “${use.step}”: ${explainZod(parsed.error)}.`, { step: use.step })
  return { ...use, version: def.version, params: parsed.data }
}

function checkLayers(layers: readonly Layer[], words: string[]): Layer[] {
  return layers.map((l) => ({
    ...l,
    chain: l.chain.map((use) => checkStep(use, words)),
    source: l.source.type === 'group' ? { ...l.source, layers: checkLayers(l.source.layers, words) } : l.source,
  }))
}

function versioned(json: unknown, format: string, version: number, what: string): Record<string, unknown> {
  if (typeof json !== 'object' || json === null || (json as { format?: unknown }).format !== format) {
    throw new QuillError(format === ARTWORK_FORMAT ? 'artwork-invalid' : 'recipe-invalid', `This is not ${what} of Nimble Quill.`)
  }
  const v = (json as { version?: unknown }).version
  if (typeof v === 'number' && v > version) {
    throw new QuillError(
      'artwork-newer',
      `This was saved by a later version of Nimble Quill (format ${v}; this one reads up to ${version}). Nothing has been changed; update to open it.`,
      { version: v },
    )
  }
  checkBounds(json as Record<string, unknown>)
  return json as Record<string, unknown>
}

/**
 * Reads an artwork document from JSON of any origin and any version so far.
 * @param words takes what the user should be told of what became of it
 * @throws QuillError `artwork-invalid`, `artwork-newer`, `artwork-too-large`, `live-cycle`, `unknown-step`, `unknown-step-version`, `unknown-param`, `param-invalid`
 */
export function loadArtwork(json: unknown, words: string[] = []): Artwork {
  const parsed = artworkSchema.safeParse(migrateArtwork(versioned(json, ARTWORK_FORMAT, ARTWORK_VERSION, 'an artwork')))
  if (!parsed.success) throw new QuillError('artwork-invalid', `The artwork does not have the right form: ${explainZod(parsed.error)}.`)
  const ids = new Set<string>()
  for (const l of allLayers(parsed.data.layers)) {
    if (l.source.type === 'open-photo') throw new QuillError('missing-photo', `Layer “${l.name}” has no photo yet; an open photo belongs in a recipe only.`)
    for (const id of [l.id, ...l.chain.map((s) => s.id)]) {
      if (ids.has(id)) throw new QuillError('artwork-invalid', `The artwork does not have the right form: the id “${id}” is used twice.`)
      ids.add(id)
    }
  }
  const cycle = findLiveCycle(parsed.data.layers)
  if (cycle) throw liveCycle(cycle)
  return { ...parsed.data, layers: checkLayers(parsed.data.layers, words) }
}

/** Reads a recipe from JSON of any origin. Errors as loadArtwork, and `recipe-invalid`. */
export function loadRecipe(json: unknown): Recipe {
  const parsed = recipeSchema.safeParse(migrateRecipe(versioned(json, RECIPE_FORMAT, RECIPE_VERSION, 'a recipe')))
  if (!parsed.success) throw new QuillError('recipe-invalid', `The recipe does not have the right form: ${explainZod(parsed.error)}.`)
  return { ...parsed.data, layers: checkLayers(parsed.data.layers, []) }
}

export interface PhotoRef {
  /** SHA-256 of the file. */
  asset: string
  width: number
  height: number
  title: string
  ppi?: number
}

/** Long side of the print that a photo is taken to be for until somebody says another: an A4 sheet's, millimetres. */
const USUAL_PRINT = 297

/** Pixels an inch of a sheet whose long side has so many pixels and is to be so many millimetres long on paper. */
export const ppiFor = (long: number, mm: number): number => Math.min(10000, Math.max(1, Math.round((long / mm) * 25.4)))

/** Pixels an inch of a sheet whose print size nobody has said yet. */
export const usualPpi = ({ w, h }: { w: number; h: number }): number => ppiFor(Math.max(w, h), USUAL_PRINT)

/** A new artwork: the photo alone on a sheet of its size. */
export function artworkFromPhoto(photo: PhotoRef): Artwork {
  const { width, height, asset } = photo
  checkSheet({ w: width, h: height })
  const whole = { x: 0, y: 0, w: width, h: height }
  return {
    format: ARTWORK_FORMAT,
    version: ARTWORK_VERSION,
    title: photo.title.slice(0, 200) || 'Untitled',
    sheet: { ...whole, ppi: photo.ppi ?? usualPpi(whole), sized: photo.ppi !== undefined },
    field: whole,
    reference: Math.max(width, height),
    lamp: { direction: 135, height: 35 },
    lookSpot: { x: width / 2, y: height / 2 },
    stock: { papers: true, relief: true, marks: 'broken' },
    guides: [],
    areas: [],
    pins: [],
    colourways: [],
    layers: [newLayer('Photo', { type: 'photo', asset, width, height })],
    recipes: [],
  }
}
