import { artworkFromPhoto } from '../../artwork/load.ts'
import { newStep, newLayer } from '../../artwork/layers.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import { MemorySources } from '../../testing/memory-source.ts'
import { compute, newTestEngine } from '../../testing/pictures.ts'

/** A flat grey sheet through the tooth. */
async function sheet(grey: string, params: Record<string, unknown>, level = 0) {
  const a = artworkFromPhoto({ asset: '7'.repeat(64), width: 400, height: 400, title: 't' })
  a.layers = [newLayer('grey', { type: 'fill', colour: grey, alpha: 1 }, [newStep('paper-tooth', params)])]
  const { pixels } = await compute(newTestEngine(await loadKernels(), new MemorySources()), a, { level })
  const v = pixels.filter((_, i) => i % 4 === 0)
  const mean = v.reduce((s, x) => s + x, 0) / v.length / 257
  return { v, mean, deviation: Math.sqrt(v.reduce((s, x) => s + (x / 257 - mean) ** 2, 0) / v.length) }
}
const strong = { strength: 1, pressure: 0, pitch: { value: 4, unit: 'px' } }

test('bare paper stays bare and solid black stays solid', async () => {
  expect(new Set((await sheet('#ffffff', { ...strong, pressure: 1 })).v)).toEqual(new Set([65535]))
  expect(new Set((await sheet('#000000', { ...strong, pressure: 1 })).v)).toEqual(new Set([0]))
})

test.each([
  ['#333333', 51],
  ['#808080', 128],
  ['#cccccc', 204],
])('the mean over the paper stays the tone: %s', async (hex, tone) => {
  const { mean, deviation } = await sheet(hex, strong)
  expect(Math.abs(mean - tone)).toBeLessThan(3)
  expect(deviation).toBeGreaterThan(20)
})

test.each([4, 8, 16])('seen from afar the grain fades as the full-size sheet does when reduced, and the tone stays (pitch %d)', async (pitch) => {
  const params = { ...strong, pitch: { value: pitch, unit: 'px' } }
  const near = await sheet('#808080', params)
  const far = await sheet('#808080', params, 3)
  const means: number[] = []
  for (let y = 0; y < 400; y += 8) {
    for (let x = 0; x < 400; x += 8) {
      let sum = 0
      for (let i = 0; i < 64; i++) sum += near.v[(y + (i >> 3)) * 400 + x + (i % 8)]! / 257
      means.push(sum / 64)
    }
  }
  const mean = means.reduce((s, v) => s + v, 0) / means.length
  const deviation = Math.sqrt(means.reduce((s, v) => s + (v - mean) ** 2, 0) / means.length)
  expect(Math.abs(far.mean - mean)).toBeLessThan(3)
  expect(Math.abs(far.deviation / deviation - 1)).toBeLessThan(0.15)
})

test('another deal is another sheet, the same deal the same', async () => {
  const a = await sheet('#808080', { ...strong, seed: 1 })
  expect((await sheet('#808080', { ...strong, seed: 1 })).v).toEqual(a.v)
  expect((await sheet('#808080', { ...strong, seed: 2 })).v).not.toEqual(a.v)
})
