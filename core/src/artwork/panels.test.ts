import { converter, formatHex, inGamut } from 'culori'
import { harmonies, harmony, hexOfOklch, type HarmonyId } from '../colour/harmony.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, newTestEngine, testPicture } from '../testing/pictures.ts'
import { applyEdit, perform, type Command } from './commands.ts'
import { newLayer, newStep } from './layers.ts'
import { artworkFromPhoto, loadArtwork } from './load.ts'
import { dealtColourways, harmonious, newPanels, panelGrid, panelsOf, turnedHues, type PanelSource } from './panels.ts'
import type { Artwork, Layer } from './schema.ts'

const asset = 'c3'.repeat(32)
const [W, H] = [160, 120]
let kernels: Kernels
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 3, depth: 8 }, testPicture(W, H, 3))
})
/** A photo that is not shown by itself, and a panel sheet of it. */
function sheet(change: Partial<PanelSource> = {}, chain: Layer['chain'] = []): Artwork {
  const a = artworkFromPhoto({ asset, width: W, height: H, title: 't', ppi: 100 })
  a.colourways = turnedHues(4).map((c, i) => ({ ...c, id: `c${i}` }))
  a.layers = [
    { ...a.layers[0]!, id: 'photo', chain, visible: false },
    newLayer(
      'Panels',
      {
        ...newPanels(
          'photo',
          2,
          2,
          a.colourways.map((c) => c.id),
          { x: 0, y: 0, w: W, h: H },
        ),
        ...change,
      },
      [],
      'panels',
    ),
  ]
  return a
}
const source = (a: Artwork) => a.layers.at(-1)!.source as PanelSource
const pixelsOf = async (a: Artwork, more: { level?: number; grid?: { w: number; h: number } } = {}) =>
  (await compute(newTestEngine(kernels, sources), a, { level: 0, ...more })).pixels

/** A 2 × 2 mean of a picture, as 16-bit codes. */
function halved(v: Uint16Array, w: number, h: number): Uint16Array {
  const out = new Uint16Array((w / 2) * (h / 2) * 4)
  for (let y = 0; y < h / 2; y++)
    for (let x = 0; x < w / 2; x++)
      for (let c = 0; c < 4; c++) {
        const at = (i: number, j: number) => v[((2 * y + j) * w + 2 * x + i) * 4 + c]!
        out[(y * (w / 2) + x) * 4 + c] = Math.floor((at(0, 0) + at(1, 0) + at(0, 1) + at(1, 1) + 2) / 4)
      }
  return out
}

describe('the sheet', () => {
  test('two by two, edge to edge: each panel is the picture halved, to the bit; no seam', async () => {
    const whole = await pixelsOf(sheet({ rows: 1, columns: 1, colourways: [] }))
    const panels = await pixelsOf(sheet({ colourways: [] }))
    const half = halved(whole, W, H)
    const seen = new Uint16Array(half.length)
    let first: Uint16Array | null = null
    for (const [ox, oy] of [
      [0, 0],
      [W / 2, 0],
      [0, H / 2],
      [W / 2, H / 2],
    ] as const) {
      for (let y = 0; y < H / 2; y++) seen.set(panels.subarray(((y + oy) * W + ox) * 4, ((y + oy) * W + ox + W / 2) * 4), y * (W / 2) * 4)
      // the mean of four codes, a half rounded either way
      expect(seen.every((v, i) => Math.abs(v - half[i]!) <= 1)).toBe(true)
      if (first) expect(Buffer.from(seen.buffer).equals(Buffer.from(first.buffer))).toBe(true)
      first ??= seen.slice()
    }
  })

  test('a colourway touches only its panel, and is the step it is made of', async () => {
    const plain = await pixelsOf(sheet({ colourways: [] }))
    const a = sheet()
    const seen = await pixelsOf(a)
    const turned = sheet({ colourways: [] })
    turned.layers.push(newLayer('All', { type: 'below' }, [newStep('hue-saturation', { hue: 90 })]))
    const byStep = await pixelsOf(turned)
    for (let y = 0; y < H; y++) {
      const right = (x: number) => (y * W + x) * 4
      // the first stays as it is, the second is turned by 90°
      if (y < H / 2) {
        expect(seen.subarray(right(0), right(W / 2))).toEqual(plain.subarray(right(0), right(W / 2)))
        expect(seen.subarray(right(W / 2), right(W))).toEqual(byStep.subarray(right(W / 2), right(W)))
      }
    }
  })

  test('gutters and margins show the backing; panels are alike, what is left over lies at the rim', async () => {
    const a = sheet({ rows: 3, columns: 3, gutter: { value: 5, unit: 'px' }, margin: { value: 7, unit: 'px' }, backing: '#204060' })
    const grid = panelGrid(a, source(a))
    // (160 − 14 − 10) / 3 = 45.3, (120 − 14 − 10) / 3 = 32
    expect(grid).toEqual({ x: 7, y: 7, w: 45, h: 32, stepX: 50, stepY: 37 })
    const v = await pixelsOf(a)
    const colour = (x: number, y: number) => Array.from(v.subarray((y * W + x) * 4, (y * W + x) * 4 + 4), (c) => Math.round(c / 257))
    for (const [x, y] of [
      [0, 0],
      [6, 60],
      [54, 20],
      [80, 41],
    ] as const)
      expect(colour(x, y)).toEqual([0x20, 0x40, 0x60, 255])
    expect(colour(20, 20)).not.toEqual([0x20, 0x40, 0x60, 255])
  })

  test.each([0, 1, 2])('tiles and strips give the same bits at level %d, with screens, palettes and gutters', async (level) => {
    const a = sheet({ rows: 3, columns: 2, gutter: { value: 3, unit: 'px' } }, [newStep('gaussian-blur', { sigma: { value: 1, unit: 'px' } })])
    a.colourways = [...harmonious('thirds', 3, 4), ...turnedHues(2)].map((c, i) => ({ ...c, id: `c${i}` }))
    for (const screens of ['shrink', 'stay'] as const) {
      a.layers[0]!.chain = [newStep('gaussian-blur', {}, 'b'), newStep('halftone', { counted: 'lpi', lpi: 16 }, 'h')]
      source(a).screens = screens
      const tiles = await pixelsOf(a, { level, grid: { w: 64, h: 64 } })
      const strips = await pixelsOf(a, { level, grid: { w: 1 << 20, h: 16 } })
      expect(Buffer.from(tiles.buffer).equals(Buffer.from(strips.buffer))).toBe(true)
    }
  })

  test('screens shrink with the panel, or keep their ruling', async () => {
    const a = sheet({ rows: 2, columns: 2, colourways: [] }, [newStep('halftone', { counted: 'lpi', lpi: 12.5, angle: 0 }, 'h')])
    a.layers[0]!.source = { type: 'fill', colour: '#808080', alpha: 1 }
    const dots = async (screens: 'shrink' | 'stay') => {
      source(a).screens = screens
      const v = await pixelsOf(a)
      // changes from dark to light along a row of the first panel
      let most = 0
      for (let y = 4; y < 40; y++) {
        let n = 0
        for (let x = 1; x < W / 2; x++) if (v[(y * W + x) * 4]! > 32768 !== v[(y * W + x - 1) * 4]! > 32768) n++
        most = Math.max(most, n)
      }
      return most / 2 / (W / 2)
    }
    expect(await dots('stay')).toBeCloseTo(1 / 8, 1)
    expect((await dots('shrink')) / (await dots('stay'))).toBeCloseTo(2, 0)
  })

  test('the picture is computed once, however many panels there are', async () => {
    const runs = async (n: number) => {
      const a = sheet({ rows: n, columns: n }, [newStep('median', { radius: { value: 2, unit: 'px' } })])
      const engine = newTestEngine(kernels, sources)
      let work = 0
      engine.onRun = (_, { w, h }) => (work += w * h)
      await compute(engine, a, { level: 0 })
      return work
    }
    const [few, many] = [await runs(2), await runs(8)]
    expect(few).toBeGreaterThan(W * H)
    expect(many).toBeLessThan(few * 1.1)
  })

  test('a sheet that has become too small for its panels shows the backing, and goes on', async () => {
    const a = sheet({ rows: 12, columns: 12, gutter: { value: 20, unit: 'px' }, backing: '#204060' })
    expect(new Set((await pixelsOf(a)).filter((_, i) => i % 4 === 2))).toEqual(new Set([0x60 * 257]))
    expect(panelsOf(a, source(a))).toHaveLength(144)
    expect(() => perform(a, { type: 'take-panel', layer: 'panels', row: 0, column: 0, id: 'own' })).toThrow(/no such panel/)
  })

  test('a panel that was taken out leaves the backing', async () => {
    const a = sheet({ panels: [{ row: 0, column: 1, colourway: null, locked: false, own: 'photo' }] })
    const v = await pixelsOf(a)
    expect(Array.from(v.subarray((10 * W + W - 10) * 4, (10 * W + W - 10) * 4 + 3))).toEqual([65535, 65535, 65535])
  })
})

describe('decided', () => {
  const change = (a: Artwork, c: Partial<PanelSource>): Artwork =>
    perform(a, { type: 'set-panels', layer: 'panels', change: c, what: 'Rows' } as Command).artwork

  test('panels that keep their size make the sheet grow, and undone all is as it was', () => {
    const a = sheet()
    const { artwork, edit } = perform(a, { type: 'set-panels', layer: 'panels', change: { keeps: 'panels', gutter: { value: 10, unit: 'px' } }, what: 'Size' })
    expect(artwork.sheet).toMatchObject({ x: 0, y: 0, w: 2 * W + 10, h: 2 * H + 10 })
    expect(panelGrid(artwork, source(artwork))).toMatchObject({ w: W, h: H })
    expect(applyEdit(artwork, edit.inverse)).toEqual(a)
    expect(loadArtwork(JSON.parse(JSON.stringify(artwork)))).toEqual(artwork)
  })

  test('what cannot be is told', () => {
    expect(() => change(sheet(), { rows: 13 })).toThrow(/1 to 12 rows/)
    expect(() => change(sheet(), { gutter: { value: 200, unit: 'px' } })).toThrow(/no room/)
    const large = sheet()
    large.layers[0]!.source = { type: 'photo', asset, width: 12_000, height: 8_000 }
    expect(() => change(large, { rows: 12, columns: 12, keeps: 'panels' })).toThrow(/at most 60000/)
    expect(() => perform(sheet(), { type: 'set-panels', layer: 'photo', change: {}, what: '' })).toThrow(/not a panel sheet/)
  })

  test('dealt: each colourway as often as the others, neighbours unlike; another deal is another order; locked ones stay', () => {
    const a = sheet({ rows: 4, columns: 4, deal: 7 })
    const first = dealtColourways(source(a))
    const counts = new Map<string | null, number>()
    for (const c of first) counts.set(c, (counts.get(c) ?? 0) + 1)
    expect([...counts.values()]).toEqual([4, 4, 4, 4])
    expect(dealtColourways({ ...source(a), deal: 8 })).not.toEqual(first)
    expect(dealtColourways({ ...source(a), deal: 7 })).toEqual(first)
    source(a).panels = [{ row: 1, column: 2, colourway: 'c3', locked: true, own: null }]
    for (const deal of [7, 8, 9, 0]) expect(panelsOf(a, { ...source(a), deal })[6]).toMatchObject({ colourway: 'c3', locked: true })
  })
})

describe('harmonies, against culori', () => {
  const oklch = converter('oklch')
  test.each(Object.keys(harmonies) as HarmonyId[])('%s: hues at their distances, dark to light', (id) => {
    const colours = harmony(id, 40, 5).map((c) => oklch(c)!)
    const { hues } = harmonies[id]
    colours.forEach((c, i) => {
      const want = (40 + hues[i % hues.length]!) % 360
      const off = Math.abs(((c.h! - want + 540) % 360) - 180)
      // #rrggbb has 8 bits a channel
      expect(off).toBeLessThan(4)
      if (i > 0) expect(c.l).toBeGreaterThan(colours[i - 1]!.l)
    })
  })
  test('a colour that sRGB has is that colour; of others the hue and the lightness stay', () => {
    expect(hexOfOklch(0.6, 0.1, 150)).toBe(formatHex({ mode: 'oklch', l: 0.6, c: 0.1, h: 150 }))
    expect(inGamut('rgb')({ mode: 'oklch', l: 0.9, c: 0.3, h: 260 })).toBe(false)
    const c = oklch(hexOfOklch(0.9, 0.3, 260))!
    expect(c.l).toBeCloseTo(0.9, 1)
    expect(c.h).toBeCloseTo(260, -1)
  })
})
