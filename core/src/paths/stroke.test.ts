import { createCanvas } from '@napi-rs/canvas'
import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { edgesOf, type Contour } from './path.ts'
import { outlineOf, type StrokeForm, type StrokePoint } from './stroke.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})
const [W, H] = [160, 120]
function cover(contour: Contour): Uint16Array {
  const { points, counts } = edgesOf([contour], 0)
  return kernels.scratch(points.byteLength + counts.byteLength + 64, (at) =>
    kernels.scratch(W * H * 2 + 64, (dst) => {
      const bytes = kernels.bytes(at, points.byteLength + counts.byteLength)
      bytes.set(new Uint8Array(points.buffer), 0)
      bytes.set(new Uint8Array(counts.buffer), points.byteLength)
      kernels.raw.pathCover(at, at + points.byteLength, counts.length, 0, 0, W, H, 0, dst, W * 2)
      return kernels.u16(dst, W * H).slice()
    }),
  )
}
const areaOf = (v: Uint16Array) => v.reduce((s, c) => s + c / 65535, 0)
const at = (x: number, y: number, breadth: number): StrokePoint => ({ x, y, breadth })
const flat: StrokeForm = { cap: 'flat', join: 'pointed' }
const round: StrokeForm = { cap: 'round', join: 'round' }
const area = (line: StrokePoint[], form: StrokeForm) => areaOf(cover(outlineOf(line, form)!))

test('a straight line covers length times breadth, round ends a circle more', () => {
  const line = [at(20.3, 30.7, 9), at(120.1, 77.9, 9)]
  const long = Math.hypot(99.8, 47.2)
  expect(area(line, flat)).toBeCloseTo(long * 9, -0.3)
  expect(Math.abs(area(line, round) - long * 9 - Math.PI * 4.5 ** 2)).toBeLessThan(1.5)
})

test('a taper covers half the breadth at its beginning times its length, and ends in a point', () => {
  expect(Math.abs(area([at(20, 60, 12), at(140, 60, 0)], flat) - (120 * 12) / 2)).toBeLessThan(1.5)
})

test('a right corner: pointed it is whole, round it lacks what a quarter circle does not fill', () => {
  const corner = [at(30, 90, 10), at(90, 90, 10), at(90, 30, 10)]
  // two arms and the square between them
  expect(Math.abs(area(corner, flat) - (60 * 10 + 60 * 10 - 25 + 25))).toBeLessThan(2)
  expect(Math.abs(area(corner, { cap: 'flat', join: 'round' }) - (1200 - 25 + (Math.PI * 25) / 4))).toBeLessThan(2)
})

test('a corner too sharp is cut, as the limit of SVG says', () => {
  const sharp = [at(20, 60, 8), at(120, 60, 8), at(20, 70, 8)]
  const reach = (form: StrokeForm) => {
    const v = cover(outlineOf(sharp, form)!)
    let far = 0
    for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) if (v[y * W + x]! > 32768) far = Math.max(far, x)
    return far
  }
  expect(reach(flat)).toBeLessThan(124)
  expect(reach({ ...flat, limit: 40 })).toBeGreaterThan(150)
})

test.each([round, { cap: 'flat', join: 'pointed', limit: 10 } as StrokeForm])('along a zigzag as Skia strokes it, at few pixels off ($join)', (form) => {
  const line = [at(15, 100, 7), at(40, 20, 7), at(70, 95, 7), at(95, 30, 7), at(140, 60, 7)]
  const ours = cover(outlineOf(line, form)!)
  const c = createCanvas(W, H).getContext('2d')
  c.lineWidth = 7
  c.lineCap = form.cap === 'round' ? 'round' : 'butt'
  c.lineJoin = form.join === 'round' ? 'round' : 'miter'
  c.miterLimit = form.limit ?? 4
  c.beginPath()
  line.forEach((p, i) => (i ? c.lineTo(p.x, p.y) : c.moveTo(p.x, p.y)))
  c.stroke()
  const theirs = c.getImageData(0, 0, W, H).data.filter((_, i) => i % 4 === 3)
  const far = ours.filter((v, i) => Math.abs(v / 257 - theirs[i]!) > 32).length
  // Skia's own edges are off from the area by up to 30 of 255
  expect(far / ours.length).toBeLessThan(0.002)
  expect(Math.abs(areaOf(ours) - theirs.reduce((s, v) => s + v / 255, 0))).toBeLessThan(12)
})

test('what has no length or no breadth draws nothing, or a dot', () => {
  expect(outlineOf([], round)).toBeNull()
  expect(outlineOf([at(5, 5, 4)], flat)).toBeNull()
  expect(outlineOf([at(5, 5, 0), at(50, 5, 0)], round)).toBeNull()
  expect(Math.abs(areaOf(cover(outlineOf([at(50, 50, 20), at(50, 50, 20)], round)!)) - Math.PI * 100)).toBeLessThan(1)
})
