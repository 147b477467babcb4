import { loadKernels } from '../../kernels/load-node.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { field, mapped, type Field } from '../../study/fields.ts'
import { familiesOf, sharesOf } from './colour-families.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

const pause = async () => undefined
const p = { unlike: 0.4, sigma: 1, least: 20, reach: 8, gap: 0, deal: 1 }
type Rgb = readonly [number, number, number]
function picture(w: number, h: number, at: (x: number, y: number) => Rgb): [Field, Field, Field] {
  const out = [field(w, h), field(w, h), field(w, h)] as [Field, Field, Field]
  for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) at(x, y).forEach((v, c) => (out[c]!.v[y * w + x] = v))
  return out
}
const covered = (w: number, h: number) => new Float32Array(w * h).fill(1)
const RED: Rgb = [0.75, 0.24, 0.18]
const GREEN: Rgb = [0.24, 0.38, 0.2]
const BLUE: Rgb = [0.25, 0.35, 0.6]
const [W, H] = [120, 80]

test('areas of one colour are a family, however light or dark; their border lies where they meet', async () => {
  // each half from dark to light down the picture
  const shaded = ([r, g, b]: Rgb, y: number): Rgb => {
    const k = 0.4 + (0.9 * y) / H
    return [r * k, g * k, b * k]
  }
  const of = picture(W, H, (x, y) => shaded(x < 70 ? RED : GREEN, y))
  const found = (await familiesOf(kernels, of, covered(W, H), p, pause))!
  expect(found.kinds).toBe(2)
  const first = found.labels.of[0]
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      expect(found.labels.of[y * W + x] === first).toBe(x < 70)
      expect(found.border.v[y * W + x]).toBeCloseTo(x < 70 ? 69.5 - x : x - 69.5, 4)
    }
  expect(found.found.v[40 * W + 69]).toBeGreaterThan(0.95)
})

test('where one colour goes over into another bit by bit, no border is found, and they are mixed', async () => {
  const of = picture(W, H, (x) => {
    const t = Math.min(1, Math.max(0, (x - 10) / 100))
    return [0, 1, 2].map((c) => RED[c]! * (1 - t) + GREEN[c]! * t) as unknown as Rgb
  })
  const found = (await familiesOf(kernels, of, covered(W, H), p, pause))!
  expect(found.kinds).toBeGreaterThanOrEqual(2)
  expect(Math.min(...found.border.v)).toBeGreaterThan(1000)
  const shares = sharesOf(kernels, found, 8)
  // nowhere does a share leap
  for (const { v } of shares) for (let x = 1; x < W; x++) expect(Math.abs(v[40 * W + x]! - v[40 * W + x - 1]!)).toBeLessThan(0.12)
})

test('shares add up to one, and are whole beside a border that is found', async () => {
  const of = picture(W, H, (x, y) => (x < 50 ? RED : y < 40 ? GREEN : BLUE))
  const found = (await familiesOf(kernels, of, covered(W, H), p, pause))!
  expect(found.kinds).toBe(3)
  const shares = sharesOf(kernels, found, 8)
  for (let i = 0; i < W * H; i++) expect(shares.reduce((sum, s) => sum + s.v[i]!, 0)).toBeCloseTo(1, 4)
  const at = 20 * W + 48
  expect(shares[found.labels.of[at]!]!.v[at]).toBeGreaterThan(0.98)
})

test('a grey picture, one of a single colour, and an empty one have no families; what is clear does not count', async () => {
  const half = mapped(field(W, H), (_, i) => (i % W < 60 ? 1 : 0)).v
  const none = async (at: (x: number, y: number) => Rgb, cover: Float32Array = covered(W, H)) =>
    expect(await familiesOf(kernels, picture(W, H, at), cover, p, pause)).toBeNull()
  await none((x) => [x / W, x / W, x / W])
  await none(() => RED)
  await none(() => RED, new Float32Array(W * H))
  await none((x) => (x < 60 ? RED : BLUE), half)
})

test('of many colours there are at most six families, and none of what is smaller than asked for', async () => {
  const of = picture(W, H, (x, y) => {
    const hue = (Math.floor(x / 10) * 30 * Math.PI) / 180
    return y > 70 && x < 3 ? [0.9, 0.1, 0.9] : [0.5 + 0.4 * Math.cos(hue), 0.5 + 0.4 * Math.cos(hue - 2.1), 0.5 + 0.4 * Math.cos(hue + 2.1)]
  })
  const { kinds, labels } = (await familiesOf(kernels, of, covered(W, H), { ...p, unlike: 0.2, least: 100 }, pause))!
  expect(kinds).toBeLessThanOrEqual(6)
  const counts = new Map<number, number>()
  for (const k of labels.of) counts.set(k, (counts.get(k) ?? 0) + 1)
  for (const n of counts.values()) expect(n).toBeGreaterThanOrEqual(100)
})

test('where washes touch, the border is further than half a pixel, nowhere by more than the gap', async () => {
  const of = picture(W, H, (x) => (x < 70 ? RED : GREEN))
  const [bare, kept] = [await familiesOf(kernels, of, covered(W, H), p, pause), await familiesOf(kernels, of, covered(W, H), { ...p, gap: 3 }, pause)]
  const off = kept!.border.v.map((v, i) => v - bare!.border.v[i]!)
  expect(Math.min(...off)).toBeGreaterThanOrEqual(0)
  expect(Math.max(...off)).toBeCloseTo(3, 3)
  // here and there a hair of paper is left
  expect(off.filter((v) => v < 1).length).toBeGreaterThan(0.05 * W * H)
})
