import { Worker } from 'node:worker_threads'
import { QuillError, type QuillErrorCode } from '@nimble-quill/core'
import type { FromWorker, TaskName, Tasks, ToWorker } from './tasks.ts'

interface Waiting {
  id: number
  name: TaskName
  ask: unknown
  resolve: (answer: never) => void
  reject: (error: Error) => void
  onProgress: ((share: number) => void) | undefined
  /** It failed once already for a reason of the engine's own. */
  again: boolean
}

/** Built file: worker threads load compiled code, also under the test runner. */
const workerUrl = new URL('../../dist/workers/picture-worker.js', import.meta.url)

/**
 * A few picture threads behind a queue. A thread that dies, or whose kernels or memory failed, is replaced and its task tried
 * once more; if that fails too, the task is refused.
 */
export class PictureThreads {
  private readonly size: number
  private readonly crew: number
  private readonly idle: Worker[] = []
  private readonly busy = new Map<Worker, Waiting>()
  private readonly queue: Waiting[] = []
  private last = 0
  private closed = false

  /**
   * @param size tasks done at once
   * @param crew threads that share the work of one task
   */
  constructor(size: number, crew = 1) {
    this.size = size
    this.crew = crew
  }

  /** Does a task on a thread. The returned cancel asks it to stop; it is then rejected with `cancelled`. */
  start<N extends TaskName>(name: N, ask: Tasks[N]['ask'], onProgress?: (share: number) => void): { answer: Promise<Tasks[N]['answer']>; cancel: () => void } {
    const id = ++this.last
    const answer = new Promise<Tasks[N]['answer']>((resolve, reject) => {
      this.queue.push({ id, name, ask, resolve: resolve as Waiting['resolve'], reject, onProgress, again: false })
    })
    this.next()
    return { answer, cancel: () => this.cancel(id) }
  }

  private cancel(id: number): void {
    const at = this.queue.findIndex((t) => t.id === id)
    if (at >= 0) this.queue.splice(at, 1)[0]!.reject(new QuillError('cancelled', 'Stopped.'))
    for (const [worker, task] of this.busy) if (task.id === id) worker.postMessage({ type: 'cancel', id } satisfies ToWorker)
  }

  async close(): Promise<void> {
    this.closed = true
    await Promise.all([...this.idle, ...this.busy.keys()].map((w) => w.terminate()))
  }

  private next(): void {
    while (!this.closed && this.queue.length > 0) {
      const worker = this.idle.pop() ?? (this.busy.size < this.size ? this.spawn() : null)
      if (!worker) return
      const task = this.queue.shift()!
      this.busy.set(worker, task)
      worker.postMessage({ type: 'task', id: task.id, name: task.name, ask: task.ask } satisfies ToWorker)
    }
  }

  private spawn(): Worker {
    const worker = new Worker(workerUrl, { workerData: { crew: this.crew } })
    worker.on('message', (m: FromWorker) => {
      const task = this.busy.get(worker)
      if (!task || task.id !== m.id) return
      if (m.type === 'progress') {
        task.onProgress?.(m.share)
        return
      }
      if (m.type === 'failed' && (m.code === 'kernel-failed' || m.code === 'out-of-memory')) {
        this.replace(worker, new QuillError(m.code, m.message))
        return
      }
      this.busy.delete(worker)
      this.idle.push(worker)
      if (m.type === 'done') task.resolve(m.answer as never)
      else task.reject(m.named ? new QuillError(m.code as QuillErrorCode, m.message) : Object.assign(new Error(m.message), { code: m.code }))
      this.next()
    })
    const gone = () =>
      this.replace(
        worker,
        new QuillError('kernel-failed', 'The computation was broken off by a failure of the picture engine. The artwork is safe; try again.'),
      )
    worker.on('error', gone)
    worker.on('exit', gone)
    return worker
  }

  /** Lets a thread go; its task is tried once more on another, or refused. */
  private replace(worker: Worker, error: QuillError): void {
    const task = this.busy.get(worker)
    this.busy.delete(worker)
    const at = this.idle.indexOf(worker)
    if (at >= 0) this.idle.splice(at, 1)
    worker.removeAllListeners()
    void worker.terminate()
    if (task) {
      if (task.again) task.reject(error)
      else this.queue.unshift({ ...task, again: true })
    }
    this.next()
  }
}
