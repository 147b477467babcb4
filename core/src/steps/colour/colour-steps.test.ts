import { clampChroma, converter, differenceCiede2000, formatHex, interpolate } from 'culori'
import { labOfRgb, oklabOfRgb, rgbOfHex, rgbOfLab, rgbOfOklab, type Triple } from '../../colour/oklab.ts'
import { kMeans, medianCut } from '../../colour/quantise.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import { ciedePairs } from '../../testing/data/ciede2000.ts'
import { rgba, type Rgba } from '../../testing/kernel-run.ts'
import { dice, testPicture } from '../../testing/pictures.ts'
import { painted, through } from '../../testing/through.ts'
import { colourAt, gradientSets } from './gradient-map.ts'
import { sunk, taken } from './dye.ts'
import { HUE_ENTRIES, hueOfEntry, valueAtHue } from './hue-table.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

const oklab = converter('oklab')
const oklch = converter('oklch')
const lab65 = converter('lab65')
const many = (): Triple[] => {
  const next = dice(5)
  return Array.from({ length: 200 }, () => [next(), next(), next()])
}
/** A picture one pixel high of these colours. */
const strip = (colours: readonly (readonly number[])[]): Rgba => painted(colours.length, 1, (x) => colours[x]!)
const pixel = (p: Rgba, x: number) => [0, 1, 2, 3].map((c) => p.v[x * 4 + c]! / 65535)

describe('spaces, against culori', () => {
  test('OKLab and CIE L*a*b* (D65), there and back', () => {
    for (const rgb of many()) {
      const [r, g, b] = rgb
      const o = oklab({ mode: 'rgb', r, g, b })
      expect(oklabOfRgb(rgb, Math.pow)).toEqual([expect.closeTo(o.l, 5), expect.closeTo(o.a, 5), expect.closeTo(o.b, 5)])
      const l = lab65({ mode: 'rgb', r, g, b })
      // the white of the sRGB matrix here, the chromaticity of D65 in four digits there
      expect(labOfRgb(rgb, Math.pow)).toEqual([expect.closeTo(l.l, 1), expect.closeTo(l.a, 1), expect.closeTo(l.b, 1)])
      for (const back of [rgbOfOklab(oklabOfRgb(rgb, Math.pow), Math.pow), rgbOfLab(labOfRgb(rgb, Math.pow), Math.pow)])
        expect(back).toEqual(rgb.map((v) => expect.closeTo(v, 3)))
    }
  })

  test('the published values of OKLab for XYZ (Ottosson 2020) as sRGB white, black and red', () => {
    expect(oklabOfRgb([1, 1, 1], Math.pow)).toEqual([expect.closeTo(1, 4), expect.closeTo(0, 4), expect.closeTo(0, 4)])
    expect(oklabOfRgb([0, 0, 0], Math.pow)).toEqual([0, 0, 0])
    // #ff0000 in CSS Color 4: oklab(62.7955% 0.22486 0.12585)
    expect(oklabOfRgb([1, 0, 0], Math.pow)).toEqual([expect.closeTo(0.627955, 4), expect.closeTo(0.22486, 4), expect.closeTo(0.12585, 4)])
  })
})

test.each(ciedePairs.map((p) => [p] as const))('CIEDE2000 of the published pair %j', ([l1, a1, b1, l2, a2, b2, de]) => {
  expect(kernels.raw.ciede2000(l1!, a1!, b1!, l2!, a2!, b2!)).toBeCloseTo(de!, 4)
  expect(kernels.raw.ciede2000(l2!, a2!, b2!, l1!, a1!, b1!)).toBeCloseTo(de!, 4)
})

describe('dye', () => {
  const seen = async (params: object) => {
    const got = await through(kernels, strip(many()), [['dye', { ...params }]])
    return many().map(([r, g, b], x) => {
      const [r2, g2, b2] = pixel(got, x)
      return { before: oklch({ mode: 'rgb', r, g, b }), after: oklch({ mode: 'rgb', r: r2!, g: g2!, b: b2! }) }
    })
  }
  const bath = '#4a6fa0'
  const its = oklch(bath)!

  test('where lights and darks take none of it, every tone stays, in the hue of the dye, as strong as the formula says (OKLCH by culori)', async () => {
    for (const { before, after } of await seen({ dye: bath, depth: 0.7, lights: 0, darks: 0 })) {
      // the cube goes straight between its points: a hundredth or two in the deepest tones
      expect(Math.abs(after.l - before.l)).toBeLessThan(0.03)
      const much = 0.7 * taken(before.l, 0, 0) * its.c
      const most = oklch(clampChroma({ mode: 'oklch', l: before.l, c: 0.4, h: its.h! }, 'oklch')).c
      if (before.l < 0.2) continue
      expect(Math.abs(after.c - Math.min(much, most))).toBeLessThan(0.02)
      if (after.c > 0.03) expect(Math.abs(((after.h! - its.h! + 540) % 360) - 180)).toBeLessThan(5)
    }
  })

  test('white becomes the dye where the lights take all of it, and stays white where they take none', async () => {
    const [all] = [await through(kernels, strip([[1, 1, 1]]), [['dye', { dye: bath, depth: 1, lights: 1 }]])]
    const [r, g, b] = pixel(all, 0)
    const white = oklch({ mode: 'rgb', r: r!, g: g!, b: b! })
    expect(white.l).toBeCloseTo(its.l, 2)
    expect(white.c).toBeCloseTo(its.c, 2)
    const none = pixel(await through(kernels, strip([[1, 1, 1]]), [['dye', { dye: bath, depth: 1, lights: 0 }]]), 0)
    expect(none.slice(0, 3)).toEqual([expect.closeTo(1, 3), expect.closeTo(1, 3), expect.closeTo(1, 3)])
  })

  test('tones keep their order at any depth, and their own colours stay as far as they are left', async () => {
    const greys = Array.from({ length: 64 }, (_, i): Triple => [i / 63, i / 63, i / 63])
    const got = await through(kernels, strip(greys), [['dye', { dye: '#201008', depth: 1.5, lights: 1, darks: 1 }]])
    const light = greys.map((_, x) => {
      const [r, g, b] = pixel(got, x)
      return oklch({ mode: 'rgb', r: r!, g: g!, b: b! }).l
    })
    light.slice(1).forEach((l, i) => expect(l).toBeGreaterThan(light[i]! - 1e-3))
    for (const { before, after } of await seen({ depth: 0, own: 1, darks: 0 })) {
      expect(Math.abs(after.l - before.l)).toBeLessThan(0.03)
      expect(Math.abs(after.c - before.c)).toBeLessThan(0.03)
    }
  })

  test('what the tones take goes from the darks over the middle to the lights without a break', () => {
    expect([0, 0.5, 1].map((l) => taken(l, 0.2, 0.6))).toEqual([0.6, 1, 0.2].map((v) => expect.closeTo(v, 9)))
    for (let l = 0; l < 1; l += 0.01) expect(Math.abs(taken(l + 0.01, 0.2, 0.6) - taken(l, 0.2, 0.6))).toBeLessThan(0.03)
    expect(sunk(1, 0.1, 0.4)).toBeCloseTo(0.4, 9)
    expect(sunk(0, 0.1, 0.4)).toBeCloseTo(0.1, 9)
    expect(sunk(0.5, 0, 1)).toBe(0.5)
  })
})

describe('hue, saturation, lightness', () => {
  test('turns hues and scales chroma in OKLab, as culori sees it, and leaves greys', async () => {
    const colours = many()
      .map((c) => c.map((v) => 0.35 + 0.3 * v))
      .concat([[0.5, 0.5, 0.5]])
    const got = await through(kernels, strip(colours), [['hue-saturation', { hue: 40, saturation: -0.2 }]])
    colours.forEach(([r, g, b], x) => {
      const before = oklch({ mode: 'rgb', r: r!, g: g!, b: b! })
      const [r2, g2, b2] = pixel(got, x)
      const after = oklch({ mode: 'rgb', r: r2!, g: g2!, b: b2! })
      expect(after.l).toBeCloseTo(before.l, 3)
      expect(after.c).toBeCloseTo(before.c * 0.8, 3)
      if (before.c > 0.02) expect(Math.abs((((after.h! - before.h! - 40) % 360) + 540) % 360) - 180).toBeLessThan(0.5)
    })
    expect(pixel(got, colours.length - 1)).toEqual([expect.closeTo(0.5, 3), expect.closeTo(0.5, 3), expect.closeTo(0.5, 3), 1])
  })

  test('stronger colours keep lightness and hue, and near the edge of sRGB (by culori) without passing it', async () => {
    const colours = many()
    const got = await through(kernels, strip(colours), [['hue-saturation', { saturation: 0.5 }]])
    colours.forEach(([r, g, b], x) => {
      const before = oklch({ mode: 'rgb', r, g, b })
      const most = oklch(clampChroma({ mode: 'oklch', l: before.l, c: 0.4, h: before.h ?? 0 }, 'oklch')).c
      const [r2, g2, b2] = pixel(got, x)
      const after = oklch({ mode: 'rgb', r: r2!, g: g2!, b: b2! })
      expect(after.l).toBeCloseTo(before.l, 1.7)
      expect(Math.abs(after.c - (2 * before.c) / (1 + before.c / most))).toBeLessThan(0.02)
      if (before.c > 0.05) expect(Math.abs(((after.h! - before.h! + 540) % 360) - 180)).toBeLessThan(6)
    })
  })

  test('a hue by itself: the others stay', async () => {
    const blue: Triple = [0.3, 0.4, 0.75]
    const red: Triple = [0.75, 0.3, 0.25]
    const got = await through(kernels, strip([blue, red]), [['hue-saturation', { saturationByHue: [0, 0, 0, 0, 0, -1, 0, 0] }]])
    const chroma = ([r, g, b]: readonly number[]) => oklch({ mode: 'rgb', r: r!, g: g!, b: b! }).c
    expect(chroma(pixel(got, 0))).toBeLessThan(0.25 * chroma(blue))
    expect(chroma(pixel(got, 1))).toBeCloseTo(chroma(red), 2)
  })

  test('the table by hue covers the circle once and passes through each hue’s own value', () => {
    const hues = Array.from({ length: HUE_ENTRIES }, (_, i) => hueOfEntry(i, Math.atan2))
    expect(new Set(hues.map((h) => Math.floor(h / 10))).size).toBe(36)
    const values = [1, -1, 0.5, 0.2, -0.3, 0.8, 0, 0.4]
    ;[29, 62, 108, 142, 195, 262, 300, 340].forEach((h, i) => expect(valueAtHue(values, h)).toBeCloseTo(values[i]!, 9))
  })
})

test('vibrance strengthens weak colours more than strong ones', async () => {
  const weak: Triple = [0.5, 0.47, 0.44]
  const strong: Triple = [0.85, 0.4, 0.3]
  const got = await through(kernels, strip([weak, strong]), [['vibrance', { vibrance: 0.8 }]])
  const chroma = ([r, g, b]: readonly number[]) => oklch({ mode: 'rgb', r: r!, g: g!, b: b! }).c
  expect(chroma(pixel(got, 0)) / chroma(weak)).toBeGreaterThan(1.5)
  expect(chroma(pixel(got, 1)) / chroma(strong)).toBeLessThan(1.35)
})

describe('channel mixer', () => {
  const id = (rows: number, columns: number): number[] => Array.from({ length: rows * columns }, (_, i) => (Math.floor(i / columns) === i % columns ? 1 : 0))
  test.each([
    ['rgb', id(4, 5)],
    ['cmyk', id(5, 6)],
    ['lab', id(4, 5)],
  ])('%s: weights of 1 in the diagonal change nothing', async (model, m) => {
    const p = rgba(testPicture(40, 30, 4), 40, 30, 4)
    const got = await through(kernels, p, [['channel-mixer', { model, [model]: m }]])
    const far = Math.max(...p.v.map((v, i) => Math.abs(v - got.v[i]!)))
    expect(far).toBeLessThanOrEqual(1)
  })

  test('CMYK: K is what all three lack; without K no colour is darker than its largest channel allows', async () => {
    const without = id(5, 6)
    without[3 * 6 + 3] = 0
    const colours = [
      [0.2, 0.1, 0.05],
      [0.5, 0.5, 0.5],
      [0, 0, 0],
      [0.9, 0.3, 0.6],
    ]
    const got = await through(kernels, strip(colours), [['channel-mixer', { model: 'cmyk', cmyk: without }]])
    colours.forEach((c, x) => {
      const top = Math.max(...c)
      // C = (1 − R − K)/(1 − K), K = 1 − top: what is left is R/top
      expect(pixel(got, x).slice(0, 3)).toEqual(c.map((v) => expect.closeTo(top > 0 ? v / top : 1, 3)))
    })
  })

  test('darkness becomes alpha; grey is the weighted sum', async () => {
    const m = id(4, 5)
    m.splice(15, 5, -0.2126, -0.7152, -0.0722, 0, 1)
    const got = await through(
      kernels,
      strip([
        [1, 1, 1],
        [0, 0, 0],
        [0.5, 0.5, 0.5],
      ]),
      [['channel-mixer', { model: 'rgb', rgb: m }]],
    )
    expect([0, 1, 2].map((x) => pixel(got, x)[3])).toEqual([expect.closeTo(0, 4), expect.closeTo(1, 4), expect.closeTo(0.5, 4)])
    const grey = await through(kernels, strip([[0.2, 0.6, 0.8]]), [['channel-mixer', { model: 'grey', grey: [0.5, 0.25, 0.25, 0, 0, 0, 0, 0, 1, 0] }]])
    expect(pixel(grey, 0)).toEqual([expect.closeTo(0.45, 4), expect.closeTo(0.45, 4), expect.closeTo(0.45, 4), 1])
  })
})

test('tone to transparency: laid on white it looks as before in its own colours; a given ink covers as dark as the tone', async () => {
  const own = await through(kernels, strip(many()), [['tone-to-alpha', { by: 'pigment', own: true }]])
  many().forEach((c, x) => {
    const [r, g, b, a] = pixel(own, x)
    expect([r!, g!, b!].map((v) => v * a! + 1 - a!)).toEqual(c.map((v) => expect.closeTo(v, 3)))
    // no more ink than the deepest channel asks for
    expect(a!).toBeCloseTo(1 - Math.min(...c), 3)
  })
  const ink = await through(kernels, strip([[0.3, 0.3, 0.3]]), [['tone-to-alpha', { ink: '#102030' }]])
  expect(pixel(ink, 0)).toEqual([16 / 255, 32 / 255, 48 / 255, 0.7].map((v) => expect.closeTo(v, 3)))
  const black = await through(kernels, strip([[0.3, 0.6, 0.4]]), [['tone-to-alpha', { by: 'black' }]])
  expect(pixel(black, 0)[3]).toBeCloseTo(0.4, 3)
})

describe('gradient map', () => {
  const css = { srgb: 'rgb', linear: 'lrgb', oklab: 'oklab' } as const
  test.each(['srgb', 'linear', 'oklab'] as const)('%s: as culori interpolates CSS colours', (space) => {
    for (const { stops } of gradientSets) {
      const theirs = interpolate(
        stops.map(([at, hex]) => [hex, at] as [string, number]),
        css[space],
      )
      const ours = colourAt(stops, space, Math.pow)
      for (let t = 0; t <= 1; t += 0.05) {
        const { r, g, b } = converter('rgb')(theirs(t))
        expect(ours(t)).toEqual([r, g, b].map((v) => expect.closeTo(v, 4)))
      }
    }
  })

  test('a tone gets the colour at its place', async () => {
    const stops = gradientSets[1]!.stops
    const got = await through(
      kernels,
      painted(11, 1, (x) => [x / 10]),
      [['gradient-map', { stops, space: 'srgb' }]],
    )
    const at = colourAt(stops, 'srgb', Math.pow)
    for (let x = 0; x < 11; x++) expect(pixel(got, x).slice(0, 3)).toEqual(at(x / 10).map((v) => expect.closeTo(v, 3)))
  })
})

describe('palettes', () => {
  test('median cut and k-means find the colours a picture is made of', () => {
    const made: Triple[] = [
      [0.2, 0, 0],
      [0.5, 0.1, 0.05],
      [0.8, -0.1, 0.1],
      [0.6, 0, -0.15],
    ]
    const next = dice(9)
    const points = Array.from({ length: 800 }, (_, i) => made[i % 4]!.map((v) => v + (next() - 0.5) * 0.01) as Triple)
    for (const find of [medianCut, kMeans]) {
      const found = find(points, 4).sort((a, b) => a[0] - b[0])
      ;[...made].sort((a, b) => a[0] - b[0]).forEach((m, i) => expect(found[i]).toEqual(m.map((v) => expect.closeTo(v, 2))))
    }
    expect(medianCut(points.slice(0, 3), 8)).toHaveLength(3)
    expect(medianCut([], 4)).toEqual([])
  })

  test('a small accent has its place in a palette found in the photo', async () => {
    // greys and browns all over, a red of one pixel in two hundred
    const next = dice(4)
    const p = painted(200, 200, (x, y) => {
      if (x < 14 && y < 14) return [0.8, 0.1, 0.12]
      const v = 0.1 + 0.8 * next()
      return next() < 0.5 ? [v, v, v] : [v, v * 0.85, v * 0.7]
    })
    const got = await through(kernels, p, [['map-to-palette', { count: 6 }]])
    const [r, g] = [0, 1].map((c) => got.v[(7 * 200 + 7) * 4 + c]! / 65535)
    expect(r! - g!).toBeGreaterThan(0.5)
  })

  test('k-means leaves no point nearer to another mean, and its sum of squares is no larger than the median cut’s', () => {
    const next = dice(3)
    const points = Array.from({ length: 500 }, (): Triple => [next(), next() * 0.2, next() * 0.2])
    const squares = (centres: readonly Triple[]) =>
      points.reduce((s, p) => s + Math.min(...centres.map((c) => (p[0] - c[0]) ** 2 + (p[1] - c[1]) ** 2 + (p[2] - c[2]) ** 2)), 0)
    expect(squares(kMeans(points, 6))).toBeLessThanOrEqual(squares(medianCut(points, 6)))
  })

  test.each(['ciede2000', 'oklab'] as const)('%s: each pixel becomes the nearest entry, as culori measures', async (near) => {
    const palette = ['#1b2733', '#7a4a2f', '#c9a46a', '#5d7f6b', '#e9e2d0', '#8f2f2a', '#3b5fa0']
    const difference = differenceCiede2000()
    const measure = (hex: string, [r, g, b]: Triple) => {
      if (near === 'ciede2000') return difference(hex, { mode: 'rgb', r, g, b })
      const [p, q] = [oklab(hex)!, oklab({ mode: 'rgb', r, g, b })]
      return Math.hypot(p.l - q.l, p.a - q.a, p.b - q.b)
    }
    const got = await through(kernels, strip(many()), [['map-to-palette', { colours: palette, near }]])
    many().forEach((c, x) => {
      const hex = formatHex({ mode: 'rgb', r: pixel(got, x)[0]!, g: pixel(got, x)[1]!, b: pixel(got, x)[2]! })!
      expect(palette).toContain(hex)
      // culori's CIEDE2000 is for D50; ties within a tenth are let pass
      expect(measure(hex, c)).toBeLessThan(Math.min(...palette.map((p) => measure(p, c))) + (near === 'oklab' ? 1e-4 : 0.5))
    })
  })

  test('a palette found in a photo holds its colours, dark to light', async () => {
    const flat = painted(40, 40, (x, y) => rgbOfHex(['#203040', '#a03020', '#d0c090', '#40a060'][(x < 20 ? 0 : 1) + (y < 20 ? 0 : 2)]!))
    const got = await through(kernels, flat, [['map-to-palette', { count: 4 }]])
    const worst = Math.max(...got.v.map((v, i) => Math.abs(v - flat.v[i]!)))
    expect(worst / 257).toBeLessThan(2)
  })
})

test('colour balance leans shadows and lights towards their colours; black and white stay', async () => {
  const got = await through(
    kernels,
    strip([
      [0, 0, 0],
      [0.2, 0.2, 0.2],
      [0.8, 0.8, 0.8],
      [1, 1, 1],
    ]),
    [['colour-balance', { shadowColour: '#203080', shadowAmount: 1, lightColour: '#ffd080', lightAmount: 1 }]],
  )
  expect(pixel(got, 0).slice(0, 3)).toEqual([0, 0, 0].map((v) => expect.closeTo(v, 2)))
  expect(pixel(got, 3).slice(0, 3)).toEqual([1, 1, 1].map((v) => expect.closeTo(v, 2)))
  expect(pixel(got, 1)[2]! - pixel(got, 1)[0]!).toBeGreaterThan(0.1)
  expect(pixel(got, 2)[0]! - pixel(got, 2)[2]!).toBeGreaterThan(0.05)
})

test('black-and-white by hue: one hue darker, greys untouched', async () => {
  const colours = [
    [0.3, 0.4, 0.75],
    [0.5, 0.5, 0.5],
  ]
  const plain = await through(kernels, strip(colours), [['black-white', { by: 'bt709' }]])
  const tuned = await through(kernels, strip(colours), [['black-white', { by: 'bt709', byHue: [0, 0, 0, 0, 0, -1, 0, 0] }]])
  expect(pixel(tuned, 0)[0]!).toBeLessThan(0.5 * pixel(plain, 0)[0]!)
  expect(pixel(tuned, 1)[0]!).toBeCloseTo(pixel(plain, 1)[0]!, 3)
})
