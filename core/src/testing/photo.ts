import { fileURLToPath } from 'node:url'
import sharp from 'sharp'
import { rgba, type Rgba } from './kernel-run.ts'

/** A part of a demo photo, by the name of its file without ending. */
export async function photoPart(name: string, part: { left: number; top: number; width: number; height: number }): Promise<Rgba> {
  const data = await sharp(fileURLToPath(new URL(`../../../demo/photos/${name}.jpg`, import.meta.url)))
    .extract(part)
    .raw()
    .toBuffer()
  return rgba(data, part.width, part.height, 3)
}
