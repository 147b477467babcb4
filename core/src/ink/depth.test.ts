import { depthAt, withDepth } from './depth.ts'
import { noInk, strokeAt, strokesWithin, withStrokes } from './ink.ts'

const frame = { x: 10, y: 20, w: 200, h: 100 }

test('lines are whole at the near side, thinner towards the far one, and never less than what is left there', () => {
  const depth = { far: 'above', left: 0.4 } as const
  expect(depthAt(depth, frame, { x: 0, y: 120 })).toBe(1)
  expect(depthAt(depth, frame, { x: 0, y: 20 })).toBe(0.4)
  expect(depthAt(depth, frame, { x: 0, y: 70 })).toBeCloseTo(0.7, 10)
  expect(depthAt(depth, frame, { x: 0, y: -500 })).toBe(0.4)
  expect(depthAt({ far: 'right', left: 0 }, frame, { x: 210, y: 0 })).toBe(0)
  expect(depthAt({ far: 'left', left: 0.5 }, frame, { x: 110, y: 0 })).toBeCloseTo(0.75, 10)
  const line = [
    { x: 0, y: 20, half: 3 },
    { x: 0, y: 120, half: 3 },
  ]
  expect(withDepth(line, depth, frame, (p) => p).map((p) => p.half)).toEqual([3 * 0.4, 3])
  expect(withDepth(line, depth, frame, () => null)).toEqual(line)
})

test('strokes are found by a rectangle and by a place, however many there are: chunks that lie elsewhere are passed over', () => {
  const strokes = Array.from({ length: 2000 }, (_, i) => [
    { x: (i % 100) * 20, y: Math.floor(i / 100) * 50, half: 1 },
    { x: (i % 100) * 20 + 8, y: Math.floor(i / 100) * 50 + 30, half: 2 },
  ])
  const ink = withStrokes(noInk, strokes)
  const found = strokesWithin(ink, { x: 195, y: 95, w: 50, h: 10 })
  // a brute force over all places
  const all = strokes.flatMap((s, i) => (s.some((p) => p.x >= 195 && p.x <= 245 && p.y >= 95 && p.y <= 105) ? [i + 1] : []))
  expect(found.map((s) => s.id)).toEqual(all)
  expect(all.length).toBe(3)
  expect(strokeAt(ink, 200, 100, 1)?.id).toBe(211)
  expect(strokeAt(ink, 5000, 100, 1)).toBeNull()
})
