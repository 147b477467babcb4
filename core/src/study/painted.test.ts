import { field } from './fields.ts'
import { doubledWay, drawn, paintedStudy, turnedWay } from './painted.ts'
import type { Study } from './study.ts'

const [w, h] = [40, 30]
const even = (v: number) => ({ w, h, v: new Float32Array(w * h).fill(v) })
const study = (): Study => ({
  w,
  h,
  scale: 2,
  x: 10,
  y: 20,
  unit: 0.04,
  tone: even(0.5),
  cover: even(1),
  fine: even(0.4),
  broad: even(0.3),
  flowX: even(0.2),
  flowY: even(0),
  edges: even(0.5),
  focus: even(0.5),
  detail: even(0.2),
  ground: even(0.5),
  noise: 0,
})
const nothing = { values: {}, comb: null, spots: [] }

test('a painted value draws towards its end: neutral leaves what was found', () => {
  expect(drawn(0.3, 0)).toBe(0.3)
  expect(drawn(0.3, 1)).toBe(1)
  expect(drawn(0.3, -1)).toBe(0)
  expect(drawn(0.3, 0.5)).toBeCloseTo(0.65, 6)
  // the middle of 16 bits is not a half
  expect(drawn(0.3, (32768 - 32768) / 32767)).toBe(0.3)
})

test('each of the values is changed where it was painted, and nowhere else; the study given stays as it is', () => {
  for (const part of ['masses', 'edges', 'detail', 'focus', 'ground'] as const) {
    const by = field(w, h)
    by.v[5] = 1
    by.v[6] = -1
    const given = study()
    const out = paintedStudy(given, { ...nothing, values: { [part]: by } })
    const name = part === 'masses' ? 'fine' : part
    expect([out[name].v[5], out[name].v[6]]).toEqual([1, 0])
    expect(out[name].v[7]).toBe(given[name].v[7])
    expect(given).toEqual(study())
  }
})

test('focus acts on what was found from it', () => {
  const by = field(w, h)
  by.v.fill(1)
  const out = paintedStudy(study(), { ...nothing, values: { focus: by } })
  expect(out.detail.v[0]).toBeCloseTo((0.2 * 1) / 0.625, 5)
  expect(out.ground.v[0]).toBeCloseTo(0.25, 5)
})

test('detail is raised round a spot, most in its middle, not beyond its radius', () => {
  const out = paintedStudy(study(), { ...nothing, spots: [{ x: 10 + 2 * 20.5, y: 20 + 2 * 15.5, radius: 16, raise: 1 }] })
  const at = (x: number, y: number) => out.detail.v[y * w + x]!
  expect(at(20, 15)).toBeCloseTo(0.2 * 3 + 0.35, 4)
  expect(at(24, 15)).toBeGreaterThan(0.2)
  expect(at(24, 15)).toBeLessThan(at(20, 15))
  for (const [x, y] of [
    [28, 15],
    [12, 15],
    [20, 23],
    [26, 21],
  ] as const)
    expect(at(x, y)).toBeCloseTo(0.2, 6)
})

test('what was combed takes the place of what was found, by as much as it covers', () => {
  const comb = { x: even(0), y: even(0.5), cover: even(0.5) }
  const out = paintedStudy(study(), { ...nothing, comb })
  expect(out.flowX.v[0]).toBeCloseTo(0.1, 6)
  expect(out.flowY.v[0]).toBeCloseTo(0.5, 6)
})

test('ways at twice their angle: both senses of a line are one, and they turn with the plane', () => {
  expect(doubledWay(1, 0)).toEqual({ x: 1, y: 0 })
  expect(doubledWay(0, -3).x).toBe(-1)
  expect(doubledWay(0, -3).y).toBeCloseTo(0, 9)
  expect(doubledWay(-2, -2)).toEqual(doubledWay(1, 1))
  for (let k = 0; k < 12; k++) {
    const [a, t] = [(k * Math.PI) / 12, 0.7]
    const way = doubledWay(Math.cos(a), Math.sin(a))
    const turned = turnedWay([Math.cos(t), -Math.sin(t), Math.sin(t), Math.cos(t)], 0.6 * way.x, 0.6 * way.y)
    expect(turned.x).toBeCloseTo(0.6 * Math.cos(2 * (a + t)), 6)
    expect(turned.y).toBeCloseTo(0.6 * Math.sin(2 * (a + t)), 6)
  }
})
