import { artworkFromPhoto, atLevel, GraphCompiler, type Kernels } from '@nimble-quill/core'
import sharp from 'sharp'
import { newEngine } from '../renders/rendering.ts'
import { PyramidFile, PyramidFiles } from './pyramid-file.ts'

/**
 * Small pictures of a photo as WebP, from its pyramid: the file itself is not decoded again.
 * @param paths where to, by long side; a smaller photo keeps its size
 * @throws QuillError `source-unreadable`
 */
export async function smallCopies(kernels: Kernels, pyramid: string, paths: Record<number, string>): Promise<void> {
  const file = await PyramidFile.open(pyramid)
  const { width, height, channels, levels } = file.info
  await file.close()
  const asset = '0'.repeat(64)
  const sources = new PyramidFiles(() => pyramid)
  const engine = newEngine(kernels, sources)
  const node = new GraphCompiler(artworkFromPhoto({ asset, width, height, title: 'small' }), kernels.hash).compile({ type: 'artwork' })
  try {
    for (const [side, path] of Object.entries(paths)) {
      const size = Number(side)
      let level = 0
      while (level + 1 < levels && Math.max(width, height) / 2 ** (level + 1) >= size) level++
      const region = atLevel({ x: 0, y: 0, w: width, h: height }, level)
      const pixels = await engine.withRegion(node, level, region, (pic) =>
        kernels.scratch(region.w * region.h * 4, (at) => {
          kernels.raw.to8(pic.ptr, pic.stride, at, region.w * 4, region.w, region.h)
          return Buffer.from(kernels.bytes(at, region.w * region.h * 4))
        }),
      )
      let picture = sharp(pixels, { raw: { width: region.w, height: region.h, channels: 4 } })
      if (channels === 3) picture = picture.removeAlpha()
      await picture.resize(size, size, { fit: 'inside', withoutEnlargement: true }).webp({ quality: 82 }).toFile(path)
    }
  } finally {
    engine.clear()
    await sources.close()
  }
}
