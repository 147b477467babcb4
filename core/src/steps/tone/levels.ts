import { defineStep, tableOf, type Tables } from '../contract.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { choice, number, tone } from '../params/index.ts'
import { tableFidelity } from '../steepness.ts'

// taken once: loops over planes look nothing up
const { max, min } = Math

interface Ends {
  black: number
  midtone: number
  white: number
  outBlack: number
  outWhite: number
}

/** The tone a setting makes of a tone 0…1. */
function stretched({ black, midtone, white, outBlack, outWhite }: Ends, { raw }: Kernels): (v: number) => number {
  const low = black / 255
  const range = max(1 / 255, (white - black) / 255)
  const o0 = outBlack / 255
  const o1 = outWhite / 255
  const power = 1 / midtone
  return (v) => {
    const t = min(1, max(0, (v - low) / range))
    return o0 + (o1 - o0) * (midtone === 1 ? t : raw.pow(t, power))
  }
}

/** The five values of one channel, shown while it is chosen. */
function ends<K extends string>(key: K, title: string) {
  const when = { param: 'channel', is: [key] }
  const of = title ? ` of ${title}` : ''
  return {
    black: tone({ title: 'Black point', default: 0, max: 254, when, help: `Tones${of} at or below this become black.` }),
    midtone: number({
      title: 'Midtone',
      default: 1,
      min: 0.1,
      max: 9.99,
      step: 0.01,
      feel: 'log',
      when,
      help: `Below 1 the midtones${of} darken, above 1 they lighten; black and white stay.`,
    }),
    white: tone({ title: 'White point', default: 255, min: 1, when, help: `Tones${of} at or above this become white.` }),
    outBlack: tone({ title: 'Lightest black', default: 0, when, help: `Black${of} is lifted to this tone.` }),
    outWhite: tone({ title: 'Darkest white', default: 255, when, help: `White${of} is lowered to this tone.` }),
  }
}
const all = ends('all', '')
const red = ends('red', 'red')
const green = ends('green', 'green')
const blue = ends('blue', 'blue')

const untouched = (e: Ends) => e.black === 0 && e.midtone === 1 && e.white === 255 && e.outBlack === 0 && e.outWhite === 255

export const levels = defineStep({
  id: 'levels',
  version: 1,
  title: 'Levels',
  group: 'tone',
  kind: 'table',
  help: 'Sets which tone becomes black, which white, and where the middle lies.',
  method:
    'Linear stretch between black and white point, then a power curve: v → ((v − black)/(white − black))^(1/midtone); the channels first, then all together',
  params: {
    channel: choice({
      title: 'Channel',
      default: 'all',
      options: [
        { value: 'all', title: 'All' },
        { value: 'red', title: 'Red' },
        { value: 'green', title: 'Green' },
        { value: 'blue', title: 'Blue' },
      ],
      help: 'Which channel is set below; the others keep what they were given.',
    }),
    ...all,
    redBlack: red.black,
    redMidtone: red.midtone,
    redWhite: red.white,
    redOutBlack: red.outBlack,
    redOutWhite: red.outWhite,
    greenBlack: green.black,
    greenMidtone: green.midtone,
    greenWhite: green.white,
    greenOutBlack: green.outBlack,
    greenOutWhite: green.outWhite,
    blueBlack: blue.black,
    blueMidtone: blue.midtone,
    blueWhite: blue.white,
    blueOutBlack: blue.outBlack,
    blueOutWhite: blue.outWhite,
  },
  sample: { black: 40, midtone: 0.7, white: 215 },
  fidelity: tableFidelity,
  table: (p, kernels): Tables => {
    const together = stretched(p, kernels)
    const channels: Ends[] = [
      { black: p.redBlack, midtone: p.redMidtone, white: p.redWhite, outBlack: p.redOutBlack, outWhite: p.redOutWhite },
      { black: p.greenBlack, midtone: p.greenMidtone, white: p.greenWhite, outBlack: p.greenOutBlack, outWhite: p.greenOutWhite },
      { black: p.blueBlack, midtone: p.blueMidtone, white: p.blueWhite, outBlack: p.blueOutBlack, outWhite: p.blueOutWhite },
    ]
    if (channels.every(untouched)) return tableOf(together)
    const [r, g, b] = channels.map((e) => {
      const own = stretched(e, kernels)
      return tableOf((v) => together(own(v)))
    })
    return [r!, g!, b!]
  },
})
