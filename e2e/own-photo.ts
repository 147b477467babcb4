import { join } from 'node:path'
import sharp from 'sharp'
import { root } from './studio.ts'

/** A photo of one's own: six megapixels, put together from the demo photographs; another quality is another file. */
export async function ownPhoto(path: string, quality = 92): Promise<void> {
  const photo = (name: string) => join(root, 'demo/photos', name)
  const parts = await Promise.all(
    ['boathouse.jpg', 'marsh-sunset.jpg', 'heron-on-post.jpg', 'lantern-stall.jpg'].map((n) => sharp(photo(n)).resize(1500, 1000, { fit: 'cover' }).toBuffer()),
  )
  await sharp({ create: { width: 3000, height: 2000, channels: 3, background: '#000' } })
    .composite(parts.map((input, i) => ({ input, left: (i % 2) * 1500, top: Math.floor(i / 2) * 1000 })))
    .jpeg({ quality })
    .toFile(path)
}

/** A large photo: a mosaic of the demo photographs at their own size, each place another part of one. */
export async function mosaicPhoto(path: string, width: number, height: number): Promise<void> {
  const names = ['boathouse.jpg', 'marsh-sunset.jpg', 'heron-on-post.jpg', 'lantern-stall.jpg', 'tin-boats.jpg', 'keeper-portrait.jpg']
  const parts: { input: Buffer; left: number; top: number }[] = []
  const [w, h] = [1000, 1000]
  for (let y = 0; y < height; y += h) {
    for (let x = 0; x < width; x += w) {
      const n = parts.length
      const part = sharp(join(root, 'demo/photos', names[n % names.length]!))
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
