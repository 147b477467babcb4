import { oklabOfRgb, rgbOfHex, type Triple } from '../../colour/oklab.ts'
import { srgbToLinear } from '../../colour/srgb.ts'
import { MarkList } from '../../paths/marks.ts'
import { at, between, blurred, type Field } from '../../study/fields.ts'
import { defineStep, type Analysis, type Laying, type Work } from '../contract.ts'
import { keyOf } from '../line/hatching.ts'
import { angle, colour, length, mm, number, palette, percent, seed, share, type LevelParams } from '../params/index.ts'
import type { Ground } from './brushwork.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { apart, colourMasses, coloursOf, lightnessOf, type Colours } from './colours.ts'
import { pencilsFor } from './coloured-pencil.ts'
import { drawPigments, type DryPigment } from './dry-pigment.ts'
import { layRows } from './hand-rows.ts'
import { stickStrokes, strokeOn, zones } from './stick-strokes.ts'

// taken once: loops over planes look nothing up
const { abs, max, min, round, sqrt } = Math

const SOFT = 0.5
const CATCH = 0.9
/** What a difference of lightness counts against one of hue and chroma. */
const LIGHTNESS = 0.8
const GRAIN = { wiped: 0.5, most: 0.87 }
/** Of how many sticks the masses are blocked in with the side, and how much broader that is. */
const BLOCKS = 5
const SIDE = 2.4

/** A picture's colours, and the box that it is drawn out of. */
export interface Boxed extends Colours {
  /** #rrggbb, the darkest first: lights are laid last. */
  sticks: string[]
}
export interface Drawing {
  pigments: DryPigment[]
  rubbed: Ground
  /** How much of what is rubbed in is wiped off the hills, and how much of the paper is covered at most. */
  grain?: { wiped: number; most: number }
}

const pastelParams = {
  count: number({ title: 'Sticks', default: 12, min: 2, max: 16, step: 1, help: 'How many sticks there are, where none are given.' }),
  sticks: palette({ title: 'Own sticks', default: [], help: 'The sticks of the box. None: they are chosen by the photo.' }),
  stick: length({
    title: 'Breadth',
    default: percent(0.9),
    min: 2,
    max: 1500,
    feel: 'log',
    help: 'How broad the side of a stick is; features are drawn with its edge.',
  }),
  rubbed: share({ title: 'Rubbed', default: 0.45, help: 'How much of the colour is rubbed into the paper before strokes go over it.' }),
  closeness: share({ title: 'Closeness', default: 0.65, help: 'How close strokes lie: the rest is paper.' }),
  key: share({ title: 'Key', default: 0.3, help: 'How much lighter than the photo the picture is.' }),
  vivid: share({ title: 'Colour', default: 0.6, help: 'Subdued, or pure.' }),
  hand: angle({ title: 'Hand', default: 48, min: -90, max: 90, help: 'The way the hand goes, from level; each stick a little otherwise.' }),
  length: length({ title: 'Stroke length', default: percent(5), min: 4, max: 4000, feel: 'log', help: 'How long a stroke is that nothing ends sooner.' }),
  wobble: share({ title: 'Wobble', default: 0.5, help: 'How unsteady the hand is: ruled, or free.' }),
  tooth: length({
    title: 'Tooth',
    default: mm(0.5),
    min: 0.5,
    max: 200,
    feel: 'log',
    mark: true,
    help: 'How far apart the hills of the paper stand, on which the sticks catch.',
  }),
  paper: colour({ title: 'Paper', default: '#8c8276', help: 'The toned paper, which shows between the strokes.' }),
  seed: seed({ default: 6, help: 'The same strokes, dealt again.' }),
} as const

/** What all versions of the step have in common. */
export const pastelStep = {
  id: 'pastel',
  title: 'Pastel',
  group: 'paint',
  kind: 'planned',
  onPaper: true,
  help: 'Sticks of few colours on toned paper: masses rubbed in, broad strokes that the tooth breaks, darks first and lights last; the paper shows through.',
  params: pastelParams,
  coarsest: () => 0,
  drawnBy: ['tooth'],
  goesBy: ['masses', 'edges', 'detail'],
  analysedBy: ['sticks', 'count'],
  analyse: (work: Analysis, p: { sticks: readonly string[]; count: number }): Boxed => {
    const { pow } = work.kernels.raw
    const sticks = p.sticks.length > 0 ? [...p.sticks] : [...pencilsFor(work, round(p.count) - 1), '#f7f2e8']
    return { ...coloursOf(work), sticks: sticks.sort((a, b) => oklabOfRgb(rgbOfHex(a), pow)[0] - oklabOfRgb(rgbOfHex(b), pow)[0]) }
  },
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

export type Hand = Pick<LevelParams<typeof pastelParams>, 'stick' | 'rubbed' | 'closeness' | 'key' | 'vivid' | 'hand' | 'length' | 'wobble' | 'paper' | 'seed'>

/** Told of each place of the plan: its number, how much fine things belong there, its colour and lightness; and where there is any of the picture, the two sticks that come nearest. */
export interface Told {
  place: (i: number, detail: number, rgb: Triple, light: number) => void
  /** The nearer stick, the next (-1: there is but one), how much of the place is the nearer's, 0…1, and how far what is wanted is from the paper. */
  sticks: (i: number, first: number, second: number, part: number, far: number) => void
}

/** What is wanted of a box of sticks. */
export async function boxed(
  { study, kernels, facts, pause }: Laying<Boxed>,
  broad: readonly Field[],
  fine: readonly Field[],
  opened: number,
  p: Pick<Hand, 'paper' | 'vivid'>,
  told: Told,
): Promise<void> {
  const { w, h, cover, sticks } = facts
  const { pow } = kernels.raw
  const labs = sticks.map((hex) => oklabOfRgb(rgbOfHex(hex), pow))
  const ground = oklabOfRgb(rgbOfHex(p.paper), pow)
  const across = study.w / w
  const n = sticks.length
  const far = (a: Triple, b: readonly number[]) => sqrt((LIGHTNESS * (a[0] - b[0]!)) ** 2 + (a[1] - b[1]!) ** 2 + (a[2] - b[2]!) ** 2)
  const away = new Float64Array(n)
  const pure = 0.7 + 0.9 * p.vivid
  for (let y = 0; y < h; y++) {
    if ((y & 15) === 0) await pause()
    for (let x = 0; x < w; x++) {
      const i = y * w + x
      const d = at(study.detail, (x + 0.5) * across - 0.5, (y + 0.5) * across - 0.5)
      const t = between(d, 0.1, 0.4)
      const rgb = [0, 1, 2].map((c) => broad[c]!.v[i]! + t * (fine[c]!.v[i]! - broad[c]!.v[i]!)) as Triple
      told.place(i, d, rgb, 0.2126 * rgb[0] + 0.7152 * rgb[1] + 0.0722 * rgb[2])
      if (cover[i]! < 0.4) continue
      const lab = oklabOfRgb(rgb, pow)
      const want: Triple = [opened === 1 ? lab[0] : pow(max(0, lab[0]), opened), lab[1] * pure, lab[2] * pure]
      let [first, second] = [0, -1]
      for (let k = 0; k < n; k++) {
        away[k] = far(want, labs[k]!)
        if (k === 0) continue
        if (away[k]! < away[first]!) {
          second = first
          first = k
        } else if (second < 0 || away[k]! < away[second]!) second = k
      }
      told.sticks(i, first, second, second < 0 ? 1 : away[second]! / (away[first]! + away[second]! + 1e-6), far(want, ground))
    }
  }
}

/** The paper with colours rubbed in: linear. @param soft and `rim` how far they go over their borders and the picture's, pixels; @param strength 0 none … 1 */
export function rubbedIn(
  kernels: Kernels,
  { w, h, cover }: Colours,
  planes: readonly Float32Array[],
  opened: number,
  hex: string,
  { soft, rim, strength }: { soft: number; rim: number; strength: number },
): Ground {
  const { pow } = kernels.raw
  const rubbed: Ground = { w, h, values: new Float32Array(w * h * 4) }
  const paper = rgbOfHex(hex)
  const there = blurred(kernels, { w, h, v: new Float32Array(cover) }, rim)
  for (let c = 0; c < 3; c++) {
    const plane = blurred(kernels, { w, h, v: planes[c]! }, soft)
    for (let i = 0; i < w * h; i++) {
      const v = opened === 1 ? plane.v[i]! : pow(max(0, plane.v[i]!), opened)
      rubbed.values[i * 4 + c] = srgbToLinear(paper[c]! + (v - paper[c]!) * strength * there.v[i]!, pow)
    }
  }
  return rubbed
}

/** The blocks, strokes and accents of a picture, the darkest stick first. */
export async function pastelled(work: Laying<Boxed>, p: Hand): Promise<Drawing> {
  const { kernels, facts, extent, pause, progress } = work
  const { w, h, cover, sticks } = facts
  const { pow } = kernels.raw
  const unit = max(w, h) / 1000
  const broad = await colourMasses(kernels, facts, max(1.5, 7 * unit), pause)
  const fine = await colourMasses(kernels, facts, max(0.8, 1.6 * unit), pause)
  progress(0.3)
  const opened = keyOf(lightnessOf(broad), { w, h, v: cover }, p.key, kernels.raw)
  const plane = () => new Float32Array(w * h)
  const [part, asked, deeper, detail, light] = [plane(), plane(), plane(), plane(), plane()]
  const rgb = [plane(), plane(), plane()] as const
  const [first, second] = [new Uint8Array(w * h), new Uint8Array(w * h)]
  const [base, sharp] = [lightnessOf(broad), lightnessOf(fine)]
  await boxed(work, broad, fine, opened, p, {
    place: (i, d, its, tone) => {
      detail[i] = d
      light[i] = tone
      for (let c = 0; c < 3; c++) rgb[c]![i] = its[c]!
      // how much darker it is than what lies round about
      deeper[i] = base.v[i]! - sharp.v[i]!
    },
    sticks: (i, nearer, next, its, far) => {
      first[i] = nearer
      second[i] = next < 0 ? nearer : next
      part[i] = its
      // what is as the paper is left to it, for the most part
      asked[i] = 0.4 + 0.6 * between(far, 0.02, 0.12)
    },
  })
  progress(0.45)
  // rubbed in: the masses' own colours, hardly beyond their borders
  const rubbed = rubbedIn(kernels, facts, rgb, opened, p.paper, { soft: max(0.7, unit), rim: max(1, 3 * unit), strength: 0.85 * p.rubbed })
  await pause()
  const cell = (x: number, y: number) => min(h - 1, max(0, round(y))) * w + min(w - 1, max(0, round(x)))
  const pigments: DryPigment[] = []
  const covers = (k: number) => rgbOfHex(sticks[k]!).map((v) => srgbToLinear(v, pow)) as Triple
  // the masses, blocked in with the sides of a few sticks
  const few = [
    ...new Set(Array.from({ length: min(BLOCKS, sticks.length) }, (_, i) => round((i * (sticks.length - 1)) / max(1, min(BLOCKS, sticks.length) - 1)))),
  ]
  const nearestOf = sticks.map((_, k) => few.reduce((best, f) => (abs(f - k) < abs(best - k) ? f : best)))
  for (const [i, k] of few.entries()) {
    const list = new MarkList()
    await layRows(
      list,
      {
        hand: p.hand + (i % 2 ? 9 : -6),
        spacing: p.stick * SIDE * 0.8,
        breadth: p.stick * SIDE,
        length: p.length * 1.6,
        swell: 0.2,
        wobble: p.wobble,
        seed: p.seed + 977 * k,
        least: 0.05,
        taper: 0.08,
        beyond: 0.3 * p.length,
        pressed: (x, y) => {
          const at = cell(x, y)
          return cover[at]! >= 0.4 && detail[at]! < 0.5 && nearestOf[first[at]!] === k ? asked[at]! * (0.15 + 0.4 * p.rubbed) : 0
        },
        passes: (x, y, nx, ny) => abs(light[cell(x, y)]! - light[cell(nx, ny)]!) < 0.1,
      },
      extent,
      w,
      h,
      kernels.raw,
      pause,
    )
    pigments.push({ marks: list.done(extent), covers: covers(k) })
  }
  progress(0.55)
  // strokes along the forms, and where there are none as the hand goes
  const lists = sticks.map(() => new MarkList())
  const accents = new MarkList()
  await stickStrokes(work, { ...p, closeness: p.closeness * 1.4 }, zones, {
    may: (c, zone, luck) => asked[c]! >= luck(3) * 0.7 && detail[c]! >= zones[zone]!.from && detail[c]! < zones[zone]!.to,
    passes: (c, there) => apart(rgb[0][c]!, rgb[1][c]!, rgb[2][c]!, rgb[0][there]!, rgb[1][there]!, rgb[2][there]!) < 0.075,
    lay: (c, zone, luck, stroke) => {
      const k = luck(4) < part[c]! * 1.25 - 0.05 ? first[c]! : second[c]!
      strokeOn(lists[k]!, stroke, 1, asked[c]! * (0.36 + 0.42 * luck(7)) + 0.12)
      // the last darks are few and crisp, and lie on top
      if (zone === 2 && deeper[c]! > 0.07 && light[c]! < 0.45 && detail[c]! > 0.5) strokeOn(accents, stroke, 0.7, min(1, 0.4 + 4 * deeper[c]!))
    },
    tell: (share) => progress(0.55 + 0.4 * share),
  })
  progress(0.95)
  for (const [k, list] of lists.entries()) pigments.push({ marks: list.done(extent), covers: covers(k) })
  pigments.push({ marks: accents.done(extent), covers: covers(0) })
  return { pigments, rubbed, grain: GRAIN }
}

export const pastel = defineStep({
  ...pastelStep,
  version: 2,
  method:
    'The nearest two of a box of sticks at each place (OKLab) over masses by rolling guidance (Zhang et al. 2014); blocked in by rows, then strokes grown along the forms (Hertzmann 1998) that cover on a toothed paper',
  lay: (work: Laying<Boxed>, p) => pastelled(work, p),
})
