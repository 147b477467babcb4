import { open, rename, rm, type FileHandle } from 'node:fs/promises'
import {
  atLevel,
  Engine,
  GraphCompiler,
  QuillError,
  drawnLines,
  renderStrips,
  tiffHeader,
  writeSvg,
  type Artwork,
  type Kernels,
  type Signal,
  type SourceReader,
} from '@nimble-quill/core'
import { code } from '../workers/coding.ts'

export interface RenderOptions {
  format: 'png' | 'jpeg' | 'svg' | 'svg-lines'
  /** JPEG quality 1–100. */
  quality?: number
  /** Pixels an inch written into the file; the sheet's where not given. */
  ppi?: number
  /** The finished picture is reduced to this long side. */
  longSide?: number
  /** 0: full size; n: computed at 1/2ⁿ, as a preview is. */
  level?: number
  /** Steps' words that they should be computed finer than `level` are wishes only: for small pictures that must not take long. */
  quick?: boolean
  onProgress?: (share: number) => void
  signal?: Signal
}

/** What of the memory the kept strips of a render may take. */
const CACHE_BYTES = 256 * 2 ** 20

export const newEngine = (kernels: Kernels, sources: SourceReader) => new Engine(kernels, sources, () => new Promise((r) => setImmediate(r)), CACHE_BYTES)

/**
 * Renders an artwork into a file. Strips go to a plain file on disk, which the encoder then reads, so memory does not
 * grow with the picture. The file appears under its name only when it is whole.
 * @returns its size in pixels
 * @throws QuillError `cancelled` and those of compiling and computing
 */
export async function renderToFile(engine: Engine, artwork: Artwork, out: string, options: RenderOptions): Promise<{ width: number; height: number }> {
  if (options.format === 'svg' || options.format === 'svg-lines') return linesToFile(engine, artwork, out, options.format, options)
  const level = options.level ?? 0
  const ppi = options.ppi ?? artwork.sheet.ppi
  const node = new GraphCompiler(artwork, engine.kernels.hash).compile({ type: 'artwork' })
  const frame = atLevel(artwork.sheet, level)
  const channels = options.format === 'jpeg' ? 3 : 4
  const plain = `${out}.part.tif`
  const encoded = `${out}.part`
  const { kernels } = engine
  try {
    const file = await open(plain, 'w')
    try {
      await file.write(tiffHeader(frame.w, frame.h, channels, ppi))
      await renderStrips(
        engine,
        node,
        level,
        frame,
        async (pic, done) => {
          const { w, h } = pic.region
          const bytes = w * h * channels
          const ptr = kernels.allocator.alloc(bytes)
          try {
            if (channels === 4) kernels.raw.to8(pic.ptr, pic.stride, ptr, w * 4, w, h)
            else kernels.raw.toRgb8(pic.ptr, pic.stride, ptr, w * 3, w, h, 0xffffff)
            await file.write(kernels.bytes(ptr, bytes))
          } finally {
            kernels.allocator.free(ptr)
          }
          // encoding is about a tenth of the work
          options.onProgress?.(done * 0.9)
        },
        { ...(options.signal ? { signal: options.signal } : {}), ...(options.quick ? { quick: true } : {}) },
      )
    } finally {
      await file.close()
    }
    const { quality = 90, longSide = null } = options
    const format = options.format === 'jpeg' ? 'jpeg' : 'png'
    const { width, height } = await code({ type: 'encode', path: plain, out: encoded, format, quality, ppi, longSide }, frame.w * frame.h, options.signal)
    if (options.signal?.cancelled) throw new QuillError('cancelled', 'Stopped.')
    await rename(encoded, out)
    options.onProgress?.(1)
    return { width, height }
  } finally {
    await rm(plain, { force: true })
    await rm(encoded, { force: true })
  }
}

/** Characters that are gathered before they are written. */
const BLOCK = 1 << 18

/** Writes the lines of an artwork into a file, which appears under its name only when it is whole. */
async function linesToFile(
  engine: Engine,
  artwork: Artwork,
  out: string,
  format: 'svg' | 'svg-lines',
  { ppi, signal = { cancelled: false }, onProgress = () => undefined }: Omit<RenderOptions, 'format'>,
): Promise<{ width: number; height: number }> {
  const as = format === 'svg' ? 'shapes' : 'centre lines'
  const lines = await drawnLines(engine, artwork, as, { signal, onProgress: (share) => onProgress(share * 0.7) })
  const { w, h } = lines.sheet
  const part = `${out}.part`
  const all = Math.max(1, lines.groups.length)
  let file: FileHandle | null = null
  try {
    file = await open(part, 'w')
    let text = ''
    for (const piece of writeSvg({ ...lines, sheet: { ...lines.sheet, ppi: ppi ?? lines.sheet.ppi } }, (done) => onProgress(0.7 + (0.3 * done) / all))) {
      text += piece
      if (text.length < BLOCK) continue
      await file.write(text)
      text = ''
      if (signal.cancelled) throw new QuillError('cancelled', 'Stopped.')
    }
    await file.write(text)
    await file.close()
    file = null
    await rename(part, out)
    onProgress(1)
    return { width: w, height: h }
  } finally {
    await file?.close()
    await rm(part, { force: true })
  }
}
