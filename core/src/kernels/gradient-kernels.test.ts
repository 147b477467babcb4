import sharp from 'sharp'
import { join } from 'node:path'
import { edgePictures, premultipliedOf, reader } from '../testing/edge-pictures.ts'
import { rgba, withKernel, type Rgba } from '../testing/kernel-run.ts'
import { openCv } from '../testing/opencv.ts'
import type { Kernels } from './kernels.ts'
import { loadKernels } from './load-node.ts'

const SOBEL = 0.25
const SCHARR = 0.1875
let kernels: Kernels
let photo: Rgba
beforeAll(async () => {
  kernels = await loadKernels()
  const { data } = await sharp(join(__dirname, '../../../demo/photos/heron-on-post.jpg'))
    .extract({ left: 600, top: 300, width: 150, height: 110 })
    .raw()
    .toBuffer({ resolveWithObject: true })
  photo = rgba(data, 150, 110, 3)
})

const gradient = (p: Rgba, side: number) =>
  withKernel(
    kernels,
    p,
    1,
    { w: p.w, h: p.h, bytes: 8 },
    (s, ss, d, ds) => kernels.raw.gradient(s, ss, d, ds, p.w, p.h, 0.2126, 0.7152, 0.0722, side),
    (d) => kernels.f32(d, p.w * p.h * 2).slice(),
  )
const tensor = (p: Rgba, side: number) =>
  withKernel(
    kernels,
    p,
    1,
    { w: p.w, h: p.h, bytes: 16 },
    (s, ss, d, ds) => kernels.raw.structureTensor(s, ss, d, ds, p.w, p.h, side),
    (d) => kernels.f32(d, p.w * p.h * 4).slice(),
  )

/** Derivatives across and down of one channel by OpenCV, in tones a pixel. */
async function byOpenCv(values: Float32Array, w: number, h: number, how: 'Sobel' | 'Scharr'): Promise<[Float32Array, Float32Array]> {
  const { cv } = await openCv()
  const a = cv.matFromArray(h, w, cv.CV_32FC1, values)
  // OpenCV's weights are whole numbers over two pixels: Sobel's sum to 8, Scharr's to 32
  const out = [
    [1, 0],
    [0, 1],
  ].map(([dx, dy]) => {
    const b = new cv.Mat()
    if (how === 'Sobel') cv.Sobel(a, b, cv.CV_32F, dx!, dy!, 3, 1 / 8, 0, cv.BORDER_REPLICATE)
    else cv.Scharr(a, b, cv.CV_32F, dx!, dy!, 1 / 32, 0, cv.BORDER_REPLICATE)
    const copy = b.data32F.slice()
    b.delete()
    return copy
  })
  a.delete()
  return out as [Float32Array, Float32Array]
}

test.each([
  ['Sobel', SOBEL],
  ['Scharr', SCHARR],
] as const)('%s of a natural picture and of edge cases agrees with OpenCV', async (how, side) => {
  for (const [, p] of [['photo', photo] as const, ...edgePictures()]) {
    const n = p.w * p.h
    const pre = premultipliedOf(p)
    const channel = (f: (i: number) => number) => Float32Array.from({ length: n }, (_, i) => f(i * 4))
    const luma = channel((i) => 0.2126 * pre[i]! + 0.7152 * pre[i + 1]! + 0.0722 * pre[i + 2]!)
    const [gx, gy] = await byOpenCv(luma, p.w, p.h, how)
    const ours = gradient(p, side)
    // float32 sums in another order
    for (let i = 0; i < n; i++) expect(Math.max(Math.abs(ours[i * 2]! - gx[i]!), Math.abs(ours[i * 2 + 1]! - gy[i]!))).toBeLessThan(2e-6)
    const want = new Float64Array(n * 3)
    for (let c = 0; c < 3; c++) {
      const [x, y] = await byOpenCv(
        channel((i) => pre[i + c]!),
        p.w,
        p.h,
        how,
      )
      for (let i = 0; i < n; i++) {
        want[i * 3]! += x[i]! * x[i]!
        want[i * 3 + 1]! += x[i]! * y[i]!
        want[i * 3 + 2]! += y[i]! * y[i]!
      }
    }
    const t = tensor(p, side)
    for (let i = 0; i < n; i++) for (let k = 0; k < 3; k++) expect(Math.abs(t[i * 4 + k]! - want[i * 3 + k]!)).toBeLessThan(2e-6)
  }
})

test('a ramp has its own slope everywhere, and an edge its direction', () => {
  const [w, h] = [20, 12]
  const p: Rgba = { w, h, v: Uint16Array.from({ length: w * h * 4 }, (_, i) => (i % 4 === 3 ? 65535 : 1000 + ((i >> 2) % w) * 1310.7)) }
  const at = reader(gradient(p, SOBEL), w, h)
  const g = gradient(p, SOBEL)
  for (let y = 0; y < h; y++) {
    for (let x = 1; x < w - 1; x++) {
      expect(g[(y * w + x) * 2]).toBeCloseTo(1310.7 / 65535, 4)
      expect(g[(y * w + x) * 2 + 1]).toBeCloseTo(0, 6)
    }
  }
  expect(at(0, 0, 0)).toBeGreaterThan(0)
})
