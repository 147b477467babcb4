import { newStep } from '../artwork/layers.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import { contains, grow, type Region } from '../base/region.ts'
import { GraphCompiler } from '../engine/graph.ts'
import { paramsAt, type StepNode } from '../engine/levels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { newTestEngine, testPicture } from '../testing/pictures.ts'
import { addOtherPicture, settingsOf } from '../testing/settings.ts'
import type { NeighbourhoodStep } from './contract.ts'
import { olderSteps, steps } from './registry.ts'

// What a step says it looks at is all that it looks at: whatever lies round it, near the origin or far from it, at any level, its pixels are
// the same. And a larger region never needs less.

const asset = 'b'.repeat(64)
const [W, H] = [260, 190]
/** Pixels of poison round what is needed. */
const ROUND = 9
let kernels: Kernels
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 3, depth: 8 }, testPicture(W, H))
  await addOtherPicture(kernels, sources)
})

const around = [...steps, ...olderSteps].filter((s) => s.kind === 'neighbourhood')

test.each(around.map((s) => [`${s.id}@${s.version}`, s] as const))('%s looks at what it says', async (_, def) => {
  const step = def as NeighbourhoodStep & typeof def
  const engine = newTestEngine(kernels, sources)
  for (const [setting, given] of settingsOf(def, 1, 60)) {
    const artwork = artworkFromPhoto({ asset, width: W, height: H, title: 't' })
    artwork.layers[0]!.chain = [{ ...newStep(def.id), version: def.version, params: { ...def.defaults, ...given } }]
    const node = new GraphCompiler(artwork, kernels.hash).compile({ type: 'artwork' }) as StepNode
    const { facts } = await engine.known(node)
    for (const level of [-1, 0, 1, 3]) {
      const params = paramsAt(def, node.params, level) as never
      const cells = step.cells?.(params) || 1
      const bytes = cells > 1 ? 16 : 8
      for (const [x, y] of [
        [3, 5],
        [20_001, -19_998],
        [-20_000, 20_003],
      ] as const) {
        const region: Region = { x, y, w: 23, h: 11 }
        const need = step.needs(region, params, level)
        for (const part of [
          { ...region, h: 1 },
          { ...region, y: y + 10, h: 1 },
          { ...region, x: x + 5, w: 3 },
        ])
          expect(contains(need, step.needs(part, params, level))).toBe(true)
        const input = cells > 1 ? { x: need.x / cells, y: need.y / cells, w: need.w / cells, h: need.h / cells } : need
        for (const v of Object.values(input)) expect(Number.isInteger(v)).toBe(true)
        const all = grow(input, ROUND)
        // a far reach is looked at once
        if (all.w * all.h > 150_000) continue
        const made: Buffer[] = []
        for (const poison of [0x1111, 0xeeee]) {
          const stride = all.w * bytes
          const src = kernels.allocator.alloc(stride * all.h)
          const out = kernels.allocator.alloc(region.w * region.h * 8)
          for (let j = 0; j < all.h; j++) {
            const inside = j >= ROUND && j < all.h - ROUND
            const row = bytes === 8 ? kernels.u16(src + j * stride, all.w * 4) : kernels.f32(src + j * stride, all.w * 4)
            for (let i = 0; i < row.length; i++) {
              const at = Math.floor(i / 4)
              // any picture will do, as long as it is the same one
              const v =
                inside && at >= ROUND && at < all.w - ROUND
                  ? i % 4 === 3
                    ? 65535
                    : (Math.imul(at * 7 + j * 131 + (i % 4) * 29, 2654435761) >>> 17) * 2
                  : poison
              row[i] = bytes === 8 ? v : v / 65535
            }
          }
          kernels.bytes(out, region.w * region.h * 8).fill(0)
          const pic = { ptr: src + ROUND * stride + ROUND * bytes, stride, region: input }
          const output = { ptr: out, stride: region.w * 8, region }
          const pause = async () => undefined
          await step.run(
            { input: pic, output, kernels, level, quick: false, facts: facts as never, extent: artwork.field, planes: {}, others: {}, pause },
            params,
          )
          made.push(Buffer.from(kernels.bytes(out, region.w * region.h * 8)))
          kernels.allocator.free(src)
          kernels.allocator.free(out)
        }
        expect([setting, level, x, made[0]!.equals(made[1]!)]).toEqual([setting, level, x, true])
      }
    }
  }
  engine.clear()
})
