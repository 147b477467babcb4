import type { Region } from '../base/region.ts'

// taken once: loops over planes look nothing up
const { ceil, floor, max } = Math

// Marks laid out over a whole picture, and any part of them drawn at any level.

/** Side of a bin, full-size pixels: what a tile draws is looked up in those that it touches. */
const BIN = 256
/** Further than anything. */
const FAR = 1e30

/** Many marks of a pen or a lead, in as few bytes as they go. */
export interface Marks {
  /** x, y, half breadth (full-size pixels) and weight 0…1 a place: four floats, mark by mark. */
  points: Float32Array
  /** The first place of each mark, and behind the last. */
  starts: Int32Array
  /** Contours that are filled: x, y a point, and the first point of each, and behind the last. */
  areas: Float32Array
  areaStarts: Int32Array
  /** Bins row by row from (x, y): where each begins in `binned`, which holds numbers of marks. */
  x: number
  y: number
  columns: number
  rows: number
  bins: Int32Array
  binned: Int32Array
}

/** A place along a mark. */
export interface MarkPoint {
  x: number
  y: number
  /** Half its breadth, full-size pixels. */
  half: number
  /** How hard it is pressed, 0…1. */
  weight: number
}

/** Gathers marks one by one. */
export class MarkList {
  private points = new Float32Array(1 << 14)
  private used = 0
  private readonly starts: number[] = [0]
  private readonly areas: number[] = []
  private readonly areaStarts: number[] = [0]

  get count(): number {
    return this.starts.length - 1
  }

  place(x: number, y: number, half: number, weight: number): void {
    if (this.used + 4 > this.points.length) {
      const more = new Float32Array(this.points.length * 2)
      more.set(this.points)
      this.points = more
    }
    this.points[this.used++] = x
    this.points[this.used++] = y
    this.points[this.used++] = half
    this.points[this.used++] = weight
  }

  /** Ends the mark whose places came last; one of a single place is nothing. */
  end(): void {
    const from = this.starts.at(-1)!
    if (this.used / 4 - from < 2) this.used = from * 4
    else this.starts.push(this.used / 4)
  }

  mark(places: readonly MarkPoint[]): void {
    for (const p of places) this.place(p.x, p.y, p.half, p.weight)
    this.end()
  }

  /** A contour that is filled; it is closed. Where one lies in another and runs the other way round, the inner one is left open. */
  area(contour: readonly { x: number; y: number }[]): void {
    for (const p of contour) this.areas.push(p.x, p.y)
    this.areaStarts.push(this.areas.length / 2)
  }

  /** @param extent of the picture that they lie on, full-size pixels */
  done(extent: Region): Marks {
    const columns = max(1, ceil(extent.w / BIN))
    const rows = max(1, ceil(extent.h / BIN))
    const points = this.points.slice(0, this.used)
    const starts = Int32Array.from(this.starts)
    const n = starts.length - 1
    const [x0, y0] = [extent.x, extent.y]
    const held = (v: number, most: number) => (v < 0 ? 0 : v > most ? most : v)
    const boxes = new Int32Array(n * 4)
    const counts = new Int32Array(columns * rows + 1)
    for (let k = 0; k < n; k++) {
      let [left, top, right, low] = [FAR, FAR, -FAR, -FAR]
      for (let i = starts[k]! * 4; i < starts[k + 1]! * 4; i += 4) {
        const [x, y, r] = [points[i]!, points[i + 1]!, points[i + 2]! * 2 + 1]
        if (x - r < left) left = x - r
        if (x + r > right) right = x + r
        if (y - r < top) top = y - r
        if (y + r > low) low = y + r
      }
      boxes[k * 4] = held(floor((left - x0) / BIN), columns - 1)
      boxes[k * 4 + 1] = held(floor((top - y0) / BIN), rows - 1)
      boxes[k * 4 + 2] = held(floor((right - x0) / BIN), columns - 1)
      boxes[k * 4 + 3] = held(floor((low - y0) / BIN), rows - 1)
      for (let j = boxes[k * 4 + 1]!; j <= boxes[k * 4 + 3]!; j++)
        for (let i = boxes[k * 4]!; i <= boxes[k * 4 + 2]!; i++) counts[j * columns + i + 1] = counts[j * columns + i + 1]! + 1
    }
    for (let i = 1; i < counts.length; i++) counts[i] = counts[i]! + counts[i - 1]!
    const binned = new Int32Array(counts[counts.length - 1]!)
    const next = counts.slice()
    for (let k = 0; k < n; k++)
      for (let j = boxes[k * 4 + 1]!; j <= boxes[k * 4 + 3]!; j++)
        for (let i = boxes[k * 4]!; i <= boxes[k * 4 + 2]!; i++) {
          const b = j * columns + i
          binned[next[b]!] = k
          next[b] = next[b]! + 1
        }
    return {
      points,
      starts,
      areas: Float32Array.from(this.areas),
      areaStarts: Int32Array.from(this.areaStarts),
      x: x0,
      y: y0,
      columns,
      rows,
      bins: counts,
      binned,
    }
  }
}

/** Numbers of the filled contours whose boxes meet a region (full-size pixels): a closed one that does not meet it adds nothing there. */
export function areasIn({ areas, areaStarts }: Marks, { x, y, w, h }: Region): number[] {
  const found: number[] = []
  for (let k = 0; k + 1 < areaStarts.length; k++) {
    let [left, top, right, low] = [FAR, FAR, -FAR, -FAR]
    for (let i = areaStarts[k]! * 2; i < areaStarts[k + 1]! * 2; i += 2) {
      left = areas[i]! < left ? areas[i]! : left
      right = areas[i]! > right ? areas[i]! : right
      top = areas[i + 1]! < top ? areas[i + 1]! : top
      low = areas[i + 1]! > low ? areas[i + 1]! : low
    }
    if (left < x + w + 1 && right > x - 1 && top < y + h + 1 && low > y - 1) found.push(k)
  }
  return found
}

/** Numbers of the marks whose bins meet a region (full-size pixels), each once, in their order. */
export function marksIn(m: Marks, { x, y, w, h }: Region): Int32Array {
  const held = (v: number, most: number) => (v < 0 ? 0 : v > most ? most : v)
  const [i0, i1] = [held(floor((x - m.x) / BIN), m.columns - 1), held(floor((x + w - m.x) / BIN), m.columns - 1)]
  const [j0, j1] = [held(floor((y - m.y) / BIN), m.rows - 1), held(floor((y + h - m.y) / BIN), m.rows - 1)]
  const n = m.starts.length - 1
  const seen = new Uint8Array(n)
  let count = 0
  for (let j = j0; j <= j1; j++)
    for (let b = j * m.columns + i0; b <= j * m.columns + i1; b++)
      for (let i = m.bins[b]!; i < m.bins[b + 1]!; i++) {
        const k = m.binned[i]!
        if (seen[k] === 0) {
          seen[k] = 1
          count++
        }
      }
  const out = new Int32Array(count)
  let at = 0
  for (let k = 0; k < n; k++) if (seen[k] === 1) out[at++] = k
  return out
}
