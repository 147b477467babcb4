import { artworkFromPhoto, type Artwork } from '@nimble-quill/core'

// the browser's database, in memory
const kept = new Map<string, unknown>()
jest.mock('idb-keyval', () => ({
  get: async (k: string) => kept.get(k),
  set: async (k: string, v: unknown) => void kept.set(k, structuredClone(v)),
  del: async (k: string) => void kept.delete(k),
  keys: async () => [...kept.keys()],
}))

const sendParts = jest.fn<Promise<string[]>, [readonly string[]]>(async () => [])
jest.mock('./parts.ts', () => ({ sendParts: (names: readonly string[]) => sendParts(names) }))

import { fateOf, forget, leftBehind, Outbox, type Unsent } from './outbox.ts'
import type { SaveState } from '../slice.ts'

const artwork = artworkFromPhoto({ asset: 'a'.repeat(64), width: 60, height: 40, title: 'A' })
const titled = (title: string): Artwork => ({ ...artwork, title })
type Answer = { status: number; body: unknown } | 'away'

/** A server that answers from a list, and remembers what it was sent. */
function server(...answers: Answer[]) {
  const sent: { revision: number; title: string }[] = []
  globalThis.fetch = jest.fn(async (_: unknown, init: { body: string }) => {
    const { revision, document } = JSON.parse(init.body) as { revision: number; document: Artwork }
    sent.push({ revision, title: document.title })
    const answer = answers.shift() ?? { status: 200, body: { revision: revision + 1, updatedAt: '' } }
    if (answer === 'away') throw new TypeError('fetch failed')
    return { ok: answer.status < 300, status: answer.status, json: async () => answer.body }
  }) as unknown as typeof fetch
  return sent
}
function outbox(revision = 1) {
  const states: SaveState[] = []
  const box = new Outbox('art', 'tab1', revision, (n) => states.push(n.state))
  return { box, states }
}
beforeEach(() => {
  kept.clear()
  jest.useFakeTimers()
})
afterEach(() => jest.useRealTimers())
const pass = (ms: number) => jest.advanceTimersByTimeAsync(ms)

test('a change is in the browser at once, and at the server when the hand rests', async () => {
  const sent = server()
  const { box, states } = outbox()
  box.put(titled('B'))
  await pass(0)
  expect(kept.get('outbox:art:tab1')).toMatchObject({ base: 1, document: { title: 'B' } })
  box.put(titled('C'))
  await pass(500)
  expect(sent).toEqual([])
  await pass(300)
  expect(sent).toEqual([{ revision: 1, title: 'C' }])
  expect(states.at(-1)).toBe('saved')
  expect(kept.size).toBe(0)
  box.put(titled('D'))
  await pass(1000)
  expect(sent.at(-1)).toEqual({ revision: 2, title: 'D' })
})

test('a lost connection is waited out with growing patience, nothing is lost', async () => {
  const sent = server('away', 'away', { status: 503, body: { detail: 'The database does not answer' } })
  const { box, states } = outbox()
  box.put(titled('B'))
  await pass(800)
  expect(states.at(-1)).toBe('away')
  expect(kept.size).toBe(1)
  await pass(1100)
  await pass(2100)
  expect(sent).toHaveLength(3)
  await pass(4100)
  expect(states.at(-1)).toBe('saved')
  expect(kept.size).toBe(0)
})

test('a change made elsewhere is reported, and nothing more is sent', async () => {
  const sent = server({ status: 409, body: { detail: 'changed elsewhere' } })
  const { box, states } = outbox()
  box.put(titled('B'))
  await pass(800)
  expect(states.at(-1)).toBe('conflict')
  box.put(titled('C'))
  await pass(60_000)
  expect(sent).toHaveLength(1)
  expect(kept.get('outbox:art:tab1')).toMatchObject({ document: { title: 'B' } })
  await box.drop()
  expect(kept.size).toBe(0)
})

test('what is refused stays in the browser', async () => {
  server({ status: 401, body: { detail: 'not signed in' } })
  const { box, states } = outbox()
  box.put(titled('B'))
  await pass(800)
  expect(states.at(-1)).toBe('refused')
  expect(kept.size).toBe(1)
})

test('a change made while another is on its way is sent after it, on the new revision', async () => {
  let release = () => {}
  const sent: { revision: number; title: string }[] = []
  globalThis.fetch = jest.fn(async (_: unknown, init: { body: string }) => {
    const { revision, document } = JSON.parse(init.body) as { revision: number; document: Artwork }
    sent.push({ revision, title: document.title })
    if (sent.length === 1) await new Promise<void>((r) => (release = r))
    return { ok: true, status: 200, json: async () => ({ revision: revision + 1, updatedAt: '' }) }
  }) as unknown as typeof fetch
  const { box } = outbox()
  box.put(titled('B'))
  await pass(800)
  box.put(titled('C'))
  release()
  await pass(2000)
  expect(sent).toEqual([
    { revision: 1, title: 'B' },
    { revision: 2, title: 'C' },
  ])
})

test('what a closed tab left is found, oldest first; what a living tab holds is left to it', async () => {
  const unsent = (title: string, at: number) => ({ artworkId: 'art', base: 1, document: titled(title), at })
  kept.set('outbox:art:gone', unsent('late', 2))
  kept.set('outbox:art:older', unsent('early', 1))
  kept.set('outbox:art:alive', unsent('held', 3))
  kept.set('outbox:other:gone', unsent('other', 1))
  Object.defineProperty(navigator, 'locks', { configurable: true, value: { query: async () => ({ held: [{ name: 'quill-tab:alive' }] }) } })
  const found = await leftBehind('art')
  expect(found.map((f) => f.unsent.document.title)).toEqual(['early', 'late'])
  await forget(found[0]!.key)
  expect(await leftBehind('art')).toHaveLength(1)
})

test('flush says whether the server has it', async () => {
  server('away')
  const { box } = outbox()
  box.put(titled('B'))
  const first = box.flush()
  await pass(50)
  expect(await first).toBe(false)
  const second = box.flush()
  await pass(50)
  expect(await second).toBe(true)
})

test('a save whose answer was lost is sent again as the same save; a later one names it', async () => {
  const sent: { revision: number; save: string; after: string[] }[] = []
  globalThis.fetch = jest.fn(async (_: unknown, init: { body: string }) => {
    sent.push(JSON.parse(init.body) as (typeof sent)[number])
    if (sent.length < 3) throw new TypeError('fetch failed')
    return { ok: true, status: 200, json: async () => ({ revision: 7, updatedAt: '' }) }
  }) as unknown as typeof fetch
  const { box } = outbox(5)
  box.put(titled('B'))
  await pass(800)
  await pass(1100)
  expect(sent.map((s) => s.save)).toEqual([sent[0]!.save, sent[0]!.save])
  box.put(titled('C'))
  await pass(1000)
  expect(sent[2]).toMatchObject({ revision: 5, after: [sent[0]!.save] })
  expect(sent[2]!.save).not.toBe(sent[0]!.save)
  box.put(titled('D'))
  await pass(1000)
  expect(sent[3]).toMatchObject({ revision: 7, after: [] })
})

test('what a closed tab left is taken already, goes on from what there is, or stands apart', () => {
  const left: Unsent = { artworkId: 'art', base: 5, save: 's2', after: ['s1'], document: titled('B'), at: 1 }
  expect(fateOf(left, { revision: 5, saves: ['x'] })).toBe('follows')
  expect(fateOf(left, { revision: 6, saves: ['s1', 'x'] })).toBe('follows')
  expect(fateOf(left, { revision: 6, saves: ['s2', 'x'] })).toBe('taken')
  // taken, and changed by others since
  expect(fateOf(left, { revision: 8, saves: ['y', 's2'] })).toBe('taken')
  expect(fateOf(left, { revision: 6, saves: ['y', 'x'] })).toBe('apart')
  expect(fateOf(left, { revision: 7, saves: ['y', 's1'] })).toBe('apart')
  expect(fateOf(left, { revision: 6, saves: [] })).toBe('apart')
})

test('what a tab says as it is closed is found, where its database had no time for it', async () => {
  const sent = server('away', 'away', 'away', 'away')
  const { box } = outbox()
  box.put(titled('B'))
  window.dispatchEvent(new Event('pagehide'))
  await pass(0)
  expect(sent.at(-1)).toEqual({ revision: 1, title: 'B' })
  kept.clear()
  Object.defineProperty(navigator, 'locks', { configurable: true, value: { query: async () => ({ held: [] }) } })
  const [found] = await leftBehind('art')
  expect(found!.unsent.document.title).toBe('B')
  await forget(found!.key)
  expect(await leftBehind('art')).toHaveLength(0)
})

test('a tab that goes on with what another left names its saves', async () => {
  const sent: { after: string[] }[] = []
  globalThis.fetch = jest.fn(async (_: unknown, init: { body: string }) => {
    sent.push(JSON.parse(init.body) as (typeof sent)[number])
    return { ok: true, status: 200, json: async () => ({ revision: 7, updatedAt: '' }) }
  }) as unknown as typeof fetch
  const from: Unsent = { artworkId: 'art', base: 5, save: 's2', after: ['s1'], document: titled('B'), at: 1 }
  const box = new Outbox('art', 'tab2', 5, () => undefined, from)
  box.put(titled('B'))
  await pass(800)
  expect(sent[0]!.after).toEqual(['s1', 's2'])
})

test('what the server misses of what was painted is sent first, down to its tiles, then the same save again', async () => {
  const missing = (...names: string[]) => ({ status: 422, body: { code: 'plane-parts-missing', detail: 'Parts are missing.', missing: names } })
  const sent = server(missing('root'), missing('page'), missing('tile one', 'tile two'))
  const { box, states } = outbox()
  box.put(titled('Painted'))
  expect(await box.flush()).toBe(true)
  expect(sendParts.mock.calls.map(([names]) => names)).toEqual([['root'], ['page'], ['tile one', 'tile two']])
  expect(sent).toHaveLength(4)
  expect(states.at(-1)).toBe('saved')
})

test('parts that are nowhere are told, and the change stays in the browser', async () => {
  server({ status: 422, body: { code: 'plane-parts-missing', detail: 'Parts are missing.', missing: ['gone'] } })
  sendParts.mockResolvedValueOnce(['gone'])
  const { box, states } = outbox()
  box.put(titled('Painted elsewhere'))
  expect(await box.flush()).toBe(false)
  expect(states.at(-1)).toBe('refused')
  expect(kept.size).toBe(1)
})
