import fc from 'fast-check'
import { QuillError } from '../base/errors.ts'
import { Allocator } from './allocator.ts'

const fresh = (limit = 2 ** 24) => new Allocator(new WebAssembly.Memory({ initial: 1, maximum: 1024 }), 1024, limit)

test('blocks never overlap, whatever is taken and given back in whatever order', () => {
  fc.assert(
    fc.property(fc.array(fc.oneof(fc.integer({ min: 1, max: 70_000 }), fc.constant(-1)), { maxLength: 60 }), fc.nat(), (moves, pick) => {
      const a = fresh()
      const held: { at: number; size: number }[] = []
      for (const [i, size] of moves.entries()) {
        if (size < 0) {
          const [gone] = held.splice((pick + i) % Math.max(1, held.length), 1)
          if (gone) a.free(gone.at)
          continue
        }
        const at = a.alloc(size)
        expect(at % 64).toBe(0)
        for (const h of held) expect(at + size <= h.at || h.at + h.size <= at).toBe(true)
        held.push({ at, size })
      }
      for (const h of held) a.free(h.at)
      expect(a.bytesInUse).toBe(0)
      // everything has joined again: the first block starts where the first ever did
      expect(a.alloc(1)).toBe(1024)
    }),
  )
})

test('asks for memory back before it gives up, and then says so', () => {
  const a = fresh(1_000_000)
  const kept = [a.alloc(400_000), a.alloc(400_000)]
  let asked = 0
  a.onPressure = () => {
    asked++
    const at = kept.pop()
    if (at === undefined) return false
    a.free(at)
    return true
  }
  a.alloc(500_000)
  expect(asked).toBeGreaterThan(0)
  expect(() => a.alloc(2_000_000)).toThrow(QuillError)
})
