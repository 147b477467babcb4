import sharp from 'sharp'
import { tiffHeader } from './tiff.ts'

// libtiff, through libvips, is the reader that decides
test.each([
  [5, 3, 3],
  [70, 200, 4],
  [1, 64, 3],
  [33, 65, 4],
  [1, 1, 3],
] as const)('%d × %d with %d channels is read by libtiff as written', async (w, h, channels) => {
  const pixels = Buffer.from(Uint8Array.from({ length: w * h * channels }, (_, i) => (i * 37) % 256))
  const file = Buffer.concat([tiffHeader(w, h, channels, 240), pixels])
  const image = sharp(file)
  const meta = await image.metadata()
  expect(meta).toMatchObject({ format: 'tiff', width: w, height: h, channels, depth: 'uchar', density: 240 })
  expect((await image.raw().toBuffer()).equals(pixels)).toBe(true)
})

test('a file that would pass 4 GiB is refused', () => {
  expect(() => tiffHeader(70_000, 70_000, 3, 300)).toThrow(RangeError)
})
