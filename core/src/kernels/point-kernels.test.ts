import { edgePictures } from '../testing/edge-pictures.ts'
import { picturedBy, withKernel } from '../testing/kernel-run.ts'
import { openCv } from '../testing/opencv.ts'
import type { Kernels } from './kernels.ts'
import { loadKernels } from './load-node.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

describe.each(edgePictures())('%s', (_, p) => {
  test('premultiplied and straightened are products and quotients, rounded', () => {
    const to = picturedBy(kernels, p, 0, (s, ss, d, ds) => kernels.raw.premultiplied(s, ss, d, ds, p.w, p.h))
    const back = picturedBy(kernels, to, 0, (s, ss, d, ds) => kernels.raw.straightened(s, ss, d, ds, p.w, p.h))
    for (let i = 0; i < p.v.length; i += 4) {
      const a = p.v[i + 3]!
      expect([to.v[i + 3], back.v[i + 3]]).toEqual([a, a])
      for (let c = 0; c < 3; c++) {
        // float32 holds 24 bits: the product of two 16-bit numbers may round the other way
        expect(Math.abs(to.v[i + c]! - (p.v[i + c]! * a) / 65535)).toBeLessThan(0.51)
        if (a > 0) expect(Math.abs(back.v[i + c]! - Math.min(65535, (to.v[i + c]! / a) * 65535))).toBeLessThan(0.51)
        else expect(back.v[i + c]).toBe(0)
      }
    }
  })

  test('a 3 × 4 matrix gives what OpenCV’s transform gives', async () => {
    const { cv } = await openCv()
    const m = [0.393, 0.769, 0.189, 0.02, 0.349, 0.686, -0.168, 0, -0.272, 0.534, 1.131, -0.1]
    const ours = kernels.scratch(48, (at) => {
      kernels.f32(at, 12).set(m)
      return picturedBy(kernels, p, 0, (s, ss, d, ds) => kernels.raw.matrix(s, ss, d, ds, p.w, p.h, at))
    })
    const [from, to] = [new cv.Mat(p.h, p.w, cv.CV_16UC4), new cv.Mat()]
    from.data16U.set(p.v)
    // four channels in and out, the constant in codes
    const rows = [0, 1, 2].flatMap((r) => [...m.slice(r * 4, r * 4 + 3), 0, m[r * 4 + 3]! * 65535])
    const table = cv.matFromArray(4, 5, cv.CV_64FC1, [...rows, 0, 0, 0, 1, 0])
    cv.transform(from, to, table)
    for (let i = 0; i < p.v.length; i++) expect(Math.abs(ours.v[i]! - to.data16U[i]!)).toBeLessThanOrEqual(1)
    ;[from, to, table].forEach((x) => x.delete())
  })

  test('the histogram counts every pixel that is not clear in its bin', () => {
    const counts = withKernel(
      kernels,
      p,
      0,
      { w: 1024, h: 1, bytes: 4 },
      (s, ss, d) => {
        new Uint32Array(kernels.memory.buffer, d, 1024).fill(0)
        kernels.raw.histogram(s, ss, p.w, p.h, d)
      },
      (d) => new Uint32Array(kernels.memory.buffer, d, 1024).slice(),
    )
    const want = new Uint32Array(1024)
    for (let i = 0; i < p.v.length; i += 4) {
      if (p.v[i + 3] === 0) continue
      const [r, g, b] = [p.v[i]!, p.v[i + 1]!, p.v[i + 2]!]
      // BT.709 luma, rounded down to a code as the kernel does
      const codes = [r, g, b, Math.floor((r * 13933 + g * 46871 + b * 4732) / 65536)]
      codes.forEach((v, c) => want[c * 256 + Math.round(v / 257)]!++)
      expect(Math.abs(codes[3]! - (0.2126 * r + 0.7152 * g + 0.0722 * b))).toBeLessThan(2)
    }
    expect([...counts]).toEqual([...want])
  })

  test('8-bit codes are the nearest', () => {
    const bytes = withKernel(
      kernels,
      p,
      0,
      { w: p.w, h: p.h, bytes: 4 },
      (s, ss, d, ds) => kernels.raw.to8(s, ss, d, ds, p.w, p.h),
      (d) => kernels.bytes(d, p.v.length).slice(),
    )
    expect([...bytes]).toEqual(Array.from(p.v, (v) => Math.round(v / 257)))
  })
})
