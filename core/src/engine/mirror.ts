import { alignOut, intersect, isEmpty } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from '../steps/contract.ts'
import type { Node } from './nodes.ts'
import { reads, type Stage } from './stage.ts'

// A picture that goes on beyond its borders as in mirrors, so that no seam repeats.

/** Makes a stage the mirrored repetition of one that covers a piece from (0, 0); counted from `node.origin`. */
export function mirrorStage(kernels: Kernels, stage: Stage, node: Node & { kind: 'mirror' }, input: Stage): void {
  const scale = 2 ** stage.level
  const side = (v: number) => Math.max(1, Math.round(v / scale))
  const [w, h] = [side(node.w), side(node.h)]
  const [ox, oy] = [Math.round(node.origin.x / scale), Math.round(node.origin.y / scale)]
  const cell = (at: number, size: number) => Math.floor(at / size)
  const { extent } = stage
  const goesDown = cell(extent.y - oy, h) === cell(extent.y + extent.h - 1 - oy, h) && cell(extent.y - oy, h) % 2 === 0
  reads(
    stage,
    input,
    'clear',
    (r) => {
      if (isEmpty(r)) return { x: 0, y: 0, w: 0, h: 0 }
      const [x0, x1] = seenBetween(r.x - ox, r.x + r.w - ox, w)
      const [y0, y1] = seenBetween(r.y - oy, r.y + r.h - oy, h)
      return { x: x0, y: y0, w: x1 - x0, h: y1 - y0 }
    },
    { turned: !goesDown },
  )
  stage.compute = ({ inputs, output }) => repeat(kernels, inputs[0]!, output, w, h, ox, oy)
}

/** The part of 0 … n that is seen between two places of its mirrored repetition. */
export function seenBetween(from: number, to: number, n: number): [number, number] {
  const [first, last] = [Math.floor(from / n), Math.floor((to - 1) / n)]
  if (last - first > 1) return [0, n]
  let [low, high] = [n, 0]
  for (let k = first; k <= last; k++) {
    const [a, b] = [Math.max(from, k * n) - k * n, Math.min(to, (k + 1) * n) - k * n]
    const odd = k % 2 !== 0
    low = Math.min(low, odd ? n - b : a)
    high = Math.max(high, odd ? n - a : b)
  }
  return [low, high]
}

function repeat(kernels: Kernels, input: Pic, { ptr, stride, region }: Pic, w: number, h: number, ox: number, oy: number): void {
  const all = alignOut({ x: 0, y: region.y - oy, w: 1, h: region.h }, h)
  for (let y = all.y; y < all.y + all.h; y += h) {
    for (let x = Math.floor((region.x - ox) / w) * w; x < region.x - ox + region.w; x += w) {
      const part = intersect({ x: x + ox, y: y + oy, w, h }, region)
      if (isEmpty(part)) continue
      const [left, down] = [Math.round(x / w) % 2 !== 0, Math.round(y / h) % 2 !== 0]
      const [px, py] = [part.x - ox - x, part.y - oy - y]
      const [u, v] = [left ? w - 1 - px : px, down ? h - 1 - py : py]
      const from = input.ptr + (v - input.region.y) * input.stride + (u - input.region.x) * 8
      const to = ptr + (part.y - region.y) * stride + (part.x - region.x) * 8
      kernels.raw.copyTurned(from, down ? -input.stride : input.stride, left ? -8 : 8, to, stride, part.w, part.h)
    }
  }
}
