import { defineStep, tableOf } from '../contract.ts'
import { number, tone } from '../params.ts'
import { tableFidelity } from '../steepness.ts'

export const levels = defineStep({
  id: 'levels',
  version: 1,
  title: 'Levels',
  group: 'tone',
  kind: 'table',
  help: 'Sets which tone becomes black, which white, and where the middle lies.',
  method: 'Linear stretch between black and white point, then a power curve: v → ((v − black)/(white − black))^(1/midtone)',
  params: {
    black: tone({ title: 'Black point', default: 0, max: 254, help: 'Tones at or below this become black.' }),
    midtone: number({
      title: 'Midtone',
      default: 1,
      min: 0.1,
      max: 9.99,
      step: 0.01,
      feel: 'log',
      help: 'Below 1 the midtones darken, above 1 they lighten; black and white stay.',
    }),
    white: tone({ title: 'White point', default: 255, min: 1, help: 'Tones at or above this become white.' }),
    outBlack: tone({ title: 'Lightest black', default: 0, help: 'Black is lifted to this tone.' }),
    outWhite: tone({ title: 'Darkest white', default: 255, help: 'White is lowered to this tone.' }),
  },
  sample: { black: 40, midtone: 0.7, white: 215 },
  fidelity: tableFidelity,
  table: ({ black, midtone, white, outBlack, outWhite }, { raw }) => {
    const low = black / 255
    const range = Math.max(1 / 255, (white - black) / 255)
    const o0 = outBlack / 255
    const o1 = outWhite / 255
    const power = 1 / midtone
    return tableOf((v) => {
      const t = Math.min(1, Math.max(0, (v - low) / range))
      return o0 + (o1 - o0) * (midtone === 1 ? t : raw.pow(t, power))
    })
  },
})
