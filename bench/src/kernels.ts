import { createRequire } from 'node:module'
import { guidedInto, guidedNeeds, resampleInto, type Kernels, type Region } from '@nimble-quill/core'
import { loadKernels } from '@nimble-quill/core/node'
import { blurReach, blurWhole } from '@nimble-quill/core'
import sharp from 'sharp'
import { cpuSeconds, geometricMean, median, type Bar } from './measure.ts'
import type { Native } from './native.ts'
import type { Picture } from './picture.ts'

/** The picture as RGBA16 in kernel memory, grown on all sides, and room for a result. */
interface Ground {
  k: Kernels
  w: number
  h: number
  /** First pixel of the picture in `grown`, which has `stride` bytes a row. */
  src: number
  stride: number
  /** The picture mirrored. */
  other: number
  dst: number
  small: number
}

const REACH = 128

async function ground(p: Picture): Promise<Ground> {
  const k = await loadKernels()
  const { width: w, height: h } = p
  const [gw, gh] = [w + 2 * REACH, h + 2 * REACH]
  const grown = k.allocator.alloc(gw * gh * 8)
  const other = k.allocator.alloc(w * h * 8)
  const dst = k.allocator.alloc(Math.ceil(w * 1.31) * Math.ceil(h * 1.31) * 8 + 64)
  const small = k.allocator.alloc(2 ** 20)
  const stride = gw * 8
  const src = grown + REACH * stride + REACH * 8
  const row = new Uint16Array(w * 4).fill(65535)
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) for (let c = 0; c < 3; c++) row[x * 4 + c] = p.pixels[(y * w + x) * 3 + c]! * 257
    k.u16(src + y * stride, w * 4).set(row)
    for (let x = 0; x < w; x++) for (let c = 0; c < 3; c++) row[x * 4 + c] = p.pixels[(y * w + w - 1 - x) * 3 + c]! * 257
    k.u16(other + y * w * 8, w * 4).set(row)
  }
  k.raw.replicateEdges(grown, stride, gw, gh, REACH, REACH, REACH + w, REACH + h)
  return { k, w, h, src, stride, other, dst, small }
}

/** Where a region grown by r begins. */
const from = (g: Ground, r: number) => g.src - r * (g.stride + 8)
const pic = (g: Ground, region: Region) => ({ ptr: g.src + region.y * g.stride + region.x * 8, stride: g.stride, region })
const whole = (g: Ground) => ({ x: 0, y: 0, w: g.w, h: g.h })
const out = (g: Ground) => ({ ptr: g.dst, stride: g.w * 8, region: whole(g) })
function weights(g: Ground, n: number, f: (i: number) => number): number {
  g.k.f32(g.small, n).forEach((_, i, t) => (t[i] = f(i)))
  return g.small
}
const scaled = (g: Ground, k: number) => ({ w: Math.round(g.w * k), h: Math.round(g.h * k) })

/** Ours by name; the names are those of bench/native/reference.py. */
const ours: Record<string, (g: Ground) => void> = {
  premultiply: (g) => g.k.raw.premultiplied(g.src, g.stride, g.dst, g.w * 8, g.w, g.h),
  table: (g) => g.k.raw.lut(g.src, g.stride, g.dst, g.w * 8, g.w, g.h, g.small, g.small, g.small),
  matrix: (g) =>
    g.k.raw.matrix(
      g.src,
      g.stride,
      g.dst,
      g.w * 8,
      g.w,
      g.h,
      weights(g, 12, (i) => [0.4, 0.7, 0.1, 0, 0.3, 0.6, 0.1, 0, 0.2, 0.5, 0.2, 0][i]!),
    ),
  'blend multiply': (g) => g.k.raw.blend(1, g.src, g.stride, g.other, g.w * 8, 0, 0, g.dst, g.w * 8, g.w, g.h, 1),
  'blend colour dodge': (g) => g.k.raw.blend(6, g.src, g.stride, g.other, g.w * 8, 0, 0, g.dst, g.w * 8, g.w, g.h, 1),
  'blend at half opacity': (g) => g.k.raw.blend(0, g.src, g.stride, g.other, g.w * 8, 0, 0, g.dst, g.w * 8, g.w, g.h, 0.5),
  'blend luminosity': (g) => g.k.raw.blend(15, g.src, g.stride, g.other, g.w * 8, 0, 0, g.dst, g.w * 8, g.w, g.h, 1),
  'Gaussian, sigma 3': (g) => blurWhole(g.k, pic(g, blurReach(whole(g), 3)), out(g), 3),
  'Gaussian, sigma 25': (g) => blurWhole(g.k, pic(g, blurReach(whole(g), 25)), out(g), 25),
  'box, radius 8': (g) => g.k.raw.boxMean(from(g, 8), g.stride, g.dst, g.w * 8, g.w, g.h, 8),
  'median, radius 1': (g) => g.k.raw.medianSmall(from(g, 1), g.stride, g.dst, g.w * 8, g.w, g.h, 1),
  'median, radius 2': (g) => g.k.raw.medianSmall(from(g, 2), g.stride, g.dst, g.w * 8, g.w, g.h, 2),
  'median, radius 8': (g) => g.k.raw.medianExact(from(g, 8), g.stride, g.dst, g.w * 8, g.w, g.h, 8),
  'guided, radius 8': (g) => guidedInto(g.k, pic(g, guidedNeeds(whole(g), 8)), out(g), 8, 0.01),
  'bilateral, radius 8': (g) =>
    g.k.raw.bilateral(
      from(g, 8),
      g.stride,
      g.dst,
      g.w * 8,
      g.w,
      g.h,
      8,
      weights(g, 289, (i) => {
        const d = ((i % 17) - 8) ** 2 + (Math.floor(i / 17) - 8) ** 2
        return d <= 64 ? Math.exp(-d / 32) : 0
      }),
      50,
    ),
  Sobel: (g) => g.k.raw.gradient(from(g, 1), g.stride, g.dst, g.w * 8, g.w, g.h, 0.2126, 0.7152, 0.0722, 0.25),
  'structure tensor': (g) => {
    // sixteen bytes a pixel: by halves, so that the result fits
    const half = g.h >> 1
    for (const y of [0, half]) g.k.raw.structureTensor(from(g, 1) + y * g.stride, g.stride, g.dst, g.w * 16, g.w, half, 0.25)
  },
  halve: (g) => g.k.raw.halve(g.src, g.stride, g.w, g.h, g.dst, Math.ceil(g.w / 2) * 8),
  'resample, area 0.4': (g) => resample(g, 'area', 0.4),
  'resample, cubic 1.3': (g) => resample(g, 'cubic', 1.3),
  'resample, nearest 1.3': (g) => {
    const { w, h } = scaled(g, 1.3)
    new Int32Array(g.k.memory.buffer, g.small, w).forEach((_, i, t) => (t[i] = Math.floor(i / 1.3)))
    new Int32Array(g.k.memory.buffer, g.small + w * 4, h).forEach((_, i, t) => (t[i] = Math.floor(i / 1.3)))
    g.k.raw.pick(g.src, g.stride, g.dst, w * 8, w, h, g.small, g.small + w * 4, 4)
  },
  'affine warp, cubic': (g) => {
    const [c, s] = [Math.cos(0.122) / 0.9, Math.sin(0.122) / 0.9]
    g.k.raw.warp(
      g.src,
      g.stride,
      0,
      0,
      g.w,
      g.h,
      g.dst,
      g.w * 8,
      g.w,
      g.h,
      0,
      0,
      c,
      s,
      -s,
      c,
      (g.w / 2) * (1 - c) + (g.h / 2) * s,
      (g.h / 2) * (1 - c) - (g.w / 2) * s,
    )
  },
  histogram: (g) => g.k.raw.histogram(g.src, g.stride, g.w, g.h, g.small),
  'tone mode, radius 4': (g) => g.k.raw.toneMode(from(g, 4), g.stride, g.dst, g.w * 8, g.w, g.h, 4, 24),
  'paper tooth': (g) => g.k.raw.tooth(g.src, g.stride, g.dst, g.w * 8, g.w, g.h, 0, 0, 1, 0.3, 0.5, 0.8, 0.3, 0.8, 0.6, 0.01, 0.2, 7, 1, 0, 0, 0),
  'to 8 bits': (g) => g.k.raw.to8(g.src, g.stride, g.dst, g.w * 4, g.w, g.h),
}

function resample(g: Ground, how: 'area' | 'cubic', k: number): void {
  const { w, h } = scaled(g, k)
  resampleInto(g.k, how, { ptr: g.src, stride: g.stride, w: g.w, h: g.h }, { ptr: g.dst, stride: w * 8, w, h })
}

/** Where the reference works at another depth or on fewer channels than ours. */
const notes: Record<string, string> = {
  table: 'numpy: OpenCV has no table of 16 bits',
  'median, radius 8': 'reference in 8 bits: it has no other',
  'bilateral, radius 8': 'reference in float, three channels',
  'guided, radius 8': 'reference in float, three channels, by box means',
  'structure tensor': 'reference in float, three channels',
  'tone mode, radius 4': 'reference in 8 bits: it has no other',
}

type Mat = { data16U: Uint16Array; data32F: Float32Array; delete(): void }
type Cv = Record<string, unknown> & {
  Mat: new (...a: unknown[]) => Mat
  Size: new (w: number, h: number) => unknown
  Point: new (x: number, y: number) => unknown
}

/** OpenCV's WebAssembly build, by the same names. */
async function webAssembly(p: Picture): Promise<Record<string, () => void>> {
  const module = createRequire(import.meta.url)('@techstark/opencv-js') as Cv & { onRuntimeInitialized?: () => void }
  if (!module.Mat) await new Promise<void>((ready) => (module.onRuntimeInitialized = ready))
  const cv = module as unknown as Record<string, (...a: unknown[]) => void> & Cv & Record<string, number>
  const a = new cv.Mat(p.height, p.width, cv.CV_16UC4)
  const b = new cv.Mat(p.height, p.width, cv.CV_16UC4)
  for (let i = 0; i < p.width * p.height; i++) {
    for (let c = 0; c < 3; c++) a.data16U[i * 4 + c] = b.data16U[i * 4 + c] = p.pixels[i * 3 + c]! * 257
    a.data16U[i * 4 + 3] = b.data16U[i * 4 + 3] = 65535
  }
  const f = new cv.Mat(p.height, p.width, cv.CV_32FC3)
  for (let i = 0; i < p.width * p.height * 3; i++) f.data32F[i] = p.pixels[i]! / 255
  const m = (cv.matFromArray as unknown as (...x: unknown[]) => Mat)(
    4,
    5,
    cv.CV_32FC1,
    [0.4, 0.7, 0.1, 0, 0, 0.3, 0.6, 0.1, 0, 0, 0.2, 0.5, 0.2, 0, 0, 0, 0, 0, 1, 0],
  )
  const turn = (cv.matFromArray as unknown as (...x: unknown[]) => Mat)(2, 3, cv.CV_64FC1, [0.89, 0.11, 10, -0.11, 0.89, 10])
  const edge = cv.BORDER_REPLICATE
  const into = (work: (to: Mat) => void) => () => {
    const to = new cv.Mat()
    work(to)
    to.delete()
  }
  const size = (w: number, h: number) => new cv.Size(Math.round(w), Math.round(h))
  return {
    premultiply: into((t) => cv.multiply!(a, b, t, 1 / 65535)),
    matrix: into((t) => cv.transform!(a, t, m)),
    'blend multiply': into((t) => cv.multiply!(a, b, t, 1 / 65535)),
    'blend at half opacity': into((t) => cv.addWeighted!(a, 0.5, b, 0.5, 0, t)),
    'Gaussian, sigma 3': into((t) => cv.GaussianBlur!(a, t, size(0, 0), 3, 3, edge)),
    'Gaussian, sigma 25': into((t) => cv.GaussianBlur!(a, t, size(0, 0), 25, 25, edge)),
    'box, radius 8': into((t) => cv.blur!(a, t, size(17, 17), new cv.Point(-1, -1), edge)),
    'median, radius 1': into((t) => cv.medianBlur!(a, t, 3)),
    'median, radius 2': into((t) => cv.medianBlur!(a, t, 5)),
    'bilateral, radius 8': into((t) => cv.bilateralFilter!(f, t, 17, 0.1, 4, edge)),
    halve: into((t) => cv.resize!(a, t, size(p.width / 2, p.height / 2), 0, 0, cv.INTER_AREA)),
    'resample, area 0.4': into((t) => cv.resize!(a, t, size(p.width * 0.4, p.height * 0.4), 0, 0, cv.INTER_AREA)),
    'resample, cubic 1.3': into((t) => cv.resize!(a, t, size(p.width * 1.3, p.height * 1.3), 0, 0, cv.INTER_CUBIC)),
    'resample, nearest 1.3': into((t) => cv.resize!(a, t, size(p.width * 1.3, p.height * 1.3), 0, 0, cv.INTER_NEAREST)),
    'affine warp, cubic': into((t) => cv.warpAffine!(a, t, turn, size(p.width, p.height), cv.INTER_CUBIC, cv.BORDER_CONSTANT)),
    'to 8 bits': into((t) => cv.convertScaleAbs!(a, t, 1 / 257, 0)),
  }
}

/** libvips through sharp, one thread, 16 bits. */
function vips(p: Picture): Record<string, () => Promise<unknown>> {
  sharp.concurrency(1)
  sharp.cache(false)
  const wide = Uint16Array.from({ length: p.width * p.height * 4 }, (_, i) => (i % 4 === 3 ? 65535 : p.pixels[Math.floor(i / 4) * 3 + (i % 4)]! * 257))
  const raw = { raw: { width: p.width, height: p.height, channels: 4 as const }, limitInputPixels: false as const }
  const from = () => sharp(wide, raw)
  return {
    'Gaussian, sigma 3': () => from().blur({ sigma: 3 }).raw({ depth: 'ushort' }).toBuffer(),
    'Gaussian, sigma 25': () => from().blur({ sigma: 25 }).raw({ depth: 'ushort' }).toBuffer(),
    'median, radius 2': () => from().median(5).raw({ depth: 'ushort' }).toBuffer(),
    'resample, nearest 1.3': () =>
      from()
        .resize(Math.round(p.width * 1.3), Math.round(p.height * 1.3), { kernel: 'nearest', fit: 'fill' })
        .raw({ depth: 'ushort' })
        .toBuffer(),
  }
}

export interface KernelRow {
  name: string
  megapixels: number
  /** CPU milliseconds a megapixel. */
  ours: number
  native: number | null
  js: number | null
  vips: number | null
  note: string
}

/** Every kernel, interleaved with its references; medians of CPU time and of ratios. */
export async function measureKernels(p: Picture, megapixels: number, native: Native | null, only: string): Promise<KernelRow[]> {
  const g = await ground(p)
  // its slowest take minutes on large pictures, and its ratios hardly change with size
  const js = megapixels <= 2 ? await webAssembly(p) : {}
  const other = vips(p)
  await native?.load(p)
  const rows: KernelRow[] = []
  for (const [name, run] of Object.entries(ours)) {
    if (only && !`kernel ${name} ${megapixels}`.includes(only)) continue
    run(g)
    const slow = (await cpuSeconds(() => run(g))) / megapixels > 0.1
    const rounds = slow ? 3 : 5
    const t = { ours: [] as number[], native: [] as number[], js: [] as number[], vips: [] as number[] }
    for (let i = 0; i < rounds; i++) {
      t.ours.push(await cpuSeconds(() => run(g)))
      const n = await native?.seconds(name)
      if (typeof n === 'number') t.native.push(n)
      // its slow ones are not worth waiting for again and again
      if (js[name] && (i === 0 || (!slow && i < 3))) t.js.push(await cpuSeconds(js[name]))
      if (other[name] && i < 3) t.vips.push(await cpuSeconds(other[name]))
    }
    const ratio = (v: number[]) => (v.length ? median(v.map((x, i) => t.ours[i]! / x)) : null)
    const row = {
      name,
      megapixels,
      ours: (median(t.ours) * 1000) / megapixels,
      native: ratio(t.native),
      js: ratio(t.js),
      vips: ratio(t.vips),
      note: notes[name] ?? '',
    }
    console.log(
      `  ${name.padEnd(24)} ${row.ours.toFixed(1).padStart(7)} ms/MP  native ${row.native?.toFixed(2) ?? '–'}  js ${row.js?.toFixed(2) ?? '–'}  libvips ${row.vips?.toFixed(2) ?? '–'}`,
    )
    rows.push(row)
  }
  return rows
}

export function kernelTable(rows: readonly KernelRow[]): string {
  const shown = (v: number | null) => (v === null ? '–' : `${v.toFixed(2)}×`)
  return [
    '| kernel | megapixels | CPU ms a megapixel | to OpenCV native | to opencv-js | to libvips | |',
    '| --- | ---: | ---: | ---: | ---: | ---: | --- |',
    ...rows.map((r) => `| ${r.name} | ${r.megapixels} | ${r.ours.toFixed(1)} | ${shown(r.native)} | ${shown(r.js)} | ${shown(r.vips)} | ${r.note} |`),
  ].join('\n')
}

export function kernelBars(rows: readonly KernelRow[]): Bar[] {
  const natives = rows.filter((r) => r.native !== null)
  const js = rows.filter((r) => r.js !== null)
  const bars: Bar[] = []
  if (natives.length) {
    const mean = geometricMean(natives.map((r) => r.native!))
    bars.push({ what: 'kernels to OpenCV native, geometric mean', bar: '≤ 0.6×', measured: `${mean.toFixed(2)}×`, met: mean <= 0.6 })
    const over = natives.filter((r) => r.native! > 1.5)
    bars.push({
      what: 'no kernel slower than OpenCV native by more than',
      bar: '1.5×',
      measured: over.length ? over.map((r) => `${r.name} at ${r.megapixels} MP ${r.native!.toFixed(2)}×`).join(', ') : 'none is',
      met: over.length === 0,
    })
  }
  if (js.length) {
    const mean = geometricMean(js.map((r) => r.js!))
    bars.push({ what: 'kernels to opencv-js, geometric mean', bar: '≤ 0.25×', measured: `${mean.toFixed(2)}×`, met: mean <= 0.25 })
  }
  return bars
}
