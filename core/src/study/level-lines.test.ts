import { field } from './fields.ts'
import { area2, levelLines } from './level-lines.ts'

const made = (w: number, h: number, f: (x: number, y: number) => number) => {
  const out = field(w, h)
  for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) out.v[y * w + x] = f(x, y)
  return out
}

test('the border of a disc goes round its area, and every place of it lies on it', () => {
  for (const r of [5, 12.4, 30]) {
    const lines = levelLines(
      made(80, 80, (x, y) => Math.hypot(x - 40.3, y - 39.6)),
      r,
    )
    expect(lines).toHaveLength(1)
    // clockwise as it is seen: what marks lay on it adds up
    expect(area2(lines[0]!)).toBeGreaterThan(0)
    expect(Math.abs(Math.abs(area2(lines[0]!)) / 2 / (Math.PI * r * r) - 1)).toBeLessThan(0.01)
    for (const p of lines[0]!) expect(Math.abs(Math.hypot(p.x - 40.3, p.y - 39.6) - r)).toBeLessThan(0.05)
  }
})

test('a hole runs the other way round, so that areas add up to what is lower', () => {
  const ring = made(100, 100, (x, y) => Math.abs(Math.hypot(x - 50, y - 50) - 25))
  const lines = levelLines(ring, 8)
  expect(lines).toHaveLength(2)
  const areas = lines.map(area2)
  expect(areas[0]! * areas[1]!).toBeLessThan(0)
  expect(Math.abs(areas[0]! + areas[1]!) / 2 / (Math.PI * (33 ** 2 - 17 ** 2))).toBeCloseTo(1, 2)
})

test('what reaches the border of the field is closed along it', () => {
  const lines = levelLines(
    made(20, 10, (x) => x),
    9.5,
  )
  expect(lines).toHaveLength(1)
  // from half a pixel beyond the first pixels to the crossing, over all rows
  expect(Math.abs(area2(lines[0]!)) / 2).toBeCloseTo(10 * 10 - 4 * 0.125, 1)
  expect(levelLines(field(5, 5), 0)).toEqual([])
  expect(levelLines(field(1, 1), 1)).toHaveLength(1)
})

test('at a saddle the mean decides which two corners hang together', () => {
  const saddle = (low: number) => ({ w: 2, h: 2, v: Float32Array.from([low, 1, 1, low]) })
  expect(levelLines(saddle(0), 0.6)).toHaveLength(1)
  expect(levelLines(saddle(0), 0.4)).toHaveLength(2)
})
