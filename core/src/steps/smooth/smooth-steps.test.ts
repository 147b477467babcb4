import type { Kernels } from '../../kernels/kernels.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import { edgePictures } from '../../testing/edge-pictures.ts'
import { picturedBy, type Rgba } from '../../testing/kernel-run.ts'
import { openCv, type OpenCv } from '../../testing/opencv.ts'
import { dice } from '../../testing/pictures.ts'
import { photoPart } from '../../testing/photo.ts'
import { meanOf, painted, through } from '../../testing/through.ts'
import { lineTaps } from './motion-blur.ts'

// globals are slow to reach under Jest
const { min, max, floor, abs } = Math
let kernels: Kernels
let cv: OpenCv
let photo: Rgba
beforeAll(async () => {
  kernels = await loadKernels()
  cv = (await openCv()).cv
  photo = await photoPart('lantern-stall', { left: 500, top: 400, width: 120, height: 90 })
})
const px = (value: number) => ({ value, unit: 'px' })

/** A picture as three floats a pixel, through OpenCV. */
function byOpenCv(p: Rgba, work: (a: InstanceType<OpenCv['Mat']>, b: InstanceType<OpenCv['Mat']>) => void): Float32Array {
  const a = cv.matFromArray(
    p.h,
    p.w,
    cv.CV_32FC3,
    Array.from({ length: p.w * p.h * 3 }, (_, i) => p.v[floor(i / 3) * 4 + (i % 3)]! / 65535),
  )
  const b = new cv.Mat()
  work(a, b)
  const v = b.data32F.slice()
  a.delete()
  b.delete()
  return v
}
const far = (got: Rgba, want: Float32Array) => {
  let d = 0
  for (let i = 0; i < want.length; i++) d = max(d, abs(got.v[floor(i / 3) * 4 + (i % 3)]! / 65535 - want[i]!))
  return d * 255
}

test('unsharp mask is v + amount · (v − Gaussian), as OpenCV computes it', async () => {
  for (const [radius, amount] of [
    [1.5, 1],
    [4, 2.5],
  ] as const) {
    const want = byOpenCv(photo, (a, b) => cv.GaussianBlur(a, b, new cv.Size(0, 0), radius, radius, cv.BORDER_REPLICATE)).map((blurred, i) => {
      const v = photo.v[floor(i / 3) * 4 + (i % 3)]! / 65535
      return min(1, max(0, v + amount * (v - blurred)))
    })
    // the blur is cut at 3.5 deviations here and at 4 there, and what differs is multiplied
    expect(far(await through(kernels, photo, [['unsharp-mask', { radius: px(radius), amount }]]), want)).toBeLessThan(0.35 * amount)
  }
})

test('below its threshold nothing is sharpened', async () => {
  const p = painted(60, 20, (x) => [x < 30 ? 0.5 : 0.52])
  const got = await through(kernels, p, [['unsharp-mask', { radius: px(3), amount: 3, threshold: 10 }]])
  expect(max(...got.v.map((v, i) => abs(v - p.v[i]!)))).toBeLessThan(2)
})

test('the quiet sharpener raises an edge and leaves noise alone', async () => {
  const next = dice(4)
  const noise = Array.from({ length: 80 * 40 }, () => (next() - 0.5) * 0.03)
  const p = painted(80, 40, (x, y) => [(x < 40 ? 0.35 : 0.65) + noise[y * 80 + x]!])
  const spread = (q: Rgba) => {
    const m = meanOf(q, 0, { x: 5, y: 5, w: 25, h: 30 })
    let s = 0
    for (let y = 5; y < 35; y++) for (let x = 5; x < 30; x++) s += (q.v[(y * 80 + x) * 4]! / 65535 - m) ** 2
    return Math.sqrt(s / 750)
  }
  const edge = (q: Rgba) => meanOf(q, 0, { x: 41, y: 5, w: 1, h: 30 }) - meanOf(q, 0, { x: 38, y: 5, w: 1, h: 30 })
  const plain = await through(kernels, p, [['unsharp-mask', { radius: px(2.5), amount: 1.5 }]])
  const quiet = await through(kernels, p, [['sharpen', { width: px(2.5), bite: 1.5, spare: 16 }]])
  expect(spread(plain)).toBeGreaterThan(2 * spread(p))
  expect(spread(quiet)).toBeLessThan(1.25 * spread(p))
  expect(edge(quiet)).toBeGreaterThan(1.15 * edge(p))
})

describe('motion blur', () => {
  test('its weights sum to 1 and lie on the line', () => {
    for (const [length, degrees] of [
      [9, 0],
      [12.5, 30],
      [40, -70],
      [7, 90],
      [1, 45],
    ] as const) {
      const taps = lineTaps(length, degrees, Math)
      expect(taps.reduce((s, t) => s + t.weight, 0)).toBeCloseTo(1, 9)
      const [c, s] = [Math.cos((degrees * Math.PI) / 180), -Math.sin((degrees * Math.PI) / 180)]
      for (const t of taps) {
        // no further from the line than a pixel, none beyond its ends by more than one
        expect(abs(t.x * s - t.y * c)).toBeLessThan(1)
        expect(abs(t.x * c + t.y * s)).toBeLessThanOrEqual(length / 2 + 1)
      }
    }
    expect(lineTaps(5, 0, Math).map((t) => t.weight)).toEqual([0.2, 0.2, 0.2, 0.2, 0.2].map((v) => expect.closeTo(v, 9)))
  })

  test('is OpenCV’s filter2D with the same weights', async () => {
    const taps = lineTaps(15, 25, Math)
    const side = 17
    const weights = Array.from({ length: side * side }, () => 0)
    for (const t of taps) weights[(t.y + 8) * side + t.x + 8] = t.weight
    const kernel = cv.matFromArray(side, side, cv.CV_32FC1, weights)
    const want = byOpenCv(photo, (a, b) => cv.filter2D(a, b, -1, kernel, new cv.Point(-1, -1), 0, cv.BORDER_REPLICATE))
    kernel.delete()
    expect(far(await through(kernels, photo, [['motion-blur', { length: px(15), direction: 25 }]]), want)).toBeLessThan(0.02)
  })
})

test('median and box as steps are the kernels, which are held to OpenCV: an even field stays, a speck goes', async () => {
  const speck = painted(30, 30, (x, y) => [x === 15 && y === 15 ? 1 : 0.4])
  const got = await through(kernels, speck, [['median', { radius: px(1.5) }]])
  expect(max(...got.v.filter((_, i) => i % 4 === 0)) / 65535).toBeCloseTo(0.4, 2)
  const boxed = await through(kernels, speck, [['box-blur', { side: px(3) }]])
  expect(boxed.v[(15 * 30 + 15) * 4]! / 65535).toBeCloseTo(0.4 + 0.6 / 9, 3)
})

test.each(['bilateral', 'guided'])('edge-keeping smooth, %s: noise melts, a strong edge stays', async (way) => {
  const next = dice(8)
  const noise = Array.from({ length: 60 * 40 }, () => (next() - 0.5) * 0.06)
  const p = painted(60, 40, (x, y) => [(x < 30 ? 0.2 : 0.8) + noise[y * 60 + x]!])
  const got = await through(kernels, p, [['edge-smooth', { way, reach: px(5), tolerance: 20 }]])
  const at = (x: number) => got.v[(20 * 60 + x) * 4]! / 65535
  expect(at(31) - at(28)).toBeGreaterThan(0.5)
  for (const x of [8, 12, 18]) expect(abs(at(x) - 0.2)).toBeLessThan(0.02)
})

describe('Kuwahara', () => {
  /** Kuwahara et al. 1976, as written: four squares that share the pixel, the mean of the one that varies least. */
  function definition(p: Rgba, r: number): Float64Array {
    const { w, h, v } = p
    const at = (x: number, y: number, c: number) => v[(min(h - 1, max(0, y)) * w + min(w - 1, max(0, x))) * 4 + c]!
    const luma = (x: number, y: number) => floor((at(x, y, 0) * 13933) / 65536) + floor((at(x, y, 1) * 46871) / 65536) + floor((at(x, y, 2) * 4732) / 65536)
    const out = new Float64Array(w * h * 3)
    for (let y = 0; y < h; y++) {
      for (let x = 0; x < w; x++) {
        let best = Infinity
        for (const [dx, dy] of [
          [-r, -r],
          [0, -r],
          [-r, 0],
          [0, 0],
        ] as const) {
          const sums = [0, 0, 0, 0, 0]
          for (let j = 0; j <= r; j++) {
            for (let i = 0; i <= r; i++) {
              for (let c = 0; c < 3; c++) sums[c]! += at(x + dx + i, y + dy + j, c)
              const l = luma(x + dx + i, y + dy + j)
              sums[3]! += l
              sums[4]! += l * l
            }
          }
          const n = (r + 1) ** 2
          const variance = sums[4]! / n - (sums[3]! / n) ** 2
          if (variance < best - 1e-3) {
            best = variance
            for (let c = 0; c < 3; c++) out[(y * w + x) * 3 + c] = sums[c]! / n
          }
        }
      }
    }
    return out
  }

  test.each([2, 5])('squares of %d: follows its definition', (r) => {
    const got = picturedBy(kernels, photo, r, (s, ss, d, ds) => kernels.raw.kuwahara(s, ss, d, ds, photo.w, photo.h, r))
    const want = definition(photo, r)
    let off = 0
    for (let i = 0; i < want.length; i++) if (abs(got.v[floor(i / 3) * 4 + (i % 3)]! - want[i]!) > 2) off++
    // where two squares vary nearly alike, rounding decides
    expect(off / want.length).toBeLessThan(0.002)
  })

  /**
   * Kyprianidis, Semmo, Kang & Döllner 2010, section 3, at every pixel in float64: eight sectors [max(0, ζ + v − η·u²)]² about an ellipse, shares of each
   * pixel that add up to a fall-off from the middle; the sectors' means of colour weighed by 1 / (1 + (255²·variance)^q).
   */
  function ellipses(p: Rgba, angle: number, a: number, b: number, zeta: number, eta: number, q: number): Float64Array {
    const taps: { i: number; j: number; k: number[] }[] = []
    const reach = Math.ceil(max(a, b))
    for (let j = -reach; j <= reach; j++) {
      for (let i = -reach; i <= reach; i++) {
        const u = (Math.cos(angle) * i + Math.sin(angle) * j) / a
        const v = (Math.cos(angle) * j - Math.sin(angle) * i) / b
        const d = u * u + v * v
        if (d > 1) continue
        const raw = Array.from({ length: 8 }, (_, s) => {
          const turn = (Math.PI / 4) * s
          const across = v * Math.cos(turn) - u * Math.sin(turn)
          const along = u * Math.cos(turn) + v * Math.sin(turn)
          return max(0, zeta + across - eta * along * along) ** 2
        })
        const all = raw.reduce((sum, k) => sum + k, 0)
        taps.push({ i, j, k: raw.map((k) => (k / all) * ((1 - d) ** 2 + 0.02)) })
      }
    }
    const out = new Float64Array(p.w * p.h * 4)
    const pixel = (x: number, y: number) => {
      const at = (min(p.h - 1, max(0, y)) * p.w + min(p.w - 1, max(0, x))) * 4
      const alpha = p.v[at + 3]! / 65535
      return [0, 1, 2].map((c) => (p.v[at + c]! / 65535) * alpha).concat(alpha)
    }
    for (let y = 0; y < p.h; y++) {
      for (let x = 0; x < p.w; x++) {
        const total = [0, 0, 0, 0]
        let shares = 0
        for (let s = 0; s < 8; s++) {
          const sum = [0, 0, 0, 0]
          let light = 0
          let square = 0
          let n = 0
          for (const { i, j, k } of taps) {
            const c = pixel(x + i, y + j)
            const l = 0.2126 * c[0]! + 0.7152 * c[1]! + 0.0722 * c[2]!
            for (let m = 0; m < 4; m++) sum[m]! += k[s]! * c[m]!
            light += k[s]! * l
            square += k[s]! * l * l
            n += k[s]!
          }
          const share = 1 / (1 + (65025 * max(0, square / n - (light / n) ** 2)) ** q)
          for (let m = 0; m < 4; m++) total[m]! += (share * sum[m]!) / n
          shares += share
        }
        for (let c = 0; c < 3; c++) out[(y * p.w + x) * 4 + c] = total[3]! > 0 ? total[c]! / total[3]! : 0
        out[(y * p.w + x) * 4 + 3] = total[3]! / shares
      }
    }
    return out
  }

  test.each([
    ['a lying circle', 0, 0, 2, 0],
    ['a slanting ellipse', 23, 7, 4, 0],
    ['a small steep one', 40, 5, 2, 0],
    ['a slanting ellipse, some of the picture clear', 10, 7, 2, 1],
  ])('along the forms, %s: follows its definition', (_, turn, length, q, clear) => {
    const r = 7
    const [radius, stretch, zeta, eta] = [4.5, 0.6, 0.3, 0.9]
    const p = { ...photo, v: photo.v.slice() }
    if (clear) for (let i = 0; i < p.w * p.h; i++) p.v[i * 4 + 3] = (i % p.w) * 2 < p.w ? 65535 : (i * 977) % 65536
    const most = 80
    const got = kernels.scratch(512 * (most + 1) * 48 + p.w * p.h * 16, (table) => {
      kernels.raw.kuwaharaTaps(table, most, r, radius, stretch, zeta, eta, 1)
      const flow = table + 512 * (most + 1) * 48
      const angle = (turn * Math.PI) / 64
      const f = kernels.f32(flow, p.w * p.h * 4)
      for (let i = 0; i < f.length; i += 4) f.set([Math.cos(angle), Math.sin(angle), length / 7, 0], i)
      return picturedBy(kernels, p, r, (s, ss, d, ds) => kernels.raw.kuwaharaAlong(s, ss, flow, p.w * 16, d, ds, p.w, p.h, r, table, most, 1, q === 4 ? 3 : 2))
    })
    const k = 1 + (stretch * length) / 7
    const want = ellipses(p, (turn * Math.PI) / 64, min(r, radius * k), radius / k, zeta, eta, q)
    let worst = 0
    let sum = 0
    for (let i = 0; i < want.length; i++) {
      // what is nearly clear has no colour to speak of
      const off = i % 4 < 3 && want[i - (i % 4) + 3]! < 0.2 ? 0 : abs(got.v[i]! - want[i]! * 65535)
      worst = max(worst, off)
      sum += off
    }
    // the weights are rounded to whole numbers; where it is clear, colours are divided by little
    expect(worst / 257).toBeLessThan(clear ? 1 : 0.25)
    expect(sum / want.length).toBeLessThan(1)
  })

  test('means of 2 × 2 pixels make nearly the picture that single pixels make', () => {
    const by = (block: number) => {
      const [r, radius, most] = [14, 9, 300]
      const flowAt = 512 * (most + 1) * 48
      return kernels.scratch(flowAt + photo.w * photo.h * 16, (table) => {
        kernels.raw.kuwaharaTaps(table, most, r, radius, 0.5, 0.3, 0.9, block)
        const f = kernels.f32(table + flowAt, photo.w * photo.h * 4)
        for (let i = 0; i < f.length; i += 4) f.set([0.8, 0.6, 0.5, 0], i)
        return picturedBy(kernels, photo, r, (s, ss, d, ds) =>
          kernels.raw.kuwaharaAlong(s, ss, table + flowAt, photo.w * 16, d, ds, photo.w, photo.h, r, table, most, block, 2),
        )
      })
    }
    const [all, got] = [by(1), by(2)]
    expect(got.v.reduce((sum, v, i) => sum + abs(v - all.v[i]!), 0) / got.v.length / 257).toBeLessThan(0.25)
  })

  test('along the forms: an even field stays, a slanting edge stays crisp, noise goes, no pixel leaves the range about it', async () => {
    const next = dice(2)
    const noise = Array.from({ length: 90 * 70 }, () => (next() - 0.5) * 0.12)
    const p = painted(90, 70, (x, y) => [(x + y * 0.5 < 60 ? 0.25 : 0.75) + noise[y * 90 + x]!])
    const got = await through(kernels, p, [['kuwahara', { reach: px(5) }]])
    const at = (q: Rgba, x: number, y: number) => q.v[(y * 90 + x) * 4]! / 65535
    // along row 30 the edge lies at x = 45
    expect(at(got, 48, 30) - at(got, 42, 30)).toBeGreaterThan(0.42)
    let rough = 0
    let before = 0
    for (let y = 10; y < 60; y++) {
      for (let x = 5; x < 15; x++) {
        rough += (at(got, x, y) - 0.25) ** 2
        before += (at(p, x, y) - 0.25) ** 2
      }
    }
    expect(rough).toBeLessThan(before / 8)
    const even = await through(
      kernels,
      painted(40, 40, () => [0.3, 0.6, 0.9]),
      [['kuwahara', { reach: px(5) }]],
    )
    expect(max(...[0, 1, 2].map((c) => abs(meanOf(even, c) - [0.3, 0.6, 0.9][c]!)))).toBeLessThan(1e-3)
  })

  test.each(edgePictures())('%s: both ways give a picture', async (_, p) => {
    for (const patches of ['along', 'squares']) {
      const got = await through(kernels, p, [['kuwahara', { patches, reach: px(4) }]])
      expect(got.v).toHaveLength(p.v.length)
      if (p.v.every((v, i) => i % 4 !== 3 || v === 65535)) for (let i = 3; i < got.v.length; i += 4) expect(got.v[i]).toBe(65535)
    }
  })
})

test('grain keeps the mean, is mostly in the midtones, and is another with another seed', async () => {
  const p = painted(300, 60, (x) => [x < 100 ? 0.03 : x < 200 ? 0.5 : 0.97])
  const got = await through(kernels, p, [['add-grain', { size: px(1.6), amount: 0.3, byTone: 1 }]])
  const stats = (x: number) => {
    const part = { x, y: 0, w: 100, h: 60 }
    const m = meanOf(got, 0, part)
    let s = 0
    for (let y = 0; y < 60; y++) for (let i = x; i < x + 100; i++) s += (got.v[(y * 300 + i) * 4]! / 65535 - m) ** 2
    return { m, deviation: Math.sqrt(s / 6000) }
  }
  expect(stats(100).m).toBeCloseTo(0.5, 1)
  expect(abs(stats(100).m - 0.5)).toBeLessThan(0.01)
  expect(stats(100).deviation).toBeGreaterThan(3 * stats(0).deviation)
  const other = await through(kernels, p, [['add-grain', { size: px(1.6), amount: 0.3, byTone: 1, seed: 99 }]])
  expect(other.v).not.toEqual(got.v)
})
