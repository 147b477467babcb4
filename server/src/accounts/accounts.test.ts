import { routes } from '@nimble-quill/contracts'
import { Account, Session } from '../database/models.ts'
import { testApp, type TestApp } from '../testing/test-app.ts'

let t: TestApp
beforeAll(async () => {
  t = await testApp('accounts')
})
afterAll(() => t.close())

test('sign up, see oneself, sign out, sign in again', async () => {
  const me = await t.account('wren')
  expect((await me.get('/api/session').expect(200)).body).toMatchObject({ name: 'wren', email: 'wren@example.org' })
  await me.delete('/api/session').expect(204)
  await me.get('/api/session').expect(401)
  const entered = await t.anonymous().post('/api/session').send({ email: ' WREN@example.org', password: 'a long enough password' }).expect(200)
  const [cookie] = entered.headers['set-cookie'] as unknown as string[]
  expect(cookie).toMatch(/HttpOnly/)
  expect(cookie).toMatch(/SameSite=Lax/)
  // the table knows neither the password nor the token
  const account = (await Account.findOne({ where: { email: 'wren@example.org' } }))!
  expect(account.passwordHash).toMatch(/^\$argon2id\$/)
  const token = /quill=([^;]+)/.exec(cookie!)![1]!
  expect(await Session.count({ where: { tokenHash: token } })).toBe(0)
})

test('a wrong password and an unknown address get the same answer', async () => {
  await t.account('smew')
  const wrong = await t.anonymous().post('/api/session').send({ email: 'smew@example.org', password: 'not the password' }).expect(401)
  const unknown = await t.anonymous().post('/api/session').send({ email: 'nobody@example.org', password: 'not the password' }).expect(401)
  expect(wrong.body).toEqual(unknown.body)
  expect(wrong.headers['content-type']).toMatch(/application\/problem\+json/)
})

test('what is not as expected is told by name; a taken address too', async () => {
  const short = await t.anonymous().post('/api/accounts').send({ name: 'x', email: 'x@example.org', password: 'short' }).expect(400)
  expect(short.body).toMatchObject({ status: 400, code: 'request-invalid' })
  expect(short.body.detail).toContain('at least 10 characters')
  await t.account('teal')
  const taken = await t.anonymous().post('/api/accounts').send({ name: 'b', email: 'teal@example.org', password: 'a long enough password' }).expect(409)
  expect(taken.body.code).toBe('email-taken')
  expect((await t.anonymous().post('/api/accounts').set('Content-Type', 'application/json').send('{"name":').expect(400)).body.code).toBe('not-json')
})

test('changes from another site are refused', async () => {
  const me = await t.account('dunlin')
  expect((await me.post('/api/artworks').set('Origin', 'https://elsewhere.example').send({}).expect(403)).body.code).toBe('other-origin')
  await me.get('/api/session').set('Origin', 'https://elsewhere.example').expect(200)
})

test('the demo studio is not there unless the server is in demo mode', async () => {
  expect((await t.anonymous().get('/api/welcome').expect(200)).body).toEqual({ demo: false })
  await t.anonymous().post('/api/session/demo').expect(404)
})

test('every described route is there, and closed to strangers unless it says so', async () => {
  for (const r of routes) {
    const path = r.path.replace(/:\w+/g, '1').replace('?name=', '?name=x')
    const { status } = await t.anonymous()[r.method](path)
    if (!r.open) expect([r.method, r.path, status]).toEqual([r.method, r.path, 401])
    // wrong or missing bodies are refused as such; the demo studio is not there in this mode
    else expect([r.path, status]).toEqual([r.path, { '/api/welcome': 200, '/api/session/demo': 404 }[r.path] ?? 400])
  }
  const { body } = await t.anonymous().get('/api/openapi.json').expect(200)
  expect(body.openapi).toBe('3.1.0')
  expect(Object.keys(body.paths).length).toBeGreaterThan(15)
  expect((await t.anonymous().get('/api/docs').expect(200)).text).toContain('GET /api/renders/events')
})

test('pages are isolated and scripts are the server’s own', async () => {
  const { headers } = await t.anonymous().get('/api/welcome')
  expect(headers['cross-origin-opener-policy']).toBe('same-origin')
  expect(headers['cross-origin-embedder-policy']).toBe('require-corp')
  expect(headers['content-security-policy']).toContain("script-src 'self' 'wasm-unsafe-eval'")
  expect(headers['strict-transport-security']).toBeUndefined()
})

test('too many tries are slowed down', async () => {
  const strict = await testApp('throttle', { signInLimit: 3 })
  try {
    const statuses: number[] = []
    for (let i = 0; i < 5; i++) statuses.push((await strict.anonymous().post('/api/session').send({ email: 'a@example.org', password: 'xxxxxxxxxxx' })).status)
    expect(statuses).toEqual([401, 401, 401, 429, 429])
  } finally {
    await strict.close()
  }
})

test('an account is tried only so often, wherever the tries come from', async () => {
  const strict = await testApp('throttled', { signInLimit: 4 })
  try {
    const tries = (email: string, from: string) => strict.anonymous().post('/api/session').set('X-Forwarded-For', from).send({ email, password: 'xxxxxxxxxxx' })
    // each from an address of its own: believed for this test
    strict.app.set('trust proxy', true)
    const statuses: number[] = []
    for (let i = 0; i < 6; i++) statuses.push((await tries('Crake@example.org', `10.0.0.${i}`)).status)
    expect(statuses).toEqual([401, 401, 401, 401, 429, 429])
    expect((await tries('rail@example.org', '10.0.1.1')).status).toBe(401)
  } finally {
    await strict.close()
  }
})

test('an e-mail address longer than the mail allows is told', async () => {
  const email = `${'a'.repeat(250)}@example.org`
  const { body } = await t.anonymous().post('/api/accounts').send({ name: 'x', email, password: 'a long enough password' }).expect(400)
  expect(body.detail).toContain('254')
})
