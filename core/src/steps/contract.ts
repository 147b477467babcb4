import { z } from 'zod'
import type { Region } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { StudyPart } from '../base/study-parts.ts'
import type { Marks } from '../paths/marks.ts'
import type { Study } from '../study/study.ts'
import { paramSchema, type LevelParams as Given, type ParamSpecs, type StoredParams } from './params/index.ts'

// taken once: loops over planes look nothing up
const { floor } = Math

export const stepGroups = ['tone', 'colour', 'smooth', 'line', 'paint', 'print', 'tile', 'surface'] as const
export type StepGroup = (typeof stepGroups)[number]
export const stepGroupTitles: Record<StepGroup, string> = {
  tone: 'Tone',
  colour: 'Colour',
  smooth: 'Smooth and sharpen',
  line: 'Line',
  paint: 'Paint',
  print: 'Print',
  tile: 'Tile',
  surface: 'Surface',
}

/** RGBA16 pixels (straight alpha, display-encoded sRGB) in kernel memory. */
export interface Pic {
  ptr: number
  /** Bytes from one row to the next. */
  stride: number
  region: Region
}

/** What a step is given to work with. */
export interface Work<F = unknown> {
  input: Pic
  /** Of the region asked for; may be the input itself for a point step. */
  output: Pic
  kernels: Kernels
  /** 0 is full size, n is 1/2ⁿ, −1 twice the size. */
  level: number
  /** For the picture under a moving hand: a step may spare itself what is only seen when one looks closely. */
  quick: boolean
  /** What the step's own `analyse` found. */
  facts: F
  /** Of the whole input, at full size. */
  extent: Region
  /** What the step's own `measure` made of the pictures its parameters name; those that are chosen. */
  planes: Readonly<Record<string, Plane>>
  /** The other pictures that it reads, over the same region, by the names of its `inputs`; those that are chosen. */
  others: Readonly<Record<string, Pic>>
  /** Lets other events happen and throws where the work is no longer wanted: to be awaited between long kernel calls. */
  pause: () => Promise<void>
}

/** A number a pixel of some picture, rows from the top. */
export interface Plane {
  w: number
  h: number
  values: Float32Array
}

/** What of the artwork's sheet a step may go by. */
export interface Sheet {
  ppi: number
  /** Artwork pixels that 100 % of a length stands for. */
  reference: number
  /** Where the light comes from and how high it stands, degrees; for steps that are lit. */
  lamp: { direction: number; height: number }
}

/** The whole of a step's input at a size that does not depend on what is looked at. */
export interface Analysis {
  input: Pic
  kernels: Kernels
  level: number
  /** Of the whole input, at full size. */
  extent: Region
  /** As that of `Work`. */
  pause: () => Promise<void>
}

/** A step's parameters as its functions are given them. */
export type LevelParams<P extends ParamSpecs> = Given<P> & { readonly sheet: Sheet }

interface Declared<P extends ParamSpecs, F> {
  id: string
  version: number
  title: string
  group: StepGroup
  /** One line: what it does to the picture. */
  help: string
  /** The published source of the method, or the trade's practice it follows. */
  method: string
  params: P
  /** How far its picture reaches beyond its input, full-size pixels; what it looks at beyond its input is then clear. Nowhere, where not given. */
  grows?: (params: LevelParams<P>) => number
  /** Of a point step: other pictures that it reads at the same place, in colour; each is chosen, or not, of the layers and their steps. */
  inputs?: Readonly<Record<string, { title: string; help: string }>>
  /**
   * Makes the values of an earlier version, which is not in the registry any more or had other parameters, ones of this version, with a word to
   * the user where the picture changes by it. Without it, values of an earlier version must be ones of this.
   */
  migrate?: (params: Record<string, unknown>, from: number) => { params: Record<string, unknown>; word?: string }
  /** Values for its picture in the picker, where the defaults change nothing. */
  sample?: Partial<StoredParams<P>>
  /** Makes marks by the darkness of its input, none on white: a mask may thin them instead of fading them. */
  marks?: boolean
  /** Acts on paper: after a layer's placement, in artwork coordinates. */
  onPaper?: boolean
  /**
   * Leaves the colours as they are and gives them height: it is run on the picture of heights (grey, HEIGHT_RANGE full-size pixels from black to white, flat
   * in the middle), which the artwork's lamp lights once, when all is put together.
   */
  raises?: boolean
  /**
   * Whether it goes by the surface that its layer lies on. Its picture `there` then holds, pixel by pixel, which share of the surface round about stands
   * higher (red) and how much of a surface there is (green); where all is flat it is not given, and nor is `paper: 'there'`, which becomes 'own'.
   */
  catchesOn?: (params: LevelParams<P>) => boolean
  /** Stands for the stock that the artwork would be printed on: its relief, or the tooth that breaks marks. Left out where the stock is real. */
  stock?: 'relief' | 'tooth'
  /** Goes by the sheet (its ppi, its lamp): its parameters hold a `sheet` besides. */
  bySheet?: boolean
  /** Lit by the artwork's lamp, which is shown with its controls; `sheet.lamp` is that one. Goes by the sheet. */
  lit?: boolean
  /**
   * For a step whose preview cannot be held to a structural similarity of 0.98 at half size: the bar it is held to (0.9 at
   * least), and why. The settled view shows the full-size result all the same.
   */
  fidelity?: { half: number; why: string }
  /**
   * The coarsest level at which it may be computed; coarser views are reduced from it. Tables need not say: theirs follows
   * from how steep they are, unless they want to be finer still.
   */
  coarsest?: (params: LevelParams<P>) => number
  /**
   * The smallest length that matters to its picture, in full-size pixels. Blend modes that show the difference between a picture and
   * what such a step made of it are not computed coarser than this allows.
   */
  finest?: (params: LevelParams<P>) => number
  /**
   * Facts about the whole picture (histogram, automatic threshold, palette), measured once on the step's own input with a long side
   * of at most 1024 pixels, and handed to every tile of every level: so preview and render go by the same.
   */
  analyse?: (work: Analysis, params: LevelParams<P>) => F | Promise<F>
  /**
   * The parameters that `analyse` goes by: other values of the others need no other facts. All, and the sheet, where not given. Where there are none, facts are one for all
   * steps whose `analyse` is the same function.
   */
  analysedBy?: readonly (keyof P & string)[]
  /**
   * What it makes of another picture that a parameter of type picture names: once, at a size whose long side has at most 1536 pixels, and handed
   * to every tile of every level.
   */
  measure?: (picture: Analysis) => Plane
  /** Of a step that plans out of the study of its input: what of it it goes by. Shown with its controls, where each can be painted over by hand. */
  goesBy?: readonly StudyPart[]
  /** Of such a step: it is handed the study as the picture goes on beyond its silhouette (`carriedOn`), where parts of it are clear. */
  beyond?: boolean
  /** Something about its input that its controls show and its picture does not go by. */
  inspect?: (work: Analysis, params: LevelParams<P>) => unknown
}

/** One table for all channels, or one each for R, G and B. Entries are 16-bit codes. */
export type Tables = Uint16Array | readonly [Uint16Array, Uint16Array, Uint16Array]

/** A point step that is a table a channel: neighbouring ones are composed into one. */
export interface TableStep<P extends ParamSpecs = ParamSpecs, F = unknown> extends Declared<P, F> {
  kind: 'table'
  table: (params: LevelParams<P>, kernels: Kernels, facts: F) => Tables
  /** A table for the lightness alone, colour kept, after the others; null where there is none. */
  luma?: (params: LevelParams<P>) => Uint16Array | null
}
/** A point step that looks at a whole pixel, or at a pixel and its place. */
export interface PointStep<P extends ParamSpecs = ParamSpecs, F = unknown> extends Declared<P, F> {
  kind: 'point'
  run: (work: Work<F>, params: LevelParams<P>) => void | Promise<void>
}
/** A step that looks around each pixel. */
export interface NeighbourhoodStep<P extends ParamSpecs = ParamSpecs, F = unknown> extends Declared<P, F> {
  kind: 'neighbourhood'
  /** The part of the input it must see for a region of its output, in pixels of the level; never less for a larger region. */
  needs: (region: Region, params: LevelParams<P>, level: number) => Region
  /**
   * Pixels a cell of a reduced grid, a power of two, where the step looks so far around that it works on such a grid; 1 or less
   * where not. What it needs is then whole cells, and its input holds those: four floats each, premultiplied, by the kernel
   * reduceCells; its region counts cells. They are computed once and kept, however high the strips are.
   */
  cells?: (params: LevelParams<P>) => number
  run: (work: Work<F>, params: LevelParams<P>) => void | Promise<void>
}
/**
 * A step in which each pixel depends on all before it, row by row (error diffusion). Always computed at full size, by full-width
 * bands from the top; what is carried from one band to the next is kept, so that a region need not begin at the top again.
 */
export interface SequentialStep<P extends ParamSpecs = ParamSpecs, F = unknown> extends Declared<P, F> {
  kind: 'sequential'
  /** Whether pixels depend on those before at these parameters; where not, `run` is given any region and no state. Always, where not given. */
  carries?: (params: LevelParams<P>) => boolean
  /** Bytes that are carried over for a picture of this width; zero before the first row. */
  state: (width: number, params: LevelParams<P>) => number
  /**
   * What a reduced picture of the result comes to, pixel by pixel, out of a reduced input: for the picture under a moving hand, which cannot wait
   * for all the rows.
   */
  glance?: (work: Work<F>, params: LevelParams<P>) => void
  /** Computes a band of whole rows and leaves in `state` (an address) what the next one needs. */
  run: (work: Work<F> & { state: number }, params: LevelParams<P>) => void
}
/** What a plan is laid from. */
export interface Laying<F = unknown> {
  study: Study
  kernels: Kernels
  facts: F
  /** Of the whole input, at full size. */
  extent: Region
  /** To be awaited between pieces of work of a few milliseconds: lets other events happen, and throws where the plan is no longer wanted. */
  pause: () => Promise<void>
  /** Tells how far it is, 0…1. */
  progress: (share: number) => void
}
/**
 * A step that first lays out things in artwork coordinates (positions, labels, strokes) and then draws any region at any
 * level from that plan.
 */
export interface PlannedStep<P extends ParamSpecs = ParamSpecs, F = unknown, L = unknown> extends Declared<P, F> {
  kind: 'planned'
  /** The level at which the plan looks at the whole input: it depends on the parameters only (given in full-size pixels). */
  planAt?: (params: LevelParams<P>) => number
  plan?: (work: Analysis & { facts: F; pause: () => Promise<void> }, params: LevelParams<P>) => L | Promise<L>
  /**
   * For a step that plans out of the study of its input, in place of `plan`: that is made once for an input, whatever steps ask, at a size that its own size
   * decides. Lengths are full-size pixels. It does not go by the sheet: a lamp that is turned lights the same plan.
   */
  lay?: (work: Laying<F>, params: Given<P>) => L | Promise<L>
  /** Parameters that only drawing goes by, at their values: other values of them need no other plan. */
  drawnBy?: readonly (keyof P & string)[] | ((params: LevelParams<P>) => readonly (keyof P & string)[])
  /** The part of the input that drawing a region looks at; the region itself where not given. */
  needs?: (region: Region, params: LevelParams<P>, level: number) => Region
  /** Of a step that draws lines, for files of lines: its marks, their colour, and how much of it a weight leaves (0…1). Lengths are full-size pixels. */
  lines?: (plan: L, params: LevelParams<P>) => { marks: Marks; colour: string; laid: (weight: number) => number }
  /** Of a step that lays shapes of several colours: those of each, from the lowest up. They are cut or sprayed, not drawn. */
  shapes?: (plan: L, params: LevelParams<P>, extent: Region) => { marks: Marks; colour: string; title: string }[]
  draw: (work: Work<F> & { plan: L }, params: LevelParams<P>) => void | Promise<void>
}
export type Step<P extends ParamSpecs = ParamSpecs, F = unknown, L = unknown> =
  TableStep<P, F> | PointStep<P, F> | NeighbourhoodStep<P, F> | SequentialStep<P, F> | PlannedStep<P, F, L>

/** A step as the registry keeps it: its parameter types are forgotten, its schema is made. */
export type AnyStep = Step & { readonly schema: z.ZodType<Record<string, unknown>>; readonly defaults: Record<string, unknown> }

/** Whether a step is laid from a study: a plan of it takes long, whatever the size of the picture. */
export const isLaid = (def: AnyStep): boolean => def.kind === 'planned' && def.lay !== undefined

/** Declares a step. Everything else (interface, command line, docs, tests) is drawn from this. */
export function defineStep<const P extends ParamSpecs, F = undefined, L = undefined>(step: Step<P, F, L>): AnyStep {
  const shape = Object.fromEntries(Object.entries(step.params).map(([k, s]) => [k, paramSchema(s).default(s.default as never)]))
  const defaults = Object.fromEntries(Object.entries(step.params).map(([k, s]) => [k, s.default])) as StoredParams<P>
  return { ...(step as unknown as Step), schema: z.strictObject(shape) as unknown as AnyStep['schema'], defaults }
}

/** A table from a function of a tone 0…1 to a tone 0…1 (clamped, rounded to nearest). */
export function tableOf(f: (v: number) => number): Uint16Array {
  const t = new Uint16Array(65536)
  for (let i = 0; i < 65536; i++) {
    const v = f(i / 65535)
    t[i] = v <= 0 ? 0 : v >= 1 ? 65535 : floor(v * 65535 + 0.5)
  }
  return t
}
