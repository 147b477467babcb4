import { at, type Field } from '../../study/fields.ts'
import type { Way } from '../../study/streamlines.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import type { Study } from '../../study/study.ts'

// taken once: loops over planes look nothing up
const { ceil, max, sqrt } = Math
const RADIANS = 3.141592653589793 / 180

/** Which way a brush goes at a place of the plan: a unit vector, its sign does not matter. */
export type Direction = (x: number, y: number, out: Way) => void

/**
 * Along the forms where they are decided, and where they are not as the hand would go: a chosen way, swung slowly from place to place, so that no sky is combed and
 * none is full of curls.
 * @param along directions at twice their angle, as long as they are decided 0…1; @param across pixels of these a pixel of the plan
 * @param hand degrees from level, upwards to the right; @param swing how far the hand swings, degrees; @param often pixels of the plan from one swing to the next
 */
export function directionOf(
  along: { x: Field; y: Field },
  across: number,
  { hand, lean, swing, often }: { hand: number; lean: number; swing: number; often: number },
  { cos, sin }: Pick<Kernels['raw'], 'cos' | 'sin'>,
): Direction {
  return (x, y, out) => {
    const [a, b] = [(x + 0.5) * across - 0.5, (y + 0.5) * across - 0.5]
    const turned = -2 * RADIANS * (hand + swing * sin(x / often + 1.7 * sin((0.8 * y) / often)) * cos((0.9 * y) / often - 0.6 * sin((1.3 * x) / often)))
    const [fx, fy] = [at(along.x, a, b), at(along.y, a, b)]
    // what is decided weighs more than it is long
    const sure = fx * fx + fy * fy
    const u = fx * (0.3 + sure * 1.4) + lean * cos(turned)
    const v = fy * (0.3 + sure * 1.4) + lean * sin(turned)
    const long = sqrt(u * u + v * v)
    if (long < 1e-9) {
      out.x = 1
      out.y = 0
      return
    }
    // half the doubled angle, by square roots alone
    out.x = sqrt(max(0, (1 + u / long) / 2))
    out.y = (v < 0 ? -1 : 1) * sqrt(max(0, (1 - u / long) / 2))
  }
}

/** The study's flow, as calm as a brush is broad. */
export const flowFor = (study: Study, calm: (of: Field) => Field): { x: Field; y: Field } => ({ x: calm(study.flowX), y: calm(study.flowY) })

export interface Growth {
  direction: Direction
  /** Pixels of the plan from one place to the next. */
  step: number
  /** How long the stroke may be. */
  longest: number
  /** 0 straight on … 1 wherever the direction leads. */
  bend: number
  /** Whether it goes on to a place, at so many steps from where it was begun. */
  goesOn: (x: number, y: number, steps: number) => boolean
}

/**
 * A stroke from a place, grown both ways along a direction: x and y of its places one after another, pixels of the plan.
 * (As curved strokes grow in Hertzmann, "Painterly rendering with curved brush strokes of multiple sizes", SIGGRAPH 1998, there one way.)
 */
export function grownStroke(x0: number, y0: number, { direction, step, longest, bend, goesOn }: Growth): number[] {
  const halves: number[][] = []
  const way: Way = { x: 1, y: 0 }
  direction(x0, y0, way)
  const [sx, sy] = [way.x, way.y]
  const most = max(1, ceil(longest / step / 2))
  for (const side of [1, -1]) {
    const line: number[] = []
    let [x, y] = [x0, y0]
    let [dx, dy] = [sx * side, sy * side]
    for (let i = 1; i <= most; i++) {
      const [nx, ny] = [x + dx * step, y + dy * step]
      if (!goesOn(nx, ny, i)) break
      line.push(nx, ny)
      direction(nx, ny, way)
      const same = way.x * dx + way.y * dy < 0 ? -1 : 1
      const [u, v] = [dx + (way.x * same - dx) * bend, dy + (way.y * same - dy) * bend]
      const long = sqrt(u * u + v * v)
      // a brush does not turn on the spot
      if (long < 0.5) break
      dx = u / long
      dy = v / long
      x = nx
      y = ny
    }
    halves.push(line)
  }
  const out: number[] = []
  const back = halves[1]!
  for (let i = back.length - 2; i >= 0; i -= 2) out.push(back[i]!, back[i + 1]!)
  out.push(x0, y0)
  out.push(...halves[0]!)
  return out
}

/** The same stroke begun at its other end, in place. */
export function turnRound(line: number[]): void {
  for (let i = 0, j = line.length - 2; i < j; i += 2, j -= 2) {
    const [x, y] = [line[i]!, line[i + 1]!]
    line[i] = line[j]!
    line[i + 1] = line[j + 1]!
    line[j] = x
    line[j + 1] = y
  }
}
