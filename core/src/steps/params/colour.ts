import { z } from 'zod'
import { colourAtRandom, type Common, type ParamType } from './type.ts'

export interface ColourSpec extends Common<string> {
  type: 'colour'
}

export const hexSchema = z.string().regex(/^#[0-9a-f]{6}$/i, 'a colour as #rrggbb')

export const colourType: ParamType<ColourSpec, string> = {
  schema: () => hexSchema,
  format: (_, v) => v,
  read: (_, text) => text,
  write: (_, v) => v,
  range: () => 'a colour #rrggbb',
  ends: () => [['another', '#4a90a4']],
  dealt: (_, next) => colourAtRandom(next),
}
