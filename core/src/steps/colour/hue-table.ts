import { HUE_ANGLES } from '../params/index.ts'

/** Entries of a table by hue, as the kernels index it: an angle measured on a diamond from −b over +a. */
export const HUE_ENTRIES = 4096

/** The OKLab hue, degrees 0…360, in the middle of an entry; the arctangent is the kernel module's. */
export function hueOfEntry(i: number, atan2: (y: number, x: number) => number): number {
  const turn = ((i + 0.5) / HUE_ENTRIES) * 4
  // 0…2: a ≥ 0, b from −1 to 1; 2…4: a < 0, b from 1 to −1
  const b = turn < 2 ? turn - 1 : 3 - turn
  const a = (1 - Math.abs(b)) * (turn < 2 ? 1 : -1)
  const h = (atan2(b, a) * 180) / Math.PI
  return (h + 360) % 360
}

/**
 * A value at any hue out of one for each of eight hues: rises and falls between neighbours by a smooth step, so that a hue by itself reaches
 * neither of them.
 */
export function valueAtHue(values: readonly number[], degrees: number): number {
  for (let i = 0; i < 8; i++) {
    const from = HUE_ANGLES[i]!
    const to = HUE_ANGLES[(i + 1) % 8]! + (i === 7 ? 360 : 0)
    const h = degrees < from && i === 7 ? degrees + 360 : degrees
    if (h < from || h >= to) continue
    const t = (h - from) / (to - from)
    const s = t * t * (3 - 2 * t)
    return values[i]! + (values[(i + 1) % 8]! - values[i]!) * s
  }
  return values[7]!
}
