import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { crestsOf, type CrestRules } from './crests.ts'
import { field } from './fields.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})
const breathe = async () => undefined
const rules: CrestRules = { high: 0.5, low: 0.25, bridge: 4, shortest: 6, apart: 1.5 }
const made = (w: number, h: number, f: (x: number, y: number) => number) => {
  const out = field(w, h)
  for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) out.v[y * w + x] = f(x, y)
  return out
}
/** A crest of height 1 as far as a distance says. */
const ridge = (d: number) => Math.exp(-(d * d) / 4.5)

test('a ring is one closed line that lies on it within a third of a pixel', async () => {
  const lines = await crestsOf(
    kernels,
    made(120, 120, (x, y) => ridge(Math.hypot(x - 60.4, y - 59.7) - 40)),
    rules,
    breathe,
  )
  expect(lines).toHaveLength(1)
  expect(lines[0]!.closed).toBe(true)
  expect(lines[0]!.points.length).toBeGreaterThan(230)
  for (const p of lines[0]!.points) expect(Math.abs(Math.hypot(p.x - 60.4, p.y - 59.7) - 40)).toBeLessThan(0.34)
})

test('a straight crest of any direction is one line from end to end', async () => {
  for (const degrees of [0, 17, 45, 73, 90, 130]) {
    const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
    const lines = await crestsOf(
      kernels,
      made(120, 120, (x, y) => (Math.hypot(x - 60, y - 60) < 45 ? ridge((y - 60) * c - (x - 60) * s) : 0)),
      rules,
      breathe,
    )
    expect(lines).toHaveLength(1)
    expect(lines[0]!.points.length).toBeGreaterThan(84)
  }
})

test('a gap as long as may be bridged is gone over, a longer one is not', async () => {
  const broken = (gap: number) => made(120, 40, (x, y) => (Math.abs(x - 60) < gap / 2 ? 0 : ridge(y - 20)))
  expect(await crestsOf(kernels, broken(4), { ...rules, bridge: 8 }, breathe)).toHaveLength(1)
  expect(await crestsOf(kernels, broken(20), { ...rules, bridge: 8 }, breathe)).toHaveLength(2)
})

test('a line that comes upon another ends there and says so', async () => {
  // a stem, less high, upon a bar
  const t = made(100, 100, (x, y) => Math.max(ridge(y - 30), y > 30 ? 0.8 * ridge(x - 50) : 0))
  const lines = await crestsOf(kernels, t, rules, breathe)
  expect(lines).toHaveLength(2)
  const [bar, stem] = lines.sort((a, b) => b.points.length - a.points.length)
  expect(bar!.meets).toEqual([false, false])
  expect(stem!.meets.filter(Boolean)).toHaveLength(1)
})

test('what is too low, too short or too dear is not followed', async () => {
  const one = made(80, 40, (x, y) => (x > 10 && x < 70 ? 0.6 * ridge(y - 20) : 0))
  expect(await crestsOf(kernels, one, rules, breathe)).toHaveLength(1)
  expect(await crestsOf(kernels, one, { ...rules, high: 0.7 }, breathe)).toHaveLength(0)
  expect(await crestsOf(kernels, one, { ...rules, shortest: 90 }, breathe)).toHaveLength(0)
  const half = await crestsOf(kernels, one, { ...rules, dear: (x) => (x > 40 ? 9 : 1) }, breathe)
  expect(half).toHaveLength(1)
  expect(Math.max(...half[0]!.points.map((p) => p.x))).toBeLessThan(48)
  expect(await crestsOf(kernels, field(3, 3), rules, breathe)).toEqual([])
})

test('the work grows with the lines, not with their number times the picture', async () => {
  const pauses = async (n: number) => {
    let count = 0
    await crestsOf(
      kernels,
      made(64 * n, 64, (_, y) => ridge((y % 16) - 8)),
      rules,
      async () => void count++,
    )
    return count
  }
  expect(await pauses(64)).toBeLessThan(6 * (await pauses(16)))
})
