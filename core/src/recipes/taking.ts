import type { Quality, Recipe } from '../artwork/schema.ts'
import type { Suitability } from '../study/suitability.ts'

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
/** How a recipe will take on a photo. */
export interface Taking {
  /** In a line: *will hold*, or what it falls short in and what comes of it. */
  says: string
  /** What would help; empty where it holds. */
  helps: string[]
}

/** Says how a recipe will take on a photo; null of one that does not say what it needs. */
export function takingOf({ needs }: Pick<Recipe, 'needs'>, photo: Suitability): Taking | null {
  if (!needs) return null
  const short = (Object.keys(qualities) as Quality[]).filter((q) => needs[q] !== undefined && qualities[q].short(photo))
  if (short.length === 0) return { says: 'will hold', helps: [] }
  return { says: short.map((q) => `${qualities[q].says}: ${needs[q]}`).join('; '), helps: short.map((q) => qualities[q].helps) }
}
