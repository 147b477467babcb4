import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { blurred, type Field } from './fields.ts'
import { massesOf } from './masses.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

const held = (v: number, n: number) => Math.min(n - 1, Math.max(0, v))
const now = async () => undefined

/** Means over windows as they are defined, in doubles. */
function meansBy(v: ArrayLike<number>, w: number, h: number, r: number): Float64Array {
  const out = new Float64Array(w * h)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let sum = 0
      for (let j = -r; j <= r; j++) for (let i = -r; i <= r; i++) sum += v[held(y + j, h) * w + held(x + i, w)]!
      out[y * w + x] = sum / (2 * r + 1) ** 2
    }
  return out
}

// He, Sun and Tang, "Guided image filtering", ECCV 2010, equations 5, 6 and 8; rolled as in Zhang, Shen, Xu and Jia, ECCV 2014
test.each([
  [23, 17],
  [24, 16],
  [1, 9],
])('masses are the rolled guided filter as it is defined: %d × %d', async (w, h) => {
  const tone: Field = { w, h, v: Float32Array.from({ length: w * h }, (_, i) => ((i * 37) % 11) / 40 + ((i % w) * 2 > w ? 0.6 : 0.1)) }
  const size = 1.5
  const r = Math.round(1.7 * size)
  const product = (a: ArrayLike<number>, b: ArrayLike<number>) => Float64Array.from({ length: w * h }, (_, i) => a[i]! * b[i]!)
  let guide: ArrayLike<number> = blurred(kernels, tone, size).v
  for (let round = 0; round < 4; round++) {
    const [mi, mp] = [meansBy(guide, w, h, r), meansBy(tone.v, w, h, r)]
    const [mip, mii] = [meansBy(product(guide, tone.v), w, h, r), meansBy(product(guide, guide), w, h, r)]
    const a = mi.map((m, i) => (mip[i]! - m * mp[i]!) / (mii[i]! - m * m + 0.0012))
    const b = mp.map((p, i) => p - a[i]! * mi[i]!)
    const [ma, mb] = [meansBy(a, w, h, r), meansBy(b, w, h, r)]
    const old = guide
    guide = ma.map((m, i) => m * old[i]! + mb[i]!)
  }
  const { v } = await massesOf(kernels, tone, size, now)
  for (let i = 0; i < w * h; i++) expect(v[i]!).toBeCloseTo(Math.min(1, Math.max(0, guide[i]!)), 4)
})

test('kernel memory is given back, also where it is given up half way', async () => {
  const before = kernels.allocator.bytesInUse
  const tone: Field = { w: 64, h: 50, v: new Float32Array(64 * 50).fill(0.3) }
  await massesOf(kernels, tone, 2, now)
  expect(kernels.allocator.bytesInUse).toBe(before)
  let left = 7
  const stops = async () => {
    if (--left === 0) throw new Error('stopped')
  }
  await expect(massesOf(kernels, tone, 2, stops)).rejects.toThrow('stopped')
  expect(kernels.allocator.bytesInUse).toBe(before)
})
