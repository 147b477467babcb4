import { QuillError } from '../base/errors.ts'
import { newRequest, type Request, type Signal, type Turns } from './request.ts'

interface Running {
  signal: Signal
  promise: Promise<unknown>
  waiting: Set<Request>
}

/** How often somebody who waits looks whether the wait is still wanted, milliseconds. */
const LOOK = 15

/**
 * What takes long and is wanted by several: a study, a plan. Each is made once, in its own time, and goes on where one who waits gives up, since the next look
 * at the same picture wants it as well. What nobody waits for makes way as soon as something else is begun.
 */
export class Undertakings {
  private readonly turns: Turns
  private readonly running = new Map<string, Running>()

  constructor(turns: Turns) {
    this.turns = turns
  }

  /**
   * Waits for a thing, which is begun where it is not being made.
   * @param make is given a request of its own, which is not cancelled with the one that waits
   * @throws QuillError `cancelled` where the request is, and what `make` throws
   */
  async join<T>(name: string, request: Request, make: (own: Request) => Promise<T>): Promise<T> {
    const run = this.running.get(name) ?? this.begin(name, request, make)
    run.waiting.add(request)
    let timer: ReturnType<typeof setInterval> | undefined
    const given = new Promise<never>((_, no) => {
      timer = setInterval(() => request.signal.cancelled && no(new QuillError('cancelled', 'Stopped.')), LOOK)
    })
    try {
      return (await Promise.race([run.promise, given])) as T
    } finally {
      clearInterval(timer)
      run.waiting.delete(request)
    }
  }

  private begin<T>(name: string, { alone }: Request, make: (own: Request) => Promise<T>): Running {
    for (const [other, run] of this.running)
      if (run.waiting.size === 0) {
        run.signal.cancelled = true
        this.running.delete(other)
      }
    const run: Running = { signal: { cancelled: false }, waiting: new Set(), promise: Promise.resolve() }
    const tell = (title: string, share: number) => {
      for (const r of run.waiting) r.tell?.(title, share)
    }
    run.promise = make(newRequest(this.turns, { signal: run.signal, alone, tell })).finally(() => {
      if (this.running.get(name) === run) this.running.delete(name)
    })
    // told to those who wait; where nobody does, nobody is told
    run.promise.catch(() => undefined)
    this.running.set(name, run)
    return run
  }
}
