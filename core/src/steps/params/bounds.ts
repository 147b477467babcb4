import { z } from 'zod'
import { numbers, type Common, type ParamType } from './type.ts'

/** Boundaries between tones, rising, on the 0–255 scale; none: the step lays them itself. */
export interface BoundsSpec extends Common<number[]> {
  type: 'bounds'
  max: number
}

export const boundsType: ParamType<BoundsSpec, number[]> = {
  schema: ({ max }) =>
    z
      .array(z.number().min(0).max(255))
      .max(max)
      .refine((b) => b.every((v, i) => i === 0 || v > b[i - 1]!), 'boundaries rise'),
  format: (_, v) => v.map((b) => Math.round(b)).join(', ') || 'even',
  read: (_, text) => numbers(text),
  write: (_, v) => v.join(','),
  range: ({ max }) => `up to ${max} tones rising from 0 to 255: 64,128 …`,
  ends: () => [['one', [100]]],
  dealt: ({ max }, next) => {
    const n = Math.floor(next() * Math.min(6, max))
    return Array.from({ length: n }, (_, i) => ((i + 0.1 + next() * 0.8) / n) * 255)
  },
}
