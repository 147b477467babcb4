import { grow } from '../../base/region.ts'
import { defineStep } from '../contract.ts'
import { length, number, percent, share } from '../params/index.ts'
import { in256Tones, onAllBits, type WideMedian } from '../smooth/median.ts'
import { addressOf, byRows, rowsOfCall } from '../picture.ts'
import { about, gridNeeds, gridOf, onGrid } from '../smooth/reduced.ts'

/** From this radius on daubs are laid on a reduced picture. */
const GRID = 15
const radiusOf = (reach: number) => Math.max(1, Math.min(60, Math.round(reach)))
/** How far joints between daubs are rounded. */
const roundOf = (reach: number, evenness: number) => Math.min(30, Math.round(reach * 0.7 * evenness))

/** @param cellOf pixels a cell of the picture that daubs are laid on */
const oilDaubBy = (version: number, wide: WideMedian, cellOf: (reach: number) => number, longest: number) =>
  defineStep({
    id: 'oil-daub',
    version,
    title: 'Oil daubs',
    group: 'paint',
    kind: 'neighbourhood',
    help: 'Clean patches of paint: within the brush’s reach the commonest tone wins.',
    method: `Mode filter over bands of tone, the mean colour of the commonest band; joints rounded by a median ${wide.method}${version > 2 ? '; beyond 15 pixels of reach on a reduced picture, enlarged by joint bilateral upsampling (Kopf et al. 2007)' : ''}`,
    params: {
      reach: length({ title: 'Brush', default: percent(0.36), min: 1, max: longest, feel: 'log', help: 'How far the brush reaches: the size of the daubs.' }),
      tones: number({
        title: 'Tones mixed',
        default: 20,
        min: 3,
        max: 60,
        step: 1,
        help: 'How many tones the painter mixes: few make flat planes, many keep modelling.',
      }),
      evenness: share({ title: 'Evenness', default: 0.45, help: 'Daubs with ragged joints, or smoothed into each other.' }),
    },
    sample: { reach: percent(0.6) },
    // which tone is commonest is decided pixel by pixel
    coarsest: () => 0,
    needs: (region, { reach, evenness }) => {
      const f = cellOf(reach)
      return gridNeeds(region, f, about(radiusOf(reach / f) + roundOf(reach / f, evenness)))
    },
    run: async ({ input, output, kernels, pause }, { reach, tones, evenness }) => {
      const { raw, allocator } = kernels
      const f = cellOf(reach)
      const r = radiusOf(reach / f)
      const m = roundOf(reach / f, evenness)
      const bins = Math.round(tones)
      await onGrid(kernels, { input, output }, f, about(r + m), async (given, out) => {
        const area = grow(out.region, m)
        const daubs = m > 0 ? allocator.alloc(area.w * area.h * 8) : out.ptr
        const stride = m > 0 ? area.w * 8 : out.stride
        try {
          const from = addressOf(given, grow(area, r))
          await byRows(area, Math.max(3 * r, rowsOfCall(area.w, 6 * bins + 20)), pause, (y, rows) =>
            raw.toneMode(from + y * given.stride, given.stride, daubs + y * stride, stride, area.w, rows, r, bins),
          )
          if (m === 0) return
          const { w } = out.region
          await byRows(out.region, Math.max(4 * m, rowsOfCall(w, 160)), pause, (y, rows) => {
            const kernel = m <= 2 ? raw.medianSmall : raw[wide.kernel]
            kernel(daubs + y * stride, stride, out.ptr + y * out.stride, out.stride, w, rows, m)
          })
        } finally {
          if (m > 0) allocator.free(daubs)
        }
      })
    },
  })

/** Joints rounded in 256 tones. */
export const oilDaub1 = oilDaubBy(1, in256Tones, () => 1, 60)
/** Reaches 60 pixels at most. */
export const oilDaub2 = oilDaubBy(2, onAllBits, () => 1, 60)
export const oilDaub = oilDaubBy(3, onAllBits, (reach) => gridOf(reach, GRID), 600)
