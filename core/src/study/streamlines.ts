// Evenly spaced lines along a field of directions (Jobard and Lefer, "Creating evenly-spaced streamlines of arbitrary density", 1997): each new line begins beside one
// that is there, at the distance asked for (which may change from place to place), and grows both ways until it would come too near to another.

// taken once: loops over planes look nothing up
const { ceil, floor, max, round } = Math

/** A vector that a field writes into, so that nothing is made a place. */
export interface Way {
  x: number
  y: number
}

export interface StreamRules {
  w: number
  h: number
  /** How far apart lines begin, pixels. */
  apart: number
  /** How near a growing line may come to another, share of `apart`. */
  nearest: number
  /** How far it goes at each step, pixels. */
  step: number
  /** The direction at a place, a unit vector; its sign does not matter. */
  direction: (x: number, y: number, out: Way) => void
  /** What share of the lines is wanted at a place, 0…1: at a half they lie twice as far apart. */
  share: (x: number, y: number) => number
  /** Where less than this share is wanted there are none. */
  least: number
  /** Whether a line that comes from (x, y) may go on to (x + dx, y + dy). */
  passes: (x: number, y: number, dx: number, dy: number) => boolean
  /** How far a line runs on beside others that stand in its way, pixels: for strokes that thin out at their ends. */
  overlap?: number
  /** How long the line of a number may grow, pixels; one through a place that is shorter than `shortest` is not drawn. */
  longest: (line: number) => number
  shortest: (x: number, y: number) => number
  /** A number 0…1 that belongs to a place: where lines begin is thrown by it. */
  chance: (i: number, j: number) => number
}

/** Lines one after another: x, y a place, and the first place of each line, and behind the last. */
export interface Streamlines {
  points: Float32Array
  starts: Int32Array
}

/**
 * Lays the lines. Their order and every place follow from the rules alone.
 * @throws what `pause` throws
 */
export async function streamlines(r: StreamRules, pause: () => Promise<void>): Promise<Streamlines> {
  const cell = r.apart
  const columns = max(1, ceil(r.w / cell))
  const rows = max(1, ceil(r.h / cell))
  // places that are taken, chained cell by cell
  const heads = new Int32Array(columns * rows).fill(-1)
  let points = new Float32Array(1 << 14)
  let chain = new Int32Array(1 << 13)
  let owner = new Int32Array(1 << 13)
  let used = 0
  const starts: number[] = [0]
  const cellOf = (v: number, most: number) => {
    const c = floor(v / cell)
    return c < 0 ? 0 : c > most ? most : c
  }
  /** Whether another line than `mine` is nearer to a place than a distance. */
  const crowded = (x: number, y: number, d: number, mine: number): boolean => {
    const around = ceil(d / cell)
    const ci = cellOf(x, columns - 1)
    const cj = cellOf(y, rows - 1)
    const d2 = d * d
    for (let j = cj > around ? cj - around : 0; j <= cj + around && j < rows; j++)
      for (let i = ci > around ? ci - around : 0; i <= ci + around && i < columns; i++)
        for (let k = heads[j * columns + i]!; k >= 0; k = chain[k]!) {
          if (owner[k] === mine) continue
          const dx = points[k * 2]! - x
          const dy = points[k * 2 + 1]! - y
          if (dx * dx + dy * dy < d2) return true
        }
    return false
  }
  const way: Way = { x: 1, y: 0 }
  const grown = new Float32Array(1 << 14)
  /** Whether the last line ended where no line goes on, instead of beside another or because it was long enough. */
  let blocked = false
  /** Grows a line from a place one way; how many places it went. @param beside whatever is near */
  const grow = (x0: number, y0: number, dx0: number, dy0: number, most: number, mine: number, at: number, beside = false): number => {
    blocked = false
    let x = x0
    let y = y0
    let dx = dx0
    let dy = dy0
    let n = 0
    for (let gone = 0; gone < most && at + n * 2 + 2 <= grown.length; gone += r.step) {
      // half a step first: the direction there carries the whole one (midpoint rule)
      r.direction(x + dx * r.step * 0.5, y + dy * r.step * 0.5, way)
      const sign = way.x * dx + way.y * dy < 0 ? -1 : 1
      const mx = way.x * sign
      const my = way.y * sign
      // no sharp turns
      if (mx * dx + my * dy < 0.8) {
        blocked = true
        break
      }
      const nx = x + mx * r.step
      const ny = y + my * r.step
      // a little beyond the border, as a hand goes
      if (nx < -2 || ny < -2 || nx > r.w + 1 || ny > r.h + 1) {
        blocked = true
        break
      }
      const share = r.share(nx, ny)
      if (share < r.least || !r.passes(x, y, mx * r.step, my * r.step)) {
        blocked = true
        break
      }
      if (!beside && crowded(nx, ny, (r.nearest * r.apart) / share, mine)) break
      grown[at + n * 2] = nx
      grown[at + n * 2 + 1] = ny
      n++
      x = nx
      y = ny
      dx = mx
      dy = my
    }
    return n
  }
  /** @param stands whether others keep away from it */
  const keep = (x: number, y: number, mine: number, stands = true) => {
    if (used * 2 + 2 > points.length) {
      const [p, c, o] = [new Float32Array(points.length * 2), new Int32Array(chain.length * 2), new Int32Array(owner.length * 2)]
      p.set(points)
      c.set(chain)
      o.set(owner)
      ;[points, chain, owner] = [p, c, o]
    }
    points[used * 2] = x
    points[used * 2 + 1] = y
    owner[used] = mine
    if (!stands) {
      used++
      return
    }
    const b = cellOf(y, rows - 1) * columns + cellOf(x, columns - 1)
    chain[used] = heads[b]!
    heads[b] = used
    used++
  }
  const half = floor(grown.length / 4) * 2
  /** Lets a line of some places run on beside what ended it; how many places more. */
  const runOn = (x: number, y: number, dx: number, dy: number, places: number, mine: number, at: number): number => {
    if (!r.overlap) return 0
    if (places === 0) return grow(x, y, dx, dy, r.overlap, mine, at, true)
    const last = at + (places - 1) * 2
    const [px, py] = places > 1 ? [grown[last - 2]!, grown[last - 1]!] : [x, y]
    return grow(grown[last]!, grown[last + 1]!, (grown[last]! - px) / r.step, (grown[last + 1]! - py) / r.step, r.overlap, mine, last + 2, true)
  }
  /** A line through a place, if there is room for one. */
  const lay = (x: number, y: number): boolean => {
    if (x < 0 || y < 0 || x > r.w - 1 || y > r.h - 1) return false
    const wanted = r.share(x, y)
    if (wanted < r.least || crowded(x, y, (0.97 * r.apart) / wanted, -1)) return false
    const mine = starts.length - 1
    const long = r.longest(mine)
    // where in its length it was begun is thrown, so that ends do not stand in rows
    const share = r.chance(mine, 977)
    r.direction(x, y, way)
    const dx = way.x
    const dy = way.y
    const ahead = grow(x, y, dx, dy, long * share, mine, 0)
    const on = blocked ? 0 : runOn(x, y, dx, dy, ahead, mine, 0)
    const behind = grow(x, y, -dx, -dy, long - ahead * r.step, mine, half)
    if ((ahead + behind) * r.step < r.shortest(x, y)) return false
    const back = blocked ? 0 : runOn(x, y, -dx, -dy, behind, mine, half)
    for (let i = behind + back - 1; i >= 0; i--) keep(grown[half + i * 2]!, grown[half + i * 2 + 1]!, mine, i < behind)
    keep(x, y, mine)
    for (let i = 0; i < ahead + on; i++) keep(grown[i * 2]!, grown[i * 2 + 1]!, mine, i < ahead)
    starts.push(used)
    return true
  }
  let done = 0
  let work = 0
  /** Beside all lines that are there, on both sides, as long as there is room. */
  const spread = async () => {
    for (; done < starts.length - 1; done++) {
      const [from, to] = [starts[done]!, starts[done + 1]!]
      const every = max(1, round(r.apart / r.step))
      for (let k = from + (every >> 1); k < to; k += every) {
        const x = points[k * 2]!
        const y = points[k * 2 + 1]!
        r.direction(x, y, way)
        const off = r.apart / max(r.least, r.share(x, y))
        const nx = -way.y * off
        const ny = way.x * off
        lay(x + nx, y + ny)
        lay(x - nx, y - ny)
      }
      if ((work += to - from) > 3000) {
        work = 0
        await pause()
      }
    }
  }
  // wherever lines are wanted and none came by from beside
  const pitch = r.apart
  for (let j = 0; j * pitch < r.h; j++) {
    for (let i = 0; i * pitch < r.w; i++) if (lay((i + r.chance(i, j)) * pitch, (j + r.chance(i, j + 40961)) * pitch)) await spread()
    if (j % 16 === 0) await pause()
  }
  return { points: points.slice(0, used * 2), starts: Int32Array.from(starts) }
}
