import { contains, intersect, isEmpty, union, type Region } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from '../steps/contract.ts'
import { Descent, rowsPerRow, SPARE } from './descent.ts'
import { gather, viewOf } from './gather.ts'
import { clear, fresh, type Lent } from './pixels.ts'
import type { Request } from './request.ts'
import { NOWHERE, readersFirst, seen, type Stage } from './stage.ts'
import type { Kept, Store } from './store.ts'

// Computes a region of a stage from top to bottom, each pixel of each stage once. All stages go down together, each as far ahead of its
// readers as they look; it holds the rows that they still need, and no more. A stage whose only reader takes its pixels where they are
// is computed with that reader, on the same memory where that can be: a segment.

/** Pixels of a piece of work, tried in turn until what must be held at once fits. */
const PIECES = [1 << 22, 1 << 21, 1 << 20, 1 << 19, 1 << 18, 1 << 17, 1 << 16, 1 << 15, 1 << 14]
/** Pixels that one piece should have at least: less costs more to hand out than it saves. */
const WORTH = 1 << 18
/** Rows after which what a step carries from row to row is kept. */
const STATE_ROWS = 512
/** What a picture that is kept is grown to, so that a longer reach finds it large enough. */
const KEPT_GRID = 128

export interface StreamOptions {
  kernels: Kernels
  request: Request
  store: Store
  /** Bytes that may be held at once. */
  budget: number
  /**
   * What of the stages to keep for other requests: those that are named first, then the dear and the shared ones nearest to the result that may be kept;
   * none of the others that takes more than `most`, and not more than `bytes` together.
   */
  keep: { bytes: number; most: number; first: (stage: Stage) => boolean; may: (stage: Stage) => boolean; grown: boolean } | null
  /** Pixels of a piece, instead of what fits. */
  piece?: number
  onRun?: (stage: Stage, region: Region) => void
}

/** What is held when so many pixels are worked on at once. */
export interface Reckoning {
  piece: number
  bytes: number
  /** Within the budget. */
  fits: boolean
  /** Whether a narrower region would need less: not where a stage goes on from row to row, over all of its width. */
  divisible: boolean
}

export class Stream {
  private readonly options: StreamOptions
  private readonly root: Stage
  /** Stages with rows of their own, inputs first; the root last. */
  private held: Stage[] = []
  private order: Stage[] = []
  private descent: Descent
  private region: Region = NOWHERE
  /** The next row of the root. */
  private next = 0
  private readonly pinned: Kept[] = []
  private readonly states = new Map<Stage, number>()
  private piece = PIECES[0]!
  /** Rows that each window will have to hold at most. */
  private most = new Map<Stage, number>()

  /** @param root what is computed; its own extent does not count: beyond it, it is clear */
  constructor(root: Stage, options: StreamOptions) {
    this.root = root
    this.options = options
    this.descent = new Descent(root, [], [])
  }

  /**
   * Works out what is needed of every stage, what is there already, and what is to be held.
   * @returns how much that is; to be asked before `run`
   */
  async open(region: Region): Promise<Reckoning> {
    this.region = region
    this.next = region.y
    this.order = readersFirst(this.root)
    for (const s of this.order) {
      s.region = NOWHERE
      s.asked = []
      s.window = null
      s.head = null
      s.segment = []
      s.ms = 0
      for (const e of s.inputs) e.asked = false
    }
    const inside = intersect(region, this.root.extent)
    if (isEmpty(inside)) {
      this.order = []
      return { piece: PIECES[0]!, bytes: 0, fits: true, divisible: false }
    }
    this.root.region = inside
    this.ask(() => false)
    const chosen = this.choose()
    if (chosen.size) {
      // again, with what is kept grown
      for (const s of this.order) {
        s.region = NOWHERE
        s.asked = []
        for (const e of s.inputs) e.asked = false
        this.drop(s)
      }
      this.root.region = inside
      this.ask((s) => chosen.has(s))
    }
    this.order = this.order.filter((s) => !isEmpty(s.region))
    this.hold(chosen)
    return this.reckon()
  }

  /** Regions from the readers down; what is kept from another request ends the way down where it is whole. */
  private ask(keep: (s: Stage) => boolean): void {
    const { store, keep: keeping } = this.options
    for (const s of this.order) {
      if (isEmpty(s.region)) continue
      // cells are large enough by themselves
      if (keep(s) && keeping?.grown && s.pixelBytes === 8) s.region = intersect(grownTo(s.region, KEPT_GRID), s.extent)
      if (s.sequence) s.region = this.wholeRows(s)
      let rest = s.region
      // rows of a sequence go on only from where its state is known: all or nothing
      const kept = store.take(s.name, (k) => contains(k.region, s.region) && (!s.sequence || k.hi >= s.region.y + s.region.h))
      if (kept) {
        this.pinned.push(kept)
        s.region = { ...kept.region, h: s.region.y + s.region.h - kept.region.y }
        s.window = { ptr: kept.ptr, stride: kept.stride, left: 0, right: 0, rows: kept.region.h, top: kept.region.y, hi: kept.hi, whole: true, kept }
        const end = s.region.y + s.region.h
        if (kept.hi >= end) continue
        rest = { x: s.region.x, y: kept.hi, w: s.region.w, h: end - kept.hi }
      }
      for (const edge of s.inputs) {
        const need = seen(edge, rest)
        if (isEmpty(need)) continue
        edge.from.region = union(edge.from.region, need)
        edge.from.asked.push(edge)
        edge.asked = true
      }
    }
  }

  /** What a stage that goes row by row must compute for its region: whole rows, from the last that its state is known at. */
  private wholeRows({ name, extent, region, sequence }: Stage): Region {
    const end = Math.min(extent.y + extent.h, Math.ceil((region.y + region.h - extent.y) / sequence!.rows) * sequence!.rows + extent.y)
    let row = Math.floor((region.y - extent.y) / STATE_ROWS) * STATE_ROWS
    for (; row > 0; row -= STATE_ROWS) {
      const kept = this.options.store.take(`${name}/state ${row}`, () => true)
      if (!kept) continue
      this.pinned.push(kept)
      break
    }
    return { ...extent, y: extent.y + row, h: end - extent.y - row }
  }

  /** What of the stages is to be kept for other requests. */
  private choose(): Set<Stage> {
    const { keep } = this.options
    const chosen = new Set<Stage>()
    if (!keep) return chosen
    let left = keep.bytes
    const take = (s: Stage, most: number) => {
      const bytes = s.region.w * s.region.h * s.pixelBytes
      if (chosen.has(s) || s.window || isEmpty(s.region) || bytes > left || bytes > most || !keep.may(s)) return
      left -= bytes
      chosen.add(s)
    }
    for (const s of this.order) if (keep.first(s)) take(s, keep.bytes)
    // what several read stands at a fork: whatever is edited above it, it is asked for again
    for (const s of this.order) if (s.asked.length > 1 && s.inputs.length > 0) take(s, keep.bytes)
    for (const s of this.order) if (s === this.root || s.dear || s.asked.length > 1 || s.asked.some((e) => e.to.dear)) take(s, keep.most)
    return chosen
  }

  /** Gives windows to the stages that need them, and puts the others into their readers' segments. */
  private hold(chosen: ReadonlySet<Stage>): void {
    for (const s of this.order) {
      const edge = s.asked[0]
      const together = s !== this.root && s.asked.length === 1 && edge!.samePlace && !s.window && !chosen.has(s) && !s.sequence
      if (together) continue
      s.window ??= { ptr: 0, stride: 0, left: 0, right: 0, rows: 0, top: s.region.y, hi: s.region.y, whole: chosen.has(s), kept: null }
      if (s.window.kept) continue
      s.window.stride = s.region.w * s.pixelBytes
      if (s.window.whole) continue
      for (const e of s.asked) {
        if (e.beyond !== 'repeat') continue
        const need = e.need(e.to.region)
        s.window.left = Math.max(s.window.left, s.region.x - need.x)
        s.window.right = Math.max(s.window.right, need.x + need.w - s.region.x - s.region.w)
      }
      // a border that is copied for nothing costs more than it saves
      if (s.window.left + s.window.right > s.region.w) s.window.left = s.window.right = 0
      s.window.stride = (s.window.left + s.region.w + s.window.right) * s.pixelBytes
    }
    // inputs first: each segment is ended by a stage with a window
    this.held = this.order.filter((s) => s.window).reverse()
    for (const s of this.order) {
      s.head = s.window ? s : s.asked[0]!.to.head
      if (!s.window) s.head!.segment.push(s)
    }
    for (const s of this.held) {
      s.segment.reverse()
      s.segment.push(s)
    }
    this.descent = new Descent(this.root, this.order, this.held)
  }

  /** How many bytes are held at once with the largest piece that fits. */
  private reckon(): Reckoning {
    const { budget, piece } = this.options
    const widest = Math.max(1, ...this.held.map((s) => s.region.w))
    // what is looked at above and below a piece is worked on again for the next, in part
    let reach = 0
    for (const s of this.held)
      for (const { need, samePlace, laid, to } of s.asked) {
        if (samePlace || laid || to.reduces > 1) continue
        const rows = need(to.region).h / rowsPerRow(s, to)
        reach = Math.max(reach, (rows - to.region.h) / 2)
      }
    const wanted = Math.max(WORTH, Math.min(512, 3 * reach) * widest, threadRows(this.options.kernels) * widest)
    const tried = piece ? [piece] : PIECES.filter((p) => p < 2 * wanted)
    let bytes = 0
    for (const p of tried) {
      this.piece = p
      const peak = this.descent.peak(p)
      this.most = peak.most
      bytes = peak.bytes
      if (bytes <= budget) break
    }
    const fits = bytes <= budget
    // what is kept for others has its own budget
    for (const { window, region, pixelBytes } of this.held) if (window!.whole && !window!.kept) bytes += region.w * region.h * pixelBytes
    return { piece: this.piece, bytes, fits, divisible: !this.held.some((s) => s.sequence) }
  }

  /** Computes the region and hands it out by bands from the top; each is shown while it is in memory. */
  async run(onBand: (pic: Pic) => void | Promise<void>): Promise<void> {
    const { kernels, request } = this.options
    const { region, root } = this
    const rowBytes = region.w * 8
    const blank = async (to: number) => {
      // beyond the pixels there are it is clear
      while (this.next < to) {
        await request.pause()
        const h = Math.max(1, Math.min(to - this.next, Math.floor((1 << 23) / rowBytes)))
        const out = fresh(kernels, { ...region, y: this.next, h })
        try {
          clear(kernels, out, out.region)
          await onBand(out)
        } finally {
          out.done()
        }
        this.next += h
      }
    }
    if (this.order.length === 0) return blank(region.y + region.h)
    await blank(root.region.y)
    for (const s of [...this.order].reverse()) if (s.prepare && !(s.window?.kept && s.window.hi >= s.region.y + s.region.h)) await s.prepare(request)
    const end = root.region.y + root.region.h
    // what there is of the root already
    await this.show(Math.min(end, root.window!.hi), onBand)
    if (this.next < end) {
      for (const goals of this.descent.rounds(this.piece)) {
        for (const [i, s] of this.held.entries()) await this.advance(s, goals[i]!)
        await this.show(root.window!.hi, onBand)
      }
    }
    await blank(region.y + region.h)
  }

  /** Hands out rows of the root. */
  private async show(to: number, onBand: (pic: Pic) => void | Promise<void>): Promise<void> {
    const { root, region } = this
    const end = Math.min(to, root.region.y + root.region.h)
    if (this.next >= end) return
    const band = { ...region, y: this.next, h: end - this.next }
    const pic = viewOf(this.options.kernels, root, { ...root.region, y: band.y, h: band.h }, band)
    try {
      await onBand(pic)
    } finally {
      pic.done()
    }
    this.next = end
    this.forget(root)
  }

  /** Computes the rows of a held stage down to `goal`, in pieces. */
  private async advance(s: Stage, goal: number): Promise<void> {
    const w = s.window!
    if (goal <= w.hi) return
    const rows = this.descent.rowsOf(s, this.piece)
    this.room(s, goal)
    while (w.hi < goal) {
      const left = goal - w.hi
      const h = s.sequence || left > rows * 1.5 ? Math.min(left, rows) : left
      await this.band(s, { x: s.region.x, y: w.hi, w: s.region.w, h })
      w.hi += h
      if (w.kept) w.kept.hi = Math.max(w.kept.hi, w.hi)
      if (s.sequence) this.keepState(s)
    }
    for (const x of s.segment) for (const { from } of x.inputs) if (from.window) this.forget(from)
  }

  /** Makes room for rows down to `goal`; those that nobody needs any more make place. */
  private room(s: Stage, goal: number): void {
    const { kernels } = this.options
    const w = s.window!
    if (w.kept) return
    if (w.whole) {
      if (!w.ptr) {
        w.rows = s.region.h
        w.ptr = kernels.allocator.alloc(w.rows * w.stride)
      }
      return
    }
    const low = Math.min(w.hi, this.descent.lowest(s, this.next))
    if (w.ptr && goal - w.top <= w.rows) return
    const need = goal - low
    if (w.ptr && need <= w.rows) {
      // what is copied onto itself in one call, threads would garble: so much at once as lies apart
      const apart = low - w.top
      for (let row = low; row < w.hi; row += apart) {
        const rows = Math.min(apart, w.hi - row)
        kernels.raw.copyRect(w.ptr + (row - w.top) * w.stride, w.stride, w.ptr + (row - low) * w.stride, w.stride, w.stride, rows)
      }
    } else {
      // as large as it will ever have to be, so that memory is not left in holes
      const rows = Math.min(Math.max(need, s.region.y + s.region.h - low), Math.max(Math.ceil(need * SPARE), this.most.get(s) ?? 0))
      const ptr = kernels.allocator.alloc(rows * w.stride)
      if (w.ptr) {
        if (w.hi > low) kernels.raw.copyRect(w.ptr + (low - w.top) * w.stride, w.stride, ptr, w.stride, w.stride, w.hi - low)
        kernels.allocator.free(w.ptr)
      }
      w.ptr = ptr
      w.rows = rows
    }
    w.top = low
  }

  /** Gives the memory of a stage back whose rows nobody needs any more. */
  private forget(s: Stage): void {
    const w = s.window!
    if (w.whole || !w.ptr || this.descent.lowest(s, this.next) < w.hi) return
    this.options.kernels.allocator.free(w.ptr)
    w.ptr = 0
    w.rows = 0
    w.top = w.hi
  }

  /** One piece of a held stage, with its segment. */
  private async band(s: Stage, region: Region): Promise<void> {
    const { kernels, request } = this.options
    const w = s.window!
    const x = w.kept ? w.kept.region.x : s.region.x
    const at = w.ptr + (region.y - w.top) * w.stride
    const into: Pic = { ptr: at + (w.left + region.x - x) * s.pixelBytes, stride: w.stride, region }
    const regions = new Map<Stage, Region>([[s, region]])
    for (let i = s.segment.length - 1; i >= 0; i--) {
      const reader = s.segment[i]!
      for (const e of reader.inputs) if (!e.from.window && e.asked) regions.set(e.from, seen(e, regions.get(reader)!))
    }
    const made = new Map<Stage, Lent>()
    try {
      for (const x of s.segment) {
        const out = await this.operate(x, regions.get(x)!, made, x === s ? into : null)
        if (x !== s) made.set(x, out)
      }
    } finally {
      for (const lent of made.values()) lent.done()
    }
    const margin = w.left + w.right
    if (margin) kernels.raw.replicateEdges(at, w.stride, w.left + s.region.w + w.right, region.h, w.left, 0, w.left + s.region.w, region.h)
    await request.pause()
  }

  /** Runs the kernels of a stage on a region. */
  private async operate(s: Stage, region: Region, made: Map<Stage, Lent>, into: Pic | null): Promise<Lent> {
    const { kernels, request, onRun } = this.options
    if (isEmpty(region)) return { ptr: 0, stride: 0, region, own: false, done: () => undefined }
    const inputs: Lent[] = []
    let out: Lent | null = null
    try {
      for (const e of s.inputs) inputs.push(gather(kernels, e, region, made))
      const own = into ? undefined : s.inPlace ? inputs.find((p) => p.own) : undefined
      out = into ? { ...into, own: false, done: () => undefined } : (own ?? fresh(kernels, region, s.pixelBytes))
      await request.pause()
      if (kernels.crew) kernels.crew.sparing = request.alone
      const started = performance.now()
      const state = s.sequence ? this.stateOf(s) : 0
      await s.compute({ inputs, output: out, request, state })
      s.ms += performance.now() - started
      onRun?.(s, region)
      return out
    } catch (error) {
      if (out && !into && !inputs.includes(out)) out.done()
      throw error
    } finally {
      for (const p of inputs) if (p !== out || into) p.done()
    }
  }

  /** What a stage carries from row to row; nothing before its first. */
  private stateOf(s: Stage): number {
    let ptr = this.states.get(s)
    if (ptr === undefined) {
      const { kernels, store } = this.options
      const { bytes } = s.sequence!
      ptr = kernels.allocator.alloc(bytes)
      this.states.set(s, ptr)
      const row = s.region.y - s.extent.y
      const kept = row > 0 ? store.take(`${s.name}/state ${row}`, () => true) : null
      if (kept) {
        kernels.raw.copyRect(kept.ptr, bytes, ptr, bytes, bytes, 1)
        store.release(kept)
      } else if (row > 0) throw new Error(`the state of ${s.name} at row ${row} is gone`)
      else kernels.bytes(ptr, bytes).fill(0)
    }
    return ptr
  }

  /** Keeps what a stage carries, now and then, so that it need not begin at the top again. */
  private keepState(s: Stage): void {
    const { kernels, store } = this.options
    const row = s.window!.hi - s.extent.y
    const name = `${s.name}/state ${row}`
    if (row % STATE_ROWS !== 0 || store.has(name)) return
    const { bytes } = s.sequence!
    const ptr = kernels.allocator.alloc(bytes)
    kernels.raw.copyRect(this.stateOf(s), bytes, ptr, bytes, bytes, 1)
    const region = { x: 0, y: row, w: Math.ceil(bytes / 8), h: 1 }
    store.release(store.put(name, { ptr, stride: bytes, bytes, region, hi: row + 1, cost: s.ms }))
  }

  /** Gives everything back; what was to be kept goes to the store, as far as it was computed. */
  close(): void {
    const { kernels, store } = this.options
    for (const ptr of this.states.values()) kernels.allocator.free(ptr)
    this.states.clear()
    const dear = this.order.length ? this.costs() : new Map<Stage, number>()
    for (const s of this.held) {
      const w = s.window
      if (!w || w.kept || !w.ptr) continue
      s.window = null
      if (w.whole && w.hi > s.region.y && !w.left && !w.right && (!s.sequence || w.hi === s.region.y + s.region.h)) {
        const kept = store.put(s.name, { ptr: w.ptr, stride: w.stride, bytes: w.rows * w.stride, region: s.region, hi: w.hi, cost: dear.get(s) ?? 0 })
        store.release(kept)
      } else kernels.allocator.free(w.ptr)
    }
    for (const s of this.order) this.drop(s)
    for (const kept of this.pinned.splice(0)) store.release(kept)
    this.held = []
    this.order = []
  }

  private drop(s: Stage): void {
    if (s.window?.kept) {
      const i = this.pinned.indexOf(s.window.kept)
      if (i >= 0) {
        this.pinned.splice(i, 1)
        this.options.store.release(s.window.kept)
      }
    }
    s.window = null
  }

  /** Milliseconds it would take to compute each held stage again, out of what is kept: along the dearest way down. */
  private costs(): Map<Stage, number> {
    const costs = new Map<Stage, number>()
    for (const s of [...this.order].reverse()) {
      const below = s.window?.kept ? 0 : Math.max(0, ...s.inputs.map((e) => costs.get(e.from) ?? 0))
      costs.set(s, s.ms + below)
    }
    return costs
  }
}

const threadRows = (kernels: Kernels): number => (kernels.crew && kernels.crew.threads > 1 ? 128 : 64)

/** Grown outwards to a grid. */
function grownTo(r: Region, grid: number): Region {
  const x = Math.floor(r.x / grid) * grid
  const y = Math.floor(r.y / grid) * grid
  return { x, y, w: Math.ceil((r.x + r.w) / grid) * grid - x, h: Math.ceil((r.y + r.h) / grid) * grid - y }
}
