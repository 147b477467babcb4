import type { Kernels } from '../../kernels/kernels.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import { withKernel, type Rgba } from '../../testing/kernel-run.ts'
import { openCv } from '../../testing/opencv.ts'
import { photoPart } from '../../testing/photo.ts'
import { meanOf, painted, through } from '../../testing/through.ts'
import { crestsInto } from './contours-1.ts'

const { floor, abs, max, min, hypot } = Math
let kernels: Kernels
let photo: Rgba
beforeAll(async () => {
  kernels = await loadKernels()
  photo = await photoPart('boathouse', { left: 760, top: 560, width: 240, height: 180 })
})
const px = (value: number) => ({ value, unit: 'px' })
const ALL = Array.from({ length: 16 }, () => 1)

describe('contours', () => {
  test('Canny: nearly the edges that OpenCV finds', async () => {
    const { cv } = await openCv()
    const { w, h } = photo
    const sigma = 1.4
    const grey = cv.matFromArray(
      h,
      w,
      cv.CV_8UC1,
      Array.from({ length: w * h }, (_, i) => Math.round((photo.v[i * 4]! * 0.2126 + photo.v[i * 4 + 1]! * 0.7152 + photo.v[i * 4 + 2]! * 0.0722) / 257)),
    )
    const [calm, edges] = [new cv.Mat(), new cv.Mat()]
    cv.GaussianBlur(grey, calm, new cv.Size(0, 0), sigma, sigma, cv.BORDER_REPLICATE)
    // ours is told the contrast of a step; theirs the length of Sobel's sums, eight times a slope a pixel
    const contrast = 40
    const slope = contrast / Math.sqrt(2 * Math.PI * (sigma * sigma + 0.6))
    cv.Canny(calm, edges, slope * 8 * 0.5, slope * 8, 3, true)
    const theirs = (x: number, y: number) => edges.data[y * w + x]! > 0

    const margin = 40
    const inner = { x: margin, y: margin, w: w - 2 * margin, h: h - 2 * margin }
    const found = withKernel(
      kernels,
      photo,
      0,
      { w: inner.w, h: inner.h, bytes: 16 },
      (s, ss, d) => {
        // linked as far as the whole picture reaches
        const area = { x: 10, y: 10, w: w - 20, h: h - 20 }
        kernels.scratch(area.w * area.h * 16, (crest) => {
          crestsInto(kernels, { ptr: s, stride: ss, region: { x: 0, y: 0, w, h } }, crest, area, {
            detector: 'canny',
            detail: sigma * 3,
            faintest: contrast,
            rose: ALL,
          })
          for (let y = 0; y < inner.h; y++)
            kernels.bytes(d + y * inner.w * 16, inner.w * 16).set(kernels.bytes(crest + ((y + 30) * area.w + 30) * 16, inner.w * 16))
        })
      },
      (d) => kernels.f32(d, inner.w * inner.h * 4).slice(),
    )
    const ours = (x: number, y: number) => found[((y - margin) * inner.w + x - margin) * 4]! > 0
    const near = (set: (x: number, y: number) => boolean, x: number, y: number) => {
      for (let j = -1; j <= 1; j++) for (let i = -1; i <= 1; i++) if (set(x + i, y + j)) return true
      return false
    }
    let [mine, mineThere, its, itsHere] = [0, 0, 0, 0]
    for (let y = margin + 1; y < h - margin - 1; y++) {
      for (let x = margin + 1; x < w - margin - 1; x++) {
        if (ours(x, y)) {
          mine++
          if (near(theirs, x, y)) mineThere++
        }
        if (theirs(x, y)) {
          its++
          if (near(ours, x, y)) itsHere++
        }
      }
    }
    expect(its).toBeGreaterThan(300)
    expect(mineThere / mine).toBeGreaterThan(0.93)
    // ours leaves out runs shorter than the smallest detail, theirs keeps crumbs
    expect(itsHere / its).toBeGreaterThan(0.85)
    ;[grey, calm, edges].forEach((m) => m.delete())
  })

  test('a line lies on the edge, as wide as the pen, and tapers where the edge is faint', async () => {
    const p = painted(80, 60, (x, y) => [x < 40 ? 0.2 : 0.2 + 0.7 * (y / 59)])
    const got = await through(kernels, p, [['contours@1', { detector: 'sobel', detail: px(3), faintest: 20, weight: px(4), taper: 1 }]])
    const ink = (y: number) => {
      let sum = 0
      let place = 0
      for (let x = 20; x < 60; x++) {
        const d = 1 - got.v[(y * 80 + x) * 4]! / 65535
        sum += d
        place += d * (x + 0.5)
      }
      return { width: sum, place: place / sum }
    }
    expect(ink(50).width).toBeGreaterThan(3.4)
    expect(ink(50).width).toBeLessThan(4.6)
    expect(abs(ink(50).place - 40)).toBeLessThan(0.7)
    expect(ink(20).width).toBeLessThan(ink(50).width * 0.85)
  })

  test.each([
    // dark on the left, light on the right: the gradient points right, sector 0
    [0, (x: number) => [x < 30 ? 0.2 : 0.8]],
    [8, (x: number) => [x < 30 ? 0.8 : 0.2]],
    // light above: it points up, 90°
    [4, (_: number, y: number) => [y < 30 ? 0.8 : 0.2]],
    [12, (_: number, y: number) => [y < 30 ? 0.2 : 0.8]],
    [2, (x: number, y: number) => [x - y > 0 ? 0.8 : 0.2]],
    [14, (x: number, y: number) => [x + y > 60 ? 0.8 : 0.2]],
  ] as const)('edge rose: an edge that faces sector %d is drawn by that sector alone', async (sector, at) => {
    const p = painted(60, 60, at)
    const only = ALL.map((_, i) => (i === sector ? 1 : 0))
    const others = only.map((v) => 1 - v)
    const inked = async (facing: number[]) => 1 - meanOf(await through(kernels, p, [['contours@1', { detail: px(3), weight: px(2), facing }]]))
    const full = await inked(ALL)
    expect(full).toBeGreaterThan(0.015)
    expect(await inked(only)).toBeGreaterThan(full * 0.75)
    expect(await inked(others)).toBeLessThan(full * 0.25)
    const shown = kernels.scratch(60 * 60 * 8, (ptr) => {
      kernels.u16(ptr, p.v.length).set(p.v)
      return roseOf(ptr)
    })
    expect(shown.indexOf(max(...shown))).toBe(sector)
  })
  /** The rose of a 60 × 60 picture: slopes by Sobel, inside its border. */
  function roseOf(ptr: number): number[] {
    return kernels.scratch(58 * 58 * 8 + 128, (slopes) => {
      const sums = slopes + 58 * 58 * 8
      kernels.raw.gradient(ptr, 480, slopes, 58 * 8, 58, 58, 0.2126, 0.7152, 0.0722, 0.25)
      kernels.f32(sums, 16).fill(0)
      kernels.raw.edgeRose(slopes, 58 * 8, 58, 58, sums, 0.01)
      return Array.from(kernels.f32(sums, 16))
    })
  }

  test('runs shorter than the smallest detail are not drawn, and faint ones only where they hang on strong ones', () => {
    const [w, h] = [60, 20]
    const kept = kernels.scratch(w * h * 16, (at) => {
      const f = kernels.f32(at, w * h * 4).fill(0)
      // a strong start of a faint line, a faint line by itself, a strong crumb
      for (let x = 5; x < 25; x++) f[(5 * w + x) * 4] = x < 8 ? 1 : 0.6
      for (let x = 35; x < 55; x++) f[(5 * w + x) * 4] = 0.6
      for (let x = 10; x < 13; x++) f[(15 * w + x) * 4] = 1
      kernels.raw.linkCrests(at, w * 16, w, h, 0.5, 0.9, 30, 4)
      return Array.from({ length: w * h }, (_, i) => kernels.f32(at, w * h * 4)[i * 4]! > 0)
    })
    const row = (y: number) => kept.slice(y * w, y * w + w).filter(Boolean).length
    expect([row(5), row(15)]).toEqual([20, 0])
  })
})

describe('ink lines', () => {
  test('the difference across a level flow is that of two Gaussians, in float64', () => {
    const [w, h, r] = [40, 30, 4]
    const [gw, gh] = [w + 2 * (r + 1), h + 2 * (r + 1)]
    const narrow = [0.4, 0.2, 0.07, 0.02, 0.01]
    const wide = [0.24, 0.2, 0.1, 0.05, 0.03]
    const value = (x: number, y: number) => Math.sin(x * 0.7) * Math.cos(y * 0.9) * 0.5 + 0.5
    kernels.scratch(gw * gh * 4 + w * h * 20 + 256, (src) => {
      const flow = src + gw * gh * 4
      const dst = flow + w * h * 16
      const weights = dst + w * h * 4
      kernels.f32(src, gw * gh).forEach((_, i, t) => (t[i] = value(i % gw, floor(i / gw))))
      // along x: across is y
      kernels.f32(flow, w * h * 4).forEach((_, i, t) => (t[i] = i % 4 === 0 ? 1 : 0))
      kernels.f32(weights, 10).set([...narrow, ...wide])
      kernels.raw.dogAcross(src, gw * 4, flow, w * 16, dst, w * 4, w, h, r, weights, 0.9, 0)
      const got = kernels.f32(dst, w * h)
      for (const [x, y] of [
        [0, 0],
        [17, 11],
        [39, 29],
      ] as const) {
        let want = 0
        for (let k = -r; k <= r; k++) want += (narrow[abs(k)]! - 0.9 * wide[abs(k)]!) * value(x + r + 1, y + r + 1 + k)
        expect(got[y * w + x]!).toBeCloseTo(want, 5)
      }
    })
  })

  test('the flow runs along stripes whichever way they lie', async () => {
    for (const degrees of [0, 30, 75, 120]) {
      const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
      const p = painted(64, 64, (x, y) => [0.5 + 0.4 * Math.sin((-x * s + y * c) * 0.6)])
      const flow = withKernel(
        kernels,
        p,
        1,
        { w: 64, h: 64, bytes: 16 },
        (src, ss, d, ds) => {
          kernels.raw.structureTensor(src, ss, d, ds, 64, 64, 0.1875)
          kernels.raw.flowOf(d, ds, d, ds, 64, 64)
        },
        (d) => kernels.f32(d, 64 * 64 * 4).slice(),
      )
      let along = 0
      for (let y = 10; y < 54; y++) for (let x = 10; x < 54; x++) along += abs(flow[(y * 64 + x) * 4]! * c + flow[(y * 64 + x) * 4 + 1]! * s)
      expect(along / 44 ** 2).toBeGreaterThan(0.98)
    }
  })

  test('a gap in a line is bridged by a long run, and blacks are filled up to their tone', async () => {
    const line = painted(100, 60, (x, y) => [abs(y - 30) < 2 && !(x > 47 && x < 53) ? 0.1 : 0.9])
    const gap = async (run: number) =>
      1 - meanOf(await through(kernels, line, [['ink-lines@1', { pen: px(4), run: px(run), blacks: 0.1 }]]), 0, { x: 49, y: 29, w: 3, h: 3 })
    expect(await gap(60)).toBeGreaterThan((await gap(1)) + 0.2)
    const flat = painted(60, 40, (x) => [x < 30 ? 0.1 : 0.9])
    const got = await through(kernels, flat, [['ink-lines@1', { blacks: 0.6, nib: 1 }]])
    expect([meanOf(got, 0, { x: 5, y: 5, w: 10, h: 30 }), meanOf(got, 0, { x: 45, y: 5, w: 10, h: 30 })]).toEqual([expect.closeTo(0, 1), expect.closeTo(1, 1)])
  })
})

describe('hatching', () => {
  test.each([
    ['two layers, straight', {}],
    ['one layer', { layers: 1, lead: 1 }],
    ['three layers, steady hand', { layers: 3, wobble: 0 }],
    ['three layers, shaky hand', { layers: 3, wobble: 1 }],
    ['soft lead', { lead: 1 }],
    ['along the forms', { follow: 'forms' }],
  ] as const)('%s: the mean tone is the photo’s within 3 %% over the tone scale', async (_, params) => {
    const black = { ink: '#000000', paper: '#ffffff', spacing: px(6), length: px(60), ...params }
    for (const tone of [0.1, 0.25, 0.4, 0.5, 0.6, 0.75, 0.9]) {
      const got = await through(
        kernels,
        painted(420, 420, () => [tone]),
        [['hatching@1', black]],
      )
      expect(abs(meanOf(got) - tone)).toBeLessThan(0.03)
    }
  })

  test('strokes run the way they are told, and end at a light', async () => {
    const p = painted(160, 160, (x) => [x < 80 ? 0.5 : 1])
    const got = await through(kernels, p, [['hatching@1', { layers: 1, direction: 30, spacing: px(8), length: px(80), wobble: 0 }]])
    expect(meanOf(got, 0, { x: 92, y: 0, w: 60, h: 160 })).toBeGreaterThan(0.995)
    // along the strokes neighbours are alike, across them they are not
    const at = (x: number, y: number) => got.v[(min(159, max(0, Math.round(y))) * 160 + min(159, max(0, Math.round(x)))) * 4]! / 65535
    const change = (degrees: number) => {
      const [c, s] = [Math.cos((degrees * Math.PI) / 180), -Math.sin((degrees * Math.PI) / 180)]
      let sum = 0
      for (let y = 20; y < 140; y += 3) for (let x = 20; x < 60; x += 3) sum += abs(at(x, y) - at(x + 4 * c, y + 4 * s))
      return sum
    }
    expect(change(30)).toBeLessThan(0.5 * change(120))
  })

  test('along the forms strokes bend round them', async () => {
    const rings = painted(200, 200, (x, y) => [0.5 + 0.3 * Math.sin(hypot(x - 100, y - 100) * 0.25)])
    const got = await through(kernels, rings, [['hatching@1', { layers: 1, follow: 'forms', spacing: px(5), length: px(30), wobble: 0 }]])
    const at = (x: number, y: number) => got.v[(Math.round(y) * 200 + Math.round(x)) * 4]! / 65535
    let [along, across] = [0, 0]
    for (let a = 0; a < 6.28; a += 0.05) {
      for (const r of [40, 55, 70]) {
        const [c, s] = [Math.cos(a), Math.sin(a)]
        const here = at(100 + r * c, 100 + r * s)
        along += abs(here - at(100 + r * c - 3 * s, 100 + r * s + 3 * c))
        across += abs(here - at(100 + (r + 3) * c, 100 + (r + 3) * s))
      }
    }
    expect(along).toBeLessThan(0.75 * across)
  })
})
