import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { laidLately } from './laid-lately.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

/** Lays `floats` numbers of one value; how often that was done is counted. */
function laying(floats: number) {
  let times = 0
  const put = (of: object, how: string, level: number, x: number, value: number): number =>
    kernels.scratch(floats * 4, (at) => {
      kernels.f32(at, floats).fill(-1)
      laidLately(kernels, of, how, level, { x, y: 0, w: floats, h: 1 }, at, floats, () => {
        times++
        kernels.f32(at, floats).fill(value)
      })
      const there = kernels.f32(at, floats)
      expect(there[0]).toBe(there[floats - 1])
      return there[0]!
    })
  return { put, times: () => times }
}

test('what lies there is put back; another plan, tool, level or place is laid', () => {
  const { put, times } = laying(12)
  const [plan, other] = [{}, {}]
  expect(put(plan, 'soft', 2, 0, 1)).toBe(1)
  expect(put(plan, 'soft', 2, 0, 9)).toBe(1)
  expect(times()).toBe(1)
  expect([put(other, 'soft', 2, 0, 2), put(plan, 'hard', 2, 0, 3), put(plan, 'soft', 3, 0, 4), put(plan, 'soft', 2, 5, 5)]).toEqual([2, 3, 4, 5])
  expect(times()).toBe(5)
  expect([put(plan, 'soft', 2, 0, 9), put(other, 'soft', 2, 0, 9), put(plan, 'hard', 2, 0, 9)]).toEqual([1, 2, 3])
  expect(times()).toBe(5)
})

test('no more is kept than has room, the latest of it; what has no room by itself is laid each time, and drives nothing out', () => {
  const half = laying(4 * 2 ** 20)
  const plans = [{}, {}, {}] as const
  plans.forEach((p, i) => half.put(p, '', 2, 0, i))
  expect(half.put(plans[2], '', 2, 0, 9)).toBe(2)
  expect(half.put(plans[1], '', 2, 0, 9)).toBe(1)
  expect(half.times()).toBe(3)
  const large = laying(8 * 2 ** 20 + 4)
  expect([large.put(plans[0], '', 2, 1, 5), large.put(plans[0], '', 2, 1, 6)]).toEqual([5, 6])
  expect(half.put(plans[1], '', 2, 0, 9)).toBe(1)
  // the first made way
  expect(half.put(plans[0], '', 2, 0, 7)).toBe(7)
  expect(half.times()).toBe(4)
})
