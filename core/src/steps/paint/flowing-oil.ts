import type { Region } from '../../base/region.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { at, between, blurred, type Field } from '../../study/fields.ts'
import type { Study } from '../../study/study.ts'
import { defineStep, type Laying, type Pic } from '../contract.ts'
import { chance } from '../line/strokes.ts'
import { angle, choice, length, number, percent, seed, share } from '../params/index.ts'
import { flattened, patchesNeed } from '../smooth/kuwahara.ts'
import { brushwork, drawBrushwork, paintCanvas, type Brushwork, type Ground, type PaintStroke, type PaintTool } from './brushwork.ts'
import { apart, colourMasses, coloursOf, type Colours } from './colours.ts'
import { directionOf, flowFor, grownStroke, turnRound, type Direction } from './grow-stroke.ts'

// taken once: loops over planes look nothing up
const { ceil, floor, max, min, round, sqrt } = Math

type Brush = 'flat' | 'filbert' | 'round' | 'knife'

/** What each leaves, how it is held: shares of the asked breadth and length, how it bends. */
const brushes: Record<Brush, Omit<PaintTool, 'pitch' | 'weave'> & { broad: number; long: number; bend: number; two: number }> = {
  flat: { round: 0.25, hair: 0.6, ragged: 0.5, ridge: 0.35, broad: 1, long: 1, bend: 0.5, two: 1 },
  filbert: { round: 1, hair: 0.5, ragged: 0.35, ridge: 0.28, broad: 1, long: 1, bend: 0.6, two: 1 },
  round: { round: 1, hair: 0.4, ragged: 0.25, ridge: 0.2, broad: 0.75, long: 1.25, bend: 0.7, two: 1 },
  knife: { round: 0.05, hair: 0.3, ragged: 0.12, ridge: 0.6, flattens: 1, broad: 1.7, long: 0.4, bend: 0.1, two: 3 },
}
/** How often strokes lie over each other. */
const OVER = 2.6
/** Height of what no stroke has reached yet, on the plan's canvas. */
const BARE = -1
const PLAIN: PaintTool = { pitch: 1e6, round: 0.3, hair: 0, ragged: 0, ridge: 0 }

interface Painting {
  brush: Brush
  width: number
  long: number
  body: number
  edges: number
  layin: number
  temperature: number
  hand: number
  seed: number
}

/** One going over the picture with a brush of one breadth. */
interface Pass {
  number: number
  /** Half the breadth, pixels of the plan. */
  half: number
  ref: [Field, Field, Field]
  direction: Direction
  /** How much a stroke is wanted at a place, 0…1. */
  wanted: (x: number, y: number) => number
  /** How long its strokes are against those of the brush. */
  long: number
}

/** A stroke through a place: one load from end to end, that is the mean of what it goes over. */
function strokeAt(pass: Pass, colours: Colours, study: Study, extent: Region, p: Painting, x0: number, y0: number, own: number): PaintStroke | null {
  const { half, ref, direction } = pass
  const { w, h, cover } = colours
  const kind = brushes[p.brush]
  const luck = (k: number) => chance(own, k, p.seed + 6151 * pass.number)
  const across = study.w / w
  const [fr, fg, fb] = [at(ref[0], x0, y0), at(ref[1], x0, y0), at(ref[2], x0, y0)]
  const step = max(1.4, half)
  const line = grownStroke(x0, y0, {
    direction,
    step,
    longest: 2 * half * p.long * kind.long * pass.long * (0.55 + 0.9 * luck(1)),
    bend: kind.bend,
    goesOn: (x, y) => {
      if (x < -half || y < -half || x > w - 1 + half || y > h - 1 + half) return false
      const k = min(h - 1, max(0, round(y))) * w + min(w - 1, max(0, round(x)))
      if (cover[k]! < 0.25) return false
      // along an edge a stroke goes on; over it only where it is lost
      const found = p.edges * at(study.edges, (x + 0.5) * across - 0.5, (y + 0.5) * across - 0.5)
      return apart(fr, fg, fb, ref[0].v[k]!, ref[1].v[k]!, ref[2].v[k]!) <= 0.06 + 0.2 * (1 - found)
    },
  })
  const n = line.length / 2
  const matters = pass.number > 1
  if (n < 2 || (n - 1) * step < (matters ? 1.2 : 2.2) * half) return null
  let [r, g, b] = [0, 0, 0]
  for (let i = 0; i < n; i++) {
    const [x, y] = [line[i * 2]!, line[i * 2 + 1]!]
    r += at(ref[0], x, y) / n
    g += at(ref[1], x, y) / n
    b += at(ref[2], x, y) / n
  }
  const light = 0.2126 * r + 0.7152 * g + 0.0722 * b
  // paint is purer than what it stands for, and each load leans to warm or cool
  const purer = 1.08
  const warm = (luck(2) - 0.5) * 0.13 * p.temperature
  const shade = (luck(3) - 0.5) * 0.08 * p.temperature
  const [cr, cg, cb] = [
    light + (r - light) * purer + warm + shade,
    light + (g - light) * purer + 0.25 * warm + shade,
    light + (b - light) * purer - warm + shade,
  ]
  if (luck(4) < 0.5) turnRound(line)
  const scale = extent.w / w
  const breadth = half * scale * (0.85 + 0.3 * luck(5))
  const places = []
  for (let i = 0; i < n; i++) {
    const t = n > 1 ? i / (n - 1) : 0
    // a round brush is pressed and lifted
    const press = p.brush === 'round' ? 0.45 + 0.55 * sqrt(max(0, 1 - (2 * t - 0.8) ** 2 * 0.6)) : 1
    const load = p.brush === 'knife' ? 1 - 0.62 * t * t * luck(6) : 1 - (0.35 + 0.35 * luck(6)) * t * t
    places.push({
      x: extent.x + (line[i * 2]! + 0.5) * scale,
      y: extent.y + (line[i * 2 + 1]! + 0.5) * scale,
      half: breadth * press,
      r: cr,
      g: cg,
      b: cb,
      load,
    })
  }
  // thin darks, thick lights
  const thick = 1 + p.layin * (1.1 * light - 0.55)
  const two = kind.two
  return {
    places,
    seed: (own * 7477 + pass.number * 524287) % 16777213,
    half: breadth,
    body: 0.17 * breadth * p.body * thick * (p.brush === 'knife' ? 0.75 : 1),
    solid: 1 - 0.12 * p.layin * (1 - light),
    tint: [0.06 * two * p.temperature, 0.01 * two, -0.05 * two * p.temperature],
    streak: p.brush === 'knife' ? 0.05 : 0.1,
  }
}

/** The strokes of a pass, in the order they are laid: from darks to lights as far as that is asked for. */
async function passOver(pass: Pass, canvas: Ground, { study, kernels, facts: colours, extent, pause }: Laying<Colours>, p: Painting): Promise<PaintStroke[]> {
  const { w, h, cover } = colours
  const kind = brushes[p.brush]
  const cell = max(1, 2 * pass.half * sqrt((p.long * kind.long * pass.long) / OVER))
  const laid: { stroke: PaintStroke; rank: number }[] = []
  const add = (x: number, y: number, own: number) => {
    if (x < 0 || y < 0 || x > w - 1 || y > h - 1 || cover[floor(y) * w + floor(x)]! < 0.25) return
    if (pass.wanted(x, y) <= chance(own, 11, p.seed)) return
    const stroke = strokeAt(pass, colours, study, extent, p, x, y, own)
    if (!stroke) return
    const { r, g, b } = stroke.places[0]!
    laid.push({ stroke, rank: p.layin * (0.2126 * r + 0.7152 * g + 0.0722 * b) + (1.05 - p.layin) * chance(own, 13, p.seed) })
  }
  const [columns, rows] = [ceil(w / cell), ceil(h / cell)]
  for (let j = 0; j < rows; j++) {
    if (j % 8 === 0) await pause()
    for (let i = 0; i < columns; i++) {
      const own = j * columns + i
      add((i + chance(own, 21, p.seed)) * cell, (j + chance(own, 22, p.seed)) * cell, own)
    }
  }
  await paintCanvas(
    kernels,
    canvas,
    laid.map((l) => l.stroke),
    extent,
    PLAIN,
    pause,
  )
  // what was left out is gone over once more
  const small = max(1, 1.1 * pass.half)
  const more: { stroke: PaintStroke; rank: number }[] = laid.splice(0)
  const [columns2, rows2] = [ceil(w / small), ceil(h / small)]
  for (let j = 0; j < rows2; j++) {
    if (j % 16 === 0) await pause()
    for (let i = 0; i < columns2; i++) {
      const [x, y] = [min(w - 1, (i + 0.5) * small), min(h - 1, (j + 0.5) * small)]
      if (canvas.values[(floor(y) * w + floor(x)) * 4 + 3]! > 0.5 * BARE) continue
      add(x, y, 1000003 + j * columns2 + i)
    }
  }
  await paintCanvas(
    kernels,
    canvas,
    laid.map((l) => l.stroke),
    extent,
    PLAIN,
    pause,
  )
  return [...more, ...laid].sort((a, b) => a.rank - b.rank).map((l) => l.stroke)
}

/** What lies under the strokes: the picture in flat patches along its forms. */
async function underpainting(kernels: Kernels, { w, h, rgb }: Colours, reach: number, pause: () => Promise<void>): Promise<Ground> {
  const region = { x: 0, y: 0, w, h }
  const around = patchesNeed(region, reach, 0.7)
  const [from, to] = [kernels.allocator.alloc(around.w * around.h * 8), kernels.allocator.alloc(w * h * 8)]
  try {
    for (let y = 0; y < around.h; y++) {
      const row = kernels.u16(from + y * around.w * 8, around.w * 4)
      const sy = min(h - 1, max(0, y + around.y)) * w
      for (let x = 0; x < around.w; x++) {
        const i = sy + min(w - 1, max(0, x + around.x))
        for (let c = 0; c < 3; c++) row[x * 4 + c] = min(65535, max(0, round(rgb[c as 0 | 1 | 2][i]! * 65535)))
        row[x * 4 + 3] = 65535
      }
    }
    const [input, output]: Pic[] = [
      { ptr: from, stride: around.w * 8, region: around },
      { ptr: to, stride: w * 8, region },
    ]
    await flattened(kernels, input!, output!, pause, { patches: 'along', reach, stretch: 0.7, crispness: 'crisp' })
    const values = new Float32Array(w * h * 4)
    const codes = kernels.u16(to, w * h * 4)
    for (let i = 0; i < values.length; i++) values[i] = i % 4 === 3 ? 0 : codes[i]! / 65535
    return { w, h, values }
  } finally {
    kernels.allocator.free(from)
    kernels.allocator.free(to)
  }
}

async function paintedOil(work: Laying<Colours>, p: Painting): Promise<Brushwork> {
  const { study, kernels, facts: colours, extent, pause, progress } = work
  const { w, h } = colours
  const scale = extent.w / w
  const kind = brushes[p.brush]
  const half = max(0.6, (p.width * kind.broad) / 2 / scale)
  const ground = await underpainting(kernels, colours, max(1.5, min(18, 1.1 * half)), pause)
  progress(0.15)
  const canvas: Ground = { w, h, values: ground.values.slice() }
  const bare = () => {
    for (let i = 3; i < canvas.values.length; i += 4) canvas.values[i] = BARE
  }
  const across = study.w / w
  const of = (field: Field) => (x: number, y: number) => at(field, (x + 0.5) * across - 0.5, (y + 0.5) * across - 0.5)
  const [detail, behind] = [of(study.detail), of(study.ground)]
  const quiet = (x: number, y: number) => between(behind(x, y), 0.35, 0.75) * (1 - between(detail(x, y), 0.2, 0.5))
  const passes: Pick<Pass, 'half' | 'wanted' | 'long'>[] = [
    // what is behind has few strokes and large ones
    { half: 2.1 * half, long: 0.9, wanted: () => 1 },
    { half, long: 1, wanted: (x, y) => 1 - quiet(x, y) },
    { half: 0.48 * half, long: 0.8, wanted: (x, y) => between(detail(x, y), 0.2, 0.45) },
    { half: 0.25 * half, long: 0.8, wanted: (x, y) => between(detail(x, y), 0.4, 0.7) },
  ]
  const all: PaintStroke[] = []
  for (let k = 0; k < passes.length; k++) {
    progress(0.15 + 0.21 * k)
    const { half: wide, long, wanted } = passes[k]!
    if (k > 1 && wide * scale < 0.7) continue
    const ref = await colourMasses(kernels, colours, 0.45 * wide, pause)
    const along = flowFor(study, (f) => blurred(kernels, f, max(1.5, 1.1 * wide * across)))
    await pause()
    const direction = directionOf(along, across, { hand: p.hand, lean: 0.1, swing: p.brush === 'knife' ? 60 : 30, often: 0.06 * max(w, h) }, kernels.raw)
    bare()
    for (const s of await passOver({ number: k, half: max(0.6, wide), ref, direction, wanted, long }, canvas, work, p)) all.push(s)
  }
  return brushwork(all, ground, extent)
}

export const flowingOil = defineStep({
  id: 'flowing-oil',
  version: 1,
  title: 'Flowing oil',
  group: 'paint',
  kind: 'planned',
  help: 'Oil laid with one brush or a knife along the forms: each stroke one load, thick in the lights, with ridges that the lamp catches.',
  method:
    'Strokes along the photo’s smoothed structure tensor (Di Zenzo 1986) over masses by rolling guidance (Zhang et al. 2014), order from thin darks to thick lights (common practice); underpainting by the anisotropic Kuwahara filter (Kyprianidis et al. 2010)',
  params: {
    brush: choice({
      title: 'Brush',
      default: 'flat',
      options: [
        { value: 'flat', title: 'Flat' },
        { value: 'filbert', title: 'Filbert' },
        { value: 'round', title: 'Round' },
        { value: 'knife', title: 'Knife' },
      ],
      help: 'What the paint is laid with: a flat cuts, a filbert turns, a round is pressed and lifted, a knife leaves flat facets and scraped rims.',
    }),
    width: length({
      title: 'Breadth',
      default: percent(1.5),
      min: 1,
      max: 4000,
      feel: 'log',
      help: 'How broad the brush is; the ground behind takes one twice as broad, features one half as broad.',
    }),
    long: number({ title: 'Stroke length, breadths', default: 7, min: 1, max: 30, step: 0.5, help: 'How long strokes are where no edge ends them.' }),
    body: share({ title: 'Body', default: 0.5, help: 'How thickly the paint stands.' }),
    edges: share({ title: 'Found edges', default: 0.6, help: 'How many edges are found, where strokes end; the others are lost, and strokes run over them.' }),
    layin: share({ title: 'Lay-in', default: 0.6, help: 'From thin darks to thick lights in order, or as it comes.' }),
    temperature: share({ title: 'Temperature', default: 0.45, help: 'How much neighbouring strokes lean to warm and to cool.' }),
    hairs: length({
      title: 'Hairs',
      default: percent(0.11),
      min: 0.5,
      max: 200,
      feel: 'log',
      help: 'How far apart the bundles of hairs lie that streak a stroke.',
    }),
    hand: angle({ title: 'Hand', default: 35, min: -90, max: 90, help: 'Which way the hand goes where no form leads it.' }),
    weave: length({
      title: 'Thread',
      default: percent(0.16),
      min: 0,
      max: 300,
      feel: 'log',
      help: 'From thread to thread of the canvas; it shows through thin paint only. None is a smooth board.',
    }),
    gloss: share({ title: 'Gloss', default: 0.3, help: 'Matt, or wet and varnished.' }),
    seed: seed({ default: 7, help: 'The same strokes, dealt again.' }),
  },
  lit: true,
  bySheet: true,
  coarsest: () => 0,
  drawnBy: ['gloss', 'hairs', 'weave'],
  goesBy: ['masses', 'flow', 'edges', 'detail', 'ground'],
  analysedBy: [],
  analyse: coloursOf,
  lay: (work: Laying<Colours>, p): Promise<Brushwork> => paintedOil(work, { ...p, brush: p.brush as Brush }),
  draw: (work, p) => {
    const kind = brushes[p.brush as Brush]
    const full = 2 ** work.level
    const thread = p.weave * full
    // threads of less than a few pixels would be noise
    const weave = thread >= 2.5 ? { weave: { pitch: thread, high: 0.13 * thread } } : {}
    drawBrushwork(
      work.kernels,
      work.plan,
      work,
      { ...kind, ...weave, pitch: max(1.6, full * (p.brush === 'knife' ? 0.5 * p.width : p.hairs)) },
      { ...p.sheet.lamp, gloss: p.gloss },
    )
  },
})
