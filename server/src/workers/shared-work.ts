import type { Started } from './pool.ts'

interface Making<T> extends Started<T> {
  waiting: number
}

/** Work that is done once however many ask for it at the same time, and given up when all of them have left. */
export class SharedWork<T> {
  private readonly making = new Map<string, Making<T>>()

  /**
   * Joins what is being made under a name, or begins it.
   * @param left set when who asks does not wait any longer
   */
  async join(name: string, begin: () => Started<T>, left?: AbortSignal): Promise<T> {
    let work = this.making.get(name)
    if (!work) {
      const mine: Making<T> = { ...begin(), waiting: 0 }
      work = mine
      this.making.set(name, mine)
      const over = () => {
        if (this.making.get(name) === mine) this.making.delete(name)
      }
      mine.answer.then(over, over)
    }
    const { answer } = work
    work.waiting++
    let here = true
    const leave = () => {
      if (!here) return
      here = false
      if (--work.waiting > 0) return
      // who comes now begins anew
      if (this.making.get(name) === work) this.making.delete(name)
      work.cancel()
    }
    if (left?.aborted) leave()
    left?.addEventListener('abort', leave)
    try {
      return await answer
    } finally {
      here = false
      left?.removeEventListener('abort', leave)
    }
  }
}
