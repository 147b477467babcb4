import { join } from 'node:path'
import { loadArtwork } from '@nimble-quill/core'
import { DEMO_EMAIL } from '../accounts/accounts.service.ts'
import { Account, Artwork, Photo } from '../database/models.ts'
import { testApp, type TestApp } from '../testing/test-app.ts'
import { seed } from './seed.ts'

let t: TestApp
beforeAll(async () => {
  t = await testApp('seed', { demo: true })
})
afterAll(() => t.close())

test('the demo studio has the photographs, papers, washes and begun artworks that load; a second time nothing is added', async () => {
  const folder = join(__dirname, '../../../demo')
  await seed(t.app, folder)
  const account = (await Account.findOne({ where: { email: DEMO_EMAIL } }))!
  const photos = await Photo.findAll({ where: { accountId: account.id } })
  expect(photos.map((p) => p.name).sort()).toEqual([
    'Canvas.jpg',
    'Cold-pressed paper.jpg',
    'Coral wash.jpg',
    'Heron on a post.jpg',
    'Kraft paper.jpg',
    'Lantern stall at dusk.jpg',
    'Marsh at sunset.jpg',
    'The boathouse.jpg',
    'The lantern keeper.jpg',
    'Tide wash.jpg',
    'Tin boats.jpg',
  ])
  const artworks = await Artwork.findAll({ where: { accountId: account.id } })
  expect(artworks.length).toBeGreaterThanOrEqual(4)
  for (const a of artworks) expect(loadArtwork(JSON.parse(a.document)).title).toBe(a.title)

  await seed(t.app, folder)
  expect(await Photo.count({ where: { accountId: account.id } })).toBe(photos.length)
  expect(await Artwork.count({ where: { accountId: account.id } })).toBe(artworks.length)

  // it is entered by one click, and its pictures are there
  const guest = t.anonymous()
  const entered = await guest.post('/api/session/demo').expect(200)
  const cookie = entered.headers['set-cookie']![0]!
  expect((await guest.get('/api/artworks').set('Cookie', cookie).expect(200)).body).toHaveLength(artworks.length)
  await guest.get(`/api/artworks/${artworks[0]!.id}/thumbnail`).set('Cookie', cookie).expect(200).expect('Content-Type', 'image/png')
}, 120_000)
