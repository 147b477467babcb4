import { rgba, type Rgba } from '../testing/kernel-run.ts'
import { dice } from '../testing/pictures.ts'
import type { Kernels } from './kernels.ts'
import { loadKernels } from './load-node.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})
const { abs, floor, max, round } = Math

/** Noise, its alpha too where it is asked for. */
function noisy(w: number, h: number, seed: number, alpha: boolean): Rgba {
  const next = dice(seed)
  return rgba(
    Uint8Array.from({ length: w * h * 4 }, (_, i) => (i % 4 === 3 && !alpha ? 255 : round(255 * next()))),
    w,
    h,
    4,
  )
}
const premultiplied = ({ v, w }: Rgba, x: number, y: number): number[] => {
  const i = (y * w + x) * 4
  const a = v[i + 3]! / 65535
  return [0, 1, 2].map((c) => (v[i + c]! / 65535) * a).concat(a)
}

/** The definition: straight out of Kopf et al. 2007, with the weights that the kernel names, in float64. */
function byDefinition(own: Rgba, guide: Rgba, result: Rgba, f: number, [x0, y0, left, top]: readonly number[], k: number): Float64Array {
  const out = new Float64Array(own.w * own.h * 4)
  const spline = (t: number) => (abs(t) <= 0.5 ? 0.75 - t * t : abs(t) < 1.5 ? 0.5 * (1.5 - abs(t)) ** 2 : 0)
  for (let y = 0; y < own.h; y++)
    for (let x = 0; x < own.w; x++) {
      const p = premultiplied(own, x, y)
      const [u, v] = [(x0! + x + 0.5) / f - 0.5, (y0! + y + 0.5) / f - 0.5]
      const sum = [0, 0, 0, 0]
      let all = 0
      for (let j = floor(v + 0.5) - 1; j <= floor(v + 0.5) + 1; j++)
        for (let i = floor(u + 0.5) - 1; i <= floor(u + 0.5) + 1; i++) {
          const g = premultiplied(guide, i - left!, j - top!)
          const d = g.reduce((s, c, n) => s + (c - p[n]!) ** 2, 0)
          const weight = (spline(i - u) * spline(j - v)) / (1 + k * d) ** 2
          premultiplied(result, i - left!, j - top!).forEach((c, n) => (sum[n]! += c * weight))
          all += weight
        }
      const a = sum[3]! / all
      for (let c = 0; c < 3; c++) out[(y * own.w + x) * 4 + c] = a > 0 ? sum[c]! / all / a : 0
      out[(y * own.w + x) * 4 + 3] = a
    }
  return out
}

test.each([
  [2, 0, 0, false],
  [4, 13, 7, false],
  [8, -19, -30, true],
])('cells of %d pixels from (%d, %d): within 2/65535 of the definition, where it covers', (f, x0, y0, alpha) => {
  const [w, h] = [37, 29]
  const [left, top] = [floor(x0 / f) - 1, floor(y0 / f) - 1]
  const [cw, ch] = [floor((x0 + w - 1) / f) + 2 - left, floor((y0 + h - 1) / f) + 2 - top]
  const [own, guide, result] = [noisy(w, h, 1, alpha), noisy(cw, ch, 2, alpha), noisy(cw, ch, 3, alpha)]
  const put = (p: Rgba) => {
    const at = kernels.allocator.alloc(p.v.length * 2)
    kernels.u16(at, p.v.length).set(p.v)
    return at
  }
  const [a, b, c] = [put(own), put(guide), put(result)]
  const to = kernels.allocator.alloc(w * h * 8)
  kernels.raw.jointEnlarge(a, w * 8, b, cw * 8, c, cw * 8, to, w * 8, w, h, x0, y0, f, left, top, 100)
  const got = kernels.u16(to, w * h * 4).slice()
  for (const ptr of [a, b, c, to]) kernels.allocator.free(ptr)
  const want = byDefinition(own, guide, result, f, [x0, y0, left, top], 100)
  let off = 0
  for (let i = 0; i < want.length; i++) {
    const cover = want[i | 3]!
    // of what hardly covers the colour is not seen
    if (cover > 0.02) off = max(off, abs(got[i]! - 65535 * want[i]!) * (i % 4 === 3 ? 1 : cover))
  }
  expect(off).toBeLessThan(2)
})

test('a border of the picture is one of the result: it stands where it stood at full size', () => {
  // a border that runs through the middle of a cell
  const [w, h, f] = [64, 16, 8]
  const at = 35
  const tone = (v: number) => [v, v, v, 65535]
  const own = { w, h, v: Uint16Array.from({ length: w * h }, (_, i) => (i % w < at ? 10000 : 50000)).reduce<number[]>((all, v) => all.concat(tone(v)), []) }
  const [cw, ch] = [w / f + 2, h / f + 2]
  const cell = (i: number) => (i - 1 < floor(at / f) ? 10000 : i - 1 > floor(at / f) ? 50000 : 10000 + (40000 * (f - (at % f))) / f)
  const guide = Array.from({ length: cw * ch }, (_, i) => tone(cell(i % cw))).flat()
  const ptrs = [Uint16Array.from(own.v), Uint16Array.from(guide)].map((v) => {
    const p = kernels.allocator.alloc(v.length * 2)
    kernels.u16(p, v.length).set(v)
    return p
  })
  const to = kernels.allocator.alloc(w * h * 8)
  kernels.raw.jointEnlarge(ptrs[0]!, w * 8, ptrs[1]!, cw * 8, ptrs[1]!, cw * 8, to, w * 8, w, h, 0, 0, f, -1, -1, 100)
  const row = kernels.u16(to + 8 * w * 8, w * 4)
  expect(row[(at - 2) * 4]!).toBeLessThan(18000)
  expect(row[(at + 1) * 4]!).toBeGreaterThan(42000)
  for (const p of [...ptrs, to]) kernels.allocator.free(p)
})
