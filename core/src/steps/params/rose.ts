import { z } from 'zod'
import { numbers, type Common, type ParamType } from './type.ts'

/** How much edges count by the direction they face: 16 sectors of 22.5°, the first to the right, counter-clockwise; 0…1. */
export interface RoseSpec extends Common<number[]> {
  type: 'rose'
}

export const roseType: ParamType<RoseSpec, number[]> = {
  schema: () => z.array(z.number().min(0).max(1)).length(16),
  format: () => 'another mix',
  read: (_, text) => numbers(text),
  write: (_, v) => v.join(','),
  range: () => 'sixteen numbers 0 … 1, from right counter-clockwise',
  ends: () => [['one side', Array.from({ length: 16 }, (_, i) => (i < 8 ? 1 : 0))]],
  dealt: (_, next) => Array.from({ length: 16 }, () => next()),
}
