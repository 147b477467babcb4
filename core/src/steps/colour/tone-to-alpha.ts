import { rgbOfHex } from '../../colour/oklab.ts'
import { defineStep, tableOf } from '../contract.ts'
import { choice, colour, flag, number, tone } from '../params/index.ts'
import { tableIn } from '../table-cache.ts'

export const toneToAlpha = defineStep({
  id: 'tone-to-alpha',
  version: 1,
  title: 'Tone to transparency',
  group: 'colour',
  kind: 'point',
  help: 'Darks stay as ink, lights become clear, and the paper below shows.',
  method: 'Alpha from the tone; own colours are solved so that the picture on white paper looks as before: c′ = (c − (1 − α))/α',
  params: {
    by: choice({
      title: 'Ink from',
      default: 'lightness',
      options: [
        { value: 'lightness', title: 'Darkness' },
        { value: 'black', title: 'Black component' },
        { value: 'pigment', title: 'All pigment' },
      ],
      help: 'Darkness as the eye sees it; only what is dark in every colour, as a printer’s black plate; or everything that is not white.',
    }),
    full: tone({ title: 'Full ink at', default: 0, max: 254, help: 'Tones at or below this are solid ink.' }),
    clear: tone({ title: 'Clear from', default: 255, min: 1, help: 'Tones at or above this are clear.' }),
    midtone: number({ title: 'Midtone', default: 1, min: 0.2, max: 5, step: 0.01, feel: 'log', help: 'Below 1 more ink between, above 1 less.' }),
    own: flag({ title: 'Own colours', default: false, help: 'Ink in the picture’s colours instead of one.' }),
    ink: colour({ title: 'Ink', default: '#141210', when: { param: 'own', is: ['false'] }, help: 'The colour of the ink.' }),
  },
  coarsest: ({ full, clear, midtone }) => (clear - full < 160 || midtone > 1.5 || midtone < 0.67 ? 0 : 2),
  fidelity: { half: 0.93, why: 'a cut tone of a mean is not the mean of cut tones' },
  run: ({ input, output, kernels }, { by, full, clear, midtone, own, ink }) => {
    const { w, h } = output.region
    const table = tableIn(kernels, `ink ${full} ${clear} ${midtone}`, () =>
      tableOf((v) => {
        const t = Math.min(1, Math.max(0, (v * 255 - full) / Math.max(1, clear - full)))
        const cover = 1 - t
        return midtone === 1 ? cover : kernels.raw.pow(cover, midtone)
      }),
    )
    const which = by === 'lightness' ? 0 : by === 'black' ? 1 : 2
    const [r, g, b] = rgbOfHex(ink).map((v) => Math.round(v * 65535))
    kernels.raw.toneAlpha(input.ptr, input.stride, output.ptr, output.stride, w, h, table, which, own ? 1 : 0, r!, g!, b!)
  },
})
