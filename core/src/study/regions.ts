import type { Kernels } from '../kernels/kernels.ts'
import { distanceTo } from './distance.ts'
import { blurred, field } from './fields.ts'

// taken once: loops over planes look nothing up
const { floor, max, min, sqrt } = Math

/** One number a pixel that says which of some kinds it is. */
export interface Labels {
  w: number
  h: number
  of: Uint8Array
}

/** Each pixel as most of those round about are: crumbs and stairs go, borders bend no tighter than about the deviation. */
export async function calmed(kernels: Kernels, { w, h, of }: Labels, kinds: number, sigma: number, pause: () => Promise<void>): Promise<Labels> {
  const best = new Float32Array(w * h).fill(-1)
  const out = new Uint8Array(w * h)
  for (let k = 0; k < kinds; k++) {
    await pause()
    const is = field(w, h)
    mark(is.v, of, k)
    takeMost(best, out, blurred(kernels, is, sigma).v, k)
  }
  return { w, h, of: out }
}

// loops in small functions of their own: they are compiled at once, and well

function mark(is: Float32Array, of: Uint8Array, k: number): void {
  for (let i = 0; i < of.length; i++) is[i] = of[i] === k ? 1 : 0
}

function takeMost(best: Float32Array, out: Uint8Array, share: Float32Array, k: number): void {
  for (let i = 0; i < share.length; i++)
    if (share[i]! > best[i]!) {
      best[i] = share[i]!
      out[i] = k
    }
}

/** Each pixel's label by its piece: looked up once a piece. */
function labelled(piece: Int32Array, labelOf: (piece: number) => number, pieces: number): Uint8Array {
  const labels = new Uint8Array(pieces)
  for (let k = 0; k < pieces; k++) labels[k] = labelOf(k)
  const of = new Uint8Array(piece.length)
  for (let i = 0; i < of.length; i++) of[i] = labels[piece[i]!]!
  return of
}

/** A piece that hangs together. */
interface Piece {
  label: number
  area: number
  /** Border pixels with other pieces, by their numbers. */
  beside: Map<number, number>
}

/**
 * Regions with none smaller than an area: the smallest ones go over, one after the other, to the neighbour that they share most of their border with, of those that
 * are about as like the one that is most like (four neighbours; region merging from the smallest, as Koepfler, Lopez and Morel 1994 merge by a cost of border).
 * @param unlike how far two kinds are apart, 0 … about 1
 * @param weight what a pixel counts towards the area; 1 each, where it is left out
 */
export function merged({ w, h, of }: Labels, least: number, unlike: (a: number, b: number) => number, weight: (i: number) => number = () => 1): Labels {
  const { piece, pieces } = piecesOf(w, h, of, weight)
  const parent = Int32Array.from({ length: pieces.length }, (_, i) => i)
  const find = (k: number): number => {
    let root = k
    while (parent[root] !== root) root = parent[root]!
    while (parent[k] !== root) {
      const next = parent[k]!
      parent[k] = root
      k = next
    }
    return root
  }
  const join = (a: number, b: number): number => {
    // the smaller list of neighbours goes into the larger one
    const [into, from] = pieces[a]!.beside.size >= pieces[b]!.beside.size ? [a, b] : [b, a]
    const label = pieces[b]!.label
    parent[from] = into
    const [to, gone] = [pieces[into]!, pieces[from]!]
    to.area += gone.area
    to.label = label
    for (const [k, n] of gone.beside) {
      const root = find(k)
      if (root === into) continue
      to.beside.set(root, (to.beside.get(root) ?? 0) + n)
    }
    to.beside.delete(from)
    to.beside.delete(into)
    return into
  }
  /** The neighbours as they are now. */
  const around = (k: number): [number, number][] => {
    const now = new Map<number, number>()
    for (const [other, n] of pieces[k]!.beside) {
      const root = find(other)
      if (root !== k) now.set(root, (now.get(root) ?? 0) + n)
    }
    pieces[k]!.beside = now
    return [...now]
  }
  const waiting = pieces.map((_, k) => k).filter((k) => pieces[k]!.area < least)
  waiting.sort((a, b) => pieces[a]!.area - pieces[b]!.area || a - b)
  for (const first of waiting) {
    for (let k = find(first); pieces[k]!.area < least;) {
      const near = around(k)
      if (near.length === 0) break
      let best = near[0]!
      let most = -1
      for (const [other, n] of near) {
        const worth = n / (0.05 + unlike(pieces[k]!.label, pieces[other]!.label))
        if (worth > most || (worth === most && other < best[0])) {
          most = worth
          best = [other, n]
        }
      }
      k = join(k, find(best[0]))
      // what it now lies beside and is of its own kind is one with it
      for (const [other] of around(k)) if (pieces[other]!.label === pieces[k]!.label && find(other) !== k) k = join(k, find(other))
    }
  }
  return { w, h, of: labelled(piece, (k) => pieces[find(k)]!.label, pieces.length) }
}

/**
 * Without the thin bands that a soft edge leaves between the two kinds it parts: where a kind is narrower than twice a radius and lies, as a colour, between the two it
 * has most border with, each of its pixels goes to the one of them that it is more like. What is thin and unlike both, a mast or a gap, stays.
 * @param planes what each pixel is, and `kinds` what each kind is, in three numbers of the same space
 * @param radius pixels
 */
export function withoutRims(
  kernels: Kernels,
  { w, h, of }: Labels,
  planes: readonly [Float32Array, Float32Array, Float32Array],
  kinds: readonly (readonly [number, number, number])[],
  radius: number,
): Labels {
  const n = kinds.length
  const rim = new Uint8Array(w * h)
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++)
      if ((x > 0 && of[i] !== of[i - 1]) || (x + 1 < w && of[i] !== of[i + 1]) || (y > 0 && of[i] !== of[i - w]) || (y + 1 < h && of[i] !== of[i + w]))
        rim[i] = 1
  const inside = distanceTo(kernels, rim, w, h).v
  // what can be reached from where a kind is broad, not further than it is broad there
  const steps = new Uint16Array(w * h).fill(65535)
  let open: number[] = []
  for (let i = 0; i < of.length; i++)
    if (inside[i]! >= radius) {
      steps[i] = 0
      open.push(i)
    }
  const most = min(65534, max(1, floor(radius * 1.5 + 1)))
  for (let step = 1; step <= most && open.length; step++) {
    const next: number[] = []
    const take = (i: number, from: number) => {
      if (steps[i] !== 65535 || of[i] !== of[from]) return
      steps[i] = step
      next.push(i)
    }
    for (const i of open) {
      const x = i % w
      if (x > 0) take(i - 1, i)
      if (x + 1 < w) take(i + 1, i)
      if (i >= w) take(i - w, i)
      if (i + w < of.length) take(i + w, i)
    }
    open = next
  }
  const marked = of.map((k, i) => (steps[i] === 65535 ? k + n : k))
  const { piece, pieces } = piecesOf(w, h, marked, () => 1)
  const apart = (a: number, b: number) => {
    const [p, q] = [kinds[a]!, kinds[b]!]
    return sqrt((p[0] - q[0]) ** 2 + (p[1] - q[1]) ** 2 + (p[2] - q[2]) ** 2)
  }
  /** The two kinds that a thin piece parts, if it lies between them. */
  const parted = pieces.map(({ label, beside }) => {
    if (label < n) return null
    const lengths = new Map<number, number>()
    for (const [other, length] of beside) {
      const its = pieces[other]!.label % n
      if (its !== label - n) lengths.set(its, (lengths.get(its) ?? 0) + length)
    }
    const sides = [...lengths].sort((a, b) => b[1] - a[1] || a[0] - b[0])
    if (sides.length < 2) return null
    const [a, b] = [sides[0]![0], sides[1]![0]]
    const its = label - n
    return apart(its, a) + apart(its, b) < BETWEEN * apart(a, b) ? ([a, b] as const) : null
  })
  const out = of.slice()
  for (let i = 0; i < out.length; i++) {
    const sides = parted[piece[i]!]
    if (!sides) continue
    const to = (k: number) => (planes[0][i]! - kinds[k]![0]) ** 2 + (planes[1][i]! - kinds[k]![1]) ** 2 + (planes[2][i]! - kinds[k]![2]) ** 2
    out[i] = to(sides[0]) <= to(sides[1]) ? sides[0] : sides[1]
  }
  return { w, h, of: out }
}

/** How much longer the way by a colour between two others may be than the straight one. */
const BETWEEN = 1.35

/** Numbered things by their cost, the cheapest first; of two as cheap, the lower number. */
class Heap {
  private readonly list: { cost: number; item: number }[] = []

  private before(a: number, b: number): boolean {
    const [p, q] = [this.list[a]!, this.list[b]!]
    return p.cost < q.cost || (p.cost === q.cost && p.item < q.item)
  }

  private swap(a: number, b: number): void {
    const { list } = this
    const held = list[a]!
    list[a] = list[b]!
    list[b] = held
  }

  add(cost: number, item: number): void {
    this.list.push({ cost, item })
    for (let i = this.list.length - 1; i > 0;) {
      const up = (i - 1) >> 1
      if (!this.before(i, up)) break
      this.swap(i, up)
      i = up
    }
  }

  take(): { cost: number; item: number } | undefined {
    const { list } = this
    const top = list[0]
    const last = list.pop()
    if (list.length === 0 || !last) return top
    list[0] = last
    for (let i = 0; ;) {
      let best = i
      for (const down of [2 * i + 1, 2 * i + 2]) if (down < list.length && this.before(down, best)) best = down
      if (best === i) return top
      this.swap(i, best)
      i = best
    }
  }
}

/**
 * Regions with fewer and calmer borders: as long as a border costs more than the colours it keeps apart, the region goes over to the kind beside it (the model of
 * Mumford and Shah 1989 with given colours, merged greedily as Koepfler, Lopez and Morel 1994 do: the least colour for its border first).
 * @param planes what each pixel is, and `kinds` what each kind is, in three numbers of the same space
 * @param border what a pixel of border costs, in squared differences
 * @param weight what a pixel counts
 */
export function fewer(
  { w, h, of }: Labels,
  planes: readonly [Float32Array, Float32Array, Float32Array],
  kinds: readonly (readonly [number, number, number])[],
  border: number,
  weight: (i: number) => number,
): Labels {
  const { piece, pieces } = piecesOf(w, h, of, weight)
  const sums = planes.map(() => new Float64Array(pieces.length))
  for (let i = 0; i < piece.length; i++) {
    const its = weight(i)
    for (let c = 0; c < 3; c++) sums[c]![piece[i]!]! += planes[c]![i]! * its
  }
  const square = kinds.map(([a, b, c]) => a * a + b * b + c * c)
  const parent = Int32Array.from({ length: pieces.length }, (_, i) => i)
  const find = (k: number): number => {
    while (parent[k] !== k) k = parent[k] = parent[parent[k]!]!
    return k
  }
  /** What a piece would cost for each pixel of border that goes, if it went over to the best kind beside it; and that kind. */
  const cheapest = (k: number): { cost: number; to: number } => {
    const { label, area, beside } = pieces[k]!
    const lengths = new Map<number, number>()
    for (const [other, n] of beside) {
      const its = pieces[other]!.label
      lengths.set(its, (lengths.get(its) ?? 0) + n)
    }
    let best = { cost: Infinity, to: -1 }
    for (const [to, length] of lengths) {
      let more = area * (square[to]! - square[label]!)
      for (let c = 0; c < 3; c++) more -= 2 * (kinds[to]![c]! - kinds[label]![c]!) * sums[c]![k]!
      const cost = more / length
      if (cost < best.cost || (cost === best.cost && to < best.to)) best = { cost, to }
    }
    return best
  }
  const offers = pieces.map(() => ({ cost: Infinity, to: -1 }))
  const waiting = new Heap()
  const offer = (k: number): void => {
    offers[k] = cheapest(k)
    if (offers[k].cost < border) waiting.add(offers[k].cost, k)
  }
  for (let k = 0; k < pieces.length; k++) offer(k)
  for (let next = waiting.take(); next; next = waiting.take()) {
    const { item: k, cost } = next
    const { to } = offers[k]!
    // an offer that was overtaken
    if (parent[k] !== k || cost !== offers[k]!.cost) continue
    const joined = [...pieces[k]!.beside.keys()].filter((other) => pieces[other]!.label === to)
    pieces[k]!.label = to
    for (const gone of joined) {
      const [its, from] = [pieces[k]!, pieces[gone]!]
      parent[gone] = k
      its.area += from.area
      for (let c = 0; c < 3; c++) sums[c]![k]! += sums[c]![gone]!
      for (const [other, n] of from.beside) {
        const theirs = pieces[other]!.beside
        theirs.delete(gone)
        if (other === k) continue
        its.beside.set(other, (its.beside.get(other) ?? 0) + n)
        theirs.set(k, (theirs.get(k) ?? 0) + n)
      }
      its.beside.delete(gone)
    }
    offer(k)
    for (const other of pieces[k]!.beside.keys()) offer(other)
  }
  return { w, h, of: labelled(piece, (k) => pieces[find(k)]!.label, pieces.length) }
}

/** What hangs together with pixel `first` (four neighbours) is numbered k. @param stack room for every pixel @returns what its pixels count */
function flooded(piece: Int32Array, of: Uint8Array, w: number, first: number, k: number, weight: (i: number) => number, stack: Int32Array): number {
  const label = of[first]!
  const end = of.length
  let area = 0
  let n = 1
  piece[first] = k
  stack[0] = first
  while (n > 0) {
    const i = stack[--n]!
    area += weight(i)
    const x = i % w
    if (x > 0 && piece[i - 1] === -1 && of[i - 1] === label) {
      piece[i - 1] = k
      stack[n++] = i - 1
    }
    if (x + 1 < w && piece[i + 1] === -1 && of[i + 1] === label) {
      piece[i + 1] = k
      stack[n++] = i + 1
    }
    if (i >= w && piece[i - w] === -1 && of[i - w] === label) {
      piece[i - w] = k
      stack[n++] = i - w
    }
    if (i + w < end && piece[i + w] === -1 && of[i + w] === label) {
      piece[i + w] = k
      stack[n++] = i + w
    }
  }
  return area
}

function piecesOf(w: number, h: number, of: Uint8Array, weight: (i: number) => number): { piece: Int32Array; pieces: Piece[] } {
  const piece = new Int32Array(w * h).fill(-1)
  const pieces: Piece[] = []
  const stack = new Int32Array(w * h)
  for (let first = 0; first < of.length; first++)
    if (piece[first] === -1) pieces.push({ label: of[first]!, area: flooded(piece, of, w, first, pieces.length, weight, stack), beside: new Map() })
  const touch = (a: number, b: number) => {
    pieces[a]!.beside.set(b, (pieces[a]!.beside.get(b) ?? 0) + 1)
    pieces[b]!.beside.set(a, (pieces[b]!.beside.get(a) ?? 0) + 1)
  }
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const its = piece[i]!
      if (x > 0 && piece[i - 1] !== its) touch(its, piece[i - 1]!)
      if (y > 0 && piece[i - w] !== its) touch(its, piece[i - w]!)
    }
  return { piece, pieces }
}

/** How many pixels each kind has. */
export function counted({ of }: Labels, kinds: number): number[] {
  const n = Array.from({ length: kinds }, () => 0)
  for (let i = 0; i < of.length; i++) n[of[i]!]!++
  return n
}

/** The mean of a plane over each kind; a half where there is none of it. @param at what the plane has at a pixel of the labels */
export function meansBy({ w, h, of }: Labels, kinds: number, at: (x: number, y: number) => number): number[] {
  const sum = Array.from({ length: kinds }, () => 0)
  const n = Array.from({ length: kinds }, () => 0)
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      sum[of[i]!]! += at(x, y)
      n[of[i]!]!++
    }
  return sum.map((s, k) => (n[k] ? s / max(1, n[k]!) : 0.5))
}
