import { atLevel, grow, isEmpty, type Region } from '../base/region.ts'
import { cornersOf, extentOf, HORIZON, isAffine, kindOf, mapped, reduction, scaled, times, type Matrix } from '../base/transform.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from '../steps/contract.ts'
import type { Node } from './nodes.ts'
import { reads, type Stage } from './stage.ts'

// Pictures laid elsewhere: by copies where that is exact; by cubic interpolation of the size that is nearest; in perspective between two sizes a pixel.

/** A picture is reduced first where it is made smaller by more than this. */
const SMALLER = Math.SQRT2
/** What interpolation looks at round about: two pixels, and what rounding may make of a place. */
const REACH = 3
/** Reduced sizes that a perspective is made of, at most. */
const SIZES = 12

/** The map between two levels' pixels of one between full sizes. */
const between = (m: Matrix, from: number, to: number): Matrix => times(scaled(2 ** -to), times(m, scaled(2 ** from)))

/**
 * Makes a stage a picture that is laid elsewhere.
 * @param inputAt the stage of the picture at a level, finished where that matters
 */
export function placeStage(kernels: Kernels, stage: Stage, node: Node & { kind: 'place' }, inputAt: (level: number) => Stage): void {
  const { back, input } = node
  const beyond = node.edge === 'solid' ? 'repeat' : 'clear'
  const { level } = stage
  const finest = Math.min(0, level)
  /** The level at which a pixel of the sheet stands for about one. */
  const levelOf = (smaller: number, most: number) => {
    let k = finest
    while (smaller * 2 ** (level - k) > most && k < finest + SIZES) k++
    return k
  }
  if (isAffine(back)) {
    const k = levelOf(reduction(back, { x: 0, y: 0 }), SMALLER)
    const m = between(back, level, k)
    const exact = kindOf(m) === 'still' || kindOf(m) === 'copy'
    reads(stage, inputAt(k), beyond, exact ? (r) => extentOf(m, r)! : needOf(m, atLevel(input.extent, k)), { turned: goesUp(m, stage.extent) })
    stage.compute = exact ? ({ inputs, output }) => copy(kernels, m, inputs[0]!, output) : ({ inputs, output }) => affine(kernels, m, inputs[0]!, output)
    return
  }
  // between the largest and the smallest that a pixel of the picture becomes, at its corners and where it meets the horizon
  const [least, most] = spread(node)
  const first = levelOf(least, 2)
  const last = Math.max(first, levelOf(most, 1))
  for (let k = first; k <= last; k++) {
    const m = between(back, level, k)
    reads(stage, inputAt(k), beyond, needOf(m, atLevel(input.extent, k)), { turned: goesUp(m, stage.extent) })
  }
  const m = between(back, level, first)
  stage.compute = ({ inputs, output }) => projective(kernels, m, inputs, output)
}

/**
 * What of the input is looked at for a region; no more than a little beyond it. Where that is nothing, it has no width, and stands where the nearest
 * rows would.
 */
function needOf(m: Matrix, extent: Region): (region: Region) => Region {
  const { x, y, w, h } = grow(extent, REACH)
  const within = (at: number, from: number, size: number) => Math.min(from + size, Math.max(from, at))
  return (region) => {
    const seen = isEmpty(region) ? null : extentOf(m, region)
    if (!seen) return { x, y, w: 0, h: 0 }
    const { x: left, y: top, w: width, h: height } = grow(seen, REACH)
    const [x0, y0, x1, y1] = [within(left, x, w), within(top, y, h), within(left + width, x, w), within(top + height, y, h)]
    return { x: x0, y: y0, w: y1 > y0 ? x1 - x0 : 0, h: y1 - y0 }
  }
}

/**
 * Whether somewhere in a region the way down the sheet is no way down the picture, or there is a horizon. The sign of ∂v/∂y does not depend on y: the
 * derivative of (dx + ey + f) / (gx + hy + i) by y has the numerator e(gx + i) − h(dx + f).
 */
function goesUp(m: Matrix, region: Region): boolean {
  const along = (at: number) => m[4] * (m[6] * at + m[8]) - m[7] * (m[3] * at + m[5])
  if (!(along(region.x) > 0 && along(region.x + region.w) > 0)) return true
  return !isAffine(m) && cornersOf(region).some(({ x, y }) => !(m[6] * x + m[7] * y + m[8] > HORIZON))
}

/** By how much a picture is made smaller, least and most, wherever it is laid. */
function spread({ back, matrix, input: { extent } }: Node & { kind: 'place' }): [number, number] {
  let least = Infinity
  let most = 0
  for (let j = 0; j <= PLACES; j++) {
    for (let i = 0; i <= PLACES; i++) {
      const at = mapped(matrix, { x: extent.x + (extent.w * i) / PLACES, y: extent.y + (extent.h * j) / PLACES })
      const by = at ? reduction(back, at) : Infinity
      least = Math.min(least, by)
      most = Math.max(most, by)
    }
  }
  return [least === Infinity ? 1 : least, most]
}
const PLACES = 16

const WEIGHTS = (2048 + 1) * 24
const weights = new WeakMap<Kernels, number>()
/** The table of weights, made once an instance of the kernels. */
function weightsIn(kernels: Kernels): number {
  let at = weights.get(kernels)
  if (at === undefined) {
    weights.set(kernels, (at = kernels.allocator.alloc(WEIGHTS)))
    kernels.raw.placeWeights(at)
  }
  return at
}

/** Tells a kernel of a picture: six numbers. */
function tell(kernels: Kernels, ptr: number, { ptr: pixels, stride, region: { x, y, w, h } }: Pic): void {
  new Int32Array(kernels.memory.buffer, ptr, 6).set([pixels, stride, x, y, w, h])
}

function affine(kernels: Kernels, m: Matrix, input: Pic, { ptr, stride, region }: Pic): void {
  kernels.scratch(128, (args) => {
    new Float64Array(kernels.memory.buffer, args, 6).set(m.slice(0, 6))
    tell(kernels, args + 64, input)
    kernels.raw.placeAffine(ptr, stride, region.w, region.h, region.x, region.y, args + 64, args, weightsIn(kernels))
  })
}

function projective(kernels: Kernels, m: Matrix, inputs: readonly Pic[], { ptr, stride, region }: Pic): void {
  kernels.scratch(80 + 24 * inputs.length, (args) => {
    new Float64Array(kernels.memory.buffer, args, 9).set(m)
    inputs.forEach((pic, i) => tell(kernels, args + 80 + 24 * i, pic))
    kernels.raw.placeProjective(ptr, stride, region.w, region.h, region.x, region.y, args + 80, inputs.length, args, HORIZON, weightsIn(kernels))
  })
}

function copy(kernels: Kernels, [a, b, c, d, e, f]: Matrix, input: Pic, { ptr, stride, region }: Pic): void {
  const { x, y, w, h } = region
  // from pixel to pixel; a half of a pixel on both sides
  const u = a * (x + 0.5) + b * (y + 0.5) + c - 0.5 - input.region.x
  const v = d * (x + 0.5) + e * (y + 0.5) + f - 0.5 - input.region.y
  const first = input.ptr + v * input.stride + u * 8
  if (a === 1 && e === 1) kernels.raw.copyRect(first, input.stride, ptr, stride, w * 8, h)
  else kernels.raw.copyTurned(first, e * input.stride + b * 8, d * input.stride + a * 8, ptr, stride, w, h)
}
