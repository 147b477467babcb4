import type { Region } from '../../base/region.ts'
import { rgbOfHex } from '../../colour/oklab.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { marksIn, type Marks } from '../../paths/marks.ts'
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

/**
 * Lays the marks that meet a region onto a plane: how much lies on each pixel, 0 up.
 * @param plane address of region.w × region.h floats
 * @param level 0 is full size, n is 1/2ⁿ
 */
export function layMarks(kernels: Kernels, marks: Marks, region: Region, level: number, plane: number, broad = 1): void {
  const scale = 2 ** level
  const { x, y, w, h } = region
  const at = { x: x * scale, y: y * scale, w: w * scale, h: h * scale }
  const list = marksIn(marks, at)
  let places = 0
  for (const k of list) places += marks.starts[k + 1]! - marks.starts[k]!
  const contours = marks.areaStarts.length - 1
  const bytes = places * 16 + list.length * 4 + marks.areas.byteLength + contours * 4 + 64
  kernels.scratch(bytes, (points) => {
    const counts = points + places * 16
    const areas = (counts + list.length * 4 + 15) & ~15
    const areaCounts = areas + marks.areas.byteLength
    const [view, numbers] = [kernels.f32(points, places * 4), new Int32Array(kernels.memory.buffer, counts, list.length)]
    let to = 0
    list.forEach((k, i) => {
      const [from, end] = [marks.starts[k]! * 4, marks.starts[k + 1]! * 4]
      view.set(marks.points.subarray(from, end), to)
      to += end - from
      numbers[i] = (end - from) / 4
    })
    kernels.f32(areas, marks.areas.length).set(marks.areas)
    const their = new Int32Array(kernels.memory.buffer, areaCounts, contours)
    for (let i = 0; i < contours; i++) their[i] = marks.areaStarts[i + 1]! - marks.areaStarts[i]!
    kernels.raw.layMarks(points, counts, list.length, 1 / scale, broad, x, y, w, h, areas, areaCounts, contours, plane, w * 4)
  })
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
