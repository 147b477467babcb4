import { z } from 'zod'
import type { Common, ParamType } from './type.ts'

export interface SeedSpec extends Common<number> {
  type: 'seed'
}

const MOST = 0x7fffffff

export const seedType: ParamType<SeedSpec, number> = {
  schema: () => z.number().int().min(0).max(MOST),
  format: (_, v) => String(v),
  read: (_, text) => (text.trim() === '' ? undefined : Number(text)),
  write: (_, v) => String(v),
  range: () => `a whole number from 0 to ${MOST}`,
  ends: () => [['another', 99]],
  dealt: (_, next) => Math.floor(next() * MOST),
}
