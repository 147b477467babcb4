import { alignOut, grow, type Region } from '../../base/region.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { defineStep } from '../contract.ts'
import { choice, length, percent, px } from '../params/index.ts'

/** Deviations up to this are blurred directly; wider ones on a grid reduced 2, 4, 8 … times. */
const DIRECT = 4.5
/** Where the kernel is cut: the tails beyond hold 0.05 % of it. */
const REACH = 3.5

/**
 * How a blur of a deviation (pixels of the level) is computed: reduction factor, deviation left to do on the reduced
 * grid, and its kernel radius there. The linear B-spline that reduces and the quadratic one that enlarges each widen by a
 * known variance, (2f² + 1)/12 and f²/4, which is taken off.
 */
export function gaussianPlan(sigma: number): { f: number; sigma: number; radius: number } {
  let f = 1
  while (sigma / f > DIRECT) f *= 2
  const rest = f === 1 ? sigma : Math.sqrt(sigma * sigma - (2 * f * f + 1) / 12 - (f * f) / 4) / f
  return { f, sigma: rest, radius: Math.max(1, Math.ceil(rest * REACH)) }
}

/** The input region a blur of this deviation must see: whole cells where it is computed on a reduced grid. */
export function gaussianNeeds(region: Region, sigma: number): Region {
  const { f, radius } = gaussianPlan(sigma)
  return f === 1 ? grow(region, radius) : grow(alignOut(region, f), (radius + 1) * f)
}

/**
 * Half a Gaussian kernel, centre first, that sums to 1 both sides counted.
 * @param level of a reduced view, whose pixels are means already: below a deviation of 0.8, what the full-size kernel carries
 *   over a pixel's border, where samples of the Gaussian would hold far too little
 */
export function gaussianWeights(sigma: number, radius: number, exp: (x: number) => number, level = 0): Float32Array {
  const w = new Float64Array(radius + 1)
  if (level > 0 && sigma < 0.8) {
    const full = sigma * 2 ** level
    const fine = gaussianWeights(full, Math.max(1, Math.ceil(full * REACH)), exp)
    // a pixel of an even row gives its neighbours what lies within their reach, by distance
    const over = fine.reduce((sum, v, k) => sum + k * v, 0) / 2 ** level
    w[0] = 1 - 2 * over
    w[1] = over
    return Float32Array.from(w)
  }
  let sum = 0
  for (let k = 0; k <= radius; k++) {
    w[k] = exp(-(k * k) / (2 * sigma * sigma))
    sum += k === 0 ? w[k]! : 2 * w[k]!
  }
  return Float32Array.from(w, (v) => v / sum)
}

interface Picture {
  ptr: number
  stride: number
  region: Region
}

/**
 * Blurs `input` (of the region gaussianNeeds tells; cells of it where gaussianPlan says f > 1, their region counted in cells) into
 * `output`. sigma in pixels of the level.
 */
export function gaussianInto(kernels: Kernels, input: Picture, output: Picture, sigma: number, level = 0): void {
  const { f, sigma: rest, radius } = gaussianPlan(sigma)
  const { w, h } = output.region
  const weights = gaussianWeights(rest, radius, kernels.raw.exp, level)
  kernels.scratch(weights.byteLength + 16, (kernel) => {
    kernels.f32(kernel, weights.length).set(weights)
    if (f === 1) {
      kernels.raw.gaussianDirect(input.ptr, input.stride, output.ptr, output.stride, w, h, radius, kernel)
      return
    }
    // r cells are left on each side for the kernel, one for the enlargement
    const [bw, bh] = [input.region.w - 2 * radius, input.region.h - 2 * radius]
    kernels.scratch(bw * bh * 16, (blurred) => {
      kernels.raw.blurCells(input.ptr, input.stride, blurred, bw * 16, bw, bh, radius, kernel)
      const x = output.region.x - (input.region.x + radius) * f
      const y = output.region.y - (input.region.y + radius) * f
      kernels.raw.enlargeCells(blurred, bw * 16, bw, f, output.ptr, output.stride, w, h, x, y)
    })
  })
}

export const gaussianBlur = defineStep({
  id: 'gaussian-blur',
  version: 1,
  title: 'Gaussian blur',
  group: 'smooth',
  kind: 'neighbourhood',
  help: 'Softens evenly; the wider, the larger the forms that melt.',
  method:
    'Separable convolution with a sampled Gaussian cut at 3.5 deviations; wide ones on a reduced grid (linear B-spline down, quadratic B-spline up; Unser 1999) with the variances of both taken off',
  params: {
    sigma: length({
      title: 'Sigma',
      default: px(3),
      min: 0.2,
      max: 400,
      feel: 'log',
      help: 'The standard deviation of the blur: about half the width of the softest edge it leaves.',
    }),
    border: choice({
      title: 'Border',
      default: 'held',
      options: [
        { value: 'held', title: 'Held' },
        { value: 'spreads', title: 'Spreads' },
      ],
      help: 'Held, the layer ends where it ended; spreading, it melts out beyond its border, as a glow or a shadow does.',
    }),
  },
  grows: ({ sigma, border }) => (border === 'spreads' ? sigma * REACH : 0),
  sample: { sigma: percent(0.8) },
  finest: ({ sigma }) => sigma,
  // below a tenth of a pixel of the level nothing is to be seen
  needs: (region, { sigma }) => (sigma < 0.1 ? region : gaussianNeeds(region, sigma)),
  cells: ({ sigma }) => (sigma < 0.1 ? 1 : gaussianPlan(sigma).f),
  run: ({ input, output, kernels, level }, { sigma }) => {
    if (sigma < 0.1) kernels.raw.copyRect(input.ptr, input.stride, output.ptr, output.stride, output.region.w * 8, output.region.h)
    else gaussianInto(kernels, input, output, sigma, level)
  },
})
