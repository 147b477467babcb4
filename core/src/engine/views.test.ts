import { newLayer, newStep } from '../artwork/layers.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import type { Artwork } from '../artwork/schema.ts'
import { atLevel, intersect, isEmpty, union, type Region } from '../base/region.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from '../steps/contract.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { computeNode, dice, newTestEngine, testPicture } from '../testing/pictures.ts'
import type { Engine } from './engine.ts'
import { GraphCompiler } from './graph.ts'

// Views at random, one after the other, inside the sheet and beyond it, at any level, of artworks gone back and forth between: each shows what a new
// engine computes, and leaves out nothing.

const asset = 'e'.repeat(64)
/** More than one tile of a view each way. */
const [W, H] = [1130, 790]
let kernels: Kernels
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 4, depth: 8 }, testPicture(W, H, 4))
})

const photo = { type: 'photo', asset, width: W, height: H } as const
const base = artworkFromPhoto({ asset, width: W, height: H, title: 'views' })
const artworks: Artwork[] = [
  { ...base, layers: [newLayer('Photo', photo, [newStep('invert')], 'a')] },
  { ...base, layers: [newLayer('Photo', photo, [newStep('gaussian-blur'), newStep('threshold')], 'a')] },
  // smaller than the sheet, and beyond it
  {
    ...base,
    layers: [
      newLayer('Photo', photo, [newStep('unsharp-mask')], 'a'),
      {
        ...newLayer('Laid', photo, [newStep('posterize')], 'b'),
        placement: { matrix: [0.4, -0.1, 700, 0.1, 0.4, -90, 0, 0, 1], pivot: null },
        opacity: 0.6,
      },
    ],
  },
]

/** What no part of a view was put over. */
const CANARY = 0x5eaf00d5eaf00d5en

test.each(Array.from({ length: 8 }, (_, i) => i))('views %d show what a new engine computes', async (seed) => {
  const next = dice(4400 + seed)
  const whole = (n: number) => Math.floor(next() * n)
  const worn = newTestEngine(kernels, sources, seed % 2 ? 6_000_000 : 64_000_000)
  const nodes = artworks.map((a) => new GraphCompiler(a, kernels.hash).compile({ type: 'artwork' }))
  for (let i = 0; i < 10; i++) {
    const node = nodes[whole(nodes.length)]!
    const level = whole(3)
    const beyond = next() < 0.5
    const sheet: Region = { x: 0, y: 0, w: W, h: H }
    const asked = beyond
      ? { x: -whole(300), y: -whole(300), w: W + 300 + whole(80), h: H + 300 + whole(80) }
      : { x: whole(W / 2), y: whole(H / 2), w: 200 + whole(W), h: 150 + whole(H) }
    const region = intersect(atLevel(asked, level), atLevel(beyond ? union(sheet, asked) : sheet, level))
    const settled = next() < 0.4
    const view = { node, level, region, ...(settled ? { settled: { sheet: beyond ? union(sheet, asked) : sheet } } : {}) }
    const seen = async (engine: Engine) => {
      const pixels = new BigUint64Array(region.w * region.h).fill(CANARY)
      await engine.view(view, (pic) => put(pixels, region, pic), { keep: 'view' })
      return pixels
    }
    const shown = await seen(worn)
    const fresh = newTestEngine(kernels, sources)
    const wanted = settled ? await seen(fresh) : new BigUint64Array((await computeNode(fresh, node, { level, region })).pixels.buffer)
    fresh.clear()
    const wrong = shown.findIndex((v, k) => v !== wanted[k])
    expect({ i, level, beyond, settled, left: shown.includes(CANARY), at: wrong < 0 ? null : [wrong % region.w, Math.floor(wrong / region.w)] }).toEqual({
      i,
      level,
      beyond,
      settled,
      left: false,
      at: null,
    })
  }
  worn.clear()
})

/** Copies pixels to where they belong. */
function put(to: BigUint64Array, region: Region, pic: Pic): void {
  const part = intersect(pic.region, region)
  if (isEmpty(part)) return
  for (let y = part.y; y < part.y + part.h; y++) {
    const row = new BigUint64Array(kernels.memory.buffer, pic.ptr + (y - pic.region.y) * pic.stride + (part.x - pic.region.x) * 8, part.w)
    to.set(row, (y - region.y) * region.w + part.x - region.x)
  }
}
