import { halvings } from '../../base/levels.ts'
import { grow } from '../../base/region.ts'
import { defineStep } from '../contract.ts'
import { length, percent } from '../params/index.ts'
import { byRows, rowsOfCall } from '../picture.ts'

/** The kernel of windows wider than five pixels, and the method it is of. */
export interface WideMedian {
  kernel: 'medianWide' | 'medianExact'
  method: string
}
export const in256Tones: WideMedian = { kernel: 'medianWide', method: 'in constant time in 256 tones (Perreault and Hébert 2007)' }
export const onAllBits: WideMedian = { kernel: 'medianExact', method: 'in constant time by two bytes in turn (after Perreault and Hébert 2007)' }

const radiusOf = (radius: number) => Math.max(0, Math.min(90, Math.round(radius)))

const medianBy = (version: number, wide: WideMedian) =>
  defineStep({
    id: 'median',
    version,
    title: 'Median',
    group: 'smooth',
    kind: 'neighbourhood',
    help: 'The middle tone of what lies around: specks and thin lines go, edges stay, forms become flat.',
    method: `Median of a square window: sorting networks up to radius 2, beyond that ${wide.method}`,
    params: {
      radius: length({ title: 'Radius', default: percent(0.15), min: 0.5, max: 90, feel: 'log', help: 'Specks smaller than this vanish.' }),
    },
    sample: { radius: percent(0.4) },
    coarsest: ({ radius }) => Math.min(1, halvings(radius / 8)),
    fidelity: { half: 0.92, why: 'the median of means of four pixels is not the mean of four medians' },
    needs: (region, { radius }) => grow(region, radiusOf(radius)),
    run: async ({ input, output, kernels, pause }, { radius }) => {
      const r = radiusOf(radius)
      const { w, h } = output.region
      const { raw } = kernels
      if (r === 0) {
        raw.copyRect(input.ptr, input.stride, output.ptr, output.stride, w * 8, h)
        return
      }
      const kernel = r <= 2 ? raw.medianSmall : raw[wide.kernel]
      // the wide one fills its columns anew for every band
      await byRows(output.region, r <= 2 ? h : Math.max(4 * r, rowsOfCall(w, 160)), pause, (y, rows) =>
        kernel(input.ptr + y * input.stride, input.stride, output.ptr + y * output.stride, output.stride, w, rows, r),
      )
    },
  })

/** In 256 tones beyond radius 2. */
export const median1 = medianBy(1, in256Tones)
export const median = medianBy(2, onAllBits)
