import { dice } from '../testing/pictures.ts'
import {
  changedStrokes,
  CHUNK,
  freeId,
  inkBlobs,
  isInkPart,
  MOST_STROKES,
  noInk,
  openInk,
  parseChunk,
  strokeAt,
  strokeCount,
  strokesOf,
  withoutStrokes,
  withStrokes,
  type Ink,
  type InkPlace,
} from './ink.ts'

const line = (x: number, y: number, n = 12, half = 2): InkPlace[] => Array.from({ length: n }, (_, i) => ({ x: x + i * 5, y: y + (i % 3), half }))
const many = (n: number) =>
  withStrokes(
    noInk,
    Array.from({ length: n }, (_, k) => line((k * 37) % 900, (k * 53) % 700)),
  )

async function reopened(ink: Ink): Promise<Ink> {
  const { root, chunks } = inkBlobs(ink)
  const blobs = new Map([root, ...chunks].map((b) => [b.name, b.bytes]))
  return openInk(root.name, async (name) => blobs.get(name)!)
}

test('what is written is read again, to a 64th of a pixel', async () => {
  const next = dice(4)
  const ink = withStrokes(
    noInk,
    Array.from({ length: 700 }, () => Array.from({ length: 3 }, () => ({ x: 9000 * (next() - 0.5), y: 9000 * (next() - 0.5), half: 30 * next() }))),
  )
  const again = await reopened(ink)
  expect(strokeCount(again)).toBe(700)
  const [a, b] = [[...strokesOf(ink)], [...strokesOf(again)]]
  a.forEach((s, i) => {
    expect(b[i]!.id).toBe(s.id)
    for (const [j, p] of s.places.entries()) expect(Math.hypot(p.x - b[i]!.places[j]!.x, p.y - b[i]!.places[j]!.y)).toBeLessThan(0.012)
  })
  expect(inkBlobs(again).root.name).toBe(inkBlobs(ink).root.name)
})

test('a stroke more makes one chunk and the root anew, whatever there is: the cost of drawing does not grow', () => {
  const before = many(20 * CHUNK + 7)
  const names = (ink: Ink) => new Set(inkBlobs(ink).chunks.map((c) => c.name))
  const had = names(before)
  const after = withStrokes(before, [line(5, 5)])
  expect([...names(after)].filter((n) => !had.has(n))).toHaveLength(1)
  const changed = changedStrokes(before, new Set([3]), ({ places }) => places.map((p) => ({ ...p, x: p.x + 10 })))
  expect([...names(changed)].filter((n) => !had.has(n))).toHaveLength(1)
  expect([...names(withoutStrokes(before, new Set([3, 5])))].filter((n) => !had.has(n))).toHaveLength(1)
})

test('numbers stay with their strokes, and are not given again while they are there', () => {
  let ink = many(5)
  ink = withoutStrokes(ink, new Set([2]))
  expect([...strokesOf(ink)].map((s) => s.id)).toEqual([1, 3, 4, 5])
  expect(freeId(ink)).toBe(6)
  expect(strokeCount(withoutStrokes(ink, new Set([1, 3, 4, 5])))).toBe(0)
})

test('the uppermost stroke under a place is found by its rim', () => {
  const ink = withStrokes(noInk, [
    [
      { x: 0, y: 50, half: 5 },
      { x: 100, y: 50, half: 5 },
    ],
    [
      { x: 50, y: 0, half: 1 },
      { x: 50, y: 100, half: 9 },
    ],
  ])
  expect(strokeAt(ink, 50, 50, 0)?.id).toBe(2)
  expect(strokeAt(ink, 50, 50, 0, new Set([2]))?.id).toBe(1)
  expect(strokeAt(ink, 20, 54, 0)?.id).toBe(1)
  expect(strokeAt(ink, 20, 57, 0)).toBeNull()
  expect(strokeAt(ink, 20, 57, 3)?.id).toBe(1)
  // it widens downwards
  expect(strokeAt(ink, 57, 90, 0)?.id).toBe(2)
  expect(strokeAt(ink, 57, 10, 0)).toBeNull()
})

test('what is too much, or nothing, is told; nothing is changed', () => {
  expect(() => withStrokes(noInk, [[]])).toThrow('between 1 and')
  expect(() => withStrokes(noInk, [[{ x: NaN, y: 0, half: 1 }]])).toThrow('beyond everything')
  expect(() => withStrokes(noInk, [[{ x: 1e9, y: 0, half: 1 }]])).toThrow('beyond everything')
  const one = line(1, 1, 2)
  const full = withStrokes(
    noInk,
    Array.from({ length: MOST_STROKES }, () => one),
  )
  expect(() => withStrokes(full, [one])).toThrow('200000 strokes at most')
})

test('spoilt bytes are no ink: cut off, too long, of other kinds, with too many places', async () => {
  const { root, chunks } = inkBlobs(many(3))
  const chunk = chunks[0]!.bytes
  expect([root.bytes, chunk].every(isInkPart)).toBe(true)
  for (const bad of [chunk.slice(0, -1), new Uint8Array([...chunk, 0]), chunk.slice(0, 5), new Uint8Array(0), root.bytes.slice(0, -3), new Uint8Array(2000)])
    expect(isInkPart(bad)).toBe(false)
  const wild = chunk.slice()
  new DataView(wild.buffer).setUint32(12, 2 ** 31, true)
  expect(isInkPart(wild)).toBe(false)
  expect(() => parseChunk(wild)).toThrow('cut off')
  // whole, but another one
  const other = inkBlobs(many(4)).root.bytes
  await expect(openInk(root.name, async () => other)).rejects.toThrow('not what its name says')
  await expect(openInk(root.name, async () => new Uint8Array(3))).rejects.toMatchObject({ code: 'plane-unreadable' })
})
