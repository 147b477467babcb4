import { z } from 'zod'
import { between, type Common, type ParamType } from './type.ts'

export interface NumberSpec extends Common<number> {
  type: 'number'
  min: number
  max: number
  step: number
  /** Shown behind the value; '%' shows a share 0…1 as 0…100. */
  unit: '' | '%' | '°' | 'tone'
  feel: 'even' | 'log'
}

export const numberType: ParamType<NumberSpec, number> = {
  schema: ({ min, max }) => z.number().min(min).max(max),
  format: ({ unit }, v) => (unit === '%' ? `${Math.round(v * 100)} %` : `${Number(v.toPrecision(4))}${unit === '°' ? '°' : ''}`),
  read: (_, text) => {
    const share = text.endsWith('%')
    return text.trim() === '' ? undefined : Number(share ? text.slice(0, -1) : text) / (share ? 100 : 1)
  },
  write: (_, v) => String(v),
  range: ({ min, max }) => `a number, ${min} … ${max}`,
  ends: ({ min, max }) => [
    ['low', min],
    ['high', max],
  ],
  dealt: ({ min, max, feel }, next) => between(next, min, max, feel === 'log'),
}
