import type { Field } from './fields.ts'

// taken once: loops over planes look nothing up
const { floor } = Math

/** Higher than anything. */
const BEYOND = 1e30

/** A place on a line; pixels of the field, whose middles are whole numbers. */
interface Place {
  x: number
  y: number
}

/**
 * The borders of all that is lower than a value, as closed contours, what is lower on the same side of all of them (marching squares, Lorensen and Cline 1987 in two
 * dimensions; a saddle is parted by the mean of its four values). Beyond the field all is higher.
 */
export function levelLines({ w, h, v }: Field, value: number): Place[][] {
  const [pw, ph] = [w + 1, h + 1]
  const at = (i: number, j: number) => (i < 0 || j < 0 || i >= w || j >= h ? BEYOND : v[j * w + i]!)
  // where a cell's side is crossed: sides are numbered 2 · (row · (w + 1) + column), + 1 for those that run down
  const next = new Map<number, number>()
  const sideX = (i: number, j: number) => 2 * ((j + 1) * (pw + 1) + i + 1)
  const sideY = (i: number, j: number) => sideX(i, j) + 1
  // which are lower, a rim of none round them: most cells are told by that
  const row = w + 2
  const lower = new Uint8Array(row * (h + 2))
  for (let j = 0; j < h; j++) for (let i = 0; i < w; i++) if (v[j * w + i]! < value) lower[(j + 1) * row + i + 1] = 1
  for (let j = -1; j < ph - 1; j++)
    for (let i = -1; i < pw - 1; i++) {
      const n = (j + 1) * row + i + 1
      const kind = lower[n]! | (lower[n + 1]! << 1) | (lower[n + row + 1]! << 2) | (lower[n + row]! << 3)
      if (kind === 0 || kind === 15) continue
      const [a, b, c, d] = [at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)]
      const [top, right, low, left] = [sideX(i, j), sideY(i + 1, j), sideX(i, j + 1), sideY(i, j)]
      // what is lower lies to the right of the way, seen with y downwards
      const go = (from: number, to: number) => next.set(from, to)
      switch (kind) {
        case 1:
          go(top, left)
          break
        case 2:
          go(right, top)
          break
        case 3:
          go(right, left)
          break
        case 4:
          go(low, right)
          break
        case 6:
          go(low, top)
          break
        case 7:
          go(low, left)
          break
        case 8:
          go(left, low)
          break
        case 9:
          go(top, low)
          break
        case 11:
          go(right, low)
          break
        case 12:
          go(left, right)
          break
        case 13:
          go(top, right)
          break
        case 14:
          go(left, top)
          break
        default: {
          const joined = (a + b + c + d) / 4 < value
          if (kind === 5) {
            go(top, joined ? right : left)
            go(low, joined ? left : right)
          } else {
            go(right, joined ? low : top)
            go(left, joined ? top : low)
          }
        }
      }
    }
  const place = (side: number): Place => {
    const n = side >> 1
    const [i, j] = [(n % (pw + 1)) - 1, floor(n / (pw + 1)) - 1]
    const down = side % 2 === 1
    const [p, q] = [at(i, j), down ? at(i, j + 1) : at(i + 1, j)]
    // a border of the field is crossed half a pixel out, where its last pixels end
    const t = p === BEYOND ? 0.5 : q === BEYOND ? 0.5 : (value - p) / (q - p)
    return down ? { x: i, y: j + t } : { x: i + t, y: j }
  }
  const lines: Place[][] = []
  for (const first of next.keys()) {
    if (!next.has(first)) continue
    const line: Place[] = []
    for (let side: number | undefined = first; side !== undefined && next.has(side);) {
      line.push(place(side))
      const to: number = next.get(side)!
      next.delete(side)
      side = to
    }
    if (line.length > 2) lines.push(line)
  }
  return lines
}

/** Twice the area that a contour goes round, its sign telling which way. */
export function area2(line: readonly Place[]): number {
  let sum = 0
  for (let i = 0; i < line.length; i++) {
    const [p, q] = [line[i]!, line[(i + 1) % line.length]!]
    sum += p.x * q.y - q.x * p.y
  }
  return sum
}
