import { lumaBt709 } from '../colour/black-white.ts'
import { defineStep, tableOf } from '../contract.ts'
import { tone } from '../params.ts'
import { applyTable } from '../table-cache.ts'

export const threshold = defineStep({
  id: 'threshold',
  version: 1,
  title: 'Threshold',
  group: 'tone',
  kind: 'point',
  help: 'Everything lighter than the level becomes white, everything else black.',
  method: 'Step function on Rec. ITU-R BT.709 luma, optionally a straight ramp of some width',
  params: {
    level: tone({ title: 'Level', default: 128, help: 'Tones from here on become white.' }),
    softness: tone({ title: 'Soft width', default: 0, max: 128, help: 'How many tones the change from black to white takes; 0 cuts hard.' }),
  },
  // a hard cut of means is not the mean of hard cuts; a soft one of 64 tones or more comes close enough
  coarsest: () => 0,
  run: ({ input, output, kernels }, { level, softness }) => {
    const { w, h } = output.region
    kernels.raw.greyMix(input.ptr, input.stride, output.ptr, output.stride, w, h, ...lumaBt709)
    applyTable(kernels, output, `threshold ${level} ${softness}`, () => {
      const at = level / 255
      const half = softness / 510
      return tableOf((v) => (half > 0 ? (v - at + half) / (2 * half) : v >= at ? 1 : 0))
    })
  },
})
