import fc from 'fast-check'
import { fitted, levelFor, lifted, origin, panned, staying, turnedOn, turning, visible, zoomedAt } from './viewport.ts'

const sheet = { x: 0, y: 0, w: 3000, h: 2000 }
const window = { w: 988, h: 490 }

test('the whole sheet fits with a margin, and small ones are not enlarged', () => {
  const v = fitted(sheet, window)
  const at = origin(v, window)
  expect(at.y).toBeGreaterThan(10)
  expect(at.y + 2000 * v.scale).toBeLessThan(window.h - 10)
  expect(fitted({ x: 0, y: 0, w: 40, h: 30 }, window).scale).toBe(1)
})

test('zooming keeps the artwork point under the pointer where it is', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 988 }), fc.integer({ min: 0, max: 490 }), fc.double({ min: 0.05, max: 8, noNaN: true }), (px, py, scale) => {
      const v = fitted(sheet, window)
      const z = zoomedAt(v, window, px, py, scale)
      const under = (w: typeof v) => [(px - window.w / 2) / w.scale + w.cx, (py - window.h / 2) / w.scale + w.cy]
      expect(under(z)[0]).toBeCloseTo(under(v)[0]!, 6)
      expect(under(z)[1]).toBeCloseTo(under(v)[1]!, 6)
    }),
  )
})

test('panning never loses the sheet, and at 100 % pixels lie on pixels', () => {
  const v = zoomedAt(fitted(sheet, window), window, 100, 100, 1)
  const far = panned(v, sheet, 1e6, -1e6)
  expect(visible(far, sheet, window).w).toBeGreaterThan(100)
  for (const o of Object.values(origin(v, window))) expect(Number.isInteger(o)).toBe(true)
})

test.each([
  [0, false],
  [90, false],
  [180, true],
  [270, true],
  [15, false],
  [105, true],
  [330, true],
])('a view turned by %d°, mirrored %s: back is the way back, and the plane covers the screen', (turned, mirrored) => {
  const screen = { w: 800, h: 500 }
  const t = turning(screen, turned, mirrored)
  const [a, b, c, d, e, f] = t.matrix
  if (turned % 90 === 0) expect(t.size).toEqual(turned % 180 ? { w: 500, h: 800 } : screen)
  expect(t.square).toBe(turned % 90 === 0)
  const to = (x: number, y: number) => [a * x + c * y + e, b * x + d * y + f] as const
  for (const [x, y] of [
    [0, 0],
    [t.size.w, t.size.h],
    [123, 45],
  ] as const)
    expect(t.back(...to(x, y))).toEqual({ x: expect.closeTo(x, 9), y: expect.closeTo(y, 9) })
  // every corner of the screen lies on the plane, the middle on the middle
  for (const [x, y] of [
    [0, 0],
    [800, 0],
    [0, 500],
    [800, 500],
  ] as const) {
    const p = t.back(x, y)
    expect([p.x > -1e-6, p.y > -1e-6, p.x < t.size.w + 1e-6, p.y < t.size.h + 1e-6]).toEqual([true, true, true, true])
  }
  expect(to(t.size.w / 2, t.size.h / 2)).toEqual([expect.closeTo(400, 6), expect.closeTo(250, 6)])
  // the whole sheet is in sight, and touches the margin somewhere
  const sheet = { x: 0, y: 0, w: 3000, h: 1400 }
  const view = fitted(sheet, t.room(sheet))
  const at = origin(view, t.size)
  const corners = [
    [0, 0],
    [3000, 0],
    [0, 1400],
    [3000, 1400],
  ].map(([x, y]) => to(at.x + x! * view.scale, at.y + y! * view.scale))
  const edges = [
    Math.min(...corners.map((p) => p[0])),
    800 - Math.max(...corners.map((p) => p[0])),
    Math.min(...corners.map((p) => p[1])),
    500 - Math.max(...corners.map((p) => p[1])),
  ]
  expect(Math.min(...edges)).toBeCloseTo(18, 4)
})

test('turned about a point, the artwork under it stays', () => {
  const screen = { w: 700, h: 500 }
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 359 }),
      fc.integer({ min: -40, max: 40 }),
      fc.boolean(),
      fc.integer({ min: 0, max: 699 }),
      (turned, by, mirrored, x) => {
        const from = turning(screen, turned, mirrored)
        const to = turning(screen, (turned + by + 360) % 360, mirrored)
        const v = { scale: 0.4, cx: 1500, cy: 1000, fit: false }
        const under = (view: typeof v, t: typeof from) => {
          const p = t.back(x, 120)
          const at = { x: t.size.w / 2 - view.cx * view.scale, y: t.size.h / 2 - view.cy * view.scale }
          return [(p.x - at.x) / view.scale, (p.y - at.y) / view.scale]
        }
        const { dx, dy } = staying(from, to, x, 120)
        const after = under(panned(v, sheet, dx, dy), to)
        const before = under(v, from)
        expect(Math.hypot(after[0]! - before[0]!, after[1]! - before[1]!)).toBeLessThan(1e-6)
      },
    ),
  )
})

test('turning on: by quarters, upright again from aslant, or by a little; round to where it began', () => {
  expect([0, 90, 270].map((t) => turnedOn(t, false))).toEqual([90, 180, 0])
  expect([15, 100, 345].map((t) => turnedOn(t, false))).toEqual([90, 180, 0])
  let t = 0
  for (let i = 0; i < 24; i++) t = turnedOn(t, true)
  expect(t).toBe(0)
})

test('the picture under the hand grows coarser when it lags twice, and finer again when it is quick, within bounds', () => {
  expect(lifted(1, [150, 40])).toBe(1)
  expect(lifted(1, [150, 130])).toBe(2)
  expect(lifted(3, [900, 900])).toBe(3)
  expect(lifted(2, [30, 5])).toBe(2)
  expect(lifted(2, [5, 12])).toBe(1)
  expect(lifted(1, [5, 5])).toBe(1)
})

test('the level is the next finer power of two', () => {
  expect([2, 1, 0.99, 0.51, 0.5, 0.26, 0.25, 0.1].map(levelFor)).toEqual([0, 0, 0, 0, 1, 1, 2, 3])
})
