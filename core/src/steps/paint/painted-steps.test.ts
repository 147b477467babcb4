import { converter, differenceCiede2000 } from 'culori'
import { newStep } from '../../artwork/layers.ts'
import { artworkFromPhoto, loadArtwork } from '../../artwork/load.ts'
import type { Engine } from '../../engine/engine.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { transferTables } from '../../colour/srgb.ts'
import { photoPart } from '../../testing/photo.ts'
import { layingOf } from '../../testing/laying.ts'
import { MemorySources } from '../../testing/memory-source.ts'
import { compute, formsPicture, newTestEngine, testPicture } from '../../testing/pictures.ts'
import { brushesBetween, brushwork, drawBrushwork, primed, type PaintStroke, type PaintTool } from './brushwork.ts'
import { broadStrokes } from './broad-brush.ts'
import { grownStroke } from './grow-stroke.ts'
import { choosePlaces, gather, gatherSparsely, sparseBy } from '../line/draw-marks.ts'
import { crossingBy, strokesOver } from './coloured-pencil.ts'
import { Mixture, laidAt, pencilsOf, pressuresAt, recipeOf } from './pencil-mix.ts'
import { amountsFor, boxes, chosenFor, densityOf, shelf, washes } from './pigments.ts'

const [W, H] = [360, 240]
let kernels: Kernels
let sources: MemorySources
let engine: Engine
const assets: Record<string, { asset: string; width: number; height: number }> = {}
async function add(name: string, width: number, height: number, channels: 3 | 4, pixels: Uint8Array) {
  const asset = Object.keys(assets).length.toString(16).repeat(64)
  await sources.add(kernels, asset, { width, height, channels, depth: 8 }, pixels)
  assets[name] = { asset, width, height }
}
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await add('forms', W, H, 3, formsPicture(W, H))
  await add('cut-out', 200, 140, 4, testPicture(200, 140, 4))
  await add('flat', 160, 120, 3, new Uint8Array(160 * 120 * 3).fill(128))
  await add('tiny', 20, 16, 3, testPicture(20, 16, 3))
  engine = newTestEngine(kernels, sources)
})

const px = (value: number) => ({ value, unit: 'px' })
const made = (step: string, params: Record<string, unknown>, of = 'forms') => {
  const a = structuredClone(artworkFromPhoto({ ...assets[of]!, title: 't' }))
  a.layers[0]!.chain = [newStep(step, params)]
  return a
}
const meanOf = (v: Uint16Array, c: number): number => {
  let sum = 0
  for (let i = c; i < v.length; i += 4) sum += v[i]!
  return sum / (v.length / 4) / 65535
}

const painted = ['broad-brush', 'flowing-oil', 'coloured-pencil', 'wash', 'charcoal', 'pastel', 'smear']

describe.each(painted)('%s', (step) => {
  test('a flat grey is painted evenly, in about its own tone or a lighter one', async () => {
    const { pixels } = await compute(engine, made(step, {}, 'flat'))
    for (let c = 0; c < 3; c++) {
      expect(meanOf(pixels, c)).toBeGreaterThan(0.4)
      expect(meanOf(pixels, c)).toBeLessThan(0.9)
    }
  })

  test('a picture of 20 pixels is painted', async () => {
    const { pixels } = await compute(engine, made(step, {}, 'tiny'))
    for (let i = 3; i < pixels.length; i += 4) expect(pixels[i]).toBe(65535)
    expect(new Set(pixels).size).toBeGreaterThan(20)
  })

  test('a cut-out keeps its edge and has no fringe', async () => {
    const plain = structuredClone(made(step, {}, 'cut-out'))
    plain.layers[0]!.chain = []
    const want = (await compute(engine, plain)).pixels
    const { pixels } = await compute(engine, made(step, {}, 'cut-out'))
    let off = 0
    for (let i = 3; i < pixels.length; i += 4) if (pixels[i] !== want[i]) off++
    expect(off).toBe(0)
  })

  test('the same seed paints the same, another does not', async () => {
    const one = await compute(engine, made(step, { seed: 3 }, 'tiny'))
    const again = await compute(newTestEngine(kernels, sources), made(step, { seed: 3 }, 'tiny'))
    const other = await compute(engine, made(step, { seed: 4 }, 'tiny'))
    expect(Buffer.compare(Buffer.from(again.pixels.buffer), Buffer.from(one.pixels.buffer))).toBe(0)
    expect(Buffer.compare(Buffer.from(other.pixels.buffer), Buffer.from(one.pixels.buffer))).not.toBe(0)
  })
})

test.each([
  ['broad-brush', { largest: px(6000), smallest: px(3000) }],
  ['flowing-oil', { width: px(4000) }],
  ['flowing-oil', { width: px(4000), brush: 'knife' }],
  ['coloured-pencil', { breadth: px(200), length: px(4000) }],
  ['wash', { brush: px(3000) }],
  ['charcoal', { stick: px(1500) }],
  ['pastel', { stick: px(1500) }],
])('%s with a brush wider than the sheet %j', async (step, params) => {
  const { pixels } = await compute(engine, made(step, params, 'cut-out'))
  expect(meanOf(pixels, 3)).toBeGreaterThan(0.2)
})

test.each([
  ['coloured-pencil', { pencils: ['#203040'] }],
  ['coloured-pencil', { pencils: ['#ffffff'] }],
  ['wash', { own: ['#7a3b20'] }],
  ['pastel', { sticks: ['#7a3b20'] }],
  ['wash', { box: 'photo', count: 1 }],
  ['wash', { glazes: 2, whites: 1 }],
  ['wash', { glazes: 5, whites: 0, wetness: 1, edges: 0 }],
])('%s with little to go by: %j', async (step, params) => {
  const { pixels } = await compute(engine, made(step, params))
  expect(meanOf(pixels, 0)).toBeGreaterThan(0.2)
})

// ——— strokes ———

const plain: PaintTool = { pitch: 1e6, round: 0, hair: 0, ragged: 0, ridge: 0 }
const stroke = (change: Partial<PaintStroke> = {}, loads: [number, number] = [1, 1]): PaintStroke => ({
  places: [0, 1, 2, 3, 4].map((i) => ({ x: 30 + 40 * i, y: 60, half: 20, r: 1, g: 0, b: 0, load: loads[0] + ((loads[1] - loads[0]) * i) / 4 })),
  seed: 7,
  half: 20,
  body: 0,
  solid: 1,
  tint: [0, 0, 0],
  streak: 0,
  ...change,
})
const extent = { x: 0, y: 0, w: 220, h: 120 }
function drawn(
  strokes: PaintStroke[],
  tool: PaintTool = plain,
  lamp = { direction: 180, height: 45, gloss: 0 },
  ground: [number, number, number] = [0, 0, 1],
): Uint16Array {
  const bytes = extent.w * extent.h * 8
  return kernels.scratch(bytes * 2, (at) => {
    kernels.u16(at, extent.w * extent.h * 4).fill(65535)
    const input = { ptr: at, stride: extent.w * 8, region: extent }
    const output = { ptr: at + bytes, stride: extent.w * 8, region: extent }
    drawBrushwork(kernels, brushwork(strokes, primed(1, 1, ground), extent), { input, output, level: 0, extent, quick: false }, tool, lamp)
    return kernels.u16(at + bytes, extent.w * extent.h * 4).slice()
  })
}
const redAt = (v: Uint16Array, x: number, y: number) => v[(y * extent.w + x) * 4]! / 65535

test('a full stroke covers its length and its breadth, but for what its rims wander', () => {
  const v = drawn([stroke()])
  let covered = 0
  for (let i = 0; i < v.length; i += 4) covered += v[i]! / 65535
  // 160 long and 40 broad; rims wander inwards by up to a tenth
  expect(covered).toBeGreaterThan(160 * 40 * 0.88)
  expect(covered).toBeLessThanOrEqual(160 * 40 * 1.01)
  expect(redAt(v, 110, 60)).toBe(1)
  expect(redAt(v, 110, 38)).toBe(0)
  expect(redAt(v, 20, 60)).toBe(0)
})

test('a load runs out along the stroke: hair by hair, to nothing', () => {
  const v = drawn([stroke({}, [1, 0])], { ...plain, pitch: 3, hair: 0.6 })
  const shares = [40, 80, 120, 160, 184].map((x) => {
    let sum = 0
    for (let y = 45; y < 75; y++) sum += redAt(v, x, y)
    return sum / 30
  })
  expect(shares[0]).toBeGreaterThan(0.97)
  for (let i = 1; i < shares.length; i++) expect(shares[i]).toBeLessThanOrEqual(shares[i - 1]! + 0.01)
  expect(shares[4]).toBeLessThan(0.35)
})

test('what is drawn in pieces is what is drawn whole', () => {
  const strokes = [stroke({ body: 3 }), stroke({ body: 2, places: stroke().places.map((p) => ({ ...p, y: p.y + 10, x: p.x - 6, g: 1 })) })]
  const tool = { ...plain, pitch: 3, hair: 0.5, ragged: 0.5, ridge: 0.4, round: 0.6 }
  const whole = drawn(strokes, tool)
  const bytes = extent.w * extent.h * 8
  const work = brushwork(strokes, primed(1, 1, [0, 0, 1]), extent)
  for (const region of [
    { x: 37, y: 21, w: 50, h: 61 },
    { x: 101, y: 50, w: 119, h: 33 },
  ]) {
    const part = kernels.scratch(bytes * 2, (at) => {
      kernels.u16(at, extent.w * extent.h * 4).fill(65535)
      const input = { ptr: at, stride: region.w * 8, region }
      const output = { ptr: at + bytes, stride: region.w * 8, region }
      drawBrushwork(kernels, work, { input, output, level: 0, extent, quick: false }, tool, { direction: 180, height: 45, gloss: 0 })
      return kernels.u16(at + bytes, region.w * region.h * 4).slice()
    })
    for (let y = 0; y < region.h; y++)
      for (let x = 0; x < region.w * 4; x++) expect(part[y * region.w * 4 + x]).toBe(whole[((region.y + y) * extent.w + region.x) * 4 + x])
  }
})

/** Lights a plane of heights on grey. */
function lit(heightAt: (x: number, y: number) => number, lamp: [number, number, number], gloss = 0): Float64Array {
  const [w, h, m] = [60, 20, 7]
  const wide = w + 2 * m
  return kernels.scratch(wide * (h + 2 * m) * 16 + w * h * 16, (plane) => {
    const p = kernels.f32(plane, wide * (h + 2 * m) * 4)
    for (let y = 0; y < h + 2 * m; y++) for (let x = 0; x < wide; x++) p.set([0.5, 0.5, 0.5, heightAt(x - m, y - m)], (y * wide + x) * 4)
    const src = plane + wide * (h + 2 * m) * 16
    kernels.u16(src, w * h * 4).fill(65535)
    kernels.raw.lightPaint(plane, wide * 16, m, src, w * 8, src + w * h * 8, w * 8, w, h, 1, ...lamp, gloss, 6)
    return Float64Array.from({ length: w }, (_, x) => kernels.u16(src + w * h * 8, w * h * 4)[(10 * w + x) * 4]! / 65535)
  })
}
const lampFrom = (height: number): [number, number, number] => [-Math.cos((height * Math.PI) / 180), 0, Math.sin((height * Math.PI) / 180)]

test('paint is lit by the lamp: flat keeps its colour, what turns to it is lighter, a ledge throws a shadow as long as its height by the lamp’s tangent', () => {
  const flat = lit(() => 3, lampFrom(40))
  flat.forEach((v) => expect(v).toBeCloseTo(0.5, 4))
  // a roof with its ridge at 30, the lamp at the left
  const roof = lit((x) => 6 - Math.abs(x - 30) * 0.2, lampFrom(40))
  expect(roof[20]).toBeGreaterThan(0.52)
  expect(roof[40]).toBeLessThan(0.48)
  // Lambert's law on the dark side: the cosine against that of the flat, of what does not come from the room (0.48)
  const [nx, nz] = [0.2 / Math.hypot(0.2, 1), 1 / Math.hypot(0.2, 1)]
  const cosine = (nx * lampFrom(40)[0] + nz * lampFrom(40)[2]) / lampFrom(40)[2]
  expect(roof[45]).toBeCloseTo(0.5 * (0.48 + 0.52 * cosine), 3)
  // a ledge two pixels high that falls at 30
  for (const height of [30, 45]) {
    const ledge = lit((x) => (x < 30 ? 2 : 0), lampFrom(height))
    const length = 2 / Math.tan((height * Math.PI) / 180)
    const dark = [31, 32, 33, 34, 35].filter((x) => ledge[x]! < 0.495)
    expect(Math.abs(dark.length - (length - 1))).toBeLessThan(1.001)
    expect(ledge[38]).toBeCloseTo(0.5, 4)
  }
  // gloss shines where a slope halves the way between lamp and eye, and nowhere on the flat
  const half = Math.tan((25 * Math.PI) / 180)
  const shiny = lit((x) => (x < 30 ? x * half : 30 * half), lampFrom(40), 1)
  expect(shiny[15]).toBeGreaterThan(lit((x) => (x < 30 ? x * half : 30 * half), lampFrom(40), 0)[15]! + 0.1)
  expect(shiny[50]).toBeCloseTo(0.5, 4)
})

test('brushes fall from the largest to the smallest', () => {
  expect(brushesBetween(100, 10, 0.5)).toEqual([100, 50, 25, 12.5, 10])
  expect(brushesBetween(10, 10, 0.5)).toEqual([10])
})

test('a stroke grows both ways along its direction and stops where it may not go', () => {
  const line = grownStroke(50, 50, { direction: (_x, _y, out) => ((out.x = 1), (out.y = 0)), step: 2, longest: 40, bend: 1, goesOn: (x) => x < 61 })
  const xs = line.filter((_, i) => i % 2 === 0)
  expect(Math.min(...xs)).toBe(30)
  expect(Math.max(...xs)).toBe(60)
  expect(xs).toEqual([...xs].sort((a, b) => a - b))
  expect(line.filter((_, i) => i % 2 === 1).every((y) => y === 50)).toBe(true)
})

const painting = { largest: 24, smallest: 4, care: 0.5, bend: 0.5, long: 5, uneven: 0.3, loose: 0.3, drag: 0.4, load: 0.5, body: 0.4, hand: 40, seed: 1 }

test('the broad brush is fine where detail is, and more care takes more strokes', async () => {
  const work = await layingOf(kernels, formsPicture(W, H), W, H)
  const ground = primed(W, H, [0.6, 0.5, 0.4])
  const strokes = await broadStrokes(kernels, work, painting, ground)
  const detailOf = (s: PaintStroke) => {
    const p = s.places[s.places.length >> 1]!
    return work.study.detail.v[Math.min(H - 1, Math.max(0, Math.round(p.y))) * W + Math.min(W - 1, Math.max(0, Math.round(p.x)))]!
  }
  const mean = (list: PaintStroke[], f: (s: PaintStroke) => number) => list.reduce((t, s) => t + f(s), 0) / list.length
  const fine = strokes.filter((s) => s.half < 4)
  const broad = strokes.filter((s) => s.half > 8)
  expect(fine.length).toBeGreaterThan(20)
  expect(broad.length).toBeGreaterThan(20)
  expect(mean(fine, detailOf)).toBeGreaterThan(1.5 * mean(broad, detailOf))
  const careful = await broadStrokes(kernels, work, { ...painting, care: 1 }, ground)
  expect(careful.length).toBeGreaterThan(1.2 * strokes.length)
})

test('no stroke of the broad brush goes on over a strong edge', async () => {
  // black against white, and a brush that would go across
  const two = new Uint8Array(120 * 90 * 3).map((_, i) => (Math.floor(i / 3) % 120 < 60 ? 20 : 235))
  const work = await layingOf(kernels, two, 120, 90)
  const strokes = await broadStrokes(kernels, work, { ...painting, loose: 0, hand: 0, uneven: 0, drag: 0, long: 10 }, primed(120, 90, [0.5, 0.5, 0.5]))
  const over = strokes.filter((s) => Math.min(...s.places.map((p) => p.x)) < 60 - 4 - s.half && Math.max(...s.places.map((p) => p.x)) > 60 + 4 + s.half)
  expect(over.length / strokes.length).toBeLessThan(0.02)
})

// ——— coloured pencils ———

test('what lies on a tooth comes, over all its depths, to the pressure', () => {
  for (const soft of [0.2, 0.75, 1])
    for (let p = 0; p <= 1; p += 0.05) {
      let sum = 0
      for (let d = 0; d < 1000; d++) sum += laidAt(p, (d + 0.5) / 1000, soft, 0.8)
      expect(sum / 1000).toBeCloseTo(p, 2)
    }
})

const set = ['#f2d24a', '#d8452e', '#3f8f5a', '#3a6ec0', '#8a5a3a', '#30283a']

test('pressures bring a set of pencils as near to a colour as a search over all of them does', () => {
  const { pow } = kernels.raw
  const cbrt = (v: number) => pow(v, 1 / 3)
  const mixture = new Mixture(
    pencilsOf(set.slice(0, 3), '#ffffff', () => 0.8, 0.75, 0.5, pow),
    pow,
  )
  const out = new Float64Array(3)
  const off = (x: ArrayLike<number>, t: readonly number[]) => {
    mixture.colour(x, out)
    return Math.sqrt(out.reduce((s, v, c) => s + (cbrt(v) - cbrt(t[c]!)) ** 2, 0))
  }
  for (const target of [
    [0.6, 0.5, 0.2],
    [0.3, 0.4, 0.2],
    [0.5, 0.2, 0.15],
    [0.9, 0.9, 0.9],
    [0.25, 0.2, 0.12],
  ] as const) {
    const x = mixture.pressures([...target], 0.003)
    let best = Infinity
    for (let a = 0; a <= 1; a += 0.1) for (let b = 0; b <= 1; b += 0.1) for (let c = 0; c <= 1; c += 0.1) best = Math.min(best, off([a, b, c], target))
    expect(off(x, target)).toBeLessThan(best + 0.02)
    expect(Math.max(...x)).toBeLessThanOrEqual(1)
  }
})

describe('coloured pencil leaves no rim of bare paper', () => {
  const hand = { pencils: ['#3a2a20', '#b88a50'], key: 0, bare: 0, breadth: px(5), length: px(60), tooth: px(3), closeness: 1, seed: 4 }
  /** Lightness where `within` says so, as a mean. */
  const lightness = ({ pixels, w }: { pixels: Uint16Array; w: number }, within: (x: number, y: number) => boolean): number => {
    let [sum, n] = [0, 0]
    for (let y = 0; y < pixels.length / 4 / w; y++)
      for (let x = 0; x < w; x++)
        if (within(x, y)) {
          n++
          sum += pixels[(y * w + x) * 4 + 1]! / 65535
        }
    return sum / n
  }
  const [N, R] = [500, 190]
  const far = (x: number, y: number) => Math.hypot(x - N / 2, y - N / 2)

  test('along the silhouette of a cut-out', async () => {
    const disc = new Uint8Array(N * N * 4)
    for (let i = 0; i < N * N; i++) disc.set(far(i % N, Math.floor(i / N)) < R ? [70, 60, 50, 255] : [255, 255, 255, 0], i * 4)
    await add('disc', N, N, 4, disc)
    const { pixels } = await compute(engine, made('coloured-pencil', hand, 'disc'))
    const middle = lightness({ pixels, w: N }, (x, y) => far(x, y) < R - 60)
    const rim = lightness({ pixels, w: N }, (x, y) => far(x, y) < R - 1 && far(x, y) > R - 6)
    expect(rim - middle).toBeLessThan(0.08)
  })

  test('round a dark form before a lighter ground', async () => {
    const [w, h] = [960, 640]
    // the heron's tail and leg, dark before reeds
    const { v } = await photoPart('heron-on-post', { left: 560, top: 300, width: w, height: h })
    await add(
      'heron',
      w,
      h,
      3,
      Uint8Array.from({ length: w * h * 3 }, (_, i) => v[Math.floor(i / 3) * 4 + (i % 3)]! / 257),
    )
    const { pixels } = await compute(engine, made('coloured-pencil', { key: 0.4, seed: 3 }, 'heron'))
    const dark = (x: number, y: number) => x >= 0 && y >= 0 && x < w && y < h && v[(y * w + x) * 4 + 1]! < 0.16 * 65535
    const beside = (x: number, y: number) => {
      if (dark(x, y)) return false
      for (let d = 1; d <= 5; d++) if (dark(x - d, y) || dark(x + d, y) || dark(x, y - d) || dark(x, y + d)) return true
      return false
    }
    let [bare, n, bare2, n2] = [0, 0, 0, 0]
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        // the ground there is of a middle tone: none of it is bare
        const i = (y * w + x) * 4
        if (v[i + 1]! > 0.62 * 65535) continue
        const is = pixels[i + 2]! > 0.8 * 65535 ? 1 : 0
        if (beside(x, y)) {
          n++
          bare += is
        } else if (!dark(x, y)) {
          n2++
          bare2 += is
        }
      }
    // 3.6 % was bare where strokes kept off the border on both sides
    expect(bare / n).toBeLessThan(0.018)
    expect(bare2 / n2).toBeLessThan(0.018)
  })
})

test('seen from afar the drawing is what its pencils were to come to: within ΔE00 6 on average', async () => {
  const pixels = formsPicture(W, H)
  const params = { pencils: set, key: 0.3, seed: 2 }
  const { pixels: got } = await compute(engine, made('coloured-pencil', params))
  // what was asked for, by the mixture alone
  const { pow } = kernels.raw
  const linear = converter('lrgb')
  const difference = differenceCiede2000()
  // over squares as large as some strokes are broad, of the drawing, against means of the photo keyed to this set on this paper
  const over = strokesOver(0.85, pow)
  const pencils = pencilsOf(
    [...set].sort((a, b) => converter('oklab')(b)!.l - converter('oklab')(a)!.l),
    '#fbf9f4',
    over,
    0.75,
    0.5,
    pow,
    crossingBy,
  )
  const work = await layingOf(kernels, pixels, W, H)
  const mean = work.facts.rgb.map((p) => p.reduce((s, v) => s + v, 0) / p.length)
  const tone = 0.2126 * mean[0]! + 0.7152 * mean[1]! + 0.0722 * mean[2]!
  const opened = tone >= 0.6 ? 1 : 1 + 0.3 * (Math.max(0.4, Math.log(0.6) / Math.log(tone)) - 1)
  const recipe = await recipeOf(pencils, { key: 0.3, bare: 0.35, opened, vivid: 0.4 + 1.2 * 0.6 }, kernels, async () => undefined)
  const mixture = new Mixture(pencils, pow)
  const [x, out] = [new Float32Array(set.length), new Float64Array(3)]
  const side = 20
  let [sum, n] = [0, 0]
  for (let y = 0; y + side <= H; y += side)
    for (let px0 = 0; px0 + side <= W; px0 += side) {
      const [a, b] = [
        [0, 0, 0],
        [0, 0, 0],
      ]
      for (let j = 0; j < side; j++)
        for (let i = 0; i < side; i++) {
          const at = (y + j) * W + px0 + i
          const c = linear({ mode: 'rgb', r: got[at * 4]! / 65535, g: got[at * 4 + 1]! / 65535, b: got[at * 4 + 2]! / 65535 })
          a[0]! += c.r
          a[1]! += c.g
          a[2]! += c.b
          const planes = set.map(() => new Float32Array(1))
          pressuresAt(recipe, pixels[at * 3]! / 255, pixels[at * 3 + 1]! / 255, pixels[at * 3 + 2]! / 255, planes, 0)
          planes.forEach((v, k) => (x[k] = v[0]!))
          mixture.colour(x, out)
          for (let c2 = 0; c2 < 3; c2++) b[c2]! += out[c2]!
        }
      const of = (v: number[]) => ({ mode: 'lrgb' as const, r: v[0]! / side ** 2, g: v[1]! / side ** 2, b: v[2]! / side ** 2 })
      sum += difference(of(a), of(b))
      n++
    }
  expect(sum / n).toBeLessThan(6)
})

test('under a moving hand a line is drawn by fewer of its places, and its ends are kept', () => {
  expect([sparseBy(false, 3), sparseBy(true, 0), sparseBy(true, 1), sparseBy(true, 2), sparseBy(true, 3)]).toEqual([0, 0, 0, 16, 32])
  // a line of thirteen places a pixel apart, and one of two: ends, and what lies three pixels from those before and from the end
  const from = Float32Array.from({ length: 30 }, (_, i) => (i % 2 ? 100 : i / 2))
  const starts = Int32Array.from([0, 13, 15])
  const some = choosePlaces(from, starts, [0, 1], 2, 3)
  expect([...some.counts]).toEqual([5, 2])
  expect([...some.places!.subarray(0, some.total)]).toEqual([0, 3, 6, 9, 12, 13, 14])
  const to = new Float32Array(some.total * 2)
  gather(to, from, starts, [0, 1], 2, some.places)
  expect([...to]).toEqual([0, 100, 3, 100, 6, 100, 9, 100, 12, 100, 13, 100, 14, 100])
  const all = choosePlaces(from, starts, [1, 0], 2, 0)
  expect([all.places, all.total, ...all.counts]).toEqual([null, 15, 2, 13])
})

test('a mark of few places covers as much as it does by all of them', () => {
  // set down and lifted over a sixth of it: breadth and weight grow from nothing; ten marks that bend, of several lengths
  const points: number[] = []
  const starts = [0]
  for (let m = 0; m < 10; m++) {
    const n = 8 + 6 * m
    for (let i = 0; i < n; i++) {
      const ends = Math.min(1, i / (n - 1) / 0.16, (n - 1 - i) / (n - 1) / 0.16)
      points.push(60 + 4 * i + 0.5 * m, 20 + 40 * m + 12 * Math.sin((i / n) * 2.5), 3 * ends, 0.8 * ends)
    }
    starts.push(points.length / 4)
  }
  const marks = { points: Float32Array.from(points), starts: Int32Array.from(starts) }
  const chosen = Array.from({ length: 10 }, (_, i) => i)
  const laid = (from: Float32Array, counts: Int32Array) =>
    kernels.scratch(from.byteLength + 64 + 80 * 60 * 4, (at) => {
      const of = at + from.byteLength
      const plane = of + 64
      kernels.f32(at, from.length).set(from)
      new Int32Array(kernels.memory.buffer, of, counts.length).set(counts)
      kernels.raw.layMarks(at, of, counts.length, 1 / 8, 1, 0, 0, 80, 60, 0, 0, 0, plane, 80 * 4)
      return kernels.f32(plane, 80 * 60).slice()
    })
  const counts = Int32Array.from({ length: 10 }, (_, i) => starts[i + 1]! - starts[i]!)
  const to = new Float32Array(points.length)
  const few = new Int32Array(10)
  const n = gatherSparsely(to, few, marks.points, marks.starts, chosen, sparseBy(true, 3))
  expect(n).toBeLessThan(0.35 * (points.length / 4))
  const [whole, sparse] = [laid(marks.points, counts), laid(to.subarray(0, n * 4), few)]
  const sum = (v: Float32Array) => v.reduce((a, b) => a + b, 0)
  expect(sum(sparse) / sum(whole)).toBeGreaterThan(0.95)
  expect(sum(sparse) / sum(whole)).toBeLessThan(1.05)
  // broad ones are drawn as they are
  const broad = marks.points.map((v, i) => (i % 4 === 2 ? v * 20 : v))
  expect(gatherSparsely(to, few, broad, marks.starts, chosen, 32)).toBe(points.length / 4)
  expect([...to]).toEqual([...broad])
})

test('darks are closed by strokes that cross: less than half as much bare paper as where all go one way; lights stay open', async () => {
  const two = new Uint8Array(300 * 160 * 3).map((_, i) => (Math.floor(i / 3) % 300 < 150 ? 60 : 205))
  await add('two', 300, 160, 3, two)
  const bare = async (version: number) => {
    const a = made('coloured-pencil', { pencils: ['#27303f', '#8a5040'], key: 0, breadth: px(4), tooth: px(3), closeness: 0.6, seed: 5 }, 'two')
    a.layers[0]!.chain[0]!.version = version
    const { pixels } = await compute(engine, a)
    const share = (x0: number) => {
      let n = 0
      for (let y = 10; y < 150; y++) for (let x = x0; x < x0 + 120; x++) if (pixels[(y * 300 + x) * 4]! > 0.8 * 65535) n++
      return n / (140 * 120)
    }
    return [share(15), share(165)] as const
  }
  const before = await bare(1)
  for (const version of [2, 3]) {
    const now = await bare(version)
    expect(before[0]).toBeGreaterThan(0.02)
    expect(now[0]).toBeLessThan(0.5 * before[0])
    expect(now[1]).toBeGreaterThan(0.6 * before[1])
  }
})

test('toned paper is the middle value: what is as light as it is left to it, darks are charcoal, lights are chalk', async () => {
  const three = new Uint8Array(240 * 80 * 3).map((_, i) => [30, 174, 250][Math.floor((Math.floor(i / 3) % 240) / 80)]!)
  await add('three', 240, 80, 3, three)
  const { pixels } = await compute(engine, made('charcoal', { paper: '#b0b0b0', key: 0, rubbed: 0, lights: 1, closeness: 1 }, 'three'))
  const part = (x0: number, x1: number) => {
    let sum = 0
    for (let y = 20; y < 60; y++) for (let x = x0; x < x1; x++) sum += pixels[(y * 240 + x) * 4]! / 65535
    return sum / (40 * (x1 - x0))
  }
  const paper = 0xb0 / 255
  expect(part(10, 70)).toBeLessThan(paper - 0.3)
  expect(Math.abs(part(100, 140) - paper)).toBeLessThan(0.02)
  expect(part(175, 230)).toBeGreaterThan(paper + 0.06)
})

// ——— washes ———

test('a bloom pushes pigment to its rim and takes none away: thinner inside, denser at the rim, the same on the whole', () => {
  const [side, radius] = [400, 100]
  for (const seed of [1, 2, 3, 4, 5]) {
    const density = kernels.scratch(side * side * 16, (at) => {
      const plane = kernels.f32(at, side * side * 4).fill(0.5)
      kernels.raw.bloomWash(at, side * 16, side, side, 0, 0, side / 2, side / 2, radius, 0.6, 0.8, 0.8, seed)
      return Float32Array.from({ length: side * side }, (_, i) => plane[i * 4]!)
    })
    const [most, least] = [density.reduce((a, b) => Math.max(a, b)), density.reduce((a, b) => Math.min(a, b))]
    expect(most).toBeGreaterThan(0.7)
    expect(least).toBeLessThan(0.42)
    expect(least).toBeGreaterThan(0)
    const mean = density.reduce((a, b) => a + b) / density.length
    expect(Math.abs(mean / 0.5 - 1)).toBeLessThan(0.02)
    // far outside nothing is touched
    expect(density[0]).toBe(0.5)
  }
})

test('blooms are few, come the more often the more are asked for, and are none at 0', async () => {
  const wet = (blooms: number) => compute(engine, made('wash', { blooms, wetness: 0.8, seed: 4 }, 'even'))
  await add(
    'even',
    480,
    320,
    3,
    new Uint8Array(480 * 320 * 3).map((_, i) => [120, 140, 160][i % 3]! + Math.round(8 * Math.sin(i / 900))),
  )
  const none = (await wet(0)).pixels
  const changed = async (blooms: number) => {
    const { pixels } = await wet(blooms)
    let n = 0
    for (let i = 0; i < none.length; i += 4) if (Math.abs(pixels[i]! - none[i]!) > 600) n++
    return n / (none.length / 4)
  }
  const [some, many] = [await changed(0.3), await changed(1)]
  expect(some).toBeGreaterThan(0.001)
  expect(many).toBeGreaterThan(1.5 * some)
  expect(many).toBeLessThan(0.3)
})

test('last touches bring small things nearer to their colours, and leave bare paper bare', async () => {
  const [w, h] = [480, 400]
  const { v } = await photoPart('keeper-portrait', { left: 430, top: 420, width: w, height: h })
  const rgb = new Uint8Array(w * h * 3).map((_, i) => v[Math.floor(i / 3) * 4 + (i % 3)]! / 257)
  await add('face', w, h, 3, rgb)
  const painted = async (touches: number) =>
    (await compute(engine, made('wash', { touches, apart: 0, key: 0, brush: { value: 6, unit: '%' }, flow: 0, blooms: 0 }, 'face'))).pixels
  const [without, some, full] = [await painted(0), await painted(0.5), await painted(1)]
  // as an artwork says it that was saved before there were any
  const earlier = made('wash', { key: 0, brush: { value: 6, unit: '%' }, flow: 0, blooms: 0 }, 'face')
  const [use] = earlier.layers[0]!.chain
  use!.version = 2
  delete use!.params['touches']
  delete use!.params['apart']
  const opened = (await compute(engine, loadArtwork(earlier))).pixels
  expect(Buffer.compare(Buffer.from(opened.buffer), Buffer.from(without.buffer))).toBe(0)
  const lab = converter('oklab')
  const off = (p: Uint16Array, i: number) => {
    const [a, b] = [p, v].map((q) => lab({ mode: 'rgb', r: q[i * 4]! / 65535, g: q[i * 4 + 1]! / 65535, b: q[i * 4 + 2]! / 65535 }))
    return Math.hypot(a!.a - b!.a, a!.b - b!.b)
  }
  const judged = (p: Uint16Array) => {
    let [n, before, after, lost] = [0, 0, 0, 0]
    for (let i = 0; i < w * h; i++) {
      const changed = [0, 1, 2].some((c) => Math.abs(p[i * 4 + c]! - without[i * 4 + c]!) > 2000)
      if (!changed) continue
      n++
      before += off(without, i)
      after += off(p, i)
      if ([0, 1, 2].every((c) => without[i * 4 + c]! > 0.96 * 65535)) lost++
    }
    return { share: n / (w * h), before: before / n, after: after / n, lost }
  }
  const [few, many] = [judged(some), judged(full)]
  expect(few.share).toBeGreaterThan(0.01)
  expect(many.share).toBeGreaterThan(few.share)
  expect(many.share).toBeLessThan(0.1)
  for (const { before, after, lost } of [few, many]) {
    expect(after).toBeLessThan(0.9 * before)
    expect(lost).toBe(0)
  }
})

test('colours that are alike in tone are washes of their own: neither runs over into the other, and both are as they are without each other', async () => {
  const [w, h, radius] = [480, 320, 90]
  const from = (x: number, y: number) => Math.hypot(x - w / 2, y - h / 2) - radius
  // a red and a green of one lightness by the weights of ITU-R BT.709: 0.2126, 0.7152, 0.0722
  const [red, green] = [
    [190, 60, 45],
    [60, 98, 54],
  ] as const
  const luma = (c: readonly number[]) => 0.2126 * c[0]! + 0.7152 * c[1]! + 0.0722 * c[2]!
  expect(luma(green)).toBeCloseTo(luma(red), 0)
  const two = new Uint8Array(w * h * 3).map((_, i) => (from(Math.floor(i / 3) % w, Math.floor(i / 3 / w)) < 0 ? red : green)[i % 3]!)
  await add('poppy', w, h, 3, two)
  const apart = differenceCiede2000()
  const judged = async (share: number) => {
    const { pixels } = await compute(engine, made('wash', { apart: share, flow: 0, blooms: 0, rims: 0 }, 'poppy'))
    const mean = (near: number, far: number) => {
      const sum = [0, 0, 0, 0]
      for (let y = 0; y < h; y++)
        for (let x = 0; x < w; x++) {
          const d = from(x, y)
          if (d < near || d > far) continue
          for (let c = 0; c < 3; c++) sum[c]! += pixels[(y * w + x) * 4 + c]! / 65535
          sum[3]!++
        }
      return { mode: 'rgb' as const, r: sum[0]! / sum[3]!, g: sum[1]! / sum[3]!, b: sum[2]! / sum[3]! }
    }
    // beside the border, from one to two hundredths of the long side, and far from it
    return { outside: apart(mean(5, 10), mean(40, 60)), inside: apart(mean(-10, -5), mean(-60, -40)), both: apart(mean(-60, -40), mean(40, 60)) }
  }
  const [run, kept] = [await judged(0), await judged(0.6)]
  expect(kept.outside).toBeLessThan(3)
  expect(kept.inside).toBeLessThan(3)
  expect(run.outside).toBeGreaterThan(3 * kept.outside)
  expect(kept.both).toBeGreaterThan(30)
})

test('pigments of the shelf are mixed to a density as near as the others allow, never by less than nothing', () => {
  const { exp, log } = kernels.raw
  const densities = boxes.landscape.map((p) => densityOf(p, exp, log))
  // a mixture is found again
  const mixed = [0, 1, 2].map((c) => 0.4 * densities[0]![c]! + 0.7 * densities[2]![c]!)
  const x = amountsFor(densities, mixed)
  const got = [0, 1, 2].map((c) => densities.reduce((s, d, k) => s + x[k]! * d[c]!, 0))
  got.forEach((v, c) => expect(v).toBeCloseTo(mixed[c]!, 1))
  expect(Math.min(...x)).toBeGreaterThanOrEqual(0)
  const out = new Float32Array(4)
  const plane = (c: number) => Float32Array.of(mixed[c]!)
  washes(boxes.landscape, kernels.raw)(plane(0), plane(1), plane(2), out)
  mixed.forEach((v, c) => expect(Math.abs(out[c]! - v)).toBeLessThan(0.12))
})

test('a picture of one pigment chooses that one', () => {
  const { exp, log } = kernels.raw
  for (const title of ['Hooker’s green', 'Quinacridone rose', 'Burnt umber']) {
    const d = densityOf(
      shelf.find((p) => p.title === title)!,
      exp,
      log,
    )
    expect(chosenFor([d, d.map((v) => v / 2) as typeof d], 1, exp, log)[0]!.title).toBe(title)
  }
})

test('turbulence and tooth carry pigment about, none is lost: a wash holds what was laid, within 3 %', () => {
  const [w, h] = [512, 512]
  const densities = kernels.scratch(w * h * 20 + 64, (acc) => {
    kernels.f32(acc, w * h * 4).fill(0)
    const shape = acc + w * h * 16
    const depths = shape + 64
    kernels.raw.toothDepths(depths, w * 4, w, h, 0, 0, 1 / 4, 4)
    kernels.f32(shape, 8).set([500, 2, 0, 0, 0.4, 0.7, 0.2, 1])
    kernels.raw.layGlaze(
      acc,
      w * 16,
      w,
      h,
      0,
      0,
      shape,
      16,
      1,
      1,
      1 / 512,
      shape + 16,
      16,
      1,
      1,
      1 / 512,
      0,
      0,
      1,
      3,
      0.03,
      4,
      1,
      0.5,
      1 / 40,
      depths,
      w * 4,
      0.5,
      3,
    )
    return kernels.f32(acc, w * h * 4).slice()
  })
  for (const [c, want] of [
    [0, 0.4],
    [1, 0.7],
    [2, 0.2],
  ] as const) {
    let sum = 0
    for (let i = c; i < densities.length; i += 4) sum += densities[i]!
    expect(Math.abs(sum / (w * h) / want - 1)).toBeLessThan(0.03)
  }
})

test('paper shows light by the density over it (e to its power), and stays bare where none is', () => {
  const got = kernels.scratch(4 * 16 + 16 + 64, (acc) => {
    kernels.f32(acc, 16).set([0, 0, 0, 0, 0.5, 1, 2, 0, 3, 0, 0, 0, 0.1, 0.1, 0.1, 0])
    kernels.f32(acc + 64, 4).set([0.9, 0.8, 0.7, 0])
    const src = acc + 80
    kernels.u16(src, 16).fill(65535)
    kernels.raw.glazesOnPaper(acc, 64, src, 32, src, 32, 4, 1, 0, 0, acc + 64, transferTables(kernels).encode, 0, 0, 0.2, 0, 1)
    return kernels.u16(src, 16).slice()
  })
  const encoded = converter('rgb')
  ;[
    [0, 0, 0],
    [0.5, 1, 2],
    [3, 0, 0],
    [0.1, 0.1, 0.1],
  ].forEach((d, i) => {
    const want = encoded({ mode: 'lrgb', r: 0.9 * Math.exp(-d[0]!), g: 0.8 * Math.exp(-d[1]!), b: 0.7 * Math.exp(-d[2]!) })
    expect(got[i * 4]! / 65535).toBeCloseTo(want.r, 3)
    expect(got[i * 4 + 1]! / 65535).toBeCloseTo(want.g, 3)
    expect(got[i * 4 + 2]! / 65535).toBeCloseTo(want.b, 3)
  })
})

test('reserved whites are the bare paper, and fewer whites leave less of it', async () => {
  const bare = async (whites: number) => {
    const { pixels } = await compute(engine, made('wash', { whites, paper: '#ffffff', key: 0 }))
    let n = 0
    for (let i = 0; i < pixels.length; i += 4) if (pixels[i]! > 62000 && pixels[i + 1]! > 62000 && pixels[i + 2]! > 62000) n++
    return n / (W * H)
  }
  const [many, few] = [await bare(0.9), await bare(0)]
  expect(many).toBeGreaterThan(few + 0.02)
})
