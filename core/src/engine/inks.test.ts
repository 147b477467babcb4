import { createCanvas } from '@napi-rs/canvas'
import { artworkFromPhoto } from '../artwork/load.ts'
import { newLayer } from '../artwork/layers.ts'
import { resizeArtwork } from '../artwork/framing.ts'
import { inksOf } from '../artwork/planes.ts'
import type { Artwork } from '../artwork/schema.ts'
import { placed } from '../base/transform.ts'
import { writeSvg } from '../formats/svg.ts'
import { inkBlobs, noInk, withStrokes, type InkPlace } from '../ink/ink.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, newTestEngine } from '../testing/pictures.ts'
import { drawnLines } from './line-file.ts'

const asset = 'e'.repeat(64)
const [W, H] = [400, 300]
let kernels: Kernels
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 3, depth: 8 }, new Uint8Array(W * H * 3).fill(255))
})

const wave: InkPlace[] = Array.from({ length: 90 }, (_, i) => ({ x: 40 + i * 3.6, y: 150 + 60 * Math.sin(i / 12), half: 3.5 }))
function inked(strokes: readonly (readonly InkPlace[])[], colour = '#000000'): Artwork {
  const { root, chunks } = inkBlobs(withStrokes(noInk, strokes))
  for (const b of [root, ...chunks]) sources.blobs.set(b.name, b.bytes)
  const a = artworkFromPhoto({ asset, width: W, height: H, title: 'ink', ppi: 254 })
  a.layers.push(newLayer('Ink', { type: 'ink', blob: root.name, colour }, [], 'ink'))
  return a
}
const shown = (a: Artwork, options = {}) => compute(newTestEngine(kernels, sources), a, options)

test('a stroke is as Skia strokes it with round ends, but for Skia’s own rims', async () => {
  const { pixels } = await shown(inked([wave]))
  const c = createCanvas(W, H).getContext('2d')
  c.lineWidth = 7
  c.lineCap = 'round'
  c.lineJoin = 'round'
  c.beginPath()
  wave.forEach((p, i) => (i ? c.lineTo(p.x, p.y) : c.moveTo(p.x, p.y)))
  c.stroke()
  const theirs = c.getImageData(0, 0, W, H).data.filter((_, i) => i % 4 === 3)
  let [far, mine, its] = [0, 0, 0]
  for (let i = 0; i < theirs.length; i++) {
    const v = 1 - pixels[i * 4]! / 65535
    if (Math.abs(v - theirs[i]! / 255) > 33 / 255) far++
    mine += v
    its += theirs[i]! / 255
  }
  expect(far / theirs.length).toBeLessThan(0.0005)
  expect(Math.abs(mine / its - 1)).toBeLessThan(0.02)
})

test('it is the same in any tiling, in its colour, and clear elsewhere', async () => {
  const a = inked([wave, [{ x: 30, y: 30, half: 8 }]], '#a01020')
  const target = { type: 'chain' as const, layer: 'ink', steps: 0 }
  const whole = await shown(a, { target })
  for (const grid of [
    { w: 64, h: 64 },
    { w: 1 << 24, h: 13 },
  ])
    expect((await shown(a, { target, grid })).pixels).toEqual(whole.pixels)
  const at = (x: number, y: number) => [...whole.pixels.subarray((y * W + x) * 4, (y * W + x) * 4 + 4)]
  expect(at(30, 30)).toEqual([0xa0 * 257, 0x10 * 257, 0x20 * 257, 65535])
  expect(at(200, 20)).toEqual([0, 0, 0, 0])
})

test('a layer of ink without a stroke is clear, and no ink of the artwork is forgotten', async () => {
  const a = inked([wave])
  const empty = structuredClone(a)
  empty.layers[1]!.source = { type: 'ink', blob: null, colour: '#000000' }
  expect((await shown(empty)).pixels.every((v) => v === 65535)).toBe(true)
  expect(inksOf(a)).toHaveLength(1)
  expect(inksOf(empty)).toEqual([])
})

test('it is crisp at any size: an artwork made twice as large draws it anew', async () => {
  const a = inked([wave])
  const large = structuredClone(a)
  resizeArtwork(large, 2 * W, [])
  const big = await shown(large)
  // a pixel lies between ink and paper on its rim alone, which is as thin as before
  const between = (p: Uint16Array) => p.filter((v, i) => i % 4 === 0 && v > 6000 && v < 59000).length
  expect(between(big.pixels)).toBeLessThan(2.4 * between((await shown(a)).pixels))
  let ink = 0
  for (let i = 0; i < big.pixels.length; i += 4) ink += 1 - big.pixels[i]! / 65535
  let once = 0
  const { pixels } = await shown(a)
  for (let i = 0; i < pixels.length; i += 4) once += 1 - pixels[i]! / 65535
  expect(Math.abs(ink / once / 4 - 1)).toBeLessThan(0.01)
})

test('it goes out with the lines of the artwork, where it is laid', async () => {
  const a = inked([wave], '#123456')
  a.layers[1]!.placement = { matrix: [...placed({ x: 20, y: 0, scaleX: 0.5, scaleY: 0.5, angle: 0, slant: 0 }, { x: 0, y: 0 })], pivot: null }
  const svg = [...writeSvg(await drawnLines(newTestEngine(kernels, sources), a, 'centre lines'))].join('')
  expect(svg).toContain('<title>Ink: Ink</title>')
  expect(svg).toContain('stroke="#123456"')
  // 7 px at 254 ppi, half as large
  expect(Number(/stroke-width="([^"]+)"/.exec(svg)![1])).toBeCloseTo(0.35, 2)
})

test('ink that is not there is told, not drawn as nothing', async () => {
  const a = inked([wave])
  a.layers[1]!.source = { type: 'ink', blob: 'f'.repeat(64), colour: '#000000' }
  await expect(shown(a)).rejects.toMatchObject({ code: expect.stringMatching(/unreadable/) })
})
