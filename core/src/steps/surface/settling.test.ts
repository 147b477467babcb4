import { newStep } from '../../artwork/layers.ts'
import { artworkFromPhoto } from '../../artwork/load.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { MemorySources } from '../../testing/memory-source.ts'
import { compute, newTestEngine } from '../../testing/pictures.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})
const [W, H] = [240, 180]
const px = (value: number) => ({ value, unit: 'px' })

async function settled(code: number, params: Record<string, unknown>): Promise<Uint16Array> {
  const sources = new MemorySources()
  await sources.add(kernels, 'a'.repeat(64), { width: W, height: H, channels: 3, depth: 8 }, new Uint8Array(W * H * 3).fill(code))
  const a = structuredClone(artworkFromPhoto({ asset: 'a'.repeat(64), width: W, height: H, title: 't' }))
  a.layers[0]!.chain = [newStep('settling', { paper: 'own', pitch: px(5), ...params })]
  return (await compute(newTestEngine(kernels, sources), a)).pixels
}

// density is the logarithm of what is let through (Beer's law): pigment that moves from hill to hollow leaves its sum
test.each([60, 128, 200])('the amount of pigment stays, on average, in a tone of %i', async (code) => {
  const pixels = await settled(code, { amount: 0.6 })
  let sum = 0
  for (let i = 0; i < pixels.length; i += 4) sum += -Math.log(pixels[i]! / 65535)
  const before = -Math.log(code / 255)
  expect(sum / (pixels.length / 4) / before).toBeGreaterThan(0.98)
  expect(sum / (pixels.length / 4) / before).toBeLessThan(1.02)
})

test('it is denser the deeper the paper lies', async () => {
  const pixels = await settled(150, { amount: 0.5, seed: 11 })
  const heights = kernels.scratch(W * H * 2 + 64, (at) => {
    kernels.raw.toothHeights(at, W * 2, W, H, 0, 0, 1 / 5, 11)
    return kernels.u16(at, W * H).slice()
  })
  let wrong = 0
  for (let i = 1; i < W * H; i++) if (heights[i]! > heights[i - 1]! + 400 && pixels[i * 4]! < pixels[i * 4 - 4]!) wrong++
  expect(wrong).toBe(0)
})

test('white paper and none settled stay as they are', async () => {
  expect(new Set(await settled(255, { amount: 1 }))).toEqual(new Set([65535]))
  const none = await settled(90, { amount: 0 })
  let worst = 0
  for (let i = 0; i < none.length; i += 4) worst = Math.max(worst, Math.abs(none[i]! - 90 * 257))
  expect(worst).toBeLessThan(40)
})
