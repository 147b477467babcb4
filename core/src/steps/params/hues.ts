import { z } from 'zod'
import { between, numbers, type Common, type ParamType } from './type.ts'

/** The names of the eight hues of a `hues` parameter, and their angles in OKLab, degrees. */
export const HUES = ['Red', 'Orange', 'Yellow', 'Green', 'Cyan', 'Blue', 'Violet', 'Magenta'] as const
export const HUE_ANGLES = [29, 62, 108, 142, 195, 262, 300, 340] as const

/** A number for each of eight hues round the colour circle (HUES). */
export interface HuesSpec extends Common<number[]> {
  type: 'hues'
  min: number
  max: number
}

export const huesType: ParamType<HuesSpec, number[]> = {
  schema: ({ min, max }) => z.array(z.number().min(min).max(max)).length(8),
  format: () => 'another mix',
  read: (_, text) => numbers(text),
  write: (_, v) => v.join(','),
  range: ({ min, max }) => `eight numbers ${min} … ${max}, ${HUES.join(', ').toLowerCase()}`,
  ends: ({ min, max }) => [
    ['low', Array.from({ length: 8 }, () => min)],
    ['high', Array.from({ length: 8 }, () => max)],
  ],
  dealt: ({ min, max }, next) => Array.from({ length: 8 }, () => between(next, min, max, false)),
}
