import { defineStep, tableOf } from '../contract.ts'
import { curve, type CurvePoint } from '../params.ts'

/**
 * The monotone cubic through points with rising x: no overshoot between them, flat outside.
 * Fritsch & Carlson, "Monotone Piecewise Cubic Interpolation", SIAM J. Numer. Anal. 17 (1980).
 * @returns y for any x in 0…1
 */
export function monotoneCubic(points: readonly CurvePoint[]): (x: number) => number {
  const n = points.length
  const slope: number[] = []
  for (let i = 0; i < n - 1; i++) slope.push((points[i + 1]![1] - points[i]![1]) / (points[i + 1]![0] - points[i]![0]))
  const tangent = [slope[0]!]
  for (let i = 1; i < n - 1; i++) tangent.push(slope[i - 1]! * slope[i]! <= 0 ? 0 : (slope[i - 1]! + slope[i]!) / 2)
  tangent.push(slope[n - 2]!)
  for (let i = 0; i < n - 1; i++) {
    const d = slope[i]!
    if (d === 0) {
      tangent[i] = 0
      tangent[i + 1] = 0
      continue
    }
    const a = tangent[i]! / d
    const b = tangent[i + 1]! / d
    const s = a * a + b * b
    if (s > 9) {
      const k = 3 / Math.sqrt(s)
      tangent[i] = k * a * d
      tangent[i + 1] = k * b * d
    }
  }
  return (x) => {
    if (x <= points[0]![0]) return points[0]![1]
    if (x >= points[n - 1]![0]) return points[n - 1]![1]
    let i = 0
    while (x > points[i + 1]![0]) i++
    const [x0, y0] = points[i]!
    const [x1, y1] = points[i + 1]!
    const h = x1 - x0
    const t = (x - x0) / h
    const u = 1 - t
    return (1 + 2 * t) * u * u * y0 + t * u * u * h * tangent[i]! + t * t * (3 - 2 * t) * y1 + t * t * (t - 1) * h * tangent[i + 1]!
  }
}

export const curves = defineStep({
  id: 'curves',
  version: 1,
  title: 'Curves',
  group: 'tone',
  kind: 'table',
  help: 'Bends the tones along a curve drawn through points.',
  method: 'Monotone piecewise cubic interpolation (Fritsch and Carlson 1980)',
  params: {
    points: curve({
      title: 'Curve',
      default: [
        [0, 0],
        [1, 1],
      ],
      help: 'From the tone that comes in (across) to the tone that goes out (up).',
    }),
  },
  table: ({ points }) => tableOf(monotoneCubic(points)),
})
