import { hexOfRgb, oklabOfRgb, rgbOfHex, rgbOfOklab, type Triple } from '../../colour/oklab.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { MarkList, type Marks } from '../../paths/marks.ts'
import { at, between, type Field } from '../../study/fields.ts'
import { defineStep, type Analysis, type Laying } from '../contract.ts'
import { paletteOf } from '../colour/photo-palette.ts'
import { keyOf } from '../line/hatching.ts'
import { angle, colour, length, mm, number, palette, percent, seed, share } from '../params/index.ts'
import { colourMasses, coloursOf, coverBeyond, lightnessOf, type Colours } from './colours.ts'
import { drawPigments, LOG2, type DryPigment } from './dry-pigment.ts'
import { layRows } from './hand-rows.ts'
import { stickStrokes, strokeOn, type Flows } from './stick-strokes.ts'
import { pencilsOf, pressuresAt, recipeOf, type Recipe } from './pencil-mix.ts'

// taken once: loops over planes look nothing up
const { abs, max, min, round } = Math

interface Facts extends Colours {
  /** #rrggbb, the lightest first: they are laid in this order. */
  pencils: string[]
}

/** Strokes of one pencil. */
interface Laid {
  marks: Marks
  colour: string
}

/** How much the tooth breaks what is laid, 0 not at all … 1. */
const CATCH = 0.5
/** What of their rows strokes go over, their thinner ends counted. */
const OVER = 0.97
/** How much broader a point is where it is pressed hard: darks close up, as worked-over paper does. */
const SWELL = 0.6
/** Softness of the leads. */
const SOFT = 0.75
/** Pressures below this are left out: a hand does not stroke what is not seen. */
const LEAST = 0.045
/** Degrees between strokes and those that cross them. */
const CROSSED = 32
/** How much closer and finer features are drawn. */
const FINE = 0.55

/** The colour itself, or as pure as a display shows it. */
function within([l, a, b]: Triple, pow: Kernels['raw']['pow']): Triple {
  for (let pure = 1; ; pure -= 0.04) {
    const rgb = rgbOfOklab([l, a * pure, b * pure], pow)
    if (pure <= 0 || rgb.every((v) => v >= 0 && v <= 1)) return rgb.map((v) => min(1, max(0, v))) as Triple
  }
}

/** Pencils for a photo: its own colours, purer, and one dark that is not black. */
export function pencilsFor(work: Pick<Analysis, 'input' | 'kernels'>, count: number): string[] {
  const { pow } = work.kernels.raw
  const found = paletteOf(work, max(2, count - 1), 'k-means').map((hex) => oklabOfRgb(rgbOfHex(hex), pow))
  const darkest = found.reduce((a, b) => (b[0] < a[0] ? b : a))
  const purer = found.map(([l, a, b]): Triple => [min(0.86, max(0.42, l)), a * 1.3, b * 1.3])
  const dark: Triple = [0.3, darkest[1] * 1.2, darkest[2] * 1.2 - 0.012]
  return [...new Set([...purer, dark].map((lab) => hexOfRgb(within(lab, pow))))]
}

const lightest = (pencils: readonly string[], pow: Kernels['raw']['pow']): string[] =>
  [...pencils].sort((a, b) => oklabOfRgb(rgbOfHex(b), pow)[0] - oklabOfRgb(rgbOfHex(a), pow)[0])

/**
 * What of an area strokes of one pencil go over where they are pressed so hard: rows of some breadth at some distance, which no hand keeps.
 * @param closeness 0…1; @returns a function of the pressure 0…1
 */
export const overBy =
  (closeness: number) =>
  (pressed: number): number => {
    const x = (0.72 + SWELL * pressed) * (0.55 + 0.45 * closeness)
    return OVER * (x < 0.7 ? x : x < 1.3 ? x - (x - 0.7) ** 2 / 1.2 : 1)
  }

/** Points of the pencils, blunt and sharpened, and how long their strokes are. */
const points = [
  { size: 1, long: 1 },
  { size: 0.6, long: 0.5 },
] as const

/** How often strokes of a pressure go over a place, on average, where they lie as it comes. */
const laidOver = (closeness: number, pressed: number): number => 1.25 * (0.55 + 0.45 * closeness) * (0.72 + SWELL * pressed)
/** As `overBy`, of strokes that lie as it comes: some of the paper is met twice and some never (the share of a Poisson process that is met). */
export const strokesOver =
  (closeness: number, pow: Kernels['raw']['pow']) =>
  (pressed: number): number =>
    1 - pow(2, -1.442695 * laidOver(closeness, pressed))

/** How hard strokes press that cross those of a pressure: where much is wanted, gaps are gone over another way. */
export const crossingBy = (pressed: number): number => max(0, 0.85 * (pressed - 0.12))

const MIXING =
  'Pressures by non-negative least squares (Lawson and Hanson 1974) on what layers on a toothed paper let through (Bouguer–Beer within a place, Demichel and Neugebauer 1937 over places), over masses by rolling guidance (Zhang et al. 2014)'

/** How far a stroke runs over the border of a mass, of the long side. */
const OVERRUN = 0.002
/** How far strokes run on beyond a silhouette, of the long side: its rim is drawn as full as the rest. */
const RUN_ON = 0.008

/** What a row of the plan is pressed with, and what it goes by: detail and lightness of its masses. A loop of its own, so that it is compiled at once. */
function pressuresAlong(
  y: number,
  plan: {
    w: number
    cover: ArrayLike<number>
    detail: Float32Array
    light: Float32Array
    seen: Field
    across: number
    fine: readonly [Field, Field, Field]
    broad: readonly [Field, Field, Field]
  },
  recipe: Recipe,
  pressures: readonly Float32Array[],
): void {
  const { w, cover, detail, light, seen, across } = plan
  const [fr, fg, fb] = [plan.fine[0].v, plan.fine[1].v, plan.fine[2].v]
  const [br, bg, bb] = [plan.broad[0].v, plan.broad[1].v, plan.broad[2].v]
  for (let x = 0; x < w; x++) {
    const i = y * w + x
    if (cover[i]! < 0.4) continue
    const d = at(seen, (x + 0.5) * across - 0.5, (y + 0.5) * across - 0.5)
    detail[i] = d
    const t = between(d, 0.1, 0.4)
    const r = br[i]! + t * (fr[i]! - br[i]!)
    const g = bg[i]! + t * (fg[i]! - bg[i]!)
    const b = bb[i]! + t * (fb[i]! - bb[i]!)
    light[i] = 0.2126 * r + 0.7152 * g + 0.0722 * b
    pressuresAt(recipe, r, g, b, pressures, i)
  }
}

/**
 * The step; its first version went one way only, and darks showed the paper in long streaks; its second went the hand's way alone, whatever was drawn; its third left a
 * rim of bare paper along a silhouette.
 */
function stepOf(version: 1 | 2 | 3 | 4) {
  const crossed = version > 1
  const formed = version > 2
  const runsOn = version > 3
  const overs = formed ? strokesOver : overBy
  const crossing = crossed ? crossingBy : () => 0
  return defineStep({
    id: 'coloured-pencil',
    version,
    title: 'Coloured pencil',
    group: 'paint',
    kind: 'planned',
    onPaper: true,
    help: 'Laid with a set of coloured pencils, stroke over stroke: how hard each presses follows from what they mix to on the paper.',
    method: `${MIXING}; ${formed ? 'strokes grown along the forms (Hertzmann 1998), crossed by rows of one hand' : 'rows of one hand'}`,
    params: {
      count: number({ title: 'Pencils', default: 8, min: 2, max: 12, step: 1, help: 'How many pencils there are, where none are given.' }),
      pencils: palette({ title: 'Own pencils', default: [], help: 'The pencils of the set. None: they are chosen by the photo, purer than it is.' }),
      hand: angle({ title: 'Hand', default: 52, min: -90, max: 90, help: 'The way the hand goes, from level; each pencil a little otherwise.' }),
      breadth: length({ title: 'Point', default: percent(0.2), min: 1, max: 200, feel: 'log', mark: true, help: 'How broad the points of the pencils are.' }),
      closeness: share({ title: 'Closeness', default: 0.85, help: 'How close strokes lie: open, with paper between them, or worked over.' }),
      length: length({ title: 'Stroke length', default: percent(5), min: 4, max: 4000, feel: 'log', help: 'How long a stroke is that nothing ends sooner.' }),
      key: share({ title: 'Key', default: 0.4, help: 'How much lighter than the photo the drawing is.' }),
      bare: share({ title: 'Lights left bare', default: 0.35, help: 'Down to which tone the paper is left alone.' }),
      vivid: share({ title: 'Colour', default: 0.6, help: 'Subdued, as in the photo at a half, or pure.' }),
      wobble: share({ title: 'Wobble', default: 0.4, help: 'How unsteady the hand is: ruled, or free.' }),
      tooth: length({
        title: 'Tooth',
        default: mm(0.3),
        min: 0.5,
        max: 120,
        feel: 'log',
        mark: true,
        help: 'How far apart the hills of the paper stand, on which the colours catch.',
      }),
      paper: colour({ title: 'Paper', default: '#fbf9f4', help: 'The colour of the paper, which sparkles through.' }),
      seed: seed({ default: 3, help: 'The same strokes, dealt again.' }),
    },
    coarsest: () => 0,
    drawnBy: ['tooth'],
    goesBy: ['masses', 'edges', 'detail'],
    analysedBy: ['pencils', 'count'],
    analyse: (work, p): Facts => ({
      ...coloursOf(work),
      pencils: lightest(p.pencils.length > 0 ? p.pencils : pencilsFor(work, round(p.count)), work.kernels.raw.pow),
    }),
    beyond: runsOn,
    lay: async ({ study, kernels, facts: given, extent, pause, progress }: Laying<Facts>, p): Promise<Laid[]> => {
      const facts = runsOn && study.carried ? { ...given, cover: coverBeyond(kernels, given, RUN_ON) } : given
      const { w, h, cover, pencils } = facts
      const { pow } = kernels.raw
      const unit = max(w, h) / 1000
      const fine = await colourMasses(kernels, facts, max(0.8, 1.6 * unit), pause)
      const broad = await colourMasses(kernels, facts, max(1.5, 6 * unit), pause)
      progress(0.2)
      const opened = keyOf(lightnessOf(broad), { w, h, v: given.cover }, p.key, kernels.raw)
      const over = overs(p.closeness, pow)
      const set = pencilsOf(pencils, p.paper, over, SOFT, CATCH, pow, crossing)
      const recipe = await recipeOf(set, { key: p.key, bare: p.bare, opened, vivid: 0.4 + 1.2 * p.vivid }, kernels, pause)
      progress(0.4)
      // pressures at every place of the plan
      const n = pencils.length
      const across = study.w / w
      const pressures = pencils.map(() => new Float32Array(w * h))
      const detail = new Float32Array(w * h)
      const light = new Float32Array(w * h)
      for (let y = 0; y < h; y++) {
        if ((y & 31) === 0) await pause()
        pressuresAlong(y, { w, cover, detail, seen: study.detail, across, light, fine, broad }, recipe, pressures)
      }
      const overrun = max(1, round(OVERRUN * max(w, h)))
      /** Whether a stroke from `c` may go on at a place, or a little beside it: those on both sides of a border meet, and no paper is left between them. */
      const nearby = (c: number, there: number, alike: (c: number, there: number) => boolean): boolean => {
        if (alike(c, there)) return true
        if (!runsOn) return false
        const x = there % w
        return (
          (x >= overrun && alike(c, there - overrun)) ||
          (x < w - overrun && alike(c, there + overrun)) ||
          (there >= overrun * w && alike(c, there - overrun * w)) ||
          (there < (h - overrun) * w && alike(c, there + overrun * w))
        )
      }
      const cell = (x: number, y: number) => min(h - 1, max(0, round(y))) * w + min(w - 1, max(0, round(x)))
      const laid: Laid[] = []
      const flows: Flows = new Map()
      for (let k = 0; k < n; k++) {
        progress(0.4 + (0.6 * k) / n)
        const list = new MarkList()
        const plane = pressures[k]!
        const alike = (c: number, o: number): boolean => abs(light[c]! - light[o]!) < 0.1 && plane[o]! > 0.5 * plane[c]! && plane[o]! < 2 * plane[c]! + 0.1
        for (const [size, wanted, crosses] of [
          ...(formed
            ? []
            : ([
                [1, (d: number) => d < 0.4, false],
                [FINE, (d: number) => d >= 0.4, false],
              ] as const)),
          ...(crossed ? ([[1, () => true, true]] as const) : []),
        ] as const) {
          await layRows(
            list,
            {
              hand: p.hand + (((k * 5) % 7) - 3) * 4 + (crosses ? (k % 2 ? CROSSED : -CROSSED) : 0),
              spacing: (p.breadth * size) / (0.55 + 0.45 * p.closeness),
              breadth: p.breadth * size,
              length: p.length * (size < 1 ? 0.6 : 1),
              swell: SWELL,
              wobble: p.wobble,
              seed: p.seed + k * 104729 + (crosses ? 57 : size < 1 ? 31 : 0),
              least: LEAST,
              taper: 0.16,
              beyond: 0.2 * p.length,
              pressed: (x, y) => {
                const i = cell(x, y)
                if (!wanted(detail[i]!)) return -1
                return crosses ? crossing(plane[i]!) : plane[i]!
              },
              passes: (x, y, nx, ny) => {
                const [a, b] = [cell(x, y), cell(nx, ny)]
                return abs(light[a]! - light[b]!) < 0.13
              },
            },
            extent,
            w,
            h,
            kernels.raw,
            pause,
          )
        }
        if (formed)
          await stickStrokes(
            { study, kernels, facts, extent, pause, progress },
            {
              stick: p.breadth,
              length: p.length,
              // as many strokes as `laidOver` counts on
              closeness: 0.025 + 0.335 * p.closeness,
              hand: p.hand + (((k * 5) % 7) - 3) * 4,
              wobble: p.wobble,
              seed: p.seed + k * 104729,
              lean: 0.45,
            },
            points,
            {
              may: (c, zone) => plane[c]! >= LEAST && (zone === 0 ? detail[c]! < 0.4 : detail[c]! >= 0.4),
              passes: (c, there) => nearby(c, there, alike),
              lay: (c, _, luck, stroke) => {
                const pressed = min(1, plane[c]! * (0.82 + 0.36 * luck(7)))
                // where strokes meet, they come to more: what is met is pressed as hard as is asked on average
                const weight = (pressed * over(pressed)) / laidOver(p.closeness, pressed)
                strokeOn(list, stroke, (0.72 + SWELL * pressed) / (0.8 + 0.2 * weight), weight, 1.6)
              },
              tell: () => undefined,
            },
            flows,
          )
        laid.push({ marks: list.done(extent), colour: pencils[k]! })
      }
      return laid
    },
    draw: (work, p) => {
      const laid = work.plan
      const { log, pow } = work.kernels.raw
      const set = pencilsOf(
        laid.map((l) => l.colour),
        p.paper,
        overs(p.closeness, pow),
        SOFT,
        CATCH,
        pow,
      )
      const pigments = laid.map((l, k): DryPigment => ({ marks: l.marks, through: set.through[k]!.map((t) => log(t) / LOG2) as Triple }))
      drawPigments(work.kernels, pigments, work, { paper: p.paper, tooth: p.tooth, soft: SOFT, catches: CATCH, seed: p.seed })
    },
  })
}

export const colouredPencil1 = stepOf(1)
export const colouredPencil2 = stepOf(2)
export const colouredPencil3 = stepOf(3)
export const colouredPencil = stepOf(4)
