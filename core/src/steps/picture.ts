import type { Region } from '../base/region.ts'
import type { Pic } from './contract.ts'

/** The address of a region's first pixel in a picture that holds it. */
export const addressOf = (pic: Pic, region: Region): number => pic.ptr + (region.y - pic.region.y) * pic.stride + (region.x - pic.region.x) * 8

/**
 * Rows that a call may work on so that it takes about 40 ms on one thread, at least 8 and in pairs.
 * @param width pixels in a row
 * @param perPixel nanoseconds a pixel takes
 */
export const rowsOfCall = (width: number, perPixel: number): number => Math.max(8, Math.floor(4e7 / perPixel / width / 2) * 2)

/** Runs `band` on rows of a region from the top, letting other events happen between. */
export async function byRows(region: Region, rows: number, pause: () => Promise<void>, band: (y: number, h: number) => void): Promise<void> {
  for (let y = 0; y < region.h; y += rows) {
    if (y > 0) await pause()
    band(y, Math.min(rows, region.h - y))
  }
}
