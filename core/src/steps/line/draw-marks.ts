import type { Region } from '../../base/region.ts'
import { rgbOfHex } from '../../colour/oklab.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { areasIn, marksIn, type Marks } from '../../paths/marks.ts'
import type { Pic } from '../contract.ts'
import { addressOf } from '../picture.ts'

/** What is drawn with. */
export interface Tool {
  /** Colours, as #rrggbb. */
  ink: string
  paper: string
  /** 0: ink covers; above: how fast lead builds up where it is laid again. */
  builds: number
  /** What all breadths are multiplied by. */
  broad?: number
}

/** Pixels of a small picture from one place of a line to the next: closer ones do not change it. */
const APART = 4

/**
 * How far apart places of a line are enough, artwork pixels: all of them (0), but under a moving hand where many come to lie in one pixel.
 * @param pixels of the level, from one place to the next
 */
export const sparseBy = (quick: boolean, level: number, pixels = APART): number => (quick && level > 1 ? pixels * 2 ** level : 0)

/** What is drawn of some lines. */
export interface Chosen {
  /** Numbers of their places in the packed list, line by line; none is left out where it is null. */
  places: Int32Array | null
  /** How many places each has. */
  counts: Int32Array
  /** All of them together. */
  total: number
}

/**
 * Which places of lines are drawn: each line's ends, and between them those that lie `apart` from the one before and from the end.
 * @param points x and y first of each place, packed; @param each numbers a place has; @param chosen the lines
 * @param apart artwork pixels; 0: all
 */
export function choosePlaces(points: Float32Array, starts: Int32Array, chosen: ArrayLike<number>, each: number, apart: number): Chosen {
  const counts = new Int32Array(chosen.length)
  let total = 0
  for (let i = 0; i < chosen.length; i++) total += counts[i] = starts[chosen[i]! + 1]! - starts[chosen[i]!]!
  if (apart === 0) return { places: null, counts, total }
  const places = new Int32Array(total)
  const least = apart * apart
  total = 0
  for (let i = 0; i < chosen.length; i++) {
    const begun = total
    const end = starts[chosen[i]! + 1]! - 1
    let k = starts[chosen[i]!]!
    if (k > end) continue
    let x = points[k * each]!
    let y = points[k * each + 1]!
    const ex = points[end * each]!
    const ey = points[end * each + 1]!
    places[total++] = k
    for (k++; k < end; k++) {
      const px = points[k * each]!
      const py = points[k * each + 1]!
      const back = (px - x) * (px - x) + (py - y) * (py - y)
      const on = (px - ex) * (px - ex) + (py - ey) * (py - ey)
      if (back < least || on < least) continue
      places[total++] = k
      x = px
      y = py
    }
    if (k === end) places[total++] = end
    counts[i] = total - begun
  }
  return { places, counts, total }
}

/** What of a line's places it takes to set down, and to lift, about: a hand does so over a sixth of a stroke. */
const RAMP = 0.16

/**
 * Copies marks by few of their places, for small pictures: those that lie `apart`. Where a mark is set down and lifted within less than that, it begins and ends in the
 * middle of it, at full breadth and weight, which covers as much.
 * @param to room for all of their places; @param counts how many each has, filled in
 * @returns places copied
 */
export function gatherSparsely(
  to: Float32Array,
  counts: Int32Array,
  points: Float32Array,
  starts: Int32Array,
  chosen: ArrayLike<number>,
  apart: number,
): number {
  const least = apart * apart
  let out = 0
  const put = (k: number, x: number, y: number) => {
    to[out] = x
    to[out + 1] = y
    to[out + 2] = points[k + 2]!
    to[out + 3] = points[k + 3]!
    out += 4
  }
  for (let i = 0; i < chosen.length; i++) {
    const begun = out
    const first = starts[chosen[i]!]! * 4
    const last = starts[chosen[i]! + 1]! * 4 - 4
    const n = (last - first) / 4 + 1
    const ramp = Math.max(1, Math.round(RAMP * (n - 1))) * 4
    // a broad mark turns with its places
    if (n < 4 || 2 * points[first + ramp + 2]! > apart) {
      for (let k = first; k <= last; k += 4) put(k, points[k]!, points[k + 1]!)
      counts[i] = n
      continue
    }
    const down = first + ramp
    const up = last - ramp
    const quickly = squareBetween(points, first, down) < least
    const lifts = squareBetween(points, up, last) < least
    let x = quickly ? 0.5 * (points[first]! + points[down]!) : points[down]!
    let y = quickly ? 0.5 * (points[first + 1]! + points[down + 1]!) : points[down + 1]!
    const ex = lifts ? 0.5 * (points[up]! + points[last]!) : points[up]!
    const ey = lifts ? 0.5 * (points[up + 1]! + points[last + 1]!) : points[up + 1]!
    if (!quickly) put(first, points[first]!, points[first + 1]!)
    put(down, x, y)
    for (let k = down + 4; k < up; k += 4) {
      const px = points[k]!
      const py = points[k + 1]!
      if ((px - x) * (px - x) + (py - y) * (py - y) < least || (px - ex) * (px - ex) + (py - ey) * (py - ey) < least) continue
      put(k, px, py)
      x = px
      y = py
    }
    put(up, ex, ey)
    if (!lifts) put(last, points[last]!, points[last + 1]!)
    counts[i] = (out - begun) / 4
  }
  return out / 4
}

const squareBetween = (points: Float32Array, a: number, b: number): number => (points[a]! - points[b]!) ** 2 + (points[a + 1]! - points[b + 1]!) ** 2

/**
 * Lays the marks that meet a region onto a plane: how much lies on each pixel, 0 up.
 * @param plane address of region.w × region.h floats
 * @param level 0 is full size, n is 1/2ⁿ
 * @param apart how far apart places of a line are enough, artwork pixels
 */
export function layMarks(kernels: Kernels, marks: Marks, region: Region, level: number, plane: number, broad = 1, apart = 0): void {
  const scale = 2 ** level
  const { x, y, w, h } = region
  const at = { x: x * scale, y: y * scale, w: w * scale, h: h * scale }
  const list = marksIn(marks, at)
  let total = 0
  for (const k of list) total += marks.starts[k + 1]! - marks.starts[k]!
  const filled = areasIn(marks, at)
  let corners = 0
  for (const k of filled) corners += marks.areaStarts[k + 1]! - marks.areaStarts[k]!
  const bytes = total * 16 + list.length * 4 + corners * 8 + filled.length * 4 + 64
  kernels.scratch(bytes, (points) => {
    const counts = points + total * 16
    const areas = (counts + list.length * 4 + 15) & ~15
    const areaCounts = areas + corners * 8
    const each = new Int32Array(kernels.memory.buffer, counts, list.length)
    if (apart > 0) gatherSparsely(kernels.f32(points, total * 4), each, marks.points, marks.starts, list, apart)
    else {
      gather(kernels.f32(points, total * 4), marks.points, marks.starts, list, 4)
      for (let i = 0; i < each.length; i++) each[i] = marks.starts[list[i]! + 1]! - marks.starts[list[i]!]!
    }
    gather(kernels.f32(areas, corners * 2), marks.areas, marks.areaStarts, filled, 2)
    const of = new Int32Array(kernels.memory.buffer, areaCounts, filled.length)
    for (let i = 0; i < of.length; i++) of[i] = marks.areaStarts[filled[i]! + 1]! - marks.areaStarts[filled[i]!]!
    kernels.raw.layMarks(points, counts, list.length, 1 / scale, broad, x, y, w, h, areas, areaCounts, filled.length, plane, w * 4)
  })
}

/**
 * Copies the chosen ones out of a packed list.
 * @param each numbers a place; @param places numbers of those of their places that are copied; null: all
 */
export function gather(
  to: Float32Array,
  from: Float32Array,
  starts: Int32Array,
  chosen: ArrayLike<number>,
  each: number,
  places: Int32Array | null = null,
): void {
  let at = 0
  if (places) {
    const n = to.length / each
    for (let i = 0; i < n; i++) {
      const k = places[i]! * each
      for (let q = 0; q < each; q++) to[at++] = from[k + q]!
    }
    return
  }
  for (let i = 0; i < chosen.length; i++) {
    const [first, end] = [starts[chosen[i]!]! * each, starts[chosen[i]! + 1]! * each]
    to.set(from.subarray(first, end), at)
    at += end - first
  }
}

/** Draws the marks that meet a region in ink on paper; what was clear stays so. */
export function drawMarks(kernels: Kernels, marks: Marks, { input, output, level }: { input: Pic; output: Pic; level: number }, tool: Tool): void {
  const { region } = output
  const { w, h } = region
  kernels.scratch(w * h * 4, (plane) => {
    layMarks(kernels, marks, region, level, plane, tool.broad)
    kernels.scratch(32, (colours) => {
      kernels.f32(colours, 6).set([...rgbOfHex(tool.ink), ...rgbOfHex(tool.paper)].map((v) => v * 65535))
      kernels.raw.marksOnPaper(plane, w * 4, addressOf(input, region), input.stride, output.ptr, output.stride, w, h, colours, tool.builds)
    })
  })
}
