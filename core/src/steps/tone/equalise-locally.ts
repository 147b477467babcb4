import { defineStep } from '../contract.ts'
import { number } from '../params/index.ts'
import { tableIn } from '../table-cache.ts'
import { histogramOf } from './histogram.ts'

// taken once: loops over planes look nothing up
const { floor, max, min, round } = Math

interface Curves {
  nx: number
  ny: number
  /** nx · ny curves of 257 codes. */
  codes: number[]
}

/**
 * The equalising curve of a histogram whose counts are cut at `limit` times their mean; what is cut off fills up the bins below the limit, all by
 * as much, so that nowhere is the curve steeper than the limit: at 1 it is straight. 257 codes (the last twice, so that one may look a bin ahead).
 * Zuiderveld, "Contrast limited adaptive histogram equalization", Graphics Gems IV (1994).
 */
export function limitedCurve(counts: readonly number[], limit: number): number[] {
  const total = counts.reduce((a, b) => a + b, 0)
  if (total === 0) return Array.from({ length: 257 }, (_, i) => min(65535, i * 257))
  const most = (max(1, limit) * total) / counts.length
  // what each bin is given so that all are held again: the sum grows with it
  let [low, high] = [0, most]
  for (let i = 0; i < 48; i++) {
    const each = (low + high) / 2
    if (counts.reduce((sum, n) => sum + min(most, n + each), 0) < total) low = each
    else high = each
  }
  let sum = 0
  const curve = counts.map((n) => {
    sum += min(most, n + high)
    return min(65535, floor((sum / total) * 65535 + 0.5))
  })
  return [...curve, curve.at(-1)!]
}

export const equaliseLocally = defineStep({
  id: 'equalise-locally',
  version: 1,
  title: 'Equalise locally',
  group: 'tone',
  kind: 'point',
  help: 'Brings out the modelling in every part of the picture, in shadows as in lights.',
  method:
    'Contrast-limited adaptive histogram equalization (Zuiderveld 1994) of the lightness, colours kept; measured once on a small picture, so that preview and render agree',
  params: {
    tiles: number({
      title: 'Parts across',
      default: 8,
      min: 2,
      max: 24,
      step: 1,
      help: 'Into how many parts the long side is divided; each gets a curve of its own, and they melt into each other.',
    }),
    limit: number({
      title: 'Contrast limit',
      default: 2,
      min: 1,
      max: 10,
      step: 0.1,
      feel: 'log',
      help: 'How much steeper than the picture’s own a curve may become: 1 changes nothing, low keeps noise down.',
    }),
  },
  sample: { limit: 2.5 },
  coarsest: ({ limit }) => (limit > 2.5 ? 0 : limit > 1.5 ? 1 : 2),
  analysedBy: ['tiles', 'limit'],
  analyse: (work, { tiles, limit }): Curves => {
    const { w, h } = work.input.region
    const n = round(tiles)
    const size = max(w, h) / n
    const [nx, ny] = [max(1, round(w / size)), max(1, round(h / size))]
    const codes: number[] = []
    for (let j = 0; j < ny; j++) {
      for (let i = 0; i < nx; i++) {
        const [x, y] = [floor((i * w) / nx), floor((j * h) / ny)]
        const part = { x, y, w: max(1, floor(((i + 1) * w) / nx) - x), h: max(1, floor(((j + 1) * h) / ny) - y) }
        codes.push(...limitedCurve(histogramOf(work, part).luma, limit))
      }
    }
    return { nx, ny, codes }
  },
  run: ({ input, output, kernels, level, facts, extent }, { tiles, limit }) => {
    const { x, y, w, h } = output.region
    const { nx, ny, codes } = facts
    const scale = 2 ** level
    const table = tableIn(kernels, `curves ${tiles} ${limit} ${codes.length} ${codes.reduce((a, b, i) => (a * 31 + b + i) % 1e9, 7)}`, () =>
      Uint16Array.from(codes),
    )
    const [ox, oy] = [x - floor(extent.x / scale), y - floor(extent.y / scale)]
    kernels.raw.tileCurves(input.ptr, input.stride, output.ptr, output.stride, w, h, table, nx, ny, ox, oy, extent.w / nx / scale, extent.h / ny / scale)
  },
})
