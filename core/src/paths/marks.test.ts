import { createCanvas } from '@napi-rs/canvas'
import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Region } from '../base/region.ts'
import { layMarks } from '../steps/line/draw-marks.ts'
import { areasIn, MarkList, marksIn, type Marks } from './marks.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

/** What lies on each pixel of a region. */
function laid(marks: Marks, region: Region, level = 0): Float32Array {
  const { w, h } = region
  return kernels.scratch(w * h * 4, (plane) => {
    layMarks(kernels, marks, region, level, plane)
    return kernels.f32(plane, w * h).slice()
  })
}
const sum = (v: Float32Array) => v.reduce((a, b) => a + b, 0)
const all = { x: 0, y: 0, w: 600, h: 500 }

/** A few hundred marks, bent, tapering, of changing weight. */
function many(): Marks {
  const list = new MarkList()
  for (let k = 0; k < 300; k++) {
    const [x, y, a] = [(k * 137) % 600, (k * 89) % 500, k * 0.7]
    for (let i = 0; i <= 20; i++) {
      const t = i / 20
      list.place(x + 60 * t * Math.cos(a + t), y + 60 * t * Math.sin(a + t), 2.5 * Math.sqrt(t * (1 - t)) * 2, 0.3 + 0.7 * t)
    }
    list.end()
  }
  list.area([
    { x: 100.5, y: 100 },
    { x: 220, y: 130.25 },
    { x: 160, y: 260 },
  ])
  return list.done(all)
}

test('a straight mark covers its own area, exactly: a quadrangle by the formula of the trapezium', () => {
  for (const [a, b, w] of [
    [3, 3, 1],
    [4, 1, 1],
    [2.5, 2.5, 0.4],
  ] as const) {
    const list = new MarkList()
    list.mark([
      { x: 40.25, y: 50.5, half: a, weight: w },
      { x: 140.75, y: 92.5, half: b, weight: w },
    ])
    const long = Math.hypot(100.5, 42)
    const weight = Math.floor(w * 255 + 0.5) / 255
    // corners are rounded to 1/256 pixel
    expect(Math.abs(sum(laid(list.done(all), all)) - (a + b) * long * weight)).toBeLessThan(0.02 * long)
  }
})

test('what is laid adds up: twice the same mark is twice as much, an area under it as much more', () => {
  const one = new MarkList()
  const two = new MarkList()
  const line = [
    { x: 50, y: 60, half: 3, weight: 0.5 },
    { x: 150, y: 80, half: 3, weight: 0.5 },
  ]
  one.mark(line)
  two.mark(line)
  two.mark([...line].reverse())
  const [a, b] = [laid(one.done(all), all), laid(two.done(all), all)]
  let off = 0
  a.forEach((v, i) => (off = Math.max(off, Math.abs(b[i]! - 2 * v))))
  expect(off).toBeLessThan(1e-5)
  const square = [
    { x: 40, y: 40 },
    { x: 200, y: 40 },
    { x: 200, y: 200 },
    { x: 40, y: 200 },
  ]
  for (const marked of [line, [...line].reverse()]) {
    const under = new MarkList()
    under.mark(marked)
    under.area(square)
    const c = laid(under.done(all), all)
    // where the mark lies within the area it is laid on top of it, whichever way it was drawn
    expect(Math.abs(sum(c) - sum(a) - 160 * 160)).toBeLessThan(0.5)
  }
})

test.each([0, 1, 2])('any cutting of the picture gives the same bits, at level %d', (level) => {
  const marks = many()
  const [w, h] = [600 >> level, 500 >> level]
  const whole = laid(marks, { x: 0, y: 0, w, h }, level)
  let differ = 0
  for (const [tw, th] of [
    [64, 64],
    [w, 16],
    [37, 111],
  ] as const)
    for (let y = 0; y < h; y += th)
      for (let x = 0; x < w; x += tw) {
        const region = { x, y, w: Math.min(tw, w - x), h: Math.min(th, h - y) }
        const part = laid(marks, region, level)
        for (let j = 0; j < region.h; j++)
          expect(part.subarray(j * region.w, (j + 1) * region.w)).toEqual(whole.subarray((y + j) * w + x, (y + j) * w + x + region.w))
      }
  expect(differ).toBe(0)
})

test('at a level marks are what reducing the full size gives, but for the rounding of their places', () => {
  const marks = many()
  const full = laid(marks, all)
  const half = laid(marks, { x: 0, y: 0, w: 300, h: 250 }, 1)
  let most = 0
  for (let y = 0; y < 250; y++)
    for (let x = 0; x < 300; x++) {
      const i = 2 * y * 600 + 2 * x
      most = Math.max(most, Math.abs(half[y * 300 + x]! - (full[i]! + full[i + 1]! + full[i + 600]! + full[i + 601]!) / 4))
    }
  expect(most).toBeLessThan(0.03)
})

test('drawing touches only the marks whose bins the part meets', () => {
  const list = new MarkList()
  for (let i = 0; i < 10_000; i++) {
    const [x, y] = [(i % 100) * 100 + 20, Math.floor(i / 100) * 100 + 20]
    list.mark([
      { x, y, half: 1, weight: 1 },
      { x: x + 40, y: y + 10, half: 1, weight: 1 },
    ])
  }
  const marks = list.done({ x: 0, y: 0, w: 10_000, h: 10_000 })
  const some = marksIn(marks, { x: 5000, y: 5000, w: 512, h: 512 })
  // the part and a bin round it
  expect(some.length).toBeLessThanOrEqual(12 * 12)
  expect(some.length).toBeGreaterThanOrEqual(5 * 5)
  expect([...some]).toEqual([...some].sort((a, b) => a - b))
  // 16 bytes a place and a few a mark
  expect((marks.points.byteLength + marks.starts.byteLength + marks.bins.byteLength + marks.binned.byteLength) / 10_000).toBeLessThan(64)
})

test('a filled area is drawn where its box meets the part alone', () => {
  const marks = many()
  expect(areasIn(marks, { x: 120, y: 120, w: 64, h: 64 })).toEqual([0])
  expect(areasIn(marks, { x: 400, y: 300, w: 64, h: 64 })).toEqual([])
})

test('a mark of one place is nothing, and no marks at all draw nothing', () => {
  const list = new MarkList()
  list.place(5, 5, 2, 1)
  list.end()
  expect(list.count).toBe(0)
  expect(sum(laid(list.done(all), { x: 0, y: 0, w: 20, h: 20 }))).toBe(0)
})

test('a curved mark of one breadth weighs what Skia strokes it with, and lies where it does', () => {
  for (const half of [0.6, 2, 7]) {
    const places = Array.from({ length: 160 }, (_, i) => ({ x: 60 + 3 * i, y: 250 + 120 * Math.sin(i / 22), half, weight: 1 }))
    const list = new MarkList()
    list.mark(places)
    const ours = laid(list.done(all), all)
    const c = createCanvas(all.w, all.h).getContext('2d')
    c.lineWidth = 2 * half
    c.lineJoin = 'round'
    c.beginPath()
    places.forEach((p, i) => (i ? c.lineTo(p.x, p.y) : c.moveTo(p.x, p.y)))
    c.stroke()
    const theirs = c.getImageData(0, 0, all.w, all.h).data.filter((_, i) => i % 4 === 3)
    let [far, mine, its] = [0, 0, 0]
    for (let i = 0; i < ours.length; i++) {
      if (Math.abs(Math.min(1, ours[i]!) - theirs[i]! / 255) > 33 / 255) far++
      mine += Math.min(1, ours[i]!)
      its += theirs[i]! / 255
    }
    // Skia's rims are off from the area by up to 30 of 255; a few pixels more where pieces meet
    expect(far / ours.length).toBeLessThan(0.0005)
    expect(Math.abs(mine / its - 1)).toBeLessThan(0.02)
  }
})
