import { hexOfRgb, oklabOfLinear, rgbOfOklab, type Triple } from '../../colour/oklab.ts'
import { kMeans, medianCut } from '../../colour/quantise.ts'
import { srgbToLinear } from '../../colour/srgb.ts'
import type { Analysis } from '../contract.ts'

/** Points that a palette is found from. */
const POINTS = 12000

/** How much a difference of lightness counts against one of hue and chroma. */
const LIGHTNESS = 0.45

/** Colours of a picture, every so many pixels in each direction, in OKLab; clear pixels are left out. */
export function sampleOklab({ input, kernels }: Pick<Analysis, 'input' | 'kernels'>): Triple[] {
  const { w, h } = input.region
  const every = Math.max(1, Math.ceil(Math.sqrt((w * h) / POINTS)))
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
  const near = points.map(([l, a, b]): Triple => [l * LIGHTNESS, a, b])
  const found = (by === 'k-means' ? kMeans(near, n) : medianCut(near, n)).map(([l, a, b]): Triple => [l / LIGHTNESS, a, b])
  return [...new Set(found.sort((a, b) => a[0] - b[0]).map((lab) => hexOfRgb(rgbOfOklab(lab, work.kernels.raw.pow))))]
}
