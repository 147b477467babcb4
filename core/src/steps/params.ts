import { z } from 'zod'

/** A length with the unit it was given in. % is of the artwork's reference length, mm at the sheet's ppi. */
export interface Length {
  value: number
  unit: 'px' | '%' | 'mm'
}
export type CurvePoint = [x: number, y: number]
/** A colour on a gradient: its place 0…1 and #rrggbb. */
export type GradientStop = [at: number, colour: string]
/** A point of a picture, in shares of its width and height from the upper left corner. */
export interface Place {
  x: number
  y: number
}

/** Another picture: the SHA-256 of its file, and its size in pixels. */
export interface PictureRef {
  asset: string
  width: number
  height: number
}

interface Common<T> {
  title: string
  help: string
  default: T
  /** Shown only while another parameter has one of these values ('true' and 'false' for a flag). */
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
export interface FlagSpec extends Common<boolean> {
  type: 'flag'
}
export interface ColourSpec extends Common<string> {
  type: 'colour'
}
export interface GradientSpec extends Common<GradientStop[]> {
  type: 'gradient'
}
/** Colours in an order; none: the step finds them itself. */
export interface PaletteSpec extends Common<string[]> {
  type: 'palette'
  max: number
}
/** Boundaries between tones, rising, on the 0–255 scale; none: the step lays them itself. */
export interface BoundsSpec extends Common<number[]> {
  type: 'bounds'
  max: number
}
/** A number for each of eight hues round the colour circle (HUES). */
export interface HuesSpec extends Common<number[]> {
  type: 'hues'
  min: number
  max: number
}
/** How much edges count by the direction they face: 16 sectors of 22.5°, the first to the right, counter-clockwise; 0…1. */
export interface RoseSpec extends Common<number[]> {
  type: 'rose'
}
/** Weights: a row for each channel that comes out, a column for each that goes in. */
export interface MixSpec extends Common<number[]> {
  type: 'mix'
  rows: readonly string[]
  columns: readonly string[]
}
export interface PlaceSpec extends Common<Place> {
  type: 'place'
}
/** Another picture the step goes by; null: none is chosen yet. */
export interface PictureSpec extends Common<PictureRef | null> {
  type: 'picture'
}
export interface SeedSpec extends Common<number> {
  type: 'seed'
}
export type ParamSpec =
  | LengthSpec
  | NumberSpec
  | ChoiceSpec
  | CurveSpec
  | SeedSpec
  | FlagSpec
  | ColourSpec
  | GradientSpec
  | PaletteSpec
  | BoundsSpec
  | HuesSpec
  | RoseSpec
  | MixSpec
  | PlaceSpec
  | PictureSpec
export type ParamSpecs = Readonly<Record<string, ParamSpec>>

/** As stored: lengths with their unit. */
export type StoredParams<P extends ParamSpecs> = { [K in keyof P]: P[K]['default'] }
/** As a step's functions see them: lengths and places in pixels of the level being computed, places from the artwork's origin. */
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
/** On or off. */
export const flag = (s: Omit<FlagSpec, 'type'>): FlagSpec => ({ ...s, type: 'flag' })
/** A colour as #rrggbb. */
export const colour = (s: Omit<ColourSpec, 'type'>): ColourSpec => ({ ...s, type: 'colour' })
/** Colours along a line from dark to light. */
export const gradient = (s: Omit<GradientSpec, 'type'>): GradientSpec => ({ ...s, type: 'gradient' })
/** A list of colours. */
export const palette = (s: Given<PaletteSpec, 'max'>): PaletteSpec => ({ max: 63, ...s, type: 'palette' })
/** Boundaries between tones. */
export const bounds = (s: Omit<BoundsSpec, 'type'>): BoundsSpec => ({ ...s, type: 'bounds' })
/** The names of the eight hues of a `hues` parameter, and their angles in OKLab, degrees. */
export const HUES = ['Red', 'Orange', 'Yellow', 'Green', 'Cyan', 'Blue', 'Violet', 'Magenta'] as const
export const HUE_ANGLES = [29, 62, 108, 142, 195, 262, 300, 340] as const
/** A number for each of eight hues. */
export const hues = (s: Omit<HuesSpec, 'type' | 'default'>): HuesSpec => ({ ...s, default: [0, 0, 0, 0, 0, 0, 0, 0], type: 'hues' })
/** An edge rose: all directions count unless set otherwise. */
export const rose = (s: Omit<RoseSpec, 'type' | 'default'>): RoseSpec => ({ ...s, default: Array.from({ length: 16 }, () => 1), type: 'rose' })
/** A table of weights. */
export const mixture = (s: Omit<MixSpec, 'type'>): MixSpec => ({ ...s, type: 'mix' })
/** A point of the picture. */
export const place = (s: Omit<PlaceSpec, 'type'>): PlaceSpec => ({ ...s, type: 'place' })
/** Another picture, none at first. */
export const picture = (s: Omit<PictureSpec, 'type' | 'default'>): PictureSpec => ({ ...s, default: null, type: 'picture' })
/** The number a step's chance is dealt from. */
export const seed = (s: Omit<SeedSpec, 'type' | 'title'> & { title?: string }): SeedSpec => ({ title: 'Deal', ...s, type: 'seed' })

const hexSchema = z.string().regex(/^#[0-9a-f]{6}$/i, 'a colour as #rrggbb')
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
    case 'flag':
      return described(z.boolean())
    case 'colour':
      return described(hexSchema)
    case 'gradient':
      return described(
        z
          .array(z.tuple([z.number().min(0).max(1), hexSchema]))
          .min(2)
          .max(32)
          .refine((stops) => stops.every((s, i) => i === 0 || s[0] > stops[i - 1]![0]), 'stops run from left to right'),
      )
    case 'palette':
      return described(z.array(hexSchema).max(spec.max))
    case 'bounds':
      return described(
        z
          .array(z.number().min(0).max(255))
          .max(spec.max)
          .refine((b) => b.every((v, i) => i === 0 || v > b[i - 1]!), 'boundaries rise'),
      )
    case 'hues':
      return described(z.array(z.number().min(spec.min).max(spec.max)).length(8))
    case 'rose':
      return described(z.array(z.number().min(0).max(1)).length(16))
    case 'mix':
      return described(z.array(z.number().min(-4).max(4)).length(spec.rows.length * spec.columns.length))
    case 'place':
      return described(z.strictObject({ x: z.number().min(-2).max(3), y: z.number().min(-2).max(3) }))
    case 'picture':
      return described(
        z.strictObject({ asset: z.string().regex(/^[0-9a-f]{64}$/), width: z.number().int().min(1), height: z.number().int().min(1) }).nullable(),
      )
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

/** A parameter's value as the trade writes it. */
export function formatParam(spec: ParamSpec, value: unknown): string {
  switch (spec.type) {
    case 'length': {
      const l = value as Length
      return `${Number(l.value.toPrecision(3))} ${l.unit}`
    }
    case 'number':
      return spec.unit === '%' ? `${Math.round((value as number) * 100)} %` : `${Number((value as number).toPrecision(4))}${spec.unit === '°' ? '°' : ''}`
    case 'choice':
      return spec.options.find((o) => o.value === value)?.title ?? String(value)
    case 'curve':
      return `${(value as unknown[]).length} points`
    case 'flag':
      return value ? 'on' : 'off'
    case 'gradient':
      return `${(value as unknown[]).length} stops`
    case 'palette':
      return `${(value as unknown[]).length} colours`
    case 'bounds':
      return (value as number[]).map((v) => Math.round(v)).join(', ') || 'even'
    case 'hues':
    case 'rose':
    case 'mix':
      return 'another mix'
    case 'place':
      return 'another place'
    case 'picture':
      return value ? 'another picture' : 'none'
    case 'seed':
    case 'colour':
      return String(value)
  }
}
