import { z } from 'zod'
import type { Common, ParamType } from './type.ts'

export interface FlagSpec extends Common<boolean> {
  type: 'flag'
}

export const flagType: ParamType<FlagSpec, boolean> = {
  schema: () => z.boolean(),
  format: (_, v) => (v ? 'on' : 'off'),
  read: (_, text) => (text === 'true' ? true : text === 'false' ? false : undefined),
  write: (_, v) => String(v),
  range: () => 'true or false',
  ends: () => [
    ['on', true],
    ['off', false],
  ],
  dealt: (_, next) => next() < 0.5,
}
