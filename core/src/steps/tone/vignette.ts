import { rgbOfHex } from '../../colour/oklab.ts'
import { srgbToLinear, transferTables } from '../../colour/srgb.ts'
import { defineStep } from '../contract.ts'
import { colour, ellipse, number } from '../params/index.ts'
import { tableIn } from '../table-cache.ts'

/** Steps of the table from the ellipse to the farthest corner. */
const STEPS = 1024

export const vignette = defineStep({
  id: 'vignette',
  version: 2,
  title: 'Vignette',
  group: 'tone',
  kind: 'point',
  onPaper: true,
  help: 'Takes light away outside of an ellipse, as lenses and old prints do, so that the eye stays on the subject.',
  method: 'Linear light times 2 to the power of − stops · uᶠ, u going from 0 at the ellipse to 1 at the corner farthest from it, measured in its half axes',
  params: {
    clear: ellipse({
      title: 'Clear part',
      default: { x: 0.5, y: 0.5, rx: 0.35, ry: 0.35 },
      help: 'What lies inside stays as it is. Drag its middle onto the subject, and its rim.',
    }),
    stops: number({
      title: 'Stops lost at the corner',
      default: 1.2,
      min: -3,
      max: 6,
      step: 0.1,
      help: 'How much light the farthest corner loses: one stop is half of it. Below 0 it gains light.',
    }),
    fall: number({
      title: 'Fall-off',
      default: 1.6,
      min: 0.5,
      max: 6,
      step: 0.1,
      feel: 'log',
      help: 'How it gets there: at 1 evenly, above it late and then steeply, below it at once.',
    }),
    tint: colour({ title: 'Fades into', default: '#000000', help: 'Black, as in a lens; white or the tone of the paper, as old prints fade.' }),
  },
  sample: { stops: 2.5 },
  run: ({ input, output, kernels, level, extent }, { clear, stops, fall, tint }) => {
    const { pow } = kernels.raw
    const { x, y, w, h } = output.region
    const table = tableIn(kernels, `fall ${stops} ${fall}`, () =>
      // one more, which is never reached beyond
      Float32Array.from({ length: STEPS + 2 }, (_, i) => pow(2, -stops * (i === 0 ? 0 : pow(Math.min(1, i / STEPS), fall)))),
    )
    const scale = 2 ** level
    const far = [extent.x, extent.x + extent.w].flatMap((ex) =>
      [extent.y, extent.y + extent.h].map((ey) => {
        const [across, down] = [(ex / scale - clear.x) / clear.rx, (ey / scale - clear.y) / clear.ry]
        return Math.sqrt(across * across + down * down)
      }),
    )
    // an ellipse round the whole sheet leaves nothing outside
    const per = 1 / Math.max(1e-6, Math.max(...far) - 1)
    const { decode, encode } = transferTables(kernels)
    kernels.scratch(16, (rgb) => {
      kernels.f32(rgb, 3).set(rgbOfHex(tint).map((v) => srgbToLinear(v, pow)))
      const { raw } = kernels
      raw.lightFall(input.ptr, input.stride, output.ptr, output.stride, w, h, x, y, clear.x, clear.y, clear.rx, clear.ry, per, table, rgb, decode, encode)
    })
  },
})
