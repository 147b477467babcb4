import { loadKernels } from '../kernels/load-node.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, dice, newTestEngine, testPicture } from '../testing/pictures.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import { levelCount } from './sources.ts'

const asset = 'd'.repeat(64)

test.each([
  [3, 8],
  [4, 8],
  [3, 16],
  [4, 16],
] as const)('%d channels of %d bits come back as they went in', async (channels, depth) => {
  const kernels = await loadKernels()
  const w = 700
  const h = 530
  const next = dice(9)
  const samples = depth === 8 ? testPicture(w, h, channels) : new Uint8Array(Uint16Array.from({ length: w * h * channels }, () => next() * 65536).buffer)
  const sources = new MemorySources()
  await sources.add(kernels, asset, { width: w, height: h, channels, depth }, samples)
  const a = artworkFromPhoto({ asset, width: w, height: h, title: 't' })
  const { pixels } = await compute(newTestEngine(kernels, sources), a)
  const wide = depth === 8 ? samples : new Uint16Array(samples.buffer)
  let different = 0
  for (let i = 0; i < w * h; i++) {
    for (let c = 0; c < channels; c++) if (pixels[i * 4 + c] !== wide[i * channels + c]! * (depth === 8 ? 257 : 1)) different++
    if (channels === 3 && pixels[i * 4 + 3] !== 65535) different++
  }
  expect(different).toBe(0)
})

test('each level is the mean of the one below, to half a step of the photo’s depth', async () => {
  const kernels = await loadKernels()
  const [w, h] = [1030, 517]
  const bytes = testPicture(w, h)
  const sources = new MemorySources()
  await sources.add(kernels, asset, { width: w, height: h, channels: 3, depth: 8 }, bytes)
  expect((await sources.info(asset)).levels).toBe(levelCount(w, h))
  const a = artworkFromPhoto({ asset, width: w, height: h, title: 't' })
  for (const level of [1, 2, 3]) {
    const { pixels, region } = await compute(newTestEngine(kernels, sources), a, { level })
    const s = 2 ** level
    let worst = 0
    // inner pixels, whole blocks
    for (let y = 0; y < Math.floor(h / s); y++) {
      for (let x = 0; x < Math.floor(w / s); x++) {
        let sum = 0
        for (let j = 0; j < s; j++) for (let i = 0; i < s; i++) sum += bytes[((y * s + j) * w + x * s + i) * 3]!
        worst = Math.max(worst, Math.abs(pixels[(y * region.w + x) * 4]! / 257 - sum / (s * s)))
      }
    }
    expect(worst).toBeLessThanOrEqual(0.51)
  }
})
