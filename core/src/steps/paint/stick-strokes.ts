import { MarkList } from '../../paths/marks.ts'
import { blurred } from '../../study/fields.ts'
import type { Laying } from '../contract.ts'
import { chance } from '../line/strokes.ts'
import type { Colours } from './colours.ts'
import { directionOf, flowFor, grownStroke, turnRound } from './grow-stroke.ts'

// taken once: loops over places look nothing up
const { ceil, max, min, round, sqrt } = Math

/** How broad strokes are, by how much fine ones belong to a place: few sizes; and how long, of their own length. */
export const zones = [
  { size: 1, long: 1, from: -1, to: 0.22 },
  { size: 0.5, long: 0.65, from: 0.22, to: 0.42 },
  { size: 0.24, long: 0.45, from: 0.42, to: 2 },
] as const

/** How a hand strokes with a stick. Lengths are full-size pixels. */
export interface StickHand {
  /** Breadth of its side, and how long a stroke is that nothing ends sooner. */
  stick: number
  length: number
  closeness: number
  /** The way the hand goes where no form leads it, degrees from level; and how unsteady it is, 0…1. */
  hand: number
  wobble: number
  seed: number
  /** How much the hand's own way counts against a form's, 0 up. */
  lean?: number
}

/** A stroke of a stick, before it is laid: its places (full-size pixels, x and y one after another), half its breadth, and chances of its own. */
export interface StickStroke {
  line: number[]
  half: number
  luck: (k: number) => number
}

/** What is wanted of strokes; `c` numbers a pixel of the plan. */
export interface Asked {
  /** Whether one of a zone begins there. */
  may: (c: number, zone: number, luck: (k: number) => number) => boolean
  /** Whether one that began at `c` goes on to another place. */
  passes: (c: number, there: number) => boolean
  lay: (c: number, zone: number, luck: (k: number) => number, stroke: StickStroke) => void
  tell: (share: number) => void
}

/** Lays a stroke: it is set down and lifted within little, as a blunt thing is. @param broad what its breadth is multiplied by; @param weight how hard it is pressed, 0…1; @param lifts over how much more of it than a stick it is set down and lifted */
export function strokeOn(list: MarkList, { line, half, luck }: StickStroke, broad: number, weight: number, lifts = 1): void {
  const n = line.length / 2
  const early = lifts * (0.06 + 0.14 * luck(31))
  const late = lifts * (0.06 + 0.22 * luck(32))
  for (let i = 0; i < n; i++) {
    const t = n > 1 ? i / (n - 1) : 0.5
    const ends = min(1, (t + 0.03) / early, (1.03 - t) / late)
    list.place(
      line[i * 2]!,
      line[i * 2 + 1]!,
      half * broad * (0.8 + 0.2 * weight) * (0.7 + 0.3 * ends),
      weight * (0.35 + 0.65 * ends) * (1 - 0.25 * t * luck(33)),
    )
  }
  list.end()
}

/** Flows of one study, by how calm they are. */
export type Flows = Map<number, ReturnType<typeof flowFor>>

/**
 * Strokes over the whole sheet, of few sizes: along the forms, and where there are none as the hand goes. Those of the broadest come first.
 * @param flows given by who strokes over one study again and again: what is calmed once is not calmed again
 */
export async function stickStrokes(
  { study, kernels, facts, extent, pause }: Laying<Colours>,
  p: StickHand,
  sizes: readonly { size: number; long: number }[],
  asked: Asked,
  flows: Flows = new Map(),
): Promise<void> {
  const { w, h, cover } = facts
  const scale = max(extent.w / w, extent.h / h)
  const across = study.w / w
  const cell = (x: number, y: number) => min(h - 1, max(0, round(y))) * w + min(w - 1, max(0, round(x)))
  const way = { x: 1, y: 0 }
  for (const [zone, { size, long }] of sizes.entries()) {
    asked.tell(zone / sizes.length)
    const half = max(0.5, (0.5 * p.stick * size) / scale)
    const longest = max(3 * half, (p.length * long) / scale)
    const calm = max(1.5, 1.6 * half * across)
    const along = flows.get(calm) ?? flowFor(study, (f) => blurred(kernels, f, calm))
    flows.set(calm, along)
    const direction = directionOf(along, across, { hand: p.hand, lean: p.lean ?? 0.22, swing: 10 + 30 * p.wobble, often: 0.07 * max(w, h) }, kernels.raw)
    const apartBy = sqrt((2 * half * longest * 0.62) / (0.5 + 1.3 * p.closeness))
    // some begin beyond the picture: it has no rim where strokes are fewer
    const beyond = 0.4 * longest
    const [columns, rows] = [ceil((w + 2 * beyond) / apartBy), ceil((h + 2 * beyond) / apartBy)]
    for (let j = 0; j < rows; j++) {
      if (j % 8 === 0) await pause()
      for (let i = 0; i < columns; i++) {
        const own = j * columns + i
        const luck = (k: number) => chance(own, k, p.seed + 6151 * zone)
        const [x0, y0] = [(i + luck(1)) * apartBy - beyond, (j + luck(2)) * apartBy - beyond]
        const c = cell(x0, y0)
        if (cover[c]! < 0.4 || !asked.may(c, zone, luck)) continue
        const line = grownStroke(x0, y0, {
          direction,
          step: max(1.2, 0.8 * half),
          longest: longest * (0.5 + 0.9 * luck(5)),
          bend: 0.55,
          goesOn: (x, y) => {
            if (x < -beyond || y < -beyond || x > w - 1 + beyond || y > h - 1 + beyond) return false
            const there = cell(x, y)
            return cover[there]! >= 0.3 && asked.passes(c, there)
          },
        })
        if (luck(6) < 0.5) turnRound(line)
        if (line.length < 4) {
          // a dab: the stick is set down once
          direction(x0, y0, way)
          line.push(x0 + way.x * half, y0 + way.y * half)
        }
        for (let k = 0; k < line.length; k += 2) {
          line[k] = extent.x + (line[k]! + 0.5) * scale
          line[k + 1] = extent.y + (line[k + 1]! + 0.5) * scale
        }
        asked.lay(c, zone, luck, { line, half: half * scale * (0.8 + 0.4 * luck(8)), luck })
      }
    }
  }
}
