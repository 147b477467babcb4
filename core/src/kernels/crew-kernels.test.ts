import { testPicture, waitFor } from '../testing/pictures.ts'
import { rgba, withKernel } from '../testing/kernel-run.ts'
import { calls, type KernelExports } from './calls.ts'
import type { Kernels } from './kernels.ts'
import { loadKernels } from './load-node.ts'
import { transferTables } from '../colour/srgb.ts'
import { resampleInto } from './taps.ts'

const codesIn = (k: Kernels) => transferTables(k).encode

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
/** Strokes of paint across the picture. */
function someStrokes(k: Kernels, at: number): { points: number; paints: number; counts: number; heads: number; n: number } {
  const [points, paints, counts, heads, n] = [at, at + 4096, at + 8192, at + 8448, 12]
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < 4; j++) {
      k.f32(points + (i * 4 + j) * 16, 4).set([10 + j * 80 + i * 3, 8 + i * 17 + j * j * 3, 6 + i, j * 81])
      k.f32(paints + (i * 4 + j) * 16, 4).set([i / 12, 0.5, 1 - i / 12, 1 - j * 0.25])
    }
    new Int32Array(k.memory.buffer, counts, n)[i] = 4
    k.f32(heads + i * 32, 8).set([i * 77, 6 + i, 2, 0.9, 0.05, 0, -0.05, 0.1])
  }
  return { points, paints, counts, heads, n }
}

const runs: Partial<Record<keyof KernelExports, { reach?: number; bytes?: number; w?: number; h?: number; run: Run }>> = {
  layPaint: {
    bytes: 16,
    run: (k, _, __, d, ds, more) => {
      const { points, paints, counts, heads, n } = someStrokes(k, more)
      k.raw.layPaint(d, ds, W, H, 0, 0, points, paints, counts, heads, n, 1, 2, 0.5, 0.5, 0.5, 0.4, 0.3, 0.2, 0)
    },
  },
  enlargePaint: {
    bytes: 16,
    run: (k, _, __, d, ds, more) => {
      k.f32(more, 32 * 24 * 4).forEach((_, i, t) => (t[i] = ((i * 37) % 101) / 101))
      k.raw.enlargePaint(d, ds, W, H, 0, 0, more, 32 * 16, 32, 24, 32 / W)
    },
  },
  weavePaint: { bytes: 16, run: (k, _, __, d, ds) => k.raw.weavePaint(d, ds, W, H, 3, 5, 1 / 7, 2, 9) },
  lightPaint: {
    run: (k, s, ss, d, ds, more) => {
      k.f32(more, (W + 8) * 180 * 4).forEach((_, i, t) => (t[i] = ((i * 53) % 97) / 97))
      k.raw.lightPaint(more, (W + 8) * 16, 4, s, ss, d, ds, W, 172, 1, 0.5, -0.5, 0.7071, 0.4, 3)
    },
  },
  smear: {
    w: 150,
    run: (k, s, ss, d, ds, more) => {
      k.f32(more, 40 * 30 * 4).forEach((_, i, t) => (t[i] = i % 4 === 2 ? 1 : ((i * 37) % 101) / 50 - 1))
      k.raw.smear(s, ss, 0, 0, W, H, d, ds, 150, H, 0, 0, more, 40 * 16, 40, 30, 40 / W, 0, 0, 12, 5, 0.3, 0.3, 0.06, 0.5, 7)
    },
  },
  settle: {
    run: (k, s, ss, d, ds, more) => {
      k.f32(more, 65536).forEach((_, i, t) => (t[i] = i / 4096 - 16))
      k.raw.settle(s, ss, d, ds, W, H, 3, 5, 1, 1 / 6, 0.5, 7, more, s, ss)
    },
  },
  pigmentOnTooth: {
    run: (k, s, ss, d, ds, more) => {
      const bytes = W * H * 4
      k.f32(more, W * H * 2).forEach((_, i, t) => (t[i] = ((i * 29) % 83) / 83))
      k.f32(more + 2 * bytes, 12).set([-1, -2, -0.2, 0, 0.8, 0.2, 0.1, 1, 0.9, 0.9, 0.85, 0])
      k.raw.pigmentOnTooth(
        more,
        W * 4,
        bytes,
        2,
        s,
        ss,
        d,
        ds,
        W,
        H,
        0,
        0,
        more + 2 * bytes,
        more + 2 * bytes + 32,
        0,
        0,
        codesIn(k),
        0.3,
        0.7,
        0.6,
        4,
        0.4,
        0.9,
      )
    },
  },
  bloomWash: {
    bytes: 16,
    run: (k, _, __, d, ds) => {
      for (let y = 0; y < H; y++) k.f32(d + y * ds, W * 4).forEach((_, i, t) => (t[i] = 0.2 + ((i + y) % 7) / 7))
      k.raw.bloomWash(d, ds, W, H, 0, 0, W / 2, H / 2, 40, 0.6, 0.8, 0.7, 3)
    },
  },
  layGlaze: {
    bytes: 16,
    run: (k, _, __, d, ds, more) => {
      for (let i = 0; i < 40 * 30; i++) {
        k.f32(more + i * 16, 4).set([(i % 40) * 3 - 50, 2 + (i % 5), ((i % 9) - 4) / 4, (i % 3) / 3])
        k.f32(more + 40 * 30 * 16 + i * 16, 4).set([0.3, 0.5 + (i % 7) / 7, 0.2, 0.6])
      }
      const depths = more + 2 * 40 * 30 * 16
      k.raw.toothDepths(depths, ((W + 3) & ~3) * 4, W, H, 0, 0, 0.25, 7)
      k.raw.layGlaze(
        d,
        ds,
        W,
        H,
        0,
        0,
        more,
        640,
        40,
        30,
        40 / W,
        more + 40 * 30 * 16,
        640,
        40,
        30,
        40 / W,
        0,
        0,
        1,
        5,
        0.03,
        4,
        0.8,
        0.5,
        0.02,
        depths,
        ((W + 3) & ~3) * 4,
        0.3,
        6,
      )
    },
  },
  toothDepths: { w: 300, bytes: 4, run: (k, _, __, d, ds) => k.raw.toothDepths(d, ds, 300, H, 0, 0, 0.25, 7) },
  glazesOnPaper: {
    run: (k, s, ss, d, ds, more) => {
      const depths = more + W * H * 16 + 16
      k.raw.toothDepths(depths, ((W + 3) & ~3) * 4, W, H, 0, 0, 0.2, 3)
      k.f32(more, W * H * 4).forEach((_, i, t) => (t[i] = ((i * 31) % 89) / 60))
      k.f32(more + W * H * 16, 4).set([0.9, 0.88, 0.8, 0])
      k.raw.glazesOnPaper(more, W * 16, s, ss, d, ds, W, H, 0, 0, more + W * H * 16, codesIn(k), depths, ((W + 3) & ~3) * 4, 0.2, 0.05, 3)
    },
  },
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
  blendAtop: { run: (k, s, ss, d, ds) => k.raw.blendAtop(16, s, ss, s + 8, ss, s, ss, d, ds, W - 1, H, 0.7) },
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
  medianExact: { reach: 5, run: (k, s, ss, d, ds) => k.raw.medianExact(s, ss, d, ds, W, H, 5) },
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
  meanRows: { bytes: 4, run: (k, _, __, d, ds, more) => (waves(k, more, W * H), k.raw.meanRows(more, W * 4, d, ds, W, H, 7)) },
  meanColumns: { bytes: 4, run: (k, _, __, d, ___, more) => (waves(k, more, W * H), k.raw.meanColumns(more, 256, d, 256, W, H, 0, 5, 7)) },
  nearInColumns: { bytes: 4, run: (k, _, __, d, ___, more) => (blots(k, more), k.raw.nearInColumns(more, 64, d, 256, W, H, 0, 5, 1)) },
  distances: {
    bytes: 4,
    run: (k, _, __, d, ds, more) => (
      blots(k, more),
      k.raw.nearInColumns(more, 64, more + W * H * 4, 256, W, H, 0, 5, 0),
      k.raw.distances(more + W * H * 4, W * 4, d, ds, W, H)
    ),
  },
  insides: {
    bytes: 4,
    run: (k, _, __, d, ds, more) => (
      blots(k, more),
      k.raw.nearInColumns(more, 64, more + W * H * 4, 256, W, H, 0, 5, 1),
      k.raw.insides(more, W, more + W * H * 4, W * 4, d, ds, W, H)
    ),
  },
  halvedField: { bytes: 4, w: 151, h: 101, run: (k, _, __, d, ds, more) => (waves(k, more, W * H), k.raw.halvedField(more, W * 4, W, 201, d, ds, 0, 101)) },
  doubledField: { bytes: 4, run: (k, _, __, d, ds, more) => (waves(k, more, 151 * 102), k.raw.doubledField(more, 151 * 4, 151, 102, d, ds, W, 0, H)) },
  scharrSlopes: {
    bytes: 4,
    run: (k, _, __, d, ds, more) => {
      waves(k, more, W * H)
      const [x, y] = [more + W * H * 4, more + W * H * 8]
      k.raw.scharrSlopes(more, W * 4, H, x, W * 4, y, W * 4, W, 0, H)
      for (let i = 0; i < H; i++) k.f32(d + i * ds, W).set(k.f32((i % 2 ? x : y) + i * W * 4, W))
    },
  },
  productsOf: { bytes: 4, run: (k, _, __, d, ds, more) => (waves(k, more, W * H), k.raw.productsOf(more, W * 4, more + 4, W * 4 - 4, d, ds, W, H)) },
  fitLines: {
    bytes: 4,
    run: (k, _, __, d, ds, more) => {
      waves(k, more, 4 * W * H)
      const plane = (i: number) => more + i * W * H * 4
      k.f32(d, W * H).set(k.f32(plane(2), W * H))
      k.raw.fitLines(more, W * 4, plane(1), W * 4, plane(3), W * 4, d, ds, W, H, 0.01)
    },
  },
  alongLines: {
    bytes: 4,
    run: (k, _, __, d, ds, more) => (waves(k, more, W * H), k.raw.alongLines(more, W * 4, more + 8, W * 4, more + 4, W * 4, d, ds, W - 2, H)),
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
  jointEnlarge: { run: (k, s, ss, d, ds) => k.raw.jointEnlarge(s, ss, s, ss, s + 8, ss, d, ds, W, H, 8, 8, 4, 0, 0, 100) },
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
  placeAffine: {
    run: (k, s, ss, d, ds, more) => (
      pictures(k, more, [[s, ss, 0, 0, W, H]], [0.9, 0.2, -10, -0.2, 0.9, 20]),
      k.raw.placeAffine(d, ds, W, H, 3, 5, more + 80, more, weights(k, more + 4096))
    ),
  },
  placeProjective: {
    run: (k, s, ss, d, ds, more) => {
      pictures(
        k,
        more,
        [
          [s, ss, 0, 0, W, H],
          [s, ss, 0, 0, W >> 1, H >> 1],
          [s, ss, 0, 0, W >> 2, H >> 2],
        ],
        [1.4, 0.2, -10, 0.1, 1.9, 3, 0.0007, -0.0011, 1],
      )
      k.raw.placeProjective(d, ds, W, H, 3, 5, more + 80, 3, more, 1e-6, weights(k, more + 4096))
    },
  },
  copyTurned: { run: (k, s, ss, d, ds) => k.raw.copyTurned(s + (H - 1) * ss + (W - 1) * 8, -ss, -8, d, ds, W, H) },
  toneMode: { reach: 3, run: (k, s, ss, d, ds) => k.raw.toneMode(s, ss, d, ds, W, H, 3, 16) },
  lumaCurve: { run: (k, s, ss, d, ds, more) => (falling(k, more), k.raw.lumaCurve(s, ss, d, ds, W, H, more)) },
  lumaMap: { run: (k, s, ss, d, ds, more) => (k.u16(more, 262144).forEach((_, i, t) => (t[i] = i * 7)), k.raw.lumaMap(s, ss, d, ds, W, H, more)) },
  lumaShift: { run: (k, s, ss, d, ds, more) => (waves(k, more, 4096 * 4), k.raw.lumaShift(s, ss, d, ds, W, H, more)) },
  lumaGain: { run: (k, s, ss, d, ds, more) => (waves(k, more, 4096), k.raw.lumaGain(s, ss, s + 8, ss, d, ds, W - 1, H, more)) },
  lumaMask: { bytes: 2, run: (k, s, ss, d, ds, more) => (falling(k, more), k.raw.lumaMask(s, ss, d, ds, W, H, more)) },
  greyPicture: { w: 400, run: (k, s, ss, d, ds) => k.raw.greyPicture(s, ss, d, ds, 400, H) },
  alphaPicture: { run: (k, s, ss, d, ds) => k.raw.alphaPicture(s, ss, d, ds, W, H) },
  multiplyMask: {
    bytes: 2,
    run: (k, s, ss, d, ds) => {
      for (let y = 0; y < H; y++) k.u16(d + y * ds, W).forEach((_, x, t) => (t[x] = (x * 200 + y * 77) % 65536))
      k.raw.multiplyMask(s, ss, d, ds, W, H)
    },
  },
  extremeDisc: {
    reach: 6,
    run: (k, s, ss, d, ds, more) => {
      new Int32Array(k.memory.buffer, more, 13).set([2, 4, 5, 5, 6, 6, 6, 6, 6, 5, 5, 4, 2])
      k.raw.extremeDisc(s, ss, d, ds, W, H, 6, more, 0)
    },
  },
  lightMap: {
    run: (k, s, ss, d, ds, more) => {
      const [span, stops, light, gains, codes] = [more, more + 140_000, more + 410_000, more + 680_000, more + 720_000]
      k.u16(span, 65536).forEach((_, i, t) => (t[i] = 65535 - i / 2))
      k.f32(stops, 65536).forEach((_, i, t) => (t[i] = (i - 32768) / 20000))
      k.f32(light, 65536).forEach((_, i, t) => (t[i] = (i / 65535) ** 2))
      k.f32(gains, 8193).forEach((_, i, t) => (t[i] = 2 ** ((i - 4096) / 512)))
      k.u16(codes, 65537).forEach((_, i, t) => (t[i] = Math.sqrt(i / 65536) * 65535))
      k.raw.lightMap(s, ss, s + 8, ss, d, ds, W - 1, H, span, stops, light, gains, codes)
    },
  },
  tileCurves: {
    run: (k, s, ss, d, ds, more) => (
      k.u16(more, 257 * 12).forEach((_, i, t) => (t[i] = (i * 401) % 65536)),
      k.raw.tileCurves(s, ss, d, ds, W, H, more, 4, 3, 5, 3, 80, 70)
    ),
  },
  hueShift: {
    run: (k, s, ss, d, ds, more) => {
      waves(k, more + 400000, 4096 * 4)
      k.f32(more + 480000, 6).set([0.9, 0.05, 1, 0, 0, 0.3])
      k.raw.hueShift(s, ss, d, ds, W, H, more + 400000, more + 480000, ...transfer(k, more))
    },
  },
  dye: {
    run: (k, s, ss, d, ds, more) => {
      waves(k, more + 400000, 258 * 4)
      k.raw.dye(s, ss, d, ds, W, H, more + 400000, 0.3, ...transfer(k, more))
    },
  },
  cube: {
    run: (k, s, ss, d, ds, more) => (k.u16(more, 52 ** 3 * 4).forEach((_, i, t) => (t[i] = (i * 40503) % 65536)), k.raw.cube(s, ss, d, ds, W, H, more)),
  },
  greyByHue: {
    run: (k, s, ss, d, ds, more) => {
      waves(k, more + 400000, 4096)
      k.raw.greyMix(s, ss, d, ds, W, H, 0.2, 0.7, 0.1)
      k.raw.greyByHue(s, ss, d, ds, W, H, more + 400000, transfer(k, more)[0])
    },
  },
  mix: { run: (k, s, ss, d, ds, more) => (k.f32(more, 30).forEach((_, i, t) => (t[i] = (i % 7) / 9)), k.raw.mix(s, ss, d, ds, W, H, 1, more)) },
  mixLab: {
    run: (k, s, ss, d, ds, more) => {
      k.f32(more + 400000, 30).forEach((_, i, t) => (t[i] = i % 7 === 0 ? 0.9 : 0.05))
      k.raw.mixLab(s, ss, d, ds, W, H, more + 400000, ...transfer(k, more))
    },
  },
  labCodes: { run: (k, s, ss, d, ds, more) => k.raw.labCodes(s, ss, d, ds, W, H, transfer(k, more)[0]) },
  labUnlike: { run: (k, s, ss, d, ds) => k.raw.labUnlike(s, ss, d, ds, W, H, 6000, 1200, -900) },
  toneAlpha: { run: (k, s, ss, d, ds, more) => (falling(k, more), k.raw.toneAlpha(s, ss, d, ds, W, H, more, 2, 1, 0, 0, 0)) },
  nearestOklab: {
    run: (k, s, ss, d, ds, more) => {
      k.f32(more + 400000, 15).forEach((_, i, t) => (t[i] = i % 3 === 0 ? i / 15 : 0.05 * (i % 4) - 0.08))
      k.raw.nearestOklab(s, ss, d, ds, W, H, more + 400000, s, 5, transfer(k, more)[0])
    },
  },
  nearestCiede: {
    run: (k, s, ss, d, ds, more) => {
      const [decode] = transfer(k, more)
      k.f32(more + 400000, 15).forEach((_, i, t) => (t[i] = i % 3 === 0 ? i * 6 : (i % 4) * 12 - 20))
      k.raw.paletteGrid(more + 400064, more + 400000, 5, decode, 4, more + 700000)
      k.raw.nearestCiede(s, ss, d, ds, W, H, more + 400064, more + 400000, s, decode)
    },
  },
  unsharp: { run: (k, s, ss, d, ds) => k.raw.unsharp(s, ss, s, ss, s + 8, ss, d, ds, W - 1, H, 1.5, 0.02) },
  sparseSum: {
    reach: 3,
    run: (k, s, ss, d, ds, more) => {
      const taps = new DataView(k.memory.buffer, more, 24)
      ;[-2 * ss - 16, 0, ss + 8].forEach((o, i) => (taps.setInt32(i * 8, o, true), taps.setFloat32(i * 8 + 4, 1 / 3, true)))
      k.raw.sparseSum(s + 3 * ss + 24, ss, d, ds, W, H, more, 3, 1)
    },
  },
  grain: { run: (k, s, ss, d, ds, more) => (waves(k, more, 4096), k.raw.grain(s, ss, d, ds, W, H, 7, 9, 1, 0.4, more, 0.5, 3)) },
  kuwahara: { reach: 4, run: (k, s, ss, d, ds) => k.raw.kuwahara(s, ss, d, ds, W, H, 4) },
  kuwaharaAlong: {
    reach: 3,
    run: (k, s, ss, d, ds, more) => {
      // small ellipses, and the flow of a part only: the scratch memory of the test is not large
      k.raw.kuwaharaTaps(more, 30, 3, 1.6, 0.5, 0.6, 1.2, 1)
      const flow = more + 512 * 31 * 48
      waves(k, flow, 60 * 80 * 4)
      k.raw.kuwaharaAlong(s, ss, flow, 60 * 16, d, ds, 60, 80, 3, more, 30, 1, 2)
    },
  },
  flowOf: { bytes: 16, w: 150, run: (k, s, ss, d, ds) => (cells(k, s, ss), k.raw.flowOf(s, ss, d, ds, 150, H)) },
  lumaPlane: { bytes: 4, run: (k, s, ss, d, ds) => k.raw.lumaPlane(s, ss, d, ds, W, H) },
  dogAcross: {
    bytes: 4,
    w: 130,
    h: 180,
    run: (k, s, ss, d, ds, more) => {
      cells(k, s, ss)
      k.f32(more, 8).set([0.4, 0.2, 0.08, 0.02, 0.2, 0.15, 0.15, 0.1])
      k.raw.dogAcross(s, ss, s, ss, d, ds, 130, 180, 3, more, 0.9, 0.01)
    },
  },
  alongFlow: {
    bytes: 4,
    w: 130,
    h: 180,
    run: (k, s, ss, d, ds, more) => {
      cells(k, s, ss)
      k.f32(more, 4).set([0.4, 0.2, 0.08, 0.02])
      k.raw.alongFlow(s, ss, s, ss, d, ds, 130, 180, 3, more)
    },
  },
  inkBelow: { w: 150, run: (k, s, ss, d, ds) => (cells(k, s, ss), k.raw.inkBelow(s, ss, s, ss, d, ds, 150, H, 0.5, 3, 0)) },
  gradientLength: { bytes: 4, w: 150, run: (k, s, ss, d, ds) => (cells(k, s, ss), k.raw.gradientLength(s, ss, d, ds, 150, H)) },
  darkSide: { bytes: 4, w: 150, run: (k, s, ss, d, ds) => (cells(k, s, ss), k.raw.darkSide(s, ss, s + 12, ss, d, ds, 150, H)) },
  crests: {
    bytes: 16,
    w: 140,
    h: 190,
    run: (k, s, ss, d, ds, more) => (cells(k, s, ss), k.f32(more, 16).fill(1), k.raw.crests(s, ss, s, ss, d, ds, 140, 190, more, 0.01, 1)),
  },
  inkCrests: {
    w: 130,
    h: 190,
    run: (k, s, ss, d, ds, more) => {
      // few crests, of different heights
      k.f32(more, 138 * 198 * 4).forEach((_, i, t) => (t[i] = i % 4 === 0 ? (i % 52 === 0 ? (i % 19) / 19 : 0) : 0.2))
      k.raw.inkCrests(more, 138 * 16, s, ss, d, ds, 130, 190, 4, 1.7, 0.8, 0.5, 0)
    },
  },
  strokes: {
    bytes: 4,
    w: 130,
    h: 180,
    run: (k, s, ss, d, ds, more) => {
      cells(k, s, ss)
      k.f32(d, 130 * 180).fill(1)
      for (let i = 0; i < 40; i++) k.f32(more + i * 48, 12).set([i * 4, (i * 29) % 200, 0.8, i % 2 ? 0.6 : -0.6, 40, 2.5, 0.002, 0.5, 0.1, i, 0.1, 0.9])
      k.raw.strokes(d, ds, s, ss, 130, 180, 0, 0, 6, more, 40, 0, 1, 0.2)
    },
  },
  lumaThrough: { bytes: 4, run: (k, s, ss, d, ds, more) => (waves(k, more, 4096), k.raw.lumaThrough(s, ss, d, ds, W, H, more)) },
  marksOnPaper: {
    w: 150,
    run: (k, s, ss, d, ds, more) => (
      cells(k, s, ss),
      k.f32(more, 6).set([900, 0, 40000, 65535, 60000, 50000]),
      k.raw.marksOnPaper(s, ss, s, ss, d, ds, 150, H, more, 1.5)
    ),
  },
  towardMasses: {
    run: (k, s, ss, d, ds, more) => (waves(k, more, 40 * 30 * 2), k.raw.towardMasses(s, ss, d, ds, W, H, 11, 13, more, 40, 30, 2, 3, -0.25, 0.5, 0.125)),
  },
  inkOnPaper: {
    w: 150,
    run: (k, s, ss, d, ds, more) => (
      cells(k, s, ss),
      k.f32(more, 6).set([900, 0, 40000, 65535, 60000, 50000]),
      k.raw.inkOnPaper(s, ss, s, ss, d, ds, 150, H, more)
    ),
  },
  screen: {
    bytes: 4,
    run: (k, s, ss, d, ds, more) => {
      k.u16(more, 16384).forEach((_, i, t) => (t[i] = (i * 4001) % 65536))
      k.raw.lumaPlane(s, ss, d, ds, W, H)
      k.raw.screen(d, ds, W, H, 13, 17, 90000000, -70000000, 5, 9, more, 4)
    },
  },
  inkOf: { bytes: 4, run: (k, s, ss, d, ds) => k.raw.inkOf(s, ss, d, ds, W, H, 1, 0.7) },
  layInk: {
    w: 150,
    run: (k, s, ss, d, ds, more) => (cells(k, s, ss), k.f32(more, 6).set([0.1, 0, 0.7, 1, 0.9, 0.8]), k.raw.layInk(s, ss, s, ss, d, ds, 150, H, more, 1)),
  },
  spreadBy: { run: (k, s, ss, d, ds, more) => (falling(k, more), k.raw.spreadBy(s, ss, d, ds, W, H, 3, 5, more, 8, 0.4)) },
  drawTiles: {
    run: (k, _, __, d, ds, more) => {
      const list = new Int32Array(k.memory.buffer, more, W * 2 + H * 2)
      for (let i = 0; i < W; i++) list[i] = list[W + i] = i >> 3
      for (let i = 0; i < H; i++) list.set([i >> 4, (i >> 5) & 1], W * 2 + i * 2)
      waves(k, more + 8192, 20 * 10 * 4)
      k.f32(more + 16384, 3).set([0.2, 0.4, 0.6])
      k.raw.drawTiles(d, ds, W, H, more, more + W * 8, 8, more + 8192, 20, more + 16384)
    },
  },
  reliefOf: {
    run: (k, s, ss, d, ds, more) => (waves(k, more, 40 * 30), k.raw.reliefOf(s, ss, d, ds, W, H, 3, 4, 0.37, more, 40, 30, 0.8, -0.5, -0.5, 0.7)),
  },
  raise: { run: (k, s, ss, d, ds) => k.raw.raise(s, ss, d, ds, W, H, 3, 4, 0.11, 0, 3, 5) },
  raiseBy: { run: (k, s, ss, d, ds, more) => (waves(k, more, 40 * 30), k.raw.raiseBy(s, ss, d, ds, W, H, 3, 4, 0.37, more, 40, 30, 2)) },
  lightHeights: { w: W - 2, run: (k, s, ss, d, ds) => k.raw.lightHeights(s, ss, s, ss, d, ds, W - 2, H - 2, 0.00003, -0.5, -0.5, 0.7) },
  relief: { run: (k, s, ss, d, ds) => k.raw.relief(s, ss, d, ds, W, H, 3, 4, 0.11, 0, 0.3, -0.5, -0.5, 0.7, 5) },
  vignette: { run: (k, s, ss, d, ds, more) => (k.f32(more, 3).fill(0), k.raw.vignette(s, ss, d, ds, W, H, 2, 3, 150, 100, 160, 110, 0.4, 1, 0.3, 0.8, more)) },
  gradientFill: {
    run: (k, _, __, d, ds, more) => {
      k.u16(more + 400000, 4097 * 4).forEach((___, i, t) => (t[i] = (i * 40503) % 65536))
      k.raw.gradientFill(d, ds, W, H, 2, 3, 20, 10, 0.01, 0.004, 0, 2, more + 400000)
    },
  },
  lightFall: {
    run: (k, s, ss, d, ds, more) => {
      waves(k, more + 400000, 1026)
      k.f32(more + 480000, 3).fill(0.2)
      k.raw.lightFall(s, ss, d, ds, W, H, 2, 3, 150, 100, 60, 40, 0.5, more + 400000, more + 480000, ...transfer(k, more))
    },
  },
  tooth: { run: (k, s, ss, d, ds) => k.raw.tooth(s, ss, d, ds, W, H, 11, 13, 1, 0.2, 0.5, 0.8, 0.3, 0.8, 0.6, 0.01, 0.1, 7, 2, 1, s, ss) },
  evenHeights: { w: W - 8, run: (k, s, ss, d, ds) => k.raw.evenHeights(s, ss, d, ds, W - 8, H - 8, 4, 30) },
}

const weights = (k: Kernels, at: number) => (k.raw.placeWeights(at), at)
/** A map's numbers, and 80 bytes on what pictures it is made of. */
const pictures = (k: Kernels, at: number, pics: number[][], m: number[]) => {
  new Float64Array(k.memory.buffer, at, m.length).set(m)
  pics.forEach((p, i) => new Int32Array(k.memory.buffer, at + 80 + 24 * i, 6).set(p))
}
/** A table of 65536 codes that falls. */
const falling = (k: Kernels, at: number) => k.u16(at, 65536).forEach((_, i, t) => (t[i] = 65535 - i))
/** So many floats between 0 and 1, none like its neighbours. */
const waves = (k: Kernels, at: number, n: number) => k.f32(at, n).forEach((_, i, t) => (t[i] = ((i * 2654435) % 1000) / 1000))
/** A shape in bytes of 1 and 0. */
const blots = (k: Kernels, at: number) => k.bytes(at, W * H).forEach((_, i, t) => (t[i] = ((i % W) - 120) ** 2 + (i / W - 90) ** 2 < 4900 ? 1 : 0))
/** Tables that stand for those of sRGB: decoding floats and encoding codes. */
function transfer(k: Kernels, at: number): [number, number] {
  k.f32(at, 65536).forEach((_, i, t) => (t[i] = (i / 65535) ** 2))
  k.u16(at + 262144, 65536).forEach((_, i, t) => (t[i] = i))
  return [at, at + 262144]
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
    k.scratch(W * H * 24, (more) =>
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
