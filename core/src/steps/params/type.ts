import type { z } from 'zod'

/** What every parameter declares. */
export interface Common<T> {
  title: string
  help: string
  default: T
  /** Shown only while another parameter has one of these values ('true' and 'false' for a flag). */
  when?: { param: string; is: readonly string[] }
}

/** What a type of parameter is: how its values are checked, written, typed, tried out, and brought to a level. One file a type. */
export interface ParamType<S, V> {
  /** The Zod schema of a stored value. */
  schema: (spec: S) => z.ZodType
  /** A value as the trade writes it. */
  format: (spec: S, value: V) => string
  /** A value out of typed text; undefined where it is none. It is checked by the schema besides. */
  read: (spec: S, text: string) => unknown
  /** A value as it is typed. */
  write: (spec: S, value: V) => string
  /** What may be typed, in words that follow “is”. */
  range: (spec: S) => string
  /** Both ends, or what comes nearest to it, with names; no length is longer than `longest` pixels. For tests. */
  ends: (spec: S, longest: number) => [name: string, value: V][]
  /** A value at random, even over its slider; `next` gives numbers 0…1. For tests. */
  dealt: (spec: S, next: () => number, longest: number) => V
}

/** Text out of numbers with commas between. */
export const numbers = (text: string): number[] => (text === '' ? [] : text.split(/[;,]/).map(Number))

/** A colour at random. */
export function colourAtRandom(next: () => number): string {
  return `#${Math.floor(next() * 0xffffff)
    .toString(16)
    .padStart(6, '0')}`
}

/** A number between two, even by difference or by ratio. */
export const between = (next: () => number, min: number, max: number, log: boolean): number => (log ? min * (max / min) ** next() : min + (max - min) * next())
