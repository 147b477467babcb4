import { halvings } from '../../base/levels.ts'
import { grow } from '../../base/region.ts'
import { defineStep } from '../contract.ts'
import { angle, length, percent } from '../params/index.ts'
import { addressOf } from '../picture.ts'

/** A place about a pixel and its weight. */
export interface Tap {
  x: number
  y: number
  weight: number
}

/**
 * Weights of the pixels under a line of a length through the middle of a pixel: unit steps along its longer direction, each shared between the two
 * pixels it passes between, the ends counted in part. They sum to 1.
 * @param length pixels; @param degrees counter-clockwise from the right
 */
export function lineTaps(length: number, degrees: number, { cos, sin }: { cos: (x: number) => number; sin: (x: number) => number }): Tap[] {
  const radians = (degrees * 3.141592653589793) / 180
  const [dx, dy] = [cos(radians), -sin(radians)]
  const across = Math.abs(dx) >= Math.abs(dy)
  const slope = across ? dy / dx : dx / dy
  const half = (length * Math.max(Math.abs(dx), Math.abs(dy))) / 2
  const reach = Math.max(0, Math.ceil(half - 0.5))
  const found = new Map<string, Tap>()
  let sum = 0
  for (let k = -reach; k <= reach; k++) {
    const weight = Math.max(0, Math.min(1, half + 0.5 - Math.abs(k)))
    if (weight === 0) continue
    sum += weight
    const off = k * slope
    const low = Math.floor(off + 1e-9)
    const part = off - low
    for (const [o, share] of [
      [low, 1 - part],
      [low + 1, part],
    ] as const) {
      if (share < 1e-6) continue
      const [x, y] = across ? [k, o] : [o, k]
      const name = `${x},${y}`
      const tap = found.get(name) ?? { x, y, weight: 0 }
      tap.weight += weight * share
      found.set(name, tap)
    }
  }
  return [...found.values()].map((t) => ({ ...t, weight: t.weight / sum }))
}

const reachOf = (length: number) => Math.ceil(length / 2) + 1

export const motionBlur = defineStep({
  id: 'motion-blur',
  version: 1,
  title: 'Motion blur',
  group: 'smooth',
  kind: 'neighbourhood',
  help: 'Smears everything the same way, as a camera does that is moved while the shutter is open.',
  method: 'Mean along a line through each pixel, ends counted in part',
  params: {
    length: length({ title: 'Length', default: percent(1), min: 1, max: 800, feel: 'log', help: 'How far things move while they are seen.' }),
    direction: angle({ title: 'Direction', default: 0, min: -90, max: 90, help: 'The way they move, from level.' }),
  },
  sample: { length: percent(4), direction: 20 },
  finest: ({ length: l }) => l / 3,
  coarsest: ({ length: l }) => halvings(l / 6),
  needs: (region, { length: l }) => grow(region, reachOf(l)),
  run: async ({ input, output, kernels, pause }, { length: l, direction }) => {
    const { raw } = kernels
    const taps = lineTaps(Math.max(1, l), direction, raw)
    const { w, h } = output.region
    const wide = input.region.w * 8
    const src = kernels.allocator.alloc(wide * input.region.h)
    const list = kernels.allocator.alloc(taps.length * 8)
    try {
      raw.premultiplied(input.ptr, input.stride, src, wide, input.region.w, input.region.h)
      const view = new DataView(kernels.memory.buffer, list, taps.length * 8)
      taps.forEach((t, i) => {
        view.setInt32(i * 8, t.y * wide + t.x * 8, true)
        view.setFloat32(i * 8 + 4, t.weight, true)
      })
      const from = addressOf({ ptr: src, stride: wide, region: input.region }, output.region)
      // a band of rows at a time, so that a long line does not hold up a cancel
      const rows = Math.max(16, Math.floor(2e7 / (taps.length * w)))
      for (let y = 0; y < h; y += rows) {
        if (y > 0) await pause()
        raw.sparseSum(from + y * wide, wide, output.ptr + y * output.stride, output.stride, w, Math.min(rows, h - y), list, taps.length, 1)
      }
    } finally {
      kernels.allocator.free(src)
      kernels.allocator.free(list)
    }
  },
})
