import { artworkFromPhoto } from '../../artwork/load.ts'
import { newStep } from '../../artwork/layers.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import { rgba, type Rgba } from '../../testing/kernel-run.ts'
import { MemorySources } from '../../testing/memory-source.ts'
import { compute, newTestEngine, testPicture } from '../../testing/pictures.ts'
import { meanOf, painted, through } from '../../testing/through.ts'

const { abs, max, min } = Math
let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})
const px = (value: number) => ({ value, unit: 'px' })
const at = (p: Rgba, x: number, y: number) => [...p.v.subarray((y * p.w + x) * 4, (y * p.w + x) * 4 + 3)]

describe('pixel blocks', () => {
  const p = rgba(testPicture(96, 72), 96, 72, 3)

  test('each tile is the mean of its pixels, flat to its border', async () => {
    const got = await through(kernels, p, [['pixel-blocks', { width: px(12), height: px(8) }]])
    for (const [i, j] of [
      [0, 0],
      [3, 4],
      [7, 8],
    ] as const) {
      const want = [0, 1, 2].map((c) => meanOf(p, c, { x: i * 12, y: j * 8, w: 12, h: 8 }) * 65535)
      for (const [x, y] of [
        [i * 12, j * 8],
        [i * 12 + 11, j * 8 + 7],
        [i * 12 + 5, j * 8 + 3],
      ] as const)
        at(got, x, y).forEach((v, c) => expect(abs(v - want[c]!)).toBeLessThan(2))
    }
  })

  test('joints are as wide everywhere, of their colour, and staggered rows lie half a tile apart', async () => {
    const got = await through(kernels, p, [['pixel-blocks', { width: px(12), height: px(8), joint: px(3), grout: '#ff0000', bond: 'half' }]])
    const red = (x: number, y: number) => at(got, x, y).join() === '65535,0,0'
    const joints = (y: number) => Array.from({ length: 96 }, (_, x) => x).filter((x) => red(x, y))
    expect(joints(1)).toEqual(Array.from({ length: 8 }, (_, i) => [9, 10, 11].map((k) => i * 12 + k)).flat())
    expect(joints(9)).toEqual(Array.from({ length: 8 }, (_, i) => [3, 4, 5].map((k) => i * 12 + k)).flat())
    expect(joints(6)).toHaveLength(96)
  })

  test('tiles of a size that is no whole number keep whole borders and even joints', async () => {
    const got = await through(kernels, p, [['pixel-blocks', { width: px(10.7), height: px(9.3), joint: px(2), grout: '#00ff00' }]])
    const green = (x: number) => at(got, x, 3).join() === '0,65535,0'
    const runs: number[] = []
    for (let x = 0; x < 96; x++) if (green(x) && !green(x - 1)) runs.push([0, 1, 2, 3].findIndex((k) => !green(x + k)))
    expect(new Set(runs)).toEqual(new Set([2]))
    expect(runs.length).toBe(Math.ceil(96 / 10.7))
  })

  test('the grid is dragged: a corner lies at its place', async () => {
    const got = await through(kernels, p, [['pixel-blocks', { width: px(12), height: px(12), joint: px(1), grout: '#0000ff', place: { x: 5 / 96, y: 0 } }]])
    const blue = Array.from({ length: 96 }, (_, x) => x).filter((x) => at(got, x, 3).join() === '0,0,65535')
    expect(blue[0]).toBe(4)
    expect(blue[1]).toBe(16)
  })

  test('the middle pixel instead of the mean', async () => {
    const got = await through(kernels, p, [['pixel-blocks', { width: px(12), height: px(8), taken: 'middle' }]])
    expect(at(got, 25, 17)).toEqual(at(p, 24 + 6, 16 + 4))
  })
})

describe('surface relief', () => {
  /** Mean slope of the tones: how much lighter the side that faces left or up is than the other, over the bumps. */
  async function lit(direction: number, kind: string, depth = 0.6): Promise<Rgba> {
    const flat = painted(200, 200, () => [0.5])
    return through(kernels, flat, [['surface-relief', { kind, pitch: px(20), depth }]], (a) => ({ ...a, lamp: { direction, height: 35 } }))
  }

  test.each(['canvas', 'laid', 'cold-pressed', 'board'])('%s: turning the lamp round swaps light and shade', async (kind) => {
    // the ribs of laid paper lie level: light along them shows nothing
    const turn = kind === 'laid' ? 90 : 0
    const [left, right] = [await lit(180 + turn, kind), await lit(turn, kind)]
    let together = 0
    let count = 0
    for (let i = 0; i < left.v.length; i += 4) {
      const [a, b] = [left.v[i]! - 32768, right.v[i]! - 32768]
      if (abs(a) < 600 || abs(b) < 600) continue
      count++
      if (a * b > 0) together++
    }
    expect(count).toBeGreaterThan(400)
    expect(together / count).toBeLessThan(0.25)
  })

  test('the light comes from the lamp: slopes that face it are light', () => {
    // a field of bumps, read off the kernel's own heights: board lit from the left is lighter where heights rise to the right
    const shade = (lx: number) =>
      kernels.scratch(64 * 64 * 16, (src) => {
        kernels.u16(src, 64 * 64 * 4).fill(32768)
        const dst = src + 64 * 64 * 8
        kernels.raw.relief(src, 512, dst, 512, 64, 64, 0, 0, 0.05, 3, 0.3, lx, 0, 0.7, 5)
        return kernels.u16(dst, 64 * 64 * 4).slice()
      })
    const [left, right] = [shade(-0.7), shade(0.7)]
    let differ = 0
    for (let i = 0; i < left.length; i += 4) if ((left[i]! - 32768) * (right[i]! - 32768) < 0) differ++
    expect(differ / 4096).toBeGreaterThan(0.7)
  })

  test('the flat keeps its colour on the whole, black stays black, and depth 0 changes nothing', async () => {
    for (const kind of ['canvas', 'laid', 'cold-pressed', 'board']) expect(abs(meanOf(await lit(135, kind, 0.3)) - 0.5)).toBeLessThan(0.05)
    const black = await through(
      kernels,
      painted(60, 60, () => [0]),
      [['surface-relief', { depth: 1 }]],
    )
    expect(max(...black.v.filter((_, i) => i % 4 === 0))).toBe(0)
    const none = await through(
      kernels,
      painted(60, 60, () => [0.4]),
      [['surface-relief', { depth: 0 }]],
    )
    expect(max(...none.v.filter((_, i) => i % 4 === 0)) - min(...none.v.filter((_, i) => i % 4 === 0))).toBeLessThanOrEqual(1)
  })

  test('a small picture wanted quickly shows no threads that it cannot hold', async () => {
    const asset = 'a'.repeat(64)
    const sources = new MemorySources()
    await sources.add(kernels, asset, { width: 320, height: 240, channels: 3, depth: 8 }, new Uint8Array(320 * 240 * 3).fill(128))
    const a = artworkFromPhoto({ asset, width: 320, height: 240, title: 't' })
    a.layers[0]!.chain = [newStep('surface-relief', { pitch: px(8), depth: 1 })]
    const spread = async (level: number, quick: boolean) => {
      const v = (await compute(newTestEngine(kernels, sources), a, { level, quick })).pixels.filter((_, i) => i % 4 === 0)
      const mean = v.reduce((s, x) => s + x, 0) / v.length
      return Math.sqrt(v.reduce((s, x) => s + (x - mean) ** 2, 0) / v.length) / 65535
    }
    // at an eighth the full-size relief has averaged out too
    expect(await spread(3, false)).toBeLessThan(0.05)
    expect(await spread(3, true)).toBeLessThan(0.01)
    expect(await spread(0, true)).toBeGreaterThan(0.1)
  })

  test('canvas is woven: threads repeat by the pitch, but no two alike', async () => {
    const p = await lit(135, 'canvas')
    // threads wander: over many rows
    const like = (shift: number) => {
      let [both, own] = [0, 0]
      for (let y = 10; y < 110; y++)
        for (let x = 0; x < 150; x++) {
          const v = p.v[(y * 200 + x) * 4]! - 32768
          both += v * (p.v[(y * 200 + x + shift) * 4]! - 32768)
          own += v * v
        }
      return both / own
    }
    // over and under in turn: two pitches
    expect(max(like(38), like(40), like(42))).toBeGreaterThan(0.25)
    expect(max(like(38), like(40), like(42))).toBeLessThan(0.98)
    expect(like(30)).toBeLessThan(0.85 * like(40))
  })
})

describe('oil daubs', () => {
  test('within the brush’s reach the commonest tone wins, and few tones are left where few are mixed', async () => {
    const p = painted(60, 60, (x, y) => [(x * 13 + y * 7) % 10 < 3 ? 0.9 : 0.3])
    const got = await through(kernels, p, [['oil-daub', { reach: px(5), tones: 8, evenness: 0 }]])
    expect(meanOf(got)).toBeCloseTo(0.3, 2)
  })

  test('evenness rounds the joints', async () => {
    const p = rgba(testPicture(120, 90), 120, 90, 3)
    const rough = async (evenness: number) => {
      const q = await through(kernels, p, [['oil-daub', { reach: px(6), tones: 12, evenness }]])
      let sum = 0
      for (let y = 1; y < 89; y++)
        for (let x = 1; x < 119; x++)
          sum += abs(
            4 * q.v[(y * 120 + x) * 4]! -
              q.v[(y * 120 + x - 1) * 4]! -
              q.v[(y * 120 + x + 1) * 4]! -
              q.v[((y - 1) * 120 + x) * 4]! -
              q.v[((y + 1) * 120 + x) * 4]!,
          )
      return sum
    }
    expect(await rough(1)).toBeLessThan(0.75 * (await rough(0)))
  })
})
