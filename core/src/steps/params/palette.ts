import { z } from 'zod'
import { hexSchema } from './colour.ts'
import { colourAtRandom, type Common, type ParamType } from './type.ts'

/** Colours in an order; none: the step finds them itself. */
export interface PaletteSpec extends Common<string[]> {
  type: 'palette'
  max: number
}

export const paletteType: ParamType<PaletteSpec, string[]> = {
  schema: ({ max }) => z.array(hexSchema).max(max),
  format: (_, v) => `${v.length} colours`,
  read: (_, text) => (text === '' ? [] : text.split(/[;,]/)),
  write: (_, v) => v.join(','),
  range: ({ max }) => `up to ${max} colours #rrggbb,#rrggbb …`,
  ends: () => [['two colours', ['#20242c', '#f0e6d2']]],
  dealt: (_, next) => Array.from({ length: Math.floor(next() * 6) }, () => colourAtRandom(next)),
}
