import type { Region } from '../../base/region.ts'
import { rgbOfHex } from '../../colour/oklab.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { at, between, blurred, type Field } from '../../study/fields.ts'
import type { Study } from '../../study/study.ts'
import { defineStep, type Laying } from '../contract.ts'
import { chance } from '../line/strokes.ts'
import { angle, colour, length, number, percent, seed, share } from '../params/index.ts'
import { brushesBetween, brushwork, drawBrushwork, paintCanvas, primed, type Brushwork, type Ground, type PaintStroke, type PaintTool } from './brushwork.ts'
import { apart, colourMasses, coloursOf, type Colours } from './colours.ts'
import { directionOf, flowFor, grownStroke, turnRound, type Direction } from './grow-stroke.ts'

// taken once: loops over planes look nothing up
const { abs, ceil, floor, max, min, round, sqrt } = Math

/** From one brush to the next smaller. */
const RATIO = 0.52
/** A difference of colour that no stroke goes on over. */
const FOREIGN = 0.17
/** Half breadths that a stroke goes on each way before it minds what lies there. */
const SHORTEST = 4
/** Hairs of a brush as a plan sees them: not at all. */
const PLAIN: PaintTool = { pitch: 1e6, round: 0.4, hair: 0, ragged: 0, ridge: 0 }

interface Painting {
  largest: number
  smallest: number
  care: number
  bend: number
  long: number
  uneven: number
  loose: number
  drag: number
  load: number
  body: number
  hand: number
  seed: number
}

/** What a layer of strokes is laid by, in pixels of the plan. */
interface Layer {
  /** Half the brush's breadth. */
  half: number
  /** The picture as this brush sees it. */
  ref: [Field, Field, Field]
  canvas: Ground
  direction: Direction
  /** 0 the first and largest … 1 the last. */
  fine: number
  number: number
  /** How much fine marks belong to a place. */
  detail: (x: number, y: number) => number
}

/** Where strokes of a layer begin: in each cell about as broad as the brush, where what lies there is furthest from the picture, if it is too far. */
function begins({ half, ref, canvas, fine, number }: Layer, colours: Colours, study: Study, p: Painting): { x: number; y: number; rank: number }[] {
  const { w, h, cover } = colours
  const [rr, gg, bb] = [ref[0].v, ref[1].v, ref[2].v]
  const cell = max(1, half * (number > 0 ? 1.5 : 2))
  const [columns, rows] = [ceil(w / cell), ceil(h / cell)]
  const across = study.w / w
  const found: { x: number; y: number; rank: number }[] = []
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      const [x0, x1] = [floor(i * cell), min(w, floor((i + 1) * cell))]
      const [y0, y1] = [floor(j * cell), min(h, floor((j + 1) * cell))]
      let [sum, n, most, mx, my] = [0, 0, -1, 0, 0]
      for (let y = y0; y < y1; y++)
        for (let x = x0; x < x1; x++) {
          const k = y * w + x
          if (cover[k]! < 0.5) continue
          const e = apart(rr[k]!, gg[k]!, bb[k]!, canvas.values[k * 4]!, canvas.values[k * 4 + 1]!, canvas.values[k * 4 + 2]!)
          sum += e
          n++
          if (e > most) {
            most = e
            mx = x
            my = y
          }
        }
      if (n === 0) continue
      const luck = chance(i, j, p.seed + 131 * number)
      if (number > 0) {
        const [sx, sy] = [(mx + 0.5) * across - 0.5, (my + 0.5) * across - 0.5]
        const detail = between(at(study.detail, sx, sy), 0.08, 0.5)
        const allowed = (0.018 + 0.1 * (1 - p.care)) * (1 + fine * (2.6 * (1 - detail) + 1.6 * at(study.ground, sx, sy)))
        if (sum / n < allowed) continue
      } else {
        // the first brush goes over everything, evenly
        mx = (i + 0.5) * cell
        my = (j + 0.5) * cell
      }
      const thrown = p.loose * half * 0.8
      found.push({
        x: min(w - 1, max(0, mx + (chance(i, j, p.seed + 17) - 0.5) * thrown)),
        y: min(h - 1, max(0, my + (chance(i, j, p.seed + 29) - 0.5) * thrown)),
        rank: luck,
      })
    }
  return found.sort((a, b) => a.rank - b.rank)
}

/** One stroke from a place, in full-size pixels; null where it would be none. */
function strokeFrom(layer: Layer, colours: Colours, extent: Region, p: Painting, x0: number, y0: number, own: number): PaintStroke | null {
  const { half, ref, canvas, direction } = layer
  const { w, h, cover } = colours
  const [r, g, b] = [at(ref[0], x0, y0), at(ref[1], x0, y0), at(ref[2], x0, y0)]
  const luck = (k: number) => chance(own, k, p.seed + layer.number * 7919)
  const step = max(1.4, half)
  const longest = 2 * half * p.long * (0.6 + 0.8 * luck(1))
  const line = grownStroke(x0, y0, {
    direction,
    step,
    longest,
    bend: p.bend,
    goesOn: (x, y, steps) => {
      if (x < -half || y < -half || x > w - 1 + half || y > h - 1 + half) return false
      const k = min(h - 1, max(0, round(y))) * w + min(w - 1, max(0, round(x)))
      if (cover[k]! < 0.25) return false
      const [sr, sg, sb] = [ref[0].v[k]!, ref[1].v[k]!, ref[2].v[k]!]
      const off = apart(sr, sg, sb, r, g, b)
      if (off > FOREIGN) return false
      // a stroke is decided: it is not broken off at once where the picture is well enough
      if (layer.number === 0 || steps * step < SHORTEST * half) return true
      const i = k * 4
      return off <= apart(sr, sg, sb, canvas.values[i]!, canvas.values[i + 1]!, canvas.values[i + 2]!) + 0.02
    },
  })
  const scale = extent.w / w
  // a touch that goes nowhere is one where it matters, and a crumb elsewhere
  if ((line.length / 2 - 1) * step < 2.2 * half && layer.number > 0) {
    if (layer.detail(x0, y0) < 0.35) return null
  }
  if (line.length < 4) {
    const way = { x: 1, y: 0 }
    direction(x0, y0, way)
    line.splice(0, line.length, x0 - way.x * half, y0 - way.y * half, x0 + way.x * half, y0 + way.y * half)
  }
  if (luck(2) < 0.5) turnRound(line)
  const shade = (luck(3) - 0.5) * 0.16 * p.uneven
  const warm = (luck(4) - 0.5) * 0.12 * p.uneven
  let [cr, cg, cb] = [r + shade + warm, g + shade, b + shade - warm]
  const n = line.length / 2
  const breadth = half * scale * (0.85 + 0.3 * luck(5))
  const places = []
  for (let i = 0; i < n; i++) {
    const [x, y] = [line[i * 2]!, line[i * 2 + 1]!]
    if (i > 0 && layer.number > 0) {
      // the brush takes up what it goes over
      const k = 4 * (min(h - 1, max(0, round(y))) * w + min(w - 1, max(0, round(x))))
      const by = 0.2 * p.drag
      cr += (canvas.values[k]! - cr) * by
      cg += (canvas.values[k + 1]! - cg) * by
      cb += (canvas.values[k + 2]! - cb) * by
    }
    const t = n > 1 ? i / (n - 1) : 0
    places.push({ x: extent.x + (x + 0.5) * scale, y: extent.y + (y + 0.5) * scale, half: breadth, r: cr, g: cg, b: cb, load: 1 - (1 - p.load) * t * sqrt(t) })
  }
  return {
    places,
    seed: (own * 9781 + layer.number * 524287) % 16777213,
    half: breadth,
    body: 0.16 * breadth * p.body,
    solid: 1,
    tint: [warm * 0.5, 0, -warm * 0.5],
    streak: 0.07 + 0.06 * p.uneven,
  }
}

/** Strokes of the ground along a silhouette, their rim on it: what is behind cuts into the shape before it. */
function cutIns(layer: Layer, colours: Colours, study: Study, extent: Region, p: Painting): PaintStroke[] {
  const { half, ref } = layer
  const { w, h, cover } = colours
  const across = study.w / w
  const cell = max(2, 1.6 * half)
  const out: PaintStroke[] = []
  const way = { x: 1, y: 0 }
  for (let j = 0; j * cell < h; j++)
    for (let i = 0; i * cell < w; i++) {
      // the strongest edge of the cell
      let [most, mx, my] = [0.55, -1, -1]
      for (let y = floor(j * cell); y < min(h, (j + 1) * cell); y++)
        for (let x = floor(i * cell); x < min(w, (i + 1) * cell); x++) {
          const e = at(study.edges, (x + 0.5) * across - 0.5, (y + 0.5) * across - 0.5)
          if (e > most) {
            most = e
            mx = x
            my = y
          }
        }
      if (mx < 0) continue
      layer.direction(mx, my, way)
      const [nx, ny] = [-way.y * half, way.x * half]
      const groundAt = (x: number, y: number) => at(study.ground, (x + 0.5) * across - 0.5, (y + 0.5) * across - 0.5)
      const [a, b] = [groundAt(mx + 2 * nx, my + 2 * ny), groundAt(mx - 2 * nx, my - 2 * ny)]
      if (abs(a - b) < 0.18) continue
      const side = a > b ? 1 : -1
      const [x, y] = [mx + nx * side * 0.95, my + ny * side * 0.95]
      if (x < 0 || y < 0 || x > w - 1 || y > h - 1 || cover[floor(y) * w + floor(x)]! < 0.5) continue
      // only where the stroke's own colour is the ground's
      const far = [
        at(ref[0], mx + 3 * nx * side, my + 3 * ny * side),
        at(ref[1], mx + 3 * nx * side, my + 3 * ny * side),
        at(ref[2], mx + 3 * nx * side, my + 3 * ny * side),
      ]
      if (apart(at(ref[0], x, y), at(ref[1], x, y), at(ref[2], x, y), far[0]!, far[1]!, far[2]!) > 0.1) continue
      const stroke = strokeFrom(layer, colours, extent, p, x, y, 500000 + j * 1000 + i)
      if (stroke) out.push(stroke)
    }
  return out
}

/** Lays the strokes, from the largest brush to the smallest, each layer by what lies there already. */
export async function broadStrokes(
  kernels: Kernels,
  { study, facts: colours, extent, pause, progress }: Laying<Colours>,
  p: Painting,
  ground: Ground,
): Promise<PaintStroke[]> {
  const { w, h } = colours
  const scale = extent.w / w
  const brushes = brushesBetween(p.largest / 2, min(p.smallest, p.largest) / 2, RATIO)
  const canvas: Ground = { w, h, values: ground.values.slice() }
  const all: PaintStroke[] = []
  for (let l = 0; l < brushes.length; l++) {
    progress(l / brushes.length)
    const half = max(0.6, brushes[l]! / scale)
    const ref = await colourMasses(kernels, colours, 0.5 * half, pause)
    const calm = max(2, 1.2 * half * (study.w / w))
    const along = flowFor(study, (f) => blurred(kernels, f, calm))
    await pause()
    const direction = directionOf(along, study.w / w, { hand: p.hand, lean: 0.14, swing: 32, often: 0.07 * max(w, h) }, kernels.raw)
    const detail = (x: number, y: number) => at(study.detail, ((x + 0.5) * study.w) / w - 0.5, ((y + 0.5) * study.w) / w - 0.5)
    const layer: Layer = { half, ref, canvas, direction, fine: brushes.length > 1 ? l / (brushes.length - 1) : 1, number: l, detail }
    const strokes: PaintStroke[] = []
    const seeds = begins(layer, colours, study, p)
    for (let i = 0; i < seeds.length; i++) {
      if (i % 400 === 0) await pause()
      const s = strokeFrom(layer, colours, extent, p, seeds[i]!.x, seeds[i]!.y, i)
      if (s) strokes.push(s)
    }
    if (l > 0 && l < brushes.length - 1) strokes.push(...cutIns(layer, colours, study, extent, p))
    await paintCanvas(kernels, canvas, strokes, extent, PLAIN, pause)
    for (const s of strokes) all.push(s)
  }
  return all
}

export const broadBrush = defineStep({
  id: 'broad-brush',
  version: 1,
  title: 'Broad brush',
  group: 'paint',
  kind: 'planned',
  help: 'Painted from large to small: a broad brush lays the masses, finer ones go over what is still too far off, where it matters.',
  method:
    'Curved strokes of several sizes by the error of what lies there (Hertzmann 1998), weighed by the study’s detail, over masses by rolling guidance (Zhang et al. 2014); directions by the smoothed structure tensor (Di Zenzo 1986)',
  params: {
    largest: length({ title: 'Largest brush', default: percent(5), min: 2, max: 6000, feel: 'log', help: 'How broad the brush is that begins.' }),
    smallest: length({
      title: 'Smallest brush',
      default: percent(0.55),
      min: 1,
      max: 3000,
      feel: 'log',
      help: 'How broad the finest brush is, for what matters.',
    }),
    care: share({ title: 'Care', default: 0.5, help: 'How little a passage may be off before a finer brush goes over it.' }),
    long: number({ title: 'Stroke length, breadths', default: 5, min: 1, max: 20, step: 0.5, help: 'How long strokes are, in breadths of their brush.' }),
    bend: share({ title: 'Bend', default: 0.55, help: 'How far strokes bend along the forms: straight dashes, or curves.' }),
    loose: share({ title: 'Looseness', default: 0.3, help: 'How far strokes stray from where they ought to lie.' }),
    uneven: share({ title: 'Uneven colour', default: 0.4, help: 'How much strokes of one passage differ, warm against cool, light against dark.' }),
    drag: share({ title: 'Dragged paint', default: 0.4, help: 'How much a brush takes up of the wet paint it goes over.' }),
    load: share({ title: 'Load', default: 0.5, help: 'How much is left on the brush at the end of a stroke: little, and it breaks into its hairs.' }),
    body: share({ title: 'Body', default: 0.45, help: 'How thickly the paint stands: none is flat, much throws shadows under the lamp.' }),
    hand: angle({ title: 'Hand', default: 40, min: -90, max: 90, help: 'Which way the hand goes where no form leads it.' }),
    hairs: length({
      title: 'Hairs',
      default: percent(0.13),
      min: 0.5,
      max: 200,
      feel: 'log',
      help: 'How far apart the bundles of hairs lie that streak the paint.',
    }),
    ground: colour({ title: 'Ground', default: '#a07e5c', help: 'The colour that the board was primed with, which shows where strokes leave it.' }),
    gloss: share({ title: 'Gloss', default: 0.2, help: 'Matt, or wet and varnished.' }),
    seed: seed({ default: 5, help: 'The same strokes, dealt again.' }),
  },
  lit: true,
  bySheet: true,
  coarsest: () => 0,
  drawnBy: ['gloss', 'hairs'],
  goesBy: ['masses', 'flow', 'edges', 'detail', 'ground'],
  analysedBy: [],
  analyse: coloursOf,
  lay: async (work: Laying<Colours>, p): Promise<Brushwork> => {
    const ground = primed(work.facts.w, work.facts.h, rgbOfHex(p.ground))
    const strokes = await broadStrokes(work.kernels, work, { ...p, seed: p.seed }, ground)
    return brushwork(strokes, primed(1, 1, rgbOfHex(p.ground)), work.extent)
  },
  draw: (work, p) =>
    drawBrushwork(
      work.kernels,
      work.plan,
      work,
      { pitch: max(1.6, p.hairs * 2 ** work.level), round: 0.6, hair: 0.55, ragged: 0.5, ridge: 0.35 },
      { ...p.sheet.lamp, gloss: p.gloss },
    ),
})
