import { grow } from '../../base/region.ts'
import { defineStep } from '../contract.ts'
import { length, number, percent, share } from '../params/index.ts'
import { in256Tones, onAllBits, type WideMedian } from '../smooth/median.ts'
import { addressOf, byRows, rowsOfCall } from '../picture.ts'

const radiusOf = (reach: number) => Math.max(1, Math.min(60, Math.round(reach)))
/** How far joints between daubs are rounded. */
const roundOf = (reach: number, evenness: number) => Math.min(30, Math.round(reach * 0.7 * evenness))

const oilDaubBy = (version: number, wide: WideMedian) =>
  defineStep({
    id: 'oil-daub',
    version,
    title: 'Oil daubs',
    group: 'paint',
    kind: 'neighbourhood',
    help: 'Clean patches of paint: within the brush’s reach the commonest tone wins.',
    method: `Mode filter over bands of tone, the mean colour of the commonest band; joints rounded by a median ${wide.method}`,
    params: {
      reach: length({ title: 'Brush', default: percent(0.36), min: 1, max: 60, feel: 'log', help: 'How far the brush reaches: the size of the daubs.' }),
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
    needs: (region, { reach, evenness }) => grow(region, radiusOf(reach) + roundOf(reach, evenness)),
    run: async ({ input, output, kernels, pause }, { reach, tones, evenness }) => {
      const { raw, allocator } = kernels
      const r = radiusOf(reach)
      const m = roundOf(reach, evenness)
      const area = grow(output.region, m)
      const bins = Math.round(tones)
      const daubs = m > 0 ? allocator.alloc(area.w * area.h * 8) : output.ptr
      const stride = m > 0 ? area.w * 8 : output.stride
      try {
        const from = addressOf(input, grow(area, r))
        await byRows(area, Math.max(3 * r, rowsOfCall(area.w, 6 * bins + 20)), pause, (y, rows) =>
          raw.toneMode(from + y * input.stride, input.stride, daubs + y * stride, stride, area.w, rows, r, bins),
        )
        if (m === 0) return
        const { w } = output.region
        await byRows(output.region, Math.max(4 * m, rowsOfCall(w, 160)), pause, (y, rows) => {
          const kernel = m <= 2 ? raw.medianSmall : raw[wide.kernel]
          kernel(daubs + y * stride, stride, output.ptr + y * output.stride, output.stride, w, rows, m)
        })
      } finally {
        if (m > 0) allocator.free(daubs)
      }
    },
  })

/** Joints rounded in 256 tones. */
export const oilDaub1 = oilDaubBy(1, in256Tones)
export const oilDaub = oilDaubBy(2, onAllBits)
