import { transferTables } from '../../colour/srgb.ts'
import { defineStep } from '../contract.ts'
import { choice, hues, share } from '../params/index.ts'
import { tableIn } from '../table-cache.ts'
import { HUE_ENTRIES, hueOfEntry, valueAtHue } from './hue-table.ts'

export type Weights = [r: number, g: number, b: number]

/** Luma weights on display-encoded R′G′B′: Rec. ITU-R BT.709-6, item 3.2, and BT.601-7, section 2.5.1. */
export const lumaBt709: Weights = [0.2126, 0.7152, 0.0722]
export const lumaBt601: Weights = [0.299, 0.587, 0.114]

/**
 * How much of each third of the spectrum an emulsion sees, in linear light. Values from memory, after common practice: panchromatic sees all
 * colours, orthochromatic no red, the early plates blue only. They stand in for published spectral sensitivities, which would bring a new version.
 */
const emulsions: Record<'panchromatic' | 'orthochromatic' | 'blue-sensitive', Weights> = {
  panchromatic: [0.3, 0.42, 0.28],
  orthochromatic: [0.02, 0.56, 0.42],
  'blue-sensitive': [0, 0.08, 0.92],
}

/** What a coloured filter before the lens lets through of each third of the spectrum. Values from memory, after common practice. */
const filters: Record<'none' | 'yellow' | 'orange' | 'red' | 'green' | 'blue', Weights> = {
  none: [1, 1, 1],
  yellow: [1, 0.92, 0.25],
  orange: [1, 0.6, 0.08],
  red: [1, 0.12, 0.02],
  green: [0.25, 1, 0.2],
  blue: [0.1, 0.3, 1],
}

/** The mix an emulsion behind a filter records; exposure is corrected so that white stays white. */
export function emulsionWeights(emulsion: keyof typeof emulsions, filter: keyof typeof filters): Weights {
  const through = emulsions[emulsion].map((s, i) => s * filters[filter][i]!)
  const sum = through.reduce((a, b) => a + b, 0)
  return through.map((t) => t / sum) as Weights
}

export const blackWhite = defineStep({
  id: 'black-white',
  version: 1,
  title: 'Black-and-white',
  group: 'colour',
  kind: 'point',
  help: 'Decides which colours turn light and which dark, as the choice of film and filter does.',
  method:
    'Weighted sum: of linear light for an emulsion and filter, by thirds of the spectrum (values from memory); of display-encoded values for luma (Rec. ITU-R BT.709, BT.601) and own weights',
  params: {
    by: choice({
      title: 'Mixed by',
      default: 'emulsion',
      options: [
        { value: 'emulsion', title: 'Emulsion and filter' },
        { value: 'bt709', title: 'Luma, BT.709' },
        { value: 'bt601', title: 'Luma, BT.601' },
        { value: 'weights', title: 'Own weights' },
      ],
      help: 'As a photographer chooses, by a standard, or by own weights.',
    }),
    emulsion: choice({
      title: 'Emulsion',
      default: 'panchromatic',
      when: { param: 'by', is: ['emulsion'] },
      options: [
        { value: 'panchromatic', title: 'Panchromatic' },
        { value: 'orthochromatic', title: 'Orthochromatic' },
        { value: 'blue-sensitive', title: 'Blue-sensitive' },
      ],
      help: 'Orthochromatic turns reds dark: lips, freckles, brick. Blue-sensitive turns them black and skies white.',
    }),
    filter: choice({
      title: 'Lens filter',
      default: 'none',
      when: { param: 'by', is: ['emulsion'] },
      options: [
        { value: 'none', title: 'None' },
        { value: 'yellow', title: 'Yellow' },
        { value: 'orange', title: 'Orange' },
        { value: 'red', title: 'Red' },
        { value: 'green', title: 'Green' },
        { value: 'blue', title: 'Blue' },
      ],
      help: 'A filter lightens its own colour and darkens the opposite one; red makes skies dark and skin clear.',
    }),
    red: share({ title: 'Red', default: 0.3, min: -1, max: 2, when: { param: 'by', is: ['weights'] }, help: 'How much red counts towards light.' }),
    green: share({ title: 'Green', default: 0.55, min: -1, max: 2, when: { param: 'by', is: ['weights'] }, help: 'How much green counts towards light.' }),
    blue: share({ title: 'Blue', default: 0.15, min: -1, max: 2, when: { param: 'by', is: ['weights'] }, help: 'How much blue counts towards light.' }),
    byHue: hues({ title: 'By hue', min: -1, max: 1, help: 'Then each hue by itself lighter or darker: drag a hue outwards on the ring, or inwards.' }),
  },
  // own weights far from a mean clip
  coarsest: ({ by, red, green, blue, byHue }) =>
    (by === 'weights' && Math.abs(red) + Math.abs(green) + Math.abs(blue) > 1.6) || byHue.some((v) => Math.abs(v) > 0.5) ? 1 : 8,
  fidelity: { half: 0.95, why: 'hues of single noisy pixels differ more than those of their mean' },
  run: ({ input, output, kernels }, { by, emulsion, filter, red, green, blue, byHue }) => {
    const { w, h } = output.region
    const { decode, encode } = transferTables(kernels)
    const grey = (dst: number, stride: number) => {
      if (by === 'emulsion') {
        kernels.raw.greyLinear(input.ptr, input.stride, dst, stride, w, h, ...emulsionWeights(emulsion, filter), decode, encode)
        return
      }
      const weights: Weights = by === 'bt709' ? lumaBt709 : by === 'bt601' ? lumaBt601 : [red, green, blue]
      kernels.raw.greyMix(input.ptr, input.stride, dst, stride, w, h, ...weights)
    }
    if (byHue.every((v) => v === 0)) {
      grey(output.ptr, output.stride)
      return
    }
    // the colours are still needed when the grey is there, so it is made apart where both would lie in one place
    const table = tableIn(kernels, `grey by hue ${byHue.join()}`, () =>
      Float32Array.from({ length: HUE_ENTRIES }, (_, i) => kernels.raw.pow(2, 1.6 * valueAtHue(byHue, hueOfEntry(i, kernels.raw.atan2)))),
    )
    kernels.scratch(w * h * 8, (apart) => {
      grey(apart, w * 8)
      kernels.raw.greyByHue(input.ptr, input.stride, apart, w * 8, w, h, table, decode)
      kernels.raw.copyRect(apart, w * 8, output.ptr, output.stride, w * 8, h)
    })
  },
})
