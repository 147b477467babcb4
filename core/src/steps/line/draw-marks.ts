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

/** Of how many places of a line one is enough: all of them, but under a moving hand where many come to lie in one pixel. */
export const sparseBy = (quick: boolean, level: number): number => (quick && level > 1 ? 2 ** (level - 1) : 1)

/** Places from an end of a line to where it has its full breadth and weight, about: a hand sets down and lifts over a sixth of a stroke. */
const endOf = (n: number): number => Math.max(1, Math.round(0.16 * (n - 1)))

/** How many places are left of a line of so many: all of a short one, as broad marks are; its ends, those where they end, and every so many of those between. */
export const placesLeft = (n: number, every: number): number => (every === 1 || n < 9 ? n : Math.ceil((n - 1 - 2 * endOf(n)) / every) + 3)

/**
 * Lays the marks that meet a region onto a plane: how much lies on each pixel, 0 up.
 * @param plane address of region.w × region.h floats
 * @param level 0 is full size, n is 1/2ⁿ
 * @param every of how many places of a line one is enough
 */
export function layMarks(kernels: Kernels, marks: Marks, region: Region, level: number, plane: number, broad = 1, every = 1): void {
  const scale = 2 ** level
  const { x, y, w, h } = region
  const at = { x: x * scale, y: y * scale, w: w * scale, h: h * scale }
  const list = marksIn(marks, at)
  let places = 0
  for (const k of list) places += placesLeft(marks.starts[k + 1]! - marks.starts[k]!, every)
  const filled = areasIn(marks, at)
  let corners = 0
  for (const k of filled) corners += marks.areaStarts[k + 1]! - marks.areaStarts[k]!
  const bytes = places * 16 + list.length * 4 + corners * 8 + filled.length * 4 + 64
  kernels.scratch(bytes, (points) => {
    const counts = points + places * 16
    const areas = (counts + list.length * 4 + 15) & ~15
    const areaCounts = areas + corners * 8
    gather(kernels.f32(points, places * 4), new Int32Array(kernels.memory.buffer, counts, list.length), marks.points, marks.starts, list, 4, every)
    gather(kernels.f32(areas, corners * 2), new Int32Array(kernels.memory.buffer, areaCounts, filled.length), marks.areas, marks.areaStarts, filled, 2)
    kernels.raw.layMarks(points, counts, list.length, 1 / scale, broad, x, y, w, h, areas, areaCounts, filled.length, plane, w * 4)
  })
}

/**
 * Copies the chosen ones out of a packed list, and how many places each has.
 * @param each numbers a place; @param every of how many places one is copied; the ends always are
 */
export function gather(to: Float32Array, counts: Int32Array, from: Float32Array, starts: Int32Array, chosen: ArrayLike<number>, each: number, every = 1): void {
  let at = 0
  for (let i = 0; i < chosen.length; i++) {
    const k = chosen[i]!
    const [first, n] = [starts[k]!, starts[k + 1]! - starts[k]!]
    const left = placesLeft(n, every)
    if (left === n) to.set(from.subarray(first * each, (first + n) * each), at)
    else {
      const end = endOf(n)
      for (let j = 0; j < left; j++) {
        const i = j === 0 ? 0 : j === left - 1 ? n - 1 : Math.min(n - 1 - end, end + (j - 1) * every)
        for (let q = 0; q < each; q++) to[at + j * each + q] = from[(first + i) * each + q]!
      }
    }
    at += left * each
    counts[i] = left
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
