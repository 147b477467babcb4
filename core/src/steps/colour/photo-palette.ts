import { hexOfRgb, oklabOfLinear, rgbOfOklab, type Triple } from '../../colour/oklab.ts'
import { kMeans, medianCut } from '../../colour/quantise.ts'
import { srgbToLinear } from '../../colour/srgb.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import type { Analysis } from '../contract.ts'

// taken once: loops over planes look nothing up
const { ceil, floor, max, round, sqrt } = Math

/** Points that a palette is found from. */
const POINTS = 12000

/** How much a difference of lightness counts against one of hue and chroma. */
const LIGHTNESS = 0.4

/** Sides of the cells in which many alike count for less, OKLab. */
const ALIKE = 0.025
/** So many alike count as many to this power. */
const CROWD = 0.25

/** Of points that lie close together some are left out, so that a small accent is heard beside a large ground. */
export function thinned(points: readonly Triple[], pow: Kernels['raw']['pow']): Triple[] {
  const cells = new Map<string, Triple[]>()
  for (const p of points) {
    const name = p.map((v) => floor(v / ALIKE)).join()
    const cell = cells.get(name)
    if (cell) cell.push(p)
    else cells.set(name, [p])
  }
  return [...cells.values()].flatMap((cell) => {
    const kept = max(1, round(pow(cell.length, CROWD)))
    return Array.from({ length: kept }, (_, i) => cell[floor(((i + 0.5) * cell.length) / kept)]!)
  })
}

/** Colours of a picture, every so many pixels in each direction, in OKLab; clear pixels are left out. */
export function sampleOklab({ input, kernels }: Pick<Analysis, 'input' | 'kernels'>): Triple[] {
  const { w, h } = input.region
  const every = max(1, ceil(sqrt((w * h) / POINTS)))
  const { pow } = kernels.raw
  const points: Triple[] = []
  for (let y = every >> 1; y < h; y += every) {
    const row = kernels.u16(input.ptr + y * input.stride, w * 4)
    for (let x = every >> 1; x < w; x += every) {
      if (row[x * 4 + 3]! < 32768) continue
      points.push(oklabOfLinear([0, 1, 2].map((c) => srgbToLinear(row[x * 4 + c]! / 65535, pow)) as Triple, pow))
    }
  }
  return points
}

/** A palette out of a picture, dark to light, as #rrggbb. */
export function paletteOf(work: Pick<Analysis, 'input' | 'kernels'>, n: number, by: 'k-means' | 'median-cut'): string[] {
  const points = sampleOklab(work)
  if (points.length === 0) return ['#000000']
  // lightness counts for less: a painter would rather lack a grey than the one red
  const near = thinned(points, work.kernels.raw.pow).map(([l, a, b]): Triple => [l * LIGHTNESS, a, b])
  const found = (by === 'k-means' ? kMeans(near, n) : medianCut(near, n)).map(([l, a, b]): Triple => [l / LIGHTNESS, a, b])
  return [...new Set(found.sort((a, b) => a[0] - b[0]).map((lab) => hexOfRgb(rgbOfOklab(lab, work.kernels.raw.pow))))]
}
