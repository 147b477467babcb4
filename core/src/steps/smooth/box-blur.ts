import { halvings } from '../../base/levels.ts'
import { grow } from '../../base/region.ts'
import { defineStep } from '../contract.ts'
import { length, percent, px } from '../params/index.ts'

/** Whole pixels of the level on each side of the middle one. */
const radiusOf = (side: number) => Math.max(0, Math.min(500, Math.round((side - 1) / 2)))

export const boxBlur = defineStep({
  id: 'box-blur',
  version: 1,
  title: 'Box blur',
  group: 'smooth',
  kind: 'neighbourhood',
  help: 'The plain mean of a square: softens more harshly than a Gaussian, and leaves square highlights.',
  method: 'Mean over a square window by running sums of whole numbers',
  params: {
    side: length({ title: 'Side', default: px(9), min: 1, max: 800, feel: 'log', help: 'How wide the square is; an odd number of pixels at full size.' }),
  },
  sample: { side: percent(1.2) },
  finest: ({ side }) => side / 2,
  // squares of a few pixels cannot be had on a coarser grid
  coarsest: ({ side }) => halvings(side / 9),
  needs: (region, { side }) => grow(region, radiusOf(side)),
  run: ({ input, output, kernels }, { side }) => {
    const r = radiusOf(side)
    const { w, h } = output.region
    if (r === 0) kernels.raw.copyRect(input.ptr, input.stride, output.ptr, output.stride, w * 8, h)
    else kernels.raw.boxMean(input.ptr, input.stride, output.ptr, output.stride, w, h, r)
  },
})
