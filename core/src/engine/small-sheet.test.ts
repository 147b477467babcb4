import { join } from 'node:path'
import sharp from 'sharp'
import { newStep } from '../artwork/layers.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import { madeBy } from '../artwork/recipe.ts'
import type { Artwork } from '../artwork/schema.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { recipeById } from '../recipes/registry.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, newTestEngine } from '../testing/pictures.ts'
import { onSmallSheet, SMALL_SHEET } from './small-sheet.ts'

const asset = 'd'.repeat(64)
const [W, H] = [1920, 1280]
const withStep = (id: string, params = {}): Artwork => {
  const a = artworkFromPhoto({ asset, width: W, height: H, title: 't' })
  a.layers[0]!.chain = [newStep(id, params)]
  return a
}

test('what needs no plan, is small already, or is painted on stays as it is', () => {
  const blurred = withStep('gaussian-blur')
  expect(onSmallSheet(blurred, 96)).toBe(blurred)
  const planned = withStep('hatching')
  expect(onSmallSheet(planned, 1500)).toBe(planned)
  const off = withStep('hatching')
  off.layers[0]!.chain[0]!.on = false
  expect(onSmallSheet(off, 96)).toBe(off)
  const painted = withStep('hatching')
  painted.layers[0]!.mask = {
    plane: { channels: 1, blob: 'e'.repeat(64) },
    edge: { move: 0, soften: { value: 0, unit: 'px' }, unit: 'px' },
  } as never
  expect(onSmallSheet(painted, 96)).toBe(painted)
})

test('lengths in pixels shrink, millimetres and shares stay what they are on the print', () => {
  const before = withStep('hatching', { spacing: { value: 12, unit: 'px' }, length: { value: 3, unit: '%' }, tooth: { value: 0.3, unit: 'mm' } })
  const kept = JSON.stringify(before)
  const small = onSmallSheet(before, 96)
  expect([small.sheet.w, small.sheet.h]).toEqual([SMALL_SHEET, Math.round((SMALL_SHEET * H) / W)])
  expect(small.sheet.w / small.sheet.ppi).toBeCloseTo(before.sheet.w / before.sheet.ppi, 6)
  expect(small.layers[0]!.chain[0]!.params).toMatchObject({
    spacing: { value: (12 * SMALL_SHEET) / W, unit: 'px' },
    length: { value: 3, unit: '%' },
    tooth: { value: 0.3, unit: 'mm' },
  })
  expect(JSON.stringify(before)).toBe(kept)
})

test('a small picture made there shows what the artwork’s own would', async () => {
  const kernels = await loadKernels()
  const sources = new MemorySources()
  const rgb = await sharp(join(__dirname, '../../../demo/photos/boathouse.jpg')).resize(W, H, { fit: 'fill' }).raw().toBuffer()
  await sources.add(kernels, asset, { width: W, height: H, channels: 3, depth: 8 }, rgb)
  for (const a of [withStep('hatching'), madeBy(withStep('invert'), recipeById('watercolour-glazes')), madeBy(withStep('invert'), recipeById('pen-and-ink'))]) {
    const small = onSmallSheet(a, 96)
    expect(small).not.toBe(a)
    // small, computed quickly; layers that share a photo are each made small once
    const own = await compute(newTestEngine(kernels, sources), a, { level: 5, quick: true })
    const other = await compute(newTestEngine(kernels, sources), small, { level: 3, quick: true })
    const [w, h] = [own.region.w, own.region.h]
    const wide = other.region.w / w
    let [sum, most] = [0, 0]
    const tones = (p: Uint16Array, i: number) => (0.2126 * p[i]! + 0.7152 * p[i + 1]! + 0.0722 * p[i + 2]!) / 65535
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        // the mean of what of the other lies there
        let [v, n] = [0, 0]
        for (let j = Math.floor(y * wide); j < Math.min(other.region.h, Math.ceil((y + 1) * wide)); j++)
          for (let i = Math.floor(x * wide); i < Math.min(other.region.w, Math.ceil((x + 1) * wide)); i++) {
            v += tones(other.pixels, (j * other.region.w + i) * 4)
            n++
          }
        const own1 = tones(own.pixels, (y * w + x) * 4)
        sum += v / n - own1
        most += Math.abs(v / n - own1)
      }
    expect(Math.abs(sum / (w * h))).toBeLessThan(0.045)
    expect(most / (w * h)).toBeLessThan(0.07)
  }
})
