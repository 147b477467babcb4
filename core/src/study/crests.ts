import type { Kernels } from '../kernels/kernels.ts'
import { at, between, blurred, productOf, slopes, type Field } from './fields.ts'

// taken once: loops over planes look nothing up
const { floor, max, min, round, sqrt } = Math

// Lines that run along the crests of a plane, as an eye follows them.

/** A place on a crest; pixels of the plane. */
export interface CrestPoint {
  x: number
  y: number
  /** How high the crest is there. */
  height: number
}
export interface Crest {
  points: CrestPoint[]
  /** Whether it ends at another line, at its beginning and its end. */
  meets: [boolean, boolean]
  /** It comes back to where it began. */
  closed: boolean
}

export interface CrestRules {
  /** How high a crest must be for a line to begin, and to go on. */
  high: number
  low: number
  /** How far a line goes on where the crest is lower than that, pixels, if it finds it again. */
  bridge: number
  /** The shortest line, pixels. */
  shortest: number
  /** How near to each other two lines may run, pixels. */
  apart: number
  /** What a line must be as high as at a place, beyond high and low: 1 where nothing is asked. */
  dear?: (x: number, y: number) => number
}

/** Direction of the crests of a plane, as unit vectors along them: the plane's own structure tensor over a small neighbourhood (Di Zenzo 1986). */
async function alongCrests(kernels: Kernels, height: Field, sigma: number, pause: () => Promise<void>): Promise<{ x: Field; y: Field }> {
  const { w, h } = height
  const s = slopes(kernels, height)
  await pause()
  const calm = async (p: Float32Array, q: Float32Array) => {
    const of = blurred(kernels, { w, h, v: productOf(p, q) }, sigma)
    await pause()
    return of.v
  }
  const [a, b, c] = [await calm(s.x.v, s.x.v), await calm(s.x.v, s.y.v), await calm(s.y.v, s.y.v)]
  axesOf(a, b, c, s.x.v, s.y.v)
  return s
}

/** The axis of the smaller change of tensors, from its doubled angle by half-angle formulas: square roots alone. @param x,y filled with it */
function axesOf(xx: Float32Array, xy: Float32Array, yy: Float32Array, x: Float32Array, y: Float32Array): void {
  for (let i = 0; i < x.length; i++) {
    const u = yy[i]! - xx[i]!
    const v = -2 * xy[i]!
    const long = sqrt(u * u + v * v)
    if (long < 1e-20) {
      x[i] = 1
      y[i] = 0
      continue
    }
    const sin = sqrt(max(0, (1 - u / long) / 2))
    x[i] = sqrt(max(0, (1 + u / long) / 2))
    y[i] = v < 0 ? -sin : sin
  }
}

/**
 * Follows the crests of a plane as smooth lines: from the highest places on, each step goes along the crest and is then corrected onto it (predictor and corrector, as
 * ridges are traced; common practice in vision). A line ends where the crest is too low for longer than it may bridge, where it meets another, or at a sharp turn.
 * @throws what `pause` throws
 */
export async function crestsOf(kernels: Kernels, height: Field, rules: CrestRules, pause: () => Promise<void>): Promise<Crest[]> {
  const { w, h } = height
  const along = await alongCrests(kernels, height, 1.2, pause)
  await pause()
  const dear = rules.dear ?? (() => 1)
  // where lines may begin: higher than both sides across
  const seeds: number[] = []
  const { high } = rules
  for (let y = 1; y < h - 1; y++) {
    if (y % 256 === 0) await pause()
    for (let x = 1; x < w - 1; x++) {
      const i = y * w + x
      const v = height.v[i]!
      if (v < high || v < high * dear(x, y)) continue
      const [nx, ny] = [-along.y.v[i]!, along.x.v[i]!]
      if (v >= at(height, x + nx, y + ny) && v > at(height, x - nx, y - ny)) seeds.push(i)
    }
  }
  await pause()
  seeds.sort((a, b) => height.v[b]! - height.v[a]! || a - b)
  // which line passes, cell by cell of a pixel
  const taken = new Int32Array(w * h)
  const lines: Crest[] = []
  const reach = max(1, round(rules.apart))
  /** The number of another line that is as near as lines may be; 0: none. */
  const other = (x: number, y: number, mine: number): number => {
    const [cx, cy] = [round(x), round(y)]
    for (let j = max(0, cy - reach); j <= min(h - 1, cy + reach); j++)
      for (let i = max(0, cx - reach); i <= min(w - 1, cx + reach); i++) {
        const who = taken[j * w + i]!
        if (who !== 0 && who !== mine && (i - x) * (i - x) + (j - y) * (j - y) <= rules.apart * rules.apart) return who
      }
    return 0
  }
  /** The place on the crest nearest to one, across it; null where it falls to one side. */
  const corrected = (x: number, y: number, nx: number, ny: number): CrestPoint | null => {
    let [best, k] = [-1, 0]
    for (let o = -2; o <= 2; o++) {
      const v = at(height, x + nx * o * 0.6, y + ny * o * 0.6)
      if (v > best) [best, k] = [v, o]
    }
    if (k === 2 || k === -2) return null
    const [a, b, c] = [best, at(height, x + nx * (k - 1) * 0.6, y + ny * (k - 1) * 0.6), at(height, x + nx * (k + 1) * 0.6, y + ny * (k + 1) * 0.6)]
    const bend = b + c - 2 * a
    const o = (k + (bend < 0 ? min(0.5, max(-0.5, (0.5 * (b - c)) / bend)) : 0)) * 0.6
    return { x: x + nx * o, y: y + ny * o, height: a }
  }
  const direction = (x: number, y: number, dx: number, dy: number): [number, number] => {
    const i = min(h - 1, max(0, round(y))) * w + min(w - 1, max(0, round(x)))
    const [tx, ty] = [along.x.v[i]!, along.y.v[i]!]
    return tx * dx + ty * dy < 0 ? [-tx, -ty] : [tx, ty]
  }
  const followed = (from: CrestPoint, dx: number, dy: number, mine: number): { points: CrestPoint[]; meets: boolean; closed: boolean } => {
    const points: CrestPoint[] = []
    let [x, y] = [from.x, from.y]
    let faint = 0
    let sure = 0
    for (let n = 0; n < 4 * (w + h); n++) {
      const [tx, ty] = direction(x, y, dx, dy)
      // a line goes on as it came, turned by what it finds
      // at the end of a crest its direction turns across: then it goes straight on
      const own = (faint > 0 ? 0.25 : 0.6) * between(tx * dx + ty * dy, 0.5, 0.9)
      let [sx, sy] = [dx * (1 - own) + tx * own, dy * (1 - own) + ty * own]
      const long = sqrt(sx * sx + sy * sy)
      if (long < 0.3) break
      sx /= long
      sy /= long
      const [px, py] = [x + sx, y + sy]
      if (px < 0 || py < 0 || px > w - 1 || py > h - 1) break
      const found = corrected(px, py, -sy, sx)
      const low = rules.low * dear(px, py)
      const next: CrestPoint = found && found.height >= low ? found : { x: px, y: py, height: at(height, px, py) }
      if (found && found.height >= low) {
        faint = 0
      } else if (++faint > rules.bridge) break
      const [ex, ey] = [next.x - x, next.y - y]
      const gone = sqrt(ex * ex + ey * ey)
      if (gone < 0.2) break
      // sharp turns are corners: another line begins there
      if ((ex * dx + ey * dy) / gone < 0.5) break
      if (other(next.x, next.y, mine) !== 0) {
        points.push(next)
        return { points, meets: true, closed: false }
      }
      points.push(next)
      if (faint === 0) sure = points.length
      if (n > 8 && (next.x - from.x) * (next.x - from.x) + (next.y - from.y) * (next.y - from.y) < 1) return { points, meets: false, closed: true }
      // back on its own way
      const own2 = round(next.y) * w + round(next.x)
      if (n > 12 && taken[own2] === mine) break
      if (n > 4) {
        const back = points[points.length - 4]!
        taken[round(back.y) * w + round(back.x)] = mine
      }
      const turn = 0.5
      const [mx, my] = [dx * (1 - turn) + (ex / gone) * turn, dy * (1 - turn) + (ey / gone) * turn]
      const l = sqrt(mx * mx + my * my)
      dx = mx / l
      dy = my / l
      x = next.x
      y = next.y
    }
    points.length = sure
    return { points, meets: false, closed: false }
  }
  let work = 0
  for (const seed of seeds) {
    if (taken[seed] !== 0) continue
    const [x, y] = [seed % w, floor(seed / w)]
    const mine = lines.length + 1
    if (other(x, y, mine) !== 0) continue
    const [tx, ty] = [along.x.v[seed]!, along.y.v[seed]!]
    const start = corrected(x, y, -ty, tx) ?? { x, y, height: height.v[seed]! }
    const ahead = followed(start, tx, ty, mine)
    const behind = ahead.closed ? { points: [], meets: false, closed: false } : followed(start, -tx, -ty, mine)
    const points = [...behind.points.reverse(), start, ...ahead.points]
    for (const p of points) {
      const i = round(p.y) * w + round(p.x)
      if (taken[i] === 0) taken[i] = mine
    }
    lines.push({ points, meets: [behind.meets, ahead.meets], closed: ahead.closed })
    work += points.length
    if (work > 4000) {
      work = 0
      await pause()
    }
  }
  return lines.filter((l) => l.points.length >= rules.shortest)
}
