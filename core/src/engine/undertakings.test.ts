import { newRequest, type Turns } from './request.ts'
import { Undertakings } from './undertakings.ts'

const turns = (): Turns => ({ last: 0, breathe: () => new Promise((r) => setTimeout(r, 0)) })
/** Something that takes until it is let go, and looks whether it is still wanted. */
function work() {
  let free: () => void = () => undefined
  const gate = new Promise<void>((r) => (free = r))
  return { gate, free }
}

test('what several wait for is made once', async () => {
  const all = new Undertakings(turns())
  const { gate, free } = work()
  const make = jest.fn(async () => {
    await gate
    return 7
  })
  const two = [all.join('a', newRequest(turns(), {}), make), all.join('a', newRequest(turns(), {}), make)]
  free()
  expect(await Promise.all(two)).toEqual([7, 7])
  expect(make).toHaveBeenCalledTimes(1)
})

test('one who waits gives up within a moment; the work goes on, and the next finds it', async () => {
  const all = new Undertakings(turns())
  const { gate, free } = work()
  const make = jest.fn(async () => {
    await gate
    return 'done'
  })
  const signal = { cancelled: false }
  const first = all.join('a', newRequest(turns(), { signal }), make)
  signal.cancelled = true
  await expect(first).rejects.toMatchObject({ code: 'cancelled' })
  const second = all.join('a', newRequest(turns(), {}), make)
  free()
  expect(await second).toBe('done')
  expect(make).toHaveBeenCalledTimes(1)
})

test('what nobody waits for makes way when something else is begun; what somebody waits for does not', async () => {
  const all = new Undertakings(turns())
  const [left, wanted] = [work(), work()]
  let stopped = false
  const signal = { cancelled: false }
  const first = all.join('left', newRequest(turns(), { signal }), async (own) => {
    await left.gate
    await own.pause().catch(() => (stopped = true))
  })
  const second = all.join('wanted', newRequest(turns(), {}), async (own) => {
    await wanted.gate
    await own.pause()
    return 'kept'
  })
  signal.cancelled = true
  await expect(first).rejects.toMatchObject({ code: 'cancelled' })
  expect(await all.join('third', newRequest(turns(), {}), async () => 3)).toBe(3)
  left.free()
  wanted.free()
  expect(await second).toBe('kept')
  await new Promise((r) => setTimeout(r, 5))
  expect(stopped).toBe(true)
})

test('who waits is told how far it is, and what went wrong; the next try begins anew', async () => {
  const all = new Undertakings(turns())
  const told: [string, number][] = []
  const request = newRequest(turns(), { tell: (title, share) => told.push([title, share]) })
  const failing = all.join('a', request, async (own) => {
    await Promise.resolve()
    own.tell!('Laying', 0.5)
    throw new Error('no room')
  })
  await expect(failing).rejects.toThrow('no room')
  expect(told).toEqual([['Laying', 0.5]])
  expect(await all.join('a', request, async () => 1)).toBe(1)
})
