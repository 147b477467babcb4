import { isEmpty } from '../base/region.ts'
import { seen, type Stage } from './stage.ts'

// How the stages of a stream go down together: how far each must be for the root to reach a row, which rows it must still hold, and what that comes to. Nothing is
// computed here.

/** Rows at once, at least. */
const FEW = 4
/** Rows of cells at once, at least: half a cell beside them is looked at too, so of small ones more, of large ones fewer, whose rows of pixels must all be held. */
const fewCells = (reduces: number) => Math.max(2, Math.min(16, Math.floor(CELL_ROWS / Math.sqrt(reduces))))
const CELL_ROWS = 256
/** Room in a window for what it holds: with more to spare its rows are moved up less often. */
export const SPARE = 1.2

/** Rows of a stage for one row of the root. */
export function rowsPerRow(s: Stage, root: Stage): number {
  return 2 ** (root.level - s.level) / (s.pixelBytes === 16 ? Math.sqrt(s.reduces) : 1)
}

export class Descent {
  private readonly root: Stage
  /** All stages that are needed, readers first. */
  private readonly order: readonly Stage[]
  /** Those with rows of their own, inputs first; the root last. */
  private readonly held: readonly Stage[]

  constructor(root: Stage, order: readonly Stage[], held: readonly Stage[]) {
    this.root = root
    this.order = order
    this.held = held
  }

  /**
   * Goes through all the rows without computing any.
   * @returns bytes held at once, at most, besides what is kept for others; and the rows that each window will have to hold at most
   */
  peak(piece: number): { bytes: number; most: Map<Stage, number> } {
    const most = new Map<Stage, number>()
    const his = new Map(this.held.map((s) => [s, s.window!.hi]))
    const bytesOf = (s: Stage) => (s.window!.left + s.region.w + s.window!.right) * s.pixelBytes
    let now = 0
    let peak = 0
    const spans = new Map<Stage, number>()
    for (const goals of this.rounds(piece)) {
      for (const [i, s] of this.held.entries()) {
        const goal = goals[i]!
        const hi = his.get(s)!
        if (goal <= hi) continue
        his.set(s, goal)
        if (s.window!.whole) continue
        // the root's rows are handed out as they come
        const low = this.lowest(s, goal, (r) => his.get(r)!)
        const rows = Math.ceil((goal - Math.min(low, hi)) * SPARE)
        most.set(s, Math.max(rows, most.get(s) ?? 0))
        now += (rows - (spans.get(s) ?? 0)) * bytesOf(s)
        spans.set(s, rows)
        // what its work holds besides
        peak = Math.max(peak, now + Math.min(s.segment.length + 1, 4) * (Math.min(goal - hi, this.rowsOf(s, piece)) + FEW) * bytesOf(s))
        for (const { from } of s.segment.flatMap((x) => x.inputs)) {
          if (!from.window || from.window.whole || !spans.has(from)) continue
          const left = Math.max(0, his.get(from)! - this.lowest(from, his.get(this.root)!, (r) => his.get(r)!))
          now += (left - spans.get(from)!) * bytesOf(from)
          spans.set(from, left)
        }
      }
    }
    return { bytes: peak, most }
  }

  /** Rows of a stage worked on at once. */
  rowsOf(s: Stage, piece: number): number {
    const rows = Math.max(s.pixelBytes === 16 ? fewCells(s.reduces) : s.reduces > 1 ? 1 : FEW, Math.floor(piece / (s.region.w * s.reduces)))
    return s.sequence ? Math.max(1, Math.floor(rows / s.sequence.rows)) * s.sequence.rows : rows
  }

  /**
   * How far down each held stage is to be after each round, in the order of `held`. The root's row that a round stands for begins so far
   * above the region that no stage has to hurry ahead, and hold all that it made.
   */
  *rounds(piece: number): Generator<number[]> {
    const { root, held } = this
    const first = root.window!.hi
    const end = root.region.y + root.region.h
    const step = Math.max(1, Math.min(...held.map((s) => Math.floor(this.rowsOf(s, piece) / rowsPerRow(s, root)))))
    // rows of the root that each stage's first row lies before what the root's first row needs
    let lead = 0
    const begin = this.goals(first)
    for (const [i, s] of held.entries()) lead = Math.max(lead, Math.ceil((begin[i]! - s.window!.hi) / rowsPerRow(s, root)))
    for (let row = first - lead; row < end;) {
      row = Math.min(end, row + step)
      yield this.goals(row).map((goal, i) => {
        const s = held[i]!
        return Math.max(s.window!.hi, Math.min(s.region.y + s.region.h, goal))
      })
    }
  }

  /** The row that each held stage must have reached when the root is to reach a row; not held to what there is of it. */
  private goals(row: number): number[] {
    const goal = new Map<Stage, number>([[this.root, row]])
    for (const s of this.order) {
      let at = goal.get(s)
      if (at === undefined) continue
      if (s.sequence) {
        at = Math.ceil((at - s.region.y) / s.sequence.rows) * s.sequence.rows + s.region.y
        goal.set(s, at)
      }
      for (const e of s.inputs) {
        if (!e.asked) continue
        if (e.laid?.turned) {
          if (at > s.region.y) goal.set(e.from, e.from.region.y + e.from.region.h)
          continue
        }
        // of what is laid elsewhere, rows beyond the picture may lie anywhere
        const row = e.laid ? Math.min(at, s.region.y + s.region.h) : at
        const need = e.need({ x: s.region.x, y: row - 1, w: s.region.w, h: 1 })
        // the border that is repeated has been seen once its row has
        const to = need.y + need.h
        goal.set(e.from, Math.max(goal.get(e.from) ?? -Infinity, e.beyond === 'repeat' && to <= e.from.extent.y && at > s.region.y ? e.from.extent.y + 1 : to))
      }
    }
    return this.held.map((s) => goal.get(s) ?? s.window!.hi)
  }

  /**
   * The first row of a stage that its readers still need; of the root, that is still to be handed out.
   * @param handedOut the first row of the root that is not
   * @param hiOf how far down a reader is; as far as its window, where not given
   */
  lowest(s: Stage, handedOut: number, hiOf: (reader: Stage) => number = (r) => r.window!.hi): number {
    let low = Infinity
    for (const e of s.asked) {
      const head = e.to.head!
      const at = hiOf(head)
      if (at >= head.region.y + head.region.h) continue
      if (e.laid) {
        const { x, y, w, h } = e.to.region
        if (at >= y + h) continue
        // where nothing is seen yet, the place is that of the nearest rows
        low = Math.min(low, e.laid.turned ? s.region.y : Math.max(s.region.y, e.need({ x, y: Math.max(at, y), w, h: 1 }).y))
        continue
      }
      const first = seen(e, { x: e.to.region.x, y: Math.max(at, e.to.region.y), w: e.to.region.w, h: 1 })
      low = Math.min(low, isEmpty(first) ? at : first.y)
    }
    return s === this.root ? Math.min(low, handedOut) : low
  }
}
