import sharp from 'sharp'
import { loadKernels } from '../../kernels/load-node.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { dice, testPicture } from '../../testing/pictures.ts'
import { blurReach, blurWhole } from './blurred.ts'
import { gaussianPlan } from './gaussian-blur.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

/** Blurs a whole RGBA16 picture with replicated edges. */
function blur(pixels: Uint16Array, w: number, h: number, sigma: number): Uint16Array {
  const region = { x: 0, y: 0, w, h }
  const need = blurReach(region, sigma)
  const src = kernels.allocator.alloc(need.w * need.h * 8)
  const dst = kernels.allocator.alloc(w * h * 8)
  const view = kernels.u16(src, need.w * need.h * 4)
  for (let y = 0; y < h; y++) view.set(pixels.subarray(y * w * 4, (y + 1) * w * 4), ((y - need.y) * need.w - need.x) * 4)
  kernels.raw.replicateEdges(src, need.w * 8, need.w, need.h, -need.x, -need.y, w - need.x, h - need.y)
  blurWhole(kernels, { ptr: src, stride: need.w * 8, region: need }, { ptr: dst, stride: w * 8, region }, sigma)
  const out = kernels.u16(dst, w * h * 4).slice()
  kernels.allocator.free(src)
  kernels.allocator.free(dst)
  return out
}

/** The oracle: separable float64 convolution of premultiplied values, kernel to 6 deviations, replicated edges. */
function oracle(pixels: Uint16Array, w: number, h: number, sigma: number): Float64Array {
  const r = Math.ceil(sigma * 6)
  const k = Float64Array.from({ length: 2 * r + 1 }, (_, i) => Math.exp(-((i - r) ** 2) / (2 * sigma * sigma)))
  const sum = k.reduce((a, b) => a + b, 0)
  let a = Float64Array.from(pixels, (v, i) => (i % 4 === 3 ? v : (v * pixels[i - (i % 4) + 3]!) / 65535))
  // globals are slow to reach under Jest
  const { min, max, floor } = Math
  for (const [across, step, length] of [
    [true, 1, w],
    [false, w, h],
  ] as const) {
    const out = new Float64Array(a.length)
    for (let i = 0; i < w * h; i++) {
      const at = across ? i % w : floor(i / w)
      for (let c = 0; c < 4; c++) {
        let v = 0
        for (let j = -r; j <= r; j++) v += k[j + r]! * a[(i + (min(length - 1, max(0, at + j)) - at) * step) * 4 + c]!
        out[i * 4 + c] = v / sum
      }
    }
    a = out
  }
  return a
}

const widen = (bytes: Uint8Array) => Uint16Array.from(bytes, (v) => v * 257)

describe.each([0.4, 1, 2.3, 4.5, 4.6, 7, 9.3, 20, 41])('Gaussian blur, sigma %d', (sigma) => {
  test('lies within 1/255 of the float64 convolution, with alpha and on hard edges', () => {
    const w = 83
    const h = 49
    const soft = widen(testPicture(w, h, 4))
    const next = dice(2)
    const hard = Uint16Array.from({ length: w * h * 4 }, (_, i) => (i % 4 === 3 ? 65535 : next() < 0.5 ? 0 : 65535))
    // a single bright line and a step, the hardest for a reduced grid
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) for (let c = 0; c < 3; c++) hard[(y * w + x) * 4 + c] = x === 30 || x > 70 ? 65535 : y > 30 ? hard[(y * w + x) * 4 + c]! : 0
    for (const pixels of [soft, hard]) {
      const got = blur(pixels, w, h, sigma)
      const want = oracle(pixels, w, h, sigma)
      let worst = 0
      for (let i = 0; i < got.length; i++) {
        const value = i % 4 === 3 ? got[i]! : (got[i]! * got[i - (i % 4) + 3]!) / 65535
        worst = Math.max(worst, Math.abs(value - want[i]!))
      }
      expect(worst / 257).toBeLessThan(1)
    }
  })
})

test('a level picture stays exactly as it is', () => {
  const flat = new Uint16Array(40 * 30 * 4).fill(30000).map((v, i) => (i % 4 === 3 ? 65535 : v))
  for (const sigma of [0.7, 3, 12, 60]) expect(Math.max(...blur(flat, 40, 30, sigma).map((v, i) => Math.abs(v - flat[i]!)))).toBeLessThanOrEqual(1)
})

test('pictures one pixel wide or high are blurred along their length only', () => {
  const line = widen(testPicture(1, 90))
  const rgba = Uint16Array.from({ length: 360 }, (_, i) => (i % 4 === 3 ? 65535 : line[Math.floor(i / 4) * 3 + (i % 4)]!))
  const got = blur(rgba, 1, 90, 3)
  const want = oracle(rgba, 1, 90, 3)
  expect(Math.max(...got.map((v, i) => Math.abs(v - want[i]!)))).toBeLessThan(257)
  expect([...blur(Uint16Array.from([1, 2, 3, 65535]), 1, 1, 9)]).toEqual([1, 2, 3, 65535])
})

test('libvips blurs the same within 1.5/255 (it rounds to bytes after each of its two passes)', async () => {
  const w = 160
  const h = 120
  const bytes = testPicture(w, h)
  const rgba = Uint16Array.from({ length: w * h * 4 }, (_, i) => (i % 4 === 3 ? 65535 : bytes[Math.floor(i / 4) * 3 + (i % 4)]! * 257))
  for (const sigma of [1.5, 4, 12]) {
    const vips = await sharp(bytes, { raw: { width: w, height: h, channels: 3 } })
      .blur({ sigma, minAmplitude: 0.002, precision: 'float' })
      .raw()
      .toBuffer()
    const got = blur(rgba, w, h, sigma)
    let worst = 0
    for (let i = 0; i < w * h; i++) for (let c = 0; c < 3; c++) worst = Math.max(worst, Math.abs(got[i * 4 + c]! / 257 - vips[i * 3 + c]!))
    expect(worst).toBeLessThan(1.5)
  }
})

test('the reduced grid leaves at least two deviations to do on it', () => {
  for (let s = 4.6; s < 400; s *= 1.1) {
    const plan = gaussianPlan(s)
    expect(plan.sigma).toBeGreaterThan(2)
    // what reduction, blur and enlargement widen together is the wanted variance
    expect(plan.sigma ** 2 * plan.f ** 2 + (2 * plan.f ** 2 + 1) / 12 + plan.f ** 2 / 4).toBeCloseTo(s * s, 6)
  }
})
