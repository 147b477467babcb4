import { MessageChannel } from 'node:worker_threads'
import { QuillError, type QuillErrorCode } from '@nimble-quill/core'
import { Piscina } from 'piscina'
import type { FromWorker, Task, TaskEnd, TaskName, Tasks } from './tasks.ts'

/** Built file: worker threads load compiled code, also under the test runner. */
const workerUrl = new URL('../../dist/workers/picture-thread.cjs', import.meta.url)

/** How long a task that was asked to stop may take to do so, before its thread is ended. */
const GRACE = 1500
/** Threads that have nothing to do are ended, and give their memory back. */
const IDLE = 30_000
/** How often it is looked whether tasks wait without a thread, and how often one is asked for before they are given up. */
const WATCH = 300
const MOST_ASKED = 10

export interface PoolOptions {
  /** Tasks done at once. */
  size: number
  /** Threads that share the work of one task. */
  crew?: number
  /** Milliseconds that a task may take, from when it is begun; then it is rejected with the code `too-slow`. */
  deadline?: number
  /** Whether a task whose thread died, or whose kernels failed, is tried once more before it is refused. */
  again?: boolean
}

/** A task that was begun. */
export interface Started<T> {
  answer: Promise<T>
  /** Asks it to stop; it is then rejected with `cancelled`. */
  cancel: () => void
}

const broken = () => new QuillError('kernel-failed', 'The computation was broken off by a failure of the picture engine. The artwork is safe; try again.')

/** Picture threads for one kind of work, behind a queue of their own, so that no kind of work waits for another. */
export class Pool {
  private readonly threads: Piscina
  private readonly options: PoolOptions
  private readonly running = new Set<() => void>()
  private closed = false
  private watch: NodeJS.Timeout | null = null
  /** How often a thread was asked for since one last began a task. */
  private asked = 0

  constructor(options: PoolOptions) {
    this.options = options
    this.threads = new Piscina({
      filename: workerUrl.href,
      minThreads: 0,
      maxThreads: options.size,
      concurrentTasksPerWorker: 1,
      idleTimeout: IDLE,
      workerData: { crew: options.crew ?? 1 },
    })
    // each task is told of its thread's end; a thread that ends without one is replaced
    this.threads.on('error', () => undefined)
  }

  /**
   * Does a task on a thread.
   * @throws QuillError of the task; `cancelled`; `kernel-failed` when its thread died; an Error with the code `too-slow`
   */
  start<N extends TaskName>(name: N, ask: Tasks[N]['ask'], onProgress?: (share: number) => void): Started<Tasks[N]['answer']> {
    const stop = new Int32Array(new SharedArrayBuffer(4))
    const cancel = () => {
      Atomics.store(stop, 0, 1)
      cancelled.abort()
    }
    const cancelled = new AbortController()
    const answer = (async () => {
      this.running.add(cancel)
      this.watch ??= setInterval(() => this.wake(), WATCH).unref()
      try {
        try {
          return await this.once(name, ask, stop, cancelled.signal, onProgress)
        } catch (error) {
          const { code } = error as { code?: string }
          if (!this.options.again || cancelled.signal.aborted || (code !== 'kernel-failed' && code !== 'out-of-memory')) throw error
          return await this.once(name, ask, stop, cancelled.signal, onProgress)
        }
      } finally {
        this.running.delete(cancel)
        if (this.running.size === 0 && this.watch) {
          clearInterval(this.watch)
          this.watch = null
        }
      }
    })()
    return { answer, cancel }
  }

  /** Tasks that wait where the last thread was ended, or died before it began, need another: the pool starts one when something is asked of it. */
  private wake(): void {
    if (this.closed || this.threads.threads.length > 0) return
    if (++this.asked > MOST_ASKED) for (const cancel of this.running) cancel()
    else this.threads.run(null).catch(() => undefined)
  }

  private async once<N extends TaskName>(
    name: N,
    ask: Tasks[N]['ask'],
    stop: Int32Array,
    cancelled: AbortSignal,
    onProgress?: (share: number) => void,
  ): Promise<Tasks[N]['answer']> {
    const { port1: port, port2 } = new MessageChannel()
    const kill = new AbortController()
    let late: NodeJS.Timeout | undefined
    let slow = false
    /** What the thread said of its own failure before it was ended. */
    let spoilt: QuillError | null = null
    let begun = false
    const leave = () => {
      // what waits in the queue is taken out at once
      if (begun) setTimeout(() => kill.abort(), GRACE).unref()
      else kill.abort()
    }
    port.on('message', (m: FromWorker) => {
      if (m.type === 'progress') onProgress?.(m.share)
      else if (m.type === 'begun') {
        begun = true
        this.asked = 0
        if (this.options.deadline)
          late = setTimeout(() => {
            slow = true
            Atomics.store(stop, 0, 1)
            setTimeout(() => kill.abort(), GRACE).unref()
          }, this.options.deadline)
      } else {
        spoilt = new QuillError(m.code as QuillErrorCode, m.message, m.details)
        kill.abort()
      }
    })
    port.unref()
    if (cancelled.aborted) leave()
    cancelled.addEventListener('abort', leave)
    try {
      const task: Task = { name, ask, stop, port: port2 }
      const end = (await this.threads.run(task, { transferList: [port2], signal: kill.signal })) as TaskEnd
      if (end.type === 'done') return end.answer as Tasks[N]['answer']
      if (slow && end.code === 'cancelled') throw tooSlow()
      throw end.named ? new QuillError(end.code as QuillErrorCode, end.message) : Object.assign(new Error(end.message), { code: end.code })
    } catch (error) {
      if (!kill.signal.aborted && (error instanceof QuillError || (error as { code?: string }).code)) throw error
      if (spoilt) throw spoilt as QuillError
      if (slow) throw tooSlow()
      if (cancelled.aborted || this.closed) throw new QuillError('cancelled', 'Stopped.')
      throw broken()
    } finally {
      clearTimeout(late)
      cancelled.removeEventListener('abort', leave)
      port.close()
      // for the next try
      if (slow) Atomics.store(stop, 0, 0)
    }
  }

  /** Asks all that is done or waits to stop, and ends the threads when it has, or after a moment. */
  async close(): Promise<void> {
    this.closed = true
    for (const cancel of this.running) cancel()
    const patience = Date.now() + GRACE + 500
    while (this.running.size > 0 && Date.now() < patience) await new Promise((r) => setTimeout(r, 20))
    await this.threads.destroy()
  }
}

const tooSlow = () => Object.assign(new Error('The task took longer than it may.'), { code: 'too-slow' })
