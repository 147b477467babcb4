import type { Kernels } from './kernels.ts'

/** For each output column (or row): the first input column, and the weights of it and those after it, which sum to 1. */
export interface Taps {
  /** Weights a column. */
  n: number
  first: Int32Array
  weights: Float32Array
}

/** How a picture is resampled: area for reductions, cubic or linear for enlargements. */
export type Resampling = 'area' | 'linear' | 'cubic'

/** Half the width of the weighting function in input pixels, at no reduction. */
const reach: Record<Resampling, number> = { area: 0.5, linear: 1, cubic: 2 }

/** Keys 1981, a = −1/2. */
function cubic(t: number): number {
  const x = Math.abs(t)
  return x < 1 ? (1.5 * x - 2.5) * x * x + 1 : x < 2 ? ((-0.5 * x + 2.5) * x - 4) * x + 2 : 0
}

/**
 * Taps that bring `from` pixels to `to` pixels. Reductions widen the weighting function by the scale, so that no pixel is
 * passed over; area weighs each input pixel by what the output pixel covers of it. Beyond the ends the border is repeated.
 */
export function tapsFor(how: Resampling, from: number, to: number): Taps {
  const scale = from / to
  const wide = Math.max(1, scale)
  const half = how === 'area' ? scale / 2 : reach[how] * wide
  const n = Math.min(from, Math.ceil(2 * half) + 1)
  const first = new Int32Array(to)
  const weights = new Float32Array(to * n)
  for (let i = 0; i < to; i++) {
    const middle = (i + 0.5) * scale
    const start = Math.floor(middle - half + (how === 'area' ? 1e-9 : 0.5))
    const at = Math.min(from - n, Math.max(0, start))
    first[i] = at
    let sum = 0
    const all = new Float64Array(n)
    for (let k = 0; k <= Math.ceil(2 * half); k++) {
      const j = start + k
      const weight =
        how === 'area'
          ? Math.max(0, Math.min(j + 1, middle + half) - Math.max(j, middle - half))
          : how === 'linear'
            ? Math.max(0, 1 - Math.abs((j + 0.5 - middle) / wide))
            : cubic((j + 0.5 - middle) / wide)
      all[Math.min(n - 1, Math.max(0, Math.min(from - 1, Math.max(0, j)) - at))]! += weight
      sum += weight
    }
    for (let k = 0; k < n; k++) weights[i * n + k] = all[k]! / sum
  }
  return { n, first, weights }
}

/** Writes taps as the kernel `resample` reads them; bytes a column are 4·(n + 1). */
function writeTaps(kernels: Kernels, ptr: number, { n, first, weights }: Taps): void {
  const at = new Int32Array(kernels.memory.buffer, ptr, first.length * (n + 1))
  const as = kernels.f32(ptr, first.length * (n + 1))
  for (let i = 0; i < first.length; i++) {
    at[i * (n + 1)] = first[i]!
    as.set(weights.subarray(i * n, (i + 1) * n), i * (n + 1) + 1)
  }
}

/** Resamples a whole RGBA16 picture in kernel memory into another. */
export function resampleInto(
  kernels: Kernels,
  how: Resampling,
  src: { ptr: number; stride: number; w: number; h: number },
  dst: { ptr: number; stride: number; w: number; h: number },
): void {
  const x = tapsFor(how, src.w, dst.w)
  const y = tapsFor(how, src.h, dst.h)
  const xBytes = Math.ceil((x.first.length * (x.n + 1) * 4) / 16) * 16
  kernels.scratch(xBytes + y.first.length * (y.n + 1) * 4, (taps) => {
    writeTaps(kernels, taps, x)
    writeTaps(kernels, taps + xBytes, y)
    kernels.raw.resample(src.ptr, src.stride, 0, src.w, dst.ptr, dst.stride, dst.w, dst.h, taps, x.n, taps + xBytes, (y.n + 1) * 4, y.n)
  })
}
