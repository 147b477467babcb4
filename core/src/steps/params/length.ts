import { z } from 'zod'
import { between, type Common, type ParamType } from './type.ts'

/** A length with the unit it was given in. % is of the artwork's reference length, mm at the sheet's ppi. */
export interface Length {
  value: number
  unit: 'px' | '%' | 'mm'
}
export interface LengthSpec extends Common<Length> {
  type: 'length'
  /** In artwork pixels. */
  min: number
  max: number
  feel: 'even' | 'log'
  /** The size of a mark: below about three pixels it cannot be seen for what it is, and its control says so. */
  mark?: boolean
}

/** Artwork pixels that a mark takes to be seen for what it is (common practice). */
export const MARK_PIXELS = 3

/** What lengths are measured against. */
export interface Scale {
  /** Artwork pixels that 100 % stands for. */
  reference: number
  ppi: number
}

export const px = (value: number): Length => ({ value, unit: 'px' })
export const mm = (value: number): Length => ({ value, unit: 'mm' })
export const percent = (value: number): Length => ({ value, unit: '%' })

const inPixels = (l: Length, scale: Scale): number =>
  l.unit === 'px' ? l.value : l.unit === '%' ? (l.value / 100) * scale.reference : (l.value / 25.4) * scale.ppi

/** Artwork pixels of a length, held inside the parameter's range. */
export function resolveLength(spec: LengthSpec, l: Length, scale: Scale): number {
  return Math.min(spec.max, Math.max(spec.min, inPixels(l, scale)))
}

/** The same length in another unit. */
export function convertLength(l: Length, unit: Length['unit'], scale: Scale): Length {
  const at = inPixels(l, scale)
  const value = unit === 'px' ? at : unit === '%' ? (at / scale.reference) * 100 : (at / scale.ppi) * 25.4
  return { value, unit }
}

/** Lengths are checked in pixels where the artwork is known (resolveLength). */
export const lengthType: ParamType<LengthSpec, Length> = {
  schema: () =>
    z.strictObject({ value: z.number(), unit: z.enum(['px', '%', 'mm']) }).refine((l) => l.value >= 0 && Number.isFinite(l.value), 'a length is not negative'),
  format: (_, l) => `${Number(l.value.toPrecision(3))} ${l.unit}`,
  read: ({ min, max }, text) => {
    const m = /^([0-9.]+)(px|%|mm)?$/.exec(text)
    const length = { value: m ? Number(m[1]) : NaN, unit: (m?.[2] ?? 'px') as Length['unit'] }
    if (!Number.isFinite(length.value) || (length.unit === 'px' && (length.value < min || length.value > max))) return undefined
    return length
  },
  write: (_, l) => `${l.value}${l.unit}`,
  range: ({ min, max }) => `a length such as 3px, 0.5% or 2mm, ${min}px … ${max}px`,
  ends: ({ min, max }, longest) => [
    ['low', px(min)],
    ['high', px(Math.max(min, Math.min(max, longest)))],
  ],
  dealt: ({ min, max, feel }, next, longest) => px(between(next, min, Math.max(min, Math.min(max, longest)), feel === 'log')),
}
