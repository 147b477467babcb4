import sharp from 'sharp'
import { artworkFromPhoto } from '../artwork/load.ts'
import { newLayer, newStep } from '../artwork/layers.ts'
import type { Artwork, Layer } from '../artwork/schema.ts'
import { placed, type Matrix } from '../base/transform.ts'
import { writeSvg, type LineFile } from '../formats/svg.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, formsPicture, newTestEngine } from '../testing/pictures.ts'
import type { Engine } from './engine.ts'
import { drawnLines, hasLines } from './line-file.ts'

const asset = 'd'.repeat(64)
const [W, H] = [480, 340]
let engine: Engine
let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
  const sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 3, depth: 8 }, formsPicture(W, H))
  engine = newTestEngine(kernels, sources)
})

function made(id: string, params: Record<string, unknown> = {}, matrix?: Matrix): Artwork {
  const a = artworkFromPhoto({ asset, width: W, height: H, title: 'Lanterns & <reeds>', ppi: 254 })
  a.layers[0]!.chain = [newStep(id, { ink: '#000000', ...params }, 's')]
  if (matrix) a.layers[0]!.placement = { matrix: [...matrix], pivot: null }
  return a
}
const text = async (a: Artwork, as: LineFile['as'] = 'shapes') => [...writeSvg(await drawnLines(engine, a, as))].join('')

/** Darkness of each pixel 0…1 as librsvg draws the file, at the sheet's own size. */
async function drawn(svg: string): Promise<Float64Array> {
  const { data, info } = await sharp(Buffer.from(svg.replace(/ width="[^"]+" height="[^"]+"/, ` width="${W}" height="${H}"`)))
    .flatten({ background: '#fff' })
    .greyscale()
    .raw()
    .toBuffer({ resolveWithObject: true })
  expect([info.width, info.height]).toEqual([W, H])
  return Float64Array.from(
    data.filter((_, i) => i % info.channels === 0),
    (v) => 1 - v / 255,
  )
}
const own = async (a: Artwork) => {
  const { pixels } = await compute(engine, a)
  return Float64Array.from({ length: W * H }, (_, i) => (1 - pixels[i * 4]! / 65535) * (pixels[i * 4 + 3]! / 65535))
}
const mean = (v: Float64Array) => v.reduce((s, x) => s + x, 0) / v.length
const apart = (a: Float64Array, b: Float64Array) => mean(a.map((v, i) => Math.abs(v - b[i]!)))

test.each([
  ['ink-lines', { blacks: 0.5 }],
  ['contours', {}],
  ['hatching', { tool: 'pen', spacing: { value: 7, unit: 'px' }, breadth: { value: 2, unit: 'px' } }],
])('%s: the file drawn by librsvg is the picture, within 1 %% of ink', async (id, params) => {
  const a = made(id, params)
  const [file, picture] = [await drawn(await text(a)), await own(a)]
  expect(mean(picture)).toBeGreaterThan(0.01)
  expect(Math.abs(mean(file) - mean(picture))).toBeLessThan(0.01)
  expect(apart(file, picture)).toBeLessThan(0.02)
})

test.each([
  ['turned about the middle', placed({ x: 0, y: 0, scaleX: 0.8, scaleY: 0.8, angle: 20, slant: 0 }, { x: W / 2, y: H / 2 })],
  ['in perspective', [0.9, 0.05, 20, 0.02, 0.85, 15, 0.0002, -0.0001, 1] as Matrix],
])('a layer %s: lines lie where they are seen, of the breadth they have there', async (_, matrix) => {
  const a = made('ink-lines', { blacks: 0.5, width: { value: 4, unit: 'px' } }, matrix)
  // where nothing lies the sheet is clear
  const [file, picture] = [await drawn(await text(a)), await own(a)]
  expect(Math.abs(mean(file) - mean(picture))).toBeLessThan(0.01)
  expect(apart(file, picture)).toBeLessThan(0.03)
})

test('it is in millimetres, named by layer from the lowest up, and well-formed whatever the names are', async () => {
  const a = made('contours')
  const top: Layer = { ...a.layers[0]!, id: 'top', name: 'Hair & “eyes”', chain: [newStep('ink-lines', { ink: '#ab1020' }, 't'), newStep('levels', {}, 'u')] }
  a.layers[0]!.name = 'Ground <1>'
  const hidden: Layer = { ...top, id: 'hidden', visible: false, name: 'Hidden' }
  const group = newLayer('Figure', { type: 'group', isolated: true, layers: [top] }, [], 'g')
  const svg = await text({ ...a, layers: [...a.layers, hidden, group] })
  expect(svg).toContain(`width="${W / 10}mm" height="${H / 10}mm" viewBox="0 0 ${W / 10} ${H / 10}"`)
  expect([...svg.matchAll(/<g [^>]*>\n<title>([^<]*)<\/title>/g)].map((m) => m[1])).toEqual([
    'Ground &lt;1&gt;: Contours',
    'Figure / Hair &amp; “eyes”: Ink lines',
  ])
  expect(svg).toContain('<title>Lanterns &amp; &lt;reeds&gt;</title>')
  expect(svg).toContain('fill="#ab1020"')
  expect(svg).not.toContain('Hidden')
  await expect(sharp(Buffer.from(svg)).metadata()).resolves.toMatchObject({ format: 'svg' })
})

test('centre lines have one breadth each and are drawn along the same ways', async () => {
  const a = made('ink-lines', { blacks: 0, pen: 'technical', width: { value: 3, unit: 'px' }, far: 0 })
  const svg = await text(a, 'centre lines')
  const widths = [...svg.matchAll(/stroke-width="([^"]+)"/g)].map((m) => Number(m[1]))
  expect(widths.length).toBeGreaterThan(5)
  // 3 px at 254 ppi are 0.3 mm
  for (const w of widths) expect(w).toBeCloseTo(0.3, 1)
  expect(apart(await drawn(svg), await own(a))).toBeLessThan(0.02)
})

test('what lies beyond the frame is cut off', async () => {
  const a = made('hatching', { tool: 'pen', spacing: { value: 7, unit: 'px' } })
  a.sheet = { ...a.sheet, x: 60, y: 40, w: 200, h: 150 }
  for (const as of ['shapes', 'centre lines'] as const) {
    const svg = await text(a, as)
    for (const [, d] of svg.matchAll(/ d="([^"]+)"/g)) {
      let [x, y] = [0, 0]
      for (const [, way, rest] of d!.matchAll(/([Ml])([^Mlz]*)/g)) {
        const numbers = [...rest!.matchAll(/-?(?:\d+\.?\d*|\.\d+)/g)].map((m) => Number(m[0]))
        for (let i = 0; i < numbers.length; i += 2) {
          if (way === 'M') [x, y] = [numbers[i]!, numbers[i + 1]!]
          else [x, y] = [x + numbers[i]!, y + numbers[i + 1]!]
          if (x < -1e-6 || y < -1e-6 || x > 20 + 1e-6 || y > 15 + 1e-6) throw new Error(`${x}, ${y} lies beyond the frame`)
        }
      }
    }
  }
})

test('leads leave as much as they are pressed', async () => {
  const svg = await text(made('hatching', { tool: 'soft' }))
  const shares = [...svg.matchAll(/fill-opacity="([^"]+)"/g)].map((m) => Number(m[1]))
  expect(shares.length).toBeGreaterThan(20)
  expect(Math.min(...shares)).toBeLessThan(0.5)
})

test('an artwork without lines says what helps; what is hidden does not count', async () => {
  await expect(drawnLines(engine, made('invert'), 'shapes')).rejects.toMatchObject({ code: 'no-lines' })
  const a = made('contours')
  expect(hasLines(a)).toBe(true)
  a.layers[0]!.visible = false
  expect(hasLines(a)).toBe(false)
  await expect(drawnLines(engine, a, 'shapes')).rejects.toThrow('Add a step that draws')
})

test('it stops when it is told to', async () => {
  await expect(drawnLines(engine, made('hatching', { seed: 3 }), 'shapes', { signal: { cancelled: true } })).rejects.toMatchObject({ code: 'cancelled' })
})
