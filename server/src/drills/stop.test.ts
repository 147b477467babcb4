import { request } from 'node:http'
import { randomUUID } from 'node:crypto'
import { artworkFromPhoto, newLayer, newStep, type Artwork } from '@nimble-quill/core'
import { QueryTypes } from 'sequelize'
import { ServerProcess } from '../testing/server-process.ts'
import { picture } from '../testing/test-app.ts'

// The server as a process: stopped and killed in the middle of its work, and as soon as it has begun it.

let s: ServerProcess
let document: Artwork
let artwork: string
beforeAll(async () => {
  s = new ServerProcess('stop', { QUILL_WITH_PARENT: '1', QUILL_LEASE_SECONDS: '60' })
  await s.begin()
}, 60_000)
afterAll(() => s.end())

/** An artwork of the present account that takes minutes to render. */
async function beginLong(): Promise<void> {
  const photo = (await (await s.call('POST', '/api/photos?name=a.png', await picture('png', 90, 60))).json()) as { asset: string }
  document = artworkFromPhoto({ asset: photo.asset, width: 90, height: 60, title: 'Long' })
  const large = { ...document.sheet, w: 2000, h: 60_000 }
  const ground = newLayer(
    'ground',
    { type: 'fill', colour: '#808080', alpha: 1 },
    Array.from({ length: 6 }, () => newStep('add-grain')),
  )
  const made = await s.call('POST', '/api/artworks', { document: { ...document, sheet: large, layers: [ground, ...document.layers] } })
  artwork = ((await made.json()) as { id: string }).id
}
const until = async (holds: () => Promise<boolean>) => {
  for (let i = 0; i < 400; i++) {
    if (await holds()) return
    await new Promise((r) => setTimeout(r, 50))
  }
  throw new Error('waited in vain')
}
const renders = async () => (await (await s.call('GET', '/api/renders')).json()) as { id: string; state: string; progress: number }[]
const rowOf = async (id: string) => {
  const admin = s.admin()
  const [row] = await admin.query<{ state: string; claim: string | null; attempts: number }>(`SELECT state, claim, attempts FROM renders WHERE id = '${id}'`, {
    type: QueryTypes.SELECT,
  })
  await admin.close()
  return row
}
/** An upload that stops in its middle, a stream of events, and a render under way. */
async function busy(cookie: string): Promise<string> {
  const events = request(`${s.url}/api/renders/events`, { headers: { cookie } }, (r) => r.on('error', () => undefined).resume())
  events.on('error', () => undefined).end()
  const upload = request(`${s.url}/api/photos?name=half.png`, { method: 'POST', headers: { cookie, 'Content-Length': '5000000' } })
  upload.on('error', () => undefined)
  upload.write(Buffer.alloc(200_000, 1))
  const { id } = (await (await s.call('POST', '/api/renders', { artwork })).json()) as { id: string }
  await until(async () => (await renders()).some((r) => r.id === id && r.state === 'running'))
  await new Promise((r) => setTimeout(r, 700))
  return id
}

test.each(['SIGTERM', 'its parent’s death'])(
  '%s with an upload, a stream and a render open: ended in 10 s, nothing left, the render begun again at once',
  async (how) => {
    const cookie = await s.account(`sanderling${how.length}`)
    await beginLong()
    const id = await busy(cookie)
    const { code, ms } = how === 'SIGTERM' ? await s.signal('SIGTERM') : await s.orphan()
    expect(code).toBe(0)
    expect(ms).toBeLessThan(10_000)
    expect(s.parts()).toEqual([])
    expect(await rowOf(id)).toEqual({ state: 'waiting', claim: null, attempts: 0 })
    await s.start()
    const started = Date.now()
    await until(async () => (await renders()).some((r) => r.id === id && r.state === 'running'))
    // no lease is waited for
    expect(Date.now() - started).toBeLessThan(8000)
    await s.call('POST', `/api/renders/${id}/cancel`)
    await until(async () => (await renders()).every((r) => r.state === 'cancelled'))
  },
  60_000,
)

test('killed while saving and rendering: no acknowledged save is lost, a repeated one is known, what was left is cleared', async () => {
  const cookie = await s.account('whimbrel')
  await beginLong()
  const { id } = (await (await s.call('POST', '/api/artworks', { document })).json()) as { id: string }
  let revision = 1
  for (let round = 0; round < 2; round++) {
    const render = await busy(cookie)
    const sent: { save: string; title: string }[] = []
    let acknowledged: { save: string; title: string } | null = null
    let going = true
    const saving = (async () => {
      while (going) {
        const ask = { save: randomUUID(), title: `title ${round} ${sent.length}` }
        sent.push(ask)
        const answer = await s.call('PUT', `/api/artworks/${id}`, { revision, save: ask.save, document: { ...document, title: ask.title } }).catch(() => null)
        if (!answer?.ok) return
        revision = ((await answer.json()) as { revision: number }).revision
        acknowledged = ask
      }
    })()
    await new Promise((r) => setTimeout(r, 300 + 170 * round))
    await s.signal('SIGKILL')
    going = false
    await saving
    expect(s.parts().length).toBeGreaterThan(0)
    const killed = s.parts()
    await s.start()
    expect(s.parts().filter((name) => killed.includes(name) && !name.startsWith(render))).toEqual([])
    // begun again at once, though its lease would last a minute yet; that attempt counts
    await until(async () => (await renders()).some((r) => r.id === render && r.state === 'running'))
    expect(await rowOf(render)).toMatchObject({ state: 'running', attempts: 2 })
    const now = (await (await s.call('GET', `/api/artworks/${id}`)).json()) as { revision: number; title: string; saves: string[] }
    // the last that was acknowledged, or the one that was under way when it was killed
    expect([acknowledged!.save, sent.at(-1)!.save]).toContain(now.saves[0])
    const last = sent.at(-1)!
    const repeated = await s.call('PUT', `/api/artworks/${id}`, { revision, save: last.save, document: { ...document, title: last.title } })
    expect(repeated.status).toBe(200)
    revision = ((await repeated.json()) as { revision: number }).revision
    const again = await s.call('PUT', `/api/artworks/${id}`, { revision, save: last.save, document: { ...document, title: last.title } })
    expect(((await again.json()) as { revision: number }).revision).toBe(revision)
    for (const r of await renders()) if (r.state !== 'cancelled') await s.call('POST', `/api/renders/${r.id}/cancel`)
    await until(async () => (await renders()).every((r) => r.state === 'cancelled'))
  }
}, 120_000)

test('killed as soon as a render is claimed, before a thread has written anything: begun again at once', async () => {
  await s.account('dunlin')
  await beginLong()
  const { id } = (await (await s.call('POST', '/api/renders', { artwork })).json()) as { id: string }
  await until(async () => (await rowOf(id))?.state === 'running')
  await s.signal('SIGKILL')
  expect(s.parts()).toEqual([])
  await s.start()
  await until(async () => (await rowOf(id))?.attempts === 2)
  await s.call('POST', `/api/renders/${id}/cancel`)
  await until(async () => (await renders()).every((r) => r.state === 'cancelled'))
}, 60_000)
