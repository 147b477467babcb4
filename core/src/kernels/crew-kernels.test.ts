import { testPicture, waitFor } from '../testing/pictures.ts'
import { rgba, withKernel } from '../testing/kernel-run.ts'
import { calls, type KernelExports } from './calls.ts'
import type { Kernels } from './kernels.ts'
import { loadKernels } from './load-node.ts'
import { resampleInto } from './taps.ts'

const W = 301
const H = 203
const p = rgba(testPicture(W, H, 4), W, H, 4)
let one: Kernels
let two: Kernels
beforeAll(async () => {
  one = await loadKernels()
  two = await loadKernels(2 ** 29, 2)
  await waitFor(() => two.crew!.threads === 2)
})

type Run = (k: Kernels, s: number, ss: number, d: number, ds: number, more: number) => void
/** A call of each kernel that is cut by rows: how far it reaches, bytes a pixel of its result, the size of it, the call. */
const runs: Partial<Record<keyof KernelExports, { reach?: number; bytes?: number; w?: number; h?: number; run: Run }>> = {
  copyRect: { run: (k, s, ss, d, ds) => k.raw.copyRect(s, ss, d, ds, W * 8, H) },
  unpack: { run: (k, s, ss, d, ds) => k.raw.unpack(s, ss, d, ds, W, H, 4, 16) },
  to8: { bytes: 4, run: (k, s, ss, d, ds) => k.raw.to8(s, ss, d, ds, W, H) },
  toRgb8: { bytes: 3, run: (k, s, ss, d, ds) => k.raw.toRgb8(s, ss, d, ds, W, H, 0x80ff40) },
  halve: { w: 151, h: 102, run: (k, s, ss, d, ds) => k.raw.halve(s, ss, W, H, d, ds) },
  lut: {
    run: (k, s, ss, d, ds, more) => {
      k.u16(more, 65536).forEach((_, i, t) => (t[i] = 65535 - i))
      k.raw.lut(s, ss, d, ds, W, H, more, more, more)
    },
  },
  greyMix: { run: (k, s, ss, d, ds) => k.raw.greyMix(s, ss, d, ds, W, H, 0.2, 0.7, 0.1) },
  greyLinear: {
    run: (k, s, ss, d, ds, more) => {
      k.f32(more, 65536).forEach((_, i, t) => (t[i] = (i / 65535) ** 2))
      k.u16(more + 262144, 65536).forEach((_, i, t) => (t[i] = i))
      k.raw.greyLinear(s, ss, d, ds, W, H, 0.2, 0.7, 0.1, more, more + 262144)
    },
  },
  blend: { run: (k, s, ss, d, ds) => k.raw.blend(6, s, ss, s + 8, ss, s, ss, d, ds, W - 1, H, 0.7) },
  replace: { run: (k, s, ss, d, ds) => k.raw.replace(9, s, ss, s + 8, ss, s, ss, d, ds, W - 1, H, 0.7) },
  gaussianDirect: {
    reach: 5,
    run: (k, s, ss, d, ds, more) => (k.f32(more, 6).set([0.3, 0.2, 0.08, 0.05, 0.01, 0.01]), k.raw.gaussianDirect(s, ss, d, ds, W, H, 5, more)),
  },
  reduceCells: { reach: 4, bytes: 16, w: 75, h: 50, run: (k, s, ss, d, ds) => k.raw.reduceCells(s, ss, 2, d, ds, 75, 50) },
  blurCells: {
    bytes: 16,
    w: 140,
    h: 190,
    run: (k, s, ss, d, ds, more) => {
      cells(k, s, ss)
      k.f32(more, 5).fill(1 / 9)
      k.raw.blurCells(s, ss, d, ds, 140, 190, 4, more)
    },
  },
  enlargeCells: {
    w: 240,
    h: 300,
    run: (k, s, ss, d, ds) => {
      cells(k, s, ss)
      k.raw.enlargeCells(s, ss, 150, 2, d, ds, 240, 300, 3, 5)
    },
  },
  premultiplied: { run: (k, s, ss, d, ds) => k.raw.premultiplied(s, ss, d, ds, W, H) },
  straightened: { run: (k, s, ss, d, ds) => k.raw.straightened(s, ss, d, ds, W, H) },
  matrix: { run: (k, s, ss, d, ds, more) => (k.f32(more, 12).set([0.5, 0.3, 0.2, 0, 0, 1, 0, 0.1, 0.3, 0, 0.7, 0]), k.raw.matrix(s, ss, d, ds, W, H, more)) },
  boxMean: { reach: 7, run: (k, s, ss, d, ds) => k.raw.boxMean(s, ss, d, ds, W, H, 7) },
  medianSmall: { reach: 2, run: (k, s, ss, d, ds) => k.raw.medianSmall(s, ss, d, ds, W, H, 2) },
  medianWide: { reach: 5, run: (k, s, ss, d, ds) => k.raw.medianWide(s, ss, d, ds, W, H, 5) },
  gradient: { reach: 1, run: (k, s, ss, d, ds) => k.raw.gradient(s, ss, d, ds, W, H, 0.2, 0.7, 0.1, 0.25) },
  structureTensor: { reach: 1, bytes: 16, run: (k, s, ss, d, ds) => k.raw.structureTensor(s, ss, d, ds, W, H, 0.25) },
  guidedProducts: {
    bytes: 16,
    w: 150,
    run: (k, s, ss, d, ds, more) => {
      cells(k, s, ss)
      k.raw.guidedProducts(s, ss, d, ds, more, 150 * 16, 150, H)
    },
  },
  guidedLines: {
    bytes: 16,
    w: 150,
    run: (k, s, ss, d, ds, more) => {
      cells(k, s, ss)
      k.raw.guidedProducts(s, ss, d, ds, more, 150 * 16, 150, H)
      // another cell's guide, or nothing would be left of the covariance
      k.raw.guidedLines(s, ss, d, ds, more + 16, 150 * 16, 149, H, 0.01)
    },
  },
  guidedApply: {
    w: 270,
    h: 200,
    run: (k, s, ss, d, ds, more) => {
      cells(k, s, ss)
      k.bytes(more, ss * H).set(k.bytes(s, ss * H))
      k.raw.guidedApply(more, ss, s, s, ss, 150, 2, d, ds, 270, 200, 2, 2)
    },
  },
  bilateral: { reach: 2, run: (k, s, ss, d, ds, more) => (k.f32(more, 25).fill(1), k.raw.bilateral(s, ss, d, ds, W, H, 2, more, 20)) },
  resample: {
    w: 211,
    h: 167,
    run: (k, s, ss, d, ds) => resampleInto(k, 'area', { ptr: s, stride: ss, w: W, h: H }, { ptr: d, stride: ds, w: 211, h: 167 }),
  },
  pick: {
    run: (k, s, ss, d, ds, more) => {
      new Int32Array(k.memory.buffer, more, W).forEach((_, i, t) => (t[i] = W - 1 - i))
      new Int32Array(k.memory.buffer, more + W * 4, H).forEach((_, i, t) => (t[i] = (i * 7) % H))
      k.raw.pick(s, ss, d, ds, W, H, more, more + W * 4, 4)
    },
  },
  warp: { run: (k, s, ss, d, ds) => k.raw.warp(s, ss, 0, 0, W, H, d, ds, W, H, 3, 5, 0.9, 0.2, -0.2, 0.9, 10, -8) },
  toneMode: { reach: 3, run: (k, s, ss, d, ds) => k.raw.toneMode(s, ss, d, ds, W, H, 3, 16) },
  tooth: { run: (k, s, ss, d, ds) => k.raw.tooth(s, ss, d, ds, W, H, 11, 13, 1, 0.2, 0.5, 0.8, 0.3, 0.8, 0.6, 0.01, 0.1, 7, 2) },
}

/** Makes cells, 150 a row, of the picture's own bits: any numbers between 0 and 1 will do. */
function cells(k: Kernels, s: number, ss: number): void {
  for (let y = 0; y < H; y++) {
    const codes = k.u16(s + y * ss, W * 4).slice()
    k.f32(s + y * ss, 150 * 4).forEach((_, i, t) => (t[i] = codes[i * 2]! / 65535))
  }
}

test('every kernel that may be cut is called here', () => {
  expect(Object.keys(runs).sort()).toEqual(
    calls
      .filter((c) => c.rows)
      .map((c) => c.name)
      .sort(),
  )
})

test.each(Object.entries(runs))('%s: two threads give the bits of one', (_, { reach = 0, bytes = 8, w = W, h = H, run }) => {
  const result = (k: Kernels) =>
    k.scratch(W * H * 20, (more) =>
      withKernel(
        k,
        p,
        reach,
        { w, h, bytes },
        (s, ss, d, ds) => {
          k.bytes(d, w * h * bytes).fill(0)
          run(k, s, ss, d, ds, more)
        },
        (d) => Buffer.from(k.bytes(d, w * h * bytes).slice()),
      ),
    )
  const want = result(one)
  expect(want.some((v) => v !== 0)).toBe(true)
  for (let i = 0; i < 5; i++) expect(Buffer.compare(result(two), want)).toBe(0)
})
