import { oklabOfRgb, rgbOfHex, type Triple } from '../../colour/oklab.ts'
import { srgbToLinear } from '../../colour/srgb.ts'
import { MarkList } from '../../paths/marks.ts'
import { at, between, blurred } from '../../study/fields.ts'
import { defineStep, type Laying } from '../contract.ts'
import { keyOf } from '../line/hatching.ts'
import { angle, colour, length, mm, number, palette, percent, seed, share } from '../params/index.ts'
import type { Ground } from './brushwork.ts'
import { colourMasses, coloursOf, lightnessOf, type Colours } from './colours.ts'
import { pencilsFor } from './coloured-pencil.ts'
import { drawPigments, type DryPigment } from './dry-pigment.ts'
import { layRows } from './hand-rows.ts'

// taken once: loops over planes look nothing up
const { abs, max, min, round, sqrt } = Math

const SOFT = 0.5
const CATCH = 0.9
/** What a difference of lightness counts against one of hue and chroma. */
const LIGHTNESS = 0.8

/** How broad strokes are, by how much fine ones belong to a place: few sizes. */
const zones = [
  { size: 1, from: -1, to: 0.22 },
  { size: 0.45, from: 0.22, to: 0.5 },
  { size: 0.22, from: 0.5, to: 2 },
] as const

interface Facts extends Colours {
  /** #rrggbb, the darkest first: lights are laid last. */
  sticks: string[]
}
interface Drawing {
  pigments: DryPigment[]
  rubbed: Ground
}

export const pastel = defineStep({
  id: 'pastel',
  version: 1,
  title: 'Pastel',
  group: 'paint',
  kind: 'planned',
  onPaper: true,
  help: 'Sticks of few colours on toned paper: masses rubbed in, broad strokes that the tooth breaks, darks first and lights last; the paper shows through.',
  method:
    'The nearest two of a box of sticks at each place (OKLab) over masses by rolling guidance (Zhang et al. 2014); rows of one hand that cover on a toothed paper',
  params: {
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
  },
  coarsest: () => 0,
  drawnBy: ['tooth'],
  goesBy: ['masses', 'edges', 'detail'],
  analysedBy: ['sticks', 'count'],
  analyse: (work, p): Facts => {
    const { pow } = work.kernels.raw
    const sticks = p.sticks.length > 0 ? [...p.sticks] : [...pencilsFor(work, round(p.count) - 1), '#f7f2e8']
    return { ...coloursOf(work), sticks: sticks.sort((a, b) => oklabOfRgb(rgbOfHex(a), pow)[0] - oklabOfRgb(rgbOfHex(b), pow)[0]) }
  },
  lay: async ({ study, kernels, facts, extent, pause, progress }: Laying<Facts>, p): Promise<Drawing> => {
    const { w, h, cover, sticks } = facts
    const { pow } = kernels.raw
    const unit = max(w, h) / 1000
    const broad = await colourMasses(kernels, facts, max(1.5, 7 * unit), pause)
    const fine = await colourMasses(kernels, facts, max(0.8, 1.8 * unit), pause)
    progress(0.3)
    const opened = keyOf(lightnessOf(broad), { w, h, v: cover }, p.key, kernels.raw)
    const labs = sticks.map((hex) => oklabOfRgb(rgbOfHex(hex), pow))
    const ground = oklabOfRgb(rgbOfHex(p.paper), pow)
    const across = study.w / w
    const n = sticks.length
    const pressed = sticks.map(() => new Float32Array(w * h))
    const detail = new Float32Array(w * h)
    const light = new Float32Array(w * h)
    const far = (a: Triple, b: readonly number[]) => sqrt((LIGHTNESS * (a[0] - b[0]!)) ** 2 + (a[1] - b[1]!) ** 2 + (a[2] - b[2]!) ** 2)
    const away = new Float64Array(n)
    const pure = 0.7 + 0.9 * p.vivid
    for (let y = 0; y < h; y++) {
      if ((y & 15) === 0) await pause()
      for (let x = 0; x < w; x++) {
        const i = y * w + x
        const d = at(study.detail, (x + 0.5) * across - 0.5, (y + 0.5) * across - 0.5)
        detail[i] = d
        const t = between(d, 0.1, 0.4)
        const rgb = [0, 1, 2].map((c) => broad[c]!.v[i]! + t * (fine[c]!.v[i]! - broad[c]!.v[i]!)) as Triple
        light[i] = 0.2126 * rgb[0] + 0.7152 * rgb[1] + 0.0722 * rgb[2]
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
        // what is about as the paper is left to it
        const asked = between(far(want, ground), 0.03, 0.16)
        const part = second < 0 ? 1 : away[second]! / (away[first]! + away[second]! + 1e-6)
        pressed[first]![i] = asked * (0.35 + 0.6 * part)
        if (second >= 0) pressed[second]![i] = asked * max(0, 1.3 * (1 - part) - 0.12)
      }
    }
    progress(0.5)
    // rubbed in: the masses' own colours, softly
    const rubbed: Ground = { w, h, values: new Float32Array(w * h * 4) }
    const paper = rgbOfHex(p.paper)
    const there = blurred(kernels, { w, h, v: Float32Array.from(cover) }, max(1, 4 * unit))
    for (let c = 0; c < 3; c++) {
      const soft = blurred(kernels, broad[c]!, max(1, 6 * unit))
      for (let i = 0; i < w * h; i++) {
        const v = opened === 1 ? soft.v[i]! : pow(max(0, soft.v[i]!), opened)
        rubbed.values[i * 4 + c] = srgbToLinear(paper[c]! + (v - paper[c]!) * 0.8 * p.rubbed * there.v[i]!, pow)
      }
    }
    await pause()
    const cell = (x: number, y: number) => min(h - 1, max(0, round(y))) * w + min(w - 1, max(0, round(x)))
    const passes = (x: number, y: number, nx: number, ny: number) => abs(light[cell(x, y)]! - light[cell(nx, ny)]!) < 0.14
    const pigments: DryPigment[] = []
    for (let k = 0; k < n; k++) {
      progress(0.5 + (0.5 * k) / n)
      const list = new MarkList()
      const plane = pressed[k]!
      for (const [zone, { size, from, to }] of zones.entries()) {
        await layRows(
          list,
          {
            hand: p.hand + (((k * 5) % 7) - 3) * 6,
            spacing: (p.stick * size) / (0.6 + 0.55 * p.closeness),
            breadth: p.stick * size,
            length: p.length * (0.4 + 0.6 * size),
            swell: 0.28,
            wobble: p.wobble,
            seed: p.seed + k * 104729 + 31 * zone,
            least: 0.06,
            taper: 0.18,
            beyond: 0.2 * p.length,
            pressed: (x, y) => {
              const i = cell(x, y)
              return detail[i]! >= from && detail[i]! < to ? plane[i]! : -1
            },
            passes,
          },
          extent,
          w,
          h,
          kernels.raw,
          pause,
        )
      }
      pigments.push({ marks: list.done(extent), covers: rgbOfHex(sticks[k]!).map((v) => srgbToLinear(v, pow)) as Triple })
    }
    return { pigments, rubbed }
  },
  draw: (work, p) =>
    drawPigments(work.kernels, work.plan.pigments, work, {
      paper: p.paper,
      rubbed: work.plan.rubbed,
      tooth: p.tooth,
      soft: SOFT,
      catches: CATCH,
      seed: p.seed,
    }),
})
