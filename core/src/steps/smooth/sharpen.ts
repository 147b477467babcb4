import { halvings } from '../../base/levels.ts'
import { union } from '../../base/region.ts'
import { defineStep } from '../contract.ts'
import { length, px, share, tone } from '../params/index.ts'
import { addressOf } from '../picture.ts'
import { blurReach, blurWhole } from './blurred.ts'
import { guidedInto, guidedNeeds } from './guided.ts'

/** How far around noise is told from detail, in radii. */
const CALM = 1.5

export const sharpen = defineStep({
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
  needs: (region, { radius }) => {
    const blurred = blurReach(region, radius)
    return guidedNeeds(union(region, blurred), Math.max(1, radius * CALM))
  },
  run: ({ input, output, kernels }, { radius, amount, noise }) => {
    const need = union(output.region, blurReach(output.region, radius))
    const { w, h } = output.region
    const eps = (noise / 255) ** 2
    kernels.scratch(need.w * need.h * 8 + w * h * 8, (calm) => {
      const blurred = calm + need.w * need.h * 8
      const fine = { ptr: calm, stride: need.w * 8, region: need }
      guidedInto(kernels, input, fine, Math.max(1, radius * CALM), eps)
      const reach = blurReach(output.region, radius)
      blurWhole(kernels, { ptr: addressOf(fine, reach), stride: fine.stride, region: reach }, { ptr: blurred, stride: w * 8, region: output.region }, radius)
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
        amount,
        0,
      )
    })
  },
})
