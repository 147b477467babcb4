import { recipeById } from '@nimble-quill/core'
import type request from 'supertest'
import sharp from 'sharp'
import { testApp, type TestApp } from '../testing/test-app.ts'

// States of an artwork kept by name, and recipes of one's own.

let t: TestApp
let me: ReturnType<typeof request.agent>
let stranger: ReturnType<typeof request.agent>
let artwork: { id: string; document: { title: string } & Record<string, unknown> }
beforeAll(async () => {
  t = await testApp('states')
  me = await t.account('godwit')
  stranger = await t.account('plover')
  const photo = await sharp({ create: { width: 60, height: 40, channels: 3, background: '#789' } })
    .jpeg()
    .toBuffer()
  const sent = await me.post('/api/photos?name=reeds.jpg').set('Content-Type', 'application/octet-stream').send(photo).expect(201)
  artwork = (await me.post('/api/artworks').send({ photo: sent.body.id }).expect(201)).body
})
afterAll(() => t.close())

const at = () => `/api/artworks/${artwork.id}/states`

test('a state is kept whole, read again, replaced under its name, and forgotten', async () => {
  const kept = (await me.put(at()).send({ name: ' Before the panels ', document: artwork.document }).expect(200)).body
  expect(kept.name).toBe('Before the panels')
  expect((await me.get(`${at()}/${kept.id}`).expect(200)).body.document).toEqual(artwork.document)
  const later = { ...artwork.document, title: 'Later' }
  expect((await me.put(at()).send({ name: 'Before the panels', document: later }).expect(200)).body.id).toBe(kept.id)
  expect((await me.get(`${at()}/${kept.id}`).expect(200)).body.document.title).toBe('Later')
  await me.put(at()).send({ name: 'Another', document: artwork.document }).expect(200)
  expect((await me.get(at()).expect(200)).body.map((s: { name: string }) => s.name).sort()).toEqual(['Another', 'Before the panels'])
  await me.delete(`${at()}/${kept.id}`).expect(204)
  expect((await me.get(`${at()}/${kept.id}`).expect(404)).body.code).toBe('not-found')
})

test('strangers neither see nor keep; what is no artwork is told', async () => {
  const kept = (await me.put(at()).send({ name: 'Mine', document: artwork.document }).expect(200)).body
  await stranger.get(at()).expect(404)
  await stranger.get(`${at()}/${kept.id}`).expect(404)
  await stranger.put(at()).send({ name: 'x', document: artwork.document }).expect(404)
  await stranger.delete(`${at()}/${kept.id}`).expect(404)
  await me
    .put(at())
    .send({ name: 'x', document: { layers: 'none' } })
    .expect(422)
  await me.put(at()).send({ name: '', document: artwork.document }).expect(400)
})

test('recipes of one’s own: kept by title, listed for their owner alone, forgotten', async () => {
  const recipe = { ...recipeById('gapped-tiles'), id: 'lantern-tiles', title: 'Lantern tiles' }
  const kept = (await me.put('/api/recipes').send({ recipe }).expect(200)).body
  expect(kept).toMatchObject({ title: 'Lantern tiles', recipe: { id: 'lantern-tiles' } })
  expect(
    (
      await me
        .put('/api/recipes')
        .send({ recipe: { ...recipe, help: 'Another' } })
        .expect(200)
    ).body,
  ).toMatchObject({ id: kept.id, recipe: { help: 'Another' } })
  expect((await me.get('/api/recipes').expect(200)).body).toHaveLength(1)
  expect((await stranger.get('/api/recipes').expect(200)).body).toEqual([])
  await stranger.delete(`/api/recipes/${kept.id}`).expect(404)
  await me.delete(`/api/recipes/${kept.id}`).expect(204)
})

test.each([
  [{ recipe: { format: 'something else' } }, /recipe/i],
  [{ recipe: { ...recipeById('graphite'), version: 99 } }, /version/i],
  [{ recipe: { ...recipeById('graphite'), layers: [] } }, /right form/],
])('a file that is none, or of a later version, is told of in a sentence (%#)', async (body, message) => {
  const answer = await me.put('/api/recipes').send(body)
  expect([400, 422]).toContain(answer.status)
  expect(answer.body.detail).toMatch(message)
})
