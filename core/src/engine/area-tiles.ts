import type { Artwork } from '../artwork/schema.ts'
import type { Matrix } from '../base/transform.ts'
import { constantOf, EMPTY_TILE, FULL, isConstantEntry, PLANE_TILE, tileBytes } from '../planes/plane.ts'
import { tableIn } from '../steps/table-cache.ts'
import type { Engine } from './engine.ts'
import { GraphCompiler } from './graph.ts'
import type { AreaTiles } from './painter.ts'
import type { Signal } from './request.ts'

/**
 * An area in the space of something that is painted on, tile by tile.
 * @param plane the area's, as documents name it
 * @param back the way from the sheet to there; null: it is the sheet's own
 */
export async function areaTiles(engine: Engine, artwork: Artwork, plane: string, back: Matrix | null, signal: Signal): Promise<AreaTiles> {
  const { kernels, planes } = engine
  const bytes = tileBytes(1)
  if (!back) {
    const area = await planes.open(plane, 1)
    return async (tx, ty) => {
      const entry = planes.entryAt({ plane: area, blank: EMPTY_TILE }, 0, tx, ty)
      if (entry === FULL) return 'all'
      if (entry === EMPTY_TILE) return 'none'
      if (!isConstantEntry(entry)) return planes.tile(entry, 1)
      const ptr = kernels.allocator.alloc(bytes)
      kernels.raw.fillGrey(ptr, PLANE_TILE * 2, PLANE_TILE, PLANE_TILE, Number(constantOf(entry)))
      return { ptr, done: () => kernels.allocator.free(ptr) }
    }
  }
  const node = new GraphCompiler(artwork, kernels.hash).compile({ type: 'area', plane, by: back })
  const same = () => tableIn(kernels, 'mask of tones', () => Uint16Array.from({ length: 65536 }, (_, v) => v))
  return async (tx, ty) => {
    const region = { x: tx * PLANE_TILE, y: ty * PLANE_TILE, w: PLANE_TILE, h: PLANE_TILE }
    const ptr = kernels.allocator.alloc(bytes)
    const take = (pic: { ptr: number; stride: number }) => kernels.raw.lumaMask(pic.ptr, pic.stride, ptr, PLANE_TILE * 2, PLANE_TILE, PLANE_TILE, same())
    try {
      await engine.withRegion(node, 0, region, take, { signal, keep: 'render' })
    } catch (error) {
      kernels.allocator.free(ptr)
      throw error
    }
    return { ptr, done: () => kernels.allocator.free(ptr) }
  }
}
