import { randomUUID } from 'node:crypto'
import { readFileSync, mkdtempSync, readdirSync, writeFileSync } from 'node:fs'
import { get } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Render as RenderAnswer } from '@nimble-quill/contracts'
import type { Worker } from 'node:worker_threads'
import { artworkFromPhoto, instantiate, newLayer, newStep, recipeById, type Artwork } from '@nimble-quill/core'
import sharp from 'sharp'
import type request from 'supertest'
import { main } from '../../../cli/src/main.ts'
import { Render } from '../database/models.ts'
import { picture, testApp, type TestApp } from '../testing/test-app.ts'
import type { Store } from '../photos/store.ts'
import { STORE } from '../photos/tokens.ts'
import { TableQueue } from './render-queue.ts'
import { RendersService } from './renders.service.ts'

let t: TestApp
let me: ReturnType<typeof request.agent>
let file: Buffer
let artwork: string
beforeAll(async () => {
  t = await testApp('renders')
  me = await t.account('plover')
  file = await picture('png', 320, 200)
  const photo = (await me.post('/api/photos?name=Lanterns.png').set('Content-Type', 'application/octet-stream').send(file).expect(201)).body
  // as the desk begins it: its look spot is where the photo is richest, on the command line as well
  const begun = (await me.post('/api/artworks').send({ photo: photo.id }).expect(201)).body.document as Artwork
  const { layers, use } = instantiate(recipeById('graphite'), begun.layers[0]!.source)
  artwork = (
    await me
      .post('/api/artworks')
      .send({ document: { ...begun, layers, recipes: [use] } })
      .expect(201)
  ).body.id
})
afterAll(() => t.close())

async function ended(id: string): Promise<RenderAnswer> {
  // a busy machine may take its time; a render that hangs does not end at all
  for (const begun = Date.now(); Date.now() - begun < 60_000;) {
    const found = ((await me.get('/api/renders')).body as RenderAnswer[]).find((r) => r.id === id)!
    if (found.state !== 'waiting' && found.state !== 'running') return found
    await new Promise((r) => setTimeout(r, 50))
  }
  throw new Error('the render does not end')
}
const download = async (id: string) =>
  (
    await me
      .get(`/api/renders/${id}/file`)
      .buffer(true)
      .parse((r, done) => {
        const parts: Buffer[] = []
        r.on('data', (d: Buffer) => parts.push(d))
        r.on('end', () => done(null, Buffer.concat(parts)))
      })
      .expect(200)
  ).body as Buffer

test('the file has the same pixels as the command line’s, with its resolution', async () => {
  const { body } = await me.post('/api/renders').send({ artwork, format: 'png', ppi: 240 }).expect(201)
  expect(await ended(body.id)).toMatchObject({ state: 'done', width: 320, height: 200, progress: 1 })
  const png = await download(body.id)
  const folder = mkdtempSync(join(tmpdir(), 'quill-cli-'))
  writeFileSync(join(folder, 'photo.png'), file)
  expect(await main([join(folder, 'photo.png'), '--recipe', 'graphite', '--out', join(folder, 'out.png')])).toBe(0)
  expect((await sharp(png).raw().toBuffer()).equals(await sharp(join(folder, 'out.png')).raw().toBuffer())).toBe(true)
  expect((await sharp(png).metadata()).density).toBe(240)
})

test('JPEG, reduced to a long side', async () => {
  const { body } = await me.post('/api/renders').send({ artwork, format: 'jpeg', quality: 80, longSide: 100 }).expect(201)
  expect(await ended(body.id)).toMatchObject({ state: 'done', width: 100 })
  // nobody has said how large it is printed: 320 pixels stand for the long side of an A4 sheet
  expect(await sharp(await download(body.id)).metadata()).toMatchObject({ format: 'jpeg', width: 100, density: 27 })
})

test('a file of lines: the same as the command line’s, in both ways; one of an artwork without lines fails in a sentence', async () => {
  const head = (await me.get(`/api/artworks/${artwork}`).expect(200)).body
  const drawn = { ...head.document, recipes: [], layers: [{ ...head.document.layers[0], visible: true, opacity: 1, chain: [newStep('contours')] }] }
  const lines = (await me.post('/api/artworks').send({ document: drawn }).expect(201)).body.id
  const folder = mkdtempSync(join(tmpdir(), 'quill-cli-'))
  writeFileSync(join(folder, 'Lanterns.png'), file)
  writeFileSync(join(folder, 'a.json'), JSON.stringify(drawn))
  for (const [format, more] of [
    ['svg', []],
    ['svg-lines', ['--centre-lines']],
  ] as const) {
    const { body } = await me.post('/api/renders').send({ artwork: lines, format, ppi: 200 }).expect(201)
    expect(await ended(body.id)).toMatchObject({ state: 'done', format, width: 320, height: 200, progress: 1 })
    const svg = (await download(body.id)).toString()
    expect(await main([join(folder, 'Lanterns.png'), '--artwork', join(folder, 'a.json'), '--ppi', '200', '--out', join(folder, 'out.svg'), ...more])).toBe(0)
    expect(svg).toBe(readFileSync(join(folder, 'out.svg'), 'utf8'))
    // 320 px at 200 ppi
    expect(svg).toContain('width="40.64mm" height="25.4mm"')
    const told = await me.get(`/api/renders/${body.id}/file`).expect(200)
    expect(told.headers['content-type']).toContain('image/svg+xml')
    expect(told.headers['content-disposition']).toMatch(/attachment.*Lanterns\.svg/)
  }
  const { body } = await me.post('/api/renders').send({ artwork, format: 'svg' }).expect(201)
  const failed = await ended(body.id)
  expect(failed.state).toBe('failed')
  expect(failed.message).toContain('Add a step that draws')
})

test('progress comes as server-sent events', async () => {
  const cookie = (
    me as unknown as { jar: { getCookies: (a: { path: string; domain: string; secure: boolean; script: boolean }) => { toValueString: () => string } } }
  ).jar
    .getCookies({ path: '/', domain: '127.0.0.1', secure: false, script: false })
    .toValueString()
  const { port } = t.app.getHttpServer().address() as AddressInfo
  const states: string[] = []
  const done = new Promise<void>((resolve, reject) => {
    const stream = get({ port, host: '127.0.0.1', path: '/api/renders/events', headers: { cookie } }, (r) => {
      let text = ''
      r.on('data', (d: Buffer) => {
        text += d.toString()
        for (const m of text.matchAll(/"state":"(\w+)"/g)) states.push(m[1]!)
        if (text.includes('"state":"done"')) {
          stream.destroy()
          resolve()
        }
      })
    })
    stream.on('error', (e: NodeJS.ErrnoException) => e.code !== 'ECONNRESET' && reject(e))
  })
  await new Promise((r) => setTimeout(r, 200))
  await me.post('/api/renders').send({ artwork }).expect(201)
  await done
  expect(states).toEqual(expect.arrayContaining(['waiting', 'running', 'done']))
})

/** A row of the table like a finished one, in another state. */
async function rowLike(more: Partial<Render>): Promise<Render> {
  const { accountId, document, format, quality } = (await Render.findOne({ where: { state: 'done' } }))!
  return Render.create({ accountId, artworkId: artwork, title: 'row', document, format, quality, ppi: null, longSide: null, ...more })
}

/** A render that takes long, if nothing ends it. */
async function longRow(): Promise<Render> {
  const { document } = (await Render.findOne({ where: { state: 'done' } }))!
  const long = JSON.parse(document) as ReturnType<typeof artworkFromPhoto>
  long.sheet = { ...long.sheet, w: 6000, h: 6000 }
  const chain = Array.from({ length: 40 }, () => newStep('add-grain'))
  long.layers.unshift(newLayer('ground', { type: 'fill', colour: '#808080', alpha: 1 }, chain))
  return rowLike({ document: JSON.stringify(long) })
}

test('an unfinished render has no file and is not deleted; a finished one is, with its file', async () => {
  const busy = await rowLike({ state: 'running', leaseUntil: new Date(Date.now() + 60_000) })
  expect((await me.delete(`/api/renders/${busy.id}`).expect(409)).body.code).toBe('still-running')
  await me.get(`/api/renders/${busy.id}/file`).expect(409)
  await busy.destroy()
  const done = (await Render.findOne({ where: { state: 'done' } }))!
  await me.delete(`/api/renders/${done.id}`).expect(204)
  await me.get(`/api/renders/${done.id}/file`).expect(404)
})

test('a running render is cancelled while it computes', async () => {
  const large = await sharp({ create: { width: 5000, height: 4000, channels: 3, background: '#7a6a58', noise: { type: 'gaussian', mean: 120, sigma: 40 } } })
    .jpeg()
    .toBuffer()
  const photo = (await me.post('/api/photos?name=Large.jpg').set('Content-Type', 'application/octet-stream').send(large).expect(201)).body
  const begun = artworkFromPhoto({ asset: photo.asset, width: 5000, height: 4000, title: 'Large' })
  const { layers, use } = instantiate(recipeById('graphite'), begun.layers[0]!.source)
  const id = (
    await me
      .post('/api/artworks')
      .send({ document: { ...begun, layers, recipes: [use] } })
      .expect(201)
  ).body.id
  const { body } = await me.post('/api/renders').send({ artwork: id }).expect(201)
  for (let tries = 0; tries < 200; tries++) {
    if (((await me.get('/api/renders')).body as RenderAnswer[]).find((r) => r.id === body.id)!.state === 'running') break
    await new Promise((r) => setTimeout(r, 10))
  }
  await me.post(`/api/renders/${body.id}/cancel`).expect(200)
  expect((await ended(body.id)).state).toBe('cancelled')
  expect(readdirSync(join(t.config.dataDir, 'renders')).filter((f) => f.startsWith(body.id))).toEqual([])
})

test('a job left running by a dead process is taken up again when its lease ends', async () => {
  const left = await rowLike({ state: 'running', progress: 0.4, leaseUntil: new Date(Date.now() + 800) })
  expect((await ended(left.id)).state).toBe('done')
})

test('what a process had claimed is given back by its mark; what others have, and what has ended, stays', async () => {
  const queue = t.app.get(TableQueue)
  const lease = new Date(Date.now() + 60_000)
  const of = (mark: string) => `${mark}-0000-4000-8000-000000000000`
  const mine = await rowLike({ state: 'running', progress: 0.4, claim: of('0badcafe'), attempts: 1, leaseUntil: lease })
  const theirs = await rowLike({ state: 'running', progress: 0.4, claim: of('0badcaff'), attempts: 1, leaseUntil: lease })
  const finished = await rowLike({ state: 'failed', claim: of('0badcafe'), attempts: 1 })
  await queue.releaseAllOf([])
  await queue.releaseAllOf(['0badcafe', 'feedf00d'])
  expect((await ended(mine.id)).state).toBe('done')
  await mine.reload()
  // one more attempt than those that the dead process had begun
  expect([mine.attempts, mine.claim!.slice(0, 8)]).toEqual([2, t.app.get<Store>(STORE).mark])
  await theirs.reload()
  await finished.reload()
  expect([theirs.state, theirs.claim, finished.state]).toEqual(['running', of('0badcaff'), 'failed'])
  await queue.end(theirs.id, theirs.claim!, { state: 'cancelled' })
})

test('a render that cannot be made says why', async () => {
  const row = (await Render.findOne({ where: { state: 'done' } }))!
  const broken = JSON.parse(row.document) as { layers: { chain: { step: string }[] }[] }
  broken.layers[0]!.chain[0]!.step = 'sparkle'
  const end = await ended((await rowLike({ document: JSON.stringify(broken) })).id)
  expect(end.state).toBe('failed')
  expect(end.message).toContain('sparkle')
})

test('a render that cannot even be begun is told as failed, and the next one is made', async () => {
  const end = await ended((await rowLike({ document: '{not a document' })).id)
  expect(end.state).toBe('failed')
  expect(end.message).toContain('The artwork is safe')
  const row = (await Render.findOne({ where: { state: 'done' } }))!
  expect((await ended((await rowLike({ document: row.document })).id)).state).toBe('done')
})

test('wrong wishes are told by name', async () => {
  expect((await me.post('/api/renders').send({ artwork, quality: 500 }).expect(400)).body.detail).toContain('quality')
  expect((await me.post('/api/renders').send({ artwork, format: 'bmp' }).expect(400)).body.code).toBe('request-invalid')
})

test('of two that hold one job, the one that lost its claim writes nothing', async () => {
  const queue = t.app.get(TableQueue)
  // the server's own look must not come between
  const row = await rowLike({ state: 'running', leaseUntil: new Date(Date.now() + 60_000), claim: randomUUID(), attempts: 1 })
  const mine = row.claim!
  expect(await queue.renew(row.id, mine, 60, 0.3)).toEqual({ held: true, cancelled: false })
  // its lease ran out, and another took it
  const theirs = randomUUID()
  await row.update({ claim: theirs, leaseUntil: new Date(Date.now() + 60_000) })
  expect(await queue.renew(row.id, mine, 60, 0.9)).toEqual({ held: false, cancelled: false })
  await queue.release(row.id, mine, true)
  expect(await queue.end(row.id, mine, { state: 'done', progress: 1 })).toBe(false)
  expect(await row.reload()).toMatchObject({ state: 'running', claim: theirs, progress: expect.closeTo(0.3, 5) })
  expect(await queue.end(row.id, theirs, { state: 'failed', message: 'theirs' })).toBe(true)
  expect(await row.reload()).toMatchObject({ state: 'failed', message: 'theirs' })
})

test('a worker whose claim is taken from it stops, and leaves no file', async () => {
  const row = await longRow()
  const state = async () => (await row.reload()).state
  for (let i = 0; i < 200 && (await state()) !== 'running'; i++) await new Promise((r) => setTimeout(r, 25))
  const mine = row.claim!
  await row.update({ claim: randomUUID(), leaseUntil: new Date(Date.now() + 60_000) })
  // leases of these tests last 2 s, and are renewed four times in that
  const running = (t.app.get(RendersService) as unknown as { running: Map<string, unknown> }).running
  for (let i = 0; i < 200 && running.has(row.id); i++) await new Promise((r) => setTimeout(r, 25))
  expect(running.has(row.id)).toBe(false)
  expect(await row.reload()).toMatchObject({ state: 'running', progress: expect.any(Number) })
  const left = readdirSync(t.config.dataDir, { recursive: true }).filter((name) => String(name).includes(mine))
  expect(left).toEqual([])
  await row.destroy()
})

test('a job that ends its worker three times is given up in a sentence, and the next one is made', async () => {
  const row = await longRow()
  const { threads } = (t.app.get(RendersService) as unknown as { threads: { threads: { threads: Worker[] } } }).threads
  // one that is ended may stand in the list a little longer
  const endedThreads = new Set<Worker>()
  for (let attempt = 1; attempt <= 3; attempt++) {
    let thread: Worker | undefined
    for (let i = 0; i < 1200 && !thread; i++) {
      await new Promise((r) => setTimeout(r, 25))
      await row.reload()
      // what waits for a thread is not broken off by its end: only work that has begun
      if (row.state === 'running' && row.attempts === attempt && row.progress! > 0) thread = threads.threads.find((one) => !endedThreads.has(one))
    }
    expect(thread).toBeDefined()
    endedThreads.add(thread!)
    await thread!.terminate()
  }
  const end = await ended(row.id)
  expect(end).toMatchObject({ state: 'failed' })
  expect(end.message).toContain('broken off 3 times')
  expect((await ended((await rowLike({})).id)).state).toBe('done')
}, 200_000)

test('a job that ended its server three times is not begun a fourth time', async () => {
  const left = await rowLike({ state: 'running', leaseUntil: new Date(Date.now() - 1000), claim: randomUUID(), attempts: 3 })
  const end = await ended(left.id)
  expect(end.state).toBe('failed')
  expect(end.message).toContain('The artwork is safe')
})

test('renders are fair between accounts: one asked for beside three of another is the second that is begun', async () => {
  const queue = t.app.get(TableQueue)
  const other = await t.account('phalarope')
  const theirs = (await other.get('/api/session')).body.id as string
  // begun by hand: the server itself is kept from looking
  const service = t.app.get(RendersService) as unknown as { stopping: boolean }
  service.stopping = true
  await new Promise((r) => setTimeout(r, 100))
  try {
    const three = [await rowLike({}), await rowLike({}), await rowLike({})]
    const order: string[] = []
    const begin = async () => {
      const claimed = (await queue.claim(60))!
      order.push(claimed.render.id)
      return claimed
    }
    const first = await begin()
    const small = await rowLike({ accountId: theirs })
    // also while the first one still runs, where several are made at once
    const second = await begin()
    expect(order[1]).toBe(small.id)
    for (const { render, token } of [first, second, await begin(), await begin()]) await queue.end(render.id, token, { state: 'failed', message: 'test' })
    expect(new Set(order)).toEqual(new Set([...three.map((r) => r.id), small.id]))
    for (const r of [...three, small]) await r.destroy()
  } finally {
    service.stopping = false
  }
})

test('a stream of events ends with its session', async () => {
  const leaving = await t.account('turnstone')
  const cookie = (
    leaving as unknown as { jar: { getCookies: (a: { path: string; domain: string; secure: boolean; script: boolean }) => { toValueString: () => string } } }
  ).jar
    .getCookies({ path: '/', domain: '127.0.0.1', secure: false, script: false })
    .toValueString()
  const { port } = t.app.getHttpServer().address() as AddressInfo
  let open = true
  const over = new Promise<void>((done) =>
    get({ port, host: '127.0.0.1', path: '/api/renders/events', headers: { cookie } }, (r) => {
      r.resume()
      r.on('end', () => {
        open = false
        done()
      })
    }),
  )
  await new Promise((r) => setTimeout(r, 300))
  expect(open).toBe(true)
  await leaving.delete('/api/session').expect(204)
  await over
})

// last: a second application binds the models to its own database
test('a render that still waits is cancelled on the spot', async () => {
  const idle = await testApp('idle', { renderThreads: 0 })
  try {
    const other = await idle.account('ruff')
    const photo = (await other.post('/api/photos?name=Lanterns.png').set('Content-Type', 'application/octet-stream').send(file).expect(201)).body
    const begun = (await other.post('/api/artworks').send({ photo: photo.id }).expect(201)).body
    const { body } = await other.post('/api/renders').send({ artwork: begun.id }).expect(201)
    expect(body.state).toBe('waiting')
    expect((await other.post(`/api/renders/${body.id}/cancel`).expect(200)).body.state).toBe('cancelled')
    await other.delete(`/api/renders/${body.id}`).expect(204)
  } finally {
    await idle.close()
  }
})
