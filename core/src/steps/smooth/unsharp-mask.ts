import { halvings } from '../../base/levels.ts'
import { grow, union } from '../../base/region.ts'
import { defineStep } from '../contract.ts'
import { length, px, share, tone } from '../params/index.ts'
import { addressOf } from '../picture.ts'
import { blurReach, blurWhole } from './blurred.ts'

export const unsharpMask = defineStep({
  id: 'unsharp-mask',
  version: 1,
  title: 'Unsharp mask',
  group: 'smooth',
  kind: 'neighbourhood',
  help: 'Crisper edges: adds back what a blur takes away.',
  method: 'Photographic unsharp masking: v + amount · (v − Gaussian(v)); differences count for what they exceed the threshold by',
  params: {
    radius: length({
      title: 'Radius',
      default: px(2),
      min: 0.3,
      max: 250,
      feel: 'log',
      help: 'How wide the edge is that gets crisper: the deviation of the blur.',
    }),
    amount: share({ title: 'Amount', default: 1, max: 5, help: 'How much is added back.' }),
    threshold: tone({ title: 'Threshold', default: 0, max: 60, help: 'Differences smaller than this stay as they are: grain is not sharpened.' }),
  },
  sample: { radius: px(4), amount: 1.5 },
  finest: ({ radius }) => radius,
  coarsest: ({ radius, amount }) => Math.max(0, Math.min(amount > 1 ? 2 : 8, halvings(radius / (amount > 1 ? 8 : 3)))),
  fidelity: { half: 0.95, why: 'what is pushed beyond black and white is cut pixel by pixel' },
  needs: (region, { radius }) => union(grow(region, 1), blurReach(region, radius)),
  run: ({ input, output, kernels }, { radius, amount, threshold }) => {
    const { w, h } = output.region
    const need = blurReach(output.region, radius)
    kernels.scratch(w * h * 8, (blurred) => {
      blurWhole(kernels, { ptr: addressOf(input, need), stride: input.stride, region: need }, { ptr: blurred, stride: w * 8, region: output.region }, radius)
      const src = addressOf(input, output.region)
      kernels.raw.unsharp(src, input.stride, src, input.stride, blurred, w * 8, output.ptr, output.stride, w, h, amount, threshold / 255)
    })
  },
})
