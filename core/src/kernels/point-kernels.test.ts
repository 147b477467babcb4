import { edgePictures } from '../testing/edge-pictures.ts'
import { picturedBy, withKernel } from '../testing/kernel-run.ts'
import { openCv } from '../testing/opencv.ts'
import { dice } from '../testing/pictures.ts'
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

describe('the colour cube', () => {
  const SIDE = 52
  /** Runs colours through a cube filled by a function of whole codes. */
  function through(k: Kernels, colours: readonly (readonly number[])[], f: (r: number, g: number, b: number) => readonly number[]): number[][] {
    return k.scratch(SIDE ** 3 * 8 + colours.length * 8, (table) => {
      const cells = k.u16(table, SIDE ** 3 * 4)
      for (let i = 0; i < SIDE ** 3; i++) cells.set([...f(1285 * (i % SIDE), 1285 * (Math.floor(i / SIDE) % SIDE), 1285 * Math.floor(i / SIDE ** 2)), 7], i * 4)
      const at = table + SIDE ** 3 * 8
      const pixels = k.u16(at, colours.length * 4)
      colours.forEach((c, i) => pixels.set([...c, 40000 + i], i * 4))
      k.raw.cube(at, 0, at, 0, colours.length, 1, table)
      expect(colours.map((_, i) => pixels[i * 4 + 3])).toEqual(colours.map((_, i) => 40000 + i))
      return colours.map((_, i) => Array.from(pixels.slice(i * 4, i * 4 + 3)))
    })
  }

  test('what is straight comes out exactly, every code of the greys and the corners included', () => {
    const greys = Array.from({ length: 4096 }, (_, i) => [i * 16 + (i % 16), i * 16 + (i % 16), i * 16 + (i % 16)])
    const corners = [0, 65535].flatMap((r) => [0, 65535].flatMap((g) => [0, 65535].map((b) => [r, g, b])))
    expect(through(kernels, [...greys, ...corners], (r, g, b) => [r, g, b])).toEqual([...greys, ...corners])
    expect(through(kernels, [[1000, 20000, 64000]], (r, g, b) => [b, r, g])).toEqual([[64000, 1000, 20000]])
  })

  test('between the points it goes straight in the six tetrahedra about the grey diagonal, by their definition in float64', () => {
    const f = (r: number, g: number, b: number) => [r, g, b].map((_, c) => Math.round(32767 + 32767 * Math.sin((r * (c + 1) + 2 * g - b) / 21000)))
    const next = dice(11)
    const colours = Array.from({ length: 400 }, () => [0, 1, 2].map(() => Math.floor(next() * 65536)))
    const got = through(kernels, colours, f)
    colours.forEach((colour, i) => {
      const cell = colour.map((v) => Math.min(50, Math.floor(v / 1285)))
      const part = colour.map((v, c) => v / 1285 - cell[c]!)
      // from the cell's first corner along the channels, the one that goes farthest first
      const order = [0, 1, 2].sort((a, b) => part[b]! - part[a]!)
      const corner = [...cell]
      const want = f(...(corner.map((v) => v * 1285) as [number, number, number])).map((v) => v * (1 - part[order[0]!]!))
      order.forEach((c, j) => {
        corner[c]!++
        const weight = part[c]! - (j < 2 ? part[order[j + 1]!]! : 0)
        f(...(corner.map((v) => v * 1285) as [number, number, number])).forEach((v, n) => (want[n]! += weight * v))
      })
      got[i]!.forEach((v, c) => expect(Math.abs(v - want[c]!)).toBeLessThan(0.6))
    })
  })
})
