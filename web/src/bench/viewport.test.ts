import fc from 'fast-check'
import { fitted, levelFor, origin, panned, visible, zoomedAt } from './viewport.ts'

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

test('the level is the next finer power of two', () => {
  expect([2, 1, 0.99, 0.51, 0.5, 0.26, 0.25, 0.1].map(levelFor)).toEqual([0, 0, 0, 0, 1, 1, 2, 3])
})
