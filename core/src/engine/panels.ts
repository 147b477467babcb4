import type { Region } from '../base/region.ts'
import { intersect, isEmpty } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Pic, PointStep } from '../steps/contract.ts'
import type { Node } from './nodes.ts'
import { paramsAt } from './levels.ts'
import { partOf } from './pixels.ts'
import { reads, type Stage } from './stage.ts'

// One picture in many places, each in colours of its own: it is computed once, and its colours are changed point by point where it is laid.

/** Makes a stage the sheet of panels of a picture that begins at (0, 0). */
export function panelsStage(kernels: Kernels, stage: Stage, node: Node & { kind: 'panels' }, input: Stage, quick: boolean): void {
  const { level } = stage
  const scale = 2 ** level
  const at = (v: number) => Math.round(v / scale)
  const cells = node.cells.map((c) => ({
    region: { x: at(c.x), y: at(c.y), w: at(c.x + node.w) - at(c.x), h: at(c.y + node.h) - at(c.y) },
    step: c.step && { def: c.step.def as PointStep, params: paramsAt(c.step.def, c.step.params, level) },
  }))
  const { w, h } = input.extent
  // one row of panels is gone down as its picture is; several begin at its top again
  const oneRow = new Set(node.cells.map((c) => c.y)).size <= 1
  reads(
    stage,
    input,
    'clear',
    (r) => {
      let [x0, y0, x1, y1] = [w, h, 0, 0]
      for (const { region } of cells) {
        const part = intersect(region, r)
        if (isEmpty(part)) continue
        x0 = Math.min(x0, part.x - region.x)
        y0 = Math.min(y0, part.y - region.y)
        x1 = Math.max(x1, part.x - region.x + part.w)
        y1 = Math.max(y1, part.y - region.y + part.h)
      }
      return x1 > x0 ? { x: x0, y: y0, w: x1 - x0, h: y1 - y0 } : { x: 0, y: 0, w: 0, h: 0 }
    },
    { turned: !oneRow },
  )
  stage.compute = ({ inputs, output, request }) => {
    const input = inputs[0]!
    kernels.raw.fillRect(output.ptr, output.stride, output.region.w, output.region.h, 0n)
    for (const { region, step } of cells) {
      const part = intersect(intersect(region, output.region), moved(input.region, region.x, region.y))
      if (isEmpty(part)) continue
      const to: Pic = partOf(output, part)
      const from = partOf(input, { x: part.x - region.x, y: part.y - region.y, w: part.w, h: part.h })
      kernels.raw.copyRect(from.ptr, from.stride, to.ptr, to.stride, part.w * 8, part.h)
      if (!step) continue
      void step.def.run(
        { input: to, output: to, kernels, level, quick, facts: undefined, extent: region, planes: {}, others: {}, pause: request.pause },
        step.params as never,
      )
    }
  }
}

const moved = ({ x, y, w, h }: Region, dx: number, dy: number): Region => ({ x: x + dx, y: y + dy, w, h })
