import type { Kernels } from '../../kernels/kernels.ts'
import { MarkList, type Marks } from '../../paths/marks.ts'
import { area2, levelLines } from '../../study/level-lines.ts'
import { evenedLine, fairLine } from '../../paths/fair.ts'
import { merged } from '../../study/regions.ts'
import { crestsOf, type Crest, type CrestPoint } from '../../study/crests.ts'
import { at, between, blurred, field, slopes, type Field } from '../../study/fields.ts'
import { type Study } from '../../study/study.ts'
import { defineStep, type Laying, type LevelParams, type Work } from '../contract.ts'
import { choice, colour, length, percent, share } from '../params/index.ts'
import { colourBorders, coloursShare, withColours, type Opponents } from './colour-borders.ts'
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
  const out = field(fine.w, fine.h)
  const [to, t, f, b, d] = [out.v, tone.v, fine.v, broad.v, detail.v]
  for (let i = 0; i < to.length; i++) {
    const mass = f[i]! + (b[i]! - f[i]!) * (1 - between(d[i]!, 0.02, 0.3))
    to[i] = mass + (t[i]! - mass) * between(d[i]!, 0.2, 0.6)
  }
  return out
}

/** A plane that goes on beyond a silhouette, cut there: white beyond it. */
export function cutOut(of: Field, cover: Field): Field {
  const out = field(of.w, of.h)
  const [to, v, c] = [out.v, of.v, cover.v]
  for (let i = 0; i < to.length; i++) to[i] = v[i]! * c[i]! + (1 - c[i]!)
  return out
}

/** How dark a plane is against what surrounds it, in steps of lightness; 0 on the light side of an edge. */
export function darkSideOf(kernels: Kernels, of: Field, sigma: number): Field {
  const [near, far] = [blurred(kernels, of, sigma), blurred(kernels, of, sigma * WIDE)]
  // of itself into itself
  const [to, wide] = [near.v, far.v]
  for (let i = 0; i < to.length; i++) to[i] = max(0, wide[i]! - to[i]!) / STEP
  return near
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

/** What lines are drawn with. */
export const penChoice = choice({
  title: 'Pen',
  default: 'nib',
  options: [
    { value: 'technical', title: 'Technical pen' },
    { value: 'nib', title: 'Nib' },
    { value: 'brush', title: 'Brush' },
  ],
  help: 'A technical pen has one breadth and round ends, a nib swells and tapers, a brush does so most.',
})

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

/** How far round about lines are counted, thousandths of the long side; how much longer than those there a line is that is drawn where they are many. */
const AROUND = 22
const LONGER = 1.8

/**
 * How long a line must be by the others round it, in places: where many short ones lie close it is a texture, of which a pen draws what stands out of it. Nothing is asked
 * where details matter.
 * @param pitch how far apart lines of a texture lie, pixels of the study
 */
export function textureOf(
  kernels: Kernels,
  crests: readonly Crest[],
  { w, h, unit, detail }: Pick<Study, 'w' | 'h' | 'unit' | 'detail'>,
  pitch: number,
): (crest: Crest) => number {
  const [lines, lengths] = [field(w, h), field(w, h)]
  for (const { points } of crests)
    for (const p of points) {
      const i = min(h - 1, max(0, round(p.y))) * w + min(w - 1, max(0, round(p.x)))
      lines.v[i] = lines.v[i]! + 1 / points.length
      lengths.v[i] = lengths.v[i]! + 1
    }
  const reach = AROUND * unit
  const [many, long] = [blurred(kernels, lines, reach), blurred(kernels, lengths, reach)]
  return ({ points }) => {
    // what a line itself adds to what is seen along it: it lies in the middle of a Gaussian
    const own = min(1, points.length / (2.5 * reach)) / (2.5066282746310002 * max(0.5, reach))
    const step = max(1, floor(points.length / 8))
    let [asked, n] = [0, 0]
    for (let k = 0; k < points.length; k += step) {
      const { x, y } = points[k]!
      n++
      const others = at(long, x, y) - own
      if (others <= 0) continue
      const each = others / max(others / (w + h), at(many, x, y) - own / points.length)
      asked += LONGER * each * between(others * pitch, 0.08, 0.3) * (1 - between(at(detail, x, y), 0.25, 0.6))
    }
    return asked / n
  }
}

interface Blacks {
  /** Up to which tone masses are filled, and at most which share of the picture. */
  below: number
  most: number
  /** The side of the smallest, full-size pixels. */
  least: number
}

// loops in small functions of their own: they are compiled at once, and well

function addTo({ v }: Field, { v: more }: Field): void {
  for (let i = 0; i < v.length; i++) v[i] = v[i]! + more[i]!
}

/** Three parts of a plane and one of another. */
function mostly(of: Field, other: Field): Field {
  const out = field(of.w, of.h)
  const [to, v, o] = [out.v, of.v, other.v]
  for (let i = 0; i < to.length; i++) to[i] = 0.75 * v[i]! + 0.25 * o[i]!
  return out
}

/** 1 where a plane is below a level, else 0. */
function under({ v }: Field, level: number): Uint8Array {
  const out = new Uint8Array(v.length)
  for (let i = 0; i < out.length; i++) out[i] = v[i]! < level ? 1 : 0
  return out
}

/** The masses that blacks are spotted in, and the tone below which they are; null where none are asked for. */
function blacksIn(kernels: Kernels, study: Study, cut: boolean, { below, most }: Blacks): { masses: Field; level: number } | null {
  if (below <= 0) return null
  const calm = blurred(kernels, mostly(study.fine, study.broad), max(0.7, 0.9 * study.unit))
  const masses = cut ? cutOut(calm, study.cover) : calm
  // blacks are spotted, however dark the photo is; its very darkest are black
  return { masses, level: min(below, max(toneOf(masses, most), toneOf(masses, 0.02) + 0.05)) }
}

/** Dark masses as black areas with fair borders. */
function spotBlacks(list: MarkList, { masses, level }: { masses: Field; level: number }, { x: left, y: top, scale }: Study, least: number): void {
  for (const line of levelLines(masses, level)) {
    if (abs(area2(line)) / 2 < (least / scale) ** 2) continue
    list.area(evenedLine(line, 1.6, true).map(({ x, y }) => ({ x: left + (x + 0.5) * scale, y: top + (y + 0.5) * scale })))
  }
}

/** How near the border of a black a line is drawn along it, breadths of the pen: the border is the line. */
const ALONG = 1.6

/**
 * Whether a line at a place runs along a black that is near: it would be seen twice.
 * @param least the smallest black that is drawn, pixels of the study
 */
function besideBlack(
  kernels: Kernels,
  { masses, level }: { masses: Field; level: number },
  least: number,
  reach: number,
): (p: CrestPoint, q: CrestPoint) => boolean {
  const { w, h } = masses
  const { of } = merged({ w, h, of: under(masses, level) }, least, () => 1)
  const near = blurred(kernels, { w, h, v: new Float32Array(of) }, max(0.8, 0.6 * reach))
  const toward = slopes(kernels, near)
  return (p, q) => {
    const share = at(near, p.x, p.y)
    if (share < 0.04) return false
    const [gx, gy] = [at(toward.x, p.x, p.y), at(toward.y, p.x, p.y)]
    const [dx, dy] = [q.x - p.x, q.y - p.y]
    const across = abs(gx * dx + gy * dy)
    return across < 0.6 * sqrt((gx * gx + gy * gy) * (dx * dx + dy * dy))
  }
}

/** What is left of a crest without its places beside a black; where it was cut it ends at another line. */
function without(crest: Crest, beside: (p: CrestPoint, q: CrestPoint) => boolean): Crest[] {
  const { points } = crest
  const n = points.length
  const drawn = points.map((p, i) => !beside(p, points[i + 1 < n ? i + 1 : i - 1]!))
  if (drawn.every(Boolean)) return [crest]
  const out: Crest[] = []
  for (let i = 0; i < n; i++) {
    if (!drawn[i]) continue
    const from = i
    while (i < n && drawn[i]) i++
    out.push({ points: points.slice(from, i), meets: [from > 0 || crest.meets[0], i < n || crest.meets[1]], closed: false })
  }
  return out
}

const params = {
  pen: penChoice,
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
}

type Asked = Omit<LevelParams<typeof params>, 'sheet'>

/**
 * The lines of a picture.
 * @param cut whether lines end at a silhouette, and before a black
 * @param colours how much borders of colours are lines too, 0 … 1
 */
async function linesOf(
  { study, kernels, extent, pause, progress }: Laying<unknown>,
  p: Asked,
  cut: boolean,
  colours: { of: Opponents; count: number } | null,
): Promise<Marks> {
  const list = new MarkList()
  const sigma = max(0.7, p.detail / 3 / study.scale)
  const seen = summarised(study)
  await pause()
  const source = cut ? cutOut(seen, study.cover) : seen
  await pause()
  const height = darkSideOf(kernels, source, sigma)
  await pause()
  const contrast = contrastOf(height, p.lines, kernels.raw)
  // borders of colours are drawn besides, and take no line from a face
  if (colours) addTo(height, (await colourBorders(kernels, colours.of, study, sigma, colours.count, pause)).height)
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
  const asked: Blacks = {
    below: 0.5 * p.blacks * p.blacks + 0.12 * p.blacks,
    most: 0.03 + 0.35 * p.blacks + 0.62 * p.blacks * p.blacks * p.blacks,
    least: 5 * p.width,
  }
  const blacks = blacksIn(kernels, study, cut, asked)
  await pause()
  const beside = cut && blacks ? besideBlack(kernels, blacks, (asked.least / study.scale) ** 2, (ALONG * p.width) / study.scale) : null
  await pause()
  const stands = cut ? textureOf(kernels, crests, study, p.detail / study.scale) : () => 0
  await pause()
  for (const [k, crest] of crests.entries()) {
    if (k % 256 === 255) await pause()
    if (runsOn(crest, study, shortest) && crest.points.length >= stands(crest))
      for (const part of beside ? without(crest, beside) : [crest])
        if (part === crest || part.points.length >= 0.6 * shortest) inkCrest(list, part, study, calm, contrast * 3.2, penned)
  }
  await pause()
  if (blacks) spotBlacks(list, blacks, study, asked.least)
  return list.done(extent)
}

/** What steps that draw lines of a pen have in common. */
export const penLines = {
  group: 'line',
  kind: 'planned',
  // marks that lie on each other cover a pixel once, and how much of it is known at full size only
  coarsest: () => 0,
  drawnBy: ['ink', 'paper'],
  goesBy: ['masses', 'edges', 'detail', 'focus', 'ground'],
  lines: (marks: Marks, { ink }: { ink: string }) => ({ marks, colour: ink, laid: (weight: number) => weight }),
  draw: (work: Work & { plan: Marks }, { ink, paper }: { ink: string; paper: string }) => drawMarks(work.kernels, work.plan, work, { ink, paper, builds: 0 }),
} as const

/** What all versions of the step have in common. */
const common = {
  ...penLines,
  id: 'ink-lines',
  title: 'Ink lines',
  help: 'Pen lines along the forms: heavier in the shadow, broken in the light, with solid blacks where the masses ask for them. Always crisp.',
  params,
} as const

const { ink, paper, ...drawn } = params

const METHOD =
  'Crests of the dark side of a difference of Gaussians (Marr and Hildreth 1980) over masses by rolling guidance (Zhang et al. 2014), followed as paths by predictor and corrector, joined, smoothed and drawn by exact area; blacks by level lines of the masses (marching squares)'

export const inkLines = defineStep({
  ...common,
  ...withColours,
  version: 4,
  method: `${METHOD}; borders of colours by their slope (Di Zenzo 1986)`,
  params: { ...drawn, colours: coloursShare, ink, paper },
  lay: (work: Laying<Opponents>, p) => linesOf(work, p, true, p.colours > 0 ? { of: work.facts, count: p.colours } : null),
})

/** The second version saw white beyond a silhouette, and drew the pale band that lay along it; and it drew lines along blacks. */
export const inkLines2 = defineStep({ ...common, version: 2, method: METHOD, beyond: false, lay: (work: Laying, p) => linesOf(work, p, false, null) })
