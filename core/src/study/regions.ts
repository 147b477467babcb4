import type { Kernels } from '../kernels/kernels.ts'
import { blurred, field } from './fields.ts'

// taken once: loops over planes look nothing up
const { max } = Math

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
    for (let i = 0; i < of.length; i++) is.v[i] = of[i] === k ? 1 : 0
    const share = blurred(kernels, is, sigma).v
    for (let i = 0; i < share.length; i++)
      if (share[i]! > best[i]!) {
        best[i] = share[i]!
        out[i] = k
      }
  }
  return { w, h, of: out }
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
  return { w, h, of: Uint8Array.from(piece, (k) => pieces[find(k)]!.label) }
}

function piecesOf(w: number, h: number, of: Uint8Array, weight: (i: number) => number): { piece: Int32Array; pieces: Piece[] } {
  const piece = new Int32Array(w * h).fill(-1)
  const pieces: Piece[] = []
  const stack: number[] = []
  for (let first = 0; first < of.length; first++) {
    if (piece[first] !== -1) continue
    const k = pieces.length
    const label = of[first]!
    let area = 0
    piece[first] = k
    stack.push(first)
    const take = (n: number) => {
      if (piece[n] !== -1 || of[n] !== label) return
      piece[n] = k
      stack.push(n)
    }
    while (stack.length) {
      const i = stack.pop()!
      area += weight(i)
      const x = i % w
      if (x > 0) take(i - 1)
      if (x + 1 < w) take(i + 1)
      if (i >= w) take(i - w)
      if (i + w < of.length) take(i + w)
    }
    pieces.push({ label, area, beside: new Map() })
  }
  const touch = (a: number, b: number) => {
    if (a === b) return
    pieces[a]!.beside.set(b, (pieces[a]!.beside.get(b) ?? 0) + 1)
    pieces[b]!.beside.set(a, (pieces[b]!.beside.get(a) ?? 0) + 1)
  }
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      if (x > 0) touch(piece[i]!, piece[i - 1]!)
      if (y > 0) touch(piece[i]!, piece[i - w]!)
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
