import { grow } from '../../base/region.ts'
import { defineStep } from '../contract.ts'
import { length, px } from '../params/index.ts'

/** The deviation of heights, in codes of their picture, that counts as half of a surface: 0.04 full-size pixels of HEIGHT_RANGE. */
const FLAT = 20

/** Heights as what pigment catches on; not a step of its own, but what the engine puts before one that catches. */
export const evened = defineStep({
  id: 'evened',
  version: 1,
  title: 'Evened heights',
  group: 'surface',
  kind: 'neighbourhood',
  help: 'How high each place stands among those round about.',
  method: 'Normal distribution function of the height by the mean and deviation of a square about it',
  params: { reach: length({ title: 'Round about', default: px(30), min: 1, max: 180, help: 'How far round about.' }) },
  coarsest: () => 0,
  needs: (region, { reach }) => grow(region, Math.round(reach)),
  run: ({ input, output, kernels }, { reach }) => {
    const { w, h } = output.region
    kernels.raw.evenHeights(input.ptr, input.stride, output.ptr, output.stride, w, h, Math.round(reach), FLAT)
  },
})
