import { createHash } from 'node:crypto'
import { readdirSync, statSync, utimesSync } from 'node:fs'
import { join } from 'node:path'
import { deflateSync, inflateSync } from 'node:zlib'
import {
  constantEntry,
  emptyPlane,
  indexOf,
  inkBlobs,
  newMask,
  noInk,
  packPart,
  PLANE_TILE,
  unpackPart,
  withEntries,
  withStrokes,
  type Artwork,
} from '@nimble-quill/core'
import sharp from 'sharp'
import type request from 'supertest'
import { picture, testApp, type TestApp } from '../testing/test-app.ts'
import { PlanesService } from './planes.service.ts'

let t: TestApp
let me: ReturnType<typeof request.agent>
let photo: string
beforeAll(async () => {
  t = await testApp('planes')
  me = await t.account('heron')
  photo = (
    await me
      .post('/api/photos?name=Pier.png')
      .set('Content-Type', 'application/octet-stream')
      .send(await picture('png', 300, 200))
      .expect(201)
  ).body.id
})
afterAll(() => t.close())

interface Part {
  name: string
  bytes: Uint8Array
}
const named = (bytes: Uint8Array): Part => ({ name: createHash('sha256').update(bytes).digest('hex'), bytes })
const send = (part: Part, who = me) =>
  who
    .put(`/api/planes/${part.name}`)
    .set('Content-Type', 'application/octet-stream')
    .send(deflateSync(packPart(part.bytes)))

/** A mask that lets the left half of the first tile act, and all of the next one. */
function halfMask(): { parts: Part[]; index: string; tile: Part; page: Part; root: Part } {
  const codes = new Uint16Array(PLANE_TILE * PLANE_TILE)
  for (let y = 0; y < PLANE_TILE; y++) codes.fill(65535, y * PLANE_TILE, y * PLANE_TILE + 100)
  const tile = named(new Uint8Array(codes.buffer))
  const plane = withEntries(emptyPlane(1), [
    { tx: 0, ty: 0, entry: tile.name },
    { tx: 1, ty: 0, entry: constantEntry(65535) },
  ])
  const { root, pages } = indexOf(plane)
  return { parts: [tile, ...pages, root], index: root.name, tile, page: pages[0]!, root }
}

async function masked(index: string): Promise<{ id: string; document: Artwork }> {
  const a = (await me.post('/api/artworks').send({ photo }).expect(201)).body as { id: string; document: Artwork }
  const fill = { ...structuredClone(a.document.layers[0]!), id: 'white', name: 'White', source: { type: 'fill' as const, colour: '#ffffff', alpha: 1 } }
  return { id: a.id, document: { ...a.document, layers: [...a.document.layers, { ...fill, mask: { ...newMask('empty'), plane: { index, channels: 1 } } }] } }
}

test('a save that names missing parts is answered with their list, as far down as is known, and taken once they are there', async () => {
  const mask = halfMask()
  const { id, document } = await masked(mask.index)
  const save = () => me.put(`/api/artworks/${id}`).send({ revision: 1, document })
  const missing = async () => (await save().expect(422)).body as { code: string; missing: string[]; detail: string }
  expect(await missing()).toMatchObject({ code: 'plane-parts-missing', missing: [mask.index] })
  await send(mask.root).expect(204)
  expect((await missing()).missing).toEqual([mask.page.name])
  await send(mask.page).expect(204)
  expect((await missing()).missing).toEqual([mask.tile.name])
  await send(mask.tile).expect(204)
  await save().expect(200)
  // sent again: nothing to do
  await send(mask.tile).expect(204)
  expect((await me.post('/api/planes/missing').send({ names: [mask.tile.name, 'a'.repeat(64)] })).body).toEqual({ missing: ['a'.repeat(64)] })
  const back = await me
    .get(`/api/planes/${mask.tile.name}`)
    .buffer(true)
    .parse((res, done) => {
      const chunks: Buffer[] = []
      res.on('data', (c: Buffer) => chunks.push(c))
      res.on('end', () => done(null, Buffer.concat(chunks)))
    })
  expect(Buffer.compare(Buffer.from(unpackPart(inflateSync(back.body as Buffer))), Buffer.from(mask.tile.bytes))).toBe(0)

  // and the picture the server makes of it goes by it
  const thumbnail = await me.get(`/api/artworks/${id}/thumbnail`).expect(200)
  const { data, info } = await sharp(thumbnail.body as Buffer)
    .raw()
    .toBuffer({ resolveWithObject: true })
  const at = (x: number, y: number) => data[(y * info.width + x) * info.channels]
  expect([at(20, 100), at(280, 100)]).toEqual([255, 255])
  expect(Array.from({ length: 20 }, (_, i) => at(150 + i, 100)).some((v) => v !== 255)).toBe(true)
})

test('parts belong to an account', async () => {
  const mask = halfMask()
  for (const p of mask.parts) await send(p).expect(204)
  const other = await t.account('plover')
  await other.get(`/api/planes/${mask.root.name}`).expect(404)
  expect((await other.post('/api/planes/missing').send({ names: [mask.root.name] })).body.missing).toEqual([mask.root.name])
  await t.anonymous().get(`/api/planes/${mask.root.name}`).expect(401)
})

test('what is not what its name says, is spoilt, too large or no part of a plane is refused in a sentence and not kept', async () => {
  const tile = named(new Uint8Array(PLANE_TILE * PLANE_TILE * 2).fill(7))
  const put = (name: string, body: Buffer) => me.put(`/api/planes/${name}`).set('Content-Type', 'application/octet-stream').send(body)
  const wrong = await put('b'.repeat(64), deflateSync(packPart(tile.bytes))).expect(422)
  expect(wrong.body.detail).toMatch(/not what its name says/)
  expect((await put(tile.name, Buffer.from('no zlib at all')).expect(422)).body.detail).toMatch(/spoilt/)
  const other = named(new TextEncoder().encode('{"hello":1}'))
  expect((await send(other).expect(422)).body.detail).toMatch(/no part of anything painted/)
  // a small body that unfolds into a gigabyte
  expect((await put(tile.name, deflateSync(Buffer.alloc(64 * 2 ** 20))).expect(422)).body.detail).toMatch(/spoilt/)
  expect((await put(tile.name, Buffer.alloc(700_000)).expect(413)).body.detail).toMatch(/half a megabyte/)
  await put('../../etc', Buffer.from('x')).expect(404)
  await put('nope', Buffer.from('x')).expect(400)
  expect((await me.post('/api/planes/missing').send({ names: [tile.name] })).body.missing).toEqual([tile.name])
})

test('an index of other channels, or one that names itself among its pages, is refused', async () => {
  const mask = halfMask()
  for (const p of mask.parts) await send(p).expect(204)
  const { id, document } = await masked(mask.index)
  const paint = structuredClone(document)
  paint.layers[1]!.mask = null
  paint.layers[1]!.source = { type: 'paint', plane: { index: mask.index, channels: 4 } }
  expect((await me.put(`/api/artworks/${id}`).send({ revision: 1, document: paint }).expect(422)).body.detail).toMatch(/other channels/)
  // a page where a root should be, and a root where a page should be: what an index that leads back to itself comes to
  const round = named(new TextEncoder().encode(JSON.stringify({ plane: 1, channels: 1, pages: [[0, 0, mask.index]] })))
  await send(round).expect(204)
  const circular = structuredClone(document)
  circular.layers[1]!.mask!.plane = { index: round.name, channels: 1 }
  expect((await me.put(`/api/artworks/${id}`).send({ revision: 1, document: circular }).expect(422)).body.detail).toMatch(/cannot be read/)
})

test('ink: a save that names strokes that are not there is told which, and they stay while an artwork names them; spoilt ones are refused', async () => {
  const { root, chunks } = inkBlobs(
    withStrokes(noInk, [
      [
        { x: 10, y: 10, half: 2 },
        { x: 90, y: 40, half: 1 },
      ],
    ]),
  )
  const a = (await me.post('/api/artworks').send({ photo }).expect(201)).body as { id: string; document: Artwork }
  const ink = { ...structuredClone(a.document.layers[0]!), id: 'ink', name: 'Ink', source: { type: 'ink' as const, blob: root.name, colour: '#000000' } }
  const save = () => me.put(`/api/artworks/${a.id}`).send({ revision: 1, document: { ...a.document, layers: [...a.document.layers, ink] } })
  expect((await save().expect(422)).body).toMatchObject({ code: 'plane-parts-missing', missing: [root.name] })
  await send(root).expect(204)
  expect((await save().expect(422)).body.missing).toEqual([chunks[0]!.name])
  await send(chunks[0]!).expect(204)
  await save().expect(200)
  // a rest of a chunk is no part of anything
  await send(named(chunks[0]!.bytes.slice(0, -2))).expect(422)
  const planes = t.app.get(PlanesService)
  await planes.sweep(Date.now() + 1000)
  expect((await me.post('/api/planes/missing').send({ names: [root.name, chunks[0]!.name] })).body).toEqual({ missing: [] })
})

test('the sweep takes what no artwork names and is older than a day, and nothing else', async () => {
  const mask = halfMask()
  for (const p of mask.parts) await send(p).expect(204)
  const { id, document } = await masked(mask.index)
  await me.put(`/api/artworks/${id}`).send({ revision: 1, document }).expect(200)
  const left = named(new Uint8Array(PLANE_TILE * PLANE_TILE * 2).fill(9))
  const young = named(new Uint8Array(PLANE_TILE * PLANE_TILE * 2).fill(10))
  for (const p of [left, young]) await send(p).expect(204)
  const root = join(t.config.dataDir, 'planes')
  const files = readdirSync(root, { recursive: true, withFileTypes: true }).filter((e) => e.isFile())
  const twoDaysAgo = Date.now() / 1000 - 2 * 24 * 3600
  for (const f of files) if (f.name !== young.name) utimesSync(join(f.parentPath, f.name), twoDaysAgo, twoDaysAgo)
  const planes = t.app.get(PlanesService)
  expect(await planes.sweep()).toBeGreaterThan(0)
  const names = [...mask.parts, left, young].map((p) => p.name)
  expect((await me.post('/api/planes/missing').send({ names })).body.missing).toEqual([left.name])
  // a deleted artwork may come back
  await me.delete(`/api/artworks/${id}`).expect(204)
  await planes.sweep()
  expect((await me.post('/api/planes/missing').send({ names: mask.parts.map((p) => p.name) })).body.missing).toEqual([])
  expect(statSync(root).isDirectory()).toBe(true)
})

test('the sweep spares what only a kept state names, until the state is forgotten', async () => {
  const tile = named(new Uint8Array(PLANE_TILE * PLANE_TILE * 2).map((_, i) => (i * 7) % 251))
  const { root, pages } = indexOf(withEntries(emptyPlane(1), [{ tx: 3, ty: 2, entry: tile.name }]))
  const parts = [tile, ...pages, root]
  for (const p of parts) await send(p).expect(204)
  const { id, document } = await masked(root.name)
  const states = `/api/artworks/${id}/states`
  const state = (await me.put(states).send({ name: 'Painted', document }).expect(200)).body as { id: string }
  const old = () => {
    const twoDaysAgo = Date.now() / 1000 - 2 * 24 * 3600
    const files = readdirSync(join(t.config.dataDir, 'planes'), { recursive: true, withFileTypes: true }).filter((e) => e.isFile())
    for (const f of files) utimesSync(join(f.parentPath, f.name), twoDaysAgo, twoDaysAgo)
  }
  const names = parts.map((p) => p.name)
  const missing = async () => ((await me.post('/api/planes/missing').send({ names })).body as { missing: string[] }).missing
  const planes = t.app.get(PlanesService)
  old()
  await planes.sweep()
  expect(await missing()).toEqual([])
  await me.delete(`${states}/${state.id}`).expect(204)
  old()
  await planes.sweep()
  expect((await missing()).sort()).toEqual([...names].sort())
})
