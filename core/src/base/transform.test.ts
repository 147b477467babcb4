import fc from 'fast-check'
import { openCv, type Mat } from '../testing/opencv.ts'
import { contains } from './region.ts'
import {
  about,
  cornersOf,
  decided,
  extentOf,
  identity,
  inverse,
  isConvex,
  kindOf,
  mapped,
  moved,
  placed,
  reduction,
  scaled,
  times,
  toCorners,
  turned,
  type Matrix,
  type Point,
} from './transform.ts'

const region = { x: 10, y: -20, w: 300, h: 200 }
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const affine = fc
  .record({ x: number(-500, 500), y: number(-500, 500), scaleX: number(0.05, 4), scaleY: number(0.05, 4), angle: number(-179, 179), slant: number(-60, 60) })
  .map((d) => ({ d, m: placed(d, { x: 40, y: 30 }) }))
const quad = fc
  .tuple(number(-40, 40), number(-40, 40), number(-40, 40), number(-40, 40), number(-40, 40), number(-40, 40), number(-40, 40), number(-40, 40))
  .map((n): [Point, Point, Point, Point] => [
    { x: n[0], y: n[1] },
    { x: 200 + n[2], y: n[3] },
    { x: 220 + n[4], y: 150 + n[5] },
    { x: n[6], y: 160 + n[7] },
  ])

test('corners go where they are sent, as OpenCV’s perspective transform sends them', async () => {
  const { cv: all } = await openCv()
  // calls that no other test needs
  const cv = all as typeof all & {
    CV_32FC2: number
    matFromArray: (rows: number, cols: number, type: number, values: number[]) => Mat
    getPerspectiveTransform: (from: Mat, to: Mat) => Mat & { data64F: Float64Array }
  }
  fc.assert(
    fc.property(quad, (to) => {
      const m = toCorners(region, to)!
      const flat = (p: readonly Point[]) => p.flatMap(({ x, y }) => [x, y])
      const src = cv.matFromArray(4, 1, cv.CV_32FC2, flat(cornersOf(region)))
      const dst = cv.matFromArray(4, 1, cv.CV_32FC2, flat(to))
      const theirs = cv.getPerspectiveTransform(src, dst)
      const t = Array.from(theirs.data64F) as unknown as Matrix
      for (const mat of [src, dst, theirs]) mat.delete()
      cornersOf(region).forEach((p, i) => {
        const ours = mapped(m, p)!
        expect(Math.hypot(ours.x - to[i]!.x, ours.y - to[i]!.y)).toBeLessThan(1e-6)
      })
      for (const p of [
        { x: 50, y: 50 },
        { x: 200, y: 120 },
        { x: 300, y: -10 },
      ]) {
        const [ours, cvs] = [mapped(m, p)!, mapped(t, p)!]
        // its corners are floats of 32 bits
        expect(Math.hypot(ours.x - cvs.x, ours.y - cvs.y)).toBeLessThan(0.01)
      }
    }),
    { numRuns: 60 },
  )
})

test('there and back is where one was', () => {
  fc.assert(
    fc.property(
      fc.oneof(
        affine.map((a) => a.m),
        quad.map((q) => toCorners(region, q)!),
      ),
      number(10, 310),
      number(-20, 180),
      (m, x, y) => {
        const back = inverse(m)!
        const p = mapped(back, mapped(m, { x, y })!)!
        expect(Math.hypot(p.x - x, p.y - y)).toBeLessThan(1e-5)
      },
    ),
  )
  expect(inverse([1, 2, 0, 2, 4, 0, 0, 0, 1])).toBeNull()
})

test('what a hand decides is read again from the placement', () => {
  fc.assert(
    fc.property(affine, ({ d, m }) => {
      const again = decided(m, { x: 40, y: 30 })!
      for (const k of ['x', 'y', 'scaleX', 'scaleY', 'slant'] as const) expect(again[k]).toBeCloseTo(d[k], 6)
      expect(Math.abs(((again.angle - d.angle + 540) % 360) - 180)).toBeLessThan(1e-6)
    }),
  )
  // mirrored: a height below 0
  expect(decided(placed({ x: 0, y: 0, scaleX: 2, scaleY: -1, angle: 30, slant: 0 }, { x: 0, y: 0 }), { x: 0, y: 0 })!.scaleY).toBeCloseTo(-1, 9)
  expect(
    decided(
      toCorners(region, [
        { x: 0, y: 0 },
        { x: 9, y: 1 },
        { x: 10, y: 12 },
        { x: 0, y: 8 },
      ])!,
      { x: 0, y: 0 },
    ),
  ).toBeNull()
})

test('quarter turns and flips are told from what has to be resampled', () => {
  const middle = { x: 160, y: 80 }
  expect(kindOf(identity)).toBe('still')
  for (const m of [moved(3, -7), about(middle, turned(90)), about(middle, turned(180)), about(middle, turned(-90)), about(middle, scaled(-1, 1))])
    expect(kindOf(m)).toBe('copy')
  expect(kindOf(about({ x: 160, y: 80 }, scaled(0.5)))).toBe('half')
  for (const m of [moved(0.5, 0), turned(0.1), scaled(1 / 3), scaled(0.5, 0.25), about({ x: 0.25, y: 0 }, scaled(-1, 1))]) expect(kindOf(m)).toBe('affine')
  expect(
    kindOf(
      toCorners(region, [
        { x: 0, y: 0 },
        { x: 9, y: 1 },
        { x: 10, y: 12 },
        { x: 0, y: 8 },
      ])!,
    ),
  ).toBe('projective')
  // four quarters are none, exactly
  const quarter = about(middle, turned(90))
  expect(times(quarter, times(quarter, times(quarter, quarter)))).toEqual(identity)
})

test('an extent holds what becomes of every point, and no row or column more than it must', () => {
  fc.assert(
    fc.property(affine, fc.array(fc.tuple(number(0, 1), number(0, 1)), { minLength: 20, maxLength: 20 }), ({ m }, places) => {
      const extent = extentOf(m, region)!
      for (const [u, v] of places) {
        const { x, y } = mapped(m, { x: region.x + u * region.w, y: region.y + v * region.h })!
        expect(contains({ x: extent.x - 1e-6, y: extent.y - 1e-6, w: extent.w + 2e-6, h: extent.h + 2e-6 }, { x, y, w: 0, h: 0 })).toBe(true)
      }
      const xs = cornersOf(region).map((p) => mapped(m, p)!.x)
      expect(extent.x + 1).toBeGreaterThan(Math.min(...xs) - 1e-6)
      expect(extent.x + extent.w - 1).toBeLessThan(Math.max(...xs) + 1e-6)
    }),
  )
  // whole moves move it whole
  expect(extentOf(moved(5, 6), region)).toEqual({ x: 15, y: -14, w: 300, h: 200 })
})

test('what lies behind the horizon is not seen, and what is before it is', () => {
  // w falls to 0 at x = 200 of the region’s own pixels
  const m: Matrix = [1, 0, 0, 0, 1, 0, -1 / 200, 0, 1]
  expect(mapped(m, { x: 250, y: 0 })).toBeNull()
  const extent = extentOf(m, region)!
  expect(extent.x).toBeLessThanOrEqual(10)
  expect(extent.w).toBeGreaterThan(1000)
  expect(extentOf(m, { x: 210, y: 0, w: 50, h: 50 })).toBeNull()
})

test('a corner dragged through its neighbour or through a side is no quadrilateral', () => {
  const square: Point[] = [
    { x: 0, y: 0 },
    { x: 10, y: 0 },
    { x: 10, y: 10 },
    { x: 0, y: 10 },
  ]
  expect(isConvex(square)).toBe(true)
  expect(isConvex([...square].reverse())).toBe(true)
  expect(isConvex([{ x: 12, y: 0 }, square[1]!, square[2]!, square[3]!])).toBe(false)
  expect(isConvex([{ x: 7, y: 7 }, square[1]!, square[2]!, square[3]!])).toBe(false)
  expect(toCorners(region, [square[0]!, square[2]!, square[1]!, square[3]!])).toBeNull()
})

test('how far a place is reduced is the most that lengths shrink there', () => {
  const back = (m: Matrix) => inverse(m)!
  expect(reduction(back(scaled(0.25, 0.5)), { x: 9, y: 9 })).toBeCloseTo(4, 9)
  expect(reduction(back(about({ x: 3, y: 4 }, turned(33))), { x: 9, y: 9 })).toBeCloseTo(1, 9)
  // of a perspective: as measured by a small step each way
  const m = toCorners(region, [
    { x: 0, y: 0 },
    { x: 200, y: 30 },
    { x: 190, y: 110 },
    { x: 10, y: 150 },
  ])!
  const [p, e] = [{ x: 100, y: 70 }, 1e-4]
  const b = back(m)
  let most = 0
  for (let a = 0; a < 360; a += 1) {
    const [dx, dy] = [e * Math.cos((a * Math.PI) / 180), e * Math.sin((a * Math.PI) / 180)]
    const [q, r] = [mapped(b, { x: p.x + dx, y: p.y + dy })!, mapped(b, { x: p.x - dx, y: p.y - dy })!]
    most = Math.max(most, Math.hypot(q.x - r.x, q.y - r.y) / (2 * e))
  }
  expect(reduction(b, p)).toBeCloseTo(most, 2)
})
