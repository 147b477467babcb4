import type { Kernels } from '../../kernels/kernels.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import type { Rgba } from '../../testing/kernel-run.ts'
import { rgbOfHex } from '../../colour/oklab.ts'
import { artworkFromPhoto } from '../../artwork/load.ts'
import { newStep } from '../../artwork/layers.ts'
import { MemorySources } from '../../testing/memory-source.ts'
import { photoPart } from '../../testing/photo.ts'
import { compute, newTestEngine } from '../../testing/pictures.ts'
import { meanOf, painted, through } from '../../testing/through.ts'
import { bayer, diffusions } from './dither.ts'
import { thresholds, type DotShape } from './spot.ts'

const { floor, abs, max, min, hypot, cos, sin, PI } = Math
let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})
const shapes: DotShape[] = ['round', 'ellipse', 'diamond', 'square', 'line', 'cross']
const one = { ink: '#000000', paper: '#ffffff' }

describe('halftone', () => {
  test.each(shapes)('%s: dot area is the tone over the whole scale; 50 %% measures 50 ± 1 %%', async (dot) => {
    for (const tone of [0.02, 0.1, 0.25, 0.5, 0.75, 0.9, 0.98]) {
      const got = await through(
        kernels,
        painted(240, 240, () => [1 - tone]),
        [['halftone', { ...one, dot, across: 30 }]],
      )
      expect(abs(1 - meanOf(got) - tone)).toBeLessThan(0.01)
    }
  })

  test.each(shapes)('%s: a threshold table holds every rank once', (dot) => {
    const table = thresholds(dot, Math.cos)
    expect(new Set(table).size).toBe(table.length)
  })

  test('dots are solid: hardly a pixel of a large dot is grey', async () => {
    const got = await through(
      kernels,
      painted(240, 240, () => [0.5]),
      [['halftone', { ...one, across: 10 }]],
    )
    let grey = 0
    for (let i = 0; i < got.v.length; i += 4) if (got.v[i]! > 3000 && got.v[i]! < 62000) grey++
    expect(grey / (240 * 240)).toBeLessThan(0.12)
    expect([min(...got.v.filter((_, i) => i % 4 === 0)), max(...got.v.filter((_, i) => i % 4 === 0))]).toEqual([0, 65535])
  })

  /** The strongest wave of a channel, and how far it lies from where lines of this ruling and angle have theirs, in periods. */
  function peak(p: Rgba, across: number, angle: number, channel = 0): { away: number; strength: number } {
    // lines are v = const: their wave runs across them
    const [ex, ey] = [across * sin((angle * PI) / 180), across * cos((angle * PI) / 180)]
    let strength = 0
    let place = [0, 0]
    for (let fx = 0; fx <= 40; fx++) {
      // the rows' own waves first, then the waves of those down the picture
      const rows = Array.from({ length: p.h }, (_, y) => {
        let [re, im] = [0, 0]
        for (let x = 0; x < p.w; x++) {
          const v = p.v[(y * p.w + x) * 4 + channel]! / 65535 - 0.5
          re += v * cos((2 * PI * fx * x) / p.w)
          im += v * sin((2 * PI * fx * x) / p.w)
        }
        return [re, im] as const
      })
      for (let fy = -40; fy <= 40; fy++) {
        if (hypot(fx, fy) < 6) continue
        let [re, im] = [0, 0]
        for (const [y, [r, i]] of rows.entries()) {
          const [c, s] = [cos((2 * PI * fy * y) / p.h), sin((2 * PI * fy * y) / p.h)]
          re += r * c - i * s
          im += r * s + i * c
        }
        const found = hypot(re, im) / (p.w * p.h)
        if (found > strength) {
          strength = found
          place = [fx, fy]
        }
      }
    }
    return { away: min(hypot(place[0]! - ex, place[1]! - ey), hypot(place[0]! + ex, place[1]! + ey)), strength }
  }

  test.each([
    [0, 32],
    [45, 32],
    [15, 24],
    [-30, 20],
  ])('angle %d°, %d cells across: the Fourier peak stands where angle and ruling put it', async (angle, across) => {
    const n = 192
    const got = await through(
      kernels,
      painted(n, n, () => [0.5]),
      [['halftone', { ...one, dot: 'line', across, angle }]],
    )
    const { away, strength } = peak(got, across, angle)
    expect(away).toBeLessThan(1)
    expect(strength).toBeGreaterThan(0.15)
  })

  test('lines per inch at the artwork’s ppi', async () => {
    // 300 ppi, 30 lpi: a cell of 10 pixels
    const got = await through(
      kernels,
      painted(120, 120, () => [0.5]),
      [['halftone', { ...one, dot: 'line', counted: 'lpi', lpi: 30, angle: 0 }]],
    )
    const dark = (y: number) => got.v[(y * 120 + 60) * 4]! < 32768
    let starts = 0
    for (let y = 1; y < 120; y++) if (dark(y) && !dark(y - 1)) starts++
    expect(starts).toBe(12)
  })

  test.each([
    // a colour that one ink alone prints half of, the channel in which that ink shows, its angle (common practice)
    ['cyan', [0.5, 1, 1], 0, 15],
    ['magenta', [1, 0.5, 1], 1, 75],
    ['yellow', [1, 1, 0.5], 2, 0],
    ['black', [0.5, 0.5, 0.5], 1, 45],
  ] as const)('four inks: the screen of %s stands at its own angle, and all turn together', async (_, colour, channel, angle) => {
    for (const turn of [0, 20]) {
      const got = await through(
        kernels,
        painted(192, 192, () => [...colour]),
        [['halftone', { inks: 'four', black: 1, dot: 'line', across: 26, angle: 45 + turn }]],
      )
      const { away, strength } = peak(got, 26, angle + turn, channel)
      expect(away).toBeLessThan(1)
      expect(strength).toBeGreaterThan(0.1)
    }
  })

  test('four inks: the mean of a flat colour is near it', async () => {
    for (const c of [
      [0.8, 0.5, 0.3],
      [0.3, 0.5, 0.6],
      [0.5, 0.5, 0.5],
    ]) {
      const got = await through(
        kernels,
        painted(240, 240, () => c),
        [['halftone', { inks: 'four', across: 40 }]],
      )
      // real inks do not reach pure cyan and magenta, and screens overlap by chance
      for (let k = 0; k < 3; k++) expect(abs(meanOf(got, k) - c[k]!)).toBeLessThan(0.16)
    }
  })

  test('the grid’s place moves the dots, and nothing else', async () => {
    const p = painted(120, 120, () => [0.6])
    const a = await through(kernels, p, [['halftone', { ...one, across: 12, angle: 0 }]])
    const b = await through(kernels, p, [['halftone', { ...one, across: 12, angle: 0, place: { x: 3 / 120, y: 0 } }]])
    let off = 0
    for (let y = 0; y < 120; y++) for (let x = 3; x < 120; x++) if (a.v[(y * 120 + x - 3) * 4] !== b.v[(y * 120 + x) * 4]) off++
    expect(off / (117 * 120)).toBeLessThan(0.02)
  })
})

describe('dither', () => {
  test('Bayer matrices by their definition', () => {
    const ranks = (n: number) => Array.from(bayer(n), (v) => floor((v / 65536) * n * n))
    // Bayer 1973, as printed in every textbook (from memory)
    expect(ranks(2)).toEqual([0, 2, 3, 1])
    expect(ranks(4)).toEqual([0, 8, 2, 10, 12, 4, 14, 6, 3, 11, 1, 9, 15, 7, 13, 5])
    expect(new Set(ranks(8)).size).toBe(64)
    // M(2n)(x, y) = 4 M(n) + M(2) of the quarter
    for (let i = 0; i < 16; i++) expect(ranks(8)[(i >> 2) * 8 + (i % 4)]).toBe(4 * ranks(4)[i]!)
  })

  test('Floyd–Steinberg on a grid worked by hand', async () => {
    // 3 × 2 pixels of 0.4, from left to right in both rows:
    // 0.4 → 0, error 0.4: 0.175 right, 0.075 left below, 0.125 below, 0.025 right below
    // 0.575 → 1, error −0.425: −0.1859 right, −0.0797, −0.1328, −0.0266
    // 0.2141 → 0, error 0.2141: 0.0401 left below, 0.0669 below
    // second row: 0.4 + 0.125 − 0.0797 = 0.4453 → 0, right 0.1948
    // 0.4 + 0.025 − 0.1328 + 0.0401 + 0.1948 = 0.5272 → 1, error −0.4728: right −0.2069
    // 0.4 − 0.0266 + 0.0669 − 0.2069 = 0.2335 → 0
    const got = await through(
      kernels,
      painted(3, 2, () => [0.4]),
      [['dither', { way: 'floyd', serpentine: false, ink: '#000000' }]],
    )
    expect(Array.from({ length: 6 }, (_, i) => got.v[i * 4]! / 65535)).toEqual([0, 1, 0, 0, 1, 0])
    expect(diffusions.floyd.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 12)
    expect(diffusions.jarvis.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 12)
    expect(diffusions.jarvis.slice(3, 5).map((v) => Math.round(v * 48))).toEqual([7, 5])
  })

  test.each([
    ['floyd', 1],
    ['jarvis', 0.5],
    ['bayer8', 1],
  ])('%s at strength %d: under a moving hand it is what the dots come to', async (way, strength) => {
    const p = await photoPart('keeper-portrait', { left: 500, top: 500, width: 256, height: 192 })
    const asset = 'a'.repeat(64)
    const sources = new MemorySources()
    await sources.add(kernels, asset, { width: 256, height: 192, channels: 4, depth: 16 }, new Uint8Array(p.v.buffer))
    const artwork = artworkFromPhoto({ asset, width: 256, height: 192, title: 't' })
    artwork.layers[0]!.chain = [newStep('dither', { way, strength, ink: '#203040', paper: '#f0e8d0' })]
    const at = async (quick: boolean) => (await compute(newTestEngine(kernels, sources), artwork, { level: 2, quick })).pixels
    const [glance, exact] = [await at(true), await at(false)]
    // means of 8 × 8 pixels: single dots do not count
    let worst = 0
    for (let y = 0; y < 48; y += 8)
      for (let x = 0; x < 64; x += 8) {
        let off = 0
        for (let j = 0; j < 8; j++) for (let i = 0; i < 8; i++) off += glance[((y + j) * 64 + x + i) * 4]! - exact[((y + j) * 64 + x + i) * 4]!
        worst = Math.max(worst, abs(off) / 64 / 65535)
      }
    expect(worst).toBeLessThan(0.04)
  })

  test.each(['bayer4', 'bayer8', 'blue-noise', 'floyd', 'jarvis'])('%s: exactly two tones, and the mean is the tone', async (way) => {
    for (const tone of [0.1, 0.37, 0.5, 0.8]) {
      const got = await through(
        kernels,
        painted(128, 128, () => [tone]),
        [['dither', { way, ...one }]],
      )
      expect([...new Set(got.v.filter((_, i) => i % 4 === 0))].sort()).toEqual([0, 65535])
      expect(abs(meanOf(got) - tone)).toBeLessThan(way === 'bayer4' ? 0.035 : 0.012)
    }
  })

  test('blue noise has hardly any slow waves, and every rank once', () => {
    const n = 64
    const table = kernels.scratch(n * n * 2, (at) => {
      kernels.raw.blueNoise(at, n, 5)
      return kernels.u16(at, n * n).slice()
    })
    expect(new Set(table).size).toBe(n * n)
    const power = (f: number) => {
      let sum = 0
      let count = 0
      for (let a = 0; a < 12; a++) {
        const [fx, fy] = [Math.round(f * cos((a * PI) / 12)), Math.round(f * sin((a * PI) / 12))]
        let [re, im] = [0, 0]
        for (let i = 0; i < n * n; i++) {
          const w = (2 * PI * (fx * (i % n) + fy * floor(i / n))) / n
          const v = table[i]! < 16384 ? 0.75 : -0.25
          re += v * cos(w)
          im += v * sin(w)
        }
        sum += re * re + im * im
        count++
      }
      return sum / count
    }
    expect(power(5)).toBeLessThan(0.1 * power(26))
  })

  test.each(['floyd', 'jarvis', 'bayer8', 'blue-noise'])('%s: to a palette, exactly its colours', async (way) => {
    const palette = ['#102030', '#c04020', '#f0e0b0', '#307050']
    const p = painted(64, 48, (x, y) => [x / 63, y / 47, 0.4])
    const got = await through(kernels, p, [['dither', { way, colours: 'palette', palette }]])
    const allowed = new Set(
      palette.map((c) =>
        rgbOfHex(c)
          .map((v) => Math.round(v * 65535))
          .join(),
      ),
    )
    for (let i = 0; i < got.v.length; i += 4) expect(allowed.has([...got.v.subarray(i, i + 3)].join())).toBe(true)
  })
})
