import { createHash } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { open, rm, stat } from 'node:fs/promises'
import { PyramidCutter, QuillError, SOURCE_TILE, type Kernels, type Signal, type SourceInfo } from '@nimble-quill/core'
import sharp, { type Metadata } from 'sharp'
import { MAX_BYTES, MAX_MEGAPIXELS, MAX_SIDE, MAX_WHOLE_MEGAPIXELS, READABLE, WHOLE } from './limits.ts'
import { code } from '../workers/coding.ts'
import { PyramidWriter } from './pyramid-file.ts'

export { PyramidFile, PyramidFiles } from './pyramid-file.ts'
export { MAX_BYTES, MAX_MEGAPIXELS } from './limits.ts'

export interface PhotoFacts {
  width: number
  height: number
  channels: 3 | 4
  depth: 8 | 16
  format: string
}

const spoilt = (why: string) =>
  new QuillError(
    'photo-spoilt',
    `The picture is damaged or cut off and cannot be read to its end. Nothing was added; export or copy it again and add it once more.`,
    { why },
  )

/** SHA-256 of a file, in hexadecimal. */
export async function hashFile(path: string): Promise<string> {
  const hash = createHash('sha256')
  for await (const chunk of createReadStream(path)) hash.update(chunk as Buffer)
  return hash.digest('hex')
}

/**
 * Looks at a picture file without decoding it.
 * @throws QuillError `photo-empty`, `photo-not-a-picture`, `photo-too-large`
 */
export async function inspect(path: string): Promise<Metadata> {
  const { size } = await stat(path)
  if (size === 0) throw new QuillError('photo-empty', 'The file is empty (0 bytes). Nothing was added; check that it was copied whole.')
  if (size > MAX_BYTES) {
    throw new QuillError(
      'photo-too-large',
      `The file has ${Math.ceil(size / 2 ** 20)} MB; photos may have up to ${MAX_BYTES / 2 ** 20} MB. Nothing was added; save it smaller or as JPEG.`,
      { size },
    )
  }
  let meta: Metadata
  try {
    meta = await sharp(path, { limitInputPixels: false }).metadata()
  } catch {
    throw new QuillError(
      'photo-not-a-picture',
      'This file is not a picture that can be read. Nothing was added; photos may be JPEG, PNG, TIFF, WebP, AVIF or GIF.',
    )
  }
  if (!(READABLE as readonly string[]).includes(meta.format)) {
    throw new QuillError(
      'photo-not-a-picture',
      `A file of the kind “${meta.format}” cannot be used as a photo. Nothing was added; photos may be JPEG, PNG, TIFF, WebP, AVIF or GIF.`,
    )
  }
  const megapixels = (meta.width * meta.height) / 1e6
  if (megapixels > MAX_MEGAPIXELS) {
    throw new QuillError(
      'photo-too-large',
      `The picture has ${Math.ceil(megapixels)} megapixels (${meta.width} × ${meta.height}); photos may have up to ${MAX_MEGAPIXELS}. Nothing was added; save it smaller.`,
      { megapixels },
    )
  }
  if ((WHOLE as readonly string[]).includes(meta.format) && megapixels > MAX_WHOLE_MEGAPIXELS) {
    throw new QuillError(
      'photo-too-large',
      `The picture has ${Math.ceil(megapixels)} megapixels (${meta.width} × ${meta.height}). GIF, WebP and AVIF are unpacked whole, so they may have up to ${MAX_WHOLE_MEGAPIXELS}. Nothing was added; save it as JPEG, PNG or TIFF, or smaller.`,
      { megapixels },
    )
  }
  if (Math.max(meta.width, meta.height) > MAX_SIDE) {
    throw new QuillError(
      'photo-too-large',
      `The picture is ${meta.width} × ${meta.height}; a side may have up to ${MAX_SIDE} pixels. Nothing was added; save it smaller.`,
      { width: meta.width, height: meta.height },
    )
  }
  return meta
}

/**
 * Decodes a picture file once: orientation applied, its ICC profile converted to sRGB, 8 or 16 bits kept, transparency
 * kept; and cuts it into a pyramid file. Memory stays bounded: the decoder writes to a scratch file, which is read by rows.
 * @param path the picture; @param out where the pyramid goes; @param scratch a path for a file that is removed again
 * @throws QuillError as inspect, `photo-spoilt`, and `cancelled`
 */
export async function cutPyramid(kernels: Kernels, path: string, out: string, scratch: string, signal: Signal = { cancelled: false }): Promise<PhotoFacts> {
  const meta = await inspect(path)
  const depth = meta.depth === 'ushort' ? 16 : 8
  const plain = `${scratch}.v`
  let writer: PyramidWriter | null = null
  try {
    try {
      await code({ type: 'decode', path, out: plain, depth }, meta.width * meta.height, signal)
    } catch (error) {
      if (error instanceof QuillError) throw error
      throw spoilt(String(error))
    }
    const file = await open(plain, 'r')
    try {
      // the decoder's plain form: a 64-byte header, then the samples, rows without padding
      const header = Buffer.alloc(64)
      await file.read(header, 0, 64, 0)
      const width = header.readUInt32LE(4)
      const height = header.readUInt32LE(8)
      const bands = header.readUInt32LE(12)
      const bytes = header.readUInt32LE(20) === 2 ? 2 : 1
      if ((bands !== 3 && bands !== 4) || bytes * 8 !== depth) throw spoilt(`${bands} bands of ${bytes} bytes`)
      const info: Omit<SourceInfo, 'levels'> = { width, height, channels: bands, depth }
      const rowBytes = width * bands * bytes
      const cutter = new PyramidCutter(kernels, info, (level, tx, ty, payload) => writer!.tile(level, tx, ty, payload))
      writer = await PyramidWriter.create(out, cutter.info)
      try {
        const rows = Math.max(1, Math.min(SOURCE_TILE, Math.floor((8 * 2 ** 20) / rowBytes)))
        const buffer = Buffer.alloc(rows * rowBytes)
        for (let y = 0; y < height; y += rows) {
          const want = Math.min(rows, height - y) * rowBytes
          const { bytesRead } = await file.read(buffer, 0, want, 64 + y * rowBytes)
          if (bytesRead !== want) throw spoilt('the decoded picture ends early')
          if (signal.cancelled) throw new QuillError('cancelled', 'Stopped.')
          await cutter.push(buffer.subarray(0, want))
        }
        await cutter.end()
      } catch (error) {
        cutter.dispose()
        throw error
      }
      await writer.finish()
      return { width, height, channels: bands, depth, format: meta.format }
    } finally {
      await file.close()
    }
  } catch (error) {
    await writer?.abandon()
    await rm(out, { force: true })
    throw error
  } finally {
    await rm(plain, { force: true })
  }
}

export { lookSpotOf, SPOT_SIDE } from './look-spot.ts'
export { smallCopies } from './small-copies.ts'
