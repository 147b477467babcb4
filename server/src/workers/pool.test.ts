import { execFile } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { promisify } from 'node:util'
import type { Worker } from 'node:worker_threads'
import { artworkFromPhoto, newLayer, newStep } from '@nimble-quill/core'
import type { Piscina } from 'piscina'
import sharp from 'sharp'
import { picture } from '../testing/test-app.ts'
import { code } from './coding.ts'
import { Pool, type Started } from './pool.ts'
import { SharedWork } from './shared-work.ts'

const folder = mkdtempSync(join(tmpdir(), 'quill-threads-'))
const at = (name: string) => join(folder, name)
let pool: Pool
beforeEach(async () => {
  pool = new Pool({ size: 1, again: true })
  writeFileSync(at('a.png'), await picture('png', 30, 20))
})
afterEach(() => pool.close())

const ask = (photo: string, out = photo) => ({ path: at(photo), out: at(`${out}.pyramid`), scratch: at(`${out}.scratch`), small: {} })
const cut = (photo: string, out = photo) => pool.start('cut', ask(photo, out)).answer
/** A task that takes many seconds, if it is not stopped. */
async function long(of = pool) {
  await of.start('cut', ask('a.png', 'long')).answer
  const document = artworkFromPhoto({ asset: 'a'.repeat(64), width: 30, height: 20, title: 'long' })
  document.sheet = { ...document.sheet, w: 6000, h: 6000 }
  document.layers.unshift(
    newLayer(
      'ground',
      { type: 'fill', colour: '#808080', alpha: 1 },
      Array.from({ length: 30 }, () => newStep('add-grain')),
    ),
  )
  return of.start('render', { document, out: at('long.png'), pyramids: { ['a'.repeat(64)]: at('long.pyramid') }, planes: folder, options: { format: 'png' } })
}
const threads = () => (pool as unknown as { threads: Piscina }).threads.threads
/** A thread that was not ended yet, once there is one. */
const someThread = async (ended: readonly Worker[] = []) => {
  for (let i = 0; i < 400; i++) {
    const found = threads().find((t) => !ended.includes(t))
    if (found) return found
    await new Promise((r) => setTimeout(r, 25))
  }
  throw new Error('no thread')
}

test('tasks are done one after the other, failures come back with their names', async () => {
  writeFileSync(at('b.txt'), 'no picture')
  const [a, b, c] = await Promise.allSettled([cut('a.png'), cut('b.txt'), cut('a.png')])
  expect(a).toMatchObject({ status: 'fulfilled', value: { width: 30, height: 20, depth: 8 } })
  expect(b).toMatchObject({ status: 'rejected', reason: { code: 'photo-not-a-picture' } })
  expect(c.status).toBe('fulfilled')
})

test('a waiting task can be taken back at once, a running one stops soon', async () => {
  const first = await long()
  const second = pool.start('cut', ask('a.png', 'w2'))
  second.cancel()
  await expect(second.answer).rejects.toMatchObject({ code: 'cancelled' })
  await new Promise((r) => setTimeout(r, 500))
  const asked = Date.now()
  first.cancel()
  await expect(first.answer).rejects.toMatchObject({ code: 'cancelled' })
  expect(Date.now() - asked).toBeLessThan(3000)
  await expect(cut('a.png', 'w3')).resolves.toMatchObject({ width: 30 })
})

test('a task that takes longer than it may is given up, and the next one is done', async () => {
  const strict = new Pool({ size: 1, deadline: 300 })
  try {
    await expect((await long(strict)).answer).rejects.toMatchObject({ code: 'too-slow' })
    await expect(strict.start('cut', ask('a.png', 'next')).answer).resolves.toMatchObject({ width: 30 })
  } finally {
    await strict.close()
  }
})

test('a thread that dies is replaced and its task done by the next; a second death is told in a sentence', async () => {
  const unlucky = cut('a.png', 'd1')
  const ended = [await someThread()]
  await ended[0]!.terminate()
  await expect(unlucky).resolves.toMatchObject({ width: 30 })
  const doomed = await long()
  let over = false
  const failed = expect(doomed.answer.finally(() => (over = true))).rejects.toMatchObject({
    code: 'kernel-failed',
    message: expect.stringContaining('The artwork is safe'),
  })
  // a thread that had no task yet counts for nothing: on a busy machine each gets longer to begin
  for (let wait = 400; !over; wait *= 1.5) {
    const next = await Promise.race([someThread(ended).catch(() => null), failed.then(() => null)])
    if (!next) continue
    ended.push(next)
    // in the middle of it
    await new Promise((r) => setTimeout(r, wait))
    await next.terminate()
  }
  await failed
  await expect(cut('a.png', 'd3')).resolves.toMatchObject({ width: 30 })
})

test('what the picture library has begun is ended too, by ending its process', async () => {
  await sharp({ create: { width: 4500, height: 3000, channels: 3, background: '#7a6a58', noise: { type: 'gaussian', mean: 120, sigma: 40 } } })
    .jpeg()
    .toFile(at('large.jpg'))
  const signal = { cancelled: false }
  const job = { type: 'encode', path: at('large.jpg'), out: at('large.png'), format: 'png', quality: 90, ppi: 300, longSide: null } as const
  const coded = expect(code(job, 54_000_000, signal)).rejects.toMatchObject({ code: 'cancelled' })
  await new Promise((r) => setTimeout(r, 400))
  const asked = Date.now()
  signal.cancelled = true
  await coded
  expect(Date.now() - asked).toBeLessThan(1000)
  // done whole where nobody stops it, and what fails says why
  await expect(code({ ...job, longSide: 300 }, 54_000_000)).resolves.toEqual({ width: 300, height: 200 })
  await expect(code({ ...job, path: at('nothing.jpg') }, 54_000_000)).rejects.toThrow(/missing/)
})

/** Run by itself: Node has ended whole processes where a thread was ended while it loaded its module. Times are shares of what a thread takes until it has answered. */
const CALLED_OFF = `
  import { Pool } from ${JSON.stringify(pathToFileURL(join(__dirname, '../../dist/workers/pool.js')).href)}
  const wait = (ms) => new Promise((r) => setTimeout(r, ms))
  const tried = async (after) => {
    const pool = new Pool({ size: 1 })
    const { answer, cancel } = pool.start('cut', { path: '/nowhere/a.png', out: '/nowhere/a', scratch: '/nowhere/b', small: {} })
    const ended = answer.catch((error) => error.code)
    const leaving = after === null ? null : wait(after).then(cancel)
    const code = await ended
    await leaving
    await pool.close()
    return code
  }
  await tried(null)
  const began = performance.now()
  const codes = [await tried(null)]
  const whole = performance.now() - began
  for (let i = 0; i < 40; i++) codes.push(await tried(whole * (0.1 + (0.9 * (i % 20)) / 20)))
  console.log(JSON.stringify(codes))
`

test('a task may be called off at any moment while its thread starts', async () => {
  const { stdout } = await promisify(execFile)(process.execPath, ['--input-type=module', '-e', CALLED_OFF])
  const [first, ...others] = JSON.parse(stdout) as string[]
  // left to itself, it looks for a file that is not there
  expect(first).toBe('ENOENT')
  expect(others).toHaveLength(40)
  expect(others.filter((code) => code !== 'cancelled' && code !== first)).toEqual([])
  expect(others).toContain('cancelled')
})

test('what several ask for is made once, and given up when all of them have left', async () => {
  const shared = new SharedWork<string>()
  let begun = 0
  const cancel = jest.fn()
  let done: (v: string) => void = () => undefined
  const begin = (): Started<string> => {
    begun++
    return { answer: new Promise((r) => (done = r)), cancel }
  }
  const [a, b] = [new AbortController(), new AbortController()]
  const both = [shared.join('x', begin, a.signal), shared.join('x', begin, b.signal)]
  a.abort()
  expect(cancel).not.toHaveBeenCalled()
  done('made')
  expect(await Promise.all(both)).toEqual(['made', 'made'])
  expect(begun).toBe(1)
  const c = new AbortController()
  void shared.join('x', begin, c.signal)
  c.abort()
  expect(cancel).toHaveBeenCalledTimes(1)
  // who comes after all have left begins anew
  const late = shared.join('x', begin)
  expect(begun).toBe(3)
  done('again')
  expect(await late).toBe('again')
})
