import { connect as connectTo, createServer, type Server, type Socket } from 'node:net'
import { newStep } from '@nimble-quill/core'
import { readdirSync } from 'node:fs'
import { join } from 'node:path'
import type request from 'supertest'
import { picture, testApp, type TestApp } from '../testing/test-app.ts'

let t: TestApp
let me: ReturnType<typeof request.agent>
let photo: string
beforeAll(async () => {
  t = await testApp('artworks')
  me = await t.account('avocet')
  photo = (
    await me
      .post('/api/photos?name=Quay.png')
      .set('Content-Type', 'application/octet-stream')
      .send(await picture())
      .expect(201)
  ).body.id
})
afterAll(() => t.close())

const begin = async () => (await me.post('/api/artworks').send({ photo }).expect(201)).body

test('begins from a photo, is listed, read, saved, duplicated, deleted and brought back', async () => {
  const a = await begin()
  expect(a).toMatchObject({ title: 'Quay', revision: 1, width: 60, height: 40 })
  const saved = await me
    .put(`/api/artworks/${a.id}`)
    .send({ revision: 1, document: { ...a.document, title: 'Quay at night' } })
    .expect(200)
  expect(saved.body.revision).toBe(2)
  expect((await me.get(`/api/artworks/${a.id}`).expect(200)).body).toMatchObject({ title: 'Quay at night', revision: 2, document: { title: 'Quay at night' } })
  const copy = (await me.post(`/api/artworks/${a.id}/duplicate`).expect(201)).body
  expect(copy.title).toBe('Quay at night copy')
  await me.delete(`/api/artworks/${a.id}`).expect(204)
  await me.get(`/api/artworks/${a.id}`).expect(404)
  expect((await me.get('/api/artworks')).body.map((x: { id: string }) => x.id)).toEqual(expect.not.arrayContaining([a.id]))
  await me.post(`/api/artworks/${a.id}/restore`).expect(200)
  expect((await me.get(`/api/artworks/${a.id}`).expect(200)).body.document.title).toBe('Quay at night')
})

test('a print size said at the beginning is the sheet’s resolution; until one is said it stands for an A4 print', async () => {
  expect((await begin()).document.sheet).toMatchObject({ ppi: Math.round((60 / 297) * 25.4), sized: false })
  const sized = (await me.post('/api/artworks').send({ photo, print: 10 }).expect(201)).body
  expect(sized.document.sheet).toMatchObject({ ppi: Math.round((60 / 10) * 25.4), sized: true })
  await me.post('/api/artworks').send({ photo, print: 0 }).expect(400)
})

test('documents beyond the bounds are refused in a sentence, ones of version 1 are taken', async () => {
  const a = await begin()
  const layer = a.document.layers[0]
  const nested = (depth: number) => {
    let layers = [layer]
    for (let i = 0; i < depth; i++) layers = [{ ...layer, id: `g${i}`, source: { type: 'group', isolated: true, layers } }]
    return layers
  }
  const live = { ...layer, id: 'round', source: { type: 'live', layer: 'round' } }
  for (const [more, says] of [
    [{ sheet: { ...a.document.sheet, w: 1, h: 1e9 } }, 'A side has at most'],
    [{ sheet: { ...a.document.sheet, w: 32_000, h: 32_000 } }, 'megapixels'],
    [{ sheet: { ...a.document.sheet, w: 2 ** 31 } }, 'A side has at most'],
    [{ layers: nested(500) }, 'deep'],
    [{ layers: Array.from({ length: 501 }, (_, i) => ({ ...layer, id: `l${i}` })) }, '500 layers'],
    [{ layers: [live] }, 'circle'],
  ] as const) {
    const document = { ...a.document, ...more }
    expect((await me.put(`/api/artworks/${a.id}`).send({ revision: 1, document }).expect(422)).body.detail).toContain(says)
    expect((await me.post('/api/artworks').send({ document }).expect(422)).body.detail).toContain(says)
  }
  const without = (o: object, ...keys: string[]) => Object.fromEntries(Object.entries(o).filter(([k]) => !keys.includes(k)))
  const plain = without(layer, 'locked', 'mark', 'folded', 'lightMap', 'study', 'inset', 'spanBelow')
  const rest = without(a.document, 'field', 'stock', 'guides', 'areas', 'pins', 'colourways')
  const old = {
    ...rest,
    version: 1,
    sheet: without(a.document.sheet, 'sized'),
    layers: [{ ...plain, placement: { a: 1, b: 0, c: 0, d: 1, e: 0, f: 0 } }],
  }
  const made = await me.post('/api/artworks').send({ document: old }).expect(201)
  expect(made.body.document).toEqual(a.document)
})

test('a save based on an old revision is refused and says which is newer', async () => {
  const a = await begin()
  const save = (revision: number, title: string) => me.put(`/api/artworks/${a.id}`).send({ revision, document: { ...a.document, title } })
  await save(1, 'first').expect(200)
  const late = await save(1, 'late').expect(409)
  expect(late.body).toMatchObject({ code: 'saved-elsewhere', revision: 2 })
  expect((await me.get(`/api/artworks/${a.id}`)).body.title).toBe('first')
  // of two at once exactly one is taken
  const both = await Promise.all([save(2, 'left'), save(2, 'right')])
  expect(both.map((r) => r.status).sort()).toEqual([200, 409])
})

test('a save that is sent again is answered with the revision it made; one that follows lost answers is taken', async () => {
  const a = await begin()
  const b = await begin()
  const [s1, s2, s3, s4] = Array.from({ length: 4 }, () => crypto.randomUUID())
  const save = (more: object, title: string, id = a.id) => me.put(`/api/artworks/${id}`).send({ document: { ...a.document, title }, ...more })
  const first = (await save({ revision: 1, save: s1 }, 'one').expect(200)).body
  expect((await save({ revision: 1, save: s1 }, 'one').expect(200)).body).toEqual(first)
  // the answer of s1 never came: s2 is still based on the revision before it, and names it
  expect((await save({ revision: 1, save: s2, after: [s1] }, 'two').expect(200)).body.revision).toBe(3)
  expect((await save({ revision: 1, save: s1 }, 'one').expect(200)).body.revision).toBe(2)
  expect((await me.get(`/api/artworks/${a.id}`)).body).toMatchObject({ title: 'two', revision: 3, saves: [s2, s1] })
  // another came between
  await save({ revision: 3, save: s3 }, 'theirs').expect(200)
  expect((await save({ revision: 2, save: s4, after: [s2] }, 'mine').expect(409)).body.code).toBe('saved-elsewhere')
  expect((await save({ revision: 1, save: s1 }, 'one', b.id).expect(400)).body.detail).toContain('another artwork')
  // the same save by two requests at once makes one revision
  const both = await Promise.all([save({ revision: 4, save: s4 }, 'twice'), save({ revision: 4, save: s4 }, 'twice')])
  expect(both.map((r) => [r.status, r.body.revision])).toEqual([
    [200, 5],
    [200, 5],
  ])
})

test('the thumbnail of the newest revision is kept, and no other', async () => {
  const a = await begin()
  await me.get(`/api/artworks/${a.id}/thumbnail`).expect(200)
  await me
    .put(`/api/artworks/${a.id}`)
    .send({ revision: 1, document: { ...a.document, title: 'new' } })
    .expect(200)
  // many at once, made once
  const all = await Promise.all(Array.from({ length: 5 }, () => me.get(`/api/artworks/${a.id}/thumbnail`)))
  expect(all.map((r) => r.status)).toEqual([200, 200, 200, 200, 200])
  expect(readdirSync(join(t.config.dataDir, 'thumbnails', a.id))).toEqual(['2.png'])
})

test('documents that are not right are refused, the saved one stays', async () => {
  const a = await begin()
  for (const [document, code] of [
    [{ ...a.document, version: 9 }, 'artwork-newer'],
    [{ hello: 1 }, 'artwork-invalid'],
    [{ ...a.document, layers: [{ ...a.document.layers[0], source: { type: 'photo', asset: '0'.repeat(64), width: 5, height: 5 } }] }, 'missing-photo'],
    [
      {
        ...a.document,
        layers: [{ ...a.document.layers[0], chain: [newStep('surface-relief', { kind: 'picture', picture: { asset: '0'.repeat(64), width: 5, height: 5 } })] }],
      },
      'missing-photo',
    ],
  ] as const) {
    expect((await me.put(`/api/artworks/${a.id}`).send({ revision: 1, document }).expect(422)).body.code).toBe(code)
  }
  expect((await me.get(`/api/artworks/${a.id}`)).body.revision).toBe(1)
})

test('another account’s artwork answers exactly as a missing one', async () => {
  const a = await begin()
  const other = await t.account('godwit')
  const missing = '00000000-0000-4000-8000-000000000000'
  const calls = [
    (id: string) => other.get(`/api/artworks/${id}`),
    (id: string) => other.put(`/api/artworks/${id}`).send({ revision: 1, document: { ...a.document, layers: [] } }),
    (id: string) => other.delete(`/api/artworks/${id}`),
    (id: string) => other.post(`/api/artworks/${id}/duplicate`),
    (id: string) => other.post(`/api/artworks/${id}/restore`),
    (id: string) => other.get(`/api/artworks/${id}/thumbnail`),
    (id: string) => other.post('/api/renders').send({ artwork: id }),
  ]
  for (const call of calls) {
    const theirs = await call(a.id).expect(404)
    expect(theirs.body).toEqual((await call(missing).expect(404)).body)
  }
  await other.post('/api/artworks').send({ photo }).expect(404)
  expect((await other.post('/api/artworks').send({ document: a.document }).expect(422)).body.code).toBe('missing-photo')
})

test('shows the saved artwork small', async () => {
  const a = await begin()
  const { body, headers } = await me.get(`/api/artworks/${a.id}/thumbnail`).expect(200)
  expect(headers['content-type']).toBe('image/png')
  expect((body as Buffer).length).toBeGreaterThan(100)
})

test('while the database is away every request says so, and all goes on when it is back', async () => {
  // a relay before the database, which can be cut
  const real = Number(process.env.QUILL_DB_PORT)
  const open = new Set<Socket>()
  const relay = (port = 0) =>
    new Promise<Server>((done) => {
      const server = createServer((a) => {
        const b = connectTo(real, '127.0.0.1')
        for (const s of [a, b]) {
          open.add(s)
          s.on('error', () => undefined)
        }
        a.pipe(b).pipe(a)
      }).listen(port, '127.0.0.1', () => done(server))
    })
  let server = await relay()
  const { port } = server.address() as { port: number }
  const away = await testApp('away', { database: { ...t.config.database, name: 'nimble_quill_artworks', port } })
  try {
    const agent = await away.account('curlew')
    await agent.get('/api/artworks').expect(200)
    server.close()
    for (const s of open) s.destroy()
    const { body } = await agent.get('/api/artworks').expect(503)
    expect(body).toMatchObject({ code: 'database-away' })
    expect(body.detail).toContain('safe')
    server = await relay(port)
    for (let tries = 0; tries < 40; tries++) {
      if ((await agent.get('/api/artworks')).status === 200) break
      await new Promise((r) => setTimeout(r, 250))
    }
    await agent.get('/api/artworks').expect(200)
  } finally {
    await away.close()
    server.close()
    for (const s of open) s.destroy()
  }
})
