import { createCanvas } from '@napi-rs/canvas'
import type { Region } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { dice } from '../testing/pictures.ts'
import { edgesOf, polygon, type Path, type PathPoint } from './path.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

/** Cover 0…65535 of a path over a region. */
function cover(path: Path, region: Region, { level = 0, evenOdd = false } = {}): Uint16Array {
  const { points, counts } = edgesOf(path, level)
  const { x, y, w, h } = region
  return kernels.scratch(points.byteLength + counts.byteLength + 64, (at) =>
    kernels.scratch(w * h * 2 + 64, (dst) => {
      const bytes = kernels.bytes(at, points.byteLength + counts.byteLength)
      bytes.set(new Uint8Array(points.buffer), 0)
      bytes.set(new Uint8Array(counts.buffer), points.byteLength)
      kernels.raw.pathCover(at, at + points.byteLength, counts.length, x, y, w, h, evenOdd ? 1 : 0, dst, w * 2)
      return kernels.u16(dst, w * h).slice()
    }),
  )
}
const whole = { x: 0, y: 0, w: 200, h: 150 }
const areaOf = (v: Uint16Array) => v.reduce((s, c) => s + c / 65535, 0)
/** Shoelace formula. */
const exactly = (corners: readonly PathPoint[]) => {
  let sum = 0
  corners.forEach((p, i) => {
    const q = corners[(i + 1) % corners.length]!
    sum += p.x * q.y - q.x * p.y
  })
  return Math.abs(sum) / 2
}
const star = (n: number, step: number, cx: number, cy: number, r: number): PathPoint[] =>
  Array.from({ length: n }, (_, i) => {
    const a = (2 * Math.PI * ((i * step) % n)) / n
    return { x: cx + r * Math.cos(a), y: cy + r * Math.sin(a) }
  })
/** The same by Skia: alpha, 0…255. */
function skia(path: Path, { w, h }: Region, evenOdd = false): Uint8ClampedArray {
  const canvas = createCanvas(w, h)
  const c = canvas.getContext('2d')
  c.beginPath()
  for (const { from, pieces } of path) {
    c.moveTo(from.x, from.y)
    for (const p of pieces) {
      if ('via2' in p) c.bezierCurveTo(p.via.x, p.via.y, p.via2.x, p.via2.y, p.to.x, p.to.y)
      else if ('via' in p) c.quadraticCurveTo(p.via.x, p.via.y, p.to.x, p.to.y)
      else c.lineTo(p.to.x, p.to.y)
    }
    c.closePath()
  }
  c.fill(evenOdd ? 'evenodd' : 'nonzero')
  return c.getImageData(0, 0, w, h).data.filter((_, i) => i % 4 === 3)
}
function apart(ours: Uint16Array, theirs: Uint8ClampedArray): { mean: number } {
  let sum = 0
  ours.forEach((v, i) => (sum += Math.abs(v / 257 - theirs[i]!)))
  return { mean: sum / ours.length }
}

describe('areas', () => {
  test('pixels, halves and quarters of pixels are exact', () => {
    const box = (x0: number, y0: number, x1: number, y1: number): Path => [
      polygon([
        { x: x0, y: y0 },
        { x: x1, y: y0 },
        { x: x1, y: y1 },
        { x: x0, y: y1 },
      ]),
    ]
    const v = cover(box(1, 1, 3.5, 2.25), { x: 0, y: 0, w: 5, h: 4 })
    expect([...v]).toEqual([0, 0, 0, 0, 0, 0, 65535, 65535, 32768, 0, 0, 16384, 16384, 8192, 0, 0, 0, 0, 0, 0])
  })

  test.each([3, 4, 7, 40])('of a random polygon of %d corners that does not cross itself: the shoelace formula', (n) => {
    const next = dice(n)
    for (let k = 0; k < 20; k++) {
      const corners = Array.from({ length: n }, (_, i) => {
        const a = ((i + 0.8 * next()) / n) * 2 * Math.PI
        const r = 20 + 50 * next()
        return { x: 100 + r * Math.cos(a), y: 75 + r * Math.sin(a) }
      })
      // points are rounded to 1/256 pixel, and each edge's place in a row likewise
      const border = corners.reduce((s, p, i) => s + Math.hypot(p.x - corners[(i + 1) % n]!.x, p.y - corners[(i + 1) % n]!.y), 0)
      expect(Math.abs(areaOf(cover([polygon(corners)], whole)) - exactly(corners))).toBeLessThan(border / 256)
    }
  })

  test('clockwise or not, it covers the same; a contour within that runs the other way is a hole', () => {
    const [outer, inner] = [star(12, 1, 100, 75, 60), star(12, 1, 100, 75, 30)]
    const there = cover([polygon(outer)], whole)
    const back = cover([polygon([...outer].reverse())], whole)
    expect(Math.max(...there.map((v, i) => Math.abs(v - back[i]!)))).toBeLessThan(520)
    const ring = areaOf(cover([polygon(outer), polygon([...inner].reverse())], whole))
    expect(Math.abs(ring - exactly(outer) + exactly(inner))).toBeLessThan(4)
  })
})

/** The share of each pixel that lies within, 0…255, by samples of the curves themselves, not of our edges. */
function sampled(inside: (x: number, y: number) => boolean, { w, h }: Region): Float64Array {
  const n = 64
  const out = new Float64Array(w * h)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let hits = 0
      for (let j = 0; j < n; j++) for (let i = 0; i < n; i++) if (inside(x + (i + 0.5) / n, y + (j + 0.5) / n)) hits++
      out[y * w + x] = (hits / n / n) * 255
    }
  return out
}

describe('against the definition and Skia', () => {
  const small = { x: 0, y: 0, w: 70, h: 60 }
  test('a circle of four curves is a circle, within 2 of 255', () => {
    const [cx, cy, r] = [34.3, 30.1, 24.7]
    // the usual four cubics stand off the circle by 0.027 % of its radius
    const k = r * 0.5522847498
    const at = (x: number, y: number) => ({ x: cx + x, y: cy + y })
    const circle: Path = [
      {
        from: at(r, 0),
        pieces: [
          { via: at(r, k), via2: at(k, r), to: at(0, r) },
          { via: at(-k, r), via2: at(-r, k), to: at(-r, 0) },
          { via: at(-r, -k), via2: at(-k, -r), to: at(0, -r) },
          { via: at(k, -r), via2: at(r, -k), to: at(r, 0) },
        ],
      },
    ]
    const v = cover(circle, small)
    const truth = sampled((x, y) => Math.hypot(x - cx, y - cy) < r, small)
    let most = 0
    v.forEach((c, i) => (most = Math.max(most, Math.abs(c / 257 - truth[i]!))))
    expect(most).toBeLessThan(2)
    expect(Math.abs(areaOf(v) - Math.PI * r * r)).toBeLessThan(1)
  })

  test.each([false, true])('as Skia fills it, whose own edges are off by up to 30 of 255; even-odd %s', (evenOdd) => {
    const path: Path = [
      polygon(star(7, 3, 100, 75, 70)),
      {
        from: { x: 20, y: 80 },
        pieces: [
          { via: { x: 30, y: 5 }, via2: { x: 120, y: 0 }, to: { x: 180, y: 60 } },
          { via: { x: 190, y: 140 }, to: { x: 90, y: 140 } },
          { to: { x: 60, y: 120 } },
        ],
      },
    ]
    const [ours, theirs] = [cover(path, whole, { evenOdd }), skia(path, whole, evenOdd)]
    expect(apart(ours, theirs).mean).toBeLessThan(0.6)
    // where edges cross within a pixel areas are added, not intersected: at few pixels
    const far = ours.filter((v, i) => Math.abs(v / 257 - theirs[i]!) > 32).length
    expect(far / ours.length).toBeLessThan(0.003)
  })
})

describe('the same bits', () => {
  test('in any cutting, at any level', () => {
    const path: Path = [
      polygon(star(9, 4, 100, 75, 90)),
      { from: { x: -30, y: 70 }, pieces: [{ via: { x: 100, y: -80 }, via2: { x: 120, y: 260 }, to: { x: 250, y: 60 } }] },
    ]
    for (const level of [0, 1, 2]) {
      const [w, h] = [Math.ceil(200 / 2 ** level), Math.ceil(150 / 2 ** level)]
      for (const evenOdd of [false, true]) {
        const all = cover(path, { x: 0, y: 0, w, h }, { level, evenOdd })
        for (const [tw, th] of [
          [w, 1],
          [1, h],
          [13, 7],
          [32, 32],
        ] as const) {
          for (let y = 0; y < h; y += th)
            for (let x = 0; x < w; x += tw) {
              const part = { x, y, w: Math.min(tw, w - x), h: Math.min(th, h - y) }
              const v = cover(path, part, { level, evenOdd })
              for (let j = 0; j < part.h; j++)
                for (let i = 0; i < part.w; i++)
                  if (v[j * part.w + i] !== all[(y + j) * w + x + i]) throw new Error(`${level} ${tw}×${th} at ${x + i}, ${y + j}`)
            }
        }
      }
    }
  })

  test('points far outside, edges of no height, contours of no points', () => {
    const path: Path = [
      polygon([
        { x: -60_000, y: -60_000 },
        { x: 60_000, y: -60_000 },
        { x: 60_000, y: 60_000 },
        { x: -60_000, y: 60_000 },
      ]),
      { from: { x: 3, y: 3 }, pieces: [] },
    ]
    expect(new Set(cover(path, whole))).toEqual(new Set([65535]))
    expect(
      new Set(
        cover(
          [
            polygon([
              { x: 0, y: 10 },
              { x: 200, y: 10 },
            ]),
          ],
          whole,
        ),
      ),
    ).toEqual(new Set([0]))
    expect(new Set(cover([], whole))).toEqual(new Set([0]))
  })
})
