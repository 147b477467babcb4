import type { Kernels } from '../../kernels/kernels.ts'
import { MarkList, type Marks } from '../../paths/marks.ts'
import { area2, levelLines } from '../../study/level-lines.ts'
import { evenedLine, fairLine } from '../../paths/fair.ts'
import { crestsOf, type Crest, type CrestPoint } from '../../study/crests.ts'
import { at, between, blurred, mapped, type Field } from '../../study/fields.ts'
import type { Study } from '../../study/study.ts'
import { defineStep, type Laying } from '../contract.ts'
import { choice, colour, length, percent, share } from '../params/index.ts'
import { drawMarks } from './draw-marks.ts'

// taken once: loops over planes look nothing up
const { abs, ceil, floor, max, min, round, sqrt } = Math

/** The wide Gaussian of the dark side, in narrow ones (Marr and Hildreth 1980). */
const WIDE = 1.6
/** The dark side of a step of lightness 1, by the error function. */
const STEP = 0.11

export type Pen = 'technical' | 'nib' | 'brush'
/** How much a pen's line swells, over how many breadths it tapers, and its thinnest part. */
const pens: Record<Pen, { swell: number; taper: number; least: number }> = {
  technical: { swell: 0, taper: 0, least: 1 },
  nib: { swell: 0.75, taper: 9, least: 0.3 },
  brush: { swell: 1.5, taper: 18, least: 0.16 },
}

/** What is looked at for lines: the photo itself where details matter, its masses elsewhere, the large ones where nothing does. */
export function summarised({ tone, fine, broad, detail }: Study): Field {
  return mapped(fine, (v, i) => {
    const d = detail.v[i]!
    const mass = v + (broad.v[i]! - v) * (1 - between(d, 0.02, 0.3))
    return mass + (tone.v[i]! - mass) * between(d, 0.2, 0.6)
  })
}

/** How dark a plane is against what surrounds it, in steps of lightness; 0 on the light side of an edge. */
export function darkSideOf(kernels: Kernels, of: Field, sigma: number): Field {
  const [near, far] = [blurred(kernels, of, sigma), blurred(kernels, of, sigma * WIDE)]
  return mapped(near, (v, i) => max(0, far.v[i]! - v) / STEP)
}

/**
 * The contrast from which lines are drawn. How much is drawn is decided, so it goes mostly by what there is: by the contrast that so much of this picture has, and partly by
 * contrast as such, so that an empty picture stays empty.
 * @param lines 0 … 1
 */
export function contrastOf(height: Field, lines: number, { exp, log }: { exp: (v: number) => number; log: (v: number) => number }): number {
  const counts = new Uint32Array(1024)
  for (let i = 0; i < height.v.length; i++) {
    const k = min(1023, floor(height.v[i]! * 1024))
    counts[k] = counts[k]! + 1
  }
  // dark sides of edges to be drawn, as a share of the picture
  let left = height.v.length * 0.012 * exp(3 * lines)
  let k = 1023
  while (k > 0 && left > 0) left -= counts[k--]!
  const own = max(0.012, k / 1024)
  const fixed = 0.42 * exp(-3 * lines)
  return max(0.02, exp(0.65 * log(own) + 0.35 * log(fixed)))
}

/** Values along a line, each the mean of those about it. */
function evened(values: readonly number[], r: number): number[] {
  const sums = [0]
  for (const v of values) sums.push(sums.at(-1)! + v)
  return values.map((_, i) => {
    const [a, b] = [max(0, i - r), min(values.length, i + r + 1)]
    return (sums[b]! - sums[a]!) / (b - a)
  })
}

/** What of its taper a line has where it ends at another. */
const MEETS = 0.3

interface Penned {
  pen: Pen
  width: number
  /** The smallest form, full-size pixels: by less than a part of it a line may be drawn beside the crest. */
  detail: number
  shadow: number
  far: number
}

/** A crest as a pen draws it: breadth by contrast, by the shadow beside it and by how near it is, thinner towards free ends; short of a line that it meets. */
export function inkCrest(list: MarkList, crest: Crest, study: Study, dark: Field, full: number, p: Penned): void {
  const { scale } = study
  const kind = pens[p.pen]
  let points: CrestPoint[] = crest.points
  // a gap is left where a nearer form overlaps
  const gap = ceil((0.9 * p.width) / scale + 0.5)
  if (crest.meets[0]) points = points.slice(gap)
  if (crest.meets[1]) points = points.slice(0, -gap)
  if (points.length < 4) return
  const line = fairLine(points, max(1.6, (0.9 * p.width) / scale), max(0.4, (0.22 * p.detail) / scale), crest.closed)
  const weights = evened(
    line.map(({ x, y, height }) => {
      const strong = min(1, height / full)
      const shade = 1 - at(dark, x, y)
      const near = 1 - p.far * 0.65 * at(study.ground, x, y)
      return max(kind.least, (1 - kind.swell * 0.45 + kind.swell * (0.55 * strong + p.shadow * 0.9 * shade * shade - 0.3)) * near)
    }),
    ceil(3 + (2 * p.width) / scale),
  )
  const n = line.length
  // places as far apart as the line needs
  const step = max(1, floor(max(1.5, 0.35 * p.width) / scale))
  const taper = min((kind.taper * p.width) / scale, n * 0.45)
  const half = p.width / 2
  const place = (i: number) => {
    const q = line[i]!
    let its = weights[i]!
    if (!crest.closed && taper > 0) {
      // a line that ends at another is lifted soon, one that ends by itself runs out
      const ends = min(i / (crest.meets[0] ? MEETS * taper : taper), (n - 1 - i) / (crest.meets[1] ? MEETS * taper : taper), 1)
      its *= sqrt(max(0, ends))
    }
    list.place(study.x + (q.x + 0.5) * scale, study.y + (q.y + 0.5) * scale, half * its, 1)
  }
  if (kind.taper === 0 && !crest.closed) capped(list, line, study, half, true)
  for (let i = 0; i < n - 1; i += step) place(i)
  place(n - 1)
  if (crest.closed) place(0)
  if (kind.taper === 0 && !crest.closed) capped(list, line, study, half, false)
  list.end()
}

/** A round end, as places of falling breadth. */
function capped(list: MarkList, line: readonly { x: number; y: number }[], study: Study, half: number, first: boolean): void {
  const [p, q] = first ? [line[0]!, line[1]!] : [line.at(-1)!, line.at(-2)!]
  const [dx, dy] = [p.x - q.x, p.y - q.y]
  const long = sqrt(dx * dx + dy * dy) || 1
  const at5 = [1, 0.94, 0.78, 0.52, 0.22]
  for (const out of first ? at5 : [...at5].reverse()) {
    const [x, y] = [study.x + (p.x + 0.5) * study.scale + (dx / long) * half * out, study.y + (p.y + 0.5) * study.scale + (dy / long) * half * out]
    list.place(x, y, half * sqrt(1 - out * out), 1)
  }
}

/** Whether a line is long enough to be drawn: where nothing matters, only what runs on is. */
export function runsOn({ points }: Crest, { detail }: Study, shortest: number): boolean {
  let sum = 0
  for (const q of points) sum += at(detail, q.x, q.y)
  return points.length >= (1 + 2.5 * (1 - between(sum / points.length, 0.1, 0.5))) * shortest
}

/** How much higher a crest must be by what a hand has said of the edge there, at a place of the study; where there is no picture nothing is high enough. */
export function askedOf({ cover, painted }: Study, i: number): number {
  if (cover.v[i]! < 0.5) return 1e9
  const by = painted?.edges?.v[i] ?? 0
  return by < 0 ? 1 / max(1e-9, (1 + by) * (1 + by)) : 1 - 0.75 * by
}

/** The tone below which a share of a plane lies. */
function toneOf({ v }: Field, share: number): number {
  const counts = new Uint32Array(1025)
  for (let i = 0; i < v.length; i++) {
    const k = min(1024, max(0, floor(v[i]! * 1024)))
    counts[k] = counts[k]! + 1
  }
  let left = v.length * share
  let k = 0
  while (k < 1024 && left > counts[k]!) left -= counts[k++]!
  return k / 1024
}

/** Dark masses as black areas with fair borders. */
export function spotBlacks(kernels: Kernels, list: MarkList, study: Study, below: number, most: number, least: number): void {
  if (below <= 0) return
  const { scale, unit } = study
  const masses = blurred(
    kernels,
    mapped(study.fine, (v, i) => 0.75 * v + 0.25 * study.broad.v[i]!),
    max(0.7, 0.9 * unit),
  )
  // blacks are spotted, however dark the photo is; its very darkest are black
  for (const line of levelLines(masses, min(below, max(toneOf(masses, most), toneOf(masses, 0.02) + 0.05)))) {
    if (abs(area2(line)) / 2 < (least / scale) ** 2) continue
    list.area(evenedLine(line, 1.6, true).map(({ x, y }) => ({ x: study.x + (x + 0.5) * scale, y: study.y + (y + 0.5) * scale })))
  }
}

export const inkLines = defineStep({
  id: 'ink-lines',
  version: 2,
  title: 'Ink lines',
  group: 'line',
  kind: 'planned',
  help: 'Pen lines along the forms: heavier in the shadow, broken in the light, with solid blacks where the masses ask for them. Always crisp.',
  method:
    'Crests of the dark side of a difference of Gaussians (Marr and Hildreth 1980) over masses by rolling guidance (Zhang et al. 2014), followed as paths by predictor and corrector, joined, smoothed and drawn by exact area; blacks by level lines of the masses (marching squares)',
  params: {
    pen: choice({
      title: 'Pen',
      default: 'nib',
      options: [
        { value: 'technical', title: 'Technical pen' },
        { value: 'nib', title: 'Nib' },
        { value: 'brush', title: 'Brush' },
      ],
      help: 'A technical pen has one breadth and round ends, a nib swells and tapers, a brush does so most.',
    }),
    width: length({
      title: 'Breadth',
      default: percent(0.2),
      min: 0.5,
      max: 200,
      feel: 'log',
      mark: true,
      help: 'How broad the pen draws when it is neither pressed nor lifted.',
    }),
    detail: length({
      title: 'Smallest form',
      default: percent(0.3),
      min: 0.5,
      max: 200,
      feel: 'log',
      help: 'Forms smaller than this get no lines of their own.',
    }),
    lines: share({ title: 'Lines', default: 0.7, help: 'How much is drawn: only the strongest edges, or every fold.' }),
    light: share({ title: 'Broken in the light', default: 0.5, help: 'How much contrast a line in the light needs, not to be left to the eye.' }),
    shadow: share({ title: 'Heavy in the shadow', default: 0.6, help: 'How much broader lines are on the shadow side.' }),
    far: share({ title: 'Thin in the distance', default: 0.5, help: 'How much thinner lines are in the ground behind the subject.' }),
    blacks: share({ title: 'Blacks', default: 0.4, help: 'Up to which tone dark masses are filled in solid.' }),
    ink: colour({ title: 'Ink', default: '#131211', help: 'The colour of the lines.' }),
    paper: colour({ title: 'Paper', default: '#ffffff', help: 'The colour between them.' }),
  },
  // marks that lie on each other cover a pixel once, and how much of it is known at full size only
  coarsest: () => 0,
  drawnBy: ['ink', 'paper'],
  goesBy: ['masses', 'edges', 'detail', 'focus', 'ground'],
  lay: async ({ study, kernels, extent, pause, progress }: Laying, p): Promise<Marks> => {
    const list = new MarkList()
    const sigma = max(0.7, p.detail / 3 / study.scale)
    const source = summarised(study)
    await pause()
    const height = darkSideOf(kernels, source, sigma)
    await pause()
    const contrast = contrastOf(height, p.lines, kernels.raw)
    const calm = blurred(kernels, study.fine, max(1, 2 * study.unit))
    const dear = (x: number, y: number) => {
      const i = round(y) * study.w + round(x)
      const light = between(calm.v[i]!, 0.62, 0.98)
      return (1 + 2.2 * p.light * light) * (1.6 - 0.6 * between(study.detail.v[i]!, 0.1, 0.7)) * askedOf(study, i)
    }
    progress(0.35)
    const shortest = max(6, (2.2 * p.detail) / study.scale)
    const crests = await crestsOf(
      kernels,
      height,
      { high: contrast, low: contrast * 0.42, bridge: round(2 + 3 * sigma), shortest, apart: max(1.5, 1.1 * sigma), dear },
      pause,
    )
    progress(0.85)
    const penned = { pen: p.pen as Pen, width: p.width, detail: p.detail, shadow: p.shadow, far: p.far }
    for (const crest of crests) if (runsOn(crest, study, shortest)) inkCrest(list, crest, study, calm, contrast * 3.2, penned)
    await pause()
    spotBlacks(kernels, list, study, 0.5 * p.blacks * p.blacks + 0.12 * p.blacks, 0.03 + 0.35 * p.blacks + 0.62 * p.blacks * p.blacks * p.blacks, 5 * p.width)
    return list.done(extent)
  },
  lines: (marks, { ink }) => ({ marks, colour: ink, laid: (weight) => weight }),
  draw: (work, { ink, paper }) => drawMarks(work.kernels, work.plan, work, { ink, paper, builds: 0 }),
})
