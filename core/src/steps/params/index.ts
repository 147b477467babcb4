import type { z } from 'zod'
import { boundsType, type BoundsSpec } from './bounds.ts'
import { choiceType, type ChoiceSpec } from './choice.ts'
import { colourType, type ColourSpec } from './colour.ts'
import { curveType, type CurveSpec } from './curve.ts'
import { ellipseType, type EllipseSpec } from './ellipse.ts'
import { flagType, type FlagSpec } from './flag.ts'
import { gradientType, type GradientSpec } from './gradient.ts'
import { huesType, type HuesSpec } from './hues.ts'
import { lengthType, type LengthSpec } from './length.ts'
import { mixType, type MixSpec } from './mix.ts'
import { numberType, type NumberSpec } from './number.ts'
import { paletteType, type PaletteSpec } from './palette.ts'
import { pictureType, type PictureSpec } from './picture.ts'
import { placeType, type PlaceSpec } from './place.ts'
import { roseType, type RoseSpec } from './rose.ts'
import { seedType, type SeedSpec } from './seed.ts'
import type { ParamType } from './type.ts'

export { type BoundsSpec } from './bounds.ts'
export { type ChoiceSpec } from './choice.ts'
export { type ColourSpec } from './colour.ts'
export { type CurvePoint, type CurveSpec } from './curve.ts'
export { type Ellipse, type EllipseSpec, HALF_AXIS } from './ellipse.ts'
export { type FlagSpec } from './flag.ts'
export { type GradientSpec, type GradientStop } from './gradient.ts'
export { HUE_ANGLES, HUES, type HuesSpec } from './hues.ts'
export { convertLength, type Length, type LengthSpec, MARK_PIXELS, mm, percent, px, resolveLength, type Scale } from './length.ts'
export { type MixSpec } from './mix.ts'
export { type NumberSpec } from './number.ts'
export { type PaletteSpec } from './palette.ts'
export { type PictureRef, type PictureSpec } from './picture.ts'
export { type Place, type PlaceSpec } from './place.ts'
export { type RoseSpec } from './rose.ts'
export { type SeedSpec } from './seed.ts'

// The types of parameters, and the functions that steps declare theirs with. A new type is a file here, a line below, and an editor on the pages.

export type ParamSpec =
  | LengthSpec
  | NumberSpec
  | ChoiceSpec
  | CurveSpec
  | SeedSpec
  | EllipseSpec
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
/** As a step's functions see them: lengths, places and ellipses in pixels of the level being computed, from the artwork's origin. */
export type LevelParams<P extends ParamSpecs> = { [K in keyof P]: P[K] extends LengthSpec ? number : P[K] extends ChoiceSpec<infer V> ? V : P[K]['default'] }

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
/** A number for each of eight hues. */
export const hues = (s: Omit<HuesSpec, 'type' | 'default'>): HuesSpec => ({ ...s, default: [0, 0, 0, 0, 0, 0, 0, 0], type: 'hues' })
/** An edge rose: all directions count unless set otherwise. */
export const rose = (s: Omit<RoseSpec, 'type' | 'default'>): RoseSpec => ({ ...s, default: Array.from({ length: 16 }, () => 1), type: 'rose' })
/** A table of weights. */
export const mixture = (s: Omit<MixSpec, 'type'>): MixSpec => ({ ...s, type: 'mix' })
/** A point of the picture. */
export const place = (s: Omit<PlaceSpec, 'type'>): PlaceSpec => ({ ...s, type: 'place' })
/** An ellipse on the picture. */
export const ellipse = (s: Omit<EllipseSpec, 'type'>): EllipseSpec => ({ ...s, type: 'ellipse' })
/** Another picture, none at first. */
export const picture = (s: Omit<PictureSpec, 'type' | 'default'>): PictureSpec => ({ ...s, default: null, type: 'picture' })
/** The number a step's chance is dealt from. */
export const seed = (s: Omit<SeedSpec, 'type' | 'title'> & { title?: string }): SeedSpec => ({ title: 'Deal', ...s, type: 'seed' })

/** Every type, by name. */
const paramTypes: { [T in ParamSpec['type']]: ParamType<Extract<ParamSpec, { type: T }>, Extract<ParamSpec, { type: T }>['default']> } = {
  bounds: boundsType,
  choice: choiceType as never,
  colour: colourType,
  curve: curveType,
  ellipse: ellipseType,
  flag: flagType,
  gradient: gradientType,
  hues: huesType,
  length: lengthType,
  mix: mixType,
  number: numberType,
  palette: paletteType,
  picture: pictureType,
  place: placeType,
  rose: roseType,
  seed: seedType,
}

/** What the type of a parameter is able to. */
export const typeOf = (spec: ParamSpec): ParamType<ParamSpec, unknown> => paramTypes[spec.type] as unknown as ParamType<ParamSpec, unknown>

/** The Zod schema of one stored parameter. Lengths are checked in pixels where the artwork is known (resolveLength). */
export const paramSchema = (spec: ParamSpec): z.ZodType => typeOf(spec).schema(spec).describe(spec.help)

/** A parameter's value as the trade writes it. */
export const formatParam = (spec: ParamSpec, value: unknown): string => typeOf(spec).format(spec, value)
