import type { Control, Drive } from '../artwork/schema.ts'

// What recipes are written with.

/** Drives a parameter of a step along straight lines: pairs control value → parameter value. */
export const along = (layer: string, step: string | null, param: string, map: [number, number][], unit?: 'px' | '%' | 'mm'): Drive => ({
  layer,
  step,
  param,
  map,
  ...(unit ? { unit } : {}),
})

/** Drives a parameter by a choice. */
export const by = (layer: string, step: string | null, param: string, choose: NonNullable<Drive['choose']>): Drive => ({ layer, step, param, choose })

/** A control 0…100 with words at its ends. */
export const dial = (id: string, title: string, help: string, ends: [low: string, high: string], value: number, drives: Drive[]): Control => ({
  id,
  title,
  help,
  kind: { type: 'number', min: 0, max: 100, step: 1, low: ends[0], high: ends[1] },
  default: value,
  drives,
})

/** A control that chooses between named ways; the first is the default unless told. */
export const pick = (id: string, title: string, help: string, options: Record<string, string>, drives: Drive[], value = Object.keys(options)[0]!): Control => ({
  id,
  title,
  help,
  kind: { type: 'choice', options: Object.entries(options).map(([v, t]) => ({ value: v, title: t })) },
  default: value,
  drives,
})
