import { createCanvas } from '@napi-rs/canvas'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { CLEAR, emptyPlane, FULL } from '../planes/plane.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { paintStroke, samplesOf, type PaintOptions } from '../testing/painting.ts'
import { dice, newTestEngine } from '../testing/pictures.ts'
import type { Engine } from '../engine/engine.ts'
import type { Sample } from './path.ts'
import { tipIds } from './tips.ts'
import { wayOf } from './dabs.ts'

let kernels: Kernels
let sources: MemorySources
let engine: Engine
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  engine = newTestEngine(kernels, sources)
})

/** What a stroke leaves, as codes of one channel (or RGBA) of a square from 0, 0. */
async function painted(samples: readonly Sample[], options: PaintOptions = {}, side = 256): Promise<{ codes: Uint16Array; index: string }> {
  const { plane, index } = await paintStroke(engine, sources, samples, options)
  const codes = new Uint16Array(side * side * 4)
  await kernels.scratch(side * side * 8, () => undefined)
  const ptr = kernels.allocator.alloc(side * side * 8)
  const pause = async () => undefined
  await engine.planes.read(
    { plane, blank: options.blank ?? '=0000' },
    0,
    { ptr, stride: side * 8, region: { x: 0, y: 0, w: side, h: side } },
    { signal: { cancelled: false }, quick: false, alone: false, frozen: false, lends: false, pause },
  )
  codes.set(kernels.u16(ptr, side * side * 4))
  kernels.allocator.free(ptr)
  return { codes, index }
}
const at = (codes: Uint16Array, x: number, y: number, channel = 0, side = 256) => codes[(y * side + x) * 4 + channel]!

/** A stroke that wanders over a square, at a rate of samples a second. */
function wandering(hertz: number, seconds = 1.2): Sample[] {
  const places: [number, number, number][] = []
  for (let i = 0; i <= seconds * hertz; i++) {
    const t = i / hertz
    places.push([128 + 90 * Math.sin(t * 4.1), 128 + 80 * Math.sin(t * 5.7 + 1), 0.55 + 0.4 * Math.sin(t * 3)])
  }
  return samplesOf(places, 1000 / hertz)
}

describe('cover', () => {
  const dabs = async (n: number, cover: number, most = 1) => {
    // taps on one place: each stroke of one dab, on the plane before
    let plane = emptyPlane(1)
    for (let i = 0; i < n; i++) ({ plane } = await paintStroke(engine, sources, samplesOf([[100, 100]]), { plane, brush: { cover, most } }))
    const entry = plane.pages.get('0,0')!.get(0)!
    const tile = await engine.planes.tile(entry, 1)
    const code = kernels.u16(tile.ptr + (100 * 256 + 100) * 2, 1)[0]!
    tile.done()
    return code / 65535
  }
  /** A line so dense that n dabs lie on one place: one stroke there and back within a pixel. */
  const held = async (n: number, cover: number, most = 1) => {
    const brush = { cover, most, breadth: 6, edge: 1 }
    // half a pixel a dab: n of them within a breadth of the middle
    const samples = samplesOf(Array.from({ length: n }, (_, i) => [100 + (i % 2 ? 0.5 : 0), 100]))
    const { codes } = await painted(samples, { brush })
    return at(codes, 100, 100) / 65535
  }

  it.each([
    [1, 0.02],
    [10, 0.02],
    [50, 0.02],
    [5, 0.3],
  ])('of %i strokes of one dab at %f reaches 1 − (1 − f)ⁿ', async (n, f) => {
    // each stroke is merged into 16 bits: half a code each
    expect(await dabs(n, f)).toBeCloseTo(1 - (1 - f) ** n, 3)
  })

  it('of 275 dabs at 2 % in one stroke is 99.6 %, and none is lost in rounding', async () => {
    const reached = await held(275 * 2, 0.02)
    expect(reached).toBeGreaterThan(0.996 - 0.001)
  })

  it('stops at what a stroke may reach at most, and another stroke goes on from there', async () => {
    const samples = samplesOf(Array.from({ length: 40 }, (_, i) => [60 + i * 3, 100]))
    const first = await painted(samples, { brush: { cover: 1, most: 0.4 } })
    expect(at(first.codes, 120, 100) / 65535).toBeCloseTo(0.4, 4)
    const { plane } = await paintStroke(engine, sources, samples, { brush: { cover: 1, most: 0.4 } })
    const second = await painted(samples, { plane, brush: { cover: 1, most: 0.4 } })
    expect(at(second.codes, 120, 100) / 65535).toBeCloseTo(1 - 0.6 ** 2, 4)
  })
})

describe('a dab', () => {
  it('has the profile it says: full within, 3t² − 2t³ to its rim', async () => {
    const { codes } = await painted(samplesOf([[128, 128]]), { brush: { tip: 'soft', edge: 0.4, breadth: 100 } })
    for (const x of [128, 140, 150, 160, 170, 176]) {
      const d = Math.hypot(x + 0.5 - 128, 0.5) / 50
      const t = Math.min(1, Math.max(0, (1 - d) / 0.6))
      expect(at(codes, x, 128) / 65535).toBeCloseTo(t * t * (3 - 2 * t), 3)
    }
  })

  it('with a firm rim covers as Skia fills a circle', async () => {
    const { codes } = await painted(samplesOf([[120.3, 131.6]]), { brush: { tip: 'firm', edge: 1, breadth: 90 } })
    // eight times as large and averaged: Skia rounds rows of its own
    const canvas = createCanvas(2048, 2048)
    const context = canvas.getContext('2d')
    context.fillStyle = '#fff'
    context.beginPath()
    // the rim of the dab lies where its profile is a half
    context.arc(120.3 * 8, 131.6 * 8, 44.5 * 8, 0, 2 * Math.PI)
    context.fill()
    const large = context.getImageData(0, 0, 2048, 2048).data
    const skia = new Float64Array(256 * 256)
    for (let y = 0; y < 2048; y++) for (let x = 0; x < 2048; x++) skia[(y >> 3) * 256 + (x >> 3)]! += large[(y * 2048 + x) * 4 + 3]! / 255 / 64
    let far = 0
    let sum = 0
    for (let i = 0; i < 256 * 256; i++) {
      const d = codes[i * 4]! / 65535 - skia[i]!
      far = Math.max(far, Math.abs(d))
      sum += d
    }
    // one is a smooth step over a pixel, the other an area: rims differ, discs do not
    expect(far).toBeLessThan(0.2)
    expect(Math.abs(sum) / (Math.PI * 45 ** 2)).toBeLessThan(0.002)
  })

  it.each([0.7, 0.85])('with a soft rim that is narrow beside its radius covers as a disc that Skia blurs, whose rim is as steep (edge %f)', async (edge) => {
    const radius = 60
    const { codes } = await painted(samplesOf([[128, 128]]), { brush: { tip: 'soft', edge, breadth: 2 * radius } })
    const canvas = createCanvas(256, 256)
    const context = canvas.getContext('2d')
    // 3t² − 2t³ over w rises by 1.5 / w in its middle, a Gaussian edge by 1 / (σ √(2π))
    const w = radius * (1 - edge)
    context.filter = `blur(${w / 1.5 / Math.sqrt(2 * Math.PI)}px)`
    context.fillStyle = '#fff'
    context.beginPath()
    context.arc(128, 128, radius - w / 2, 0, 2 * Math.PI)
    context.fill()
    const skia = context.getImageData(0, 0, 256, 256).data
    const [ours, theirs] = [0, 0].map(() => new Float64Array(256 * 256)) as [Float64Array, Float64Array]
    for (let i = 0; i < 256 * 256; i++) [ours[i], theirs[i]] = [codes[i * 4]! / 65535, skia[i * 4 + 3]! / 255]
    const sum = (a: Float64Array) => a.reduce((s, v) => s + v, 0)
    expect(Math.max(...ours.map((v, i) => Math.abs(v - theirs[i]!)))).toBeLessThan(0.06)
    expect(sum(ours.map((v, i) => Math.abs(v - theirs[i]!))) / sum(theirs)).toBeLessThan(0.03)
    expect(Math.abs(sum(ours) / sum(theirs) - 1)).toBeLessThan(0.02)
  })
})

describe('a stroke', () => {
  it('is the same however its samples come in, for every tip', async () => {
    const next = dice(5)
    const samples = wandering(120)
    for (const tip of tipIds) {
      const options = { brush: { tip, breadth: 37, cover: 0.2, edge: 0.3, regularity: 0.7, dry: 9, tooth: 0.3, hairs: 0.8, steadiness: 0.4 } }
      const whole = await painted(samples, options)
      const cut = await painted(samples, { ...options, portions: () => 1 + Math.floor(next() * 7) })
      expect(cut.index).toBe(whole.index)
    }
  })

  it.each([60, 240])('of %i samples a second is the one of 120', async (hertz) => {
    const options = {
      brush: { tip: 'soft' as const, breadth: 30, cover: 0.15, edge: 0.3, pressure: { breadth: 0.5, cover: 0.5, response: 'gentle' as const } },
    }
    const a = (await painted(wandering(120), options)).codes
    const b = (await painted(wandering(hertz), options)).codes
    let off = 0
    let mean = [0, 0]
    for (let i = 0; i < a.length; i += 4) {
      off += Math.abs(a[i]! - b[i]!)
      mean = [mean[0]! + a[i]!, mean[1]! + b[i]!]
    }
    const covered = a.filter((v, i) => i % 4 === 0 && v > 655).length
    expect(Math.abs(mean[0]! - mean[1]!) / covered / 65535).toBeLessThan(2 / 255)
    expect(off / covered / 65535).toBeLessThan(5 / 255)
  })

  it('dries', async () => {
    const line = samplesOf(Array.from({ length: 60 }, (_, i) => [20 + i * 3.6, 60]))
    const { codes } = await painted(line, { brush: { tip: 'dry-bristle', breadth: 24, dry: 7, cover: 0.6 } })
    const share = (x: number) => Array.from({ length: 24 }, (_, j) => at(codes, x, 48 + j)).reduce((a, b) => a + b) / 24 / 65535
    expect(share(60)).toBeGreaterThan(0.25)
    expect(share(60)).toBeGreaterThan(share(150) + 0.1)
    expect(share(205)).toBe(0)
  })

  it('is held by pressure', async () => {
    const line = (p: number) =>
      samplesOf([
        [40, 60, p],
        [100, 60, p],
        [160, 60, p],
      ])
    const brush = { breadth: 40, pressure: { breadth: 1, cover: 0, response: 'even' as const } }
    const light = (await painted(line(0.3), { brush })).codes
    const heavy = (await painted(line(1), { brush })).codes
    const breadth = (codes: Uint16Array) => Array.from({ length: 100 }, (_, j) => at(codes, 100, 10 + j)).filter((v) => v > 32768).length
    expect(breadth(heavy)).toBeGreaterThanOrEqual(38)
    // 5 % and 95 % of 0.3
    expect(breadth(light) / breadth(heavy)).toBeCloseTo(0.335, 1)
  })

  it('lags on its string and ends where the brush is', async () => {
    const line = samplesOf(Array.from({ length: 50 }, (_, i) => [30 + i * 3, 80 + (i % 2 ? 6 : -6)]))
    const brush = { breadth: 8, cover: 1 }
    const rough = (await painted(line, { brush })).codes
    const steady = (await painted(line, { brush: { ...brush, steadiness: 3 } })).codes
    const spread = (codes: Uint16Array) => Array.from({ length: 60 }, (_, j) => at(codes, 90, 50 + j)).filter((v) => v > 0).length
    expect(spread(steady)).toBeLessThan(spread(rough))
  })

  it('catches on the heights of the paper that the artwork has, where pigment lies first', async () => {
    const paper = { pitch: 6, seed: 7 }
    const line = samplesOf(Array.from({ length: 40 }, (_, i) => [20 + i * 5, 120]))
    const { codes } = await painted(line, { brush: { breadth: 80, tooth: 1, cover: 1, edge: 1 }, paper })
    // the step Paper tooth lays a middle tone on its peaks: where the brush caught
    const through = new Uint16Array(256 * 256 * 4)
    const ptr = kernels.allocator.alloc(256 * 256 * 8)
    kernels.raw.fillRect(ptr, 256 * 8, 256, 256, BigInt.asIntN(64, 0xffff_8000_8000_8000n))
    kernels.raw.tooth(ptr, 256 * 8, ptr, 256 * 8, 256, 256, 0, 0, 1, 1 / paper.pitch, 1, 0.05, 0, 1, 0, 1, 1, paper.seed, 1, 0, 0, 0)
    through.set(kernels.u16(ptr, through.length))
    kernels.allocator.free(ptr)
    let [both, one] = [0, 0]
    for (let y = 100; y < 140; y++)
      for (let x = 60; x < 200; x++) {
        const caught = at(codes, x, y) > 32768
        const dark = at(through, x, y) < 32768
        if (caught && dark) both++
        else if (caught !== dark) one++
      }
    expect(both).toBeGreaterThan(2500)
    // one takes a little more of the flanks than the other
    expect(one / (both + one)).toBeLessThan(0.4)
    const flat = (await painted(line, { brush: { breadth: 80, tooth: 0, cover: 1, edge: 1 }, paper })).codes
    expect(at(flat, 120, 120)).toBe(65535)
  })

  it('repeats itself by symmetry', async () => {
    const line = samplesOf([
      [30, 40],
      [60, 90],
      [100, 60],
    ])
    const mirrored = (await painted(line, { symmetry: { type: 'mirror', x: 128, y: 128, angle: 90 } })).codes
    for (const [x, y] of [
      [60, 88],
      [45, 70],
      [90, 66],
      [10, 10],
    ] as const)
      expect(Math.abs(at(mirrored, x, y) - at(mirrored, 255 - x, y))).toBeLessThanOrEqual(2)
    const round = (await painted(line, { symmetry: { type: 'round', x: 128, y: 128, n: 4 } })).codes
    // a quarter turn about 128, 128 takes the middle of pixel (x, y) to that of (255 − y, x)
    for (const [x, y] of [
      [60, 88],
      [45, 70],
      [90, 66],
      [10, 10],
    ] as const)
      expect(Math.abs(at(round, x, y) - at(round, 255 - y, x))).toBeLessThanOrEqual(2)
  })

  it('lays colour by source-over, and takes it away', async () => {
    const colour = 0x0000_4000_8000n | (0xc000n << 32n)
    const once = { plane: emptyPlane(4), blank: CLEAR, laying: { type: 'paint' as const, colour }, brush: { cover: 0.5 } }
    const tap = samplesOf([[100, 100]])
    const { plane } = await paintStroke(engine, sources, tap, once)
    const { codes } = await painted(tap, { ...once, plane, laying: { type: 'paint', colour: 0n } })
    // half of half a colour under half black: alpha 3/4, colour a third of it
    expect(at(codes, 100, 100, 3) / 65535).toBeCloseTo(0.75, 4)
    expect(at(codes, 100, 100, 0) / 0x8000).toBeCloseTo(1 / 3, 3)
    expect(at(codes, 100, 100, 2) / 0xc000).toBeCloseTo(1 / 3, 3)
    const wiped = await painted(tap, { ...once, plane, laying: { type: 'erase' }, brush: { cover: 1 } })
    expect([0, 1, 2, 3].map((c) => at(wiped.codes, 100, 100, c))).toEqual([0, 0, 0, 0])
  })

  it('picks up the colour of the paint it goes over, and smears where it has none of its own', async () => {
    const red = 0x0000_0000_ffffn
    const blue = 0xffff_0000_0000n
    const ground = await paintStroke(
      engine,
      sources,
      samplesOf([
        [40, 100],
        [110, 100],
      ]),
      { plane: emptyPlane(4), blank: CLEAR, laying: { type: 'paint', colour: red }, brush: { breadth: 60 } },
    )
    const across = samplesOf(Array.from({ length: 30 }, (_, i) => [60 + i * 5, 100]))
    const over = (pickUp: number) =>
      painted(across, { plane: ground.plane, blank: CLEAR, laying: { type: 'paint', colour: blue }, brush: { breadth: 20, pickUp, cover: 0.6 } })
    const [none, some, all] = [(await over(0)).codes, (await over(0.1)).codes, (await over(1)).codes]
    // beyond the red: blue alone; red carried along, ever less of it; red only
    expect(at(none, 180, 100, 0)).toBe(0)
    expect(at(some, 150, 100, 0)).toBeGreaterThan(at(none, 150, 100, 0) + 3000)
    expect(at(all, 180, 100, 0)).toBeGreaterThan(60000)
    expect(at(all, 180, 100, 2)).toBeLessThan(3000)
    const next = dice(8)
    const cut = await painted(across, {
      plane: ground.plane,
      blank: CLEAR,
      laying: { type: 'paint', colour: blue },
      brush: { breadth: 20, pickUp: 0.1, cover: 0.6 },
      portions: () => 1 + Math.floor(next() * 4),
    })
    expect(cut.index).toBe((await over(0.1)).index)
  })

  it('leaves no tile where it changed nothing, and a constant one as a value', async () => {
    const tap = samplesOf([[128, 128]])
    const none = await paintStroke(engine, sources, tap, { blank: FULL })
    expect([...none.plane.pages]).toEqual([])
    expect(none.damage.w).toBe(0)
    const all = await paintStroke(engine, sources, tap, { brush: { breadth: 900 } })
    expect(all.plane.pages.get('0,0')!.get(0)).toBe('=ffff')
  })

  it('is refused beyond reason, and gives its memory back when given up', async () => {
    const many = Array.from({ length: 200_001 }, (_, i) => ({ x: i, y: 0, t: 0, p: 1023, tiltX: 0, tiltY: 0 }))
    await expect(paintStroke(engine, sources, many)).rejects.toMatchObject({ code: 'paint-refused' })
  })
})

it('angles by series are those of the host', () => {
  for (const degrees of [-170, -90, -33, 0, 12.5, 45, 90, 133, 180, 271]) {
    const [cos, sin] = wayOf(degrees)
    expect(cos).toBeCloseTo(Math.cos((degrees * Math.PI) / 180), 12)
    expect(sin).toBeCloseTo(-Math.sin((degrees * Math.PI) / 180), 12)
  }
})
