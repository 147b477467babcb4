import { newLayer, newStep } from '../artwork/layers.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import type { Artwork, Layer } from '../artwork/schema.ts'
import { atLevel } from '../base/region.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, newTestEngine, stripGrid } from '../testing/pictures.ts'

// Steps whose picture reaches beyond their input.

const [W, H] = [400, 300]
const photo = { type: 'photo', asset: 'a'.repeat(64), width: 200, height: 300 } as const
let kernels: Kernels
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, photo.asset, { width: 200, height: 300, channels: 3, depth: 8 }, new Uint8Array(200 * 300 * 3).fill(200))
})

const artwork = (sigma: number, border: string, more: Partial<Layer> = {}): Artwork => ({
  ...artworkFromPhoto({ asset: photo.asset, width: W, height: H, title: 't' }),
  layers: [{ ...newLayer('Photo', photo, [newStep('gaussian-blur', { sigma: { value: sigma, unit: 'px' }, border }, 'b')], 'p'), ...more }],
})
const shown = async (a: Artwork, more: Parameters<typeof compute>[2] = {}) => (await compute(newTestEngine(kernels, sources), a, more)).pixels
const alpha = (p: Uint16Array, x: number, y: number) => p[(y * W + x) * 4 + 3]! / 65535

/** The complementary error function by its integral (trapezoids): what of a Gaussian lies beyond. */
function beyond(d: number, sigma: number): number {
  let sum = 0
  const n = 4000
  const to = d + 8 * sigma
  for (let i = 0; i < n; i++) {
    const at = (x: number) => Math.exp(-(x * x) / (2 * sigma * sigma)) / (sigma * Math.sqrt(2 * Math.PI))
    sum += ((at(d + ((to - d) * i) / n) + at(d + ((to - d) * (i + 1)) / n)) / 2) * ((to - d) / n)
  }
  return sum
}

test.each([3, 12, 25])('a blur of %d pixels that spreads covers beyond the border as the Gaussian’s tail says, in its own colour', async (sigma) => {
  const got = await shown(artwork(sigma, 'spreads'))
  for (const steps of [-1.5, -0.5, 0, 0.5, 1, 2]) {
    const x = 200 + Math.round(steps * sigma)
    // by the middle of the pixel, half of it beyond the border
    expect(Math.abs(alpha(got, x, 150) - beyond(x + 0.5 - 200, sigma))).toBeLessThan(0.006)
  }
  for (const x of [150, 199, 205]) expect(Math.abs(got[(150 * W + x) * 4]! / 257 - 200)).toBeLessThan(0.6)
  // held, it ends where it ended
  const held = await shown(artwork(sigma, 'held'))
  expect([alpha(held, 199, 150), alpha(held, 200, 150)]).toEqual([1, 0])
})

test('strips, tiles, little memory and each level: the same bits; laid elsewhere too', async () => {
  for (const a of [artwork(14, 'spreads'), artwork(4, 'spreads', { placement: { matrix: [0.7, 0.3, 60, -0.3, 0.7, 80, 0, 0, 1], pivot: null } })]) {
    for (const level of [0, 1, 2]) {
      const whole = await shown(a, { level })
      for (const grid of [stripGrid(20), { w: 90, h: 64 }])
        expect(Buffer.compare(Buffer.from((await shown(a, { level, grid, region: atLevel(a.sheet, level) })).buffer), Buffer.from(whole.buffer))).toBe(0)
    }
    expect(Buffer.compare(Buffer.from((await compute(newTestEngine(kernels, sources, 200_000), a)).pixels.buffer), Buffer.from((await shown(a)).buffer))).toBe(
      0,
    )
  }
})
