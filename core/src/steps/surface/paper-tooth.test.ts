import { artworkFromPhoto } from '../../artwork/load.ts'
import { newStep, newLayer } from '../../artwork/layers.ts'
import { newPaper } from '../../artwork/papers.ts'
import type { Layer } from '../../artwork/schema.ts'
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

test('a light touch greys the hills and leaves the valleys bare; pressed, hills go black and the valleys fill', async () => {
  const light = await sheet('#d9d9d9', { ...strong, softness: 0.7 })
  const darkest = light.v.reduce((a, b) => (b < a ? b : a), 65535) / 65535
  // tone 0.15 over hills that end after 0.7 of the heights: 2 · 0.15 / 0.7 at their peaks
  expect(darkest).toBeGreaterThan(1 - 0.43 - 0.02)
  expect(light.v.filter((v) => v === 65535).length / light.v.length).toBeGreaterThan(0.25)
  const pressed = await sheet('#333333', { ...strong, softness: 0.7 })
  expect(pressed.v.filter((v) => v < 1000).length / pressed.v.length).toBeGreaterThan(0.2)
  expect(pressed.v.filter((v) => v > 60000).length / pressed.v.length).toBeLessThan(0.02)
})

test('the hills stand as far apart as is said, and all heights are as frequent: their distribution and correlation length', async () => {
  const kernels = await loadKernels()
  for (const pitch of [4, 7]) {
    const [w, h] = [600, 400]
    const v = kernels.scratch(w * h * 2, (at) => {
      kernels.raw.toothHeights(at, w * 2, w, h, 0, 0, 1 / pitch, 7)
      return Float64Array.from(kernels.u16(at, w * h), (x) => x / 65535)
    })
    // against the even distribution (Kolmogorov and Smirnov's distance)
    const sorted = v.slice().sort()
    let furthest = 0
    sorted.forEach((x, i) => (furthest = Math.max(furthest, Math.abs(x - i / sorted.length))))
    expect(furthest).toBeLessThan(0.03)
    const alike = (d: number) => {
      let [sum, n] = [0, 0]
      for (let y = 0; y < h; y++)
        for (let x = 0; x + d < w; x++) {
          sum += (v[y * w + x]! - 0.5) * (v[y * w + x + d]! - 0.5)
          n++
        }
      return (sum / n) * 12
    }
    // neighbours belong to one hill, a pitch further on another begins
    expect(alike(1)).toBeGreaterThan(0.5)
    expect(alike(Math.round(pitch * 0.5))).toBeLessThan(0.6)
    expect(Math.abs(alike(pitch))).toBeLessThan(0.15)
    expect(Math.abs(alike(2 * pitch))).toBeLessThan(0.08)
  }
})

describe('on what lies there', () => {
  const grey = (hex: string, params: Record<string, unknown>, more: Partial<Layer> = {}): Layer => ({
    ...newLayer('grey', { type: 'fill', colour: hex, alpha: 1 }, [newStep('paper-tooth', { ...strong, softness: 0.3, ...params }, 't')], 'grey'),
    ...more,
  })
  const canvas = (kind = 'canvas') =>
    newLayer('white', { type: 'fill', colour: '#ffffff', alpha: 1 }, [newStep('surface-relief', { kind, pitch: { value: 8, unit: 'px' } }, 'r')], 'surface')
  async function drawn(layers: Layer[], grid?: { w: number; h: number }, level = 0) {
    const a = artworkFromPhoto({ asset: '7'.repeat(64), width: 300, height: 260, title: 't' })
    a.layers = layers
    // straight from above, no surface shows by itself
    a.lamp = { ...a.lamp, height: 90 }
    const { pixels } = await compute(newTestEngine(await loadKernels(), new MemorySources()), a, { level, ...(grid && { grid }) })
    return pixels.filter((_, i) => i % 4 === 0)
  }
  const meanOf = (v: Uint16Array) => v.reduce((s, x) => s + x / 257, 0) / v.length

  test.each(['canvas', 'laid', 'cold-pressed', 'board'])('%s: marks stand on it, and the mean stays near the tone', async (kind) => {
    for (const [hex, tone] of [
      ['#333333', 51],
      ['#808080', 128],
      ['#cccccc', 204],
    ] as const) {
      const v = await drawn([canvas(kind), grey(hex, {})])
      // measured: 10 levels off at most, since heights are not quite as their moments say
      expect(Math.abs(meanOf(v) - tone)).toBeLessThan(14)
      // light and dark stand beside each other, though softly
      const mean = meanOf(v)
      expect(Math.sqrt(v.reduce((s, x) => s + (x / 257 - mean) ** 2, 0) / v.length)).toBeGreaterThan(25)
    }
  })

  test('where it is high pigment catches: the same threads as the relief’s own heights', async () => {
    const marks = await drawn([canvas(), grey('#808080', {})])
    const own = await drawn([canvas(), grey('#808080', { paper: 'own' })])
    const again = await drawn([canvas(), grey('#808080', { seed: 99 })])
    expect(again).toEqual(marks)
    expect(own).not.toEqual(marks)
  })

  test('a flat ground gives nothing to catch on: its own paper is taken', async () => {
    const flat = newLayer('white', { type: 'fill', colour: '#ffffff', alpha: 1 }, [], 'surface')
    expect(await drawn([flat, grey('#808080', {})])).toEqual(await drawn([flat, grey('#808080', { paper: 'own' })]))
  })

  test('a paper laid over the drawing is the paper it is drawn on', async () => {
    const paper = newLayer('Paper', { ...newPaper('rough'), colour: '#ffffff' }, [], 'paper')
    const over: Layer = { ...paper, blend: 'multiply' }
    const [below, above] = [await drawn([paper, grey('#404040', {})]), await drawn([grey('#404040', {}), over])]
    expect(above).toEqual(below)
    expect(await drawn([grey('#404040', { paper: 'own' }), over])).not.toEqual(above)
  })

  test('a layer below that is made of the drawing itself leaves it its own paper', async () => {
    const shade: Layer = { ...newLayer('shade', { type: 'live', layer: 'grey' }, [newStep('surface-relief', {}, 'r')], 'shade'), opacity: 0.4 }
    expect(await drawn([shade, grey('#808080', {})])).toEqual(await drawn([shade, grey('#808080', { paper: 'own' })]))
    // nor where it comes about by another tooth that lies above
    const other = grey('#666666', {}, { id: 'other', name: 'other', opacity: 0.5 })
    const through: Layer = { ...shade, source: { type: 'live', layer: 'other' } }
    expect((await drawn([through, grey('#808080', {}), other])).length).toBe(300 * 260)
  })

  test('tiles, strips and levels: the same marks, reduced from the full size', async () => {
    const layers = [canvas(), grey('#808080', { softness: 1 }), newLayer('copy', { type: 'live', layer: 'grey' }, [], 'copy')]
    layers[2]!.placement = { matrix: [0.6, 0.3, 40, -0.3, 0.6, 90, 0, 0, 1], pivot: null }
    for (const level of [0, 1, 2]) {
      const tiles = await drawn(layers, { w: 64, h: 64 }, level)
      expect(await drawn(layers, { w: 1 << 20, h: 16 }, level)).toEqual(tiles)
    }
  })
})
