import { newLayer, newStep } from '../artwork/layers.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import { newPaper } from '../artwork/papers.ts'
import type { Artwork, Layer } from '../artwork/schema.ts'
import { atLevel } from '../base/region.ts'
import { moved, scaled, times, turned } from '../base/transform.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, newTestEngine, stripGrid, testPicture } from '../testing/pictures.ts'
import { GraphCompiler } from './graph.ts'
import { inputsOf, type Node } from './nodes.ts'

// Heights: put together as colours are, and lit once by the artwork's lamp.

const [W, H] = [160, 120]
const asset = 'a'.repeat(64)
let kernels: Kernels
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 3, depth: 8 }, testPicture(W, H))
})

const px = (value: number) => ({ value, unit: 'px' as const })
const relief = (more: Record<string, unknown> = {}) => newStep('surface-relief', { kind: 'board', pitch: px(14), depth: 0.6, ...more }, 'r')
const photo = (id: string, more: Partial<Layer> = {}): Layer => ({ ...newLayer(id, { type: 'photo', asset, width: W, height: H }, [], id), ...more })
const grey = (id: string, colour = '#808080', more: Partial<Layer> = {}): Layer => ({ ...newLayer(id, { type: 'fill', colour, alpha: 1 }, [], id), ...more })
const artwork = (layers: Layer[], more: Partial<Artwork> = {}): Artwork => ({
  ...artworkFromPhoto({ asset, width: W, height: H, title: 't' }),
  layers,
  ...more,
})
const shown = async (a: Artwork, more: Parameters<typeof compute>[2] = {}) => (await compute(newTestEngine(kernels, sources), a, more)).pixels
const same = (a: Uint16Array, b: Uint16Array) => Buffer.compare(Buffer.from(a.buffer), Buffer.from(b.buffer)) === 0
const lamp = (direction: number) => ({ lamp: { direction, height: 40 } })
const laid = (m: readonly number[]): Layer['placement'] => ({ matrix: [...m] as Layer['placement']['matrix'], pivot: null })

test('the light is the slope’s: by Lambert’s law over the heights’ own differences', async () => {
  const a = artwork([grey('g', '#808080', { chain: [relief()] })], lamp(180))
  const got = await shown(a)
  // the picture of heights itself
  const node = new GraphCompiler(a, kernels.hash).compile({ type: 'artwork' }) as Node & { kind: 'lit' }
  expect(node.kind).toBe('lit')
  const engine = newTestEngine(kernels, sources)
  const heights = new Float64Array(W * H)
  await engine.withRegion(node.heights, 0, { x: 0, y: 0, w: W, h: H }, (pic) => {
    for (let y = 0; y < H; y++)
      kernels.u16(pic.ptr + y * pic.stride, W * 4).forEach((v, i) => i % 4 === 0 && (heights[y * W + i / 4] = ((v - 32768) / 65535) * 128))
  })
  const high = (40 * Math.PI) / 180
  const [lx, lz] = [-Math.cos(high), Math.sin(high)]
  let far = 0
  for (let y = 1; y < H - 1; y += 3)
    for (let x = 1; x < W - 1; x += 3) {
      const at = (i: number, j: number) => heights[(y + j) * W + x + i]!
      const [dx, dy] = [(at(1, 0) - at(-1, 0)) / 2, (at(0, 1) - at(0, -1)) / 2]
      const shade = Math.max(0, (lz - dx * lx) / Math.hypot(1, dx, dy)) / lz
      const c = 0x80 / 255
      const t = 1 - 1 / (1 + (shade - 1) * 1.2)
      const want = shade <= 1 ? c * (0.3 + 0.7 * shade) : c + t * c * (1 - c)
      far = Math.max(far, Math.abs(got[(y * W + x) * 4]! / 65535 - want))
    }
  expect(far).toBeLessThan(0.001)
})

test('a mirrored layer keeps its light: what is flipped is lit as if the lamp had been on the other side, seen in a mirror', async () => {
  const group = (matrix: readonly number[]): Layer => ({
    ...newLayer('Group', { type: 'group', isolated: true, layers: [grey('g', '#808080', { chain: [relief()] })] }, [], 'gr'),
    placement: laid(matrix),
  })
  const flipped = await shown(artwork([group(times(moved(W, 0), scaled(-1, 1)))], lamp(180)))
  const mirror = await shown(artwork([group([1, 0, 0, 0, 1, 0, 0, 0, 1])], lamp(0)))
  let far = 0
  for (let y = 1; y < H - 1; y++) for (let x = 1; x < W - 1; x++) far = Math.max(far, Math.abs(flipped[(y * W + x) * 4]! - mirror[(y * W + W - 1 - x) * 4]!))
  expect(far).toBeLessThanOrEqual(60)
  expect(same(flipped, mirror)).toBe(false)
})

test('nothing is embossed twice: layers over it that have no height take that of what they cover', async () => {
  const below = newLayer('Below', { type: 'below' }, [], 'b')
  const base = photo('p', { chain: [relief()] })
  expect(same(await shown(artwork([base, below, { ...below, id: 'b2' }])), await shown(artwork([base])))).toBe(true)
  // a photo laid over a paper is on that paper
  const over = await shown(artwork([grey('g', '#ffffff', { chain: [relief()] }), photo('p')]))
  expect(same(over, await shown(artwork([base])))).toBe(true)
  // a live copy brings its own along, instead of what it covers
  const copy = newLayer('Copy', { type: 'live', layer: 'p' }, [], 'c')
  expect(same(await shown(artwork([base, copy])), await shown(artwork([base])))).toBe(true)
})

test('a sheet with a height of its own hides that of what it covers; half through, both are half there', async () => {
  const fine = grey('top', '#808080', { chain: [relief({ pitch: px(9), seed: 9 })] })
  const coarse = grey('low', '#808080', { chain: [relief()] })
  expect(same(await shown(artwork([coarse, fine])), await shown(artwork([fine])))).toBe(true)
  const half = await shown(artwork([coarse, { ...fine, opacity: 0.5 }]))
  expect(same(half, await shown(artwork([fine])))).toBe(false)
  expect(same(half, await shown(artwork([coarse])))).toBe(false)
  // on what lies below, a relief adds to what is there
  const more = newLayer('Below', { type: 'below' }, [{ ...relief({ pitch: px(9), seed: 9 }), id: 'r2' }], 'b')
  const both = await shown(artwork([coarse, more]))
  const twice = await shown(artwork([{ ...coarse, chain: [relief(), { ...relief({ pitch: px(9), seed: 9 }), id: 'r2' }] }]))
  expect(same(both, twice)).toBe(true)
})

test('a step’s opacity lowers what it raises; its blend mode does not matter', async () => {
  const flat = await shown(artwork([grey('g')]))
  const of = async (opacity: number, blend: 'normal' | 'multiply' = 'normal') =>
    shown(artwork([grey('g', '#808080', { chain: [{ ...relief(), opacity, blend }] })]))
  const spread = (p: Uint16Array) => Math.sqrt(p.filter((_, i) => i % 4 === 0).reduce((s, v) => s + (v - flat[0]!) ** 2, 0) / (W * H))
  const [full, half] = [spread(await of(1)), spread(await of(0.5))]
  expect(half / full).toBeGreaterThan(0.4)
  expect(half / full).toBeLessThan(0.65)
  expect(same(await of(1), await of(1, 'multiply'))).toBe(true)
  expect(same(await of(0), flat)).toBe(true)
})

test('paint that is flipped with its layer, or with a group round it, is lit by the same lamp', async () => {
  const oil = photo('p', { chain: [newStep('flowing-oil', { body: 1, weave: px(0), width: px(12) }, 'o')] })
  const across = laid(times(moved(W, 0), scaled(-1, 1)))
  const mirror = await shown(artwork([oil], lamp(0)))
  const group = { ...newLayer('Group', { type: 'group', isolated: true, layers: [oil] }, [], 'gr'), placement: across } as Layer
  for (const layers of [[{ ...oil, placement: across }], [group]]) {
    const flipped = await shown(artwork(layers, lamp(180)))
    let far = 0
    for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) far = Math.max(far, Math.abs(flipped[(y * W + x) * 4]! - mirror[(y * W + W - 1 - x) * 4]!))
    expect(far).toBeLessThan(40)
  }
  // a quarter turn and an odd angle besides
  const params = (m: readonly number[]) => {
    const node = new GraphCompiler(artwork([{ ...oil, placement: laid(m) }], lamp(90)), kernels.hash).compile({ type: 'artwork' })
    const seen: number[] = []
    const walk = (n: Node): void => {
      const { params: p, input } = n as { params?: { sheet?: { lamp: { direction: number } } }; input?: Node }
      if (p?.sheet) seen.push(p.sheet.lamp.direction)
      if (input) walk(input)
    }
    walk(node as Node)
    return seen
  }
  expect(params(turned(90))).toEqual([180])
  expect(params(turned(-30))[0]).toBeCloseTo(60, 1)
  expect(params(moved(7, 3))).toEqual([90])
})

test('moving the lamp leaves all but the light as it was made', () => {
  const of = (direction: number) =>
    new GraphCompiler(artwork([photo('p', { chain: [newStep('invert', {}, 'i'), relief()] })], lamp(direction)), kernels.hash).compile({ type: 'artwork' })
  const [a, b] = [of(10), of(200)]
  expect(a.key).not.toBe(b.key)
  expect(inputsOf(a).map((n) => n.key)).toEqual(inputsOf(b).map((n) => n.key))
})

test('strips, tiles, little memory, each level: the same bits; a placed one too', async () => {
  const group: Layer = {
    ...newLayer('Group', { type: 'group', isolated: true, layers: [photo('p', { chain: [relief()] })] }, [], 'gr'),
    placement: laid([0.8, 0.3, 10, -0.3, 0.8, 40, 0, 0, 1]),
  }
  const a = artwork([newLayer('Paper', { ...newPaper('laid'), width: px(10) }, [], 'paper'), group])
  for (const level of [0, 1, 3]) {
    const whole = await shown(a, { level })
    for (const grid of [stripGrid(11), { w: 37, h: 50 }]) expect(same(await shown(a, { level, grid, region: atLevel(a.sheet, level) }), whole)).toBe(true)
  }
  expect(same((await compute(newTestEngine(kernels, sources, 100_000), a)).pixels, await shown(a))).toBe(true)
})

test('for real stock there is no relief; an artwork without any costs nothing', async () => {
  const a = artwork([photo('p', { chain: [relief()] })])
  expect(same(await shown({ ...a, stock: { ...a.stock, relief: false } }), await shown(artwork([photo('p')])))).toBe(true)
  expect(new GraphCompiler(artwork([photo('p'), newLayer('Below', { type: 'below' }, [], 'b')]), kernels.hash).compile({ type: 'artwork' }).kind).toBe('photo')
})

test('proofs of single steps are lit by what is there so far', async () => {
  const a = artwork([photo('p', { chain: [newStep('invert', {}, 'i'), relief()] })])
  const [before, after] = [
    await shown(a, { target: { type: 'chain', layer: 'p', steps: 1 } }),
    await shown(a, { target: { type: 'chain', layer: 'p', steps: 2 } }),
  ]
  expect(same(after, await shown(a))).toBe(true)
  expect(same(before, after)).toBe(false)
})

test('the soft border of what is laid elsewhere is no ridge; made smaller, slopes stay as steep', async () => {
  const turned = [0.5, 0.2, 30, -0.2, 0.5, 40, 0, 0, 1]
  const of = (depth: number, matrix: readonly number[]): Layer[] => [
    grey('low', '#303030'),
    {
      ...newLayer('Group', { type: 'group', isolated: true, layers: [grey('g', '#e0e0e0', { chain: [relief({ depth })] })] }, [], 'gr'),
      placement: laid(matrix),
    },
  ]
  const plain = await shown(artwork([of(0, turned)[0]!, { ...of(0, turned)[1]!, source: { type: 'group', isolated: true, layers: [grey('g', '#e0e0e0')] } }]))
  expect(same(await shown(artwork(of(0, turned))), plain)).toBe(true)
  const spread = async (matrix: readonly number[], x: number, y: number) => {
    const p = await shown(artwork(of(0.5, matrix)))
    const v = Array.from({ length: 900 }, (_, i) => p[((y + Math.floor(i / 30)) * W + x + (i % 30)) * 4]!)
    const mean = v.reduce((s, t) => s + t, 0) / v.length
    return Math.sqrt(v.reduce((s, t) => s + (t - mean) ** 2, 0) / v.length)
  }
  const [full, half] = [await spread([1, 0, 0, 0, 1, 0, 0, 0, 1], 20, 20), await spread([0.5, 0, 0, 0, 0.5, 0, 0, 0, 1], 20, 20)]
  expect(half / full).toBeGreaterThan(0.6)
  expect(half / full).toBeLessThan(1.3)
})

test('layers that are made of each other, over and over, are put together once each', () => {
  const layers: Layer[] = [photo('l0', { chain: [relief()] })]
  for (let i = 1; i < 80; i++)
    layers.push(
      i % 2
        ? newLayer(`l${i}`, { type: 'below' }, [], `l${i}`)
        : newLayer(`l${i}`, { type: 'live', layer: `l${i - 1}` }, [{ ...relief(), id: `r${i}` }], `l${i}`),
    )
  const root = new GraphCompiler(artwork(layers), kernels.hash).compile({ type: 'artwork' })
  const seen = new Set<Node>()
  const open = [root]
  for (let n = open.pop(); n; n = open.pop())
    for (const i of inputsOf(n)) {
      if (seen.has(i)) continue
      seen.add(i)
      open.push(i)
    }
  expect(seen.size).toBeLessThan(80 * 6)
})

test('up to a layer in an open group the heights beneath the group are there too', async () => {
  const group = newLayer('Group', { type: 'group', isolated: false, layers: [photo('in')] }, [], 'gr')
  const a = artwork([grey('low', '#ffffff', { chain: [relief()] }), group])
  expect(same(await shown(a, { target: { type: 'sheet', layer: 'in' } }), await shown(a))).toBe(true)
})
