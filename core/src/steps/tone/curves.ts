import { defineStep, tableOf, type Tables } from '../contract.ts'
import { choice, curve, type CurvePoint } from '../params/index.ts'
import { tableFidelity } from '../steepness.ts'

// taken once: loops over planes look nothing up
const { sqrt } = Math

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
      const k = 3 / sqrt(s)
      tangent[i] = k * a * d
      tangent[i + 1] = k * b * d
    }
  }
  const xs = Float64Array.from(points, (p) => p[0])
  const ys = Float64Array.from(points, (p) => p[1])
  const ms = Float64Array.from(tangent)
  // tables ask from left to right, so the piece found last is looked at first
  let i = 0
  return (x) => {
    if (x <= xs[0]!) return ys[0]!
    if (x >= xs[n - 1]!) return ys[n - 1]!
    if (x < xs[i]!) i = 0
    while (x > xs[i + 1]!) i++
    const h = xs[i + 1]! - xs[i]!
    const t = (x - xs[i]!) / h
    const u = 1 - t
    return (1 + 2 * t) * u * u * ys[i]! + t * u * u * h * ms[i]! + t * t * (3 - 2 * t) * ys[i + 1]! + t * t * (t - 1) * h * ms[i + 1]!
  }
}

const straight: CurvePoint[] = [
  [0, 0],
  [1, 1],
]
const isStraight = (points: readonly CurvePoint[]) => points.every(([x, y]) => x === y) && points[0]![0] === 0 && points.at(-1)![0] === 1

const of = (title: string, channel: string) =>
  curve({ title, default: straight, when: { param: 'channel', is: [channel] }, help: 'From the tone that comes in (across) to the tone that goes out (up).' })

export const curves = defineStep({
  id: 'curves',
  version: 1,
  title: 'Curves',
  group: 'tone',
  kind: 'table',
  help: 'Bends the tones along a curve drawn through points.',
  method:
    'Monotone piecewise cubic interpolation (Fritsch and Carlson 1980); the channels first, then all together, then lightness with colour kept (SetLum of W3C Compositing)',
  params: {
    channel: choice({
      title: 'Channel',
      default: 'all',
      options: [
        { value: 'all', title: 'RGB' },
        { value: 'red', title: 'Red' },
        { value: 'green', title: 'Green' },
        { value: 'blue', title: 'Blue' },
        { value: 'luminance', title: 'Luminance' },
      ],
      help: 'Which curve is drawn below; luminance bends the tones and keeps the colours.',
    }),
    points: of('Curve', 'all'),
    red: of('Red', 'red'),
    green: of('Green', 'green'),
    blue: of('Blue', 'blue'),
    luminance: of('Luminance', 'luminance'),
  },
  sample: {
    points: [
      [0, 0],
      [0.25, 0.12],
      [0.75, 0.9],
      [1, 1],
    ],
  },
  fidelity: tableFidelity,
  table: ({ points, red, green, blue }): Tables => {
    const all = monotoneCubic(points)
    if ([red, green, blue].every(isStraight)) return tableOf(all)
    const [r, g, b] = [red, green, blue].map((p) => {
      const own = monotoneCubic(p)
      return tableOf((v) => all(own(v)))
    })
    return [r!, g!, b!]
  },
  luma: ({ luminance }) => (isStraight(luminance) ? null : tableOf(monotoneCubic(luminance))),
})
