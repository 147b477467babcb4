import { defineStep } from '../contract.ts'
import { choice, length, mm, seed, share } from '../params/index.ts'
import { tableIn } from '../table-cache.ts'

/** The natural logarithm of 2. */
const LN2 = 0.6931471805599453

export const settling = defineStep({
  id: 'settling',
  version: 1,
  title: 'Settling',
  group: 'surface',
  kind: 'point',
  onPaper: true,
  stock: 'tooth',
  help: 'Lets the pigment settle: colour grows denser in the hollows of the surface and thinner on its hills.',
  method:
    'Density, the logarithm of what a colour sends back, more in the hollows and less on the hills by a share of itself that falls with it, its mean kept (Beer’s law: density goes by the amount of pigment)',
  params: {
    paper: choice({
      title: 'Surface',
      default: 'there',
      options: [
        { value: 'there', title: 'What lies there' },
        { value: 'own', title: 'Its own' },
      ],
      help: 'What lies there: the surface under the layer (papers, canvas, relief), or the paper laid over it; its own where all is flat.',
    }),
    amount: share({ title: 'Settled', default: 0.3, help: 'How much of the pigment has left the hills for the hollows.' }),
    pitch: length({
      title: 'Tooth',
      default: mm(0.5),
      min: 0.5,
      max: 200,
      feel: 'log',
      mark: true,
      help: 'How far apart the hills of its own paper stand: hot-pressed 0.2 mm, cold-pressed 0.6 mm, rough 1 mm.',
    }),
    seed: seed({ default: 7, help: 'Another sheet from the same block.' }),
  },
  sample: { paper: 'own', amount: 0.5 },
  catchesOn: ({ paper }) => paper === 'there',
  // hills are as small as a pixel or two of the full-size picture
  coarsest: () => 0,
  run: ({ input, output, kernels, level, others, quick }, { amount, pitch, seed: deal }) => {
    const { x, y, w, h } = output.region
    const scale = 2 ** level
    const there = others['there']
    const { log } = kernels.raw
    const logs = tableIn(kernels, 'settling logarithms', () => {
      const t = new Float32Array(65536)
      for (let i = 0; i < 65536; i++) t[i] = log(Math.max(i, 8) / 65535) / LN2
      // black has no less than black to give
      t[0] = -60
      return t
    })
    // hills smaller than the pixels of a small view that is wanted quickly come to their mean
    const held = quick && level > 0 ? Math.min(1, pitch / 3) : 1
    kernels.raw.settle(
      input.ptr,
      input.stride,
      output.ptr,
      output.stride,
      w,
      h,
      x,
      y,
      scale,
      1 / (pitch * scale),
      amount * held,
      deal,
      logs,
      there?.ptr ?? 0,
      there?.stride ?? 0,
    )
  },
})
