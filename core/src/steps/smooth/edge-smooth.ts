import { halvings } from '../../base/levels.ts'
import { defineStep } from '../contract.ts'
import { choice, length, percent, tone } from '../params/index.ts'
import { byRows, rowsOfCall } from '../picture.ts'
import { guidedInto, guidedNeeds } from './guided.ts'
import { about, gridNeeds, gridOf, onGrid } from './reduced.ts'

/** Beyond this radius a true bilateral filter takes too long for a hand to wait for. */
const FAR = 12
/** From this one it runs on a reduced picture. */
const GRID = 7

/** How many pixels a cell, and how many cells the filter reaches. */
interface Reach {
  f: number
  r: number
}
/** Not beyond 12 pixels, as version 1 has it. */
const held = (reach: number): Reach => ({ f: 1, r: Math.max(1, Math.min(FAR, Math.round(reach))) })
/** As far as is asked for. */
const onCells = (reach: number): Reach => {
  const f = gridOf(reach, GRID)
  return { f, r: Math.max(1, Math.round(reach / f)) }
}

/** From this radius on every second pixel of the disc, as on a chessboard, stands for its neighbours. */
const SPARSE = 8
/** From this one on every third, on a lattice of slanting rows. */
const SPARSER = 11

/** Weights by nearness of a disc of radius r: a Gaussian whose deviation is half the radius. */
export function nearness(r: number, exp: (x: number) => number): Float32Array {
  const n = 2 * r + 1
  return Float32Array.from({ length: n * n }, (_, i) => {
    const [x, y] = [(i % n) - r, Math.floor(i / n) - r]
    const d = x * x + y * y
    if (r >= SPARSER ? (x + 2 * y) % 3 !== 0 : r >= SPARSE && (x + y) % 2 !== 0) return 0
    return d <= r * r + r ? exp((-2 * d) / (r * r)) : 0
  })
}

const edgeSmoothBy = (version: number, reachOf: (reach: number) => Reach, method: string, crisp: string) =>
  defineStep({
    id: 'edge-smooth',
    version,
    title: 'Edge-keeping smooth',
    group: 'smooth',
    kind: 'neighbourhood',
    help: 'Melts skin, noise and small texture and keeps the edges of forms.',
    method: `Bilateral filter, true (Tomasi and Manduchi 1998), ${method}; or guided filter (He, Sun and Tang 2013), of any reach, softer where many edges meet`,
    params: {
      way: choice({
        title: 'Way',
        default: 'bilateral',
        options: [
          { value: 'bilateral', title: 'Crisp (bilateral)' },
          { value: 'guided', title: 'Soft and wide (guided)' },
        ],
        help: crisp,
      }),
      reach: length({ title: 'Reach', default: percent(0.25), min: 1, max: 300, feel: 'log', help: 'How far around it looks for tones of its kind.' }),
      tolerance: tone({
        title: 'Tolerance',
        default: 24,
        min: 1,
        max: 120,
        help: 'Tones that differ less than this melt together; a few times the photo’s noise.',
      }),
    },
    sample: { reach: percent(0.4), tolerance: 36 },
    coarsest: ({ way, reach }) => (way === 'bilateral' ? halvings(Math.min(reach, reachOf(reach).f === 1 ? FAR : reach) / 4) : 3),
    fidelity: { half: 0.93, why: 'the noise that a mean of four pixels has lost already lets tones melt that at full size keep apart' },
    needs: (region, { way, reach }) => (way === 'bilateral' ? gridNeeds(region, reachOf(reach).f, about(reachOf(reach).r)) : guidedNeeds(region, reach)),
    run: async ({ input, output, kernels, pause }, { way, reach, tolerance }) => {
      const sigma = tolerance / 255
      if (way === 'guided') {
        guidedInto(kernels, input, output, reach, sigma * sigma)
        return
      }
      const { f, r } = reachOf(reach)
      const weights = nearness(r, kernels.raw.exp)
      const near = kernels.allocator.alloc(weights.byteLength)
      try {
        kernels.f32(near, weights.length).set(weights)
        await onGrid(kernels, { input, output }, f, about(r), (from, to) => {
          const { w } = to.region
          return byRows(to.region, rowsOfCall(w, (r >= SPARSER ? 1.7 : r >= SPARSE ? 2.4 : 4.5) * r * r), pause, (y, rows) =>
            kernels.raw.bilateral(from.ptr + y * from.stride, from.stride, to.ptr + y * to.stride, to.stride, w, rows, r, near, 1 / (2 * sigma * sigma)),
          )
        })
      } finally {
        kernels.allocator.free(near)
      }
    },
  })

/** Reaches 12 pixels at most. */
export const edgeSmooth1 = edgeSmoothBy(
  1,
  held,
  'up to 12 pixels of reach, over every second pixel from 8 on and every third from 11',
  'Crisp keeps edges sharpest and reaches 12 pixels; soft and wide reaches as far as wanted.',
)
export const edgeSmooth = edgeSmoothBy(
  2,
  onCells,
  'beyond 7 pixels of reach on a reduced picture, enlarged by joint bilateral upsampling (Kopf et al. 2007)',
  'Crisp keeps edges sharpest; soft and wide melts more where many edges meet.',
)
