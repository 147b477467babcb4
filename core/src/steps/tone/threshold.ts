import { lumaBt709 } from '../colour/black-white.ts'
import { defineStep, tableOf } from '../contract.ts'
import { choice, share, tone } from '../params/index.ts'
import { applyTable } from '../table-cache.ts'
import { histogramOf, otsu, toneOfShare } from './histogram.ts'

export const threshold = defineStep({
  id: 'threshold',
  version: 1,
  title: 'Threshold',
  group: 'tone',
  kind: 'point',
  help: 'Everything lighter than the level becomes white, everything else black.',
  method:
    'Step function on Rec. ITU-R BT.709 luma, optionally a straight ramp of some width; the level by hand, by Otsu (1979), or by the share that shall be black',
  params: {
    by: choice({
      title: 'Level by',
      default: 'hand',
      options: [
        { value: 'hand', title: 'Hand' },
        { value: 'otsu', title: 'Two best classes (Otsu)' },
        { value: 'share', title: 'Share of black' },
      ],
      help: 'Set by hand, or found on this picture: where darks and lights part best, or so that a given share is black.',
    }),
    level: tone({ title: 'Level', default: 128, when: { param: 'by', is: ['hand'] }, help: 'Tones from here on become white.' }),
    black: share({ title: 'Black', default: 0.4, when: { param: 'by', is: ['share'] }, help: 'How much of the picture becomes black.' }),
    softness: tone({ title: 'Soft width', default: 0, max: 128, help: 'How many tones the change from black to white takes; 0 cuts hard.' }),
  },
  // a hard cut of means is not the mean of hard cuts; a soft one of 64 tones or more comes close enough
  coarsest: () => 0,
  analysedBy: ['by', 'black'],
  analyse: (work, { by, black }) => {
    if (by === 'hand') return { level: null }
    const { luma } = histogramOf(work)
    // halfway between the last dark bin and the first light one
    return { level: by === 'otsu' ? otsu(luma) + 0.5 : toneOfShare(luma, black) }
  },
  run: ({ input, output, kernels, facts }, { level, softness }) => {
    const { w, h } = output.region
    const cut = facts.level ?? level
    kernels.raw.greyMix(input.ptr, input.stride, output.ptr, output.stride, w, h, ...lumaBt709)
    applyTable(kernels, output, `threshold ${cut} ${softness}`, () => {
      const at = cut / 255
      const half = softness / 510
      return tableOf((v) => (half > 0 ? (v - at + half) / (2 * half) : v >= at ? 1 : 0))
    })
  },
})
