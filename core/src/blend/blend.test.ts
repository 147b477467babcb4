import { createCanvas, ImageData } from '@napi-rs/canvas'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { dice } from '../testing/pictures.ts'
import { blendModeIndex, blendModes, type BlendMode } from './modes.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

type Rgb = [number, number, number]

// The formulas of W3C Compositing and Blending Level 1 (sections 9.1, 10.1, 10.2), in float64, written from the document.
const separable: Record<string, (cb: number, cs: number) => number> = {
  normal: (_, cs) => cs,
  multiply: (cb, cs) => cb * cs,
  screen: (cb, cs) => cb + cs - cb * cs,
  darken: Math.min,
  lighten: Math.max,
  'color-dodge': (cb, cs) => (cb === 0 ? 0 : cs === 1 ? 1 : Math.min(1, cb / (1 - cs))),
  'color-burn': (cb, cs) => (cb === 1 ? 1 : cs === 0 ? 0 : 1 - Math.min(1, (1 - cb) / cs)),
  'hard-light': (cb, cs) => (cs <= 0.5 ? cb * 2 * cs : cb + (2 * cs - 1) - cb * (2 * cs - 1)),
  difference: (cb, cs) => Math.abs(cb - cs),
  exclusion: (cb, cs) => cb + cs - 2 * cb * cs,
  'soft-light': (cb, cs) => {
    const d = cb <= 0.25 ? ((16 * cb - 12) * cb + 4) * cb : Math.sqrt(cb)
    return cs <= 0.5 ? cb - (1 - 2 * cs) * cb * (1 - cb) : cb + (2 * cs - 1) * (d - cb)
  },
}
// display codes, by plain arithmetic (modes.ts)
separable.add = (cb, cs) => Math.min(1, cb + cs)
separable.subtract = (cb, cs) => Math.max(0, cb - cs)
separable.divide = (cb, cs) => (cb === 0 ? 0 : cs === 0 ? 1 : Math.min(1, cb / cs))
separable.overlay = (cb, cs) => separable['hard-light']!(cs, cb)

const lum = ([r, g, b]: Rgb) => 0.3 * r + 0.59 * g + 0.11 * b
function setLum(c: Rgb, l: number): Rgb {
  const d = l - lum(c)
  let out = c.map((v) => v + d) as Rgb
  const L = lum(out)
  const n = Math.min(...out)
  const x = Math.max(...out)
  if (n < 0) out = out.map((v) => L + ((v - L) * L) / (L - n)) as Rgb
  if (x > 1) out = out.map((v) => L + ((v - L) * (1 - L)) / (x - L)) as Rgb
  return out
}
const sat = (c: Rgb) => Math.max(...c) - Math.min(...c)
function setSat(c: Rgb, s: number): Rgb {
  const order = [0, 1, 2].sort((a, b) => c[a]! - c[b]!)
  const [min, mid, max] = order as [number, number, number]
  const out: Rgb = [0, 0, 0]
  if (c[max]! > c[min]!) {
    out[mid] = ((c[mid]! - c[min]!) * s) / (c[max]! - c[min]!)
    out[max] = s
  }
  return out
}
function mixed(mode: BlendMode, cb: Rgb, cs: Rgb): Rgb {
  switch (mode) {
    case 'hue':
      return setLum(setSat(cs, sat(cb)), lum(cb))
    case 'saturation':
      return setLum(setSat(cb, sat(cs)), lum(cb))
    case 'color':
      return setLum(cs, lum(cb))
    case 'luminosity':
      return setLum(cb, lum(cs))
    default:
      return cb.map((v, i) => separable[mode]!(v, cs[i]!)) as Rgb
  }
}
/** Source-over of straight colours (section 5.1 with blending, 10.). */
function over(mode: BlendMode, b: number[], s: number[]): number[] {
  const [ab, as] = [b[3]!, s[3]!]
  const ao = as + ab - as * ab
  const m = mixed(mode, b.slice(0, 3) as Rgb, s.slice(0, 3) as Rgb)
  return [...[0, 1, 2].map((i) => (ao === 0 ? 0 : (as * (1 - ab) * s[i]! + as * ab * m[i]! + (1 - as) * ab * b[i]!) / ao)), ao]
}

function run(kernel: 'blend' | 'blendAtop' | 'replace', mode: BlendMode, below: Uint16Array, above: Uint16Array, opacity = 1, mask?: Uint16Array): Uint16Array {
  const n = below.length / 4
  return kernels.scratch(n * 26, (p) => {
    kernels.u16(p, n * 4).set(below)
    kernels.u16(p + n * 8, n * 4).set(above)
    if (mask) kernels.u16(p + n * 24, n).set(mask)
    const [at, stride] = mask ? [p + n * 24, n * 2] : [0, 0]
    kernels.raw[kernel](blendModeIndex(mode), p, n * 8, p + n * 8, n * 8, at, stride, p + n * 16, n * 8, n, 1, opacity)
    return kernels.u16(p + n * 16, n * 4).slice()
  })
}

/** Pairs at random, with the ends of every channel among them. */
function pairs(n: number, seed: number): { below: Uint16Array; above: Uint16Array } {
  const next = dice(seed)
  const value = () => {
    const r = next()
    return r < 0.08 ? 0 : r < 0.16 ? 65535 : Math.floor(next() * 65536)
  }
  return { below: Uint16Array.from({ length: n * 4 }, value), above: Uint16Array.from({ length: n * 4 }, value) }
}

describe.each(blendModes)('blend mode %s', (mode) => {
  test('follows the W3C formula within 1/65535 of straight colour where alpha is full, and in premultiplied terms elsewhere', () => {
    const { below, above } = pairs(4000, 11)
    for (const opacity of [1, 0.37]) {
      const got = run('blend', mode, below, above, opacity)
      let worst = 0
      for (let i = 0; i < below.length; i += 4) {
        const b = [...below.subarray(i, i + 4)].map((v) => v / 65535)
        const s = [...above.subarray(i, i + 4)].map((v) => v / 65535)
        s[3]! *= opacity
        const want = over(mode, b, s)
        // colour where alpha is small carries less: compare what it contributes
        for (let c = 0; c < 3; c++) worst = Math.max(worst, Math.abs((got[i + c]! / 65535) * (got[i + 3]! / 65535) - want[c]! * want[3]!))
        worst = Math.max(worst, Math.abs(got[i + 3]! / 65535 - want[3]!))
      }
      // float32 inside, two roundings to 16 bits multiplied: 2.5 steps
      expect(worst * 65535).toBeLessThan(2.5)
    }
  })

  // the three by arithmetic are none of the canvas
  if (mode === 'add' || mode === 'subtract' || mode === 'divide') return
  test('agrees with Skia (canvas) within its 8 bits', () => {
    const n = 3000
    const next = dice(5)
    const bytes = () =>
      Uint8ClampedArray.from({ length: n * 4 }, (_, i) => (i % 4 === 3 ? [255, 255, 128, 200][Math.floor(next() * 4)]! : Math.floor(next() * 256)))
    const b = bytes()
    const s = bytes()
    const canvas = createCanvas(n, 1)
    const source = createCanvas(n, 1)
    canvas.getContext('2d').putImageData(new ImageData(b, n, 1), 0, 0)
    source.getContext('2d').putImageData(new ImageData(s, n, 1), 0, 0)
    const context = canvas.getContext('2d')
    context.globalCompositeOperation = mode === 'normal' ? 'source-over' : mode
    context.drawImage(source, 0, 0)
    const skia = context.getImageData(0, 0, n, 1).data
    const got = run(
      'blend',
      mode,
      Uint16Array.from(b, (v) => v * 257),
      Uint16Array.from(s, (v) => v * 257),
    )
    let worst = 0
    let sum = 0
    // where a formula divides by little, Skia's rounded premultiplied bytes are magnified: the worst is taken of opaque pairs
    const steep = ['color-dodge', 'color-burn', 'soft-light', 'hue', 'saturation'].includes(mode)
    for (let i = 0; i < n * 4; i++) {
      const opaque = b[i - (i % 4) + 3] === 255 && s[i - (i % 4) + 3] === 255
      const alpha = i % 4 === 3 ? 1 : skia[i - (i % 4) + 3]! / 255
      const d = Math.abs(got[i]! / 257 - skia[i]!) * alpha
      if (!steep || opaque) worst = Math.max(worst, d)
      sum += d
    }
    // both inputs and the result are rounded to 1/255 of their alpha
    expect(sum / (n * 4)).toBeLessThan(0.8)
    expect(worst).toBeLessThan(4)
  })
})

test.each(['blend', 'blendAtop', 'replace'] as const)('%s: a mask weighs like an opacity of its own a pixel', (kernel) => {
  const { below, above } = pairs(600, 8)
  const mask = Uint16Array.from({ length: 600 }, (_, i) => (i % 3) * 32767 + (i % 3 === 2 ? 1 : 0))
  const masked = run(kernel, 'overlay', below, above, 0.8, mask)
  for (const [share, rest] of [
    [0, 0],
    [32767 / 65535, 1],
    [1, 2],
  ] as const) {
    const even = run(kernel, 'overlay', below, above, 0.8 * share)
    for (let i = rest; i < 600; i += 3) for (let c = 0; c < 4; c++) expect(Math.abs(masked[i * 4 + c]! - even[i * 4 + c]!)).toBeLessThanOrEqual(1)
  }
})

describe('replacing', () => {
  test('a result of its own alpha opens the sheet, and opacity is a premultiplied mean of both', () => {
    const input = Uint16Array.from([65535, 0, 0, 65535])
    const result = Uint16Array.from([0, 65535, 0, 0])
    expect([...run('replace', 'normal', input, result, 1)]).toEqual([0, 0, 0, 0])
    // half of red at full alpha and half of nothing: red at half alpha
    expect([...run('replace', 'normal', input, result, 0.5)]).toEqual([65535, 0, 0, 32768])
  })

  test('blends colours with the input but keeps the result’s alpha', () => {
    const { below, above } = pairs(500, 3)
    const got = run('replace', 'multiply', below, above, 1)
    for (let i = 0; i < below.length; i += 4) {
      expect(got[i + 3]).toBe(above[i + 3])
      if (above[i + 3] === 0) continue
      const ab = below[i + 3]! / 65535
      const want = (1 - ab) * above[i]! + (ab * below[i]! * above[i]!) / 65535
      expect(Math.abs(got[i]! - want)).toBeLessThan(2)
    }
  })
})

test('atop: as source-over where there is something below, whose cover stays (Skia’s source-atop)', () => {
  const n = 3000
  const next = dice(12)
  const bytes = () =>
    Uint8ClampedArray.from({ length: n * 4 }, (_, i) => (i % 4 === 3 ? [255, 0, 128, 200][Math.floor(next() * 4)]! : Math.floor(next() * 256)))
  const [b, s] = [bytes(), bytes()]
  const [canvas, source] = [createCanvas(n, 1), createCanvas(n, 1)]
  canvas.getContext('2d').putImageData(new ImageData(b, n, 1), 0, 0)
  source.getContext('2d').putImageData(new ImageData(s, n, 1), 0, 0)
  const context = canvas.getContext('2d')
  context.globalCompositeOperation = 'source-atop'
  context.drawImage(source, 0, 0)
  const skia = context.getImageData(0, 0, n, 1).data
  const sixteen = (v: Uint8ClampedArray) => Uint16Array.from(v, (c) => c * 257)
  const got = run('blendAtop', 'normal', sixteen(b), sixteen(s))
  for (let i = 0; i < n * 4; i++) {
    const alpha = i % 4 === 3 ? 1 : skia[i - (i % 4) + 3]! / 255
    expect(Math.abs(got[i]! / 257 - skia[i]!) * alpha).toBeLessThan(3)
  }
})
