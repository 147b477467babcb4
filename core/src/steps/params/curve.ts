import { z } from 'zod'
import type { Common, ParamType } from './type.ts'

export type CurvePoint = [x: number, y: number]
export interface CurveSpec extends Common<CurvePoint[]> {
  type: 'curve'
}

const place = z.number().min(0).max(1)

export const curveType: ParamType<CurveSpec, CurvePoint[]> = {
  schema: () =>
    z
      .array(z.tuple([place, place]))
      .min(2)
      .max(32)
      .refine((pts) => pts.every((p, i) => i === 0 || p[0] > pts[i - 1]![0]), 'points run from left to right'),
  format: (_, v) => `${v.length} points`,
  read: (_, text) => text.split(';').map((p) => p.split(',').map(Number)),
  write: (_, v) => v.map((p) => p.join(',')).join(';'),
  range: () => 'a list of points x,y;x,y … from 0 to 1, from left to right',
  ends: () => [
    [
      'turned over',
      [
        [0, 1],
        [1, 0],
      ],
    ],
    [
      'steep',
      [
        [0.45, 0],
        [0.55, 1],
      ],
    ],
  ],
  dealt: (_, next) => {
    const n = 2 + Math.floor(next() * 4)
    return Array.from({ length: n }, (__, i) => [(i + next() * 0.8) / n, next()])
  },
}
