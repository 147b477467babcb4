import { CLEAR, constantEntry, constantPixel, isConstantEntry, PLANE_TILE, tileBytes, constantOf, type Entry, type Plane } from '../planes/plane.ts'
import type { Region } from '../base/region.ts'
import type { Engine } from './engine.ts'
import type { AreaTiles, Laying, Painted } from './painter.ts'
import { named, PlaneMaker, type Digest } from './plane-maker.ts'
import { tilesIn } from './planes.ts'

/** A plane filled with one value over a region, as far as an area goes. */
export async function filledPlane(
  engine: Engine,
  plane: Plane,
  blank: Entry,
  region: Region,
  laying: Laying,
  area?: AreaTiles,
  digest: Digest = named,
): Promise<Painted> {
  const { kernels, planes } = engine
  const { raw, allocator } = kernels
  const { channels } = plane
  const value =
    laying.type === 'grey'
      ? constantEntry(laying.value)
      : laying.type === 'paint'
        ? constantPixel((laying.colour & 0xffff_ffff_ffffn) | (0xffffn << 48n))
        : CLEAR
  const maker = new PlaneMaker(kernels, planes, plane, blank, digest)
  const side = PLANE_TILE
  const stride = side * channels * 2
  const bytes = tileBytes(channels)
  const work = area ? allocator.alloc(side * side * 4 * 2 + bytes) : 0
  const [whole, held, out] = [work, work + side * side * 4, work + side * side * 8]
  if (area) kernels.f32(whole, side * side).fill(1)
  try {
    for (const { tx, ty } of tilesIn(region)) {
      const share = (await area?.(tx, ty)) ?? 'all'
      if (share === 'none') continue
      if (share === 'all') {
        maker.put(value, tx, ty)
        continue
      }
      const entry = planes.entryAt({ plane, blank }, 0, tx, ty)
      const tile = isConstantEntry(entry) ? null : await planes.tile(entry, channels)
      if (tile) raw.copyRect(tile.ptr, bytes, out, bytes, bytes, 1)
      else if (channels === 1) raw.fillGrey(out, stride, side, side, Number(constantOf(entry)))
      else raw.fillRect(out, stride, side, side, BigInt.asIntN(64, constantOf(entry)))
      tile?.done()
      raw.heldCover(whole, side * 4, share.ptr, side * 2, held, side * 4, side, side, 1)
      share.done()
      if (laying.type === 'grey') raw.mergeGrey(out, stride, held, side * 4, out, stride, side, side, laying.value, 0)
      else
        raw.mergePaint(
          out,
          stride,
          held,
          side * 4,
          out,
          stride,
          side,
          side,
          laying.type === 'paint' ? laying.colour & 0xffff_ffff_ffffn : 0n,
          laying.type === 'paint' ? 0 : 1,
          0,
        )
      await maker.keep(out, tx, ty)
    }
  } finally {
    if (work) allocator.free(work)
  }
  return maker.end(region)
}
