import { createCanvas, type Canvas, type GlobalCompositeOperation } from '@napi-rs/canvas'
import { newLayer, newStep } from '../artwork/layers.ts'
import { artworkFromPhoto, loadArtwork } from '../artwork/load.ts'
import type { Artwork, Layer } from '../artwork/schema.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, dice, newTestEngine, stripGrid } from '../testing/pictures.ts'
import { GraphCompiler } from './graph.ts'

// Groups, isolated and open, runs of layers that follow the one below, and both spans: W3C Compositing and Blending Level 1 by a Skia canvas,
// with alpha, and by its formulas.

const [W, H] = [48, 32]
const N = W * H
let kernels: Kernels
let sources: MemorySources
const asset = (i: number) => String(i).repeat(64)
/** Pictures of 8 bits with soft and hard alpha. */
const pictures: Uint8ClampedArray[] = []
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  const next = dice(31)
  for (let p = 0; p < 5; p++) {
    const v = Uint8ClampedArray.from({ length: N * 4 }, (_, i) => (i % 4 === 3 ? [255, 255, 128, 200, 0][Math.floor(next() * 5)]! : Math.floor(next() * 256)))
    pictures.push(v)
    await sources.add(kernels, asset(p), { width: W, height: H, channels: 4, depth: 8 }, new Uint8Array(v.buffer))
  }
})

const photo = (p: number, id = `p${p}`, more: Partial<Layer> = {}): Layer => ({
  ...newLayer(id, { type: 'photo', asset: asset(p), width: W, height: H }, [], id),
  ...more,
})
const group = (isolated: boolean, layers: Layer[], more: Partial<Layer> = {}): Layer => ({
  ...newLayer('Group', { type: 'group', isolated, layers }, [], 'g'),
  ...more,
})
const artwork = (layers: Layer[]): Artwork => ({ ...artworkFromPhoto({ asset: asset(0), width: W, height: H, title: 't' }), layers })
const shown = async (layers: Layer[]) => (await compute(newTestEngine(kernels, sources), artwork(layers))).pixels

function canvas(p?: number): Canvas {
  const c = createCanvas(W, H)
  if (p !== undefined) {
    const image = c.getContext('2d').createImageData(W, H)
    image.data.set(pictures[p]!)
    c.getContext('2d').putImageData(image, 0, 0)
  }
  return c
}
function drawn(on: Canvas, what: Canvas, mode: GlobalCompositeOperation = 'source-over', alpha = 1): Canvas {
  const context = on.getContext('2d')
  context.globalCompositeOperation = mode
  context.globalAlpha = alpha
  context.drawImage(what, 0, 0)
  return on
}
/** Far apart by how much, in 1/255 of what colour contributes; Skia rounds premultiplied bytes at every step. */
function apart(got: Uint16Array, on: Canvas): number {
  const skia = on.getContext('2d').getImageData(0, 0, W, H).data
  let far = 0
  for (let i = 0; i < N * 4; i++) {
    const [a, b] = i % 4 === 3 ? [1, 1] : [got[i - (i % 4) + 3]! / 65535, skia[i - (i % 4) + 3]! / 255]
    far = Math.max(far, Math.abs((got[i]! / 257) * a - skia[i]! * b))
  }
  return far
}
const ROUNDED = 5

describe('a group', () => {
  test('isolated: its layers blend among themselves, then the whole with what lies below', async () => {
    const got = await shown([photo(0), group(true, [photo(1), photo(2, 'p2', { blend: 'multiply', opacity: 0.7 })], { blend: 'screen', opacity: 0.8 })])
    const inside = drawn(drawn(canvas(), canvas(1)), canvas(2), 'multiply', 0.7)
    expect(apart(got, drawn(canvas(0), inside, 'screen', 0.8))).toBeLessThan(ROUNDED)
  })

  test('open: its layers blend with what lies below the group', async () => {
    const got = await shown([photo(0), group(false, [photo(1, 'p1', { blend: 'multiply' }), photo(2, 'p2', { blend: 'screen', opacity: 0.6 })])])
    expect(apart(got, drawn(drawn(canvas(0), canvas(1), 'multiply'), canvas(2), 'screen', 0.6))).toBeLessThan(ROUNDED)
    // as if there were no group
    expect(got).toEqual(await shown([photo(0), photo(1, 'p1', { blend: 'multiply' }), photo(2, 'p2', { blend: 'screen', opacity: 0.6 })]))
  })

  test('open at an opacity: between what was below and what became of it, premultiplied', async () => {
    const layers = [photo(1, 'p1', { blend: 'difference' }), photo(2, 'p2', { opacity: 0.5 })]
    const [below, whole, half] = [await shown([photo(0)]), await shown([photo(0), ...layers]), await shown([photo(0), group(false, layers, { opacity: 0.4 })])]
    for (let i = 0; i < N; i++) {
      const alpha = (p: Uint16Array) => p[i * 4 + 3]! / 65535
      expect(alpha(half)).toBeCloseTo(0.6 * alpha(below) + 0.4 * alpha(whole), 3)
      for (let c = 0; c < 3; c++) {
        const of = (p: Uint16Array) => (p[i * 4 + c]! / 65535) * alpha(p)
        expect(of(half)).toBeCloseTo(0.6 * of(below) + 0.4 * of(whole), 3)
      }
    }
  })

  test('open: what lies below its layers goes on beneath it, to any depth; isolated, it ends at its floor', async () => {
    const inverted = newLayer('Below', { type: 'below' }, [newStep('invert', {}, 'i')], 'b')
    const want = await shown([photo(0), photo(1), inverted])
    expect(await shown([photo(0), photo(1), group(false, [{ ...group(false, [inverted]), id: 'g2' }])])).toEqual(want)
    expect(await shown([photo(0), photo(1), group(true, [inverted])])).toEqual(await shown([photo(0), photo(1)]))
  })

  test('with steps, a blend mode or a follower of its own is a picture of its own first, however it is called', async () => {
    const layers = [photo(1), photo(2, 'p2', { blend: 'multiply' })]
    for (const more of [{ chain: [newStep('invert', {}, 'i')] }, { blend: 'multiply' as const }])
      expect(await shown([photo(0), group(false, layers, more)])).toEqual(await shown([photo(0), group(true, layers, more)]))
    const follower = photo(3, 'f', { followsBelow: true })
    expect(await shown([photo(0), group(false, layers), follower])).toEqual(await shown([photo(0), group(true, layers), follower]))
  })

  test('what is made of an open group live is its layers alone', async () => {
    const open = group(false, [photo(1, 'p1', { blend: 'multiply' })])
    const copy = newLayer('Copy', { type: 'live', layer: 'g' }, [], 'copy')
    expect(await shown([photo(0), { ...open, visible: false }, copy])).toEqual(await shown([photo(0), photo(1, 'alone')]))
  })

  test('a live copy in a circle through an open group is told, not computed', () => {
    const copy = newLayer('Copy', { type: 'live', layer: 'g' }, [], 'copy')
    const open = group(false, [newLayer('Below', { type: 'below' }, [], 'b')])
    expect(() => new GraphCompiler(artwork([photo(0), copy, open]), kernels.hash)).toThrow(/circle/)
    // an isolated one ends at its floor
    expect(() => new GraphCompiler(artwork([photo(0), copy, group(true, [newLayer('Below', { type: 'below' }, [], 'b')])]), kernels.hash)).not.toThrow()
  })
})

describe('layers that follow the one below', () => {
  test('lie atop it, and the run blends as its lowest says', async () => {
    const got = await shown([
      photo(0),
      photo(1, 'base', { blend: 'multiply', opacity: 0.8 }),
      photo(2, 'f1', { followsBelow: true, opacity: 0.6 }),
      photo(3, 'f2', { followsBelow: true, opacity: 0.9 }),
    ])
    const run = drawn(drawn(canvas(1), canvas(2), 'source-atop', 0.6), canvas(3), 'source-atop', 0.9)
    expect(apart(got, drawn(canvas(0), run, 'multiply', 0.8))).toBeLessThan(ROUNDED)
  })

  test('with a blend mode of their own blend with the layer they follow, not with what lies below it', async () => {
    const got = await shown([photo(0), photo(1, 'base'), photo(2, 'f', { followsBelow: true, blend: 'multiply' })])
    // in a canvas: blended over the base, and cut to where the base covers
    const run = drawn(drawn(canvas(1), canvas(2), 'multiply'), canvas(1), 'destination-in')
    // where the base covers whole, exactly
    const skia = drawn(canvas(0), run).getContext('2d').getImageData(0, 0, W, H).data
    for (let i = 0; i < N; i++) {
      if (pictures[1]![i * 4 + 3] !== 255) continue
      for (let c = 0; c < 3; c++) expect(Math.abs(got[i * 4 + c]! / 257 - skia[i * 4 + c]!)).toBeLessThan(ROUNDED)
    }
  })

  test('are hidden with it, and one that is hidden itself is passed over', async () => {
    const f = photo(2, 'f', { followsBelow: true })
    expect(await shown([photo(0), photo(1, 'base', { visible: false }), f])).toEqual(await shown([photo(0)]))
    expect(await shown([photo(0), photo(1, 'base'), { ...f, visible: false }])).toEqual(await shown([photo(0), photo(1, 'base')]))
    // the lowest of a list has none to follow
    expect(await shown([{ ...photo(1), followsBelow: true }])).toEqual(await shown([photo(1)]))
  })

  test('made of what lies below change the layer they follow only', async () => {
    const below = { ...newLayer('Below', { type: 'below' }, [newStep('invert', {}, 'i')], 'b'), followsBelow: true }
    const got = await shown([photo(0), photo(1, 'base'), below])
    expect(got).toEqual(await shown([photo(0), { ...photo(1, 'base'), chain: [newStep('invert', {}, 'i')] }]))
  })
})

test('a layer acts between its own tones, and between those of what lies below; with both, their product', async () => {
  const span = { low: 0.3, high: 0.7, softLow: 0.2, softHigh: 0.2 }
  const ramp = artwork([])
  const through = async (over: Partial<Layer>, below: string, above: string) => {
    const fill = (colour: string, id: string) => newLayer(id, { type: 'fill', colour, alpha: 1 }, [], id)
    const { pixels } = await compute(newTestEngine(kernels, sources), { ...ramp, layers: [fill(below, 'a'), { ...fill(above, 'b'), ...over }] })
    return pixels[0]! / 65535
  }
  // the soft end from 0.1 to 0.3: at 0.2 half, by the smooth step
  const [low, mid] = ['#333333', '#808080']
  expect(await through({ span }, mid, low)).toBeCloseTo(0.502 + 0.5 * (0.2 - 0.502), 2)
  expect(await through({ spanBelow: span }, low, mid)).toBeCloseTo(0.2 + 0.5 * (0.502 - 0.2), 2)
  expect(await through({ span }, low, mid)).toBeCloseTo(0.502, 3)
  expect(await through({ spanBelow: span }, mid, low)).toBeCloseTo(0.2, 3)
  expect(await through({ span, spanBelow: span }, '#343434', low)).toBeCloseTo(0.204 + 0.5 * 0.52 * (0.2 - 0.204), 3)
})

test('trees of groups, runs and spans are the same by tiles, by strips and at once, at every level', async () => {
  const next = dice(77)
  const tree = (depth: number): Layer[] =>
    Array.from({ length: 3 }, (_, i) => {
      const more = {
        opacity: 0.3 + 0.7 * next(),
        followsBelow: next() < 0.4,
        blend: (['normal', 'multiply', 'add', 'divide'] as const)[Math.floor(next() * 4)]!,
      }
      const id = `${depth}-${i}-${Math.floor(next() * 1e6)}`
      return depth < 2 && i === 1 ? { ...group(next() < 0.5, tree(depth + 1), more), id } : photo(Math.floor(next() * 5), id, more)
    })
  for (let n = 0; n < 4; n++) {
    const a = loadArtwork(JSON.parse(JSON.stringify(artwork(tree(0)))))
    for (const level of [0, 1, 2]) {
      const whole = (await compute(newTestEngine(kernels, sources), a, { level })).pixels
      for (const grid of [{ w: 7, h: 5 }, stripGrid(3)]) expect((await compute(newTestEngine(kernels, sources), a, { level, grid })).pixels).toEqual(whole)
    }
  }
})

test('for real stock relief is left out, and the tooth where marks close', async () => {
  const toothed = { ...photo(0), chain: [newStep('paper-tooth', {}, 't'), newStep('surface-relief', {}, 'r')] }
  const with_ = async (stock: Artwork['stock']) => (await compute(newTestEngine(kernels, sources), { ...artwork([toothed]), stock })).pixels
  const only = (...ids: string[]) => shown([{ ...toothed, chain: toothed.chain.filter((s) => ids.includes(s.id)) }])
  expect(await with_({ papers: true, relief: true, marks: 'closed' })).toEqual(await only('t', 'r'))
  expect(await with_({ papers: false, relief: false, marks: 'broken' })).toEqual(await only('t'))
  expect(await with_({ papers: false, relief: false, marks: 'closed' })).toEqual(await shown([photo(0)]))
  expect(await only('t', 'r')).not.toEqual(await only('t'))
})
