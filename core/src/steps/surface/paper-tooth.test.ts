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
  expect(Math.abs(mean - tone)).toBeLessThan(8)
  expect(deviation).toBeGreaterThan(20)
})

test('seen from afar the grain fades and the tone stays', async () => {
  const near = await sheet('#808080', strong)
  const far = await sheet('#808080', strong, 3)
  expect(Math.abs(far.mean - near.mean)).toBeLessThan(5)
  expect(far.deviation).toBeLessThan(near.deviation / 3)
})

test('another deal is another sheet, the same deal the same', async () => {
  const a = await sheet('#808080', { ...strong, seed: 1 })
  expect((await sheet('#808080', { ...strong, seed: 1 })).v).toEqual(a.v)
  expect((await sheet('#808080', { ...strong, seed: 2 })).v).not.toEqual(a.v)
})
