import type { Render } from '@nimble-quill/contracts'
import { api } from '../store/api.ts'
import { makeStore } from '../store/store.ts'
import { takeNews } from './use-render-events.ts'

const running: Render = {
  id: 'r1',
  artwork: 'a1',
  title: 'Heron',
  format: 'png',
  state: 'running',
  progress: 0.5,
  width: null,
  height: null,
  bytes: null,
  message: null,
  createdAt: '2026-11-30T12:00:00.000Z',
  finishedAt: null,
}
const done: Render = { ...running, state: 'done', progress: 1, width: 60, height: 40, bytes: 900, finishedAt: '2026-11-30T12:00:01.000Z' }

/** A server whose answers are held until they are let go, each read at the moment it was asked for. */
function heldServer(state: { list: Render[] }) {
  const held: (() => void)[] = []
  const answer = () => {
    const body = JSON.stringify(state.list)
    const response = { ok: true, status: 200, headers: new Map([['content-type', 'application/json']]), text: async () => body }
    return new Promise((done) => held.push(() => done({ ...response, clone: () => response })))
  }
  const asked = { clone: () => asked }
  // jsdom has none of these
  const Request = function () {
    return asked
  }
  Object.assign(globalThis, { fetch: answer, Request, Headers: Map })
  return { asked: () => held.length, letGo: (k: number) => held[k]!() }
}
const soon = async () => {
  for (let i = 0; i < 8; i++) await new Promise((r) => setTimeout(r))
}

const shown = (store: ReturnType<typeof makeStore>) =>
  api.endpoints.renders
    .select()(store.getState())
    .data?.map((r) => r.state)

test.each([
  ['the first list', false],
  ['a list read anew', true],
])('the end of a render is not lost to %s that was read before it and comes in after it', async (_, before) => {
  const state = { list: [running] }
  const server = heldServer(state)
  const store = makeStore()
  const sub = store.dispatch(api.endpoints.renders.initiate())
  await soon()
  if (before) {
    server.letGo(0)
    await soon()
    expect(shown(store)).toEqual(['running'])
    store.dispatch(api.util.invalidateTags(['renders']))
    await soon()
  }
  const late = server.asked() - 1
  expect(late).toBe(before ? 1 : 0)
  state.list = [done]
  takeNews(store.dispatch, done)
  server.letGo(late)
  await soon()
  expect(server.asked()).toBe(late + 2)
  server.letGo(late + 1)
  await soon()
  expect(shown(store)).toEqual(['done'])
  sub.unsubscribe()
})
