import { defineStep } from '../contract.ts'
import { share } from '../params/index.ts'
import { shiftHues } from './hue-shift.ts'

export const vibrance = defineStep({
  id: 'vibrance',
  version: 1,
  title: 'Vibrance',
  group: 'colour',
  kind: 'point',
  help: 'Strengthens weak colours more than strong ones, so that nothing screams; or mutes them.',
  method: 'Chroma in OKLab times 1 + v·(1 − C/0.3)², nearing the strongest that sRGB has there',
  params: {
    vibrance: share({ title: 'Vibrance', default: 0, min: -1, max: 1, help: 'Weak colours stronger or weaker; strong ones hardly change.' }),
    saturation: share({ title: 'Saturation', default: 0, min: -1, max: 1, help: 'All colours alike.' }),
  },
  sample: { vibrance: 0.7 },
  coarsest: ({ saturation }) => (saturation > 0.3 ? 0 : 2),
  run: ({ input, output, kernels }, { vibrance: v, saturation }) => {
    const gain = saturation < 0 ? 1 + saturation : 1 + 2 * saturation
    shiftHues(kernels, input, output, `all ${saturation}`, () => ({ turn: 0, gain, light: 0 }), { lightGain: 1, lightAdd: 0, keep: 1, a: 0, b: 0, vibrance: v })
  },
})
