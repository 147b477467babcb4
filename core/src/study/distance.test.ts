import { dice } from '../testing/pictures.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { distanceTo, grownBy, insideOf } from './distance.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

test('distances are those found by looking at every pixel', () => {
  const next = dice(4)
  for (const [w, h, share] of [
    [31, 17, 0.02],
    [9, 40, 0.3],
    [1, 12, 0.2],
    [24, 1, 0.1],
    [150, 20, 0.9],
  ] as const) {
    const is = Uint8Array.from({ length: w * h }, () => (next() < share ? 1 : 0))
    is[3] = 1
    const found = distanceTo(kernels, is, w, h)
    const inside = insideOf(kernels, is, w, h)
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        let least = Infinity
        for (let j = 0; j < h; j++) for (let i = 0; i < w; i++) if (is[j * w + i]) least = Math.min(least, (x - i) ** 2 + (y - j) ** 2)
        expect(found.v[y * w + x]).toBeCloseTo(Math.sqrt(least), 4)
        // to the other side of a border: that of the marks alone, or of all but them
        let other = Infinity
        for (let j = 0; j < h; j++)
          for (let i = 0; i < w; i++) if (is[j * w + i] !== is[y * w + x]) other = Math.min(other, Math.sqrt((x - i) ** 2 + (y - j) ** 2))
        expect(inside.v[y * w + x]).toBeCloseTo(is[y * w + x] ? other - 0.5 : 0.5 - other, 4)
      }
  }
})

test('a border runs between the pixels inside and those outside', () => {
  const is = Uint8Array.from({ length: 100 }, (_, i) => (i % 10 >= 4 ? 1 : 0))
  const d = insideOf(kernels, is, 10, 10)
  expect(Array.from(d.v.subarray(50, 60))).toEqual([-3.5, -2.5, -1.5, -0.5, 0.5, 1.5, 2.5, 3.5, 4.5, 5.5])
})

test('where there is nothing, or nothing else, all lies far outside, or far inside', () => {
  expect(Math.max(...insideOf(kernels, new Uint8Array(12), 4, 3).v)).toBeLessThan(-1000)
  expect(Math.min(...insideOf(kernels, new Uint8Array(12).fill(1), 4, 3).v)).toBeGreaterThan(1000)
})

test('a shape grown by so much is what lies so near to it, across and down, by looking at every pixel', () => {
  const next = dice(9)
  for (const by of [0, 1, 3, 50]) {
    const [w, h] = [23, 14]
    const is = Uint8Array.from({ length: w * h }, () => (next() < 0.03 ? 1 : 0))
    const near = Uint8Array.from(is, (_, i) =>
      is.some((v, k) => v === 1 && Math.abs((k % w) - (i % w)) <= by && Math.abs(((k / w) | 0) - ((i / w) | 0)) <= by) ? 1 : 0,
    )
    expect(grownBy(is, w, h, by)).toEqual(near)
  }
})
