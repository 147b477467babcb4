import { halvings } from '../../base/levels.ts'
import { union, type Region } from '../../base/region.ts'
import { defineStep, type Work } from '../contract.ts'
import { length, px, share, tone } from '../params/index.ts'
import { addressOf } from '../picture.ts'
import { blurReach, blurWhole } from './blurred.ts'
import { guidedInto, guidedNeeds } from './guided.ts'

/** How far around noise is told from detail, in radii. */
const CALM = 1.5

/** What a region of the result goes by, for an edge of a width in pixels of the level. */
const sharpenNeeds = (region: Region, width: number): Region => guidedNeeds(union(region, blurReach(region, width)), Math.max(1, width * CALM))

/** Unsharp masking of what is not noise. */
function sharpenInto({ input, output, kernels }: Pick<Work, 'input' | 'output' | 'kernels'>, width: number, bite: number, noise: number): void {
  const need = union(output.region, blurReach(output.region, width))
  const { w, h } = output.region
  const eps = (noise / 255) ** 2
  kernels.scratch(need.w * need.h * 8 + w * h * 8, (calm) => {
    const blurred = calm + need.w * need.h * 8
    const fine = { ptr: calm, stride: need.w * 8, region: need }
    guidedInto(kernels, input, fine, Math.max(1, width * CALM), eps)
    const reach = blurReach(output.region, width)
    blurWhole(kernels, { ptr: addressOf(fine, reach), stride: fine.stride, region: reach }, { ptr: blurred, stride: w * 8, region: output.region }, width)
    kernels.raw.unsharp(
      addressOf(input, output.region),
      input.stride,
      addressOf(fine, output.region),
      fine.stride,
      blurred,
      w * 8,
      output.ptr,
      output.stride,
      w,
      h,
      bite,
      0,
    )
  })
}

export const sharpen = defineStep({
  id: 'sharpen',
  version: 2,
  title: 'Crisp edges, grain spared',
  group: 'smooth',
  kind: 'neighbourhood',
  help: 'Brings out edges and true detail only; grain and skin stay as they are.',
  method:
    'Unsharp masking of the guided filter’s result (He, Sun and Tang 2013) instead of the picture’s: what varies less than the grain has been taken out before it could be sharpened',
  params: {
    width: length({ title: 'Width of edge', default: px(2.5), min: 0.5, max: 60, feel: 'log', help: 'How far to each side of an edge it gets crisper.' }),
    bite: share({ title: 'Bite', default: 1, max: 3, help: 'How hard light and dark are set against each other there.' }),
    spare: tone({
      title: 'Grain spared',
      default: 10,
      min: 1,
      max: 60,
      help: 'What differs from its surroundings by fewer tones than this is grain, and is left as it is.',
    }),
  },
  sample: { width: px(5), bite: 1.6 },
  finest: ({ width }) => width,
  coarsest: ({ width }) => halvings(width / 8),
  fidelity: { half: 0.95, why: 'what is pushed beyond black and white is cut pixel by pixel' },
  needs: (region, { width }) => sharpenNeeds(region, width),
  run: (work, { width, bite, spare }) => sharpenInto(work, width, bite, spare),
})

/** By the names its controls had. */
export const sharpen1 = defineStep({
  id: 'sharpen',
  version: 1,
  title: 'Sharpen, noise held down',
  group: 'smooth',
  kind: 'neighbourhood',
  help: 'Sharpens edges and true detail only; grain and skin stay as they are.',
  method:
    'Unsharp masking of the guided filter’s result (He, Sun and Tang 2013) instead of the picture’s: what varies less than the noise has been taken out before it could be sharpened',
  params: {
    radius: length({ title: 'Radius', default: px(2.5), min: 0.5, max: 60, feel: 'log', help: 'How wide the edge is that gets crisper.' }),
    amount: share({ title: 'Amount', default: 1, max: 3, help: 'How much is added.' }),
    noise: tone({ title: 'Noise', default: 10, min: 1, max: 60, help: 'Texture weaker than this is taken for noise.' }),
  },
  sample: { radius: px(5), amount: 1.6 },
  finest: ({ radius }) => radius,
  coarsest: ({ radius }) => halvings(radius / 8),
  fidelity: { half: 0.95, why: 'what is pushed beyond black and white is cut pixel by pixel' },
  needs: (region, { radius }) => sharpenNeeds(region, radius),
  run: (work, { radius, amount, noise }) => sharpenInto(work, radius, amount, noise),
})
