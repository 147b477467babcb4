import type { Kernels } from '../../kernels/kernels.ts'
import { MarkList, type Marks } from '../../paths/marks.ts'
import { crestsOf } from '../../study/crests.ts'
import { between, blurred, mapped, slopes, type Field } from '../../study/fields.ts'
import { type Study } from '../../study/study.ts'
import { defineStep, type Laying, type LevelParams } from '../contract.ts'
import { colour, length, percent, rose, share, tone } from '../params/index.ts'
import { colourBorders, coloursShare, withColours, type Opponents } from './colour-borders.ts'
import { facingsOf } from './contours-1.ts'
import { askedOf, cutOut, inkCrest, penChoice, penLines, runsOn, summarised, type Pen } from './ink-lines.ts'

// taken once: loops over planes look nothing up
const { floor, round, sqrt } = Math

/** Where there is a picture, a little within its silhouette: a line along it lies on the figure. */
const insideOf = (kernels: Kernels, { cover, scale }: Study, breadth: number): Field =>
  mapped(blurred(kernels, cover, Math.max(0.7, (0.5 * breadth) / scale)), (v) => between(v, 0.5, 1))

const params = {
  pen: penChoice,
  weight: length({
    title: 'Breadth',
    default: percent(0.22),
    min: 0.4,
    max: 200,
    feel: 'log',
    mark: true,
    help: 'How broad the pen draws when it is neither pressed nor lifted.',
  }),
  detail: length({
    title: 'Smallest form',
    default: percent(0.45),
    min: 0.5,
    max: 200,
    feel: 'log',
    help: 'Forms smaller than this are not drawn: pores, grain, distant leaves.',
  }),
  faintest: tone({ title: 'Faintest edge', default: 24, min: 1, max: 160, help: 'Edges whose two sides differ by fewer tones stay undrawn.' }),
  light: share({ title: 'Broken in the light', default: 0.3, help: 'How much contrast a line in the light needs, not to be left to the eye.' }),
  shadow: share({ title: 'Heavy in the shadow', default: 0.5, help: 'How much broader lines are on the shadow side.' }),
  far: share({ title: 'Thin in the distance', default: 0.5, help: 'How much thinner lines are in the ground behind the subject.' }),
  facing: rose({
    title: 'Edge rose',
    help: 'Edges by the side they face, from dark to light: pull a sector in and edges that face that way are drawn less, or not at all.',
  }),
  ink: colour({ title: 'Ink', default: '#131211', help: 'The colour of the lines.' }),
  paper: colour({ title: 'Paper', default: '#ffffff', help: 'The colour between them.' }),
}

type Asked = Omit<LevelParams<typeof params>, 'sheet'>

/**
 * How much of an edge is drawn by the side it faces, as asked for by an edge rose.
 * @param x,y the slope, y downwards
 */
function facedBy(facing: readonly number[], atan2: Kernels['raw']['atan2']): (x: number, y: number) => number {
  if (facing.every((v) => v === 1)) return () => 1
  return (x, y) => {
    // sectors run counter-clockwise from the right, y upwards
    const place = ((atan2(-y, x) / 6.283185307179586 + 1) % 1) * 16
    const k = floor(place)
    const [a, b] = [facing[k % 16]!, facing[(k + 1) % 16]!]
    return a + (b - a) * (place - k)
  }
}

/**
 * The lines of a picture.
 * @param cut whether lines end at a silhouette
 * @param colours how much borders of colours are lines too, 0 … 1
 */
async function contoursOf(
  { study, kernels, extent, pause, progress }: Laying<unknown>,
  p: Asked,
  cut: boolean,
  colours: { of: Opponents; count: number } | null,
): Promise<Marks> {
  const list = new MarkList()
  const sigma = Math.max(0.7, p.detail / 3 / study.scale)
  const seen = summarised(study)
  const slope = slopes(kernels, blurred(kernels, cut ? cutOut(seen, insideOf(kernels, study, p.weight)) : seen, sigma))
  await pause()
  // the slope of a step of lightness 1 after the blur, the pixel and the operator
  const unit = 1 / sqrt(2 * 3.141592653589793 * (sigma * sigma + 0.6))
  const faced = facedBy(p.facing, kernels.raw.atan2)
  const height = mapped(slope.x, (gx, i) => {
    const gy = slope.y.v[i]!
    const steep = sqrt(gx * gx + gy * gy) / unit
    return steep < 1e-4 ? steep : steep * faced(gx, gy)
  })
  await pause()
  if (colours) {
    const borders = await colourBorders(kernels, colours.of, study, sigma, colours.count, pause)
    const across = p.facing.every((v) => v === 1) ? null : borders.across()
    const [{ v }, { v: more }] = [height, borders.height]
    for (let i = 0; i < v.length; i++) {
      if (more[i] === 0) continue
      // neither side is the dark one: it is drawn if it would be either way round
      const [x, y] = across ? [across.x.v[i]!, across.y.v[i]!] : [0, 0]
      v[i] = v[i]! + more[i]! * Math.max(faced(x, y), faced(-x, -y))
    }
    await pause()
  }
  const contrast = p.faintest / 255
  const calm = blurred(kernels, study.fine, Math.max(1, 2 * study.unit))
  const dear = (x: number, y: number) => {
    const i = round(y) * study.w + round(x)
    return (1 + 2.5 * p.light * between(calm.v[i]!, 0.6, 0.98)) * askedOf(study, i)
  }
  progress(0.35)
  const shortest = Math.max(6, (2.2 * p.detail) / study.scale)
  const crests = await crestsOf(
    kernels,
    height,
    { high: contrast, low: contrast * 0.5, bridge: round(2 + 3 * sigma), shortest, apart: Math.max(1.5, 1.2 * sigma), dear },
    pause,
  )
  progress(0.85)
  const penned = { pen: p.pen as Pen, width: p.weight, detail: p.detail, shadow: p.shadow, far: p.far }
  for (const crest of crests) if (runsOn(crest, study, shortest)) inkCrest(list, crest, study, calm, contrast * 3 + 0.1, penned)
  return list.done(extent)
}

/** What all versions of the step have in common. */
const common = {
  ...penLines,
  id: 'contours',
  title: 'Contours',
  help: 'The edges of forms as lines of a pen; which side an edge faces can decide whether it is drawn.',
  params,
  inspect: facingsOf,
} as const

const { ink, paper, ...drawn } = params

const METHOD =
  'Crests of the gradient (Canny 1986; slopes by Scharr 2000) over the photo where details matter and its masses elsewhere (rolling guidance, Zhang et al. 2014), followed as paths by predictor and corrector, joined, smoothed and drawn by exact area'

export const contours = defineStep({
  ...common,
  ...withColours,
  version: 4,
  method: `${METHOD}; borders of colours by their slope (Di Zenzo 1986)`,
  params: { ...drawn, colours: coloursShare, ink, paper },
  lay: (work: Laying<Opponents>, p) => contoursOf(work, p, true, p.colours > 0 ? { of: work.facts, count: p.colours } : null),
})

/** The second version saw white beyond a silhouette, and drew the pale band that lay along it. */
export const contours2 = defineStep({ ...common, version: 2, method: METHOD, beyond: false, lay: (work: Laying, p) => contoursOf(work, p, false, null) })
