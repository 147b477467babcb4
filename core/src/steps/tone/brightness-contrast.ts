import { defineStep, tableOf } from '../contract.ts'
import { share } from '../params/index.ts'
import { tableFidelity } from '../steepness.ts'

export const brightnessContrast = defineStep({
  id: 'brightness-contrast',
  version: 1,
  title: 'Brightness and contrast',
  group: 'tone',
  kind: 'table',
  help: 'Lifts or lowers all tones, and spreads them from the middle or draws them to it.',
  method: 'Straight line through mid-grey: slope (1 + c)/(1 − c), shift b/2',
  params: {
    brightness: share({ title: 'Brightness', default: 0, min: -1, max: 1, help: 'All tones lighter or darker by the same amount.' }),
    contrast: share({ title: 'Contrast', default: 0, min: -1, max: 0.98, help: 'Tones pushed apart from mid-grey, or drawn to it.' }),
  },
  sample: { brightness: 0.16, contrast: 0.4 },
  fidelity: tableFidelity,
  table: ({ brightness, contrast }) => {
    const slope = (1 + contrast) / (1 - contrast)
    return tableOf((v) => (v - 0.5) * slope + 0.5 + brightness / 2)
  },
})
