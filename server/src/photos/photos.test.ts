import { existsSync, mkdtempSync, readdirSync, symlinkSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { inflateSync } from 'node:zlib'
import sharp from 'sharp'
import type request from 'supertest'
import { picture, testApp, type TestApp } from '../testing/test-app.ts'
import type { Store } from './store.ts'
import type { Pool } from '../workers/pool.ts'
import { DECODING, STORE } from './tokens.ts'

let t: TestApp
let me: ReturnType<typeof request.agent>
beforeAll(async () => {
  t = await testApp('photos')
  me = await t.account('wigeon')
})
afterAll(() => t.close())

const add = (bytes: Buffer, name = 'a.png') =>
  me
    .post(`/api/photos?name=${encodeURIComponent(name)}`)
    .set('Content-Type', 'application/octet-stream')
    .send(bytes)

/** Temporary files. */
const scratch = () => readdirSync(join(t.config.dataDir, 'scratch'), { recursive: true, withFileTypes: true }).filter((e) => e.isFile())

/** The stored full-size pixels, from the tiles a browser would read. */
async function stored(asset: string): Promise<{ width: number; height: number; channels: number; depth: number; pixels: number[] }> {
  const info = (await me.get(`/api/sources/${asset}`).expect(200)).body as { width: number; height: number; channels: number; depth: number }
  const { body } = await me
    .get(`/api/sources/${asset}/0/0/0`)
    .buffer(true)
    .parse((r, done) => {
      const parts: Buffer[] = []
      r.on('data', (d: Buffer) => parts.push(d))
      r.on('end', () => done(null, Buffer.concat(parts)))
    })
  const raw = inflateSync(body as Buffer)
  const row = info.width * info.channels
  const pixels: number[] = []
  for (let i = 0; i < row * info.height; i++) {
    const left = i % row < info.channels ? 0 : pixels[i - info.channels]!
    pixels.push(info.depth === 8 ? (raw[i]! + left) & 255 : (raw.readUInt16LE(i * 2) + left) & 65535)
  }
  return { ...info, pixels }
}

test('a photo is kept by content, its pixels exactly, and shown small', async () => {
  const file = await picture()
  const { body } = await add(file, 'Tide table.png').expect(201)
  expect(body).toMatchObject({ name: 'Tide table.png', width: 60, height: 40, depth: 8, alpha: false, bytes: file.length })
  expect(body.asset).toMatch(/^[0-9a-f]{64}$/)
  const want = [...(await sharp(file).raw().toBuffer())]
  expect((await stored(body.asset)).pixels).toEqual(want)
  const small = await me.get(`/api/photos/${body.id}/small/320`).expect(200)
  expect(await sharp(small.body as Buffer).metadata()).toMatchObject({ format: 'webp', width: 60 })
  // the same file once more is the same photo
  expect((await add(file, 'again.png').expect(201)).body.id).toBe(body.id)
  expect(scratch()).toEqual([])
})

test('one file sent several times at once, by two accounts, is decoded once and added once to each', async () => {
  const file = await picture('jpeg', 700, 500)
  const other = await t.account('gadwall')
  const send = (who: typeof me) => who.post('/api/photos?name=same.jpg').set('Content-Type', 'application/octet-stream').send(file)
  const cut = jest.spyOn(t.app.get<Pool>(DECODING), 'start')
  const all = await Promise.all([send(me), send(me), send(other), send(me)])
  expect(all.map((r) => r.status)).toEqual([201, 201, 201, 201])
  expect(new Set([all[0], all[1], all[3]].map((r) => r!.body.id)).size).toBe(1)
  expect(cut.mock.calls.length).toBe(1)
  cut.mockRestore()
  expect(scratch()).toEqual([])
})

test('deleting takes it off the desk, and can be taken back', async () => {
  const { body } = await add(await picture('jpeg', 30, 31), 'gone.jpg').expect(201)
  await me.delete(`/api/photos/${body.id}`).expect(204)
  expect((await me.get('/api/photos')).body.map((p: { id: string }) => p.id)).not.toContain(body.id)
  await me.post(`/api/photos/${body.id}/restore`).expect(200)
  expect((await me.get('/api/photos')).body.map((p: { id: string }) => p.id)).toContain(body.id)
  // sent again after it was deleted, it is back, under its new name
  await me.delete(`/api/photos/${body.id}`).expect(204)
  expect((await add(await picture('jpeg', 30, 31), 'back.jpg').expect(201)).body).toMatchObject({ id: body.id, name: 'back.jpg' })
  expect((await me.get('/api/photos')).body.map((p: { id: string }) => p.id)).toContain(body.id)
})

describe('kinds of pictures', () => {
  const base = () => sharp({ create: { width: 32, height: 20, channels: 3, background: { r: 200, g: 100, b: 50 } } })

  test('16 bits stay 16 bits', async () => {
    const samples = Uint16Array.from({ length: 20 * 10 * 3 }, (_, i) => (i * 331) % 65536)
    const file = await sharp(samples, { raw: { width: 20, height: 10, channels: 3 } })
      .toColourspace('rgb16')
      .png()
      .toBuffer()
    const { body } = await add(file).expect(201)
    const got = await stored(body.asset)
    expect(got.depth).toBe(16)
    expect(got.pixels).toEqual([...samples])
  })

  test('transparency is kept', async () => {
    const file = await sharp({ create: { width: 9, height: 7, channels: 4, background: { r: 10, g: 20, b: 30, alpha: 0.5 } } })
      .png()
      .toBuffer()
    const { body } = await add(file).expect(201)
    expect(body.alpha).toBe(true)
    expect((await stored(body.asset)).pixels.slice(0, 4)).toEqual([10, 20, 30, 128])
  })

  test('greyscale becomes grey', async () => {
    const file = await base().toColourspace('b-w').png().toBuffer()
    expect((await sharp(file).metadata()).channels).toBe(1)
    const got = await stored((await add(file).expect(201)).body.asset)
    expect(got.channels).toBe(3)
    expect(got.pixels[0]).toBe(got.pixels[1])
  })

  test('a CMYK JPEG is converted', async () => {
    const file = await base().toColourspace('cmyk').jpeg({ quality: 100 }).toBuffer()
    expect((await sharp(file).metadata()).space).toBe('cmyk')
    const [r, g, b] = (await stored((await add(file).expect(201)).body.asset)).pixels
    expect(Math.abs(r! - 200)).toBeLessThan(25)
    expect(Math.abs(g! - 100)).toBeLessThan(25)
    expect(Math.abs(b! - 50)).toBeLessThan(30)
  })

  test('an embedded profile is converted to sRGB', async () => {
    // Display P3 (200, 100, 50) lies outside the sRGB of the same numbers: redder
    const file = await sharp(await base().png().toBuffer())
      .withIccProfile('p3')
      .png()
      .toBuffer()
    const got = (await stored((await add(file).expect(201)).body.asset)).pixels
    // the file shows what the plain one shows, so conversion brings the plain numbers back
    expect(Math.abs(got[0]! - 200)).toBeLessThan(3)
    expect(Math.abs(got[2]! - 50)).toBeLessThan(4)
  })

  test('EXIF orientation is applied', async () => {
    const file = await sharp(await picture('png', 24, 10))
      .withMetadata({ orientation: 6 })
      .jpeg()
      .toBuffer()
    const { body } = await add(file).expect(201)
    expect(body).toMatchObject({ width: 10, height: 24 })
  })

  test.each([
    [1, 1],
    [1, 8000],
  ])('%d × %d', async (w, h) => {
    const { body } = await add(await picture('png', w, h)).expect(201)
    expect(body).toMatchObject({ width: w, height: h })
  })
})

describe('what cannot be taken in is told, and nothing is left behind', () => {
  const files = () => readdirSync(join(t.config.dataDir, 'photos')).length + scratch().length

  test.each([
    ['an empty file', async () => Buffer.alloc(0), 422, 'photo-empty'],
    ['a text', async () => Buffer.from('Brackwater Lantern Week: programme'), 415, 'photo-not-a-picture'],
    ['a drawing in SVG', async () => Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>'), 415, 'photo-not-a-picture'],
    ['a JPEG cut off in the middle', async () => (await picture('jpeg', 400, 300)).subarray(0, 20_000), 422, 'photo-spoilt'],
    [
      'a PNG with spoilt bytes',
      async () => {
        const file = await picture('png', 200, 200)
        file.fill(7, 400, 2000)
        return file
      },
      422,
      'photo-spoilt',
    ],
    [
      '156 megapixels',
      () =>
        sharp({ create: { width: 13_000, height: 12_000, channels: 3, background: '#888' } })
          .png({ compressionLevel: 1 })
          .toBuffer(),
      413,
      'photo-too-large',
    ],
  ] as const)('%s', async (_, make, status, code) => {
    const before = files()
    const { body } = await add(await make()).expect(status)
    expect(body).toMatchObject({ code, status })
    expect(body.detail).toContain('Nothing was added')
    if (code === 'photo-too-large') expect(body.detail).toContain('150')
    expect(files()).toBe(before)
  })

  test('over 120 MB, by its declared length and by its stream', async () => {
    const huge = Buffer.alloc(121 * 2 ** 20, 7)
    const { body } = await add(huge).expect(413)
    expect(body.detail).toContain('120 MB')
  })

  test('a full disk', async () => {
    const store = t.app.get<Store>(STORE)
    const full = join(mkdtempSync(join(tmpdir(), 'quill-full-')), 'full')
    symlinkSync('/dev/full', full)
    jest.spyOn(store, 'scratch').mockReturnValueOnce(full)
    const { body } = await add(await picture('png', 90, 91)).expect(507)
    expect(body).toMatchObject({ code: 'disk-full' })
    expect(existsSync('/dev/full')).toBe(true)
  })
})

test('another account’s photo answers exactly as a missing one', async () => {
  const { body } = await add(await picture('png', 61, 33)).expect(201)
  const other = await t.account('pochard')
  const missing = '00000000-0000-4000-8000-000000000000'
  for (const path of [
    (id: string) => other.delete(`/api/photos/${id}`),
    (id: string) => other.get(`/api/photos/${id}/small/320`),
    (id: string) => other.post(`/api/photos/${id}/restore`),
  ]) {
    const theirs = await path(body.id).expect(404)
    const nobodys = await path(missing).expect(404)
    expect(theirs.body).toEqual(nobodys.body)
  }
  expect((await other.get(`/api/sources/${body.asset}`).expect(404)).body).toEqual((await other.get(`/api/sources/${'0'.repeat(64)}`).expect(404)).body)
  await other.get(`/api/sources/${body.asset}/0/0/0`).expect(404)
})
