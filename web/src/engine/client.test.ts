import { artworkFromPhoto, type FromEngine, type ToEngine } from '@nimble-quill/core'

/** A worker that only remembers what it is asked. */
class FakeWorker {
  static all: FakeWorker[] = []
  asked: ToEngine[] = []
  onmessage: ((e: { data: FromEngine }) => void) | null = null
  onerror: (() => void) | null = null
  ended = false
  constructor() {
    FakeWorker.all.push(this)
  }
  postMessage(m: ToEngine) {
    this.asked.push(m)
  }
  terminate() {
    this.ended = true
  }
  say(data: FromEngine) {
    this.onmessage?.({ data })
  }
}
Object.assign(globalThis, { Worker: FakeWorker })
// the page makes the worker from the address of its module, which only the bundler knows
jest.mock('./worker-url.ts', () => ({ startWorker: () => new FakeWorker() }))

import { EngineClient } from './client.ts'

const artwork = artworkFromPhoto({ asset: 'a'.repeat(64), width: 60, height: 40, title: 'A' })
const region = { x: 0, y: 0, w: 60, h: 40 }
const pixels = () => new ArrayBuffer(4)
function client() {
  FakeWorker.all = []
  const c = new EngineClient()
  return { c, worker: () => FakeWorker.all.at(-1)! }
}
function listener() {
  const heard: string[] = []
  return {
    heard,
    onTile: (m: { level: number }) => heard.push(`tile ${m.level}`),
    onLevel: (m: { level: number }) => heard.push(`level ${m.level}`),
    onSettled: (s: number) => heard.push(`settled ${s}`),
    onFail: (code: string) => heard.push(`failed ${code}`),
  }
}
const tile = (id: number, level = 0): FromEngine => ({ type: 'tile', id, slot: 'main', version: 1, level, region, pixels: pixels() })

test('an artwork is sent once, and again when it changes', () => {
  const { c, worker } = client()
  expect(c.setArtwork(artwork)).toBe(1)
  expect(c.setArtwork(artwork)).toBe(1)
  expect(c.setArtwork({ ...artwork, title: 'B' })).toBe(2)
  expect(worker().asked.map((m) => m.type)).toEqual(['artwork', 'artwork'])
})

test('tiles of a superseded view are not heard', () => {
  const { c, worker } = client()
  const [old, fresh] = [listener(), listener()]
  c.view('main', { type: 'artwork' }, region, [1, 0], old)
  c.view('main', { type: 'artwork' }, region, [1, 0], fresh)
  const [first, second] = worker().asked.map((m) => (m as { id: number }).id)
  worker().say(tile(first!))
  worker().say(tile(second!, 1))
  worker().say({ type: 'level-done', id: second!, slot: 'main', version: 1, level: 1, ms: 3, rough: false })
  expect(old.heard).toEqual([])
  expect(fresh.heard).toEqual(['tile 1', 'level 1'])
})

test('settling reports how far it is; a failure goes to its view', () => {
  const { c, worker } = client()
  const l = listener()
  c.settle('main', { type: 'artwork' }, region, 2, l)
  const { id } = worker().asked[0] as { id: number }
  worker().say({ type: 'settled', id, slot: 'main', version: 1, share: 0.5 })
  worker().say({ type: 'failed', id, code: 'missing-photo', message: 'gone' })
  expect(l.heard).toEqual(['settled 0.5', 'failed missing-photo'])
})

test('a large view is settled by two workers, a half each; if the second is lost the first does it alone', () => {
  Object.defineProperty(navigator, 'hardwareConcurrency', { configurable: true, value: 4 })
  const { c } = client()
  const l = listener()
  const large = { x: 0, y: 0, w: 3000, h: 2000 }
  c.setArtwork(artwork)
  c.settle('main', { type: 'artwork' }, large, 2, l)
  const [first, second] = FakeWorker.all
  const asks = [first!.asked.at(-1), second!.asked.at(-1)] as (ToEngine & { type: 'settle' })[]
  expect(asks.map((a) => a.region)).toEqual([
    { x: 0, y: 0, w: 1536, h: 2000 },
    { x: 1536, y: 0, w: 1464, h: 2000 },
  ])
  expect(second!.asked.map((m) => m.type)).toEqual(['artwork', 'settle'])
  second!.say({ type: 'settled', id: asks[1]!.id, slot: 'main', version: 1, share: 1 })
  first!.say({ type: 'settled', id: asks[0]!.id, slot: 'main', version: 1, share: 0.5 })
  expect(l.heard).toEqual(['settled 0.5', 'settled 0.75'])
  // a new view stops both
  c.view('main', { type: 'artwork' }, large, [2], l)
  expect(second!.asked.at(-1)).toEqual({ type: 'cancel', id: asks[1]!.id })
  c.settle('main', { type: 'artwork' }, large, 2, l)
  second!.onerror?.()
  expect(first!.asked.at(-1)).toMatchObject({ type: 'settle', region: large })
  c.settle('main', { type: 'artwork' }, large, 2, l)
  expect(FakeWorker.all).toHaveLength(2)
  expect(first!.asked.at(-1)).toMatchObject({ region: large })
})

test('a small picture comes, fails, or is given up', async () => {
  const { c, worker } = client()
  const stop = new AbortController()
  const ask = () => c.picture({ target: { type: 'photo' }, side: 40 }, stop.signal)
  const [a, b, d] = [ask(), ask(), ask()]
  const ids = worker().asked.map((m) => (m as { id: number }).id)
  worker().say({ type: 'picture', id: ids[0]!, w: 1, h: 1, pixels: pixels() })
  worker().say({ type: 'failed', id: ids[1]!, code: 'unknown-step', message: 'no such step' })
  await expect(a).resolves.toMatchObject({ w: 1 })
  await expect(b).rejects.toThrow('no such step')
  stop.abort()
  await expect(d).rejects.toMatchObject({ name: 'AbortError' })
  expect(worker().asked.at(-1)).toEqual({ type: 'cancel', id: ids[2] })
})

test('a dead worker is replaced, told, and asked for what was in sight once more; but not for ever', async () => {
  const { c, worker } = client()
  const told: string[] = []
  c.onTrouble = (m) => told.push(m)
  const l = listener()
  c.setArtwork(artwork)
  c.view('main', { type: 'artwork' }, region, [0], l)
  const lost = c.picture({ target: { type: 'photo' }, side: 40 }, new AbortController().signal)
  const dead = worker()
  dead.onerror?.()
  expect(dead.ended).toBe(true)
  expect(worker()).not.toBe(dead)
  expect(worker().asked.map((m) => m.type)).toEqual(['artwork', 'view', 'picture'])
  worker().say(tile((worker().asked[1] as { id: number }).id))
  expect(l.heard).toEqual(['tile 0'])
  expect(told).toHaveLength(1)
  worker().onerror?.()
  // a picture is asked for twice, not for ever
  await expect(lost).rejects.toThrow('stopped')
  for (let i = 0; i < 2; i++) worker().onerror?.()
  expect(worker().asked).toEqual([])
})

test.each(['kernel-failed', 'out-of-memory'])('after %s the worker is replaced and asked once more; then the failure is told', async (code) => {
  const { c, worker } = client()
  const l = listener()
  c.setArtwork(artwork)
  c.view('main', { type: 'artwork' }, region, [0], l)
  const first = worker()
  const { id } = first.asked[1] as { id: number }
  first.say({ type: 'failed', id, code, message: 'The artwork is safe.' })
  expect(first.ended).toBe(true)
  expect(l.heard).toEqual([])
  expect(worker().asked.map((m) => m.type)).toEqual(['artwork', 'view'])
  worker().say({ type: 'failed', id, code, message: 'The artwork is safe.' })
  expect(l.heard).toEqual([`failed ${code}`])
})
