import { bent, densified, grips, inkStroke } from './ink-stroke.ts'

const pen = { breadth: 8, pressure: 0, taper: 0, steadiness: 0.3 }
const drawn = (f: (t: number) => { x: number; y: number; p?: number }, n = 80) => Array.from({ length: n }, (_, i) => ({ p: 0.5, ...f(i / (n - 1)) }))

test('a line keeps its way and its breadth; a straight one needs few places', () => {
  const line = inkStroke(
    drawn((t) => ({ x: 20 + 400 * t, y: 50 })),
    pen,
    false,
  )
  expect(line.length).toBeLessThan(8)
  expect([line[0]!.x, line[0]!.y]).toEqual([20, 50])
  expect(Math.abs(line.at(-1)!.x - 420)).toBeLessThan(1)
  for (const p of line) expect(p.half).toBe(4)
})

test('pressure decides as much of the breadth as it is given', () => {
  const pressed = drawn((t) => ({ x: 300 * t, y: 0, p: t }))
  const all = inkStroke(pressed, { ...pen, pressure: 1 }, true)
  expect(all[1]!.half).toBeLessThan(2)
  expect(all.at(-1)!.half).toBeGreaterThan(3.5)
  for (const p of inkStroke(pressed, { ...pen, pressure: 1 }, false)) expect(p.half).toBe(4)
})

test('ends run out by the taper, the middle stays', () => {
  const line = inkStroke(
    drawn((t) => ({ x: 400 * t, y: 30 * Math.sin(6 * t) })),
    { ...pen, taper: 1 },
    false,
  )
  expect(line[0]!.half).toBe(0)
  expect(line.at(-1)!.half).toBeCloseTo(0, 5)
  expect(Math.max(...line.map((p) => p.half))).toBeGreaterThan(3.8)
})

test('tremors are smoothed away, the more the steadier the pen is', () => {
  const shaky = drawn((t) => ({ x: 400 * t, y: 2 * Math.sin(t * 300) }))
  const off = (steadiness: number) =>
    Math.max(
      ...inkStroke(shaky, { ...pen, steadiness }, false)
        .slice(2, -2)
        .map((p) => Math.abs(p.y)),
    )
  expect(off(0.9)).toBeLessThan(0.5 * off(0))
})

test('a mere touch is a dot', () => {
  expect(inkStroke([{ x: 7, y: 9, p: 0.5 }], pen, false)).toEqual([{ x: 7, y: 9, half: 4 }])
})

test('a stroke that is bent has places enough to be round, and lies where it lay', () => {
  const line = [
    { x: 0, y: 0, half: 1 },
    { x: 100, y: 0, half: 3 },
  ]
  const dense = densified(line)
  expect(dense).toHaveLength(26)
  expect(dense[13]).toEqual({ x: 52, y: 0, half: 1 + (2 * 13) / 25 })
  expect([dense[0], dense.at(-1)]).toEqual(line)
})

test('a bend moves its grip wholly, its neighbours less, and what is beyond the next grips not at all', () => {
  const line = Array.from({ length: 21 }, (_, i) => ({ x: i * 10, y: 0, half: 2 }))
  const out = bent(line, 10, 5, 0, 30)
  expect(out[10]!.y).toBe(30)
  expect(out[12]!.y).toBeGreaterThan(0)
  expect(out[12]!.y).toBeLessThan(30)
  expect([out[5]!.y, out[15]!.y, out[0]!.y]).toEqual([0, 0, 0])
  expect(grips(line)[0]).toBe(0)
  expect(grips(line).at(-1)).toBe(20)
  expect(grips(line)).toHaveLength(9)
  expect(grips([line[0]!])).toEqual([0])
})
