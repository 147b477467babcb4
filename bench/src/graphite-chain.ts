import { createRequire } from 'node:module'
import { artworkFromPhoto, GraphCompiler, newLayer, newStep, renderStrips, type Artwork, type Kernels } from '@nimble-quill/core'
import { loadKernels } from '@nimble-quill/core/node'
import { MemorySources } from '@nimble-quill/core/testing'
import { newEngine } from '@nimble-quill/server/rendering'
import sharp from 'sharp'
import type { Picture } from './picture.ts'

/** The blur of the chain, as a share of the long side. */
const SIGMA = 0.003

/** One way of computing the chain: prepared once, then run as often as asked; answers the 8-bit result's first channel. */
export interface Contestant {
  name: string
  run: () => Promise<Uint8Array>
}

const ASSET = '0'.repeat(64)

/** BT.709 luma; its live negative, blurred, by colour dodge over it; levels over all. */
export function chainArtwork(p: Pick<Picture, 'width' | 'height'>): Artwork {
  const a = artworkFromPhoto({ asset: ASSET, width: p.width, height: p.height, title: 'bench' })
  return {
    ...a,
    layers: [
      { ...a.layers[0]!, id: 'base', chain: [newStep('black-white', { by: 'bt709' })] },
      {
        ...newLayer('lines', { type: 'live', layer: 'base' }, [newStep('invert'), newStep('gaussian-blur', { sigma: { value: SIGMA * 100, unit: '%' } })]),
        blend: 'color-dodge',
      },
      newLayer('values', { type: 'below' }, [newStep('levels', { black: 40, midtone: 0.8 })]),
    ],
  }
}

/** Ours: the engine, full-width strips, one thread, 16-bit RGBA inside, RGB8 out. */
export async function ours(p: Picture): Promise<Contestant> {
  const kernels: Kernels = await loadKernels()
  const sources = new MemorySources()
  await sources.add(kernels, ASSET, { width: p.width, height: p.height, channels: 3, depth: 8 }, p.pixels)
  const engine = newEngine(kernels, sources)
  const node = new GraphCompiler(chainArtwork(p), kernels.hash).compile({ type: 'artwork' })
  return {
    name: 'ours',
    run: async () => {
      // nothing may be left of the run before
      engine.clear()
      const out = new Uint8Array(p.width * p.height)
      let at = 0
      await renderStrips(engine, node, 0, { x: 0, y: 0, w: p.width, h: p.height }, (pic) => {
        const { w, h } = pic.region
        kernels.scratch(w * h * 3, (ptr) => {
          kernels.raw.toRgb8(pic.ptr, pic.stride, ptr, w * 3, w, h, 0xffffff)
          const rgb = kernels.bytes(ptr, w * h * 3)
          for (let i = 0; i < w * h; i++) out[at++] = rgb[i * 3]!
        })
      })
      return out
    },
  }
}

/** libvips through sharp, one thread, operation by operation as its interface asks for. */
export async function libvips(p: Picture): Promise<Contestant> {
  sharp.concurrency(1)
  sharp.cache(false)
  const raw = { raw: { width: p.width, height: p.height, channels: 3 as const }, limitInputPixels: false as const }
  const grey = [0.2126, 0.7152, 0.0722] as [number, number, number]
  return {
    name: 'libvips',
    run: async () => {
      const luma = await sharp(p.pixels, raw).recomb([grey, grey, grey]).raw().toBuffer()
      const negative = await sharp(luma, raw).negate().raw().toBuffer()
      const blurred = await sharp(negative, raw)
        .blur({ sigma: SIGMA * p.width })
        .raw()
        .toBuffer()
      const dodged = await sharp(luma, raw)
        .composite([{ input: blurred, raw: raw.raw, blend: 'colour-dodge' }])
        .removeAlpha()
        .raw()
        .toBuffer()
      const wide = { ...raw, raw: { ...raw.raw, channels: (dodged.length / (p.width * p.height)) as 3 } }
      const { data, info } = await sharp(dodged, wide)
        .linear(255 / 215, (-40 * 255) / 215)
        .gamma(1.25, 1)
        .raw()
        .toBuffer({ resolveWithObject: true })
      const out = new Uint8Array(p.width * p.height)
      for (let i = 0; i < out.length; i++) out[i] = data[i * info.channels]!
      return out
    },
  }
}

/** What of OpenCV's WebAssembly build the chain needs. */
interface Cv {
  Mat: new (...args: unknown[]) => Mat
  Size: new (w: number, h: number) => unknown
  matFromArray(rows: number, cols: number, type: number, data: ArrayLike<number>): Mat
  cvtColor(a: Mat, b: Mat, code: number): void
  bitwise_not(a: Mat, b: Mat): void
  GaussianBlur(a: Mat, b: Mat, size: unknown, sx: number, sy: number, border: number): void
  subtract(a: Mat, b: Mat, c: Mat): void
  divide(a: Mat, b: Mat, c: Mat, scale: number): void
  LUT(a: Mat, table: Mat, c: Mat): void
  CV_8UC1: number
  CV_8UC3: number
  COLOR_RGB2GRAY: number
  BORDER_REPLICATE: number
}
interface Mat {
  data: Uint8Array
  delete(): void
}

/** OpenCV's WebAssembly build: one 8-bit channel throughout, a quarter of the samples at half their depth. */
export async function opencv(p: Picture): Promise<Contestant> {
  const module = createRequire(import.meta.url)('@techstark/opencv-js') as Cv & { onRuntimeInitialized?: () => void }
  if (!module.Mat) await new Promise<void>((ready) => (module.onRuntimeInitialized = ready))
  const cv: Cv = module
  const source = new cv.Mat(p.height, p.width, cv.CV_8UC3)
  source.data.set(p.pixels)
  const table = cv.matFromArray(
    1,
    256,
    cv.CV_8UC1,
    Array.from({ length: 256 }, (_, i) => Math.round(255 * Math.min(1, Math.max(0, (i - 40) / 215)) ** 1.25)),
  )
  return {
    name: 'opencv-js',
    run: async () => {
      const [luma, negative, blurred] = [new cv.Mat(), new cv.Mat(), new cv.Mat()]
      cv.cvtColor(source, luma, cv.COLOR_RGB2GRAY)
      cv.bitwise_not(luma, negative)
      cv.GaussianBlur(negative, blurred, new cv.Size(0, 0), SIGMA * p.width, SIGMA * p.width, cv.BORDER_REPLICATE)
      cv.bitwise_not(blurred, blurred)
      cv.divide(luma, blurred, luma, 255)
      cv.LUT(luma, table, negative)
      const out = negative.data.slice()
      for (const m of [luma, negative, blurred]) m.delete()
      return out
    },
  }
}
