import { QuillError } from '../../base/errors.ts'
import { MarkList, type Marks } from '../../paths/marks.ts'
import { at, between, blurred, mapped, type Field } from '../../study/fields.ts'
import { streamlines, type Streamlines, type Way } from '../../study/streamlines.ts'
import { defineStep, type Laying } from '../contract.ts'
import { angle, choice, colour, length, mm, number, percent, seed, share } from '../params/index.ts'
import { drawMarks } from './draw-marks.ts'
import { summarised } from './ink-lines.ts'
import { drawTooth } from '../surface/paper-tooth.ts'
import { chance } from './strokes.ts'

// taken once: loops over planes look nothing up
const { abs, floor, max, min, round, sqrt } = Math

type Tool = 'pen' | 'hard' | 'soft'
interface Hand {
  /** Breadth and weight of the lightest stroke, of its fullest; over what share of its length it tapers. */
  breadth: number
  weight: number
  fullest: number
  taper: number
  /** How fast it builds up; 0: it covers. */
  builds: number
}
const hands: Record<Tool, Hand> = {
  pen: { breadth: 0.4, weight: 1, fullest: 1, taper: 0.1, builds: 0 },
  hard: { breadth: 0.7, weight: 0.12, fullest: 0.6, taper: 0.16, builds: 1 },
  soft: { breadth: 0.75, weight: 0.11, fullest: 1, taper: 0.2, builds: 1.7 },
}
/** More strokes than this are not laid without being asked for. */
const MOST = 1_500_000

/** From which demand on each layer is laid. */
export const layersFrom = (layers: number): number[] => Array.from({ length: layers }, (_, i) => 0.02 + (0.92 * i) / (layers + 0.6))
/** Over how much more demand the strokes of a layer come in, one after another: so that they do not all end at the same tone. */
const SOFT = 0.1
/** How much more demand brings a layer to its full pressure. */
const spanOf = (layers: number) => 1.15 / (layers + 0.35)

/** Tone that a mark of some weight leaves, as the kernel lays it. */
const laidBy = (weight: number, builds: number): number => {
  const t = weight * builds
  return builds > 0 ? (t + t * t) / (1 + t + t * t) : min(1, weight)
}

/** How much closer strokes lie, and how much thinner they are, where fine marks belong. */
const FINE = 0.5
/** How much darker than the photo small dark features are, against what is round them. */
const ACCENT = 2.6
/** Where fewer than this share of a layer's strokes is wanted there are none. */
const LEAST = 1 / 6

/** What share of a layer's strokes is there, by the demand above the layer's own. */
const sharesIn = (more: number): number => (more < SOFT / 6 ? 0 : min(1, more / SOFT))

/** What share of the paper a layer covers, by its pressure. */
export function coverOf(pressure: number, density: number, breadth: number, hand: Hand): number {
  const broad = breadth * (hand.breadth + (1 - hand.breadth) * pressure)
  return min(1, density * broad * laidBy(hand.weight + (hand.fullest - hand.weight) * pressure, hand.builds))
}

/**
 * The demand that makes all layers together as dark as asked for, by darkness in 1024 steps: layers cross, so that what they leave of the paper is multiplied.
 * @param laid demands that the strokes were laid by, which say how many of them are there; where not given, they follow the demand
 */
export function demandsOf(densities: readonly number[], breadth: number, hand: Hand, laid: Float32Array | null = null): Float32Array {
  const from = layersFrom(densities.length)
  const span = spanOf(densities.length)
  const darkness = (d: number, there: number) => {
    let left = 1
    for (let i = 0; i < densities.length; i++)
      left *= 1 - sharesIn(there - from[i]!) * coverOf(min(1, max(0, (d - from[i]!) / span)), densities[i]!, breadth, hand)
    return 1 - left
  }
  const table = new Float32Array(1025)
  let d = 0
  for (let i = 0; i <= 1024; i++) {
    while (d < 1.4 && darkness(d, laid ? laid[i]! : d) < i / 1024) d += 1 / 2048
    table[i] = d
  }
  return table
}

/**
 * How dark the drawing is to be, 0 bare paper … 1: a lighter key than the photo's, its lights left bare.
 * @param bare share of the tones, from white down, that get no stroke
 */
export const keyed = (tone: number, bare: number, darkest: number): number => {
  const t = max(0, 1 - tone / (1 - 0.75 * bare))
  return darkest * t * (0.75 + 0.25 * t)
}

/** The mean lightness that a light key comes near. */
const LIGHT = 0.6

/**
 * The exponent that brings a photo's tones to a lighter key: a dark photo is opened up, a light one left alone.
 * @param key 0 as the photo is … 1 as light as a drawing
 */
export function keyOf({ v }: Field, cover: Field, key: number, { log }: { log: (v: number) => number }): number {
  let [sum, there] = [0, 1e-6]
  for (let i = 0; i < v.length; i++) {
    sum += v[i]! * cover.v[i]!
    there += cover.v[i]!
  }
  const mean = sum / there
  if (mean >= LIGHT || mean <= 0.001) return 1
  return 1 + key * (max(0.4, log(LIGHT) / log(mean)) - 1)
}

/**
 * Directions of one layer: all one way, or along a field and, by as much as it leans to it, the chosen way where there is none; each turned by the layer's
 * crossing.
 */
function directionsOf(
  along: { x: Field; y: Field } | null,
  radians: number,
  lean: number,
  turn: number,
  { cos, sin }: { cos: (v: number) => number; sin: (v: number) => number },
) {
  const [c, s] = [cos(radians + turn), sin(radians + turn)]
  if (!along) {
    return (_x: number, _y: number, out: Way) => {
      out.x = c
      out.y = s
    }
  }
  const [bx, by] = [cos(2 * radians) * lean, sin(2 * radians) * lean]
  const [tc, ts] = [cos(turn), sin(turn)]
  return (x: number, y: number, out: Way) => {
    const [u, v] = [at(along.x, x, y) + bx, at(along.y, x, y) + by]
    const long = sqrt(u * u + v * v)
    if (long < 1e-9) {
      out.x = c
      out.y = s
      return
    }
    // half the doubled angle, by square roots alone
    const hc = sqrt(max(0, (1 + u / long) / 2))
    const hs = (v < 0 ? -1 : 1) * sqrt(max(0, (1 - u / long) / 2))
    out.x = hc * tc - hs * ts
    out.y = hs * tc + hc * ts
  }
}

/**
 * Length of all strokes in an area where they are wanted, a pixel of it: counted as thick as they are where nothing lifts them.
 * @param closer how much thinner they are at a place
 */
function densityOf({ points, starts }: Streamlines, taper: number, area: number, closer: (x: number, y: number) => number): number {
  let sum = 0
  for (let k = 0; k + 1 < starts.length; k++) {
    const [from, to] = [starts[k]!, starts[k + 1]!]
    if (to - from < 2) continue
    const [dx, dy] = [points[from * 2 + 2]! - points[from * 2]!, points[from * 2 + 3]! - points[from * 2 + 1]!]
    const step = sqrt(dx * dx + dy * dy)
    // each end runs out evenly over its share
    const middle = (from + ((to - from) >> 1)) * 2
    sum += step * (to - from - 1) * (1 - taper) * closer(points[middle]!, points[middle + 1]!)
  }
  return area > 0 ? sum / area : 0
}

interface Stroke {
  /** x, y a place of the study, and the first and last of this stroke. */
  points: Float32Array
  from: number
  to: number
  /** Full-size pixels from one place to the next. */
  step: number
  /** Numbers 0…1 that belong to it. */
  luck: (j: number) => number
}

/** A streamline as a hand draws it: pressed by the tone, a little shaky, run out at its ends. */
function handStroke(
  list: MarkList,
  { points, from, to, step, luck }: Stroke,
  p: { tool: string; spacing: number; breadth: number; length: number; wobble: number },
  pressed: (x: number, y: number) => number,
  closer: (x: number, y: number) => number,
  xOf: (x: number) => number,
  yOf: (y: number) => number,
  sin: (v: number) => number,
): void {
  const hand = hands[p.tool as Tool]
  const pen = p.tool === 'pen'
  const n = to - from
  // a hand shakes slowly, across its way
  const sway = p.wobble * 0.3 * p.spacing * (0.4 + luck(3))
  const wave = 6.2831853 / (p.length * (0.35 + 0.5 * luck(4)))
  const phase = 6.2831853 * luck(5)
  const press = 1 + 0.4 * p.wobble * (2 * luck(6) - 1)
  // ends run out over a share of the stroke, one of them sooner
  const early = luck(7) < 0.5
  const begin = hand.taper * (early ? 0.6 : 1.4)
  const end = hand.taper * (early ? 1.4 : 0.6)
  const every = max(1, min(floor(n / 6), round(max(2, 0.6 * p.spacing) / step)))
  for (let j = 0; ; j += every) {
    const m = min(j, n - 1)
    const x = points[(from + m) * 2]!
    const y = points[(from + m) * 2 + 1]!
    const before = (from + max(0, m - 1)) * 2
    const after = (from + min(n - 1, m + 1)) * 2
    const tx = points[after]! - points[before]!
    const ty = points[after + 1]! - points[before + 1]!
    const long = sqrt(tx * tx + ty * ty) || 1
    const across = sway * sin(phase + wave * m * step)
    const pressure = pressed(x, y) * press
    const t = n > 1 ? m / (n - 1) : 0
    const ends = min(1, t / begin, (1 - t) / end)
    const half = 0.5 * p.breadth * closer(x, y) * (hand.breadth + (1 - hand.breadth) * pressure) * (pen ? ends : 0.55 + 0.45 * ends)
    const weight = (hand.weight + (hand.fullest - hand.weight) * pressure) * (pen ? 1 : ends)
    list.place(xOf(x) - (ty / long) * across, yOf(y) + (tx / long) * across, half, weight)
    if (m === n - 1) break
  }
  list.end()
}

/** The step; in its second version masses grew pale towards a silhouette, as if white lay beyond it. */
const stepOf = (version: 2 | 3) =>
  defineStep({
    id: 'hatching',
    version,
    title: 'Hatching',
    group: 'line',
    kind: 'planned',
    onPaper: true,
    help: 'Strokes laid evenly in one to four layers: they lift towards the lights, stop at found edges and carry the tones, in a lighter key, by layers and pressure.',
    method:
      'Evenly spaced streamlines (Jobard and Lefer 1997) of a chosen direction or of the photo’s smoothed structure tensor (Di Zenzo 1986), over masses by rolling guidance (Zhang et al. 2014); pressure from the measured cover of the layers',
    params: {
      layers: number({ title: 'Layers', default: 3, min: 1, max: 4, step: 1, help: 'How often the darks are gone over, each time in another direction.' }),
      direction: angle({ title: 'Direction', default: 48, min: -90, max: 90, help: 'The way the first layer is drawn, from level.' }),
      crossing: angle({ title: 'Crossing', default: 38, min: 0, max: 90, help: 'How far each further layer is turned against the one before.' }),
      follow: choice({
        title: 'Strokes',
        default: 'straight',
        options: [
          { value: 'straight', title: 'All one way' },
          { value: 'forms', title: 'Along the forms' },
        ],
        help: 'All one way, or bent round the forms as an engraver does.',
      }),
      tool: choice({
        title: 'Tool',
        default: 'soft',
        options: [
          { value: 'pen', title: 'Pen' },
          { value: 'hard', title: 'Hard lead' },
          { value: 'soft', title: 'Soft lead' },
        ],
        help: 'A pen covers wherever it goes; a hard lead stays silver, a soft one builds up to black, and both catch on the tooth.',
      }),
      spacing: length({
        title: 'Spacing',
        default: percent(0.3),
        min: 1,
        max: 400,
        feel: 'log',
        mark: true,
        help: 'How far apart the strokes of a layer lie.',
      }),
      breadth: length({
        title: 'Breadth',
        default: percent(0.17),
        min: 0.3,
        max: 300,
        feel: 'log',
        mark: true,
        help: 'How broad a stroke is at full pressure.',
      }),
      length: length({ title: 'Stroke length', default: percent(8), min: 4, max: 4000, feel: 'log', help: 'How long a stroke is that nothing ends sooner.' }),
      key: share({ title: 'Key', default: 0.6, help: 'How much lighter than the photo the drawing is: a dark photo is opened up as a draughtsman would.' }),
      bare: share({ title: 'Lights left bare', default: 0.3, help: 'Down to which tone the paper is left alone.' }),
      darkest: share({ title: 'Darkest', default: 0.8, help: 'How dark the darkest passages are drawn, as far as the tool can go.' }),
      wobble: share({ title: 'Wobble', default: 0.35, help: 'How unsteady the hand is: ruled, or free.' }),
      tooth: length({
        title: 'Tooth',
        default: mm(0.3),
        min: 0.5,
        max: 120,
        feel: 'log',
        mark: true,
        help: 'How far apart the peaks of the paper stand, on which a lead catches.',
      }),
      ink: colour({ title: 'Ink or lead', default: '#201e1d', help: 'The colour of the strokes.' }),
      paper: colour({ title: 'Paper', default: '#ffffff', help: 'The colour between them.' }),
      seed: seed({ default: 11, help: 'The same strokes, dealt again.' }),
    },
    // marks that lie on each other cover a pixel once, and how much of it is known at full size only
    coarsest: () => 0,
    drawnBy: ['ink', 'paper', 'tooth'],
    goesBy: ['masses', 'flow', 'edges', 'detail', 'focus'],
    beyond: version > 2,
    lay: async ({ study, kernels, extent, pause, progress }: Laying, p): Promise<Marks> => {
      const layers = round(p.layers)
      const strokes = (extent.w * extent.h * layers) / max(1, p.spacing * min(p.length, 60 * p.spacing))
      if (strokes > MOST) {
        throw new QuillError(
          'too-many-marks',
          `At this spacing the hatching would be about ${(strokes / 1e6).toFixed(1)} million strokes. Nothing was changed; set the strokes further apart, or make them longer.`,
          { strokes: round(strokes) },
        )
      }
      const cut = version > 2
      const { scale, w, h, unit } = study
      const { sin } = kernels.raw
      const hand = hands[p.tool as Tool]
      const apart = p.spacing / scale
      // tones in few, calm masses
      const tone = summarised(study)
      const [calm, near] = [blurred(kernels, tone, max(0.6, 0.7 * apart)), blurred(kernels, tone, max(0.5, 0.15 * apart))]
      // what is small and matters is drawn, and pressed a little: a feature is darker than the strokes round it
      for (let i = 0; i < calm.v.length; i++) {
        const by = near.v[i]! - calm.v[i]!
        calm.v[i] = calm.v[i]! + by * between(study.detail.v[i]!, 0.15, 0.6) * (by < 0 ? ACCENT : 1)
      }
      const opened = keyOf(study.fine, study.cover, p.key, kernels.raw)
      const tones = new Float32Array(1025)
      for (let i = 0; i <= 1024; i++) tones[i] = keyed(opened === 1 ? i / 1024 : kernels.raw.pow(i / 1024, opened), p.bare, p.darkest)
      const dark = mapped(calm, (v, i) => (study.cover.v[i]! < 0.5 ? 0 : tones[min(1024, max(0, round(v * 1024)))]!))
      await pause()
      let along: { x: Field; y: Field } | null = null
      const radians = (-p.direction * 3.141592653589793) / 180
      if (p.follow === 'forms') {
        along = { x: blurred(kernels, study.flowX, 13 * unit), y: blurred(kernels, study.flowY, 13 * unit) }
        await pause()
      }
      const comb = study.painted?.comb
      if (comb) {
        // where it was combed the hand decides, whatever the strokes follow elsewhere
        const toward = (f: Field | undefined, way: number, by: Field) => mapped(by, (v, i) => (f ? f.v[i]! : way) * (1 - comb.cover.v[i]!) + v)
        along = { x: toward(along?.x, kernels.raw.cos(2 * radians), comb.x), y: toward(along?.y, kernels.raw.sin(2 * radians), comb.y) }
        await pause()
      }
      const lean = p.follow === 'forms' ? 0.16 : 0
      const from = layersFrom(layers)
      const span = spanOf(layers)
      // first as if strokes lay exactly as far apart as asked, then as they do
      const first = demandsOf(
        Array.from({ length: layers }, () => 1 / p.spacing),
        p.breadth,
        hand,
      )
      const demandIn = (table: Float32Array, v: number) => table[min(1024, max(0, round(v * 1024)))]!
      // features are drawn closer, with a thinner line
      const closer = (x: number, y: number) => 1 - (1 - FINE) * between(at(study.detail, x, y), 0.35, 0.8)
      const laid: Streamlines[] = []
      const densities: number[] = []
      const step = max(0.75, min(apart * 0.35, 4))
      for (let i = 0; i < layers; i++) {
        progress((0.9 * i) / layers)
        const turn = (-i * p.crossing * 3.141592653589793) / 180
        const more = (x: number, y: number) => demandIn(first, at(dark, x, y)) - from[i]!
        const lines = await streamlines(
          {
            w,
            h,
            apart: max(0.8, FINE * apart),
            nearest: 0.62,
            step,
            direction: directionsOf(along, radians, lean, turn, kernels.raw),
            share: (x, y) => (FINE * sharesIn(more(x, y))) / closer(x, y),
            least: FINE * LEAST,
            // a stroke does not cross a found edge
            passes: (x, y, dx, dy) => {
              if (cut && at(study.cover, x + dx, y + dy) < 0.5) return false
              if (at(study.edges, x + dx, y + dy) < 0.35 && at(study.edges, x + dx / 2, y + dy / 2) < 0.35) return true
              // from a little before the step to a little beyond it
              const k = max(1, 1.2 * unit) / step
              return abs(at(study.fine, x + dx * (1 + k), y + dy * (1 + k)) - at(study.fine, x - dx * k, y - dy * k)) < 0.09
            },
            longest: (line) => (p.length / scale) * (0.55 + 0.9 * chance(line, i, p.seed)),
            overlap: (0.3 * p.spacing + 0.45 * hand.taper * p.length) / scale,
            shortest: (x, y) => min((0.6 * p.length) / scale, max(2 * step, 1.6 * apart) * closer(x, y) ** 2),
            chance: (a, b) => chance(a, b, p.seed + i * 104729),
          },
          pause,
        )
        let area = 0
        for (let y = 0; y < h; y += 2) for (let x = 0; x < w; x += 2) area += 4 * sharesIn(more(x, y))
        laid.push(lines)
        densities.push(densityOf(lines, hand.taper, area, closer) / scale)
      }
      const table = demandsOf(densities, p.breadth, hand, first)
      const list = new MarkList()
      const toFull = (v: number, from0: number) => from0 + (v + 0.5) * scale
      for (let i = 0; i < layers; i++) {
        const { points, starts } = laid[i]!
        const pressed = (x: number, y: number) => min(1, max(0, (demandIn(table, at(dark, x, y)) - from[i]!) / span))
        for (let k = 0; k + 1 < starts.length; k++) {
          if (k % 500 === 0) await pause()
          const stroke = { points, from: starts[k]!, to: starts[k + 1]!, step: step * scale, luck: (j: number) => chance(k, j, p.seed + i * 7919) }
          handStroke(
            list,
            stroke,
            p,
            pressed,
            closer,
            (v) => toFull(v, study.x),
            (v) => toFull(v, study.y),
            sin,
          )
        }
      }
      return list.done(extent)
    },
    lines: (marks, p) => ({ marks, colour: p.ink, laid: (weight) => laidBy(weight, hands[p.tool as Tool].builds) }),
    draw: (work, p) => {
      const tool = p.tool as Tool
      drawMarks(work.kernels, work.plan, work, { ink: p.ink, paper: p.paper, builds: hands[tool].builds })
      if (tool === 'pen') return
      // a lead catches on the hills of the paper and reaches its valleys where it is pressed
      const strength = tool === 'soft' ? 0.72 : 0.62
      drawTooth(
        { ...work, input: work.output, others: {} },
        { ...p, pitch: p.tooth, strength, softness: 0.75, pressure: 0, stroke: p.length, width: p.spacing },
        true,
      )
    },
  })

export const hatching = stepOf(3)
export const hatching2 = stepOf(2)
