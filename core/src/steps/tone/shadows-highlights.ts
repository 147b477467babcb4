import { defineStep } from '../contract.ts'
import { length, percent, share } from '../params/index.ts'
import { guidedInto, guidedNeeds } from '../smooth/guided.ts'
import { tableIn } from '../table-cache.ts'

/** How much a part that is as light as v (0…1) on the whole is multiplied by. */
export function liftOf(v: number, shadows: number, highlights: number): number {
  const smooth = (t: number) => t * t * (3 - 2 * t)
  const dark = 1 - smooth(Math.min(1, v / 0.65))
  const light = smooth(Math.min(1, Math.max(0, (v - 0.35) / 0.65)))
  const lifted = v + dark * shadows * 1.6 * v * (1 - v)
  const lowered = lifted - light * highlights * 0.34 * (v - 0.35)
  // near black the gain tends to its limit
  return v < 1e-4 ? 1 + 1.6 * shadows : lowered / v
}

export const shadowsHighlights = defineStep({
  id: 'shadows-highlights',
  version: 1,
  title: 'Shadows and highlights',
  group: 'tone',
  kind: 'neighbourhood',
  help: 'Opens dark parts and calms light ones, and leaves the detail in them as it is.',
  method:
    'Base and detail: the base is the guided filter of the picture (He, Sun and Tang 2013), which keeps edges, so that no halo appears; its tones are changed and the detail follows in proportion',
  params: {
    shadows: share({ title: 'Open shadows', default: 0.4, help: 'How much dark parts are lightened.' }),
    highlights: share({ title: 'Calm highlights', default: 0.2, help: 'How much light parts are darkened.' }),
    reach: length({
      title: 'Reach',
      default: percent(1.5),
      min: 1,
      max: 400,
      feel: 'log',
      help: 'How large a part is that counts as one shadow or one light.',
    }),
  },
  sample: { shadows: 0.7, highlights: 0.5 },
  coarsest: ({ shadows, highlights }) => (shadows + highlights > 0.7 ? 2 : 8),
  needs: (region, { reach }) => guidedNeeds(region, Math.max(1, reach)),
  run: ({ input, output, kernels }, { shadows, highlights, reach }) => {
    const { w, h } = output.region
    kernels.scratch(w * h * 8, (base) => {
      guidedInto(kernels, input, { ptr: base, stride: w * 8, region: output.region }, Math.max(1, reach), 0.012)
      const table = tableIn(kernels, `lift ${shadows} ${highlights}`, () =>
        Float32Array.from({ length: 4096 }, (_, i) => liftOf((i + 0.5) / 4096, shadows, highlights)),
      )
      const at = input.ptr + (output.region.y - input.region.y) * input.stride + (output.region.x - input.region.x) * 8
      kernels.raw.lumaGain(at, input.stride, base, w * 8, output.ptr, output.stride, w, h, table)
    })
  },
})
