import { oklabOfRgb, rgbOfHex, rgbOfOklab } from '../../colour/oklab.ts'
import { defineStep } from '../contract.ts'
import { colour, share } from '../params/index.ts'
import { tableIn } from '../table-cache.ts'

const lean = (title: string, what: string, hex: string) => ({
  colour: colour({ title: `${title} towards`, default: hex, help: `The colour that ${what} lean towards.` }),
  amount: share({ title: `${title} by`, default: 0, help: `How far ${what} lean that way.` }),
})
const shadows = lean('Shadows', 'shadows', '#2c5d7c')
const mids = lean('Midtones', 'midtones', '#a8743c')
const lights = lean('Lights', 'lights', '#f2d9a0')

export const colourBalance = defineStep({
  id: 'colour-balance',
  version: 1,
  title: 'Colour balance',
  group: 'colour',
  kind: 'point',
  help: 'Lets shadows, midtones and lights lean towards colours of their own, as toned prints do.',
  method: 'The colour part (a, b in OKLab) of each tint at the tone’s own lightness is added, weighed by three soft ranges that sum to 1',
  params: {
    shadowColour: shadows.colour,
    shadowAmount: shadows.amount,
    midColour: mids.colour,
    midAmount: mids.amount,
    lightColour: lights.colour,
    lightAmount: lights.amount,
    middle: share({ title: 'Middle at', default: 0.5, min: 0.2, max: 0.8, help: 'Which tone counts as the middle: lower gives the lights more room.' }),
  },
  sample: { shadowAmount: 0.5, lightAmount: 0.4 },
  coarsest: () => 2,
  run: ({ input, output, kernels }, p) => {
    const { w, h } = output.region
    const { pow } = kernels.raw
    const key = [p.shadowColour, p.shadowAmount, p.midColour, p.midAmount, p.lightColour, p.lightAmount, p.middle].join()
    const table = tableIn(kernels, `balance ${key}`, () => {
      const tints = (
        [
          [p.shadowColour, p.shadowAmount],
          [p.midColour, p.midAmount],
          [p.lightColour, p.lightAmount],
        ] as const
      ).map(([hex, amount]) => {
        const [, a, b] = oklabOfRgb(rgbOfHex(hex), pow)
        return [a * amount, b * amount] as const
      })
      const smooth = (t: number) => t * t * (3 - 2 * t)
      const t = new Float32Array(4096 * 4)
      for (let i = 0; i < 4096; i++) {
        const v = (i + 0.5) / 4096
        const dark = v < p.middle ? 1 - smooth(v / p.middle) : 0
        const light = v > p.middle ? smooth((v - p.middle) / (1 - p.middle)) : 0
        const weights = [dark, 1 - dark - light, light]
        // black stays black and white white
        const room = Math.min(1, 12 * v, 12 * (1 - v))
        const a = tints.reduce((s, tint, k) => s + weights[k]! * tint[0], 0) * room
        const b = tints.reduce((s, tint, k) => s + weights[k]! * tint[1], 0) * room
        const [l] = oklabOfRgb([v, v, v], pow)
        t.set(
          rgbOfOklab([l, a, b], pow).map((c) => c - v),
          i * 4,
        )
      }
      return t
    })
    kernels.raw.lumaShift(input.ptr, input.stride, output.ptr, output.stride, w, h, table)
  },
})
