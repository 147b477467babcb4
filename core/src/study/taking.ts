import type { Suitability } from './suitability.ts'

/** What a photo can fall short in. */
export type Quality = 'flat' | 'alike' | 'noisy' | 'soft' | 'busy' | 'few'

/** When a photo falls short, in words, and what would help. Bounds by eye, on six made and eight real photographs. */
const qualities: Record<Quality, { short: (s: Suitability) => boolean; says: string; helps: string }> = {
  flat: { short: (s) => s.spread < 0.45, says: 'flat light', helps: 'Levels before it, black and white point at the ends of the tones.' },
  alike: { short: (s) => s.apart < 0.08, says: 'subject and ground share their tones', helps: 'Paint the ground into the study, or lighten what is behind.' },
  noisy: { short: (s) => s.noise > 5, says: 'noise', helps: 'Edge-keeping smooth before it.' },
  soft: { short: (s) => s.sharp < 0.55, says: 'soft focus', helps: 'A sharper photo; Sharpen brings back a little.' },
  busy: { short: (s) => s.busy > 0.25, says: 'small contrasts everywhere', helps: 'Masses before it, or a larger smallest form.' },
  few: { short: (s) => s.density < 110, says: 'few pixels for this print', helps: 'A smaller print, or a photo of more pixels.' },
}

/** What recipes need, by what happens where it is missing. */
const needs: Record<string, Partial<Record<Quality, string>>> = {
  graphite: { flat: 'it will stay grey', noisy: 'it will be drawn as grain' },
  'pencil-drawing': { flat: 'lines will be few', soft: 'contours will be lost', busy: 'strokes will be restless' },
  'pen-and-ink': { flat: 'lines will be few', soft: 'lines will break off', noisy: 'it will be drawn as curls', busy: 'blacks will be specks' },
  'coloured-pencil-drawing': { flat: 'few pencils will be used', few: 'points will look broad' },
  'coloured-pencil-portrait': { alike: 'the sitter will not part from the ground', few: 'points will look broad' },
  'charcoal-drawing': { alike: 'masses will run together', flat: 'there will be no lights to lift', busy: 'features will be coarse' },
  'pastel-picture': { busy: 'sticks will be too broad for it', flat: 'few sticks will be used' },
  'watercolour-glazes': { flat: 'glazes will hardly part', busy: 'washes will be small' },
  'wash-and-ink': { flat: 'lines will be few', busy: 'ink will be everywhere' },
  'three-layer-watercolour': { alike: 'cut shapes will run together', noisy: 'it will show in the calm layer' },
  'oil-short-way': { busy: 'daubs will muddle it', few: 'hairs will look broad' },
  'oil-face-saved': { busy: 'daubs will muddle it', few: 'hairs will look broad' },
  'oil-on-canvas': { soft: 'there will be no forms to drag along', noisy: 'it will be dragged into streaks' },
  'knife-painting': { busy: 'facets will muddle it', flat: 'facets will hardly part', alike: 'the subject will sink into the ground' },
  'painterly-print': { flat: 'it will stay dull' },
  'newspaper-print': { flat: 'dots will be all of a size' },
  'retro-poster': { alike: 'shapes will run together', busy: 'shapes will be small', flat: 'few papers will be told apart' },
  'pixel-mosaic': { alike: 'the subject will be lost in its tiles', flat: 'tiles will hardly part' },
  'gapped-tiles': { alike: 'the subject will be lost in its tiles', flat: 'tiles will hardly part' },
  'four-colour-panels': { flat: 'plates will be near each other', busy: 'plates will be specks' },
  'panel-sheet': { flat: 'plates will be near each other', busy: 'plates will be specks' },
  photogram: { alike: 'the outline will be lost', flat: 'the outline will be lost' },
  'flat-colour-portrait': { alike: 'the sitter will not part from the ground', busy: 'shapes will be specks' },
}

/** How a recipe will take on a photo. */
export interface Taking {
  /** In a line: *will hold*, or what it falls short in and what comes of it. */
  says: string
  /** What would help; empty where it holds. */
  helps: string[]
}

/** Says how a recipe will take on a photo; null of a recipe that nothing is known of. */
export function takingOf(recipe: string, photo: Suitability): Taking | null {
  const wants = needs[recipe]
  if (!wants) return null
  const short = (Object.keys(wants) as Quality[]).filter((q) => qualities[q].short(photo))
  if (short.length === 0) return { says: 'will hold', helps: [] }
  return { says: short.map((q) => `${qualities[q].says}: ${wants[q]}`).join('; '), helps: short.map((q) => qualities[q].helps) }
}

/** Recipes of which it is known what they need. */
export const knownNeeds: readonly string[] = Object.keys(needs)
