import sharp from 'sharp'
import { newLayer, newStep } from '../artwork/layers.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import type { Artwork, Layer } from '../artwork/schema.ts'
import { atLevel, type Region } from '../base/region.ts'
import { about, moved, placed, reduction, inverse, scaled, times, toCorners, turned, type Matrix } from '../base/transform.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { openCv } from '../testing/opencv.ts'
import { compute, newTestEngine, stripGrid, testPicture } from '../testing/pictures.ts'
import { GraphCompiler } from './graph.ts'
import { reducedFromFull } from './host.ts'

// Layers laid elsewhere: exact where that is copying, against OpenCV and libvips where it is not, and the same bits however they are cut.

const [W, H] = [211, 150]
const asset = 'a'.repeat(64)
const smoothAsset = 'b'.repeat(64)
let kernels: Kernels
let sources: MemorySources
const plain = testPicture(W, H, 4)
/** Nothing in it is finer than a few pixels: filters that differ show the same of it. */
const smooth = new Uint8Array(W * H * 3)
for (let y = 0; y < H; y++)
  for (let x = 0; x < W; x++) {
    const i = (y * W + x) * 3
    smooth[i] = Math.round(128 + 110 * Math.sin(x / 17) * Math.cos(y / 23))
    smooth[i + 1] = Math.round((x / W) * 255)
    smooth[i + 2] = Math.round(128 + 100 * Math.cos((x + y) / 19))
  }
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 4, depth: 8 }, plain)
  await sources.add(kernels, smoothAsset, { width: W, height: H, channels: 3, depth: 8 }, smooth)
})

const laid = (matrix: Matrix, more: Partial<Layer> = {}): Layer => ({
  ...newLayer('Photo', { type: 'photo', asset, width: W, height: H }, [], 'p'),
  placement: { matrix: [...matrix], pivot: null },
  ...more,
})
const artwork = (layers: Layer[], sheet: Partial<Region> = {}): Artwork => {
  const made = artworkFromPhoto({ asset, width: W, height: H, title: 't' })
  return { ...made, sheet: { ...made.sheet, ...sheet }, layers }
}
const shown = async (layers: Layer[], sheet: Partial<Region> = {}, level = 0) =>
  (await compute(newTestEngine(kernels, sources), artwork(layers, sheet), { level })).pixels
const pixel = (p: Uint16Array, w: number, x: number, y: number) => [...p.subarray((y * w + x) * 4, (y * w + x) * 4 + 4)]
const CLEAR = [0, 0, 0, 0]
const same = (a: Uint16Array, aw: number, ax: number, ay: number, b: Uint16Array, bw: number, bx: number, by: number) =>
  [0, 1, 2, 3].every((c) => a[(ay * aw + ax) * 4 + c] === b[(by * bw + bx) * 4 + c])

describe('what is copied is exact', () => {
  // where the pixel (x, y) of the photo comes to lie
  const cases: [string, Matrix, (x: number, y: number) => [number, number]][] = [
    ['moved by whole pixels', moved(13, -7), (x, y) => [x + 13, y - 7]],
    ['turned by a quarter', times(moved(H, 0), turned(90)), (x, y) => [H - 1 - y, x]],
    ['turned by three quarters', times(moved(0, W), turned(270)), (x, y) => [y, W - 1 - x]],
    ['upside down', times(moved(W, H), turned(180)), (x, y) => [W - 1 - x, H - 1 - y]],
    ['flipped', about({ x: W / 2, y: 0 }, scaled(-1, 1)), (x, y) => [W - 1 - x, y]],
    ['flipped upright and moved', times(moved(5, H + 3), scaled(1, -1)), (x, y) => [x + 5, H + 2 - y]],
  ]
  test.each(cases)('%s', async (_, matrix, to) => {
    const still = await shown([laid([1, 0, 0, 0, 1, 0, 0, 0, 1])])
    const sheet = { x: -20, y: -20, w: 260, h: 260 }
    const got = await shown([laid(matrix)], sheet)
    let [seen, wrong] = [0, 0]
    for (let y = 0; y < H; y++) {
      for (let x = 0; x < W; x++) {
        const [u, v] = to(x, y)
        if (u < sheet.x || v < sheet.y || u >= sheet.x + sheet.w || v >= sheet.y + sheet.h) continue
        seen++
        if (!same(got, sheet.w, u - sheet.x, v - sheet.y, still, W, x, y)) wrong++
      }
    }
    expect(wrong).toBe(0)
    // and nothing beside it
    expect(got.filter((v, i) => i % 4 === 3 && v > 0).length).toBe(still.filter((v, i) => i % 4 === 3 && v > 0).length - (W * H - seen))
    expect(seen).toBeGreaterThan((W * H) / 2)
  })

  test('exactly half is halved, and half of that again, turned or not: no blur of resampling', async () => {
    const full = await shown([laid([1, 0, 0, 0, 1, 0, 0, 0, 1])], {}, 1)
    const half = await shown([laid(times(moved(9, 4), scaled(0.5)))])
    const [hw, hh] = [Math.ceil(W / 2), Math.ceil(H / 2)]
    let wrong = 0
    for (let y = 0; y < hh; y++) for (let x = 0; x < hw; x++) if (!same(half, W, x + 9, y + 4, full, hw, x, y)) wrong++
    const fourth = await shown([laid([1, 0, 0, 0, 1, 0, 0, 0, 1])], {}, 2)
    const [qw, qh] = [Math.ceil(W / 4), Math.ceil(H / 4)]
    const got = await shown([laid(times(moved(100, 30), times(turned(90), scaled(0.25))))])
    for (let y = 0; y < qh; y++) for (let x = 0; x < qw; x++) if (!same(got, W, 99 - y, 30 + x, fourth, qw, x, y)) wrong++
    expect(wrong).toBe(0)
  })

  test('a layer that lies where it lies by itself costs nothing', () => {
    const compile = (layers: Layer[]) => new GraphCompiler(artwork(layers), kernels.hash).compile({ type: 'artwork' })
    expect(compile([laid([2, 0, 0, 0, 2, 0, 0, 0, 2])])).toEqual(compile([laid([1, 0, 0, 0, 1, 0, 0, 0, 1])]))
    expect(compile([laid([1, 0, 0, 0, 1, 0, 0, 0, 1])]).kind).toBe('photo')
  })
})

/** Mean and largest difference of two RGB pictures where both cover, in 1/255, a few pixels from the border of what is covered. */
function apart(got: Uint16Array, want: ArrayLike<number>, channels: number, by: [number, number] = [0, 0], covers?: (x: number, y: number) => boolean) {
  let [sum, n, most] = [0, 0, 0]
  for (let y = 4; y < H - 4; y++) {
    for (let x = 4; x < W - 4; x++) {
      const inside = [-4, 0, 4].every((dy) => [-4, 0, 4].every((dx) => got[((y + dy) * W + x + dx) * 4 + 3] === 65535 && (covers?.(x + dx, y + dy) ?? true)))
      if (!inside) continue
      for (let c = 0; c < 3; c++) {
        const d = Math.abs(got[(y * W + x) * 4 + c]! / 257 - want[((y + by[1]) * W + x + by[0]) * channels + c]!)
        sum += d
        n++
        most = Math.max(most, d)
      }
    }
  }
  return { mean: sum / n, most, n }
}
const photoOf = (matrix: Matrix): Layer => laid(matrix, { source: { type: 'photo', asset: smoothAsset, width: W, height: H } })
const corners = toCorners({ x: 0, y: 0, w: W, h: H }, [
  { x: 20, y: 10 },
  { x: 190, y: -15 },
  { x: 230, y: 170 },
  { x: -8, y: 130 },
])!
/** OpenCV counts from the middle of pixels: its map is ours between half pixels. */
const fromMiddles = (m: Matrix): Matrix => times(moved(-0.5, -0.5), times(m, moved(0.5, 0.5)))

test.each([
  ['turned by 23°', placed({ x: 100, y: 70, scaleX: 1, scaleY: 1, angle: 23, slant: 0 }, { x: 105, y: 75 })],
  ['enlarged and slanted', placed({ x: 100, y: 70, scaleX: 1.7, scaleY: 1.2, angle: -12, slant: 20 }, { x: 105, y: 75 })],
  ['a little smaller, moved by parts of a pixel', placed({ x: 100.3, y: 70.8, scaleX: 0.9, scaleY: 0.8, angle: 190, slant: 0 }, { x: 105, y: 75 })],
  ['in perspective', corners],
])('as OpenCV warps it: %s', async (_, matrix) => {
  const got = await shown([photoOf(matrix)])
  const { cv } = await openCv()
  const source = cv.matFromArray(H, W, cv.CV_8UC3, smooth)
  const m = cv.matFromArray(3, 3, cv.CV_64FC1, [...fromMiddles(matrix)])
  const out = new cv.Mat()
  cv.warpPerspective(source, out, m, new cv.Size(W, H), cv.INTER_LINEAR, cv.BORDER_CONSTANT)
  const { mean, most, n } = apart(got, out.data, 3)
  for (const mat of [source, m, out]) mat.delete()
  expect(n).toBeGreaterThan(20000)
  // linear and cubic interpolation of a picture whose finest wave is 106 pixels long; OpenCV rounds to 8 bits, and places to 1/32 pixel
  expect(mean).toBeLessThan(0.5)
  expect(most).toBeLessThan(2)
})

test('as libvips lays it with its own cubic of the same family', async () => {
  const matrix = placed({ x: 100, y: 70, scaleX: 1.1, scaleY: 0.9, angle: 31, slant: 0 }, { x: 105, y: 75 })
  const got = await shown([photoOf(matrix)])
  // libvips cuts its output to what becomes of the picture: of the nine places it may begin at, one fits
  const { data, info } = await sharp(Buffer.from(smooth), { raw: { width: W, height: H, channels: 3 } })
    .affine([matrix[0], matrix[1], matrix[3], matrix[4]] as [number, number, number, number], { interpolator: 'bicubic', background: '#000' })
    .raw()
    .toBuffer({ resolveWithObject: true })
  let best = Infinity
  const left = Math.min(0, matrix[0] * W) + Math.min(0, matrix[1] * H)
  const top = Math.min(0, matrix[3] * W) + Math.min(0, matrix[4] * H)
  // whole pixels between its corner and ours; what is left of the way is less than one
  for (let dy = -2; dy <= 2; dy++) {
    for (let dx = -2; dx <= 2; dx++) {
      const [ox, oy] = [Math.round(matrix[2] + left) + dx, Math.round(matrix[5] + top) + dy]
      let [sum, n] = [0, 0]
      for (let y = 30; y < H - 30; y++)
        for (let x = 50; x < W - 50; x++) {
          const [u, v] = [x - ox, y - oy]
          if (u < 0 || v < 0 || u >= info.width || v >= info.height) continue
          for (let c = 0; c < 3; c++, n++) sum += Math.abs(got[(y * W + x) * 4 + c]! / 257 - data[(v * info.width + u) * info.channels + c]!)
        }
      if (n > 5000) best = Math.min(best, sum / n)
    }
  }
  // a part of a pixel of the way is left: at most half of one each way, of tones that change by 4 a pixel at most
  expect(best).toBeLessThan(2.5)
})

test('made smaller by more than half it is the mean of what it covers, as areas are', async () => {
  const got = await shown([photoOf(scaled(1 / 3))])
  for (let y = 4; y < 40; y += 5)
    for (let x = 4; x < 60; x += 5)
      for (let c = 0; c < 3; c++) {
        let sum = 0
        for (let j = 0; j < 3; j++) for (let i = 0; i < 3; i++) sum += smooth[((y * 3 + j) * W + x * 3 + i) * 3 + c]!
        expect(Math.abs(got[(y * W + x) * 4 + c]! / 257 - sum / 9)).toBeLessThan(1.5)
      }
})

test('an opaque picture keeps its colours up to its border, which alone is soft', async () => {
  const fill = newLayer('Fill', { type: 'fill', colour: '#c86414', alpha: 1 }, [], 'f')
  const got = await shown([
    { ...fill, placement: { matrix: [...placed({ x: 100, y: 70, scaleX: 0.5, scaleY: 0.6, angle: 20, slant: 0 }, { x: 105, y: 75 })], pivot: null } },
  ])
  let [soft, far] = [0, 0]
  for (let i = 0; i < W * H; i++) {
    const alpha = got[i * 4 + 3]!
    if (alpha < 2000) continue
    if (alpha < 65535) soft++
    ;[0xc8, 0x64, 0x14].forEach((v, c) => (far = Math.max(far, Math.abs(got[i * 4 + c]! / 257 - v))))
  }
  expect(far).toBeLessThan(0.3)
  expect(soft).toBeGreaterThan(100)
  expect(soft).toBeLessThan(1500)
})

describe('threshold and a screen, laid at a third, turned by a tenth of a degree, in perspective', () => {
  const cases: [string, Matrix][] = [
    ['a third', placed({ x: 40.4, y: 20, scaleX: 1 / 3, scaleY: 1 / 3, angle: 0, slant: 0 }, { x: 0, y: 0 })],
    ['0.1°', placed({ x: 105, y: 75, scaleX: 1, scaleY: 1, angle: 0.1, slant: 0 }, { x: 105, y: 75 })],
    ['upside down and smaller', placed({ x: 105, y: 75, scaleX: 0.7, scaleY: 0.8, angle: 171, slant: 4 }, { x: 105, y: 75 })],
    ['perspective', corners],
    ['perspective to a horizon', [1.1, 0.2, -20, 0.1, 0.9, 8, 0.0008, 0.006, 1]],
    ['perspective beyond its horizon', [1, 0, -100, 0.1, 1.9, -190, 0, 0.01, -0.4]],
  ]
  const chain = () => [newStep('gaussian-blur', { sigma: { value: 2, unit: 'px' } }, 's1'), newStep('threshold', {}, 's2')]
  test.each(cases)('%s: strips, tiles and little memory make the same bits, and so does a settled view', async (_, matrix) => {
    const work = artwork([laid([1, 0, 0, 0, 1, 0, 0, 0, 1]), { ...laid(matrix, { chain: chain(), blend: 'multiply' }), id: 'q' }])
    const whole = await compute(newTestEngine(kernels, sources), work)
    const seen = whole.pixels.filter((v, i) => i % 4 === 0 && v < 40000).length
    expect(seen).toBeGreaterThan(200)
    for (const grid of [stripGrid(7), stripGrid(64), { w: 64, h: 64 }, { w: 33, h: 200 }])
      expect(
        Buffer.compare(Buffer.from((await compute(newTestEngine(kernels, sources), work, { grid })).pixels.buffer), Buffer.from(whole.pixels.buffer)),
      ).toBe(0)
    // so little that whole rows of what is turned do not fit
    for (const bytes of [400_000, 90_000])
      expect(Buffer.compare(Buffer.from((await compute(newTestEngine(kernels, sources, bytes), work)).pixels.buffer), Buffer.from(whole.pixels.buffer))).toBe(0)
    for (const piece of [900, 5000])
      expect(
        Buffer.compare(Buffer.from((await compute(newTestEngine(kernels, sources), work, { piece })).pixels.buffer), Buffer.from(whole.pixels.buffer)),
      ).toBe(0)
    const node = new GraphCompiler(work, kernels.hash).compile({ type: 'artwork' })
    const at = (engine = newTestEngine(kernels, sources)) => reducedFromFull(engine, node, 1, atLevel(work.sheet, 1), work.sheet, { cancelled: false })
    // made of the whole picture's own pixels
    const settled = new Uint8Array(await at())
    const half = halfOf(whole.pixels)
    let most = 0
    // pixels at the sheet's own border are means of what lies beyond it too
    const wide = Math.ceil(W / 2)
    settled.forEach((v, i) => {
      if ((i >> 2) % wide < wide - 1 && i >> 2 < wide * (Math.ceil(H / 2) - 1)) most = Math.max(most, Math.abs(v - half[i]!))
    })
    expect(most).toBeLessThanOrEqual(1)
    expect(Buffer.compare(Buffer.from(settled), Buffer.from(await at(newTestEngine(kernels, sources, 200_000))))).toBe(0)
  })
})

/** Means of 2 × 2 opaque pixels, 8 bits. */
function halfOf(p: Uint16Array): Float64Array {
  const [w, h] = [Math.ceil(W / 2), Math.ceil(H / 2)]
  const out = new Float64Array(w * h * 4)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let alpha = 0
      const sum = [0, 0, 0]
      for (const [i, j] of [
        [0, 0],
        [1, 0],
        [0, 1],
        [1, 1],
      ] as const) {
        const at = (Math.min(H - 1, y * 2 + j) * W + Math.min(W - 1, x * 2 + i)) * 4
        alpha += p[at + 3]!
        for (let c = 0; c < 3; c++) sum[c]! += p[at + c]! * p[at + 3]!
      }
      for (let c = 0; c < 3; c++) out[(y * w + x) * 4 + c] = alpha ? sum[c]! / alpha / 257 : 0
      out[(y * w + x) * 4 + 3] = alpha / 4 / 257
    }
  return out
}

describe('what is in which space', () => {
  const move = moved(31, 17)
  const shape = { type: 'photo', asset, width: W, height: H } as const
  test('live copies read a layer where it lies by itself, and lie where their own placement says', async () => {
    const first = { ...laid(times(moved(7, 3), turned(90))), chain: [newStep('invert', {}, 'i')], visible: false }
    const copy = {
      ...newLayer('Copy', { type: 'live', layer: 'p' }, [], 'copy'),
      placement: { matrix: [...move] as Layer['placement']['matrix'], pivot: null },
    }
    expect(await shown([first, copy])).toEqual(await shown([laid(move, { chain: [newStep('invert', {}, 'i')] })]))
  })

  test('steps that act on paper come after the placement: grain and screens are not moved with the layer', async () => {
    const grain = newStep('add-grain', {}, 'h')
    const got = await shown([laid(move, { chain: [newStep('invert', {}, 'i'), grain] })])
    // the same grain over what was moved, by a layer of what lies below
    const apartFrom = await shown([laid(move, { chain: [newStep('invert', {}, 'i')] }), newLayer('Below', { type: 'below' }, [grain], 'b')])
    expect(got).toEqual(apartFrom)
    // and it is not simply the picture that is moved with its grain
    const moves = await shown(
      [
        newLayer(
          'Group',
          { type: 'group', isolated: true, layers: [laid([1, 0, 0, 0, 1, 0, 0, 0, 1], { chain: [newStep('invert', {}, 'i'), grain] })] },
          [],
          'g',
        ),
      ].map((l) => ({ ...l, placement: { matrix: [...move] as Layer['placement']['matrix'], pivot: null } })),
    )
    expect(Buffer.compare(Buffer.from(moves.buffer), Buffer.from(got.buffer))).not.toBe(0)
  })

  test('a placed group is a picture of its own, and what stands in it is laid twice', async () => {
    const inside = laid(scaled(0.5), { id: 'in' })
    const group = {
      ...newLayer('Group', { type: 'group' as const, isolated: false, layers: [inside] }, [], 'g'),
      placement: { matrix: [...moved(40, 10)] as Layer['placement']['matrix'], pivot: null },
    }
    expect(await shown([group])).toEqual(await shown([laid(times(moved(40, 10), scaled(0.5)))]))
  })

  test('a mask rides with its layer, or stays on the sheet; and a step’s mask too', async () => {
    // a live mask of a photo’s alpha, cut to a quarter by a layer’s own place
    const hidden = { ...newLayer('Mask', shape, [], 'm'), visible: false }
    const mask = (stays: boolean): Layer['mask'] => ({
      plane: null,
      start: 'full',
      live: { layer: 'm', by: 'alpha' },
      stays,
      turnedRound: false,
      edge: { move: 0, unit: 'px', soften: { value: 0, unit: 'px' } },
      strength: 1,
      thins: false,
    })
    const rides = await shown([hidden, laid(move, { mask: mask(false) })])
    const stays = await shown([hidden, laid(move, { mask: mask(true) })])
    const still = await shown([hidden, laid([1, 0, 0, 0, 1, 0, 0, 0, 1], { mask: mask(false) })])
    // riding: the whole is moved
    for (const [x, y] of [
      [60, 60],
      [100, 80],
      [150, 100],
    ] as const)
      expect(pixel(rides, W, x + 31, y + 17)).toEqual(pixel(still, W, x, y))
    expect(Buffer.compare(Buffer.from(rides.buffer), Buffer.from(stays.buffer))).not.toBe(0)
    // staying: alpha is that of the picture times that of the mask where the sheet has it
    const own = await shown([laid(move)])
    const by = await shown([newLayer('Mask', shape, [], 'm2')])
    for (const [x, y] of [
      [60, 60],
      [100, 80],
      [150, 100],
      [40, 120],
    ] as const) {
      const want = (pixel(own, W, x, y)[3]! / 65535) * (pixel(by, W, x, y)[3]! / 65535)
      expect(pixel(stays, W, x, y)[3]! / 65535).toBeCloseTo(want, 3)
    }
    // a step before the placement: its mask that stays is brought to where the step runs
    const step = (m: Layer['mask']) => [{ ...newStep('invert', {}, 'i'), mask: m }]
    const stepRides = await shown([hidden, laid(move, { chain: step(mask(false)) })])
    const stepStill = await shown([hidden, laid([1, 0, 0, 0, 1, 0, 0, 0, 1], { chain: step(mask(false)) })])
    for (const [x, y] of [
      [60, 60],
      [100, 80],
    ] as const)
      expect(pixel(stepRides, W, x + 31, y + 17)).toEqual(pixel(stepStill, W, x, y))
    const stepStays = await shown([hidden, laid(move, { chain: step(mask(true)) })])
    const plainMoved = await shown([laid(move)])
    for (const [x, y] of [
      [60, 60],
      [120, 80],
    ] as const) {
      const a = pixel(by, W, x, y)[3]! / 65535
      const v = pixel(plainMoved, W, x, y)[0]!
      expect(Math.abs(pixel(stepStays, W, x, y)[0]! - (v * (1 - a) + (65535 - v) * a))).toBeLessThan(40)
    }
  })

  test('the photo laid under for comparing is where its layer and the groups it stands in lay it', async () => {
    const photo = laid(times(moved(5, 9), scaled(0.5)))
    const group = {
      ...newLayer('Group', { type: 'group' as const, isolated: true, layers: [photo] }, [], 'g'),
      placement: { matrix: [...times(moved(W, 0), scaled(-1, 1))] as Layer['placement']['matrix'], pivot: null },
    }
    const { pixels } = await compute(newTestEngine(kernels, sources), artwork([group]), { target: { type: 'photo' } })
    const direct = await shown([laid(times(times(moved(W, 0), scaled(-1, 1)), times(moved(5, 9), scaled(0.5))))])
    expect(pixels).toEqual(direct)
  })

  test('what is laid wholly beyond the horizon, or beyond all pixels, is nothing', async () => {
    for (const m of [[1, 0, 0, 0, 1, 0, 0, 0, -1] as Matrix, [1, 0, 1e9, 0, 1, 0, 0, 0, 1] as Matrix])
      expect(pixel(await shown([laid(m)]), W, 10, 10)).toEqual(CLEAR)
  })
})

test('how much smaller a perspective makes a picture is reckoned alike in the kernel and outside', () => {
  const back = inverse(corners)!
  // a grid of nearby places: the larger singular value bounds how far apart they come, and some way reaches it
  for (const at of [
    { x: 50, y: 50 },
    { x: 150, y: 100 },
  ]) {
    const d = 1e-4
    let most = 0
    for (let a = 0; a < 360; a += 2) {
      const q = { x: at.x + d * Math.cos((a * Math.PI) / 180), y: at.y + d * Math.sin((a * Math.PI) / 180) }
      const to = (p: { x: number; y: number }) => {
        const w = back[6] * p.x + back[7] * p.y + back[8]
        return [(back[0] * p.x + back[1] * p.y + back[2]) / w, (back[3] * p.x + back[4] * p.y + back[5]) / w] as const
      }
      const [p0, p1] = [to(at), to(q)]
      most = Math.max(most, Math.hypot(p1[0] - p0[0], p1[1] - p0[1]) / d)
    }
    expect(most).toBeCloseTo(reduction(back, at), 2)
  }
})
