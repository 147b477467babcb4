import { z } from 'zod'
import { hexSchema } from './colour.ts'
import { colourAtRandom, type Common, type ParamType } from './type.ts'

/** A colour on a gradient: its place 0…1 and #rrggbb. */
export type GradientStop = [at: number, colour: string]
export interface GradientSpec extends Common<GradientStop[]> {
  type: 'gradient'
}

export const gradientType: ParamType<GradientSpec, GradientStop[]> = {
  schema: () =>
    z
      .array(z.tuple([z.number().min(0).max(1), hexSchema]))
      .min(2)
      .max(32)
      .refine((stops) => stops.every((s, i) => i === 0 || s[0] > stops[i - 1]![0]), 'stops run from left to right'),
  format: (_, v) => `${v.length} stops`,
  read: (_, text) => text.split(';').map((stop) => stop.split(',').map((v, i) => (i === 0 ? Number(v) : v))),
  write: (_, v) => v.map((stop) => stop.join(',')).join(';'),
  range: () => 'stops place,#rrggbb;place,#rrggbb …, places rising from 0 to 1',
  ends: () => [
    [
      'turned over',
      [
        [0, '#ffffff'],
        [1, '#000000'],
      ],
    ],
  ],
  dealt: (_, next) => {
    const n = 2 + Math.floor(next() * 4)
    return Array.from({ length: n }, (__, i) => [(i + next() * 0.8) / n, colourAtRandom(next)])
  },
}
