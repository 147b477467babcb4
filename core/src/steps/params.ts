import { z } from 'zod'

/** A length with the unit it was given in. % is of the artwork's reference length, mm at the sheet's ppi. */
export interface Length {
  value: number
  unit: 'px' | '%' | 'mm'
}
export type CurvePoint = [x: number, y: number]

interface Common<T> {
  title: string
  help: string
  default: T
  /** Shown only while another parameter has one of these values. */
  when?: { param: string; is: readonly string[] }
}
export interface LengthSpec extends Common<Length> {
  type: 'length'
  /** In artwork pixels. */
  min: number
  max: number
  feel: 'even' | 'log'
}
export interface NumberSpec extends Common<number> {
  type: 'number'
  min: number
  max: number
  step: number
  /** Shown behind the value; '%' shows a share 0…1 as 0…100. */
  unit: '' | '%' | '°' | 'tone'
  feel: 'even' | 'log'
}
export interface ChoiceSpec<V extends string = string> extends Common<V> {
  type: 'choice'
  options: readonly { value: V; title: string }[]
}
export interface CurveSpec extends Common<CurvePoint[]> {
  type: 'curve'
}
export interface SeedSpec extends Common<number> {
  type: 'seed'
}
export type ParamSpec = LengthSpec | NumberSpec | ChoiceSpec | CurveSpec | SeedSpec
export type ParamSpecs = Readonly<Record<string, ParamSpec>>

/** As stored: lengths with their unit. */
export type StoredParams<P extends ParamSpecs> = { [K in keyof P]: P[K]['default'] }
/** As a step's functions see them: lengths in pixels of the level being computed. */
export type LevelParams<P extends ParamSpecs> = { [K in keyof P]: P[K] extends LengthSpec ? number : P[K] extends ChoiceSpec<infer V> ? V : P[K]['default'] }

export const px = (value: number): Length => ({ value, unit: 'px' })
export const percent = (value: number): Length => ({ value, unit: '%' })

type Given<S, Optional extends keyof S> = Omit<S, 'type' | Optional> & Partial<Pick<S, Optional>>

/** A length on the sheet. */
export const length = (s: Given<LengthSpec, 'feel'>): LengthSpec => ({ feel: 'even', ...s, type: 'length' })
/** A plain number. */
export const number = (s: Given<NumberSpec, 'feel' | 'unit'>): NumberSpec => ({ feel: 'even', unit: '', ...s, type: 'number' })
/** A share 0…1, shown in per cent. */
export const share = (s: Given<NumberSpec, 'feel' | 'unit' | 'min' | 'max' | 'step'>): NumberSpec => ({
  feel: 'even',
  min: 0,
  max: 1,
  step: 0.01,
  ...s,
  unit: '%',
  type: 'number',
})
/** A tone on the 0–255 scale of the trade. */
export const tone = (s: Given<NumberSpec, 'feel' | 'unit' | 'min' | 'max' | 'step'>): NumberSpec => ({
  feel: 'even',
  min: 0,
  max: 255,
  step: 1,
  ...s,
  unit: 'tone',
  type: 'number',
})
/** An angle in degrees, counter-clockwise from the right. */
export const angle = (s: Given<NumberSpec, 'feel' | 'unit' | 'min' | 'max' | 'step'>): NumberSpec => ({
  feel: 'even',
  min: -180,
  max: 180,
  step: 1,
  ...s,
  unit: '°',
  type: 'number',
})
/** One of several named ways. */
export const choice = <const V extends string>(s: Omit<ChoiceSpec<V>, 'type'>): ChoiceSpec<V> => ({ ...s, type: 'choice' })
/** A tone curve through points (0…1 each way). */
export const curve = (s: Omit<CurveSpec, 'type'>): CurveSpec => ({ ...s, type: 'curve' })
/** The number a step's chance is dealt from. */
export const seed = (s: Omit<SeedSpec, 'type' | 'title'> & { title?: string }): SeedSpec => ({ title: 'Deal', ...s, type: 'seed' })

const lengthSchema = z.strictObject({ value: z.number(), unit: z.enum(['px', '%', 'mm']) })

/** The Zod schema of one stored parameter. Lengths are checked in pixels where the artwork is known (resolveLength). */
export function paramSchema(spec: ParamSpec): z.ZodType {
  const described = (s: z.ZodType) => s.describe(spec.help)
  switch (spec.type) {
    case 'length':
      return described(lengthSchema.refine((l) => l.value >= 0 && Number.isFinite(l.value), 'a length is not negative'))
    case 'number':
      return described(z.number().min(spec.min).max(spec.max))
    case 'choice':
      return described(z.enum(spec.options.map((o) => o.value) as [string, ...string[]]))
    case 'curve':
      return described(
        z
          .array(z.tuple([z.number().min(0).max(1), z.number().min(0).max(1)]))
          .min(2)
          .max(32)
          .refine((pts) => pts.every((p, i) => i === 0 || p[0] > pts[i - 1]![0]), 'points run from left to right'),
      )
    case 'seed':
      return described(z.number().int().min(0).max(0x7fffffff))
  }
}

/** What lengths are measured against. */
export interface Scale {
  /** Artwork pixels that 100 % stands for. */
  reference: number
  ppi: number
}

/** Artwork pixels of a length, held inside the parameter's range. */
export function resolveLength(spec: LengthSpec, l: Length, scale: Scale): number {
  const at = l.unit === 'px' ? l.value : l.unit === '%' ? (l.value / 100) * scale.reference : (l.value / 25.4) * scale.ppi
  return Math.min(spec.max, Math.max(spec.min, at))
}

/** The same length in another unit. */
export function convertLength(l: Length, unit: Length['unit'], scale: Scale): Length {
  const inPx = l.unit === 'px' ? l.value : l.unit === '%' ? (l.value / 100) * scale.reference : (l.value / 25.4) * scale.ppi
  const value = unit === 'px' ? inPx : unit === '%' ? (inPx / scale.reference) * 100 : (inPx / scale.ppi) * 25.4
  return { value, unit }
}
