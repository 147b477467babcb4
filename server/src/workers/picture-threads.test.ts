import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Worker } from 'node:worker_threads'
import { picture } from '../testing/test-app.ts'
import { PictureThreads } from './picture-threads.ts'

const folder = mkdtempSync(join(tmpdir(), 'quill-threads-'))
const at = (name: string) => join(folder, name)
let threads: PictureThreads
beforeEach(() => {
  threads = new PictureThreads(1)
})
afterEach(() => threads.close())

test('tasks are done one after the other, failures come back with their names', async () => {
  writeFileSync(at('a.png'), await picture('png', 30, 20))
  writeFileSync(at('b.txt'), 'no picture')
  const cut = (name: string) => threads.start('cut', { path: at(name), out: at(`${name}.pyramid`), scratch: at(`${name}.scratch`) }).answer
  const [a, b, c] = await Promise.allSettled([cut('a.png'), cut('b.txt'), cut('a.png')])
  expect(a).toMatchObject({ status: 'fulfilled', value: { width: 30, height: 20, depth: 8 } })
  expect(b).toMatchObject({ status: 'rejected', reason: { code: 'photo-not-a-picture' } })
  expect(c.status).toBe('fulfilled')
})

test('a waiting task can be taken back', async () => {
  writeFileSync(at('w.png'), await picture('png', 30, 20))
  const first = threads.start('cut', { path: at('w.png'), out: at('w1'), scratch: at('w1s') })
  const second = threads.start('cut', { path: at('w.png'), out: at('w2'), scratch: at('w2s') })
  second.cancel()
  await expect(second.answer).rejects.toMatchObject({ code: 'cancelled' })
  await first.answer
})

/** The thread that works on a task now. */
const working = () => [...(threads as unknown as { busy: Map<Worker, unknown> }).busy.keys()][0]!

test('a thread that dies is replaced and its task done by the next; a second death is told in a sentence', async () => {
  writeFileSync(at('d.png'), await picture('png', 30, 20))
  const ask = (n: string) => ({ path: at('d.png'), out: at(n), scratch: at(`${n}s`) })
  const unlucky = threads.start('cut', ask('d1'))
  const first = working()
  await first.terminate()
  await expect(unlucky.answer).resolves.toMatchObject({ width: 30 })
  const doomed = threads.start('cut', ask('d2'))
  const next = threads.start('cut', ask('d3'))
  const failed = expect(doomed.answer).rejects.toMatchObject({ code: 'kernel-failed', message: expect.stringContaining('The artwork is safe') })
  for (let i = 0; i < 2; i++) {
    const worker = working()
    expect(worker).not.toBe(first)
    await worker.terminate()
  }
  await failed
  await expect(next.answer).resolves.toMatchObject({ width: 30 })
})
