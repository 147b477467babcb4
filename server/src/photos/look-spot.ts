import { richestSpot } from '@nimble-quill/core'
import sharp from 'sharp'

/** Long side of the small copy that a look spot is found on. */
export const SPOT_SIDE = 320

/**
 * Where a photo is richest, full-size pixels: techniques go finer there, so every way to begin an artwork begins with the same.
 * @param small path of its small copy with a long side of SPOT_SIDE
 */
export async function lookSpotOf(small: string, { width, height }: { width: number; height: number }): Promise<{ x: number; y: number }> {
  const { data, info } = await sharp(small).greyscale().raw().toBuffer({ resolveWithObject: true })
  const spot = richestSpot(data, info.width, info.height)
  return { x: Math.round(spot.x * width), y: Math.round(spot.y * height) }
}
