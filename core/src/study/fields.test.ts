import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { at, averageIn, between, blurred, doubled, field, halved, slopes, type Field } from './fields.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

const made = (w: number, h: number, f: (x: number, y: number) => number): Field => {
  const out = field(w, h)
  for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) out.v[y * w + x] = f(x, y)
  return out
}
const wavy = (w: number, h: number) => made(w, h, (x, y) => 0.5 + 0.3 * Math.sin(x * 0.7 + y * 0.3) + 0.2 * Math.cos(y * 1.1))
const held = (v: number, n: number) => Math.min(n - 1, Math.max(0, v))

test.each([
  [1, 1],
  [7, 3],
  [40, 31],
  [41, 30],
  [131, 17],
])('means of windows are those of the definition, in float64: %d × %d', (w, h) => {
  const f = wavy(w, h)
  for (const r of [1, 4, 50]) {
    const got = kernels.scratch(w * h * 8, (plane) => {
      kernels.f32(plane, w * h).set(f.v)
      averageIn(kernels, plane, plane + w * h * 4, w, h, r)
      return { v: kernels.f32(plane, w * h).slice() }
    })
    for (let y = 0; y < h; y += 3)
      for (let x = 0; x < w; x += 3) {
        let sum = 0
        for (let j = -r; j <= r; j++) for (let i = -r; i <= r; i++) sum += f.v[held(y + j, h) * w + held(x + i, w)]!
        expect(got.v[y * w + x]!).toBeCloseTo(sum / (2 * r + 1) ** 2, 5)
      }
  }
})

test('three means come near the Gaussian of the same deviation: within a fifth of its peak', () => {
  for (const sigma of [2, 3.7, 8]) {
    const n = 101
    const point = made(n, n, (x, y) => (x === 50 && y === 50 ? 1 : 0))
    const got = blurred(kernels, point, sigma)
    let [mass, spread] = [0, 0]
    const peak = 1 / (2 * Math.PI * sigma * sigma)
    for (let y = 0; y < n; y++)
      for (let x = 0; x < n; x++) {
        const [dx, dy] = [x - 50, y - 50]
        const v = got.v[y * n + x]!
        mass += v
        spread += v * dx * dx
        expect(Math.abs(v - peak * Math.exp(-(dx * dx + dy * dy) / (2 * sigma * sigma)))).toBeLessThan(0.2 * peak)
      }
    expect(mass).toBeCloseTo(1, 4)
    // whole windows reach whole pixels: the deviation is met within 9 %
    expect(Math.abs(Math.sqrt(spread) / sigma - 1)).toBeLessThan(0.09)
  }
})

test('a blur leaves what it is given as it was', () => {
  const f = wavy(20, 20)
  const before = f.v.slice()
  expect(blurred(kernels, f, 0.2).v).toEqual(before)
  blurred(kernels, f, 3)
  expect(f.v).toEqual(before)
})

test.each([
  [13, 9],
  [12, 10],
  [3, 1],
  [1, 4],
])('slopes, half and twice the size are those of the definition, borders repeated: %d × %d', (w, h) => {
  const f = wavy(w, h)
  const v = (x: number, y: number) => f.v[held(y, h) * w + held(x, w)]!
  const s = slopes(kernels, f)
  const half = halved(kernels, f)
  const twice = doubled(kernels, f, 2 * w - 1, 2 * h)
  expect([half.w, half.h]).toEqual([Math.ceil(w / 2), Math.ceil(h / 2)])
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const [across, down] = [-1, 0, 1].reduce(
        ([a, d], k) => {
          const part = k === 0 ? 10 / 32 : 3 / 32
          return [a! + part * (v(x + 1, y + k) - v(x - 1, y + k)), d! + part * (v(x + k, y + 1) - v(x + k, y - 1))]
        },
        [0, 0],
      )
      expect(s.x.v[y * w + x]!).toBeCloseTo(across!, 6)
      expect(s.y.v[y * w + x]!).toBeCloseTo(down!, 6)
      expect(half.v[(y >> 1) * half.w + (x >> 1)]!).toBeCloseTo(
        (v(x & ~1, y & ~1) + v((x & ~1) + 1, y & ~1) + v(x & ~1, (y & ~1) + 1) + v((x & ~1) + 1, (y & ~1) + 1)) / 4,
        6,
      )
      // a quarter of the way to the neighbour on its side
      for (const [i, j] of [
        [0, 0],
        [1, 0],
        [0, 1],
        [1, 1],
      ] as const) {
        if (2 * x + i >= twice.w) continue
        const [a, b] = [x + (i ? 1 : -1), y + (j ? 1 : -1)]
        const want = 0.75 * (0.75 * v(x, y) + 0.25 * v(a, y)) + 0.25 * (0.75 * v(x, b) + 0.25 * v(a, b))
        expect(twice.v[(2 * y + j) * twice.w + 2 * x + i]!).toBeCloseTo(want, 6)
      }
    }
})

test('slopes of a plane are its own, everywhere but at its border', () => {
  const s = slopes(
    kernels,
    made(12, 9, (x, y) => 0.02 * x - 0.03 * y),
  )
  for (let y = 1; y < 8; y++)
    for (let x = 1; x < 11; x++) {
      expect(s.x.v[y * 12 + x]!).toBeCloseTo(0.02, 6)
      expect(s.y.v[y * 12 + x]!).toBeCloseTo(-0.03, 6)
    }
})

test('between pixels values lie on straight lines, beyond the border they stay', () => {
  const f = made(5, 4, (x, y) => x + 10 * y)
  expect(at(f, 1.25, 2.5)).toBeCloseTo(26.25, 6)
  expect([at(f, -3, -3), at(f, 9, 9)]).toEqual([0, 34])
  expect(
    at(
      made(1, 1, () => 7),
      0.4,
      3,
    ),
  ).toBe(7)
})

test('halved and doubled: a slope stays a slope, odd sizes too', () => {
  for (const [w, h] of [
    [20, 16],
    [21, 15],
  ] as const) {
    const f = made(w, h, (x, y) => 0.1 * x + 0.05 * y)
    const back = doubled(kernels, halved(kernels, f), w, h)
    for (let y = 3; y < h - 3; y++) for (let x = 3; x < w - 3; x++) expect(back.v[y * w + x]!).toBeCloseTo(f.v[y * w + x]!, 5)
  }
})

test('between two tones the way is smooth and its ends are flat', () => {
  expect([between(0.1, 0.2, 0.6), between(0.4, 0.2, 0.6), between(0.9, 0.2, 0.6)]).toEqual([0, expect.closeTo(0.5, 9), 1])
})
