import type { Page, TestInfo } from '@playwright/test'
import { join } from 'node:path'
import sharp from 'sharp'
import { pixelsOf, type Pixels } from './brush.ts'
import { root } from './studio.ts'

const photo = (name: string) => join(root, 'demo/photos', name)

/** A photo of one's own: six megapixels, put together from the demo photographs; another quality is another file. */
export async function ownPhoto(path: string, quality = 92, [width, height] = [3000, 2000]): Promise<void> {
  const [w, h] = [width / 2, height / 2]
  const parts = await Promise.all(
    ['boathouse.jpg', 'marsh-sunset.jpg', 'heron-on-post.jpg', 'lantern-stall.jpg'].map((n) => sharp(photo(n)).resize(w, h, { fit: 'cover' }).toBuffer()),
  )
  await sharp({ create: { width, height, channels: 3, background: '#000' } })
    .composite(parts.map((input, i) => ({ input, left: (i % 2) * w, top: Math.floor(i / 2) * h })))
    .jpeg({ quality })
    .toFile(path)
}

/** Puts a demo photo at half its breadth and height onto the desk, by a name of its own, for what takes long; its pixels. It may be there already. */
export async function halfPhoto(page: Page, info: TestInfo, name: string, title: string): Promise<Pixels> {
  const path = info.outputPath(`${title}.jpg`)
  const { width } = await sharp(photo(name)).metadata()
  await sharp(photo(name))
    .resize(width / 2)
    .jpeg({ quality: 95 })
    .toFile(path)
  await page.locator('input[type="file"]').setInputFiles(path)
  await page.getByRole('button', { name: `Begin an artwork from ${title}.jpg` }).waitFor()
  return pixelsOf(path)
}

/** A large photo: a mosaic of the demo photographs at their own size, each place another part of one. */
export async function mosaicPhoto(path: string, width: number, height: number): Promise<void> {
  const names = ['boathouse.jpg', 'marsh-sunset.jpg', 'heron-on-post.jpg', 'lantern-stall.jpg', 'tin-boats.jpg', 'keeper-portrait.jpg']
  const parts: { input: Buffer; left: number; top: number }[] = []
  const [w, h] = [1000, 1000]
  for (let y = 0; y < height; y += h) {
    for (let x = 0; x < width; x += w) {
      const n = parts.length
      const part = sharp(photo(names[n % names.length]!))
        .resize(1920, 1280, { fit: 'cover' })
        .extract({ left: (n * 97) % 900, top: (n * 31) % 280, width: w, height: h })
      parts.push({ input: await part.png({ compressionLevel: 1 }).toBuffer(), left: x, top: y })
    }
  }
  await sharp({ create: { width, height, channels: 3, background: '#000' }, limitInputPixels: false })
    .composite(parts)
    .jpeg({ quality: 90 })
    .toFile(path)
}
