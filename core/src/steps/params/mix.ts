import { z } from 'zod'
import { numbers, type Common, type ParamType } from './type.ts'

/** Weights: a row for each channel that comes out, a column for each that goes in. */
export interface MixSpec extends Common<number[]> {
  type: 'mix'
  rows: readonly string[]
  columns: readonly string[]
}

const sizeOf = ({ rows, columns }: MixSpec) => rows.length * columns.length

export const mixType: ParamType<MixSpec, number[]> = {
  schema: (spec) => z.array(z.number().min(-4).max(4)).length(sizeOf(spec)),
  format: () => 'another mix',
  read: (_, text) => numbers(text),
  write: (_, v) => v.join(','),
  range: (spec) => `${sizeOf(spec)} numbers -4 … 4, by rows ${spec.rows.join(', ')} of ${spec.columns.join(', ')}`,
  ends: (spec) => [['evenly', Array.from({ length: sizeOf(spec) }, (_, i) => (i % spec.columns.length < 3 ? 0.33 : 0))]],
  dealt: (spec, next) => Array.from({ length: sizeOf(spec) }, () => (next() < 0.4 ? next() * 1.2 - 0.2 : 0)),
}
