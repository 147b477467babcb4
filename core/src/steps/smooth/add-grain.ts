import { halvings } from '../../base/levels.ts'
import { defineStep } from '../contract.ts'
import { length, px, seed, share } from '../params/index.ts'
import { tableIn } from '../table-cache.ts'

/** How much grain a tone 0…1 shows, 1 at most: film has most in the midtones, hardly any in its whites. */
function grainAt(v: number, byTone: number, pow: (x: number, y: number) => number): number {
  return 1 - byTone + byTone * Math.min(1, pow(4 * v * (1 - v), 0.8) * (1.15 - 0.3 * v))
}

export const addGrain = defineStep({
  id: 'add-grain',
  version: 1,
  title: 'Add grain',
  group: 'smooth',
  kind: 'point',
  onPaper: true,
  help: 'Film grain: binds smooth areas together and hides banding.',
  method: 'Two octaves of seeded value noise, fixed to the sheet; more of it in the midtones, as film has (common practice)',
  params: {
    size: length({ title: 'Size', default: px(1.6), min: 0.6, max: 40, feel: 'log', help: 'How large a grain is.' }),
    amount: share({ title: 'Amount', default: 0.18, help: 'How far the tones are thrown up and down.' }),
    byTone: share({ title: 'Midtones first', default: 0.7, help: 'Everywhere alike, or mostly in the midtones.' }),
    colour: share({ title: 'Colour', default: 0, help: 'Grey grain, or grain of each colour by itself.' }),
    seed: seed({ default: 3, help: 'Another piece of film.' }),
  },
  sample: { size: px(2.5), amount: 0.4 },
  // grains smaller than a pixel would have to be averaged
  coarsest: ({ size }) => halvings(size / 2.4),
  fidelity: { half: 0.9, why: 'grain at a pixel is sampled in its middle, not averaged over it' },
  run: ({ input, output, kernels, level }, { size, amount, byTone, colour, seed: deal }) => {
    const { x, y, w, h } = output.region
    const scale = 2 ** level
    const table = tableIn(kernels, `grain ${amount} ${byTone}`, () =>
      Float32Array.from({ length: 4096 }, (_, i) => amount * grainAt((i + 0.5) / 4096, byTone, kernels.raw.pow)),
    )
    kernels.raw.grain(input.ptr, input.stride, output.ptr, output.stride, w, h, x, y, scale, 1 / (size * scale), table, colour, deal)
  },
})
