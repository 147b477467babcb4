import { evenedLine, fairLine } from './fair.ts'

test('an evened line keeps its ends and loses its shaking', () => {
  const shaky = Array.from({ length: 60 }, (_, i) => ({ x: i, y: (i % 2) - 0.5 }))
  const calm = evenedLine(shaky, 3, false)
  expect([calm[0], calm.at(-1)]).toEqual([shaky[0], shaky.at(-1)])
  for (const p of calm.slice(8, -8)) expect(Math.abs(p.y)).toBeLessThan(0.06)
  // a circle stays one, a little smaller
  const circle = Array.from({ length: 200 }, (_, i) => ({ x: 50 * Math.cos((i * Math.PI) / 100), y: 50 * Math.sin((i * Math.PI) / 100) }))
  for (const p of evenedLine(circle, 3, true)) expect(Math.abs(Math.hypot(p.x, p.y) - 50)).toBeLessThan(0.6)
})

/** How far a point is from a line of points: the smallest distance to one of its pieces. */
function off(p: { x: number; y: number }, line: readonly { x: number; y: number }[]): number {
  let least = Infinity
  for (let i = 1; i < line.length; i++) {
    const [a, b] = [line[i - 1]!, line[i]!]
    const [dx, dy] = [b.x - a.x, b.y - a.y]
    const long = dx * dx + dy * dy
    const t = long > 0 ? Math.min(1, Math.max(0, ((p.x - a.x) * dx + (p.y - a.y) * dy) / long)) : 0
    least = Math.min(least, Math.hypot(p.x - a.x - t * dx, p.y - a.y - t * dy))
  }
  return least
}

test('a fair line stays within its bound of the line that was found (Hausdorff), both ways, with its ends', () => {
  for (const at of [
    (t: number) => ({ x: 3 * t, y: 30 * Math.sin(t / 9) }),
    (t: number) => ({ x: 60 * Math.cos(t / 40), y: 40 * Math.sin(t / 40) }),
    // a corner
    (t: number) => ({ x: Math.min(t, 60), y: Math.max(0, t - 60) }),
  ]) {
    const found = Array.from({ length: 120 }, (_, t) => {
      const { x, y } = at(t)
      return { x: x + 0.6 * Math.sin(t * 1.9), y: y + 0.6 * Math.cos(t * 2.3) }
    })
    const evened = evenedLine(found, 2, false)
    for (const bound of [0.4, 1, 2]) {
      const fair = fairLine(found, 2, bound, false)
      expect([fair[0], fair.at(-1)]).toEqual([found[0], found.at(-1)])
      expect(fair).toHaveLength(found.length)
      for (const p of fair) expect(off(p, evened)).toBeLessThan(2 * bound + 1e-9)
      for (const p of evened) expect(off(p, fair)).toBeLessThan(2 * bound + 1e-9)
    }
  }
})

test('slow shaking is gone: a straight line that wavers by less than half the bound is straight', () => {
  const shaky = Array.from({ length: 200 }, (_, i) => ({ x: i, y: 0.28 * Math.sin(i / 5) }))
  const turns = (line: readonly { x: number; y: number }[]) => {
    let sum = 0
    for (let i = 10; i < line.length - 10; i++) sum += Math.abs(line[i + 1]!.y - 2 * line[i]!.y + line[i - 1]!.y)
    return sum
  }
  expect(turns(fairLine(shaky, 1.6, 0.6, false))).toBeLessThan(0.12 * turns(evenedLine(shaky, 1.6, false)))
})
