import { rgbOfHex } from '../../colour/oklab.ts'
import { grow, union, type Region } from '../../base/region.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { defineStep } from '../contract.ts'
import { angle, choice, colour, length, number, percent, seed, share } from '../params/index.ts'
import { addressOf } from '../picture.ts'
import { blurReach, blurWhole } from '../smooth/blurred.ts'
import { tableIn } from '../table-cache.ts'
import { flowInto, flowNeeds } from './flow.ts'
import { layStrokes, STROKE_FLOATS, type Bend, type Laying } from './strokes.ts'

/** How far above its rank a stroke comes to full pressure. */
const SOFT = 0.22

/** Between which demands each layer comes in: the first carries the lights, the others the darks. */
export const rangesOf = (layers: number): [number, number][] =>
  layers === 1
    ? [[0, 1]]
    : layers === 2
      ? [
          [0, 0.62],
          [0.34, 1],
        ]
      : [
          [0, 0.5],
          [0.26, 0.76],
          [0.52, 1],
        ]

interface Lead {
  darkness: number
  /** Width of a stroke at full demand, in spacings. */
  width: number
}
/** Hard leads draw thin silver lines, soft ones broad black ones. */
const leadOf = (softness: number): Lead => ({ darkness: 0.72 + 0.25 * softness, width: 1.05 + 0.75 * softness })

function layingOf(p: { spacing: number; length: number; wobble: number; lead: number; seed: number }, degrees: number, i: number): Laying {
  const lead = leadOf(p.lead)
  return {
    angle: (-degrees * 3.141592653589793) / 180,
    spacing: p.spacing,
    length: Math.max(p.length, p.spacing * 2.5),
    width: p.spacing * lead.width,
    wobble: p.wobble,
    lead: lead.darkness,
    seed: p.seed + i * 104729,
  }
}

/** Values at which a layer is measured. */
const STEPS = 17

/** What share of the paper a layer of strokes covers, on average, at demands 0 … 1 of its own (17 values): measured by drawing it. */
function coverOf(kernels: Kernels, p: { spacing: number; length: number; wobble: number; lead: number; seed: number }): Float32Array {
  // at a scale at which strokes are a few pixels wide
  const k = 5 / p.spacing
  const laying = layingOf({ ...p, spacing: 5, length: p.length * k }, 45, 0)
  const side = 160
  const list = layStrokes({ x: 0, y: 0, w: side, h: side }, laying, null, kernels.raw)
  const cover = new Float32Array(STEPS)
  kernels.scratch(list.byteLength + side * side * 8, (at) => {
    const plane = at + list.byteLength
    const demand = plane + side * side * 4
    kernels.f32(at, list.length).set(list)
    for (let i = 1; i < STEPS; i++) {
      kernels.f32(plane, side * side).fill(1)
      kernels.f32(demand, side * side).fill(i / (STEPS - 1))
      kernels.raw.strokes(plane, side * 4, demand, side * 4, side, side, 0, 0, 0, at, list.length / STROKE_FLOATS, 0, 1, SOFT)
      const left = kernels.f32(plane, side * side)
      let sum = 0
      for (const v of left) sum += v
      cover[i] = Math.max(cover[i - 1]!, 1 - sum / (side * side))
    }
  })
  return cover
}

/**
 * The demand (4096 floats) that makes the strokes of all layers as dark, on average, as each lightness: layers cross, so that what they leave of the paper is
 * multiplied.
 */
function demandsOf(cover: Float32Array, layers: number): Float32Array {
  const ranges = rangesOf(layers)
  const coverAt = (c: number) => {
    const t = Math.min(1, Math.max(0, c)) * (STEPS - 1)
    const i = Math.min(STEPS - 2, Math.floor(t))
    return cover[i]! + (cover[i + 1]! - cover[i]!) * (t - i)
  }
  const darkness = (d: number) => 1 - ranges.reduce((left, [from, to]) => left * (1 - coverAt((d - from) / (to - from))), 1)
  const table = new Float32Array(4096)
  let d = 1
  for (let i = 0; i < 4096; i++) {
    const wanted = 1 - (i + 0.5) / 4096
    // lightness rises, so the demand falls
    while (d > 0 && darkness(d) > wanted) d -= 1 / 4096
    table[i] = Math.max(0, d)
  }
  return table
}

/** How far around the directions of the forms are averaged, pixels of the level. */
const steadyOf = (spacing: number) => Math.max(1.5, Math.min(12, spacing * 1.5))
const calmOf = (spacing: number) => Math.max(0.3, spacing * 0.35)
/** How far from a region the strokes that touch it may have their middle, and the flow be looked at. */
const farOf = (p: { length: number; spacing: number }) => Math.ceil(Math.max(p.length, p.spacing * 2.5) * 1.25 + p.spacing * 2 + 3)
/** How far from a pixel the middle line of a stroke over it may lie. */
const marginOf = (spacing: number) => Math.ceil(spacing * 1.3 + 3)

export const hatching1 = defineStep({
  id: 'hatching',
  version: 1,
  title: 'Hatching',
  group: 'line',
  kind: 'neighbourhood',
  onPaper: true,
  help: 'Strokes that begin and end, one to three layers of them crossing, and carry the tones of the photo by how many they are and how hard they are pressed.',
  method:
    'Strokes on a turned lattice, thrown out of place, each with a rank: drawn where the tone asks for more than it, so that lines end at a light; the layers’ coverage is measured by drawing them, so that the mean tone is the photo’s. Form-following directions from a smoothed structure tensor (Di Zenzo 1986)',
  params: {
    layers: number({ title: 'Layers', default: 2, min: 1, max: 3, step: 1, help: 'One direction, crossed once, or crossed twice.' }),
    direction: angle({ title: 'Direction', default: 48, min: -90, max: 90, help: 'The way the first layer is drawn, from level.' }),
    crossing: angle({ title: 'Crossing', default: 62, min: 10, max: 120, help: 'How far each further layer is turned against the one before.' }),
    follow: choice({
      title: 'Strokes',
      default: 'straight',
      options: [
        { value: 'straight', title: 'All one way' },
        { value: 'forms', title: 'Along the forms' },
      ],
      help: 'All one way, or bent round the forms as an engraver does.',
    }),
    spacing: length({ title: 'Spacing', default: percent(0.25), min: 1.2, max: 120, feel: 'log', help: 'How far apart the strokes of a layer lie.' }),
    length: length({ title: 'Stroke length', default: percent(3), min: 4, max: 1500, feel: 'log', help: 'How long a stroke is that nothing ends sooner.' }),
    lead: share({ title: 'Lead', default: 0.6, help: 'Hard leads draw thin, silver lines and never quite black; soft ones broad and dark.' }),
    wobble: share({ title: 'Wobble', default: 0.3, help: 'How unsteady the hand is: ruled, or free.' }),
    ink: colour({ title: 'Pencil', default: '#1b1a19', help: 'The colour of the strokes.' }),
    paper: colour({ title: 'Paper', default: '#ffffff', help: 'The colour between them.' }),
    seed: seed({ default: 11, help: 'The same strokes, dealt again.' }),
  },
  // where a stroke ends is decided pixel by pixel
  coarsest: () => 0,
  needs: (region, p) => {
    const margin = marginOf(p.spacing)
    const seen = blurReach(grow(region, margin), calmOf(p.spacing))
    return p.follow === 'forms' ? union(seen, flowNeeds(grow(region, farOf(p)), steadyOf(p.spacing))) : seen
  },
  run: async ({ input, output, kernels, pause }, p) => {
    const { raw, allocator } = kernels
    const { region } = output
    const { w, h } = region
    const layers = Math.round(p.layers)
    const margin = marginOf(p.spacing)
    const wide = grow(region, margin)
    const name = `hatching ${p.length / p.spacing} ${p.wobble} ${p.lead} ${p.seed}`
    const cover = tableIn(kernels, name, () => coverOf(kernels, p))
    const table = tableIn(kernels, `${name} ${layers}`, () => demandsOf(kernels.f32(cover, STEPS).slice(), layers))
    const demand = allocator.alloc(wide.w * wide.h * 4)
    const plane = allocator.alloc(w * h * 4)
    let flow = 0
    let bend: Bend | null = null
    try {
      kernels.scratch(wide.w * wide.h * 8, (calm) => {
        const need = blurReach(wide, calmOf(p.spacing))
        const from = { ptr: addressOf(input, need), stride: input.stride, region: need }
        blurWhole(kernels, from, { ptr: calm, stride: wide.w * 8, region: wide }, calmOf(p.spacing))
        raw.lumaThrough(calm, wide.w * 8, demand, wide.w * 4, wide.w, wide.h, table)
      })
      kernels.f32(plane, w * h).fill(1)
      if (p.follow === 'forms') {
        const area = grow(region, farOf(p))
        flow = allocator.alloc(area.w * area.h * 16)
        await flowInto(kernels, input, flow, area, steadyOf(p.spacing), pause)
        bend = bendBy(kernels, flow, area)
      }
      const ranges = rangesOf(layers)
      for (let i = 0; i < layers; i++) {
        await pause()
        const turned = p.direction + i * p.crossing
        const list = layStrokes(region, layingOf(p, turned, i), bend && ((x, y, a, l) => bend!(x, y, a, l)), raw)
        kernels.scratch(list.byteLength + 16, (at) => {
          kernels.f32(at, list.length).set(list)
          const [from, to] = ranges[i]!
          raw.strokes(plane, w * 4, demand, wide.w * 4, w, h, region.x, region.y, margin, at, list.length / STROKE_FLOATS, from, to, SOFT)
        })
      }
      kernels.scratch(32, (colours) => {
        kernels.f32(colours, 6).set([...rgbOfHex(p.ink), ...rgbOfHex(p.paper)].map((v) => v * 65535))
        raw.inkOnPaper(plane, w * 4, addressOf(input, region), input.stride, output.ptr, output.stride, w, h, colours)
      })
    } finally {
      for (const ptr of [demand, plane, flow]) if (ptr) allocator.free(ptr)
    }
  },
})

/** Turns strokes along the forms, and bends them as the forms turn from one end to the other. */
function bendBy(kernels: Kernels, flow: number, area: Region): Bend {
  const { atan2, cos, sin } = kernels.raw
  const field = kernels.f32(flow, area.w * area.h * 4)
  /** The direction there, an angle within a quarter turn of `near`; where forms have none, the layer's own. */
  const at = (x: number, y: number, angle: number) => {
    const i = Math.min(area.w - 1, Math.max(0, Math.floor(x) - area.x))
    const j = Math.min(area.h - 1, Math.max(0, Math.floor(y) - area.y))
    const k = (j * area.w + i) * 4
    const [c, s] = [field[k]!, field[k + 1]!]
    // edges count by how clear and how strong they are
    const weight = field[k + 2]! * Math.min(1, field[k + 3]! * 60)
    // directions have no sign: they are mixed at twice their angle
    const x2 = (c * c - s * s) * weight + cos(2 * angle) * 0.2
    const y2 = 2 * c * s * weight + sin(2 * angle) * 0.2
    return atan2(y2, x2) / 2
  }
  const nearTo = (a: number, near: number) => a - Math.round((a - near) / 3.141592653589793) * 3.141592653589793
  return (x, y, angle, length) => {
    // each layer keeps its turn against the first
    const middle = nearTo(at(x, y, angle), angle)
    const third = length / 3
    const [c, s] = [cos(middle) * third, sin(middle) * third]
    const ahead = nearTo(at(x + c, y + s, angle), middle)
    const behind = nearTo(at(x - c, y - s, angle), middle)
    const bend = (ahead - behind) / (2 * third)
    const most = 1.4 / length
    return { angle: middle, bend: Math.max(-most, Math.min(most, bend)) }
  }
}
