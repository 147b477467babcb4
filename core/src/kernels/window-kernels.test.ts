import sharp from 'sharp'
import { join } from 'node:path'
import { edgePictures, premultipliedOf, reader, straightOf } from '../testing/edge-pictures.ts'
import { picturedBy, rgba, worst, type Rgba } from '../testing/kernel-run.ts'
import { openCv, type OpenCv } from '../testing/opencv.ts'
import { dice } from '../testing/pictures.ts'
import type { Kernels } from './kernels.ts'
import { loadKernels } from './load-node.ts'

// globals are slow to reach under Jest
const { round, floor } = Math
let kernels: Kernels
let cv: OpenCv
let photo: Rgba
beforeAll(async () => {
  kernels = await loadKernels()
  cv = (await openCv()).cv
  const { data } = await sharp(join(__dirname, '../../../demo/photos/lantern-stall.jpg'))
    .extract({ left: 500, top: 400, width: 160, height: 120 })
    .raw()
    .toBuffer({ resolveWithObject: true })
  photo = rgba(data, 160, 120, 3)
})

const boxed = (p: Rgba, r: number) => picturedBy(kernels, p, r, (s, ss, d, ds) => kernels.raw.boxMean(s, ss, d, ds, p.w, p.h, r))
type Medians = 'medianSmall' | 'medianWide' | 'medianExact'
const median = (p: Rgba, r: number, by: Medians) => picturedBy(kernels, p, r, (s, ss, d, ds) => kernels.raw[by](s, ss, d, ds, p.w, p.h, r))

/** Weights by nearness on a disc. */
function discs(r: number, sigma: number): Float32Array {
  const n = 2 * r + 1
  return Float32Array.from({ length: n * n }, (_, i) => {
    const d = ((i % n) - r) ** 2 + (floor(i / n) - r) ** 2
    return d <= r * r ? Math.exp(-d / (2 * sigma * sigma)) : 0
  })
}
const smoothed = (p: Rgba, r: number, near: number, like: number) =>
  kernels.scratch((2 * r + 1) ** 2 * 4, (at) => {
    kernels.f32(at, (2 * r + 1) ** 2).set(discs(r, near))
    return picturedBy(kernels, p, r, (s, ss, d, ds) => kernels.raw.bilateral(s, ss, d, ds, p.w, p.h, r, at, 1 / (2 * like * like)))
  })
const daubed = (p: Rgba, r: number, bins: number) => picturedBy(kernels, p, r, (s, ss, d, ds) => kernels.raw.toneMode(s, ss, d, ds, p.w, p.h, r, bins))

function byOpenCv(p: Rgba, work: (a: InstanceType<OpenCv['Mat']>, b: InstanceType<OpenCv['Mat']>) => void): Rgba {
  const [a, b] = [new cv.Mat(p.h, p.w, cv.CV_16UC4), new cv.Mat()]
  a.data16U.set(p.v)
  work(a, b)
  const v = b.data16U.slice()
  const { cols: w, rows: h } = b
  a.delete()
  b.delete()
  return { w, h, v }
}

describe('against OpenCV on a natural picture', () => {
  test.each([1, 4, 19])('box mean, radius %d: within 1/65535', (r) => {
    const theirs = byOpenCv(photo, (a, b) => cv.blur(a, b, new cv.Size(2 * r + 1, 2 * r + 1), new cv.Point(-1, -1), cv.BORDER_REPLICATE))
    expect(worst(boxed(photo, r), theirs)).toBeLessThanOrEqual(1)
  })

  test.each([1, 2])('median, radius %d: the same bits', (r) => {
    const theirs = byOpenCv(photo, (a, b) => cv.medianBlur(a, b, 2 * r + 1))
    // the wide form works in 256 tones, and an 8-bit photo has no more
    for (const by of ['medianSmall', 'medianWide', 'medianExact'] as const) expect(worst(median(photo, r, by), theirs)).toBe(0)
  })

  test.each([1, 2])('median, radius %d, of 16 bits: the same bits', (r) => {
    const next = dice(5)
    const deep: Rgba = { ...photo, v: photo.v.map((v, i) => (i % 4 === 3 ? v : Math.min(65535, v + floor(next() * 900)))) }
    const theirs = byOpenCv(deep, (a, b) => cv.medianBlur(a, b, 2 * r + 1))
    for (const by of ['medianSmall', 'medianExact'] as const) expect(worst(median(deep, r, by), theirs)).toBe(0)
  })

  test('bilateral: within 1/255 on grey, where both measures of colour agree', () => {
    const grey: Rgba = { ...photo, v: photo.v.map((_, i, v) => (i % 4 === 3 ? 65535 : v[i - (i % 4) + 1]!)) }
    const [r, near, like] = [6, 3, 0.1]
    const [a, b] = [new cv.Mat(grey.h, grey.w, cv.CV_32FC3), new cv.Mat()]
    a.data32F.set(Array.from({ length: grey.w * grey.h * 3 }, (_, i) => grey.v[floor(i / 3) * 4]! / 65535))
    // OpenCV adds up three differences, ours is Euclidean
    cv.bilateralFilter(a, b, 2 * r + 1, like * Math.sqrt(3), near, cv.BORDER_REPLICATE)
    const ours = smoothed(grey, r, near, like)
    let far = 0
    for (let i = 0; i < grey.w * grey.h; i++) far = Math.max(far, Math.abs(ours.v[i * 4]! / 65535 - b.data32F[i * 3]!))
    expect(far * 255).toBeLessThan(1)
    a.delete()
    b.delete()
  })
})

describe.each(edgePictures())('against the definition: %s', (_, p) => {
  const { w, h } = p
  const at = reader(premultipliedOf(p), w, h)

  test.each([1, 3, 9])('box mean, radius %d', (r) => {
    const want = new Float64Array(w * h * 4)
    for (let i = 0; i < want.length; i++) {
      const [x, y] = [(i >> 2) % w, floor((i >> 2) / w)]
      let sum = 0
      for (let dy = -r; dy <= r; dy++) for (let dx = -r; dx <= r; dx++) sum += at(x + dx, y + dy, i % 4)
      want[i] = sum / (2 * r + 1) ** 2
    }
    // premultiplied codes are rounded before and the straight result after: 1.5 steps, and a 64th a column
    expect(worst(boxed(p, r), { v: straightOf(want) })).toBeLessThan(2)
  })

  test.each([
    [1, 'medianSmall'],
    [2, 'medianSmall'],
    [1, 'medianWide'],
    [3, 'medianWide'],
    [7, 'medianWide'],
    [1, 'medianExact'],
    [3, 'medianExact'],
    [7, 'medianExact'],
  ] as const)('median, radius %d, by %s', (r, by) => {
    const bins = (v: number) => (by === 'medianWide' ? round(v * 255) / 255 : round(v * 65535) / 65535)
    const want = new Float64Array(w * h * 4)
    for (let i = 0; i < want.length; i++) {
      const [x, y] = [(i >> 2) % w, floor((i >> 2) / w)]
      const all: number[] = []
      for (let dy = -r; dy <= r; dy++) for (let dx = -r; dx <= r; dx++) all.push(bins(round(at(x + dx, y + dy, i % 4) * 65535) / 65535))
      want[i] = all.sort((a, b) => a - b)[((2 * r + 1) ** 2 - 1) / 2]!
    }
    // to premultiplied codes and back: 1 step each
    expect(worst(median(p, r, by), { v: straightOf(want) })).toBeLessThan(2)
  })

  // 3 by a network, 6 by counting
  test.each([3, 6])('median on all 16 bits, radius %d: exactly the middle one, where every high byte has many low ones', (r) => {
    // more high bytes than are counted at once, over a width of more than one block, with a ramp and noise
    const [wide, high] = [211, 40]
    const next = dice(9)
    const deep: Rgba = {
      w: wide,
      h: high,
      v: Uint16Array.from({ length: wide * high * 4 }, (_, i) => (i % 4 === 3 ? 65535 : floor(((i >> 2) % wide) * 300 + next() * 2000))),
    }
    const got = median(deep, r, 'medianExact').v
    const held = (v: number, most: number) => Math.max(0, Math.min(most - 1, v))
    for (let y = 0; y < high; y += 3) {
      for (let x = 0; x < wide; x += 3) {
        for (let c = 0; c < 3; c++) {
          const all: number[] = []
          for (let dy = -r; dy <= r; dy++) for (let dx = -r; dx <= r; dx++) all.push(deep.v[(held(y + dy, high) * wide + held(x + dx, wide)) * 4 + c]!)
          expect(got[(y * wide + x) * 4 + c]).toBe(all.sort((a, b) => a - b)[((2 * r + 1) ** 2 - 1) / 2])
        }
      }
    }
  })

  test('bilateral: within 1/255 of the weights in float64', () => {
    const [r, near, like] = [3, 2, 0.15]
    const weights = discs(r, near)
    const n = 2 * r + 1
    const straight = reader(
      Float64Array.from(p.v, (v) => v / 65535),
      w,
      h,
    )
    const want = new Float64Array(w * h * 4)
    for (let i = 0; i < w * h; i++) {
      const [x, y] = [i % w, floor(i / w)]
      const sum = [0, 0, 0, 0]
      let norm = 0
      for (let k = 0; k < n * n; k++) {
        const [u, v] = [x + (k % n) - r, y + floor(k / n) - r]
        let d = 0
        for (let c = 0; c < 3; c++) d += (straight(u, v, c) - straight(x, y, c)) ** 2
        const weight = weights[k]! * Math.exp(-d / (2 * like * like))
        norm += weight
        for (let c = 0; c < 4; c++) sum[c]! += weight * at(u, v, c)
      }
      for (let c = 0; c < 4; c++) want[i * 4 + c] = sum[c]! / norm
    }
    // the kernel's exponential is (1 − x/128)¹²⁸, up to 0.4 % of a weight from it
    expect(worst(smoothed(p, r, near, like), { v: straightOf(want) }) / 257).toBeLessThan(1)
  })

  test.each([
    [2, 8],
    [5, 24],
  ])('tone mode, radius %d, %d bins', (r, bins) => {
    const ours = daubed(p, r, bins)
    const codes = reader(
      Float64Array.from(premultipliedOf(p), (v) => round(v * 65535)),
      w,
      h,
    )
    const straight = reader(p.v, w, h)
    const off: number[] = []
    for (let i = 0; i < w * h; i++) {
      const [x, y] = [i % w, floor(i / w)]
      const sums = Array.from({ length: bins }, () => [0, 0, 0, 0])
      for (let dy = -r; dy <= r; dy++) {
        for (let dx = -r; dx <= r; dx++) {
          const l = floor((straight(x + dx, y + dy, 0) * 13933 + straight(x + dx, y + dy, 1) * 46871 + straight(x + dx, y + dy, 2) * 4732) / 65536)
          const bin = sums[floor((l * bins) / 65536)]!
          for (let c = 0; c < 4; c++) bin[c]! += codes(x + dx, y + dy, c)
        }
      }
      const best = sums.reduce((a, b) => (b[3]! > a[3]! ? b : a))
      for (let c = 0; c < 3; c++) {
        const colour = best[3]! > 0 ? Math.min(1, best[c]! / best[3]!) * 65535 : 0
        off.push(Math.abs((ours.v[i * 4 + c]! - colour) * (p.v[i * 4 + 3]! / 65535)))
      }
      expect(ours.v[i * 4 + 3]).toBe(p.v[i * 4 + 3])
    }
    // a premultiplied code that falls on a half may be rounded either way
    expect(Math.max(...off)).toBeLessThan(2)
  })
})
