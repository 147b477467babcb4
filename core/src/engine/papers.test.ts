import { newLayer } from '../artwork/layers.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import { newPaper, papers, picturePaper, type PaperId } from '../artwork/papers.ts'
import type { Artwork, Layer } from '../artwork/schema.ts'
import { atLevel } from '../base/region.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, newTestEngine, stripGrid, testPicture } from '../testing/pictures.ts'
import { seenBetween } from './mirror.ts'

// Paper layers: pictures that are mirrored at their borders, and the papers that ship.

const [W, H] = [64, 96]
const asset = 'a'.repeat(64)
let kernels: Kernels
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 3, depth: 8 }, testPicture(W, H))
})

const artwork = (source: Layer['source'], w = 300, h = 260): Artwork => ({
  ...artworkFromPhoto({ asset, width: w, height: h, title: 't' }),
  layers: [newLayer('Paper', source, [], 'p')],
})
const shown = async (a: Artwork, more: Parameters<typeof compute>[2] = {}) => (await compute(newTestEngine(kernels, sources), a, more)).pixels
/** The picture at its own size: so many millimetres at 300 ppi. */
const own = { ...picturePaper({ asset, width: W, height: H }), width: { value: W, unit: 'px' as const } }
const same = (a: Uint16Array, b: Uint16Array) => Buffer.compare(Buffer.from(a.buffer), Buffer.from(b.buffer)) === 0
const fold = (at: number, n: number) => {
  const k = Math.floor(at / n)
  return k % 2 ? n - 1 - (at - k * n) : at - k * n
}

test('a picture goes on as in mirrors, to the bit: no seam, no step', async () => {
  const got = await shown(artwork(own))
  const one = await shown({ ...artwork({ type: 'photo', asset, width: W, height: H }, W, H) })
  let wrong = 0
  for (let y = 0; y < 260; y++)
    for (let x = 0; x < 300; x++) for (let c = 0; c < 4; c++) if (got[(y * 300 + x) * 4 + c] !== one[(fold(y, H) * W + fold(x, W)) * 4 + c]) wrong++
  expect(wrong).toBe(0)
})

test('it lies as wide as it is said to, in millimetres, and its border is never seen', async () => {
  const wide = { ...own, width: { value: 16.256, unit: 'mm' as const } }
  // 16.256 mm at 300 ppi are 192 pixels: three times its own size
  const a = artwork(wide, 400, 300)
  const got = await shown({ ...a, sheet: { ...a.sheet, ppi: 300 } })
  const at = (x: number, y: number) => [...got.subarray((y * 400 + x) * 4, (y * 400 + x) * 4 + 3)]
  for (const y of [10, 80, 200]) for (const d of [0, 1, 2]) expect(at(192 + d, y)).toEqual(at(191 - d, y))
  expect(got.every((v, i) => i % 4 !== 3 || v === 65535)).toBe(true)
})

test('strips, tiles, little memory and each level: the same bits', async () => {
  for (const source of [own, { ...own, width: { value: 150, unit: 'px' as const }, colour: '#d8c8a8' }, newPaper('laid')]) {
    const a = artwork(source)
    for (const level of [0, 2]) {
      const region = atLevel(a.sheet, level)
      const whole = await shown(a, { level })
      for (const grid of [stripGrid(13), { w: 50, h: 70 }]) expect(same(await shown(a, { level, grid, region }), whole)).toBe(true)
    }
    expect(same((await compute(newTestEngine(kernels, sources, 150_000), a)).pixels, await shown(a))).toBe(true)
  }
})

test('what of a piece is seen between two places', () => {
  for (let from = -70; from < 70; from += 7)
    for (let to = from + 1; to < from + 90; to += 11) {
      const all = Array.from({ length: to - from }, (_, i) => fold(from + i, 20))
      const [low, high] = seenBetween(from, to, 20)
      // no less than is seen; and where it is not all of it, no more
      expect([low, high]).toEqual(to - from > 40 || high - low === 20 ? [low, high] : [Math.min(...all), Math.max(...all) + 1])
      expect(low).toBeLessThanOrEqual(Math.min(...all))
      expect(high).toBeGreaterThan(Math.max(...all))
    }
})

test.each(Object.keys(papers) as PaperId[])('%s: its colour in the mean, and a surface that is lit', async (id) => {
  const a = artwork({ ...newPaper(id), width: { value: 12, unit: 'px' } })
  const got = await shown(a)
  const want = [1, 3, 5].map((i) => Number.parseInt(papers[id].colour.slice(i, i + 2), 16))
  for (let c = 0; c < 3; c++) {
    const v = Array.from({ length: 300 * 260 }, (_, i) => got[i * 4 + c]! / 257)
    const mean = v.reduce((s, x) => s + x, 0) / v.length
    // slopes in shade darken it; those in light cannot be lighter than white
    expect(mean - want[c]!).toBeLessThan(4)
    expect(mean - want[c]!).toBeGreaterThan(-25)
    const deviation = Math.sqrt(v.reduce((s, x) => s + (x - mean) ** 2, 0) / v.length)
    expect(deviation).toBeGreaterThan(0.4)
  }
  // another lamp, another light
  expect(await shown({ ...a, lamp: { direction: -60, height: 30 } })).not.toEqual(got)
})

test('for real stock papers are left out', async () => {
  const a = artwork(newPaper('rough'))
  expect((await shown({ ...a, stock: { ...a.stock, papers: false } })).every((v) => v === 0)).toBe(true)
})

test('a paper that this version does not have is refused by name', async () => {
  await expect(shown(artwork({ ...newPaper('laid'), paper: 'vellum-of-old' }))).rejects.toMatchObject({
    code: 'not-supported',
    message: expect.stringContaining('vellum-of-old'),
  })
})
