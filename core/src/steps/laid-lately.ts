import type { Region } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'

/** Numbers that are kept of all plans together. */
const MOST = 8 * 2 ** 20

interface Laid {
  of: WeakRef<object>
  name: string
  values: Float32Array
}

/** The latest first. */
let laid: Laid[] = []

/**
 * Puts into kernel memory what a plan laid lately on a part of a small picture, or lays it: under a moving hand the same marks are wanted again and again, on another
 * paper, in another light. Bounded, and forgotten with the plan.
 * @param of what is laid; it never changes
 * @param how all that decides how it is laid, but the place
 * @param at address of `floats` numbers
 */
export function laidLately(
  kernels: Kernels,
  of: object,
  how: string,
  level: number,
  { x, y, w, h }: Region,
  at: number,
  floats: number,
  lay: () => void,
): void {
  const name = `${level} ${x} ${y} ${w} ${h} ${how}`
  const found = laid.find((l) => l.name === name && l.of.deref() === of)
  if (found) {
    kernels.f32(at, floats).set(found.values)
    laid = [found, ...laid.filter((l) => l !== found)]
    return
  }
  lay()
  let room = MOST - floats
  if (room < 0) return
  const others = laid.filter((l) => {
    if (l.of.deref() === undefined || l.values.length > room) return false
    room -= l.values.length
    return true
  })
  laid = [{ of: new WeakRef(of), name, values: kernels.f32(at, floats).slice() }, ...others]
}
