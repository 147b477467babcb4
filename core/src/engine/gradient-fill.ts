import { rgbOfHex, pixelOf } from '../colour/oklab.ts'
import { linearOfOklab, oklabOfLinear } from '../colour/oklab.ts'
import { linearToSrgb, srgbToLinear } from '../colour/srgb.ts'
import type { Source } from '../artwork/schema.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { defineStep } from '../steps/contract.ts'
import { place } from '../steps/params/index.ts'
import { tableIn } from '../steps/table-cache.ts'

type GradientSource = Extract<Source, { type: 'gradient' }>
/** Steps of the table. */
const STEPS = 4096
const BEYOND = ['last colour', 'repeat', 'mirror'] as const

/**
 * The colour and alpha at a place 0…1 of a gradient with alpha: between stops in OKLab (CSS Color 4, section 12), premultiplied, so that a stop that
 * is clear lends no colour.
 */
export function gradientAt(stops: GradientSource['stops'], pow: Kernels['raw']['pow']): (t: number) => { rgb: [number, number, number]; alpha: number } {
  const points = stops.map(([, hex]) => oklabOfLinear(rgbOfHex(hex).map((v) => srgbToLinear(v, pow)) as [number, number, number], pow))
  return (t) => {
    let i = 0
    while (i < stops.length - 2 && t > stops[i + 1]![0]) i++
    const [[from, , a0], [to, , a1]] = [stops[i]!, stops[i + 1]!]
    const k = to > from ? Math.min(1, Math.max(0, (t - from) / (to - from))) : t < from ? 0 : 1
    const alpha = a0 + (a1 - a0) * k
    const share = alpha > 0 ? (a1 * k) / alpha : k
    const lab = points[i]!.map((v, c) => v + (points[i + 1]![c]! - v) * share) as [number, number, number]
    return { rgb: linearOfOklab(lab).map((v) => Math.min(1, linearToSrgb(Math.max(0, v), pow))) as [number, number, number], alpha }
  }
}

/** Colours along a line or outwards from a point, whatever its input: what a gradient layer starts from. Not in the registry, because it is no step. */
export const gradientFill = defineStep({
  id: 'gradient-fill',
  version: 1,
  title: 'Gradient',
  group: 'colour',
  kind: 'point',
  help: 'Colours along a line or outwards from a point.',
  method: 'OKLab, premultiplied (CSS Color 4, section 12)',
  params: {
    from: place({ title: 'From', default: { x: 0, y: 0 }, help: 'Where it begins.' }),
    to: place({ title: 'To', default: { x: 1, y: 0 }, help: 'Where it ends.' }),
  },
  run: ({ output, kernels }, params) => {
    const { from, to, gradient } = params as typeof params & { gradient: Pick<GradientSource, 'shape' | 'stops' | 'beyond'> }
    const table = tableIn(kernels, `gradient fill ${JSON.stringify(gradient.stops)}`, () => {
      const at = gradientAt(gradient.stops, kernels.raw.pow)
      const pixels = new BigUint64Array(STEPS + 1)
      for (let i = 0; i <= STEPS; i++) {
        const { rgb, alpha } = at(i / STEPS)
        pixels[i] = BigInt.asUintN(64, pixelOf(rgb, alpha))
      }
      return new Uint16Array(pixels.buffer)
    })
    const [dx, dy] = [to.x - from.x, to.y - from.y]
    // a way of no length has an end all the same
    const square = Math.max(1e-6, dx * dx + dy * dy)
    const round = gradient.shape === 'round'
    const { region, ptr, stride } = output
    kernels.raw.gradientFill(
      ptr,
      stride,
      region.w,
      region.h,
      region.x,
      region.y,
      from.x,
      from.y,
      round ? 1 / Math.sqrt(square) : dx / square,
      dy / square,
      round ? 1 : 0,
      BEYOND.indexOf(gradient.beyond),
      table,
    )
  },
})
