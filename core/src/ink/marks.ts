import { MarkList, type Marks } from '../paths/marks.ts'
import type { Region } from '../base/region.ts'
import { strokesOf, type Ink, type InkPlace, type InkStroke } from './ink.ts'

/** Breadths below this end in a point, pixels. */
const POINT = 0.3

/** A round end, as places of falling breadth beyond the last. */
function* cap(p: InkPlace, from: InkPlace, outwards: readonly number[]): Generator<InkPlace> {
  const [dx, dy] = [p.x - from.x, p.y - from.y]
  const long = Math.sqrt(dx * dx + dy * dy) || 1
  for (const out of outwards) yield { x: p.x + (dx / long) * p.half * out, y: p.y + (dy / long) * p.half * out, half: p.half * Math.sqrt(1 - out * out) }
}
const OUT = [0.22, 0.52, 0.78, 0.94, 1]

/** Ink as marks of one weight, with round ends. @param scale pixels of the layer a unit of the ink */
export function inkMarks(ink: Ink, extent: Region, scale: number): Marks {
  const list = new MarkList()
  for (const { places } of strokesOf(ink)) {
    // a mere touch is a dot
    const line = places.length > 1 ? places : [places[0]!, { ...places[0]!, x: places[0]!.x + 0.01 }]
    const [first, last] = [line[0]!, line.at(-1)!]
    const put = (p: InkPlace) => list.place(p.x * scale, p.y * scale, p.half * scale, 1)
    if (first.half > POINT) for (const p of cap(first, line[1]!, [...OUT].reverse())) put(p)
    for (const p of line) put(p)
    if (last.half > POINT) for (const p of cap(last, line.at(-2)!, OUT)) put(p)
    list.end()
  }
  return list.done(extent)
}

/** Where a stroke lies, its breadth counted. */
export function boxOfStroke({ places }: InkStroke): Region {
  let [left, top, right, low] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const { x, y, half } of places) {
    left = Math.min(left, x - half)
    top = Math.min(top, y - half)
    right = Math.max(right, x + half)
    low = Math.max(low, y + half)
  }
  return { x: left, y: top, w: right - left, h: low - top }
}
