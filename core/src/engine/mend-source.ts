import { planeAt, type PlaneAddress } from '../artwork/planes.ts'
import type { Artwork } from '../artwork/schema.ts'
import { groundOf } from '../artwork/spaces.ts'
import { QuillError } from '../base/errors.ts'
import { atLevel, grow, intersect, union, type Region } from '../base/region.ts'
import { findSource, type Offset } from '../mend/find-source.ts'
import { EMPTY_TILE, entryOf } from '../planes/plane.ts'
import type { Engine } from './engine.ts'
import { GraphCompiler } from './graph.ts'
import { tilesIn } from './planes.ts'
import type { Signal } from './request.ts'

/** A place is looked at so large, pixels, at most. */
const SIDE = 40
/** Half of it covered counts as to be mended when a source is looked for. */
const COVERED = 8000
/** How far round a place a source is looked for, its sizes. */
const FAR = 7

/**
 * Finds where to take from to mend what was painted over: full-size pixels from there to its source.
 * @param at the mended place
 * @param not offsets that were tried already
 * @throws QuillError `paint-refused` where nothing was painted, or nothing round about is like it
 */
export async function mendSource(engine: Engine, artwork: Artwork, at: PlaneAddress, not: readonly Offset[], signal: Signal): Promise<Offset> {
  const { kernels, planes } = engine
  const cover = planeAt(artwork, at)?.plane
  if (!cover) throw new QuillError('paint-refused', 'There is no place to be mended: paint over it first.')
  const plane = await planes.open(cover.index, 1)
  const ground = groundOf(artwork)
  const compiler = new GraphCompiler(artwork, kernels.hash)
  const mask = compiler.compile({ type: 'painted', at, by: [1, 0, 0, 0, 1, 0, 0, 0, 1] })
  const tiles = tilesIn(ground).filter(({ tx, ty }) => (entryOf(plane, tx, ty) ?? EMPTY_TILE) !== EMPTY_TILE)
  const rough = tiles.reduce<Region>((sum, { x, y, w, h }) => union(sum, { x, y, w, h }), { x: 0, y: 0, w: 0, h: 0 })
  const inOne = <T>(node: Parameters<Engine['withRegion']>[0], level: number, region: Region, use: (codes: Uint16Array) => T): Promise<T> =>
    engine.withRegion(
      node,
      level,
      region,
      ({ ptr, stride }) => {
        const px = new Uint16Array(region.w * region.h * 4)
        for (let y = 0; y < region.h; y++) px.set(kernels.u16(ptr + y * stride, region.w * 4), y * region.w * 4)
        return use(px)
      },
      { signal, keep: 'small' },
    )
  // how large it is, from afar
  let far = 0
  while (Math.max(rough.w, rough.h) / 2 ** far > 4 * SIDE) far++
  const seen = intersect(atLevel(rough, far), atLevel(ground, far))
  const box = await inOne(mask, far, seen, (codes) => coveredBox(codes, seen))
  if (!box) throw new QuillError('paint-refused', 'So little was painted that there is nothing to mend. Paint over the place.')
  const size = Math.max(box.w, box.h) * 2 ** far
  let level = 0
  while (size / 2 ** level > SIDE) level++
  const place = atLevel({ x: box.x * 2 ** far, y: box.y * 2 ** far, w: box.w * 2 ** far, h: box.h * 2 ** far }, level)
  const around = intersect(grow(place, Math.ceil((FAR * size) / 2 ** level) + 8), atLevel(ground, level))
  const picture = compiler.compile({ type: 'chain', layer: at.layer, steps: 0 })
  const px = await inOne(picture, level, around, (codes) => codes)
  const inside = await inOne(mask, level, around, (codes) =>
    Uint8Array.from({ length: around.w * around.h }, (_, i) => (codes[i * 4]! > COVERED && codes[i * 4 + 3]! > 0 ? 1 : 0)),
  )
  const scale = 2 ** level
  const found = findSource(
    { w: around.w, h: around.h, px, inside },
    not.map(({ dx, dy }) => ({ dx: dx / scale, dy: dy / scale })),
  )
  if (!found) throw new QuillError('paint-refused', 'Nothing round about could stand in for that place. Clone or heal it from a source of your own.')
  return { dx: found.dx * scale, dy: found.dy * scale }
}

/** The smallest rectangle that holds all that is covered, of a region. */
function coveredBox(codes: Uint16Array, { x, y, w, h }: Region): Region | null {
  let [left, top, right, low] = [w, h, -1, -1]
  for (let j = 0, i = 0; j < h; j++)
    for (let k = 0; k < w; k++, i++) {
      if (codes[i * 4]! <= COVERED || codes[i * 4 + 3] === 0) continue
      if (k < left) left = k
      if (k > right) right = k
      if (j < top) top = j
      low = j
    }
  return right < 0 ? null : { x: x + left, y: y + top, w: right - left + 1, h: low - top + 1 }
}
