import { linearToSrgb, srgbToLinear } from '../../colour/srgb.ts'
import { defineStep, tableOf } from '../contract.ts'
import { number, share } from '../params/index.ts'
import { tableFidelity } from '../steepness.ts'

export const exposure = defineStep({
  id: 'exposure',
  version: 1,
  title: 'Exposure',
  group: 'tone',
  kind: 'table',
  help: 'More or less light, in stops, as if the photo had been exposed longer or shorter.',
  method: 'Linear light (IEC 61966-2-1) times 2^stops; the shoulder is an exponential that meets the straight part with its slope, as film has',
  params: {
    stops: number({ title: 'Stops', default: 0, min: -5, max: 5, step: 0.05, help: 'One stop is twice, or half, the light.' }),
    flare: share({ title: 'Flare', default: 0, max: 0.1, step: 0.002, help: 'Stray light that lifts the deepest blacks to a haze.' }),
    shoulder: share({ title: 'Shoulder', default: 0.3, help: 'How early the highlights are drawn together instead of burning out.' }),
  },
  sample: { stops: 0.8 },
  fidelity: tableFidelity,
  // the darks are stretched or squeezed more than the bend of the whole tells
  coarsest: ({ stops }) => (Math.abs(stops) > 1 ? 0 : 2),
  table: ({ stops, flare, shoulder }, { raw }) => {
    const gain = raw.pow(2, stops)
    const knee = 1 - 0.6 * shoulder
    // nothing lies above the knee unless light is added: then white stays white
    const top = gain * (1 - flare) + flare
    const bends = shoulder > 0 && top > 1
    const reach = bends ? 1 - raw.exp(-(top - knee) / (1 - knee)) : 1
    return tableOf((v) => {
      const light = srgbToLinear(v, raw.pow) * gain * (1 - flare) + flare
      const held = bends && light > knee ? knee + ((1 - knee) * (1 - raw.exp(-(light - knee) / (1 - knee)))) / reach : light
      return linearToSrgb(held, raw.pow)
    })
  },
})
