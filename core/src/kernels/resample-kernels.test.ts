import sharp from 'sharp'
import { join } from 'node:path'
import { edgePictures, premultipliedOf, straightOf } from '../testing/edge-pictures.ts'
import { picturedBy, rgba, worst, type Rgba } from '../testing/kernel-run.ts'
import { openCv, type OpenCv } from '../testing/opencv.ts'
import type { Kernels } from './kernels.ts'
import { loadKernels } from './load-node.ts'
import { resampleInto, tapsFor, type Resampling } from './taps.ts'

let kernels: Kernels
let cv: OpenCv
let photo: Rgba
beforeAll(async () => {
  kernels = await loadKernels()
  cv = (await openCv()).cv
  const { data } = await sharp(join(__dirname, '../../../demo/photos/tin-boats.jpg'))
    .extract({ left: 700, top: 500, width: 150, height: 110 })
    .raw()
    .toBuffer({ resolveWithObject: true })
  photo = rgba(data, 150, 110, 3)
})

const resampled = (p: Rgba, how: Resampling, w: number, h: number) =>
  picturedBy(kernels, p, 0, (s, ss, d, ds) => resampleInto(kernels, how, { ptr: s, stride: ss, w: p.w, h: p.h }, { ptr: d, stride: ds, w, h }), w, h)
const warped = (p: Rgba, m: [number, number, number, number, number, number], w: number, h: number, from = { x: 0, y: 0 }) =>
  picturedBy(kernels, p, 0, (s, ss, d, ds) => kernels.raw.warp(s, ss, 0, 0, p.w, p.h, d, ds, w, h, from.x, from.y, ...m), w, h)

function byOpenCv(p: Rgba, w: number, h: number, how: number): Rgba {
  const [a, b] = [new cv.Mat(p.h, p.w, cv.CV_16UC4), new cv.Mat()]
  a.data16U.set(p.v)
  cv.resize(a, b, new cv.Size(w, h), 0, 0, how)
  const v = b.data16U.slice()
  a.delete()
  b.delete()
  return { w, h, v }
}

/** An opaque picture whose tone is a function of its place in pixels. */
const drawn = (w: number, h: number, f: (x: number, y: number) => number): Rgba => ({
  w,
  h,
  v: Uint16Array.from({ length: w * h * 4 }, (_, i) => (i % 4 === 3 ? 65535 : Math.round(f(((i >> 2) % w) + 0.5, Math.floor((i >> 2) / w) + 0.5)))),
})

describe('resampling', () => {
  test.each([
    [75, 55],
    [61, 29],
    [7, 5],
    [1, 1],
  ])('by area to %d × %d: as OpenCV, within 1/65535', (w, h) => {
    expect(worst(resampled(photo, 'area', w, h), byOpenCv(photo, w, h, cv.INTER_AREA))).toBeLessThanOrEqual(1)
  })

  test('linear enlargement: as OpenCV within its 11-bit weights', () => {
    expect(worst(resampled(photo, 'linear', 411, 307), byOpenCv(photo, 411, 307, cv.INTER_LINEAR))).toBeLessThan(65535 / 2048)
  })

  test('cubic enlargement reproduces a parabola (Keys 1981: third order for a = −1/2)', () => {
    const f = (x: number, y: number) => 9000 + 300 * x + 2 * x * x + 500 * y - 3 * y * y
    const got = resampled(drawn(60, 50, f), 'cubic', 192, 160)
    for (let y = 16; y < 144; y++) {
      for (let x = 16; x < 176; x++) expect(Math.abs(got.v[(y * 192 + x) * 4]! - f(((x + 0.5) * 60) / 192, ((y + 0.5) * 50) / 160))).toBeLessThan(2)
    }
  })

  test('the nearest pixel: as OpenCV', () => {
    const [w, h] = [97, 61]
    const list = (n: number, from: number) => Int32Array.from({ length: n }, (_, i) => Math.floor((i * from) / n))
    const got = kernels.scratch((w + h) * 4, (at) => {
      new Int32Array(kernels.memory.buffer, at, w).set(list(w, photo.w))
      new Int32Array(kernels.memory.buffer, at + w * 4, h).set(list(h, photo.h))
      return picturedBy(kernels, photo, 0, (s, ss, d, ds) => kernels.raw.pick(s, ss, d, ds, w, h, at, at + w * 4, 4), w, h)
    })
    expect(worst(got, byOpenCv(photo, w, h, cv.INTER_NEAREST))).toBe(0)
  })

  test.each(edgePictures())('%s: the same size is the same picture, and the whole is kept in the mean', (_, p) => {
    for (const how of ['area', 'linear', 'cubic'] as const) {
      // colours of clear pixels are nothing
      expect(worst(resampled(p, how, p.w, p.h), p)).toBeLessThanOrEqual(1)
    }
    const one = resampled(p, 'area', 1, 1)
    const pre = premultipliedOf(p)
    const mean = new Float64Array(4)
    pre.forEach((v, i) => (mean[i % 4]! += v / (p.w * p.h)))
    expect(worst(one, { v: straightOf(mean) })).toBeLessThan(2)
  })

  test('weights sum to one, and no input pixel of a reduction is passed over', () => {
    for (const how of ['area', 'linear', 'cubic'] as const) {
      for (const [from, to] of [
        [100, 7],
        [5, 90],
        [1, 4],
        [3, 2],
      ] as const) {
        const { n, first, weights } = tapsFor(how, from, to)
        const seen = new Set<number>()
        for (let i = 0; i < to; i++) {
          const w = weights.subarray(i * n, (i + 1) * n)
          expect(w.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 5)
          w.forEach((v, k) => v !== 0 && seen.add(first[i]! + k))
          expect(first[i]! + n).toBeLessThanOrEqual(from)
        }
        expect(seen.size).toBe(from)
      }
    }
  })
})

describe('affine warp', () => {
  test.each(edgePictures())('%s: at rest nothing changes; a quarter turn moves pixels whole', (_, p) => {
    const { w, h } = p
    expect(worst(warped(p, [1, 0, 0, 1, 0, 0], w, h), p)).toBeLessThanOrEqual(1)
    // (X, Y) shows what lies at (Y, h − X)
    const turned = warped(p, [0, -1, 1, 0, 0, h], h, w)
    const want = new Uint16Array(p.v.length)
    for (let y = 0; y < w; y++) for (let x = 0; x < h; x++) for (let c = 0; c < 4; c++) want[(y * h + x) * 4 + c] = p.v[((h - 1 - x) * w + y) * 4 + c]!
    expect(worst(turned, { v: want })).toBeLessThanOrEqual(1)
  })

  test('reproduces a parabola under rotation and scale, and is clear outside', () => {
    const f = (x: number, y: number) => 9000 + 200 * x + 2 * x * x + 400 * y - 2 * y * y
    const p = drawn(80, 70, f)
    const [cos, sin] = [Math.cos(0.4) * 0.7, Math.sin(0.4) * 0.7]
    const got = warped(p, [cos, sin, -sin, cos, 30, 10], 120, 90)
    let inside = 0
    let outside = 0
    for (let y = 0; y < 90; y++) {
      for (let x = 0; x < 120; x++) {
        const [u, v] = [cos * (x + 0.5) - sin * (y + 0.5) + 30, sin * (x + 0.5) + cos * (y + 0.5) + 10]
        const i = (y * 120 + x) * 4
        if (u > 3 && v > 3 && u < 77 && v < 67) {
          inside++
          expect(Math.abs(got.v[i]! - f(u, v))).toBeLessThan(2)
          expect(got.v[i + 3]).toBe(65535)
        } else if (u < -2 || v < -2 || u > 82 || v > 72) {
          outside++
          expect([...got.v.subarray(i, i + 4)]).toEqual([0, 0, 0, 0])
        }
      }
    }
    expect(inside).toBeGreaterThan(3000)
    expect(outside).toBeGreaterThan(500)
  })

  test('a part of the result is the same bits as that part of the whole', () => {
    const m: [number, number, number, number, number, number] = [0.8, 0.3, -0.3, 0.8, 20, -4]
    const whole = warped(photo, m, 90, 80)
    const part = warped(photo, m, 31, 17, { x: 40, y: 23 })
    for (let y = 0; y < 17; y++)
      expect(part.v.subarray(y * 31 * 4, (y + 1) * 31 * 4)).toEqual(whole.v.subarray(((y + 23) * 90 + 40) * 4, ((y + 23) * 90 + 71) * 4))
  })

  test('an even shift by half a pixel is what libvips’ cubic makes of it, within 1/255', async () => {
    // nohalo and the like are other methods; bicubic is Catmull-Rom, the same as Keys a = −1/2
    const bytes = Uint8Array.from({ length: photo.w * photo.h * 3 }, (_, i) => photo.v[Math.floor(i / 3) * 4 + (i % 3)]! / 257)
    const { data, info } = await sharp(bytes, { raw: { width: photo.w, height: photo.h, channels: 3 } })
      .affine([1, 0, 0, 1], { idx: 0.5, idy: 0.5, interpolator: 'bicubic' })
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true })
    const ours = warped(photo, [1, 0, 0, 1, -0.5, -0.5], photo.w, photo.h)
    let far = 0
    for (let y = 4; y < photo.h - 4; y++) {
      for (let x = 4; x < photo.w - 4; x++) {
        for (let c = 0; c < 3; c++) far = Math.max(far, Math.abs(ours.v[(y * photo.w + x) * 4 + c]! / 257 - data[(y * info.width + x) * info.channels + c]!))
      }
    }
    expect(far).toBeLessThan(1.5)
  })
})
