import fc from 'fast-check'
import type { PathPoint } from './path.ts'
import { simplified, smoothThrough } from './simplify.ts'

const away = (p: PathPoint, line: readonly PathPoint[]): number => {
  let least = Infinity
  for (let i = 0; i + 1 < line.length; i++) {
    const [a, b] = [line[i]!, line[i + 1]!]
    // by many points of the piece: the slow way
    for (let k = 0; k <= 200; k++) least = Math.min(least, Math.hypot(a.x + ((b.x - a.x) * k) / 200 - p.x, a.y + ((b.y - a.y) * k) / 200 - p.y))
  }
  return least
}
const lines = fc.array(fc.record({ x: fc.double({ min: -100, max: 100, noNaN: true }), y: fc.double({ min: -100, max: 100, noNaN: true }) }), {
  minLength: 2,
  maxLength: 25,
})

test('no point that is left out lies further off than was said (Hausdorff distance of the points from the line)', () => {
  fc.assert(
    fc.property(lines, fc.double({ min: 0, max: 30, noNaN: true }), (line, off) => {
      const kept = simplified(line, off)
      expect(kept[0]).toBe(line[0])
      expect(kept.at(-1)).toBe(line.at(-1))
      // the slow way sees the line at 200 places a piece, up to 283 long
      for (const p of line) expect(away(p, kept)).toBeLessThanOrEqual(off + 0.75)
    }),
    { numRuns: 40 },
  )
})

test('a straight line keeps its ends alone; a corner stays', () => {
  const straight = Array.from({ length: 50 }, (_, i) => ({ x: i, y: 2 * i }))
  expect(simplified(straight, 0.01)).toEqual([straight[0], straight[49]])
  const corner = [...Array.from({ length: 20 }, (_, i) => ({ x: i, y: 0 })), ...Array.from({ length: 20 }, (_, i) => ({ x: 19, y: i + 1 }))]
  expect(simplified(corner, 0.5)).toEqual([corner[0], corner[19], corner[39]])
})

test('a smooth line runs through its points, straight where they are in a line, and joins without a corner', () => {
  const points = [
    { x: 0, y: 0 },
    { x: 10, y: 5 },
    { x: 30, y: 0 },
    { x: 32, y: 20 },
  ]
  const pieces = smoothThrough(points)
  expect(pieces.map((p) => p.to)).toEqual(points.slice(1))
  pieces.slice(1).forEach((p, i) => {
    const [before, at] = [pieces[i]!, points[i + 1]!]
    const [ax, ay, bx, by] = [at.x - before.via2.x, at.y - before.via2.y, p.via.x - at.x, p.via.y - at.y]
    expect(Math.abs(ax * by - ay * bx) / (Math.hypot(ax, ay) * Math.hypot(bx, by))).toBeLessThan(1e-9)
  })
  const row = smoothThrough([
    { x: 0, y: 0 },
    { x: 4, y: 4 },
    { x: 9, y: 9 },
  ])
  for (const p of row) expect(Math.abs(p.via.x - p.via.y) + Math.abs(p.via2.x - p.via2.y)).toBeLessThan(1e-9)
})
