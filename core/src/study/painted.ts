import { mapped, type Field } from './fields.ts'
import type { StudyPart } from '../base/study-parts.ts'
import type { Planes, Study } from './study.ts'

// taken once: loops over planes look nothing up
const { abs, ceil, floor, max, min, sqrt } = Math

/** A place round which a picture is studied more closely. */
export interface Spot {
  /** Full-size pixels of what is studied. */
  x: number
  y: number
  radius: number
  /** How much more fine marks belong there, 0…1. */
  raise: number
}

/** What hands have painted over a study, in planes of its size. */
export interface StudyPaint {
  /** −1 towards the one end … 0 as it was found … 1 towards the other. */
  values: Partial<Record<Exclude<StudyPart, 'flow'>, Field>>
  /** A unit vector at twice the angle of the direction combed, times how far it covers (0…1), and that share. */
  comb: { x: Field; y: Field; cover: Field } | null
  spots: readonly Spot[]
}

/** Below this a painted value is none: neutral is not a whole number of 16 bits. */
const NONE = 1e-4

/** A value 0…1 drawn towards an end by a painted one: −1 makes it 0, 1 makes it 1. */
export const drawn = (v: number, by: number): number => (abs(by) < NONE ? v : by < 0 ? v * (1 + by) : v + (1 - v) * by)

/**
 * A study as hands have changed it; the one given stays as it is, and what was not changed is shared.
 * Painted focus acts on what was found from it: a tenth of the detail at 0.1 of the focus, and the ground by half as much as the focus changes.
 */
export function paintedStudy(study: Study, { values, comb, spots }: StudyPaint): Study {
  const out: Study = { ...study, painted: { edges: values.edges ?? null, comb } }
  const toward = (field: Field, by: Field) => mapped(field, (v, i) => drawn(v, by.v[i]!))
  if (values.masses) {
    const shaded = ({ tone, fine, broad }: Planes) => {
      const by = values.masses!
      return { tone: toward(tone, by), fine: toward(fine, by), broad: toward(broad, by) }
    }
    Object.assign(out, shaded(study))
    if (study.carried) out.carried = { ...study.carried, ...shaded(study.carried) }
  }
  if (values.edges) out.edges = toward(study.edges, values.edges)
  if (values.focus) {
    const focus = toward(study.focus, values.focus)
    out.ground = mapped(study.ground, (v, i) => min(1, max(0, v - 0.5 * (focus.v[i]! - study.focus.v[i]!))))
    out.focus = focus
  }
  const detailIn = (of: Field): Field => {
    const share = (f: number) => 0.25 + 0.75 * f
    let detail = of
    if (values.focus) detail = mapped(detail, (v, i) => min(1, (v * share(out.focus.v[i]!)) / share(study.focus.v[i]!)))
    if (spots.length > 0) detail = raised(study, detail, spots)
    return values.detail ? toward(detail, values.detail) : detail
  }
  out.detail = detailIn(study.detail)
  if (out.carried) out.carried = { ...out.carried, detail: detailIn(out.carried.detail) }
  if (values.ground) out.ground = toward(out.ground, values.ground)
  if (comb) {
    const { x, y, cover } = comb
    out.flowX = mapped(study.flowX, (v, i) => v * (1 - cover.v[i]!) + x.v[i]!)
    out.flowY = mapped(study.flowY, (v, i) => v * (1 - cover.v[i]!) + y.v[i]!)
  }
  return out
}

/** More detail round spots: what there is counts for more, and a little is there where there was none. */
function raised({ x: left, y: top, scale }: Study, detail: Field, spots: readonly Spot[]): Field {
  const { w, h } = detail
  const out = { w, h, v: detail.v.slice() }
  for (const spot of spots) {
    const [cx, cy, r] = [(spot.x - left) / scale - 0.5, (spot.y - top) / scale - 0.5, spot.radius / scale]
    if (!(r > 0)) continue
    for (let y = max(0, ceil(cy - r)); y <= min(h - 1, floor(cy + r)); y++)
      for (let x = max(0, ceil(cx - r)); x <= min(w - 1, floor(cx + r)); x++) {
        const d = 1 - ((x - cx) * (x - cx) + (y - cy) * (y - cy)) / (r * r)
        if (d <= 0) continue
        const by = spot.raise * d * d
        const i = y * w + x
        out.v[i] = min(1, out.v[i]! * (1 + 2 * by) + 0.35 * by)
      }
  }
  return out
}

/** A direction as a unit vector at twice its angle. */
export function doubledWay(dx: number, dy: number): { x: number; y: number } {
  const long = dx * dx + dy * dy
  return long > 0 ? { x: (dx * dx - dy * dy) / long, y: (2 * dx * dy) / long } : { x: 1, y: 0 }
}

/** Where a vector at twice its angle points once the plane is turned by a linear map (rows a b, c d): of the same length. */
export function turnedWay([a, b, c, d]: readonly [number, number, number, number], x: number, y: number): { x: number; y: number } {
  const long = sqrt(x * x + y * y)
  if (long === 0) return { x: 0, y: 0 }
  const cos = sqrt(max(0, (1 + x / long) / 2))
  const sin = sqrt(max(0, (1 - x / long) / 2)) * (y < 0 ? -1 : 1)
  const way = doubledWay(a * cos + b * sin, c * cos + d * sin)
  return { x: way.x * long, y: way.y * long }
}
