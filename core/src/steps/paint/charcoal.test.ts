import { loadKernels } from '../../kernels/load-node.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { layingOf } from '../../testing/laying.ts'
import { stepById } from '../registry.ts'
import type { Drawing } from './charcoal.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

const [W, H] = [180, 120]
const hand = {
  stick: 7,
  rubbed: 0.5,
  closeness: 0.6,
  accents: 0,
  lights: 0.5,
  key: 0,
  hand: 58,
  length: 40,
  wobble: 0.3,
  paper: '#b9ac97',
  ink: '#1d1a18',
  chalk: '#f5f0e6',
  seed: 4,
}
async function charcoalOf(code: (x: number, y: number) => number, change: Partial<typeof hand> = {}): Promise<Drawing> {
  const pixels = Uint8Array.from({ length: W * H * 3 }, (_, i) => code(Math.floor(i / 3) % W, Math.floor(i / 3 / W)))
  const { lay } = stepById('charcoal') as unknown as { lay: (work: unknown, p: object) => Promise<Drawing> }
  return lay(await layingOf(kernels, pixels, W, H), { ...hand, ...change })
}
/** What is laid: the weights of all places, each by its breadth; in a part of the sheet. */
function laidIn({ pigments }: Drawing, which: 0 | 1, within: (x: number) => boolean = () => true): number {
  const { points } = pigments[which]!.marks
  let sum = 0
  for (let i = 0; i < points.length; i += 4) if (within(points[i]!)) sum += points[i + 2]! * points[i + 3]!
  return sum
}

test('the paper is the middle value: darker is charcoal, lighter is chalk, and what is as it is stays bare', async () => {
  // #b9ac97 is about as light as 173
  const dark = await charcoalOf(() => 30)
  const middle = await charcoalOf(() => 173)
  const light = await charcoalOf(() => 240)
  expect(laidIn(dark, 0)).toBeGreaterThan(500)
  expect(laidIn(dark, 1)).toBe(0)
  expect([laidIn(middle, 0), laidIn(middle, 1)]).toEqual([0, 0])
  expect(laidIn(light, 0)).toBe(0)
  expect(laidIn(light, 1)).toBeGreaterThan(300)
  // a middling dark takes less than a deep one, and no chalk where none is wanted
  expect(laidIn(await charcoalOf(() => 100), 0)).toBeLessThan(0.7 * laidIn(dark, 0))
  expect(laidIn(await charcoalOf(() => 240, { lights: 0 }), 1)).toBe(0)
})

test('each tone keeps to its side of an edge, and accents are laid in the deepest darks alone', async () => {
  const two = (x: number) => (x < 90 ? 20 : 235)
  const plain = await charcoalOf(two)
  expect(laidIn(plain, 0, (x) => x > 96)).toBeLessThan(0.01 * laidIn(plain, 0))
  expect(laidIn(plain, 1, (x) => x < 84)).toBeLessThan(0.01 * laidIn(plain, 1))
  const accented = await charcoalOf(two, { accents: 1 })
  expect(laidIn(accented, 0)).toBeGreaterThan(1.1 * laidIn(plain, 0))
  const grey = (x: number) => (x < 90 ? 110 : 120)
  expect(laidIn(await charcoalOf(grey, { accents: 1 }), 0)).toBeCloseTo(laidIn(await charcoalOf(grey), 0), 6)
})
