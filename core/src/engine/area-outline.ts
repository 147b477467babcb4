import type { Artwork } from '../artwork/schema.ts'
import { groundOf } from '../artwork/spaces.ts'
import { atLevel, grow, intersect, isEmpty, type Region } from '../base/region.ts'
import { simplified } from '../paths/simplify.ts'
import { levelLines } from '../study/level-lines.ts'
import type { Engine } from './engine.ts'
import { GraphCompiler } from './graph.ts'
import type { Signal } from './request.ts'

/** Borders that an outline is drawn with, at most, pixels of a level: what has more is seen from farther off. */
const MOST = 60_000
const COARSEST = 12
/** How far an outline may be off, pixels of the level. */
const OFF = 0.2

/** Where an area ends: closed lines, x and y of their places one after the other, artwork pixels; what is in lies on the right of the way, seen with y downwards. */
export interface AreaOutline {
  places: Float32Array
  starts: Int32Array
}

/**
 * The outline of an area as it is seen at a level: where it is half in. What goes on beyond the region is closed a little outside of it.
 * @param region artwork pixels
 */
export async function areaOutline(engine: Engine, artwork: Artwork, plane: string, region: Region, level: number, signal: Signal): Promise<AreaOutline> {
  const { kernels } = engine
  const node = new GraphCompiler(artwork, kernels.hash).compile({ type: 'area', plane })
  const ground = groundOf(artwork)
  for (let at = Math.max(0, level); ; at++) {
    const seen = intersect(grow(atLevel(region, at), 4), atLevel(ground, at))
    if (isEmpty(seen)) return { places: new Float32Array(0), starts: Int32Array.of(0) }
    const { w, h } = seen
    const v = new Float32Array(w * h)
    await engine.withRegion(
      node,
      at,
      seen,
      ({ ptr, stride }) => {
        for (let y = 0; y < h; y++) {
          const row = kernels.u16(ptr + y * stride, w * 4)
          for (let x = 0; x < w; x++) v[y * w + x] = 65535 - row[x * 4]!
        }
      },
      { signal, keep: 'small' },
    )
    if (at < COARSEST && bordersOf(v, w, h) > MOST) continue
    const lines = levelLines({ w, h, v }, 32767.5).map((line) => simplified(line, OFF))
    const starts = Int32Array.from({ length: lines.length + 1 }, () => 0)
    lines.forEach((line, k) => (starts[k + 1] = starts[k]! + line.length))
    const places = new Float32Array(starts[lines.length]! * 2)
    const scale = 2 ** at
    lines.forEach((line, k) => line.forEach((p, i) => places.set([(seen.x + p.x + 0.5) * scale, (seen.y + p.y + 0.5) * scale], (starts[k]! + i) * 2)))
    return { places, starts }
  }
}

/** How many pixels are in beside one that is out. */
function bordersOf(v: Float32Array, w: number, h: number): number {
  let n = 0
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const here = v[i]! < 32767.5
      if ((x > 0 && v[i - 1]! < 32767.5 !== here) || (y > 0 && v[i - w]! < 32767.5 !== here)) n++
    }
  return n
}
