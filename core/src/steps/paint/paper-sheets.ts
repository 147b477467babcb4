import { hexOfRgb, oklabOfLinear, pixelOf, rgbOfHex, rgbOfOklab, type Triple } from '../../colour/oklab.ts'
import { srgbToLinear } from '../../colour/srgb.ts'
import { nearest } from '../../colour/quantise.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { MarkList, type Marks } from '../../paths/marks.ts'
import { edgesOf, polygon, type Path, type PathPoint } from '../../paths/path.ts'
import { at, blurred, type Field } from '../../study/fields.ts'
import { counted, meansBy, type Labels } from '../../study/regions.ts'
import type { Region } from '../../base/region.ts'
import type { Analysis, Pic, Work } from '../contract.ts'
import { coloursOf } from './colours.ts'
import { choice, length, number, palette, percent } from '../params/index.ts'
import { addressOf } from '../picture.ts'

// Sheets of coloured paper over each other: what is cut or torn out of which, and how they are drawn.

// taken once: loops over planes look nothing up
const { max, min, PI, sqrt } = Math

/** A picture's colours in OKLab, a and b from 0.5. */
export interface ColourPlanes {
  w: number
  h: number
  planes: Float32Array[]
  /** How much of the picture there is at each place, where that was asked for: what is clear has no say in the papers. */
  cover?: Float32Array
}
export interface Facts extends ColourPlanes {
  /** The papers, given or found. */
  palette: string[]
}

/** One sheet of paper: its colour and where it is cut, in full-size pixels; torn ones have a core that shows. */
export interface Sheet {
  colour: string
  path: readonly Cut[]
  core: readonly Cut[] | null
}

/** One outline, and the rectangle round it. */
interface Cut {
  contour: Path[number]
  box: Region
}
const cutOf = (contour: Path[number]): Cut => ({ contour, box: boxOf([contour]) })

/** What a difference of lightness counts against one of hue and chroma. */
export const LIGHTNESS = 0.75
/** Steps that a shadow is drawn by, and how dark they are together. */
const SHADOW_STEPS = 6
const SHADOW = 0.5
/** The core of a torn paper. */
const CORE = '#f6f3ec'

/** Reads them; what is clear is white. */
export function colourPlanes(work: Analysis): ColourPlanes {
  const { input, kernels } = work
  const { w, h } = input.region
  const { planes, linear, put } = planesFor(kernels, w, h)
  for (let y = 0; y < h; y++) {
    const row = kernels.u16(input.ptr + y * input.stride, w * 4)
    for (let x = 0; x < w; x++) {
      const a = row[x * 4 + 3]! / 65535
      // what is clear is white
      const white = 65535 * (1 - a)
      const [r, g, b] = [linear[(row[x * 4]! * a + white) >> 6]!, linear[(row[x * 4 + 1]! * a + white) >> 6]!, linear[(row[x * 4 + 2]! * a + white) >> 6]!]
      put(y * w + x, [r, g, b])
    }
  }
  return { w, h, planes }
}

/** Reads them, and goes on with them where the picture is clear, so that sheets run on beyond a silhouette. */
export function filledPlanes(work: Analysis): ColourPlanes {
  const { w, h, rgb, cover } = coloursOf(work)
  const { planes, linear, put } = planesFor(work.kernels, w, h)
  const code = (v: number) => linear[min(1023, max(0, (v * 1023.999) | 0))]!
  for (let i = 0; i < w * h; i++) put(i, [code(rgb[0][i]!), code(rgb[1][i]!), code(rgb[2][i]!)])
  return { w, h, planes, cover }
}

/** Planes to be filled, the linear value of each of 1024 codes, and what puts a linear colour at a place. */
function planesFor({ raw: { pow } }: Kernels, w: number, h: number) {
  const planes = [0, 1, 2].map(() => new Float32Array(w * h))
  const linear = Float32Array.from({ length: 1024 }, (_, i) => srgbToLinear(i / 1023, pow))
  const put = (i: number, colour: Triple): void => {
    const lab = oklabOfLinear(colour, pow)
    planes[0]![i] = lab[0]
    planes[1]![i] = lab[1] + 0.5
    planes[2]![i] = lab[2] + 0.5
  }
  return { planes, linear, put }
}

/**
 * A picture's colours, and its papers.
 * @param given papers, as #rrggbb; of less than two, `count` are found in it
 */
export function factsOf(work: Analysis, given: readonly string[], count: number): Facts {
  const planes = colourPlanes(work)
  return { ...planes, palette: given.length > 1 ? [...given] : papersIn(work.kernels, planes, count) }
}

const long = (x: number, y: number): number => sqrt(x * x + y * y)

/** Chance for a place along a tear, −1 … 1: waves of a few lengths, the same wherever it is drawn from. */
function strayed({ sin }: Kernels['raw'], x: number, y: number, size: number, seed: number): number {
  const [u, v] = [x / size, y / size]
  return (
    0.5 * sin(u * 1.3 + 2.1 * sin(v * 0.9 + seed) + seed) +
    0.3 * sin(v * 3.1 + 1.7 * sin(u * 2.3 - seed) - 2 * seed) +
    0.2 * sin(u * 7.7 + v * 6.1 + 5 * seed + sin(v * 9.7))
  )
}

/** A closed line moved outwards by so much at each place; `out` is 1 where what it holds lies on the right of its way, seen with y downwards. */
function pushed(line: readonly PathPoint[], by: (p: PathPoint) => number, out: number): PathPoint[] {
  const n = line.length
  return line.map((p, i) => {
    const [a, b] = [line[(i + n - 1) % n]!, line[(i + 1) % n]!]
    const [dx, dy] = [b.x - a.x, b.y - a.y]
    const far = long(dx, dy) || 1
    const d = by(p) * out
    return { x: p.x + (dy / far) * d, y: p.y - (dx / far) * d }
  })
}

/** A closed line with a place at least so often. */
export function closer(line: readonly PathPoint[], apart: number): PathPoint[] {
  const out: PathPoint[] = []
  line.forEach((p, i) => {
    const q = line[(i + 1) % line.length]!
    const n = max(1, Math.ceil(long(q.x - p.x, q.y - p.y) / apart))
    for (let k = 0; k < n; k++) out.push({ x: p.x + ((q.x - p.x) * k) / n, y: p.y + ((q.y - p.y) * k) / n })
  })
  return out
}

/** Side of the cells that colours are gathered in, OKLab; each colour counts for all eight round it, so that a slightly other picture has slightly other papers. */
const CELL = 0.05
/** So many alike count as many to this power: a small accent is heard beside a large ground. */
const CROWD = 0.4
const ROUNDS = 40
/** What a picture is blurred by before papers are found in it, of its long side. */
const CALM = 0.004

/** Papers out of a picture, whose noise and size decide nothing. */
export function papersIn(kernels: Kernels, { w, h, planes, cover }: ColourPlanes, count: number): string[] {
  const calm = planes.map((v) => blurred(kernels, { w, h, v }, max(0.8, CALM * max(w, h))))
  return papersOf(calm, count, kernels.raw.pow, cover)
}

/** Colours gathered: their sum, each by its share, and the shares. */
interface Cell {
  sum: Triple
  n: number
}

/** Counts a colour for the eight cells round it. */
function gather(cells: Map<number, Cell>, p: number, q: number, r: number): void {
  const [x, y, z] = [p / CELL + 100, q / CELL + 100, r / CELL + 100]
  const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)]
  for (let c = 0; c < 8; c++) {
    const share = (c & 1 ? x - i : 1 - x + i) * (c & 2 ? y - j : 1 - y + j) * (c & 4 ? z - k : 1 - z + k)
    if (share === 0) continue
    const name = ((i + (c & 1)) * 256 + j + ((c >> 1) & 1)) * 256 + k + (c >> 2)
    let cell = cells.get(name)
    if (!cell) cells.set(name, (cell = { sum: [0, 0, 0], n: 0 }))
    cell.sum[0] += p * share
    cell.sum[1] += q * share
    cell.sum[2] += r * share
    cell.n += share
  }
}

/** Papers out of a picture, dark to light: weighted k-means (Lloyd 1982) from colours far from each other (Gonzalez 1985). */
function papersOf(calm: readonly Field[], count: number, pow: Kernels['raw']['pow'], cover?: Float32Array): string[] {
  const { w, h } = calm[0]!
  const every = max(1, Math.floor(sqrt((w * h) / 40000)))
  const cells = new Map<number, Cell>()
  for (let y = every >> 1; y < h; y += every)
    for (let x = every >> 1; x < w; x += every) {
      const at = y * w + x
      if (!cover || cover[at]! >= 0.5) gather(cells, calm[0]!.v[at]! * LIGHTNESS, calm[1]!.v[at]! - 0.5, calm[2]!.v[at]! - 0.5)
    }
  const points = [...cells.values()].map(({ sum, n }) => ({ p: sum.map((v) => v / n) as Triple, weight: pow(n, CROWD) }))
  const apart = (a: Triple, b: Triple) => (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2
  const away = points.map(() => Infinity)
  let centres: Triple[] = []
  let next = points.reduce((best, q, i) => (q.weight > points[best]!.weight ? i : best), 0)
  while (centres.length < min(count, points.length)) {
    centres.push(points[next]!.p)
    points.forEach((q, i) => (away[i] = min(away[i]!, apart(q.p, points[next]!.p))))
    next = points.reduce((best, q, i) => (q.weight * away[i]! > points[best]!.weight * away[best]! ? i : best), 0)
  }
  for (let round = 0; round < ROUNDS; round++) {
    const sums = centres.map(() => [0, 0, 0, 0])
    for (const { p, weight } of points) {
      const of = sums[nearest(p, centres)]!
      for (let c = 0; c < 3; c++) of[c]! += p[c]! * weight
      of[3]! += weight
    }
    centres = centres.map((c, k) => (sums[k]![3]! > 0 ? ([0, 1, 2].map((i) => sums[k]![i]! / sums[k]![3]!) as Triple) : c))
  }
  const found = [...new Set(centres.sort((p, q) => p[0] - q[0]).map(([l, u, v]) => hexOfRgb(rgbOfOklab([l / LIGHTNESS, u, v], pow))))]
  return found.length > 1 ? found : [...found, '#ffffff']
}

const boxOf = (path: Path): Region => {
  let [left, top, right, low] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const { from, pieces } of path)
    for (const p of [from, ...pieces.map((q) => q.to)]) {
      left = min(left, p.x)
      right = max(right, p.x)
      top = min(top, p.y)
      low = max(low, p.y)
    }
  return { x: Math.floor(left), y: Math.floor(top), w: Math.ceil(right - left) + 1, h: Math.ceil(low - top) + 1 }
}

/**
 * Papers from the lowest up, those there are, and the place of each among them: what lies behind lies below; of two as near, the larger.
 * @param ground how far behind each place lies, 0…1, as a study has it; @param size how much of that the whole picture's area counts
 */
export function stacked(labels: Labels, papers: number, ground: Field, size: number): { order: number[]; rank: Int32Array } {
  const { w, h } = labels
  const behind = meansBy(labels, papers, (x, y) => at(ground, ((x + 0.5) * ground.w) / w - 0.5, ((y + 0.5) * ground.h) / h - 0.5))
  const areas = counted(labels, papers)
  const order = areas
    .map((_, k) => k)
    .filter((k) => areas[k]! > 0)
    .sort((a, b) => behind[b]! + (size * areas[b]!) / (w * h) - (behind[a]! + (size * areas[a]!) / (w * h)))
  const rank = new Int32Array(papers)
  order.forEach((k, i) => (rank[k] = i))
  return { order, rank }
}

/** How papers are cut. Lengths are full-size pixels. */
export interface Cutting {
  piece: number
  radius: number
  edge: 'cut' | 'torn'
  thickness: number
}

/** A sheet from its outlines (full-size pixels): torn ones stray from them, and their core shows beyond. @param i which it is, from the lowest: each strays its own way */
export function sheetOf({ raw }: Kernels, colour: string, lines: readonly PathPoint[][], i: number, { radius, edge, thickness }: Cutting): Sheet {
  if (edge === 'cut') return { colour, path: lines.map(polygon).map(cutOf), core: null }
  const loose = lines.map((line) => closer(line, max(2, 0.35 * radius)))
  const stray = 0.22 * radius + 0.4 * thickness
  const off = (p: PathPoint) => stray * strayed(raw, p.x, p.y, radius * 1.7, i)
  const shown = (p: PathPoint) => off(p) + max(0, 0.2 + strayed(raw, p.x, p.y, radius * 4.3, i + 20)) * (0.35 * radius + thickness)
  const moved = (by: (p: PathPoint) => number) => loose.map((line) => polygon(pushed(line, by, 1))).map(cutOf)
  return { colour, path: moved(off), core: moved(shown) }
}

/** Contours that a region may meet: what lies wholly beside it covers nothing of it. */
const near = (path: readonly Cut[], { x, y, w, h }: Region, reach: number): Cut[] =>
  path.filter(({ box: b }) => b.x - reach <= x + w && b.x + b.w + reach >= x && b.y - reach <= y + h && b.y + b.h + reach >= y)

/** Draws what of contours meets a region: 16 bits a pixel. */
function coverOf(
  kernels: Kernels,
  cuts: readonly Cut[],
  region: Region,
  level: number,
  dx: number,
  dy: number,
  use: (mask: number, stride: number) => void,
): void {
  const path = cuts.map((c) => c.contour)
  const shifted =
    dx === 0 && dy === 0
      ? path
      : path.map((c) => ({ from: { x: c.from.x + dx, y: c.from.y + dy }, pieces: c.pieces.map((p) => ({ to: { x: p.to.x + dx, y: p.to.y + dy } })) }))
  const { points, counts } = edgesOf(shifted, level)
  const { x, y, w, h } = region
  const bytes = points.byteLength + counts.byteLength
  kernels.scratch(bytes + w * h * 2 + 64, (ptr) => {
    const all = new Int32Array(kernels.memory.buffer, ptr, points.length + counts.length)
    all.set(points)
    all.set(counts, points.length)
    const dst = (ptr + bytes + 15) & ~15
    kernels.raw.pathCover(ptr, ptr + points.byteLength, counts.length, x, y, w, h, 0, dst, w * 2)
    use(dst, w * 2)
  })
}

/** Draws sheets over what lies there, each with its shadow and, where it is torn, its core; what was clear stays so. */
export function drawSheets(
  kernels: Kernels,
  sheets: readonly Sheet[],
  { input, output, level }: { input: Pic; output: Pic; level: number },
  thickness: number,
  lamp: { direction: number; height: number },
): void {
  const { region, ptr, stride } = output
  const { w, h } = region
  const { raw } = kernels
  const full = 2 ** level
  // shadows fall away from the lamp, the longer the lower it stands
  const [stands, turned] = [(max(15, lamp.height) * PI) / 180, (lamp.direction * PI) / 180]
  const far = (thickness * raw.cos(stands)) / raw.sin(stands)
  const [sx, sy] = [-raw.cos(turned) * far, raw.sin(turned) * far]
  kernels.scratch(w * h * 8, (paper) => {
    const lay = (colour: string, mask: number, maskStride: number, opacity: number) => {
      raw.fillRect(paper, w * 8, w, h, BigInt.asIntN(64, pixelOf(rgbOfHex(colour))))
      raw.blendAtop(0, ptr, stride, paper, w * 8, mask, maskStride, ptr, stride, w, h, opacity)
    }
    const source = addressOf(input, region)
    if (source !== ptr) raw.copyRect(source, input.stride, ptr, stride, w * 8, h)
    for (const { colour, path, core } of sheets) {
      if (path.length === 0) {
        lay(colour, 0, 0, 1)
        continue
      }
      const reach = far + 2 * full
      const [left, top] = [region.x * full, region.y * full]
      const place = { x: left, y: top, w: w * full, h: h * full }
      const [cuts, cores] = [near(path, place, reach), core && near(core, place, reach)]
      const edge = cores ?? cuts
      if (edge.length === 0 && cuts.length === 0) continue
      for (let t = 1; far > 0 && t <= SHADOW_STEPS; t++) {
        const part = t / SHADOW_STEPS
        coverOf(kernels, edge, region, level, sx * part, sy * part, (mask, s) => lay('#101014', mask, s, SHADOW / SHADOW_STEPS))
      }
      if (cores) coverOf(kernels, cores, region, level, 0, 0, (mask, s) => lay(CORE, mask, s, 1))
      coverOf(kernels, cuts, region, level, 0, 0, (mask, s) => lay(colour, mask, s, 1))
    }
  })
}

/** The shapes of sheets, for files: those of each colour, from the lowest up. */
export function shapesOf(sheets: readonly Sheet[], extent: Region): { marks: Marks; colour: string; title: string }[] {
  return sheets.map(({ colour, path }, i) => {
    const list = new MarkList()
    // the lowest sheet is whole
    const cuts = path.length
      ? path.map(({ contour }) => [contour.from, ...contour.pieces.map((q) => q.to)])
      : [
          [
            { x: extent.x, y: extent.y },
            { x: extent.x + extent.w, y: extent.y },
            { x: extent.x + extent.w, y: extent.y + extent.h },
            { x: extent.x, y: extent.y + extent.h },
          ],
        ]
    for (const cut of cuts) list.area(cut)
    return { marks: list.done(extent), colour, title: `sheet ${i + 1}` }
  })
}

/** What is decided about papers. */
export const papersParams = {
  count: number({ title: 'Papers', default: 7, min: 2, max: 16, step: 1, help: 'How many colours of paper there are, where none are given.' }),
  colours: palette({ title: 'Own papers', default: [], help: 'The papers there are. None: they are chosen by the photo.' }),
  piece: length({
    title: 'Smallest piece',
    default: percent(1.6),
    min: 2,
    max: 3000,
    feel: 'log',
    help: 'How broad the smallest piece is that is worth being cut.',
  }),
  radius: length({ title: 'Tightest curve', default: percent(0.5), min: 1, max: 1500, feel: 'log', help: 'The tightest curve that the scissors go round.' }),
  edge: choice({
    title: 'Edges',
    default: 'cut',
    options: [
      { value: 'cut', title: 'Cut' },
      { value: 'torn', title: 'Torn' },
    ],
    help: 'Cut by scissors, clean; or torn, with the white core of the paper showing here and there.',
  }),
  thickness: length({
    title: 'Thickness',
    default: percent(0.18),
    min: 0,
    max: 500,
    feel: 'log',
    help: 'How thick the papers are: the longer the shadows of their edges are under the lamp.',
  }),
}

/** What all versions of the step have in common. */
export const papersStep = {
  id: 'paper-shapes',
  title: 'Paper shapes',
  group: 'paint',
  kind: 'planned',
  help: 'The picture cut or torn out of a few coloured papers, laid over each other.',
  params: papersParams,
  lit: true,
  bySheet: true,
  // outlines that lie on each other cover a pixel once, and how much of it is known at full size only
  coarsest: () => 0,
  goesBy: ['detail', 'ground'],
  shapes: (plan: readonly Sheet[], _: unknown, extent: Region) => shapesOf(plan, extent),
  draw: (
    { input, output, kernels, level, plan }: Work & { plan: readonly Sheet[] },
    p: { thickness: number; sheet: { lamp: { direction: number; height: number } } },
  ) => drawSheets(kernels, plan, { input, output, level }, p.thickness * 2 ** level, p.sheet.lamp),
} as const
