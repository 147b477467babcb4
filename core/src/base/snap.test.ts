import { linesOf, snapped } from './snap.ts'

const sheet = linesOf({ x: 0, y: 0, w: 900, h: 600 }, 'Sheet', true)
const own = (x: number, y: number, w: number, h: number) => ({ x: [x, x + w / 2, x + w], y: [y, y + h / 2, y + h] })

test('a thing near an edge is drawn to it, each axis by itself, and what meets is told', () => {
  const s = snapped(own(4, 200, 100, 50), sheet, 6)
  expect([s.dx, s.dy]).toEqual([-4, 0])
  // its upper edge lay on the upper third already
  expect(s.met.map((m) => m.line.name)).toEqual(['Sheet, edge', 'Sheet, third'])
})

test('the nearest of its edges and its middle decides; nothing beyond its reach', () => {
  // the middle 3 away from the sheet's, the right edge 5 from a third
  expect(snapped({ x: [350, 447, 605], y: [] }, sheet, 6).dx).toBe(3)
  expect(snapped(own(20, 20, 10, 10), sheet, 6)).toEqual({ dx: 0, dy: 0, met: [] })
})

test('all that meet at once are told', () => {
  // as wide as the sheet: both edges and the middle
  const { met, dx } = snapped({ x: [2, 452, 902], y: [] }, sheet, 6)
  expect(dx).toBe(-2)
  expect(met.map((m) => m.own)).toEqual([0, 450, 900])
})

test('half is one line among the others', () => {
  expect(linesOf({ x: 10, y: 20, w: 40, h: 60 }, 'L').map((l) => [l.axis, l.at])).toEqual([
    ['x', 10],
    ['y', 20],
    ['x', 30],
    ['y', 50],
    ['x', 50],
    ['y', 80],
  ])
})
