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
