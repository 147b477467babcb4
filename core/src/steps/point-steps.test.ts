import { artworkFromPhoto } from '../artwork/load.ts'
import { newStep } from '../artwork/layers.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { srgbToLinear, linearToSrgb } from '../colour/srgb.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, newTestEngine, testPicture } from '../testing/pictures.ts'
import { emulsionWeights, lumaBt601, lumaBt709 } from './colour/black-white.ts'
import { monotoneCubic } from './tone/curves.ts'

const asset = 'a'.repeat(64)
const w = 64
const h = 48
const bytes = testPicture(w, h)

/** The photo through some steps: RGBA16. */
async function through(...steps: [id: string, params?: Record<string, unknown>][]): Promise<Uint16Array> {
  const kernels = await loadKernels()
  const sources = new MemorySources()
  await sources.add(kernels, asset, { width: w, height: h, channels: 3, depth: 8 }, bytes)
  const artwork = artworkFromPhoto({ asset, width: w, height: h, title: 't' })
  artwork.layers[0]!.chain = steps.map(([id, params]) => newStep(id, params))
  return (await compute(newTestEngine(kernels, sources), artwork)).pixels
}
/** Largest difference of the red channel to what a function of the pixel's r, g, b (0…1) says, in 1/65535. */
function worst(got: Uint16Array, want: (r: number, g: number, b: number) => number): number {
  let d = 0
  for (let i = 0; i < w * h; i++) {
    const v = Math.min(1, Math.max(0, want(bytes[i * 3]! / 255, bytes[i * 3 + 1]! / 255, bytes[i * 3 + 2]! / 255)))
    d = Math.max(d, Math.abs(got[i * 4]! - v * 65535))
  }
  return d
}

test('the photo comes in as it is', async () => {
  const got = await through()
  for (let i = 0; i < w * h; i++) expect([...got.subarray(i * 4, i * 4 + 4)]).toEqual([...[0, 1, 2].map((c) => bytes[i * 3 + c]! * 257), 65535])
})

describe('black-and-white', () => {
  test('by Rec. ITU-R BT.709 and BT.601 luma weights', async () => {
    expect(lumaBt709).toEqual([0.2126, 0.7152, 0.0722])
    expect(lumaBt601).toEqual([0.299, 0.587, 0.114])
    expect(worst(await through(['black-white', { by: 'bt709' }]), (r, g, b) => 0.2126 * r + 0.7152 * g + 0.0722 * b)).toBeLessThan(1)
    expect(worst(await through(['black-white', { by: 'bt601' }]), (r, g, b) => 0.299 * r + 0.587 * g + 0.114 * b)).toBeLessThan(1)
  })

  test('by own weights, clamped', async () => {
    expect(worst(await through(['black-white', { by: 'weights', red: 1.5, green: -0.4, blue: 0.1 }]), (r, g, b) => 1.5 * r - 0.4 * g + 0.1 * b)).toBeLessThan(1)
  })

  test('by an emulsion in linear light; white stays white, greys stay as they are', async () => {
    const [wr, wg, wb] = emulsionWeights('orthochromatic', 'yellow')
    const want = (r: number, g: number, b: number) =>
      linearToSrgb(wr * srgbToLinear(r, Math.pow) + wg * srgbToLinear(g, Math.pow) + wb * srgbToLinear(b, Math.pow), Math.pow)
    // the encoding table has 65536 steps of the root of light: at most 13 codes apart in the deepest darks
    expect(worst(await through(['black-white', { emulsion: 'orthochromatic', filter: 'yellow' }]), want)).toBeLessThan(14)
    for (const e of ['panchromatic', 'orthochromatic', 'blue-sensitive'] as const) {
      for (const f of ['none', 'yellow', 'orange', 'red', 'green', 'blue'] as const) {
        expect(emulsionWeights(e, f).reduce((a, b) => a + b, 0)).toBeCloseTo(1, 12)
      }
    }
  })

  test('filters lighten their own colour and darken the opposite (common practice)', () => {
    const red = emulsionWeights('panchromatic', 'red')
    const none = emulsionWeights('panchromatic', 'none')
    expect(red[0]).toBeGreaterThan(none[0])
    expect(red[2]).toBeLessThan(none[2] / 5)
    expect(emulsionWeights('orthochromatic', 'none')[0]).toBeLessThan(0.05)
  })
})

test('invert', async () => {
  expect(worst(await through(['invert']), (r) => 1 - r)).toBeLessThan(1)
})

test('levels: black 50, midtone 0.60 as in the trade', async () => {
  expect(
    worst(await through(['levels', { black: 50, midtone: 0.6, white: 240, outBlack: 10, outWhite: 250 }]), (r) => {
      const t = Math.min(1, Math.max(0, (r * 255 - 50) / 190))
      return (10 + 240 * t ** (1 / 0.6)) / 255
    }),
  ).toBeLessThan(1)
})

test('brightness and contrast: a line through mid-grey', async () => {
  expect(worst(await through(['brightness-contrast', { brightness: 0.2, contrast: 0.5 }]), (r) => (r - 0.5) * 3 + 0.6)).toBeLessThan(1)
})

test('threshold cuts at its level on BT.709 luma, softly when asked', async () => {
  const luma = (r: number, g: number, b: number) => 0.2126 * r + 0.7152 * g + 0.0722 * b
  const hard = await through(['threshold', { level: 120 }])
  expect(new Set(hard.filter((_, i) => i % 4 !== 3))).toEqual(new Set([0, 65535]))
  expect(worst(hard, (r, g, b) => (Math.round(luma(r, g, b) * 65535) >= Math.ceil((120 / 255) * 65535) ? 1 : 0))).toBe(0)
  expect(worst(await through(['threshold', { level: 120, softness: 40 }]), (r, g, b) => (luma(r, g, b) - 120 / 255 + 20 / 255) / (40 / 255))).toBeLessThan(8)
})

test('steps in a row are one composed table and still round as if each were stored', async () => {
  const one = await through(
    ['levels', { midtone: 0.7 }],
    ['invert'],
    [
      'curves',
      {
        points: [
          [0, 0.1],
          [0.4, 0.7],
          [1, 0.9],
        ],
      },
    ],
  )
  // the same with a step between that stores its input
  const stored = await through(['levels', { midtone: 0.7 }], ['gaussian-blur', { sigma: { value: 0.2, unit: 'px' } }])
  const alone = await through(['levels', { midtone: 0.7 }])
  expect(one.length).toBe(stored.length)
  const curve = monotoneCubic([
    [0, 0.1],
    [0.4, 0.7],
    [1, 0.9],
  ])
  for (let i = 0; i < one.length; i++) if (i % 4 !== 3) expect(one[i]).toBe(Math.floor(curve((65535 - alone[i]!) / 65535) * 65535 + 0.5))
})

describe('the curve', () => {
  test('goes through its points and never overshoots (Fritsch and Carlson 1980)', () => {
    // their RPN 14 data, scaled to 0…1: flat, then a steep rise, then flat
    const x = [7.99, 8.09, 8.19, 8.7, 9.2, 10, 12, 15, 20].map((v) => (v - 7.99) / (20 - 7.99))
    const y = [0, 2.76429e-5, 4.37498e-2, 0.169183, 0.469428, 0.94374, 0.998636, 0.999919, 0.999994]
    const f = monotoneCubic(x.map((v, i) => [v, y[i]!]))
    x.forEach((v, i) => expect(f(v)).toBeCloseTo(y[i]!, 12))
    let before = -1
    for (let i = 0; i <= 2000; i++) {
      const v = f(i / 2000)
      expect(v).toBeGreaterThanOrEqual(before - 1e-12)
      before = v
    }
    expect(before).toBeLessThanOrEqual(1)
  })

  test('two points are a straight line', () => {
    const f = monotoneCubic([
      [0, 0],
      [1, 1],
    ])
    for (let i = 0; i <= 100; i++) expect(f(i / 100)).toBeCloseTo(i / 100, 12)
  })
})
