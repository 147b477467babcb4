import { rgbOfHex, type Triple } from '../../colour/oklab.ts'
import { srgbToLinear } from '../../colour/srgb.ts'
import { MarkList } from '../../paths/marks.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { at, between, blurred, field, type Field } from '../../study/fields.ts'
import { defineStep, type Laying, type Work } from '../contract.ts'
import { keyOf } from '../line/hatching.ts'
import { angle, colour, length, mm, percent, seed, share, type LevelParams } from '../params/index.ts'
import type { Ground } from './brushwork.ts'
import { colourMasses, coloursOf, lightnessOf, type Colours } from './colours.ts'
import { drawPigments, LOG2, type DryPigment, type Toothed } from './dry-pigment.ts'
import { layRows } from './hand-rows.ts'
import { stickStrokes, strokeOn, zones } from './stick-strokes.ts'

// taken once: loops over planes look nothing up
const { abs, max, min, round } = Math

/** Softness of a stick, and how much the tooth breaks it. */
const SOFT = 0.55
const CATCH = 0.92
/** How much of what is rubbed in is wiped off the hills, and how much of the paper a stick covers at most. */
const GRAIN = { wiped: 0.4, most: 0.94 }
/** How much broader the side is that masses are blocked in with. */
const SIDE = 2.2

export interface Drawing {
  pigments: DryPigment[]
  rubbed: Ground
  grain?: Pick<Toothed, 'wiped' | 'most'>
}

const charcoalParams = {
  stick: length({
    title: 'Stick',
    default: percent(1),
    min: 2,
    max: 1500,
    feel: 'log',
    help: 'How broad the side of the stick is; accents are drawn with its edge.',
  }),
  rubbed: share({ title: 'Rubbed', default: 0.5, help: 'How much of the darks is rubbed into the paper before strokes go over it.' }),
  closeness: share({ title: 'Closeness', default: 0.6, help: 'How close strokes lie.' }),
  accents: share({ title: 'Accents', default: 0.6, help: 'How strongly the darkest places are pressed at the end.' }),
  lights: share({ title: 'Lights', default: 0.5, help: 'How much chalk is laid in the lights: none leaves the paper.' }),
  key: share({ title: 'Key', default: 0.35, help: 'How much lighter than the photo the drawing is.' }),
  hand: angle({ title: 'Hand', default: 58, min: -90, max: 90, help: 'The way the hand goes, from level.' }),
  length: length({ title: 'Stroke length', default: percent(7), min: 4, max: 4000, feel: 'log', help: 'How long a stroke is that nothing ends sooner.' }),
  wobble: share({ title: 'Wobble', default: 0.5, help: 'How unsteady the hand is: ruled, or free.' }),
  tooth: length({
    title: 'Tooth',
    default: mm(0.5),
    min: 0.5,
    max: 200,
    feel: 'log',
    mark: true,
    help: 'How far apart the hills of the paper stand, on which the stick catches.',
  }),
  paper: colour({ title: 'Paper', default: '#b9ac97', help: 'The toned paper: the middle value.' }),
  ink: colour({ title: 'Charcoal', default: '#1d1a18', help: 'The colour of the stick.' }),
  chalk: colour({ title: 'Chalk', default: '#f5f0e6', help: 'The colour of the lights.' }),
  seed: seed({ default: 4, help: 'The same strokes, dealt again.' }),
} as const

/** What all versions of the step have in common. */
export const charcoalStep = {
  id: 'charcoal',
  title: 'Charcoal',
  group: 'paint',
  kind: 'planned',
  onPaper: true,
  help: 'Charcoal on toned paper: masses rubbed in, broad broken strokes over them, few accents, and lights laid last in chalk. The paper is the middle value.',
  params: charcoalParams,
  coarsest: () => 0,
  drawnBy: ['tooth'],
  goesBy: ['masses', 'edges', 'detail'],
  analysedBy: [],
  analyse: coloursOf,
  draw: (work: Work & { plan: Drawing }, p: { paper: string; tooth: number; seed: number }) =>
    drawPigments(work.kernels, work.plan.pigments, work, {
      paper: p.paper,
      rubbed: work.plan.rubbed,
      ...work.plan.grain,
      tooth: p.tooth,
      soft: SOFT,
      catches: CATCH,
      seed: p.seed,
    }),
} as const

type Hand = Omit<LevelParams<typeof charcoalParams>, 'sheet'>

/** How dark and how light it is to become against the paper, 0…1 each, and what that follows from. */
export interface Demands {
  darks: Field
  lights: Field
  detail: Field
  /** Lightness: in masses, finer where detail is; and the finer of both. */
  tone: Field
  fine: Field
  /** Linear. */
  paper: Triple
  ink: Triple
  chalk: Triple
}

/** @param finest what is smaller than this is gone even where detail is, thousandths of the long side */
export async function demandsOf(
  { study, kernels, facts, pause, progress }: Laying<Colours>,
  p: Pick<Hand, 'paper' | 'ink' | 'chalk' | 'key'>,
  finest: number,
): Promise<Demands> {
  const { w, h, cover } = facts
  const { pow } = kernels.raw
  const unit = max(w, h) / 1000
  const linear = (hex: string) => rgbOfHex(hex).map((v) => srgbToLinear(v, pow)) as Triple
  const [r, g, b] = rgbOfHex(p.paper)
  const middle = min(0.85, max(0.3, 0.2126 * r + 0.7152 * g + 0.0722 * b))
  const broad = lightnessOf(await colourMasses(kernels, facts, max(1.5, 7 * unit), pause))
  const fine = lightnessOf(await colourMasses(kernels, facts, max(0.8, finest * unit), pause))
  progress(0.25)
  const opened = keyOf(broad, { w, h, v: cover }, p.key, kernels.raw)
  const across = study.w / w
  const [detail, tone, darks, lights] = [field(w, h), field(w, h), field(w, h), field(w, h)]
  for (let y = 0; y < h; y++) {
    if ((y & 31) === 0) await pause()
    for (let x = 0; x < w; x++) {
      const i = y * w + x
      const d = at(study.detail, (x + 0.5) * across - 0.5, (y + 0.5) * across - 0.5)
      detail.v[i] = d
      const mixed = broad.v[i]! + between(d, 0.12, 0.45) * (fine.v[i]! - broad.v[i]!)
      const t = opened === 1 ? mixed : pow(max(0, mixed), opened)
      tone.v[i] = mixed
      const there = cover[i]! < 0.4 ? 0 : 1
      // the paper stands for all that is about as light as it is
      darks.v[i] = there * between((middle - t) / middle, 0.02, 0.85)
      lights.v[i] = there * between((t - middle) / (1 - middle), 0.06, 0.8)
    }
  }
  return { darks, lights, detail, tone, fine, paper: linear(p.paper), ink: linear(p.ink), chalk: linear(p.chalk) }
}

/** The paper with darks rubbed in with a finger, beyond where they were laid: linear. @param soft how far, pixels; @param strength 0 none … 1 */
export function smudged(kernels: Kernels, { darks, paper, ink }: Demands, soft: number, strength: number): Ground {
  const { w, h, v } = blurred(kernels, darks, soft)
  const values = new Float32Array(w * h * 4)
  for (let i = 0; i < w * h; i++) {
    const k = 0.85 * strength * v[i]!
    for (let c = 0; c < 3; c++) values[i * 4 + c] = paper[c]! + (ink[c]! - paper[c]!) * k
  }
  return { w, h, values }
}

/** What a stick that tints lets through: the logarithm (base 2) of its linear colour over the paper's. */
export const throughOf = ({ ink, paper }: Demands, log: Kernels['raw']['log']): Triple =>
  ink.map((v, c) => log(min(1, max(0.02, v / max(0.02, paper[c]!)))) / LOG2) as Triple

async function drawn(work: Laying<Colours>, p: Hand): Promise<Drawing> {
  const { kernels, facts, extent, pause, progress } = work
  const { w, h } = facts
  const unit = max(w, h) / 1000
  const demands = await demandsOf(work, p, 1.6)
  const { darks, lights, detail, tone } = demands
  const rubbed = smudged(kernels, demands, max(0.8, 2.5 * unit), p.rubbed)
  progress(0.4)
  await pause()
  const cell = (x: number, y: number) => min(h - 1, max(0, round(y))) * w + min(w - 1, max(0, round(x)))
  const [dark, light] = [new MarkList(), new MarkList()]
  // masses, with the side of the stick
  await layRows(
    dark,
    {
      hand: p.hand,
      spacing: p.stick * SIDE * 0.85,
      breadth: p.stick * SIDE,
      length: p.length * 1.3,
      swell: 0.2,
      wobble: p.wobble,
      seed: p.seed + 977,
      least: 0.08,
      taper: 0.1,
      beyond: 0.3 * p.length,
      pressed: (x, y) => {
        const i = cell(x, y)
        return detail.v[i]! < 0.5 ? 0.42 * darks.v[i]! : 0
      },
      passes: (x, y, nx, ny) => abs(tone.v[cell(x, y)]! - tone.v[cell(nx, ny)]!) < 0.1,
    },
    extent,
    w,
    h,
    kernels.raw,
    pause,
  )
  progress(0.55)
  const fits = (c: number, zone: number) => detail.v[c]! >= zones[zone]!.from && detail.v[c]! < zones[zone]!.to
  const passes = (c: number, there: number) => abs(tone.v[c]! - tone.v[there]!) < 0.09
  const some = 1 - 0.35 * p.rubbed
  await stickStrokes(work, p, zones, {
    may: (c, zone, luck) => darks.v[c]! >= 0.06 + 0.25 * luck(3) && fits(c, zone),
    passes,
    lay: (c, _, luck, stroke) => {
      strokeOn(dark, stroke, 1, min(1, some * darks.v[c]! * (0.62 + 0.4 * luck(7))))
      // accents: pressed with the edge of the stick
      const accent = p.accents * between(darks.v[c]!, 0.6, 0.95)
      if (accent > 0.1 && luck(9) < 0.6) strokeOn(dark, stroke, 0.4, accent)
    },
    tell: (part) => progress(0.55 + 0.2 * part),
  })
  if (p.lights > 0)
    await stickStrokes(work, { ...p, stick: 0.85 * p.stick, seed: p.seed + 52361 }, zones, {
      may: (c, zone, luck) => lights.v[c]! >= 0.08 + 0.3 * luck(3) && fits(c, zone),
      passes,
      lay: (c, _, luck, stroke) => strokeOn(light, stroke, 1, min(1, p.lights * lights.v[c]! * (0.75 + 0.6 * luck(7)))),
      tell: (part) => progress(0.75 + 0.25 * part),
    })
  const pigments: DryPigment[] = [
    { marks: dark.done(extent), through: throughOf(demands, kernels.raw.log) },
    { marks: light.done(extent), covers: demands.chalk },
  ]
  return { pigments, rubbed, grain: GRAIN }
}

export const charcoal = defineStep({
  ...charcoalStep,
  version: 2,
  method:
    'Dark and light demands against the paper’s own value (common practice) over masses by rolling guidance (Zhang et al. 2014); blocked in by rows, then strokes grown along the forms (Hertzmann 1998) on a toothed paper',
  lay: (work: Laying<Colours>, p) => drawn(work, p),
})
