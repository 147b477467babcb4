import type { Analysis } from '../contract.ts'

/** Counts of 256 bins each for R, G, B and lightness (BT.709 luma); clear pixels do not count. */
export interface Histogram {
  red: number[]
  green: number[]
  blue: number[]
  luma: number[]
}

/** Counts the tones of a picture, or of a part of it (pixels of its level, from its corner). */
export function histogramOf({ input, kernels }: Pick<Analysis, 'input' | 'kernels'>, part = { x: 0, y: 0, w: input.region.w, h: input.region.h }): Histogram {
  return kernels.scratch(4096, (at) => {
    kernels.bytes(at, 4096).fill(0)
    kernels.raw.histogram(input.ptr + part.y * input.stride + part.x * 8, input.stride, part.w, part.h, at)
    const counts = new Uint32Array(kernels.memory.buffer, at, 1024)
    const bins = (i: number) => Array.from(counts.subarray(i * 256, i * 256 + 256))
    return { red: bins(0), green: bins(1), blue: bins(2), luma: bins(3) }
  })
}

/**
 * Otsu's threshold of a histogram: the tone 0…255 whose bin is the last of the dark class, where the variance between the classes is largest.
 * Otsu, "A threshold selection method from gray-level histograms", IEEE Trans. SMC 9 (1979).
 */
export function otsu(counts: readonly number[]): number {
  const total = counts.reduce((a, b) => a + b, 0)
  const sum = counts.reduce((a, n, i) => a + n * i, 0)
  let dark = 0
  let darkSum = 0
  let best = -1
  let at = 127
  for (let i = 0; i < counts.length - 1; i++) {
    dark += counts[i]!
    darkSum += counts[i]! * i
    const light = total - dark
    if (dark === 0 || light === 0) continue
    const apart = darkSum / dark - (sum - darkSum) / light
    const between = dark * light * apart * apart
    if (between > best) {
      best = between
      at = i
    }
  }
  return at
}

/** The tone 0…255 below which a share of the picture lies (between bins by a straight line). */
export function toneOfShare(counts: readonly number[], share: number): number {
  const wanted = counts.reduce((a, b) => a + b, 0) * share
  let below = 0
  for (let i = 0; i < counts.length; i++) {
    if (below + counts[i]! >= wanted && counts[i]! > 0) return i - 0.5 + (wanted - below) / counts[i]!
    below += counts[i]!
  }
  return 255.5
}
