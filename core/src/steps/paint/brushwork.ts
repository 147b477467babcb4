import type { Region } from '../../base/region.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { MarkList, marksIn, type Marks } from '../../paths/marks.ts'
import type { Pic } from '../contract.ts'
import { addressOf } from '../picture.ts'
import { laidLately } from '../laid-lately.ts'
import { choosePlaces, gather, sparseBy } from '../line/draw-marks.ts'

// taken once: loops over planes look nothing up
const { ceil, floor, max, min, round } = Math

/** A place along a stroke of paint: full-size pixels, display-encoded colour 0…1, load 1 full … 0 dry. */
export interface PaintPlace {
  x: number
  y: number
  half: number
  r: number
  g: number
  b: number
  load: number
}

/** A stroke of a brush or a knife. */
export interface PaintStroke {
  places: PaintPlace[]
  /** A whole number of its own, below 2²⁴. */
  seed: number
  /** Half the brush's breadth, full-size pixels. */
  half: number
  /** Height of its paint, full-size pixels. */
  body: number
  /** 0 a glaze that is hardly seen … 1 it covers. */
  solid: number
  /** What its bundles of hairs differ by in red, green and blue, and its hairs in lightness. */
  tint: readonly [number, number, number]
  streak: number
}

/** How a tool lays its paint; the same for all strokes. */
export interface PaintTool {
  /** Full-size pixels from one bundle of hairs to the next. */
  pitch: number
  /** 0 cut straight … 1 half a circle, at its ends. */
  round: number
  /** 0 all hairs alike … 1 each for itself. */
  hair: number
  /** How uneven rims and ends are, 0…1. */
  ragged: number
  /** How much paint is pressed out at the rims, 0…1. */
  ridge: number
  /** 0 a brush … 1 a knife: flattens what lies there, wanders at its rims, leaves a ridge on one side. */
  flattens?: number
  /** A canvas under it: full-size pixels from thread to thread, and from hollow to top. None: a smooth board. */
  weave?: { pitch: number; high: number }
}

/** What lies under the strokes: a small picture of it, four floats a pixel (red, green, blue, height), over the whole extent. */
export interface Ground {
  w: number
  h: number
  values: Float32Array
}

/** Strokes laid out over a whole picture: any part of them is drawn at any level. */
export interface Brushwork {
  /** Places with their half breadth and way from the beginning, and bins. */
  marks: Marks
  /** Four floats a place: red, green, blue, load. */
  paints: Float32Array
  /** Eight floats a stroke, as the kernel reads them. */
  heads: Float32Array
  ground: Ground
}

const HEAD = 8

function headOf(heads: Float32Array, k: number, s: PaintStroke): void {
  heads.set([s.seed, s.half, s.body, s.solid, s.tint[0], s.tint[1], s.tint[2], s.streak], k * HEAD)
}

/** The way from a stroke's beginning to each of its places. */
function waysOf(places: readonly PaintPlace[]): number[] {
  let way = 0
  return places.map((p, i) => {
    if (i > 0) way += Math.sqrt((p.x - places[i - 1]!.x) ** 2 + (p.y - places[i - 1]!.y) ** 2)
    return way
  })
}

/** Packs strokes, the lowest first; those of a single place are nothing. */
export function brushwork(strokes: readonly PaintStroke[], ground: Ground, extent: Region): Brushwork {
  const list = new MarkList()
  const laid = strokes.filter((s) => s.places.length > 1)
  let places = 0
  for (const s of laid) places += s.places.length
  const paints = new Float32Array(places * 4)
  const heads = new Float32Array(laid.length * HEAD)
  let i = 0
  laid.forEach((s, k) => {
    headOf(heads, k, s)
    const ways = waysOf(s.places)
    s.places.forEach((p, j) => {
      list.place(p.x, p.y, p.half, ways[j]!)
      paints[i++] = p.r
      paints[i++] = p.g
      paints[i++] = p.b
      paints[i++] = p.load
    })
    list.end()
  })
  return { marks: list.done(extent), paints, heads, ground }
}

/** Pixels of a small picture from one place of a stroke to the next, under a moving hand: strokes of paint are broad, and bend little. */
const PLACES_APART = 6

/** Pixels that a drawing of paint looks at beyond what is asked for: ridges there throw their shadows in. */
const AROUND = 7

/** Lays the strokes that meet a region onto a plane of paint at kernel memory. */
function layOn(kernels: Kernels, { marks, paints, heads }: Brushwork, region: Region, scale: number, plane: number, tool: PaintTool, apart = 0): void {
  const full = 1 / scale
  const { x, y, w, h } = region
  const list = marksIn(marks, { x: x * full, y: y * full, w: w * full, h: h * full })
  if (list.length === 0) return
  const { places, counts: left, total } = choosePlaces(marks.points, marks.starts, list, 4, apart)
  kernels.scratch(total * 32 + list.length * 36 + 64, (points) => {
    const colours = points + total * 16
    const tops = colours + total * 16
    const counts = tops + list.length * 32
    new Int32Array(kernels.memory.buffer, counts, list.length).set(left)
    gather(kernels.f32(points, total * 4), marks.points, marks.starts, list, 4, places)
    gather(kernels.f32(colours, total * 4), paints, marks.starts, list, 4, places)
    const to = kernels.f32(tops, list.length * HEAD)
    for (let i = 0; i < list.length; i++) to.set(heads.subarray(list[i]! * HEAD, list[i]! * HEAD + HEAD), i * HEAD)
    const { pitch, round: ends, hair, ragged, ridge } = tool
    kernels.raw.layPaint(
      plane,
      w * 16,
      w,
      h,
      x,
      y,
      points,
      colours,
      counts,
      tops,
      list.length,
      scale,
      pitch,
      ends,
      hair,
      ragged,
      ridge,
      tool.weave ? 1.6 / tool.weave.high : 0,
      tool.flattens ?? 0,
      // bundles finer than pixels do not show in a picture that is wanted quickly
      apart > 0 && pitch * scale < 1.5 ? 1 : 0,
    )
  })
}

/**
 * Draws a region of brushwork, lit by a lamp; what is clear in the input stays clear.
 * @param gloss 0 matt … 1 varnished
 */
export function drawBrushwork(
  kernels: Kernels,
  work: Brushwork,
  { input, output, level, extent, quick }: { input: Pic; output: Pic; level: number; extent: Region; quick: boolean },
  tool: PaintTool,
  light: { direction: number; height: number; gloss: number },
): void {
  const { region } = output
  const { raw } = kernels
  const scale = 1 / 2 ** level
  const wide = { x: region.x - AROUND, y: region.y - AROUND, w: region.w + 2 * AROUND, h: region.h + 2 * AROUND }
  const { ground } = work
  const apart = sparseBy(quick, level, PLACES_APART)
  kernels.scratch(wide.w * wide.h * 16, (plane) => {
    const lay = () => {
      // places of the ground are counted from the extent's corner
      const [gx, gy] = [wide.x - round(extent.x * scale), wide.y - round(extent.y * scale)]
      const step = ground.w / (extent.w * scale)
      withPart(kernels, ground, { x: gx, y: gy, w: wide.w, h: wide.h }, step, (under, row) =>
        raw.enlargePaint(plane, wide.w * 16, wide.w, wide.h, gx, gy, under, row, ground.w, ground.h, step),
      )
      const { weave } = tool
      if (weave) raw.weavePaint(plane, wide.w * 16, wide.w, wide.h, wide.x, wide.y, 1 / (weave.pitch * scale), weave.high, 5)
      layOn(kernels, work, wide, scale, plane, tool, apart)
    }
    // the lamp moves over paint that lies there
    if (apart > 0) laidLately(kernels, work.marks, JSON.stringify(tool), level, wide, plane, wide.w * wide.h * 4, lay)
    else lay()
    const high = (max(8, light.height) * 3.141592653589793) / 180
    const way = (light.direction * 3.141592653589793) / 180
    const [lx, ly] = [raw.cos(way) * raw.cos(high), -raw.sin(way) * raw.cos(high)]
    raw.lightPaint(
      plane,
      wide.w * 16,
      AROUND,
      addressOf(input, region),
      input.stride,
      output.ptr,
      output.stride,
      region.w,
      region.h,
      scale,
      lx,
      ly,
      raw.sin(high),
      light.gloss,
      AROUND - 1,
    )
  })
}

/**
 * Puts the part of a small picture (four floats a pixel) that a region looks at into kernel memory, for kernels that go by places of the whole.
 * @param region pixels, counted from the small picture's corner; @param step pixels of it a pixel of the region
 * @param use is given where its first pixel would be, and bytes a row
 */
export function withPart<T>(kernels: Kernels, { w, h, values }: Ground, region: Region, step: number, use: (base: number, row: number) => T): T {
  const held = (v: number, most: number) => (v < 0 ? 0 : v > most ? most : v)
  const [x0, x1] = [held(floor(region.x * step) - 2, w - 1), held(ceil((region.x + region.w) * step) + 2, w - 1)]
  const [y0, y1] = [held(floor(region.y * step) - 2, h - 1), held(ceil((region.y + region.h) * step) + 2, h - 1)]
  const [pw, ph] = [x1 - x0 + 1, y1 - y0 + 1]
  return kernels.scratch(pw * ph * 16, (at) => {
    for (let y = 0; y < ph; y++) kernels.f32(at + y * pw * 16, pw * 4).set(values.subarray(((y0 + y) * w + x0) * 4, ((y0 + y) * w + x0 + pw) * 4))
    return use((at - (y0 * pw + x0) * 16) | 0, pw * 16)
  })
}

/** Rows of a canvas that are painted before others are let in. */
const BAND = 96

/**
 * Paints strokes on a small canvas (four floats a pixel, as a plane of paint), for a plan that goes by what lies there already.
 * @param scale pixels of the canvas a full-size pixel; the canvas' corner is the extent's
 */
export async function paintCanvas(
  kernels: Kernels,
  canvas: Ground,
  strokes: readonly PaintStroke[],
  extent: Region,
  tool: PaintTool,
  pause: () => Promise<void>,
): Promise<void> {
  const { w, h, values } = canvas
  const scale = w / extent.w
  const moved = strokes.map((s) => ({ ...s, places: s.places.map((p) => ({ ...p, x: p.x - extent.x, y: p.y - extent.y })) }))
  const work = brushwork(moved, canvas, { x: 0, y: 0, w: extent.w, h: extent.h })
  for (let y = 0; y < h; y += BAND) {
    await pause()
    const rows = min(BAND, h - y)
    const part = values.subarray(y * w * 4, (y + rows) * w * 4)
    kernels.scratch(w * rows * 16, (plane) => {
      kernels.f32(plane, w * rows * 4).set(part)
      layOn(kernels, work, { x: 0, y, w, h: rows }, scale, plane, tool)
      part.set(kernels.f32(plane, w * rows * 4))
    })
  }
}

/** A canvas of one colour. */
export function primed(w: number, h: number, [r, g, b]: readonly [number, number, number]): Ground {
  const values = new Float32Array(w * h * 4)
  for (let i = 0; i < values.length; i += 4) {
    values[i] = r
    values[i + 1] = g
    values[i + 2] = b
  }
  return { w, h, values }
}

/** How many layers of falling brushes lead from one breadth to another. */
export const brushesBetween = (largest: number, smallest: number, ratio: number): number[] => {
  const out = [largest]
  while (out.at(-1)! * ratio > smallest * 1.15 && out.length < 8) out.push(out.at(-1)! * ratio)
  if (smallest < largest * 0.87) out.push(smallest)
  return out
}
