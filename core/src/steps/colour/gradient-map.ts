import { linearOfOklab, oklabOfLinear, rgbOfHex, type Triple } from '../../colour/oklab.ts'
import { linearToSrgb, srgbToLinear } from '../../colour/srgb.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { defineStep } from '../contract.ts'
import { choice, gradient, type GradientStop } from '../params/index.ts'
import { coarsestOfBend } from '../steepness.ts'
import { tableIn } from '../table-cache.ts'

export type Interpolation = 'srgb' | 'linear' | 'oklab'

/**
 * The display-encoded colour at a place 0…1 of a gradient; the first and last stop hold outside. Interpolated as CSS Color 4, section 12, does in
 * `srgb`, `srgb-linear` and `oklab`.
 */
export function colourAt(stops: readonly GradientStop[], space: Interpolation, pow: Kernels['raw']['pow']): (t: number) => Triple {
  const points = stops.map(([, hex]) => {
    const rgb = rgbOfHex(hex)
    if (space === 'srgb') return rgb
    const linear = rgb.map((v) => srgbToLinear(v, pow)) as Triple
    return space === 'linear' ? linear : oklabOfLinear(linear, pow)
  })
  return (t) => {
    let i = 0
    while (i < stops.length - 2 && t > stops[i + 1]![0]) i++
    const [from, to] = [stops[i]![0], stops[i + 1]![0]]
    const k = Math.min(1, Math.max(0, (t - from) / (to - from)))
    const mixed = points[i]!.map((v, c) => v + (points[i + 1]![c]! - v) * k) as Triple
    if (space === 'srgb') return mixed
    const linear = space === 'linear' ? mixed : linearOfOklab(mixed)
    return linear.map((v) => linearToSrgb(Math.max(0, v), pow)) as Triple
  }
}

/** Gradients that come with the program, dark to light: made for the festival's prints. */
export const gradientSets: readonly { id: string; title: string; stops: GradientStop[] }[] = [
  {
    id: 'marsh-dusk',
    title: 'Marsh dusk',
    stops: [
      [0, '#101a2b'],
      [0.38, '#3d4f6b'],
      [0.68, '#c98a6b'],
      [1, '#fbe6c4'],
    ],
  },
  {
    id: 'lantern',
    title: 'Lantern',
    stops: [
      [0, '#1c0f14'],
      [0.35, '#7a2b22'],
      [0.7, '#e59a3c'],
      [1, '#fff3cf'],
    ],
  },
  {
    id: 'salt-and-ink',
    title: 'Salt and ink',
    stops: [
      [0, '#0f1b22'],
      [0.5, '#6c8288'],
      [1, '#f6f4ee'],
    ],
  },
  {
    id: 'reed-green',
    title: 'Reed green',
    stops: [
      [0, '#16221c'],
      [0.45, '#4f6b45'],
      [0.8, '#c3c58a'],
      [1, '#faf6df'],
    ],
  },
  {
    id: 'tide-flat',
    title: 'Tide flat',
    stops: [
      [0, '#22303c'],
      [0.4, '#58808e'],
      [0.75, '#b9cfc9'],
      [1, '#fdf6ea'],
    ],
  },
  {
    id: 'pastel-quay',
    title: 'Pastel quay',
    stops: [
      [0, '#5a5676'],
      [0.35, '#a98fa8'],
      [0.65, '#e6b9ae'],
      [1, '#fff4e2'],
    ],
  },
  {
    id: 'iron-gall',
    title: 'Iron gall',
    stops: [
      [0, '#15110f'],
      [0.5, '#6b5646'],
      [1, '#f3e9d8'],
    ],
  },
  {
    id: 'kiln',
    title: 'Kiln',
    stops: [
      [0, '#25103a'],
      [0.4, '#a12a5e'],
      [0.72, '#f06c3a'],
      [1, '#ffe68a'],
    ],
  },
]

/** How sharply a gradient bends at its stops: the largest change of a channel's slope. */
function bendOf(stops: readonly GradientStop[]): number {
  let most = 0
  let before: number[] = [0, 0, 0]
  const colours = stops.map(([, hex]) => rgbOfHex(hex))
  for (let i = 0; i < stops.length; i++) {
    const run = i + 1 < stops.length ? stops[i + 1]![0] - stops[i]![0] : 0
    const slope = [0, 1, 2].map((c) => (run > 0 ? (colours[i + 1]![c]! - colours[i]![c]!) / run : 0))
    const inside = stops[i]![0] > 0 && stops[i]![0] < 1
    if (inside) for (let c = 0; c < 3; c++) most = Math.max(most, Math.abs(slope[c]! - before[c]!))
    before = slope
  }
  return most
}

export const gradientMap = defineStep({
  id: 'gradient-map',
  version: 1,
  title: 'Gradient map',
  group: 'colour',
  kind: 'point',
  help: 'Gives every tone a colour of its own, from dark to light along a gradient.',
  method: 'Colour by BT.709 luma; interpolation as in CSS Color 4, section 12',
  params: {
    stops: gradient({ title: 'Gradient', default: [...gradientSets[0]!.stops], help: 'From the colour of the darks, left, to that of the lights, right.' }),
    space: choice({
      title: 'Mixed in',
      default: 'oklab',
      options: [
        { value: 'oklab', title: 'Even to the eye' },
        { value: 'srgb', title: 'As screens do' },
        { value: 'linear', title: 'As light does' },
      ],
      help: 'How colours between two stops are found: in OKLab, in sRGB, or in linear light.',
    }),
  },
  fidelity: { half: 0.92, why: 'the colour of a mean tone is not the mean of colours' },
  coarsest: ({ stops }) => coarsestOfBend(bendOf(stops)),
  run: ({ input, output, kernels }, { stops, space }) => {
    const { w, h } = output.region
    const table = tableIn(kernels, `gradient ${space} ${JSON.stringify(stops)}`, () => {
      const at = colourAt(stops, space, kernels.raw.pow)
      const t = new Uint16Array(65536 * 4)
      for (let i = 0; i < 65536; i++) {
        const rgb = at(i / 65535)
        for (let c = 0; c < 3; c++) t[i * 4 + c] = Math.floor(Math.min(1, Math.max(0, rgb[c]!)) * 65535 + 0.5)
        t[i * 4 + 3] = 65535
      }
      return t
    })
    kernels.raw.lumaMap(input.ptr, input.stride, output.ptr, output.stride, w, h, table)
  },
})
