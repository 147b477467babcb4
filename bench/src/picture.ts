import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import sharp from 'sharp'

export interface Picture {
  width: number
  height: number
  /** Plain RGB, 8 bits. */
  pixels: Buffer
}

/** A photo of about so many megapixels, 3 : 2: a mosaic of different photographs at their own size, not an enlargement. */
export async function mosaic(folder: string, megapixels: number): Promise<Picture> {
  const width = Math.round(Math.sqrt(megapixels * 1e6 * 1.5))
  const height = Math.round(width / 1.5)
  const files = (await readdir(folder)).filter((f) => f.endsWith('.jpg')).sort()
  const pixels = Buffer.alloc(width * height * 3)
  const step = 1200
  let n = 0
  for (let y = 0; y < height; y += step) {
    for (let x = 0; x < width; x += step) {
      const w = Math.min(step, width - x)
      const h = Math.min(step, height - y)
      const file = files[n % files.length]!
      // each place shows another part, mirrored or not
      let part = sharp(join(folder, file)).resize(1920, 1280, { fit: 'cover' })
      if (Math.floor(n / files.length) % 2) part = part.flop()
      const { data } = await part
        .extract({ left: (n * 97) % (1920 - w + 1), top: (n * 31) % (1280 - h + 1), width: w, height: h })
        .raw()
        .toBuffer({ resolveWithObject: true })
      for (let row = 0; row < h; row++) data.copy(pixels, ((y + row) * width + x) * 3, row * w * 3, (row + 1) * w * 3)
      n++
    }
  }
  return { width, height, pixels }
}
