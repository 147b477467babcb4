export const median = (v: readonly number[]): number => [...v].sort((a, b) => a - b)[Math.floor(v.length / 2)]!
export const percentile = (v: readonly number[], share: number): number => [...v].sort((a, b) => a - b)[Math.min(v.length - 1, Math.floor(v.length * share))]!
export const geometricMean = (v: readonly number[]): number => Math.exp(v.reduce((a, b) => a + Math.log(b), 0) / v.length)

/** CPU seconds that a piece of work takes, over all threads of this process. */
export async function cpuSeconds(work: () => unknown): Promise<number> {
  const before = process.cpuUsage()
  await work()
  const { user, system } = process.cpuUsage(before)
  return (user + system) / 1e6
}

/** How cost grows with the number of pixels: the exponent between two sizes. */
export const growth = (small: { megapixels: number; seconds: number }, large: { megapixels: number; seconds: number }): number =>
  Math.log(large.seconds / small.seconds) / Math.log(large.megapixels / small.megapixels)

/** A bar and what was measured against it. */
export interface Bar {
  what: string
  bar: string
  measured: string
  met: boolean
}
