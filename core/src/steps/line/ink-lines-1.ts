import { grow, union, type Region } from '../../base/region.ts'
import { defineStep } from '../contract.ts'
import { choice, length, percent, share } from '../params/index.ts'
import { addressOf } from '../picture.ts'
import { gaussianWeights } from '../smooth/gaussian-blur.ts'
import { flowInto, flowNeeds } from './flow.ts'

/** The wide Gaussian across a line, in narrow ones. */
const WIDE = 1.6

interface Plan {
  /** Deviation across, and along the lines. */
  across: number
  acrossReach: number
  along: number
  alongReach: number
  /** How far around directions are averaged. */
  steady: number
}
function planOf(pen: number, run: number): Plan {
  const across = Math.max(0.4, pen / 2.4)
  const along = Math.max(0.5, run / 4)
  return {
    across,
    acrossReach: Math.max(1, Math.ceil(across * WIDE * 2.5)),
    along,
    alongReach: Math.max(1, Math.min(60, Math.ceil(along * 2.5))),
    steady: Math.max(1, Math.min(12, pen * 1.2)),
  }
}
/** Where the difference across the lines must be known. */
const dogRegion = (region: Region, p: Plan) => grow(region, p.alongReach + 1)
const lumaRegion = (region: Region, p: Plan) => grow(dogRegion(region, p), p.acrossReach + 1)

export const inkLines1 = defineStep({
  id: 'ink-lines',
  version: 1,
  title: 'Ink lines',
  group: 'line',
  kind: 'neighbourhood',
  help: 'Pen lines that follow the forms without a break and swell where it is dark; solid blacks where wanted.',
  method:
    'Flow-guided difference of Gaussians (Kang, Lee and Chui 2007) over a smoothed structure tensor, with the soft threshold of XDoG (Winnemöller, Kyprianidis and Olsen 2012)',
  params: {
    pen: length({ title: 'Pen', default: percent(0.12), min: 0.6, max: 40, feel: 'log', help: 'How broad the pen is.' }),
    run: length({
      title: 'Run',
      default: percent(0.5),
      min: 1,
      max: 160,
      feel: 'log',
      help: 'Over what length a line is drawn in one go: short follows every crumb, long bridges gaps.',
    }),
    lines: share({ title: 'Lines', default: 0.5, help: 'How much is drawn: only the strongest edges, or every fold.' }),
    blacks: share({ title: 'Blacks', default: 0.35, help: 'Up to which tone darks are filled in solid.' }),
    nib: share({ title: 'Nib', default: 0.8, help: 'Soft lets lines fade out in grey, hard ends them in clean black and white.' }),
    ground: choice({
      title: 'Ground',
      default: 'dark',
      options: [
        { value: 'dark', title: 'Dark on light' },
        { value: 'light', title: 'Light on dark' },
      ],
      help: 'Ink on paper, or scratched out of black.',
    }),
  },
  // how far a line that grows faint is drawn is decided pixel by pixel
  coarsest: () => 0,
  needs: (region, { pen, run }) => {
    const p = planOf(pen, run)
    return union(lumaRegion(region, p), flowNeeds(dogRegion(region, p), p.steady))
  },
  run: async ({ input, output, kernels, pause }, { pen, run, lines, blacks, nib, ground }) => {
    const { raw, allocator } = kernels
    const p = planOf(pen, run)
    const [mid, far] = [dogRegion(output.region, p), lumaRegion(output.region, p)]
    const { w, h } = output.region
    const flow = allocator.alloc(mid.w * mid.h * 16)
    const luma = allocator.alloc(far.w * far.h * 4 + 64)
    const dog = allocator.alloc(mid.w * mid.h * 4 + 64)
    const ink = allocator.alloc(w * h * 4)
    const n = p.acrossReach + 1
    const weights = allocator.alloc((2 * n + p.alongReach + 1) * 4)
    try {
      await flowInto(kernels, input, flow, mid, p.steady, pause)
      raw.lumaPlane(addressOf(input, far), input.stride, luma, far.w * 4, far.w, far.h)
      kernels.f32(weights, n).set(gaussianWeights(p.across, p.acrossReach, raw.exp))
      kernels.f32(weights + n * 4, n).set(gaussianWeights(p.across * WIDE, p.acrossReach, raw.exp))
      kernels.f32(weights + 2 * n * 4, p.alongReach + 1).set(gaussianWeights(p.along, p.alongReach, raw.exp))
      await pause()
      // how much edges weigh against tone: the p of XDoG, which turns into its τ
      const edges = 4 * raw.pow(20, lines)
      // what is fainter is the grain of the photo
      const still = 0.03 * raw.pow(1 - lines, 1.5)
      raw.dogAcross(luma, far.w * 4, flow, mid.w * 16, dog, mid.w * 4, mid.w, mid.h, p.acrossReach, weights, edges / (1 + edges), still)
      await pause()
      raw.alongFlow(dog, mid.w * 4, flow, mid.w * 16, ink, w * 4, w, h, p.alongReach, weights + 2 * n * 4)
      const epsilon = (0.08 + 0.72 * blacks) / (1 + edges)
      // a broad pen’s lines end as sharply as a fine one’s
      const phi = 1.5 * raw.pow(16, nib) * (1 + edges) * Math.max(1, pen / 2.4)
      raw.inkBelow(ink, w * 4, addressOf(input, output.region), input.stride, output.ptr, output.stride, w, h, epsilon, phi, ground === 'light' ? 1 : 0)
    } finally {
      for (const ptr of [flow, luma, dog, ink, weights]) allocator.free(ptr)
    }
  },
})
