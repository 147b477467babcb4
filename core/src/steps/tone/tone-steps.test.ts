import type { Kernels } from '../../kernels/kernels.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import { publicHistograms } from '../../testing/data/histograms.ts'
import type { Rgba } from '../../testing/kernel-run.ts'
import { openCv } from '../../testing/opencv.ts'
import { photoPart } from '../../testing/photo.ts'
import { meanOf, painted, through } from '../../testing/through.ts'
import { limitedCurve } from './equalise-locally.ts'
import { otsu, toneOfShare } from './histogram.ts'
import { plates } from './posterize.ts'
import { liftOf } from './shadows-highlights.ts'

let kernels: Kernels
let photo: Rgba
beforeAll(async () => {
  kernels = await loadKernels()
  photo = await photoPart('keeper-portrait', { left: 500, top: 500, width: 256, height: 192 })
})
const ramp = painted(256, 8, (x) => [x / 255])
const at = (p: Rgba, x: number, c = 0) => p.v[x * 4 + c]! / 65535

describe('Otsu', () => {
  test.each(publicHistograms)('$name: the threshold of scikit-image', ({ counts, otsu: theirs }) => {
    expect(otsu(counts)).toBe(theirs)
  })

  test('the step cuts where the two heaps part', async () => {
    const two = painted(40, 40, (x, y) => [((x * 7 + y * 3) % 10 < 6 ? 60 : 190) / 255])
    const got = await through(kernels, two, [['threshold', { by: 'otsu' }]])
    expect(meanOf(got)).toBeCloseTo(0.4, 6)
  })
})

test('a share of black is that share of the picture', async () => {
  for (const black of [0.2, 0.5, 0.8]) expect(1 - meanOf(await through(kernels, photo, [['threshold', { by: 'share', black }]]))).toBeCloseTo(black, 2)
  expect(
    toneOfShare(
      Array.from({ length: 256 }, () => 1),
      0.25,
    ),
  ).toBeCloseTo(63.5, 6)
})

test('levels and curves of one channel leave the others alone; channels come before all', async () => {
  const got = await through(kernels, ramp, [['levels', { redBlack: 51, blueWhite: 204, midtone: 1 }]])
  expect(at(got, 51)).toBe(0)
  expect(at(got, 153)).toBeCloseTo((153 - 51) / 204, 4)
  expect(at(got, 100, 1)).toBeCloseTo(100 / 255, 4)
  expect(at(got, 102, 2)).toBeCloseTo(0.5, 4)
  const curved = await through(kernels, ramp, [
    [
      'curves',
      {
        green: [
          [0, 1],
          [1, 0],
        ],
        points: [
          [0, 0],
          [1, 0.5],
        ],
      },
    ],
  ])
  expect(at(curved, 255, 1)).toBe(0)
  expect(at(curved, 0, 1)).toBeCloseTo(0.5, 4)
})

test('the luminance curve changes lightness and keeps the differences of colour (SetLum of W3C Compositing)', async () => {
  const p = painted(1, 1, () => [0.5, 0.4, 0.3])
  const got = await through(kernels, p, [
    [
      'curves',
      {
        luminance: [
          [0, 0.1],
          [1, 0.9],
        ],
      },
    ],
  ])
  const luma = (r: number, g: number, b: number) => 0.2126 * r + 0.7152 * g + 0.0722 * b
  const l = luma(0.5, 0.4, 0.3)
  const to = 0.1 + 0.8 * l
  expect([0, 1, 2].map((c) => at(got, 0, c))).toEqual([0.5, 0.4, 0.3].map((v) => expect.closeTo(v + to - l, 3)))
})

test('exposure: a stop is twice the linear light, and back; the shoulder keeps white white and never turns over', async () => {
  const linear = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
  const got = await through(kernels, ramp, [['exposure', { stops: 1, shoulder: 0 }]])
  for (const x of [10, 60, 120, 180]) expect(linear(at(got, x))).toBeCloseTo(Math.min(1, 2 * linear(x / 255)), 3)
  const soft = await through(kernels, ramp, [['exposure', { stops: 2, shoulder: 1 }]])
  for (let x = 1; x < 256; x++) expect(soft.v[x * 4]!).toBeGreaterThanOrEqual(soft.v[(x - 1) * 4]!)
  expect(at(soft, 255)).toBe(1)
  expect(at(soft, 150)).toBeLessThan(1)
})

test('posterize: equal steps at even or given boundaries; by lightness colours keep their hue', async () => {
  const tones = (p: Rgba) => [...new Set(Array.from({ length: 256 }, (_, x) => Math.round(at(p, x) * 255)))]
  expect(tones(await through(kernels, ramp, [['posterize', { tones: 4, softness: 0 }]]))).toEqual([0, 85, 170, 255])
  const set = await through(kernels, ramp, [['posterize', { boundaries: [30, 200], softness: 0 }]])
  expect([at(set, 29), at(set, 31), at(set, 199), at(set, 201)].map((v) => Math.round(v * 2))).toEqual([0, 1, 1, 2])
  const f = plates([100], 40)
  expect([f(79 / 255), f(100 / 255), f(121 / 255)]).toEqual([0, expect.closeTo(0.5, 9), 1])
})

test('shadows and highlights: dark parts rise, light ones fall, the order of tones stays, and there is no halo at an edge', async () => {
  let before = -1
  for (let v = 0; v <= 1; v += 1 / 256) {
    const to = v * liftOf(v, 1, 1)
    expect(to).toBeGreaterThan(before - 1e-9)
    before = to
  }
  // two flat halves: next to the edge they come out as far from it
  const step = painted(200, 20, (x) => [x < 100 ? 0.15 : 0.8])
  const got = await through(kernels, step, [['shadows-highlights', { shadows: 0.8, highlights: 0.6, reach: { value: 12, unit: 'px' } }]])
  const row = (x: number) => at(got, x + 10 * 200)
  expect(row(10)).toBeGreaterThan(0.2)
  expect(row(190)).toBeLessThan(0.75)
  for (const x of [80, 90, 97]) expect(Math.abs(row(x) - row(10))).toBeLessThan(0.02)
  for (const x of [103, 110, 120]) expect(Math.abs(row(x) - row(190))).toBeLessThan(0.02)
})

test('equalise locally stays close to OpenCV’s CLAHE on a grey picture', async () => {
  const { cv } = await openCv()
  const grey = await through(kernels, photo, [['black-white', { by: 'bt709' }]])
  const [from, to] = [
    cv.matFromArray(
      192,
      256,
      cv.CV_8UC1,
      Array.from({ length: 256 * 192 }, (_, i) => Math.round(grey.v[i * 4]! / 257)),
    ),
    new cv.Mat(),
  ]
  // a limit that hardly cuts: it hands what it cuts to all bins, so that they pass the limit again
  const clahe = new cv.CLAHE(10, new cv.Size(4, 3))
  clahe.apply(from, to)
  const got = await through(kernels, grey, [['equalise-locally', { tiles: 4, limit: 10 }]])
  let sum = 0
  let off = 0
  for (let i = 0; i < 256 * 192; i++) {
    const d = got.v[i * 4]! / 257 - to.data[i]!
    sum += Math.abs(d)
    off += d
  }
  // it hands cut counts on in whole numbers and spreads the rest over every so manieth bin
  expect(sum / (256 * 192)).toBeLessThan(2)
  expect(Math.abs(off / (256 * 192))).toBeLessThan(1.5)
  ;[from, to, clahe].forEach((m) => m.delete())
})

describe('the limited curve', () => {
  test.each(publicHistograms)('$name: as scikit-image fills up what lies below the limit', ({ counts, limited }) => {
    for (const [limit, shares] of Object.entries(limited)) {
      const curve = limitedCurve(counts, Number(limit))
      // theirs counts in whole pixels
      shares.forEach((v, i) => expect(Math.abs(curve[i * 16 + 15]! / 65535 - v)).toBeLessThan(0.004))
    }
  })

  test.each([1, 1.3, 2, 10])('is nowhere steeper than the limit of %d, and rises to white', (limit) => {
    for (const { counts } of publicHistograms) {
      const curve = limitedCurve(counts, limit)
      expect(curve[255]).toBe(65535)
      for (let i = 1; i < 256; i++) {
        expect(curve[i]! - curve[i - 1]!).toBeGreaterThanOrEqual(0)
        expect(curve[i]! - curve[i - 1]!).toBeLessThanOrEqual((limit * 65535) / 256 + 1)
      }
    }
  })

  test('a limit of 1 leaves the picture as it is', async () => {
    const got = await through(kernels, photo, [['equalise-locally', { limit: 1 }]])
    expect(got.v.filter((v, i) => Math.abs(v - photo.v[i]!) > 300)).toHaveLength(0)
  })
})

describe('a vignette', () => {
  const light = (code: number) => (code <= 0.04045 ? code / 12.92 : ((code + 0.055) / 1.055) ** 2.4)
  const [W, H] = [120, 80]
  const grey = painted(W, H, () => [0.6])
  const clear = { x: 0.4, y: 0.5, rx: 0.25, ry: 0.25 }

  test('leaves the ellipse as it is, and takes from linear light (IEC 61966-2-1) the stops it says outside of it', async () => {
    const [stops, fall] = [2, 1.5]
    const got = await through(kernels, grey, [['vignette', { clear, stops, fall }]])
    const out = (x: number, y: number) => Math.hypot((x - 0.4 * W) / (0.25 * W), (y - 0.5 * H) / (0.25 * H)) - 1
    const corner = Math.max(out(0, 0), out(W, 0), out(0, H), out(W, H))
    for (const [x, y] of [
      [48, 40],
      [60, 45],
      [20, 40],
      [100, 10],
      [119, 79],
      [3, 2],
    ] as const) {
      const u = Math.max(0, out(x + 0.5, y + 0.5) / corner)
      expect(light(at(got, y * W + x))).toBeCloseTo(light(at(grey, y * W + x)) * 2 ** (-stops * u ** fall), 3)
    }
  })

  test('loses itself in a colour, and gains light below 0', async () => {
    const faded = await through(kernels, grey, [['vignette', { clear, stops: 6, fall: 0.5, tint: '#ffffff' }]])
    expect(at(faded, 79 * W + 119)).toBeGreaterThan(0.97)
    const gained = await through(kernels, grey, [['vignette', { clear, stops: -1, fall: 1 }]])
    expect(light(at(gained, 79 * W + 119)) / light(0.6)).toBeGreaterThan(1.9)
  })

  test('with an ellipse round the whole sheet changes nothing', async () => {
    const got = await through(kernels, grey, [['vignette', { clear: { x: 0.5, y: 0.5, rx: 1.5, ry: 1.5 }, stops: 5 }]])
    expect(got.v).toEqual(grey.v)
  })
})

describe('a tonal span', () => {
  test('lets a step act between its tones only, with soft ends', async () => {
    const span = { low: 0.4, high: 0.6, softLow: 0.1, softHigh: 0.2 }
    const got = await through(kernels, ramp, [['invert']], (a) => ({ ...a, layers: [{ ...a.layers[0]!, chain: [{ ...a.layers[0]!.chain[0]!, span }] }] }))
    const share = (x: number) => (at(got, x) - x / 255) / (1 - (2 * x) / 255)
    expect(share(60)).toBeCloseTo(0, 3)
    expect(share(110)).toBeCloseTo(1, 3)
    expect(share(150)).toBeCloseTo(1, 3)
    // half way through the upper soft end, by the smooth step
    expect(share(Math.round(0.7 * 255))).toBeCloseTo(0.5, 1)
    expect(share(220)).toBeCloseTo(0, 3)
  })

  test('of a layer goes by what lies below it', async () => {
    const got = await through(kernels, ramp, [], (a) => ({
      ...a,
      layers: [
        a.layers[0]!,
        { ...a.layers[0]!, id: 'top', source: { type: 'fill', colour: '#ff0000', alpha: 1 }, spanBelow: { low: 0, high: 0.5, softLow: 0, softHigh: 0 } },
      ],
    }))
    expect([at(got, 40), at(got, 40, 1)]).toEqual([1, 0])
    expect(at(got, 200, 1)).toBeCloseTo(200 / 255, 4)
  })
})
