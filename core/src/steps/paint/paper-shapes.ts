import { oklabOfRgb, rgbOfHex, type Triple } from '../../colour/oklab.ts'
import { nearest } from '../../colour/quantise.ts'
import { evenedLine } from '../../paths/fair.ts'
import type { PathPoint } from '../../paths/path.ts'
import { simplified } from '../../paths/simplify.ts'
import { grownBy } from '../../study/distance.ts'
import { at, between, blurred, field, type Field } from '../../study/fields.ts'
import { area2, levelLines } from '../../study/level-lines.ts'
import { massesOf } from '../../study/masses.ts'
import { calmed, fewer, merged, withoutRims, type Labels } from '../../study/regions.ts'
import type { Study } from '../../study/study.ts'
import { defineStep, type Laying } from '../contract.ts'
import { share } from '../params/index.ts'
import {
  closer,
  filledPlanes,
  LIGHTNESS,
  papersIn,
  papersParams,
  papersStep,
  sheetOf,
  stacked,
  type ColourPlanes,
  type Cutting,
  type Sheet,
} from './paper-sheets.ts'

// taken once: loops over planes look nothing up
const { abs, floor, max, min, sqrt } = Math

/** What a pixel counts towards a piece that is worth being cut where nothing matters, and where it matters most. */
const COARSE = 0.12
const DEAR = 2
/** What it counts at least when pieces go over to their neighbours for the length of their borders. */
const FAINT = 0.35
/** What an outline's length costs against the colours it keeps apart: the more, the fewer and calmer the pieces. Colours in OKLab, lengths in smallest pieces. */
const BORDER = 0.0022
/** Half the breadth of what an edge may leave between the two papers it parts, in smallest pieces. */
const RIM = 0.22
/** How far the straightest cut may leave an outline, in tightest curves. */
const ASTRAY = 1.6

/** How much each place of a plan of pw × ph matters: detail that stands out from what there is of it everywhere; leaves, gravel and folds all over do not. */
function dearOf({ detail, w, h }: Study, pw: number, ph: number): Float32Array {
  const some: number[] = []
  const every = max(1, floor(sqrt((w * h) / 4000)))
  for (let y = every >> 1; y < h; y += every) for (let x = every >> 1; x < w; x += every) some.push(detail.v[y * w + x]!)
  some.sort((a, b) => a - b)
  const low = max(0.06, some[some.length >> 1]! * 0.9)
  const high = max(0.4, low + 0.1, some[floor(some.length * 0.95)]!)
  const out = new Float32Array(pw * ph)
  const [across, down] = [w / pw, h / ph]
  for (let y = 0; y < ph; y++)
    for (let x = 0; x < pw; x++) out[y * pw + x] = COARSE + (DEAR - COARSE) * between(at(detail, (x + 0.5) * across - 0.5, (y + 0.5) * down - 0.5), low, high)
  return out
}

// loops in small functions of their own: they are compiled at once, and well

/** The planes as distances are taken in them, in place, and which kind is nearest to each pixel. */
function sorted(lights: Float32Array, reds: Float32Array, blues: Float32Array, lab: readonly Triple[]): Uint8Array {
  const of = new Uint8Array(lights.length)
  for (let i = 0; i < of.length; i++) {
    lights[i] = lights[i]! * LIGHTNESS
    reds[i] = reds[i]! - 0.5
    blues[i] = blues[i]! - 0.5
    of[i] = nearest([lights[i]!, reds[i]!, blues[i]!], lab)
  }
  return of
}

/** What belongs to a sheet, and what lies higher, of a picture that goes on beyond its rim by so much. */
function parted({ w, h, of }: Labels, rank: ArrayLike<number>, sheet: number, beyond: number, own: Uint8Array, higher: Uint8Array): void {
  const [bw, bh] = [w + 2 * beyond, h + 2 * beyond]
  for (let y = 0, k = 0; y < bh; y++) {
    const row = min(h - 1, max(0, y - beyond)) * w
    for (let x = 0; x < bw; x++, k++) {
      const its = rank[of[row + min(w - 1, max(0, x - beyond))]!]!
      own[k] = its === sheet ? 1 : 0
      higher[k] = its > sheet ? 1 : 0
    }
  }
}

/** 0 where a sheet lies: in its own regions, and near them under what lies on it. */
function outsideOf(own: Uint8Array, higher: Uint8Array, near: Uint8Array, out: Float32Array): void {
  for (let k = 0; k < out.length; k++) out[k] = own[k] === 1 || (higher[k] === 1 && near[k] === 1) ? 0 : 1
}

/** A ring, cut straight from turn to turn, and round about its turns: pixels of the plan. */
function cutLine(line: readonly PathPoint[], off: number, round: number): PathPoint[] {
  // it begins at its place farthest out, which is a turn
  const n = line.length
  let [cx, cy] = [0, 0]
  for (const p of line) {
    cx += p.x / n
    cy += p.y / n
  }
  let [first, far] = [0, -1]
  line.forEach((p, i) => {
    const d = (p.x - cx) ** 2 + (p.y - cy) ** 2
    if (d > far) [first, far] = [i, d]
  })
  const ring = [...line.slice(first), ...line.slice(0, first + 1)]
  const straight = off > 0.1 ? simplified(ring, off).slice(0, -1) : ring.slice(0, -1)
  return evenedLine(closer(straight, 1), round, true)
}

/** The sheets from the lowest up: each holds its own regions, and runs on under those that lie on it. */
async function sheetsOf(
  { study, kernels, facts, extent, pause, progress }: Laying<ColourPlanes>,
  cutting: Cutting & { straight: number; colours: readonly string[]; count: number },
): Promise<Sheet[]> {
  const { piece, radius, straight, colours, count } = cutting
  const { w, h, planes } = facts
  const scale = max(extent.w / w, extent.h / h)
  const least = (piece / scale) ** 2
  const calm: Field[] = []
  for (const v of planes) {
    calm.push(await massesOf(kernels, { w, h, v }, max(1, piece / scale / 3), pause))
    progress(0.15 * calm.length)
  }
  const dear = dearOf(study, w, h)
  await pause()
  const papers = colours.length > 1 ? [...colours] : papersIn(kernels, facts, count)
  const { pow } = kernels.raw
  const lab = papers.map((c) => oklabOfRgb(rgbOfHex(c), pow)).map(([l, a, b]): Triple => [l * LIGHTNESS, a, b])
  const [lights, reds, blues] = calm.map((c) => c.v) as [Float32Array, Float32Array, Float32Array]
  let labels: Labels = { w, h, of: sorted(lights, reds, blues, lab) }
  await pause()
  labels = withoutRims(kernels, labels, [lights, reds, blues], lab, (RIM * piece) / scale)
  await pause()
  labels = await calmed(kernels, labels, papers.length, max(0.7, (0.4 * radius) / scale), pause)
  const unlike = (a: number, b: number) => sqrt((lab[a]![0] - lab[b]![0]) ** 2 + (lab[a]![1] - lab[b]![1]) ** 2 + (lab[a]![2] - lab[b]![2]) ** 2)
  labels = merged(labels, least, unlike, (i) => dear[i]!)
  await pause()
  labels = fewer(labels, [lights, reds, blues], lab, (BORDER * piece) / scale, (i) => max(FAINT, dear[i]!))
  progress(0.7)
  await pause()
  const { order, rank } = stacked(labels, papers.length, study.ground, 0.6)
  // outlines go round beyond the picture: its rim is no cut
  const off = (straight * ASTRAY * radius) / scale
  const round = max(0.8, (1.1 * radius) / scale)
  const under = floor(2 * off + 2 * round) + 2
  const beyond = floor(off + 3 * round) + 3
  const [bw, bh] = [w + 2 * beyond, h + 2 * beyond]
  const full = (p: PathPoint): PathPoint => ({ x: extent.x + (p.x - beyond + 0.5) * scale, y: extent.y + (p.y - beyond + 0.5) * scale })
  const sheets: Sheet[] = [{ colour: papers[order[0]!]!, path: [], core: null }]
  const own = new Uint8Array(bw * bh)
  const higher = new Uint8Array(bw * bh)
  for (let i = 1; i < order.length; i++) {
    await pause()
    progress(0.7 + (0.3 * i) / order.length)
    parted(labels, rank, i, beyond, own, higher)
    const out = field(bw, bh)
    outsideOf(own, higher, grownBy(own, bw, bh, under), out.v)
    await pause()
    const lines = levelLines(blurred(kernels, out, max(0.7, (0.3 * radius) / scale)), 0.5)
      .filter((line) => abs(area2(line)) / 2 >= least * 0.4)
      .map((line) => simplified(cutLine(line, off, round), 0.08).map(full))
      .filter((line) => line.length > 2)
    if (lines.length > 0) sheets.push(sheetOf(kernels, papers[order[i]!]!, lines, i, cutting))
  }
  return sheets
}

const { thickness, ...cut } = papersParams

export const paperShapes = defineStep({
  ...papersStep,
  version: 2,
  method:
    'Masses by rolling guidance (Zhang et al. 2014), papers by k-means in OKLab, regions merged from the smallest and by the cost of their borders (Koepfler, Lopez and Morel 1994), outlines by level lines (marching squares), straightened (Douglas and Peucker 1973) and rounded to a radius',
  params: {
    ...cut,
    straight: share({ title: 'Straight cuts', default: 0.5, help: 'How far the scissors go straight: round every bend, or from turn to turn.' }),
    thickness,
  },
  // a torn edge strays the farther the thicker the paper is
  drawnBy: ({ edge }) => (edge === 'cut' ? ['thickness'] : []),
  analysedBy: [],
  analyse: (work): ColourPlanes => filledPlanes(work),
  lay: (work: Laying<ColourPlanes>, p) =>
    sheetsOf(work, {
      piece: p.piece,
      radius: p.radius,
      straight: p.straight,
      edge: p.edge as 'cut' | 'torn',
      thickness: p.edge === 'torn' ? p.thickness : 0,
      colours: p.colours,
      count: Math.round(p.count),
    }),
})
