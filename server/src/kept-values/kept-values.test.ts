import type request from 'supertest'
import { testApp, type TestApp } from '../testing/test-app.ts'

let t: TestApp
let me: ReturnType<typeof request.agent>
beforeAll(async () => {
  t = await testApp('kept')
  me = await t.account('dunlin')
})
afterAll(() => t.close())

const list = async (who = me) => (await who.get('/api/kept-values').expect(200)).body as { id: string; step: string; name: string; params: { level: number } }[]

test('values are kept by step and name, replaced under the same name, and forgotten', async () => {
  expect(await list()).toEqual([])
  const hard = (
    await me
      .put('/api/kept-values')
      .send({ step: 'threshold', name: ' Hard ', params: { level: 200 } })
      .expect(200)
  ).body
  // what was not named has its default
  expect(hard).toMatchObject({ step: 'threshold', version: 1, name: 'Hard', params: { level: 200, softness: 0, by: 'hand' } })
  const again = (
    await me
      .put('/api/kept-values')
      .send({ step: 'threshold', name: 'Hard', params: { level: 90 } })
      .expect(200)
  ).body
  expect(again.id).toBe(hard.id)
  await me.put('/api/kept-values').send({ step: 'invert', name: 'Hard', params: {} }).expect(200)
  expect((await list()).map((k) => [k.step, k.name, k.params.level])).toEqual(
    expect.arrayContaining([
      ['threshold', 'Hard', 90],
      ['invert', 'Hard', undefined],
    ]),
  )
  await me.delete(`/api/kept-values/${hard.id}`).expect(204)
  expect((await list()).map((k) => k.step)).toEqual(['invert'])
  expect((await me.delete(`/api/kept-values/${hard.id}`).expect(404)).body.code).toBe('not-found')
})

test('brushes are kept beside values of steps, whole', async () => {
  const kept = (
    await me
      .put('/api/kept-values')
      .send({ step: 'brush', name: 'Sign writer', params: { tip: 'chisel', breadth: { value: 4, unit: 'mm' } } })
      .expect(200)
  ).body
  expect(kept.params).toMatchObject({ tip: 'chisel', breadth: { value: 4, unit: 'mm' }, most: 1, pressure: { response: 'gentle' } })
  await me.delete(`/api/kept-values/${kept.id}`).expect(204)
})

test.each([
  [{ step: 'brush', name: 'x', params: { tip: 'feather' } }, 422, 'param-invalid'],
  [{ step: 'brush', name: 'x', params: { breadth: { value: 4, unit: 'ell' } } }, 422, 'param-invalid'],
  [{ step: 'brush', name: 'x', params: { glitter: 1 } }, 422, 'param-invalid'],
  [{ step: 'sparkle', name: 'x', params: {} }, 422, 'unknown-step'],
  [{ step: 'threshold', name: 'x', params: { level: 9000 } }, 422, 'param-invalid'],
  [{ step: 'threshold', name: 'x', params: { glow: 1 } }, 422, 'unknown-param'],
  [{ step: 'threshold', name: '  ', params: {} }, 400, 'request-invalid'],
  [{ step: 'threshold', name: 'x'.repeat(61), params: {} }, 400, 'request-invalid'],
])('what cannot be kept is refused, and what was kept stays: %j', async (body, status, code) => {
  const before = await list()
  const answer = (await me.put('/api/kept-values').send(body).expect(status)).body
  expect(answer.code).toBe(code)
  expect(answer.detail).toMatch(/\./)
  expect(await list()).toEqual(before)
})

test('another account neither sees nor forgets them', async () => {
  const mine = (await me.put('/api/kept-values').send({ step: 'levels', name: 'Mine', params: {} }).expect(200)).body
  const other = await t.account('knot')
  expect(await list(other)).toEqual([])
  await other.delete(`/api/kept-values/${mine.id}`).expect(404)
  expect((await list()).some((k) => k.id === mine.id)).toBe(true)
  await t.anonymous().get('/api/kept-values').expect(401)
})
