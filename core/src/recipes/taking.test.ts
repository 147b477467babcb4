import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { studyOf, type Study } from '../study/study.ts'
import { suitabilityOf } from '../study/suitability.ts'
import { dice } from '../testing/pictures.ts'
import { recipeById, recipes } from './registry.ts'
import { loadRecipe } from '../artwork/load.ts'
import { takingOf } from './taking.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

const [W, H] = [320, 240]
/** A study of a picture whose pixels are given as grey 0…255. */
async function studied(grey: (x: number, y: number) => number): Promise<Study> {
  const ptr = kernels.allocator.alloc(W * H * 8)
  const to = kernels.u16(ptr, W * H * 4)
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const v = Math.round(Math.min(255, Math.max(0, grey(x, y)))) * 257
      to.set([v, v, v, 65535], (y * W + x) * 4)
    }
  const study = await studyOf({ input: { ptr, stride: W * 8, region: { x: 0, y: 0, w: W, h: H } }, kernels, level: 0, pause: async () => undefined })
  kernels.allocator.free(ptr)
  return study
}
const disc = (inside: number, outside: number) => (x: number, y: number) => ((x - W / 2) ** 2 + (y - H / 2) ** 2 < 70 ** 2 ? inside : outside)

test('the spread of tones is what a picture has of them, whatever its outliers', async () => {
  const of = async (low: number, high: number) => suitabilityOf(await studied((x) => (x < 2 ? 0 : low + ((high - low) * x) / W)), 3000, 10).spread
  expect(await of(0, 255)).toBeCloseTo(0.9, 1)
  expect(await of(100, 140)).toBeLessThan(0.2)
})

test('noise is found as what was added', async () => {
  const next = dice(5)
  // a sum of twelve dice is about normal, deviation 1 (common practice)
  const normal = () => Array.from({ length: 12 }, next).reduce((s, v) => s + v, -6)
  const { noise } = suitabilityOf(await studied((x, y) => disc(170, 80)(x, y) + 9 * normal()), 3000, 10)
  expect(noise).toBeGreaterThan(6.5)
  expect(noise).toBeLessThan(11)
  expect(suitabilityOf(await studied(disc(170, 80)), 3000, 10).noise).toBeLessThan(2)
})

test('a light disc on a dark ground stands apart, one hardly lighter does not; a soft one is soft', async () => {
  const apart = suitabilityOf(await studied(disc(220, 40)), 3000, 10)
  // as a sitter in grey before a grey wall in shade: tones of both go from dark to light
  const alike = suitabilityOf(await studied((x, y) => disc(14, 0)(x, y) + 60 + (130 * y) / H + 8 * ((x >> 3) & 1)), 3000, 10)
  expect(apart.apart).toBeGreaterThan(2 * alike.apart)
  const slope = (wide: number) => (x: number, y: number) => 60 + 140 / (1 + Math.exp((Math.sqrt((x - W / 2) ** 2 + (y - H / 2) ** 2) - 70) / wide))
  const [sharp, soft] = [suitabilityOf(await studied(slope(0.4)), 3000, 10).sharp, suitabilityOf(await studied(slope(7)), 3000, 10).sharp]
  expect(sharp).toBeGreaterThan(soft + 0.2)
})

test('contrasts everywhere are busy, few forms are not; pixels are counted on the print', async () => {
  const next = dice(7)
  const cells = Array.from({ length: 64 * 64 }, () => 40 + 180 * next())
  const woods = suitabilityOf(await studied((x, y) => cells[(y >> 2) * 64 + ((x >> 2) % 64)]!), 3000, 10)
  const calm = suitabilityOf(await studied(disc(200, 60)), 3000, 10)
  expect(woods.busy).toBeGreaterThan(5 * calm.busy)
  expect(woods.density).toBe(300)
})

test('recipes say how they will take, and what would help', () => {
  const good = { spread: 0.8, apart: 0.3, noise: 2, sharp: 0.9, busy: 0.05, density: 300 }
  // every recipe that ships says what it needs
  for (const recipe of recipes) expect([recipe.id, takingOf(recipe, good)]).toEqual([recipe.id, { says: 'will hold', helps: [] }])
  const flat = takingOf(recipeById('pen-and-ink'), { ...good, spread: 0.3 })!
  expect(flat.says).toBe('flat light: lines will be few')
  expect(flat.helps).toHaveLength(1)
  expect(takingOf(recipeById('retro-poster'), { ...good, apart: 0.02, busy: 0.4 })!.helps).toHaveLength(2)
  // one of somebody's own may say it, or not
  expect(takingOf({}, good)).toBeNull()
  expect(takingOf({ needs: { few: 'dots will be seen' } }, { ...good, density: 60 })!.says).toBe('few pixels for this print: dots will be seen')
  const own = { ...recipeById('graphite'), id: 'of-my-own' }
  expect(loadRecipe({ ...own, needs: { few: 'dots will be seen' } }).needs).toEqual({ few: 'dots will be seen' })
  expect(() => loadRecipe({ ...own, needs: { dull: 'it will be dull' } })).toThrow()
})
