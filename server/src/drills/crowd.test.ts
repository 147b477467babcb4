import { get, request } from 'node:http'
import { artworkFromPhoto, newStep } from '@nimble-quill/core'
import sharp from 'sharp'
import { ServerProcess } from '../testing/server-process.ts'
import { picture } from '../testing/test-app.ts'

// Many at once, and what is not meant well: nobody is held up by another, and nothing is left open.

let s: ServerProcess
beforeAll(async () => {
  s = new ServerProcess('crowd', { QUILL_THUMBNAIL_SECONDS: '20', QUILL_IDLE_SECONDS: '2', QUILL_HOSTS: 'studio.example' })
  await s.begin()
}, 60_000)
afterAll(() => s.end())

const add = async (bytes: Buffer, cookie: string, signal?: AbortSignal) => s.call('POST', '/api/photos?name=a.png', bytes, cookie, signal)
const noisy = (width: number, height: number, seed: number) =>
  sharp({ create: { width, height, channels: 3, background: '#7a6a58', noise: { type: 'gaussian', mean: 90 + seed, sigma: 40 } } })
    .jpeg()
    .toBuffer()

test('a slow thumbnail holds up nobody’s uploads, is given up when who asked has left, and made with less care when it takes too long', async () => {
  const slow = await s.account('slow')
  const quick = await s.account('quick')
  const photo = (await (await add(await noisy(3000, 2000, 0), slow)).json()) as { asset: string }
  const document = artworkFromPhoto({ asset: photo.asset, width: 3000, height: 2000, title: 'Slow' })
  document.layers[0]!.chain = Array.from({ length: 12 }, () => newStep('kuwahara'))
  const { id } = (await (await s.call('POST', '/api/artworks', { document }, slow)).json()) as { id: string }
  const timed = async (seed: number) => {
    const file = await noisy(2400, 1600, seed)
    const began = performance.now()
    expect((await add(file, quick)).status).toBe(201)
    return performance.now() - began
  }
  await timed(1)
  const alone = await timed(2)
  const left = new AbortController()
  let over = false
  let status = 0
  const asked = s.call('GET', `/api/artworks/${id}/thumbnail`, undefined, slow, left.signal).then(
    (r) => {
      status = r.status
      over = true
    },
    () => (over = true),
  )
  await new Promise((r) => setTimeout(r, 800))
  const beside = await timed(3)
  // it was still being made; how long an upload takes beside it is measured in the bench, here only that it does not wait for it
  expect([over, status]).toEqual([false, 0])
  expect(beside).toBeLessThan(10 * alone + 2000)
  left.abort()
  await asked
  const began = performance.now()
  const small = (await (await add(await noisy(300, 200, 4), slow)).json()) as { asset: string }
  const next = (await (
    await s.call('POST', '/api/artworks', { document: artworkFromPhoto({ asset: small.asset, width: 300, height: 200, title: 'Next' }) }, slow)
  ).json()) as { id: string }
  expect((await s.call('GET', `/api/artworks/${next.id}/thumbnail`, undefined, slow)).status).toBe(200)
  expect(performance.now() - began).toBeLessThan(10_000)
}, 120_000)

test('pictures that would fill the memory are refused in a sentence, and the memory is given back', async () => {
  const cookie = await s.account('gulls')
  const before = s.memory()
  // a GIF of 36 bytes: its header says 12000 × 12000
  const gif = Buffer.from('474946383961e02ee02e800000000000ffffff2c00000000e02ee02e0002024401003b', 'hex')
  for (let i = 0; i < 4; i++) {
    const answer = await add(gif, cookie)
    expect(answer.status).toBe(413)
    expect(((await answer.json()) as { detail: string }).detail).toContain('GIF, WebP and AVIF are unpacked whole')
  }
  expect(s.memory()).toBeLessThan(before + 100)
  const wide = await sharp({ create: { width: 1_000_000, height: 3, channels: 3, background: '#888' } })
    .png()
    .toBuffer()
  const answer = await add(wide, cookie)
  expect(answer.status).toBe(413)
  expect(((await answer.json()) as { detail: string }).detail).toContain('a side may have up to 60000')
}, 60_000)

test('300 downloads broken off leave no file open', async () => {
  const cookie = await s.account('terns')
  const photo = (await (await add(await noisy(2400, 1600, 7), cookie)).json()) as { id: string }
  const open = s.openFiles()
  const broken = (path: string) =>
    new Promise<void>((done) => {
      const asked = get(`${s.url}${path}`, { headers: { cookie }, agent: false }, (r) => r.once('data', () => asked.destroy()))
      asked.on('error', () => done()).on('close', () => done())
      setTimeout(() => asked.destroy(), 40)
    })
  for (let i = 0; i < 30; i++) await Promise.all(Array.from({ length: 10 }, () => broken(`/api/photos/${photo.id}/small/1280`)))
  for (let i = 0; i < 60 && s.openFiles() > open + 10; i++) await new Promise((r) => setTimeout(r, 100))
  expect(s.openFiles()).toBeLessThanOrEqual(open + 10)
}, 60_000)

test('only success is kept by caches', async () => {
  const cookie = await s.account('rails')
  const photo = (await (await add(await picture('png', 50, 40), cookie)).json()) as { id: string }
  const found = await s.call('GET', `/api/photos/${photo.id}/small/320`, undefined, cookie)
  expect(found.headers.get('cache-control')).toContain('immutable')
  const missing = await s.call('GET', `/api/photos/${photo.id}/small/77`, undefined, cookie)
  expect([missing.status, missing.headers.get('cache-control')]).toEqual([404, 'no-store'])
})

test('strangers may send little, accounts documents of 2 MB, and each is told', async () => {
  const cookie = await s.account('stints')
  const sent = async (bytes: number, who: string) => {
    const answer = await s.call('POST', '/api/artworks', { document: { filler: 'x'.repeat(bytes) } }, who)
    return [answer.status, ((await answer.json()) as { code: string }).code]
  }
  expect(await sent(20_000, 'quill=nobody')).toEqual([413, 'too-large'])
  expect(await sent(1_900_000, cookie)).toEqual([422, 'artwork-invalid'])
  expect(await sent(2_200_000, cookie)).toEqual([413, 'too-large'])
})

test.each([
  ['127.0.0.1', 200],
  ['localhost:4170', 200],
  ['[::1]:4170', 200],
  ['studio.example', 200],
  ['lanterns.evil.example', 421],
  ['127.0.0.1.evil.example:4170', 421],
  ['', 421],
])('a request to the host “%s” is answered with %d', async (host, status) => {
  const got = await new Promise<number>((done, fail) =>
    get({ port: s.port, host: '127.0.0.1', path: '/api/welcome', headers: { host }, setHost: false, agent: false }, (r) => {
      r.resume()
      done(r.statusCode!)
    }).on('error', fail),
  )
  // without any host the request is none
  expect(host === '' ? [400, 421] : [status]).toContain(got)
})

test('a connection on which nothing moves is closed; one that moves slowly is not', async () => {
  const cookie = await s.account('godwits')
  const file = await picture('png', 64, 64)
  const upload = (pause: number) =>
    new Promise<number>((done) => {
      const url = new URL(`${s.url}/api/photos?name=slow.png`)
      const asked = request(
        {
          port: url.port,
          host: '127.0.0.1',
          path: url.pathname + url.search,
          method: 'POST',
          agent: false,
          headers: { cookie, 'Content-Length': String(file.length) },
        },
        (r) => {
          r.resume()
          done(r.statusCode!)
        },
      )
      asked.on('error', () => done(0))
      void (async () => {
        const parts = 5
        for (let i = 0; i < parts; i++) {
          asked.write(file.subarray(Math.floor((i * file.length) / parts), Math.floor(((i + 1) * file.length) / parts)))
          await new Promise((r) => setTimeout(r, pause))
        }
        asked.end()
      })()
    })
  // longer than the time-out of 2 s on the whole
  expect(await upload(700)).toBe(201)
  expect(await upload(4000)).not.toBe(201)
}, 60_000)
