import { artworkFromPhoto } from '../artwork/load.ts'
import { newStep } from '../artwork/layers.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { defineStep, type AnyStep } from '../steps/contract.ts'
import { length, px } from '../steps/params/index.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, computeNode, newTestEngine, testPicture, type Grid } from '../testing/pictures.ts'
import { rgba } from '../testing/kernel-run.ts'
import type { Engine } from './engine.ts'
import { GraphCompiler } from './graph.ts'
import type { Node } from './nodes.ts'

// The kinds of step that no step of the registry has yet, by steps made for these tests.

const asset = 'd'.repeat(64)
const W = 301
const H = 211
let kernels: Kernels
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 3, depth: 8 }, testPicture(W, H))
})

/** The node of a step over the photo, or over another node. */
function over(def: AnyStep, params: Record<string, unknown> = {}, input?: Node): Node {
  const below = input ?? new GraphCompiler(artworkFromPhoto({ asset, width: W, height: H, title: 't' }), kernels.hash).compile({ type: 'artwork' })
  const key = `${def.id} ${JSON.stringify(params)} ${below.key}`
  return { kind: 'step', key, shape: key, extent: below.extent, def, params, input: below, others: {}, pictures: {}, joins: false, hands: null }
}

const read = async (engine: Engine, node: Node, options: Parameters<typeof computeNode>[2] = {}) => (await computeNode(engine, node, options)).pixels
const grids: Grid[] = [
  { w: 64, h: 64 },
  { w: 97, h: 97 },
  { w: 512, h: 512 },
]

describe('a step that analyses', () => {
  let asked: { level: number; w: number; h: number }[] = []
  const stretch = defineStep({
    id: 'test-stretch',
    version: 1,
    title: 'Stretch',
    group: 'tone',
    kind: 'table',
    help: 'Lightest green to white.',
    method: 'for the test',
    params: {},
    analyse: ({ input, kernels: k, level }) => {
      asked.push({ level, w: input.region.w, h: input.region.h })
      let lightest = 0
      for (let y = 0; y < input.region.h; y++) {
        const row = k.u16(input.ptr + y * input.stride, input.region.w * 4)
        for (let x = 1; x < row.length; x += 4) lightest = Math.max(lightest, row[x]!)
      }
      return { lightest }
    },
    table: (_, __, { lightest }) => Uint16Array.from({ length: 65536 }, (___, i) => Math.min(65535, Math.round((i / lightest) * 65535))),
  })

  test('is asked once, and every tile of every level goes by the same facts', async () => {
    asked = []
    const photo = testPicture(W, H)
    let lightest = 0
    for (let i = 1; i < photo.length; i += 3) lightest = Math.max(lightest, photo[i]! * 257)
    const engine = newTestEngine(kernels, sources)
    const node = over(stretch)
    const part = await read(engine, node, { region: { x: 3, y: 5, w: 20, h: 10 } })
    for (let i = 0; i < 200; i++) {
      const v = photo[((5 + Math.floor(i / 20)) * W + 3 + (i % 20)) * 3 + 1]! * 257
      expect(part[i * 4 + 1]).toBe(Math.min(65535, Math.round((v / lightest) * 65535)))
    }
    for (const grid of grids) await read(engine, node, { level: 2, grid })
    expect(asked).toEqual([{ level: 0, w: W, h: H }])
  })

  test('measures large pictures at a size of their own, whatever is looked at', async () => {
    asked = []
    const big = 'e'.repeat(64)
    await sources.add(kernels, big, { width: 2300, height: 500, channels: 3, depth: 8 }, testPicture(2300, 500))
    const photo = new GraphCompiler(artworkFromPhoto({ asset: big, width: 2300, height: 500, title: 't' }), kernels.hash).compile({ type: 'artwork' })
    for (const level of [0, 4])
      await read(newTestEngine(kernels, sources), over(stretch, {}, photo), { level, region: { x: 0, y: 0, w: 8, h: 8 }, quick: level > 0 })
    expect(asked).toEqual([
      { level: 2, w: 575, h: 125 },
      { level: 2, w: 575, h: 125 },
    ])
  })
})

describe('a step that runs row by row', () => {
  /** Error diffusion of green to the pixel on the right and the one below: each pixel hangs on all before it. */
  const spread = defineStep({
    id: 'test-spread',
    version: 1,
    title: 'Spread',
    group: 'print',
    kind: 'sequential',
    help: 'Two tones.',
    method: 'for the test',
    params: {},
    state: (width) => width * 4,
    run: ({ input, output, kernels: k, state }) => {
      const { w, h } = output.region
      const carried = new Int32Array(k.memory.buffer, state, w)
      for (let y = 0; y < h; y++) diffuse(k.u16(input.ptr + y * input.stride, w * 4), k.u16(output.ptr + y * output.stride, w * 4), carried)
    },
  })
  function diffuse(from: Uint16Array, to: Uint16Array, carried: Int32Array): void {
    let right = 0
    for (let x = 0; x < carried.length; x++) {
      const v = from[x * 4 + 1]! + right + carried[x]!
      const tone = v >= 32768 ? 65535 : 0
      right = (v - tone) >> 1
      carried[x] = v - tone - right
      to.fill(tone, x * 4, x * 4 + 3)
      to[x * 4 + 3] = 65535
    }
  }
  const whole = () => {
    const p = rgba(testPicture(W, H), W, H, 3)
    const out = new Uint16Array(p.v.length)
    const carried = new Int32Array(W)
    for (let y = 0; y < H; y++) diffuse(p.v.subarray(y * W * 4, (y + 1) * W * 4), out.subarray(y * W * 4, (y + 1) * W * 4), carried)
    return out
  }

  test('gives the same bits whole, in tiles, in any order, and with hardly any memory', async () => {
    const want = whole()
    for (const grid of grids) expect(await read(newTestEngine(kernels, sources), over(spread), { grid })).toEqual(want)
    for (const bytes of [400_000, 384 * 2 ** 20]) {
      const engine = newTestEngine(kernels, sources, bytes)
      for (const y of [170, 3, 90, 140, 60]) {
        const region = { x: 40, y, w: 100, h: 40 }
        const got = await read(engine, over(spread), { region, grid: { w: 64, h: 64 } })
        for (let r = 0; r < region.h; r++) expect(got.subarray(r * 400, (r + 1) * 400)).toEqual(want.subarray(((y + r) * W + 40) * 4, ((y + r) * W + 140) * 4))
      }
    }
  })

  test('is reduced from full size in every view, also a quick one', async () => {
    const want = whole()
    for (const quick of [false, true]) {
      const got = await read(newTestEngine(kernels, sources), over(spread), { level: 1, quick, region: { x: 10, y: 20, w: 30, h: 20 } })
      for (let i = 0; i < 600; i++) {
        const [x, y] = [2 * (10 + (i % 30)), 2 * (20 + Math.floor(i / 30))]
        const mean = (want[(y * W + x) * 4]! + want[(y * W + x + 1) * 4]! + want[((y + 1) * W + x) * 4]! + want[((y + 1) * W + x + 1) * 4]!) / 4
        expect(Math.abs(got[i * 4]! - mean)).toBeLessThanOrEqual(1)
      }
    }
  })
})

describe('a step with a plan', () => {
  let planned = 0
  /** Black squares on a grid where the picture is dark there: laid out once, drawn anywhere. */
  const squares = defineStep({
    id: 'test-squares',
    version: 1,
    title: 'Squares',
    group: 'tile',
    kind: 'planned',
    help: 'Squares.',
    method: 'for the test',
    params: { pitch: length({ title: 'Pitch', default: px(24), min: 8, max: 100, help: 'Pitch.' }) },
    planAt: ({ pitch }) => Math.floor(Math.log2(pitch / 8)),
    plan: ({ input, kernels: k, level }, { pitch }) => {
      planned++
      const list: { x: number; y: number; side: number }[] = []
      for (let y = 0; y < input.region.h; y += pitch) {
        for (let x = 0; x < input.region.w; x += pitch) {
          const green = k.u16(input.ptr + Math.floor(y) * input.stride + Math.floor(x) * 8, 4)[1]!
          list.push({ x: x * 2 ** level, y: y * 2 ** level, side: (1 - green / 65535) * pitch * 2 ** level })
        }
      }
      return list
    },
    draw: ({ output, kernels: k, level, plan }) => {
      const { x, y, w, h } = output.region
      const scale = 2 ** level
      for (let j = 0; j < h; j++) {
        const row = k.u16(output.ptr + j * output.stride, w * 4)
        for (let i = 0; i < w; i++) {
          const [u, v] = [(x + i + 0.5) * scale, (y + j + 0.5) * scale]
          const inside = plan.some((s) => u >= s.x && u < s.x + s.side && v >= s.y && v < s.y + s.side)
          row.fill(inside ? 0 : 65535, i * 4, i * 4 + 3)
          row[i * 4 + 3] = 65535
        }
      }
    },
  })

  test('is planned once for all tiles and levels, and tiles are the same bits', async () => {
    planned = 0
    const engine = newTestEngine(kernels, sources)
    const node = over(squares, { pitch: 24 })
    const want = await read(engine, node, { grid: { w: 4096, h: 4096 } })
    for (const grid of grids) expect(await read(engine, node, { grid })).toEqual(want)
    const quarter = await read(engine, node, { level: 2 })
    expect(planned).toBe(1)
    // the same squares, a quarter the size
    const dark = (v: Uint16Array) => v.filter((s, i) => i % 4 === 0 && s === 0).length / (v.length / 4)
    expect(dark(want)).toBeGreaterThan(0.1)
    expect(Math.abs(dark(quarter) - dark(want))).toBeLessThan(0.02)
  })
})

describe('twice the size', () => {
  test('a photo is enlarged by cubic interpolation (Keys 1981): a parabola stays one', async () => {
    const f = (x: number, y: number) => Math.round(9000 + 120 * x + 0.5 * x * x + 90 * y)
    const bytes = new Uint16Array(80 * 60 * 3)
    for (let i = 0; i < 80 * 60; i++) bytes.fill(f((i % 80) + 0.5, Math.floor(i / 80) + 0.5), i * 3, i * 3 + 3)
    const smooth = 'f'.repeat(64)
    await sources.add(kernels, smooth, { width: 80, height: 60, channels: 3, depth: 16 }, new Uint8Array(bytes.buffer))
    const photo = new GraphCompiler(artworkFromPhoto({ asset: smooth, width: 80, height: 60, title: 't' }), kernels.hash).compile({ type: 'artwork' })
    const got = await read(newTestEngine(kernels, sources), photo, { level: -1 })
    expect(got.length).toBe(160 * 120 * 4)
    let far = 0
    for (let y = 8; y < 112; y++) for (let x = 8; x < 152; x++) far = Math.max(far, Math.abs(got[(y * 160 + x) * 4]! - f((x + 0.5) / 2, (y + 0.5) / 2)))
    expect(far).toBeLessThanOrEqual(2)
    for (const grid of grids) expect(await read(newTestEngine(kernels, sources), photo, { level: -1, grid })).toEqual(got)
    const twice = await read(newTestEngine(kernels, sources), photo, { level: -2, region: { x: 100, y: 80, w: 40, h: 20 } })
    for (let i = 0; i < 800; i++) expect(Math.abs(twice[i * 4]! - f((100 + (i % 40) + 0.5) / 4, (80 + Math.floor(i / 40) + 0.5) / 4))).toBeLessThanOrEqual(2)
  })

  test('lengths are twice as many pixels: a blur looks the same', async () => {
    const a = artworkFromPhoto({ asset, width: W, height: H, title: 't' })
    a.layers[0]!.chain = [newStep('gaussian-blur', { sigma: { value: 4, unit: 'px' } }), newStep('levels', { black: 20, white: 230 })]
    const one = await compute(newTestEngine(kernels, sources), a)
    const two = await compute(newTestEngine(kernels, sources), a, { level: -1 })
    for (const grid of grids) expect((await compute(newTestEngine(kernels, sources), a, { level: -1, grid })).pixels).toEqual(two.pixels)
    let far = 0
    for (let y = 2; y < H - 2; y += 3) {
      for (let x = 2; x < W - 2; x += 3) {
        const at = (dx: number, dy: number) => two.pixels[((2 * y + dy) * 2 * W + 2 * x + dx) * 4 + 1]!
        far = Math.max(far, Math.abs((at(0, 0) + at(1, 0) + at(0, 1) + at(1, 1)) / 4 - one.pixels[(y * W + x) * 4 + 1]!))
      }
    }
    expect(far).toBeLessThan(2 * 257)
  })
})
