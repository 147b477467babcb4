import { newStep } from '../../artwork/layers.ts'
import { artworkFromPhoto } from '../../artwork/load.ts'
import { GraphCompiler } from '../../engine/graph.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { MemorySources } from '../../testing/memory-source.ts'
import { formsPicture, newTestEngine } from '../../testing/pictures.ts'
import { stepById } from '../registry.ts'

// What painted techniques cost as pictures grow. Lengths are usual ones, shares of the picture: what is planned is then as much whatever the picture's size, and what is
// drawn of a region looks at what meets it alone.

let kernels: Kernels
let sources: MemorySources
// both are planned at the same size: the study and the colours have at most so many pixels
const sizes = [
  { asset: '1'.repeat(64), width: 800, height: 600 },
  { asset: '2'.repeat(64), width: 1600, height: 1200 },
] as const
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  for (const { asset, width, height } of sizes) await sources.add(kernels, asset, { width, height, channels: 3, depth: 8 }, formsPicture(width, height))
})
afterEach(() => jest.restoreAllMocks())

/** Bytes of all arrays in a plan. */
function bytesOf(value: unknown): number {
  if (ArrayBuffer.isView(value)) return value.byteLength
  if (typeof value !== 'object' || value === null) return 8
  return Object.values(value).reduce((sum: number, part) => sum + bytesOf(part), 0)
}

async function drawn(id: string, params: Record<string, unknown>, { asset, width, height }: (typeof sizes)[number], side: number): Promise<unknown> {
  const a = artworkFromPhoto({ asset, width, height, title: 't' })
  a.layers[0]!.chain = [newStep(id, params)]
  let plan: unknown
  const def = stepById(id) as unknown as { lay: (work: unknown, p: unknown) => Promise<unknown> }
  const lay = def.lay
  jest.spyOn(def, 'lay').mockImplementation(async (work, p) => (plan = await lay(work, p)))
  const node = new GraphCompiler(a, kernels.hash).compile({ type: 'artwork' })
  await newTestEngine(kernels, sources).view({ node, level: 0, region: { x: 300, y: 200, w: side, h: side } }, () => undefined)
  jest.restoreAllMocks()
  return plan
}

test.each(['wash', 'smear', 'pastel', 'charcoal', 'coloured-pencil', 'broad-brush', 'flowing-oil', 'paper-shapes'])(
  '%s plans as much for four times as many pixels',
  async (id) => {
    const [small, large] = [bytesOf(await drawn(id, {}, sizes[0], 64)), bytesOf(await drawn(id, {}, sizes[1], 64))]
    expect(small).toBeGreaterThan(1000)
    expect(large / small).toBeLessThan(1.25)
    expect(large / small).toBeGreaterThan(0.8)
  },
)

test('a region of smeared colour looks at what the drag reaches, a wash at no more blooms than there are', async () => {
  const smear = jest.spyOn(kernels.raw, 'smear')
  await drawn('smear', { drag: { value: 40, unit: 'px' } }, sizes[1], 128)
  const looked = smear.mock.calls.reduce((sum, a) => sum + a[4] * a[5], 0)
  const written = smear.mock.calls.reduce((sum, a) => sum + a[8] * a[9], 0)
  expect(written).toBeGreaterThanOrEqual(128 * 128)
  // 40 pixels and the breadth of a sample beyond, on each side
  for (const a of smear.mock.calls) expect(Math.max(a[4] - a[8], a[5] - a[9])).toBeLessThanOrEqual(2 * (40 + 4))
  expect(looked).toBeLessThan(6 * written)
  const bloom = jest.spyOn(kernels.raw, 'bloomWash')
  const draws = jest.spyOn(kernels.raw, 'glazesOnPaper')
  await drawn('wash', { blooms: 1, wetness: 0.9 }, sizes[1], 256)
  expect(bloom.mock.calls.length).toBeLessThanOrEqual(10 * draws.mock.calls.length)
})
