import { calls } from './calls.ts'
import { bandOf, bandsFor, CONTROL_BYTES, Crew } from './crew.ts'
import { loadKernels } from './load-node.ts'
import { waitFor } from '../testing/pictures.ts'

const halve = calls.find((c) => c.name === 'halve')!.rows!
const blur = calls.find((c) => c.name === 'gaussianDirect')!.rows!
const copy = calls.findIndex((c) => c.name === 'copyRect')

describe('cutting a call', () => {
  test('moves pointers by their strides, and keeps odd last rows', () => {
    // 2 rows of the source make one of the result
    const a = [1000, 80, 10, 7, 5000, 40]
    const out: number[] = []
    bandOf(halve, a, 2, 2, out)
    expect(out).toEqual([1000 + 4 * 80, 80, 10, 3, 5000 + 2 * 40, 40])
    expect(a[0]).toBe(1000)
  })

  test('is not done for small calls, nor where the rows at the cut would cost more than they gain', () => {
    expect(bandsFor(halve, [0, 0, 40, 40, 0, 0], 2)).toBe(1)
    expect(bandsFor(halve, [0, 0, 400, 400, 0, 0], 2)).toBe(8)
    expect(bandsFor(blur, [0, 0, 0, 0, 2000, 400, 9], 2)).toBe(2)
    expect(bandsFor(blur, [0, 0, 0, 0, 2000, 20, 9], 2)).toBe(1)
    // no band works for long, even alone
    expect(bandsFor(blur, [0, 0, 0, 0, 12000, 512, 9], 1)).toBe(7)
  })
})

describe('a crew of two', () => {
  const big = (k: Awaited<ReturnType<typeof loadKernels>>) => {
    const [w, h] = [1024, 512]
    const from = k.allocator.alloc(w * h * 8)
    const to = k.allocator.alloc(w * h * 8)
    k.u16(from, w * h * 4).forEach((_, i, all) => (all[i] = (i * 40503) & 65535))
    return { w, h, from, to, right: () => Buffer.compare(k.bytes(from, w * h * 8), k.bytes(to, w * h * 8)) === 0 }
  }

  test('does a call whole, many times over', async () => {
    const k = await loadKernels(2 ** 27, 2)
    await waitFor(() => k.crew!.threads === 2)
    const { w, h, from, to, right } = big(k)
    for (let i = 0; i < 300; i++) {
      k.bytes(to, w * h * 8).fill(0)
      k.raw.copyRect(from, w * 8, to, w * 8, w * 8, h)
      if (!right()) throw new Error(`copy ${i} is not whole`)
    }
  })

  test('a kernel that traps on either thread is told, and the next call works', async () => {
    const k = await loadKernels(2 ** 27, 2)
    await waitFor(() => k.crew!.threads === 2)
    const { w, h, from, to, right } = big(k)
    const beyond = k.memory.buffer.byteLength
    for (let i = 0; i < 5; i++) expect(() => k.raw.copyRect(from, w * 8, beyond - w * 8, w * 8, w * 8, h)).toThrow()
    k.raw.copyRect(from, w * 8, to, w * 8, w * 8, h)
    expect(right()).toBe(true)
  })

  test('a trap of a helper says in which kernel it was, and how', async () => {
    const k = await loadKernels(2 ** 27, 2)
    await waitFor(() => k.crew!.threads === 2)
    const rows = calls[copy]!.rows!
    const beyond = k.memory.buffer.byteLength
    // the lead does nothing itself, and takes no second band before the helper has done one
    const { words } = k.crew as unknown as { words: Int32Array }
    const idle = () => void Atomics.wait(words, 1, 0, 20_000)
    let said: unknown
    try {
      k.crew!.run(copy, idle, rows, [beyond - 64, 64, beyond - 64, 64, 64, 64], 8, 0, 0)
    } catch (error) {
      said = error
    }
    expect(said).toMatchObject({ code: 'kernel-failed', details: { cause: 'memory out of bounds in copyRect, by a helper' } })
  })

  test('while one of two threads is spared the lead does even the largest call alone, and no scratch memory but its own is written', async () => {
    const k = await loadKernels(2 ** 28, 2)
    await waitFor(() => k.crew!.threads === 2)
    const run = jest.spyOn(k.crew!, 'run')
    // more than a band's pixels, with scratch memory
    const [w, h, r] = [1400, 900, 4]
    const src = k.allocator.alloc((w + 2 * r) * (h + 2 * r) * 8)
    const dst = k.allocator.alloc(w * h * 8)
    const weights = k.allocator.alloc(64)
    k.f32(weights, 5).fill(1 / 9)
    const call = () => k.raw.gaussianDirect(src, (w + 2 * r) * 8, dst, w * 8, w, h, r, weights)
    call()
    expect(run).toHaveBeenCalledTimes(1)
    k.crew!.sparing = true
    // what lies behind the scratch memory is somebody else's
    const taken = calls.find((c) => c.name === 'gaussianDirect')!.scratch!([0, 0, 0, 0, w, h, r])
    const hole = k.allocator.alloc(Math.ceil((taken + 64) / 64) * 64)
    const next = k.allocator.alloc(1 << 20)
    k.bytes(next, 1 << 20).fill(171)
    k.allocator.free(hole)
    call()
    expect(run).toHaveBeenCalledTimes(1)
    expect(k.bytes(next, 1 << 20).every((v) => v === 171)).toBe(true)
  })

  test('a helper that dies with a band is noticed, and the lead goes on alone', () => {
    const memory = new WebAssembly.Memory({ initial: 1, maximum: 1, shared: true })
    const crew = new Crew(memory, 0, 2, 60)
    const words = new Int32Array(memory.buffer, 0, 16)
    Atomics.add(words, 3, 1)
    expect(crew.threads).toBe(2)
    const rows = calls[copy]!.rows!
    const a = [0, 8, 0, 8, 8, 8]
    let bands = 0
    const steal = () => {
      // a helper takes a band while the lead does its first, and is never heard of again
      if (bands++ === 0) Atomics.add(words, 0, 1)
    }
    expect(() => crew.run(copy, steal, rows, a, 8, 0, 0)).toThrow('stopped')
    expect(bands).toBe(7)
    expect(crew.threads).toBe(1)
    expect(CONTROL_BYTES).toBeLessThan(1024)
  })
})
