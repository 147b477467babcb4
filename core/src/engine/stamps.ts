import { intersect, isEmpty, union, type Region } from '../base/region.ts'
import type { PlaneTiles, PlaneUse } from './planes.ts'
import { readersFirst, seen, type Stage } from './stage.ts'

/**
 * What of all planes lies under the parts of a picture: so that a part of which nothing was painted over since is known again, and where something was,
 * just that is computed anew.
 */
export class Stamps {
  private readonly planes: PlaneTiles
  private readonly order: Stage[]
  private readonly frozen: boolean
  /** Stages under which a plane lies. */
  private readonly painted = new Set<Stage>()

  /** @param frozen facts and plans do not follow what is painted */
  constructor(root: Stage, planes: PlaneTiles, frozen = false) {
    this.planes = planes
    this.frozen = frozen
    this.order = readersFirst(root)
    for (const s of [...this.order].reverse()) if (s.plane || s.inputs.some((e) => this.painted.has(e.from))) this.painted.add(s)
  }

  /** Whether anything painted lies under it. */
  get any(): boolean {
    return this.painted.size > 0
  }

  /** The planes it reads, by the shapes of their stages. */
  uses(): ReadonlyMap<string, PlaneUse> {
    return new Map(this.order.flatMap((s) => (s.plane ? [[s.shape, s.plane] as const] : [])))
  }

  /** Names what is painted under a region: same stamp, same pixels. */
  of(region: Region): string {
    const parts: string[] = []
    for (const [s, part] of this.under(region)) parts.push(`${s.shape}:${this.planes.stamp(s.plane!, s.level, part)}`)
    return parts.join('|')
  }

  /** The smallest part of a region that holds all that was painted since planes were as `before`; null where they are of other shapes. */
  since(before: ReadonlyMap<string, PlaneUse>, region: Region): Region | null {
    const now = this.uses()
    if (now.size !== before.size || [...now.keys()].some((shape) => !before.has(shape))) return null
    const differs = (part: Region) => {
      for (const [s, under] of this.under(part)) if (this.planes.differs(before.get(s.shape)!, s.plane!, s.level, under)) return true
      return false
    }
    if (!differs(region)) return { ...region, w: 0, h: 0 }
    const { x, y, w, h } = region
    // a larger part never reads less: each side is found by halving
    const left = most(w, (n) => !differs({ x, y, w: n, h }))
    const right = most(w - left, (n) => !differs({ x: x + w - n, y, w: n, h }))
    const top = most(h, (n) => !differs({ x: x + left, y, w: w - left - right, h: n }))
    const low = most(h - top, (n) => !differs({ x: x + left, y: y + h - n, w: w - left - right, h: n }))
    return { x: x + left, y: y + top, w: w - left - right, h: h - top - low }
  }

  /**
   * As `since`, as a few rectangles that leave out what of the smallest one was not painted over: a stroke that goes aslant touches little of the
   * rectangle round it.
   */
  partsSince(before: ReadonlyMap<string, PlaneUse>, region: Region): Region[] | null {
    const all = this.since(before, region)
    return all && this.divided(before, all, DIVISIONS)
  }

  private divided(before: ReadonlyMap<string, PlaneUse>, part: Region, times: number): Region[] {
    const { x, y, w, h } = part
    if (w === 0 || h === 0) return []
    if (times === 0 || w < 2 * SMALLEST || h < 2 * SMALLEST) return [part]
    const [left, top] = [Math.round(w / 2), Math.round(h / 2)]
    const parts = [
      { x, y, w: left, h: top },
      { x: x + left, y, w: w - left, h: top },
      { x, y: y + top, w: left, h: h - top },
      { x: x + left, y: y + top, w: w - left, h: h - top },
    ].flatMap((quarter) => this.divided(before, this.since(before, quarter)!, times - 1))
    // what lies between two parts is looked at by both
    const area = parts.reduce((sum, p) => sum + p.w * p.h, 0)
    return area < w * h * WORTH_DIVIDING ? parts : [part]
  }

  private *under(region: Region): Generator<[Stage, Region]> {
    const regions = new Map<Stage, Region>([[this.order[0]!, region]])
    for (const s of this.order) {
      const asked = regions.get(s)
      if (!asked || isEmpty(asked) || !this.painted.has(s)) continue
      if (s.plane) {
        yield [s, intersect(asked, s.extent)]
        continue
      }
      const all = s.global === 'rows' || (s.global === 'facts' && !this.frozen) ? s.extent : asked
      for (const e of s.inputs) if (this.painted.has(e.from)) regions.set(e.from, union(regions.get(e.from) ?? { x: 0, y: 0, w: 0, h: 0 }, seen(e, all)))
    }
  }
}

/** How often a rectangle is quartered, down to which side, and what it must leave out. */
const DIVISIONS = 2
const SMALLEST = 48
const WORTH_DIVIDING = 0.75

/** The largest n of 0 … limit − 1 for which something is so, where it is for all smaller ones. */
function most(limit: number, is: (n: number) => boolean): number {
  let low = 0
  let high = Math.max(0, limit - 1)
  while (low < high) {
    const n = Math.ceil((low + high) / 2)
    if (is(n)) low = n
    else high = n - 1
  }
  return low
}
