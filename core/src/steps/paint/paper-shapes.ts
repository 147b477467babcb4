import { hexOfRgb, oklabOfLinear, oklabOfRgb, pixelOf, rgbOfHex, rgbOfOklab, type Triple } from '../../colour/oklab.ts'
import { srgbToLinear } from '../../colour/srgb.ts'
import { nearest } from '../../colour/quantise.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { evenedLine } from '../../paths/fair.ts'
import { MarkList } from '../../paths/marks.ts'
import { edgesOf, polygon, type Path, type PathPoint } from '../../paths/path.ts'
import { simplified } from '../../paths/simplify.ts'
import { at, between, blurred, field, type Field } from '../../study/fields.ts'
import { area2, levelLines } from '../../study/level-lines.ts'
import { massesOf } from '../../study/masses.ts'
import { calmed, counted, meansBy, merged, type Labels } from '../../study/regions.ts'
import type { Region } from '../../base/region.ts'
import { defineStep, type Analysis, type Laying, type Pic } from '../contract.ts'
import { choice, length, number, palette, percent } from '../params/index.ts'
import { addressOf } from '../picture.ts'

// taken once: loops over planes look nothing up
const { abs, max, min, PI, sqrt } = Math

/** The picture's colours in OKLab, a and b from 0.5. */
interface Facts {
  w: number
  h: number
  planes: Float32Array[]
  /** The papers, given or found. */
  palette: string[]
}

/** One sheet of paper: its colour and where it is cut, in full-size pixels; torn ones have a core that shows. */
interface Sheet {
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
const LIGHTNESS = 0.75
/** What a pixel counts towards the smallest piece where nothing matters. */
const COARSE = 0.12
/** Steps that a shadow is drawn by, and how dark they are together. */
const SHADOW_STEPS = 6
const SHADOW = 0.5
/** The core of a torn paper. */
const CORE = '#f6f3ec'

function factsOf(work: Analysis, given: readonly string[], count: number): Facts {
  const { input, kernels } = work
  const { w, h } = input.region
  const { pow } = kernels.raw
  const planes = [0, 1, 2].map(() => new Float32Array(w * h))
  const [lightness, redGreen, blueYellow] = planes
  const linear = Float32Array.from({ length: 1024 }, (_, i) => srgbToLinear(i / 1023, pow))
  for (let y = 0; y < h; y++) {
    const row = kernels.u16(input.ptr + y * input.stride, w * 4)
    for (let x = 0; x < w; x++) {
      const a = row[x * 4 + 3]! / 65535
      // what is clear is white
      const white = 65535 * (1 - a)
      const [r, g, b] = [linear[(row[x * 4]! * a + white) >> 6]!, linear[(row[x * 4 + 1]! * a + white) >> 6]!, linear[(row[x * 4 + 2]! * a + white) >> 6]!]
      const lab = oklabOfLinear([r, g, b], pow)
      lightness![y * w + x] = lab[0]
      redGreen![y * w + x] = lab[1] + 0.5
      blueYellow![y * w + x] = lab[2] + 0.5
    }
  }
  // noise and size decide nothing
  const calm = planes.map((v) => blurred(kernels, { w, h, v }, max(0.8, CALM * max(w, h))))
  return { w, h, planes, palette: given.length > 1 ? [...given] : papersOf(calm, count, pow) }
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
function closer(line: readonly PathPoint[], apart: number): PathPoint[] {
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

/** Papers out of a picture, dark to light: weighted k-means (Lloyd 1982) from colours far from each other (Gonzalez 1985). */
function papersOf(calm: readonly Field[], count: number, pow: Kernels['raw']['pow']): string[] {
  const { w, h } = calm[0]!
  const every = max(1, Math.floor(sqrt((w * h) / 40000)))
  const cells = new Map<number, { sum: Triple; n: number }>()
  for (let y = every >> 1; y < h; y += every)
    for (let x = every >> 1; x < w; x += every) {
      const at = y * w + x
      const p: Triple = [calm[0]!.v[at]! * LIGHTNESS, calm[1]!.v[at]! - 0.5, calm[2]!.v[at]! - 0.5]
      const place = p.map((v) => v / CELL + 100) as Triple
      const base = place.map(Math.floor) as Triple
      for (let k = 0; k < 8; k++) {
        const corner = [k & 1, (k >> 1) & 1, k >> 2]
        const share = corner.reduce((s, c, i) => s * (c ? place[i]! - base[i]! : 1 - place[i]! + base[i]!), 1)
        if (share === 0) continue
        const name = ((base[0] + corner[0]!) * 256 + base[1] + corner[1]!) * 256 + base[2] + corner[2]!
        let cell = cells.get(name)
        if (!cell) cells.set(name, (cell = { sum: [0, 0, 0], n: 0 }))
        for (let c = 0; c < 3; c++) cell.sum[c]! += p[c]! * share
        cell.n += share
      }
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

interface Cutting {
  piece: number
  radius: number
  edge: 'cut' | 'torn'
  thickness: number
}

/** The sheets from the lowest up: each holds its own regions and those of all that lie on it, so that it runs on under them. */
async function sheetsOf({ study, kernels, facts, extent, pause, progress }: Laying<Facts>, { piece, radius, edge, thickness }: Cutting): Promise<Sheet[]> {
  const { w, h, palette: papers } = facts
  const scale = max(extent.w / w, extent.h / h)
  const least = (piece / scale) ** 2
  const sigma = max(0.8, (0.6 * radius) / scale)
  const calm: Field[] = []
  for (const v of facts.planes) {
    calm.push(await massesOf(kernels, { w, h, v }, max(1, piece / scale / 3), pause))
    progress(0.15 * calm.length)
  }
  const { pow } = kernels.raw
  const lab = papers.map((c) => oklabOfRgb(rgbOfHex(c), pow)).map(([l, a, b]): Triple => [l * LIGHTNESS, a, b])
  let labels: Labels = { w, h, of: new Uint8Array(w * h) }
  for (let i = 0; i < w * h; i++) labels.of[i] = nearest([calm[0]!.v[i]! * LIGHTNESS, calm[1]!.v[i]! - 0.5, calm[2]!.v[i]! - 0.5], lab)
  await pause()
  labels = await calmed(kernels, labels, papers.length, sigma, pause)
  // small pieces are cut where the eye goes; elsewhere leaves, gravel and folds are left to few large ones
  const dear = (i: number) => {
    const [x, y] = [((i % w) + 0.5) * (study.w / w) - 0.5, (Math.floor(i / w) + 0.5) * (study.h / h) - 0.5]
    return COARSE + (1 - COARSE) * between(at(study.detail, x, y), 0.06, 0.4)
  }
  labels = merged(labels, least, (a, b) => sqrt((lab[a]![0] - lab[b]![0]) ** 2 + (lab[a]![1] - lab[b]![1]) ** 2 + (lab[a]![2] - lab[b]![2]) ** 2), dear)
  progress(0.7)
  await pause()
  // what lies behind lies below; of two as near, the larger
  const ground = meansBy(labels, papers.length, (x, y) => at(study.ground, ((x + 0.5) * study.w) / w - 0.5, ((y + 0.5) * study.h) / h - 0.5))
  const areas = counted(labels, papers.length)
  const order = papers
    .map((_, k) => k)
    .filter((k) => areas[k]! > 0)
    .sort((a, b) => ground[b]! + (0.25 * areas[b]!) / (w * h) - (ground[a]! + (0.25 * areas[a]!) / (w * h)))
  const rank = new Int32Array(papers.length)
  order.forEach((k, i) => (rank[k] = i))
  const full = (p: PathPoint): PathPoint => ({ x: extent.x + (p.x + 0.5) * scale, y: extent.y + (p.y + 0.5) * scale })
  const sheets: Sheet[] = []
  for (let i = 0; i < order.length; i++) {
    await pause()
    progress(0.7 + (0.3 * i) / order.length)
    const colour = papers[order[i]!]!
    if (i === 0) {
      sheets.push({ colour, path: [], core: null })
      continue
    }
    const out = field(w, h)
    for (let k = 0; k < w * h; k++) out.v[k] = rank[labels.of[k]!]! >= i ? 0 : 1
    const lines = levelLines(blurred(kernels, out, sigma), 0.5)
      .filter((line) => abs(area2(line)) / 2 >= least * 0.4)
      .map((line) => evenedLine(line, max(1, sigma), true))
      .map((line) =>
        simplified([...line, line[0]!], 0.08)
          .slice(0, -1)
          .map(full),
      )
      .filter((line) => line.length > 2)
    if (lines.length === 0) continue
    const torn = edge === 'torn'
    const fine = max(2, 0.35 * radius)
    const loose = torn ? lines.map((line) => closer(line, fine)) : lines
    const stray = 0.22 * radius + 0.4 * thickness
    const path = (torn ? loose.map((line) => pushed(line, (p) => stray * strayed(kernels.raw, p.x, p.y, radius * 1.7, i), 1)) : loose).map(polygon)
    const core = torn
      ? loose
          .map((line) =>
            pushed(
              line,
              (p) =>
                stray * strayed(kernels.raw, p.x, p.y, radius * 1.7, i) +
                max(0, 0.2 + strayed(kernels.raw, p.x, p.y, radius * 4.3, i + 20)) * (0.35 * radius + thickness),
              1,
            ),
          )
          .map(polygon)
      : null
    sheets.push({ colour, path: path.map(cutOf), core: core && core.map(cutOf) })
  }
  return sheets
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

function drawSheets(
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

export const paperShapes = defineStep({
  id: 'paper-shapes',
  version: 1,
  title: 'Paper shapes',
  group: 'paint',
  kind: 'planned',
  help: 'The picture cut or torn out of a few coloured papers, laid over each other.',
  method:
    'Masses by rolling guidance (Zhang et al. 2014), papers by k-means in OKLab, regions merged from the smallest (Koepfler, Lopez and Morel 1994), outlines by level lines (marching squares), evened to a radius',
  params: {
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
  },
  lit: true,
  bySheet: true,
  // outlines that lie on each other cover a pixel once, and how much of it is known at full size only
  coarsest: () => 0,
  goesBy: ['detail', 'ground'],
  // a torn edge strays the farther the thicker the paper is
  drawnBy: ({ edge }) => (edge === 'cut' ? ['thickness'] : []),
  analysedBy: ['colours', 'count'],
  analyse: (work, { colours, count }): Facts => factsOf(work, colours, Math.round(count)),
  lay: (work: Laying<Facts>, p) =>
    sheetsOf(work, {
      piece: p.piece,
      radius: p.radius,
      edge: p.edge as 'cut' | 'torn',
      thickness: p.edge === 'torn' ? p.thickness : 0,
    }),
  shapes: (plan, _, extent) =>
    plan.map(({ colour, path }, i) => {
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
    }),
  draw: ({ input, output, kernels, level, plan }, p) => drawSheets(kernels, plan, { input, output, level }, p.thickness * 2 ** level, p.sheet.lamp),
})
