import { QuillError } from '../base/errors.ts'
import { calls, type Call, type KernelExports, type Rows } from './calls.ts'

/**
 * Several threads on one kernel call. The lead cuts a call into bands of rows; it and its helpers, which run the same module on
 * the same shared memory, take bands until none is left. Kernels give the same bits however they are cut, so it does not matter
 * who computes what. Helpers sleep between calls.
 */

/** The control block: 32-bit words, then the call's arguments as doubles. */
/** Generation · 256 + the next band to be taken, or CLOSED while there is none and the arguments may change. */
const NEXT = 0
const DONE = 1
/** 0, or what a helper failed in: a call's index + 1, times FAILURES, plus how. */
const FAILED = 2
const READY = 3
/** How many threads may work on the call, the lead included. */
const LIMIT = 4
const CLOSED = 255
/** Bands of a call at most: the last byte of the word must not run over. */
const MAX_BANDS = 200
const ARGS = 64
const MAX_ARGS = 40
export const CONTROL_BYTES = ARGS + (MAX_ARGS + 6) * 8

/** How a helper may fail, told by its error; a helper can hand on words only. The last takes what is left. */
const failures: [how: string, said: RegExp][] = [
  ['memory out of bounds', /out of bounds/],
  ['an unreachable place', /unreachable/],
  ['a stack too deep', /call stack/],
  ['something else', /^/],
]
const FAILURES = failures.length
const failureOf = (error: unknown) => failures.findIndex(([, said]) => said.test(String(error)))

/** Pixels below which cutting a call costs more than it gains. */
const WORTH = 24_000
/** Pixels of one band at most, so that none works for long. */
const BAND = 1_000_000
/** A band takes a fraction of a second; a helper that keeps one for longer is dead. */
const PATIENCE = 15_000

/** What a helper is started with. */
export interface CrewStart {
  module: WebAssembly.Module
  memory: WebAssembly.Memory
  control: number
  /** 1, 2 … */
  thread: number
}

type Fn = (...a: number[]) => void

/** The arguments of a band of rows of a call, written into `out`. */
export function bandOf(rows: Rows, a: readonly number[], first: number, count: number, out: number[]): void {
  for (let i = 0; i < a.length; i++) out[i] = a[i]!
  for (const [pointer, stride, times, by] of rows.shifts) out[pointer]! += first * a[stride]! * times * (by < 0 ? 1 : a[by]!)
  for (const i of rows.adds) out[i]! += first
  out[rows.height] = Math.min(a[rows.height]! - first * rows.unit, count * rows.unit)
  out.length = a.length
}

/** Into how many bands a call is worth cutting for so many threads. */
export function bandsFor(rows: Rows, a: readonly number[], threads: number): number {
  const height = Math.ceil(a[rows.height]! / rows.unit)
  const work = rows.work(a)
  if (work < WORTH || height < 2) return 1
  const overlap = rows.overlap(a)
  // rows above and below a cut are worked on twice: no more cuts than threads then, unless a band were too long
  const wanted = overlap > 0 ? (height >= overlap * 1.5 ? threads : 1) : Math.min(threads * 4, Math.floor(work / (WORTH / 2)))
  return Math.max(1, Math.min(MAX_BANDS, height, Math.max(wanted, Math.ceil(work / BAND))))
}

/** The lead's side. */
export class Crew {
  private readonly words: Int32Array
  private readonly args: Float64Array
  private generation = 0
  private readonly band: number[] = []
  private broken = false
  /** While set, one thread stays idle: for pictures under a moving hand, when the page itself needs a core. */
  sparing = false

  /** Threads there may ever be, the lead included: each has a place in a call's scratch memory, ready or not. */
  readonly seats: number
  private readonly patience: number

  /** @param patience milliseconds after which a helper that keeps a band is given up */
  constructor(memory: WebAssembly.Memory, control: number, seats: number, patience = PATIENCE) {
    this.seats = seats
    this.patience = patience
    this.words = new Int32Array(memory.buffer, control, 16)
    this.args = new Float64Array(memory.buffer, control + ARGS, MAX_ARGS + 6)
    this.words.fill(0)
    Atomics.store(this.words, NEXT, CLOSED)
  }

  /** How many work together now, the lead included. Helpers count once they are ready. */
  get threads(): number {
    if (this.broken) return 1
    const ready = 1 + Atomics.load(this.words, READY)
    return this.sparing ? Math.max(1, ready - 1) : ready
  }

  /**
   * Computes a call in bands.
   * @param scratch bytes a thread, at `scratchAt` one after the other; 0 where the kernel takes none
   * @throws QuillError `kernel-failed` when a helper trapped or died, with `cause` in its details; the results are not to be used then
   */
  run(index: number, fn: Fn, rows: Rows, a: readonly number[], bands: number, scratchAt: number, scratch: number): void {
    const height = Math.ceil(a[rows.height]! / rows.unit)
    const each = Math.ceil(height / bands)
    const n = Math.ceil(height / each)
    const { words, args } = this
    args[0] = index
    args[1] = each
    args[2] = n
    args[3] = scratchAt
    args[4] = scratch
    args[5] = a.length
    if (a.length > MAX_ARGS) throw new RangeError(`a kernel takes ${a.length} arguments; a crew hands on ${MAX_ARGS}`)
    for (let i = 0; i < a.length; i++) args[6 + i] = a[i]!
    Atomics.store(words, LIMIT, this.threads)
    Atomics.store(words, DONE, 0)
    Atomics.store(words, FAILED, 0)
    this.generation = (this.generation + 1) & 0x7fffff
    const base = this.generation << 8
    Atomics.store(words, NEXT, base)
    Atomics.notify(words, NEXT)
    let mine = 0
    let trap: unknown = null
    for (;;) {
      const band = Atomics.add(words, NEXT, 1) - base
      if (band >= n) {
        Atomics.store(words, NEXT, base + CLOSED)
        break
      }
      bandOf(rows, a, band * each, each, this.band)
      if (scratch) this.band.push(scratchAt)
      try {
        fn(...this.band)
      } catch (error) {
        trap = error
      }
      mine++
    }
    this.await(n - mine)
    if (trap) throw trap as Error
    const failure = Atomics.load(words, FAILED)
    if (failure)
      throw failed(
        'A thread of the picture engine failed.',
        `${failures[failure % FAILURES]![0]} in ${calls[Math.floor(failure / FAILURES) - 1]?.name}, by a helper`,
      )
  }

  /** Waits for bands that helpers took. */
  private await(bands: number): void {
    const { words } = this
    let spins = 0
    let started = 0
    for (;;) {
      const done = Atomics.load(words, DONE)
      if (done >= bands) return
      if (++spins < 4000) continue
      if (!started) started = performance.now()
      else if (performance.now() - started > this.patience) {
        this.broken = true
        throw failed('A thread of the picture engine stopped.', `a helper did not answer for ${this.patience} ms`)
      }
      Atomics.wait(words, DONE, done, 100)
    }
  }

  /** A helper is gone: the lead works alone from now on. */
  lost(): void {
    this.broken = true
  }
}

const failed = (what: string, cause: string) => new QuillError('kernel-failed', `${what} The artwork is safe; try the step again.`, { cause })

/** The helper's side: starts the module and serves bands for as long as the thread lives. Blocks it for good. */
export function serveCrew({ module, memory, control, thread }: CrewStart): never {
  const instance = new WebAssembly.Instance(module, { env: { memory, abort: () => undefined } })
  const exports = instance.exports as unknown as KernelExports & Record<string, Fn>
  const words = new Int32Array(memory.buffer, control, 16)
  const args = new Float64Array(memory.buffer, control + ARGS, MAX_ARGS + 6)
  const a: number[] = []
  const band: number[] = []
  Atomics.add(words, READY, 1)
  for (;;) {
    const word = Atomics.load(words, NEXT)
    const at = word & 255
    const n = args[2]!
    if (at === CLOSED || at >= n || thread >= Atomics.load(words, LIMIT)) {
      Atomics.wait(words, NEXT, word)
      continue
    }
    const call = calls[args[0]!]
    const each = args[1]!
    const scratchAt = args[3]!
    const scratch = args[4]!
    a.length = args[5]!
    for (let i = 0; i < a.length; i++) a[i] = args[6 + i]!
    // the arguments are this call's if nobody has moved the word since it was read
    if (Atomics.compareExchange(words, NEXT, word, word + 1) !== word) continue
    try {
      const { name, rows } = call as Call & { rows: Rows }
      bandOf(rows, a, at * each, each, band)
      if (scratch) band.push(scratchAt + thread * scratch)
      exports[name]!(...band)
    } catch (error) {
      Atomics.store(words, FAILED, (args[0]! + 1) * FAILURES + failureOf(error))
    }
    Atomics.add(words, DONE, 1)
    Atomics.notify(words, DONE)
  }
}
