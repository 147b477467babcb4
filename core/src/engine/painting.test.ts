import { artworkFromPhoto } from '../artwork/load.ts'
import { newLayer, newStep } from '../artwork/layers.ts'
import { newMask } from '../artwork/planes.ts'
import type { Artwork } from '../artwork/schema.ts'
import { atLevel, union, type Region } from '../base/region.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { CLEAR, emptyPlane, FULL, NEUTRAL } from '../planes/plane.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { openCv } from '../testing/opencv.ts'
import { paintStroke, samplesOf } from '../testing/painting.ts'
import { compute, computeNode, dice, newTestEngine, testPicture } from '../testing/pictures.ts'
import { reducedFromFull } from './host.ts'
import type { Engine } from './engine.ts'
import { GraphCompiler } from './graph.ts'
import { stopsOf } from './light.ts'

const asset = 'c'.repeat(64)
const W = 700
const H = 500
let kernels: Kernels
let sources: MemorySources
let engine: Engine
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 3, depth: 8 }, testPicture(W, H))
  engine = newTestEngine(kernels, sources)
})
const within = { x: 0, y: 0, w: W, h: H }

const photo = (): Artwork => artworkFromPhoto({ asset, width: W, height: H, title: 't' })
/** Two layers: the photo, and it inverted, with a mask. */
function masked(mask: Partial<NonNullable<Artwork['layers'][number]['mask']>>): Artwork {
  const a = photo()
  a.layers.push(newLayer('Inverted', { type: 'photo', asset, width: W, height: H }, [newStep('invert')], 'top'))
  a.layers[1]!.mask = { ...newMask('empty'), ...mask }
  return a
}
const curve = samplesOf(Array.from({ length: 30 }, (_, i) => [80 + i * 18, 240 + 120 * Math.sin(i / 4)]))
const soft = { tip: 'soft' as const, breadth: 150, edge: 0.2, cover: 0.4 }
const paintMask = () => paintStroke(engine, sources, curve, { within, brush: soft })

/** What a mask comes to, as codes, by showing it in the alpha of a white layer over nothing. */
async function maskCodes(mask: Artwork['layers'][number]['mask'], edit: (a: Artwork) => void = () => undefined): Promise<Uint16Array> {
  const a = photo()
  a.layers = [newLayer('White', { type: 'fill', colour: '#ffffff', alpha: 1 }, [], 'white')]
  a.layers[0]!.mask = mask
  edit(a)
  const { pixels } = await compute(engine, a)
  return Uint16Array.from({ length: W * H }, (_, i) => pixels[i * 4 + 3]!)
}

describe('a mask', () => {
  it('lets a layer act as far as it was painted: below + (above − below) · mask', async () => {
    const { index } = await paintMask()
    const below = (await compute(engine, photo())).pixels
    const { pixels } = await compute(engine, masked({ plane: { index, channels: 1 } }))
    const mask = await maskCodes({ ...newMask('empty'), plane: { index, channels: 1 } })
    expect(mask.some((v) => v > 60000)).toBe(true)
    let far = 0
    for (let i = 0; i < W * H; i++) {
      for (let c = 0; c < 3; c++) {
        const b = below[i * 4 + c]!
        far = Math.max(far, Math.abs(pixels[i * 4 + c]! - (b + (65535 - 2 * b) * (mask[i]! / 65535))))
      }
    }
    expect(far).toBeLessThanOrEqual(1)
  })

  it('starts full or empty, is turned round and weakened', async () => {
    const { index, plane } = await paintMask()
    const given = { plane: { index, channels: 1 as const } }
    const m = await maskCodes({ ...newMask('empty'), ...given })
    const turned = await maskCodes({ ...newMask('empty'), ...given, turnedRound: true })
    const weak = await maskCodes({ ...newMask('empty'), ...given, strength: 0.25 })
    // painted on empty, read as if the blank were full: only where nothing was painted it differs
    expect(plane.pages.size).toBe(1)
    for (let i = 0; i < W * H; i += 97) {
      expect(Math.abs(turned[i]! - (65535 - m[i]!))).toBeLessThanOrEqual(1)
      expect(Math.abs(weak[i]! - (65535 - 0.25 * (65535 - m[i]!)))).toBeLessThanOrEqual(1)
    }
    expect((await maskCodes(newMask('empty'))).every((v) => v === 0)).toBe(true)
    expect((await maskCodes(newMask('full'))).every((v) => v === 65535)).toBe(true)
  })

  it('of a step brings it where it was painted: its pixels there, its input elsewhere', async () => {
    const { index } = await paintStroke(engine, sources, samplesOf([[300, 250]]), { within, brush: { breadth: 120 } })
    const a = photo()
    a.layers[0]!.chain = [{ ...newStep('threshold'), mask: { ...newMask('empty'), plane: { index, channels: 1 } } }]
    const bare = photo()
    bare.layers[0]!.chain = [newStep('threshold')]
    const [shown, input, result] = [(await compute(engine, a)).pixels, (await compute(engine, photo())).pixels, (await compute(engine, bare)).pixels]
    const at = (p: Uint16Array, x: number, y: number) => [...p.subarray((y * W + x) * 4, (y * W + x) * 4 + 4)]
    expect(at(shown, 300, 250)).toEqual(at(result, 300, 250))
    expect(at(shown, 340, 270)).toEqual(at(result, 340, 270))
    expect(at(shown, 400, 250)).toEqual(at(input, 400, 250))
  })

  it('is kept live from another layer, by what it covers or by its tones', async () => {
    const edit = (a: Artwork) => {
      const source = newLayer('Photo', { type: 'photo', asset, width: W, height: H }, [newStep('threshold')], 'from')
      a.layers.unshift({ ...source, visible: false })
    }
    const tones = await maskCodes({ ...newMask('empty'), live: { layer: 'from', by: 'tones' } }, edit)
    const bare = photo()
    bare.layers[0]!.chain = [newStep('threshold')]
    const { pixels } = await compute(engine, bare)
    for (let i = 0; i < W * H; i += 31) expect(tones[i]).toBe(pixels[i * 4])
    const cover = await maskCodes({ ...newMask('empty'), live: { layer: 'from', by: 'alpha' } }, edit)
    expect(cover.every((v) => v === 65535)).toBe(true)
  })

  it.each([
    [7, false],
    [12.4, true],
  ])('has its edge moved by %f as OpenCV dilates and erodes by the disc', async (by, inwards) => {
    const { cv } = await openCv()
    const { index } = await paintStroke(engine, sources, curve, { within, brush: { breadth: 60, edge: 0.4 } })
    const given = { ...newMask('empty'), plane: { index, channels: 1 as const } }
    const before = await maskCodes(given)
    const after = await maskCodes({ ...given, edge: { move: inwards ? -by : by, unit: 'px', soften: { value: 0, unit: 'px' } } })
    const n = Math.floor(by)
    const disc = Uint8Array.from({ length: (2 * n + 1) ** 2 }, (_, i) => {
      const [x, y] = [(i % (2 * n + 1)) - n, Math.floor(i / (2 * n + 1)) - n]
      return x * x + y * y <= by * by ? 1 : 0
    })
    const morph = cv as unknown as Record<'dilate' | 'erode', (a: unknown, b: unknown, k: unknown, anchor: unknown, times: number, border: number) => void>
    const more = cv as unknown as { CV_16UC1: number }
    const src = cv.matFromArray(H, W, more.CV_16UC1, before)
    const dst = new cv.Mat()
    const kernel = cv.matFromArray(2 * n + 1, 2 * n + 1, cv.CV_8UC1, disc)
    morph[inwards ? 'erode' : 'dilate'](src, dst, kernel, new cv.Point(-1, -1), 1, cv.BORDER_REPLICATE)
    expect(Buffer.compare(Buffer.from(after.buffer), Buffer.from(dst.data16U.slice().buffer))).toBe(0)
    for (const m of [src, dst, kernel]) m.delete()
  })

  it('has its edge softened as the Gaussian blur softens', async () => {
    const { index } = await paintStroke(engine, sources, curve, { within, brush: { breadth: 60 } })
    const given = { ...newMask('empty'), plane: { index, channels: 1 as const } }
    const soft = await maskCodes({ ...given, edge: { move: 0, unit: 'px', soften: { value: 6, unit: 'px' } } })
    // a mask by tones of a layer that shows the mask and is blurred
    const shown = (a: Artwork) => {
      const black = newLayer('Black', { type: 'fill', colour: '#000000', alpha: 1 }, [], 'black')
      const white = { ...newLayer('W', { type: 'fill', colour: '#ffffff', alpha: 1 }, [], 'w'), mask: given }
      const group = newLayer(
        'Group',
        { type: 'group', isolated: true, layers: [black, white] },
        [newStep('gaussian-blur', { sigma: { value: 6, unit: 'px' } })],
        'from',
      )
      a.layers.unshift({ ...group, visible: false })
    }
    const blurred = await maskCodes({ ...newMask('empty'), live: { layer: 'from', by: 'tones' } }, shown)
    let far = 0
    for (let i = 0; i < W * H; i++) far = Math.max(far, Math.abs(soft[i]! - blurred[i]!))
    expect(far).toBeLessThanOrEqual(1)
  })

  it('that thins makes dots smaller and no greyer, one that fades makes them grey', async () => {
    const { index } = await paintStroke(
      engine,
      sources,
      samplesOf([
        [100, 250],
        [600, 250],
      ]),
      {
        within,
        plane: emptyPlane(1),
        blank: FULL,
        laying: { type: 'grey', value: 0 },
        brush: { breadth: 300, tip: 'soft', edge: 0.5, cover: 1, most: 0.5 },
      },
    )
    const at = (thins: boolean) => {
      const a = photo()
      a.layers = [newLayer('Grey', { type: 'fill', colour: '#707070', alpha: 1 }, [], 'grey')]
      a.layers[0]!.chain = [{ ...newStep('halftone'), mask: { ...newMask('full'), plane: { index, channels: 1 }, thins } }]
      return a
    }
    const [thin, faded] = [(await compute(engine, at(true))).pixels, (await compute(engine, at(false))).pixels]
    // in the middle of the stroke, where half is left
    const part = (p: Uint16Array) => Array.from({ length: 80 * 200 }, (_, i) => p[((210 + Math.floor(i / 200)) * W + 250 + (i % 200)) * 4]!)
    const extreme = (v: number[]) => v.filter((x) => x < 10000 || x > 62000).length / v.length
    const darkest = (v: number[]) => Math.min(...v)
    expect(darkest(part(thin!))).toBeLessThan(9000)
    expect(darkest(part(faded!))).toBeGreaterThan(15000)
    expect(extreme(part(faded!))).toBe(0)
    expect(extreme(part(thin!))).toBeGreaterThan(0.5)
    const mean = (v: number[]) => v.reduce((a, b) => a + b) / v.length
    // half way from the grey to white, in ink on paper
    const share = (1 - 0x70 / 255) / 2
    const [ink, white] = [0x1d * 257, 65535]
    expect(Math.abs(mean(part(thin!)) - (white - share * (white - ink))) / 65535).toBeLessThan(0.03)
  })
})

describe('a paint layer', () => {
  it('is what was painted, over what lies below', async () => {
    const { index } = await paintStroke(engine, sources, samplesOf([[300, 250]]), {
      within,
      plane: emptyPlane(4),
      blank: CLEAR,
      laying: { type: 'paint', colour: 0x0000_0000_ffffn },
      brush: { breadth: 80, cover: 0.5 },
    })
    const a = photo()
    a.layers.push(newLayer('Paint', { type: 'paint', plane: { index, channels: 4 } }, [], 'paint'))
    const { pixels } = await compute(engine, a)
    const below = (await compute(engine, photo())).pixels
    const i = (250 * W + 300) * 4
    expect(Math.abs(pixels[i]! - (below[i]! + 65535) / 2)).toBeLessThanOrEqual(2)
    expect(Math.abs(pixels[i + 1]! - below[i + 1]! / 2)).toBeLessThanOrEqual(2)
    expect(pixels[0]).toBe(below[0])
  })
})

describe('the light map', () => {
  it('multiplies linear light by stops, and tones beyond its span stay', async () => {
    const { index } = await paintStroke(
      engine,
      sources,
      samplesOf([
        [200, 250],
        [500, 250],
      ]),
      {
        within,
        blank: NEUTRAL,
        laying: { type: 'grey', value: 65535 },
        brush: { breadth: 400, cover: 1, most: 0.5, tip: 'soft', edge: 0.9 },
      },
    )
    const a = photo()
    a.layers[0]!.chain = [newStep('black-white')]
    const grey = (await compute(engine, a)).pixels
    const lit = async (span: { low: number; high: number; softLow: number; softHigh: number } | null, strength = 1) => {
      const b = photo()
      // under the chain: on a grey picture, so that the formula is one of a channel
      b.layers[0]!.chain = [newStep('black-white')]
      const group = newLayer('G', { type: 'group', isolated: true, layers: b.layers }, [], 'g')
      group.lightMap = { plane: { index, channels: 1 }, strength, span }
      return (await compute(engine, { ...b, layers: [group] })).pixels
    }
    const pixels = await lit(null)
    const decode = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
    const encode = (l: number) => (l <= 0.0031308 ? l * 12.92 : 1.055 * l ** (1 / 2.4) - 0.055)
    const code = Math.round(32768 + (65535 - 32768) * 0.5)
    let far = 0
    for (let x = 260; x < 440; x += 7)
      for (let y = 200; y < 300; y += 7) {
        const i = (y * W + x) * 4
        const light = decode(grey[i]! / 65535) * 2 ** stopsOf(code, 1)
        far = Math.max(far, Math.abs(pixels[i]! - encode(Math.min(1, light)) * 65535))
      }
    expect(far).toBeLessThan(12)
    // half the strength, half the stops
    const half = await lit(null, 0.5)
    const i = (250 * W + 350) * 4
    expect(half[i]! / 65535).toBeCloseTo(encode(Math.min(1, decode(grey[i]! / 65535) * 2 ** stopsOf(code, 0.5))), 3)
    const darks = await lit({ low: 0, high: 0.3, softLow: 0, softHigh: 0 })
    for (let n = 0; n < W * H; n += 53) if (grey[n * 4]! > 0.31 * 65535) expect(darks[n * 4]).toBe(grey[n * 4])
  })

  it('brings tones back through a threshold, live', async () => {
    const burnt = await paintStroke(engine, sources, samplesOf([[350, 250]]), {
      within,
      blank: NEUTRAL,
      laying: { type: 'grey', value: 0 },
      brush: { breadth: 300 },
    })
    const a = photo()
    a.layers[0]!.chain = [newStep('threshold')]
    const before = (await compute(engine, a)).pixels
    a.layers[0]!.lightMap = { plane: { index: burnt.index, channels: 1 }, strength: 1, span: null }
    const after = (await compute(engine, a)).pixels
    const black = (p: Uint16Array) =>
      Array.from({ length: 100 * 100 }, (_, n) => p[((200 + Math.floor(n / 100)) * W + 300 + (n % 100)) * 4]!).filter((v) => v === 0).length
    expect(black(after)).toBeGreaterThan(black(before) + 1000)
  })
})

/** An artwork in which a mask, a step's mask, paint and a light map lie under steps that look around. */
function everything(planes: { mask: string | null; step: string | null; paint: string | null; light: string | null }): Artwork {
  const ref = <C extends 1 | 4>(index: string | null, channels: C) => (index ? { index, channels } : null)
  const a = masked({ plane: ref(planes.mask, 1), edge: { move: 3, unit: 'px', soften: { value: 4, unit: 'px' } } })
  a.layers[0]!.lightMap = { plane: ref(planes.light, 1), strength: 1, span: { low: 0.1, high: 0.9, softLow: 0.1, softHigh: 0.1 } }
  a.layers[0]!.chain = [newStep('gaussian-blur', { sigma: { value: 3, unit: 'px' } })]
  a.layers[1]!.chain.push({ ...newStep('median', { radius: { value: 2, unit: 'px' } }), mask: { ...newMask('full'), plane: ref(planes.step, 1) } })
  a.layers.push(newLayer('Paint', { type: 'paint', plane: ref(planes.paint, 4) }, [newStep('unsharp-mask')], 'paint'))
  a.layers.push(newLayer('All', { type: 'below' }, [newStep('levels', { gamma: 1.3 }), newStep('box-blur', { radius: { value: 5, unit: 'px' } })], 'all'))
  return a
}

it('is the same by tiles, by strips and at once, at every level', async () => {
  const one = async (laying: 'mask' | 'paint' | 'light', seed: number) => {
    const next = dice(seed)
    const line = samplesOf(Array.from({ length: 12 }, () => [next() * W, next() * H, next()]))
    const options =
      laying === 'paint'
        ? { plane: emptyPlane(4), blank: CLEAR, laying: { type: 'paint' as const, colour: 0x1234_8000_f000n } }
        : { blank: laying === 'light' ? NEUTRAL : undefined }
    return (await paintStroke(engine, sources, line, { within, brush: { ...soft, cover: 0.3 }, ...(options as object) })).index
  }
  const a = everything({ mask: await one('mask', 1), step: await one('mask', 2), paint: await one('paint', 3), light: await one('light', 4) })
  const node = new GraphCompiler(a, kernels.hash).compile({ type: 'artwork' })
  for (const level of [-1, 0, 1, 3]) {
    const whole = (await computeNode(newTestEngine(kernels, sources), node, { level, piece: 1 << 22 })).pixels
    // twice the size is the same reading, enlarged: by strips it is enough
    for (const grid of level < 0
      ? [{ w: 1 << 24, h: 61 }]
      : [
          { w: 97, h: 97 },
          { w: 1 << 24, h: 61 },
        ]) {
      const cut = (await computeNode(newTestEngine(kernels, sources), node, { level, grid })).pixels
      expect(Buffer.compare(Buffer.from(cut.buffer), Buffer.from(whole.buffer))).toBe(0)
    }
  }
})

describe('painting on and on', () => {
  const empty = { mask: null, step: null, paint: null, light: null }
  type Planes = Parameters<typeof everything>[0]

  it('by strokes, undo and redo shows what a cold engine shows, at each lift', async () => {
    const next = dice(9)
    const warm = newTestEngine(kernels, sources, 48 * 2 ** 20)
    const states: Planes[] = [empty]
    const open = { mask: emptyPlane(1), step: emptyPlane(1), paint: emptyPlane(4), light: emptyPlane(1) }
    let now: Planes = empty
    for (let round = 0; round < 14; round++) {
      const undo = next() < 0.3
      if (undo) now = states[Math.floor(next() * states.length)]!
      else {
        const where = (['mask', 'step', 'paint', 'light'] as const)[Math.floor(next() * 4)]!
        const index = now[where]
        const channels = where === 'paint' ? 4 : 1
        const [cx, cy] = [next() * W, next() * H]
        const line = samplesOf(Array.from({ length: 5 }, () => [cx + next() * 120, cy + next() * 90]))
        const painted = await paintStroke(warm, sources, line, {
          within,
          plane: index ? await warm.planes.open(index, channels) : open[where],
          blank: where === 'paint' ? CLEAR : where === 'light' ? NEUTRAL : where === 'step' ? FULL : '=0000',
          laying: where === 'paint' ? { type: 'paint', colour: 0xf000_2000_8000n } : { type: 'grey', value: next() < 0.5 ? 0 : 65535 },
          brush: { ...soft, breadth: 20 + next() * 60 },
        })
        now = { ...now, [where]: painted.index }
        states.push(now)
      }
      const node = new GraphCompiler(everything(now), kernels.hash).compile({ type: 'artwork' })
      const level = round % 2
      const region = atLevel(within, level)
      const shown = await reducedFromFull(warm, node, level, region, within, { cancelled: false })
      const cold = await reducedFromFull(newTestEngine(kernels, sources), node, level, region, within, { cancelled: false })
      expect(Buffer.compare(Buffer.from(shown), Buffer.from(cold))).toBe(0)
    }
  })

  it('computes what a dab changed, and undo nothing', async () => {
    const steps = ['levels', 'invert', 'hue-saturation', 'levels', 'invert', 'black-white', 'levels', 'invert', 'levels', 'invert', 'levels', 'invert']
    const of = (index: string | null) => {
      const a = masked({ plane: index ? { index, channels: 1 } : null })
      a.layers.push(
        newLayer(
          'All',
          { type: 'below' },
          steps.map((s) => newStep(s)),
          'all',
        ),
      )
      return new GraphCompiler(a, kernels.hash).compile({ type: 'artwork' })
    }
    const warm = newTestEngine(kernels, sources)
    const work: { stage: string; region: Region }[] = []
    const show = async (node: ReturnType<typeof of>) => {
      work.length = 0
      warm.onRun = (stage, region) => work.push({ stage: stage.name, region })
      await reducedFromFull(warm, node, 0, within, within, { cancelled: false })
      return work.map((x) => x.region)
    }
    await show(of(null))
    const first = await paintStroke(warm, sources, samplesOf([[300, 200]]), { within, brush: { breadth: 100 } })
    const regions = await show(of(first.index))
    const changed = first.damage.w * first.damage.h
    const most = Math.max(...regions.map((r) => r.w * r.h))
    const box = regions.reduce(union)
    expect(most).toBeLessThanOrEqual(1.5 * changed)
    expect(box.w * box.h).toBeLessThanOrEqual(1.5 * changed)
    // back: what was before is still there
    expect(await show(of(null))).toEqual([])
    expect(await show(of(first.index))).toEqual([])
  })
})

describe('what painting holds', () => {
  it('is given back: after strokes, undo, strokes given up and failing storage, as much is in use as before', async () => {
    const own = await loadKernels(512 * 2 ** 20)
    const failing = new MemorySources()
    await failing.add(own, asset, { width: W, height: H, channels: 3, depth: 8 }, testPicture(W, H))
    const small = newTestEngine(own, failing, 48 * 2 ** 20)
    const show = async (index: string | null) => {
      const a = masked({ plane: index ? { index, channels: 1 } : null })
      const node = new GraphCompiler(a, own.hash).compile({ type: 'artwork' })
      return Buffer.from(await reducedFromFull(small, node, 0, within, within, { cancelled: false }))
    }
    const next = dice(11)
    const line = () => samplesOf(Array.from({ length: 6 }, () => [next() * W, next() * H, next()]))
    const round = async () => {
      let plane = emptyPlane(1)
      const indexes: string[] = []
      for (let i = 0; i < 12; i++) {
        const painted = await paintStroke(small, failing, line(), {
          within,
          plane,
          brush: { ...soft, tip: i % 2 ? 'chalk' : 'soft', tooth: 0.5 },
          paper: { pitch: 5, seed: 1 },
        })
        plane = painted.plane
        indexes.push(painted.index)
      }
      const last = await show(indexes.at(-1)!)
      for (const index of [...indexes].reverse()) await show(index)
      expect((await show(indexes.at(-1)!)).equals(last)).toBe(true)
      // a part that storage does not give back is told, and nothing hangs on it
      const all = new Map(failing.blobs)
      small.clear()
      for (const [name, bytes] of all) if (bytes.length > 10_000) failing.blobs.delete(name)
      await expect(show(indexes.at(-1)!)).rejects.toMatchObject({ code: 'plane-unreadable' })
      for (const [name, bytes] of all) failing.blobs.set(name, bytes)
      expect((await show(indexes.at(-1)!)).equals(last)).toBe(true)
      small.clear()
    }
    await round()
    const before = own.allocator.bytesInUse
    await round()
    await round()
    expect(own.allocator.bytesInUse).toBe(before)
  })

  it('a tile whose bytes are not what its name says is told', async () => {
    const { index, blobs } = await paintMask()
    const tile = blobs.find((b) => b.bytes.length > 10_000)!
    const cold = newTestEngine(kernels, sources)
    const own = sources.blobs.get(tile.name)!
    sources.blobs.set(
      tile.name,
      own.map((v, i) => (i === 99 ? v ^ 1 : v)),
    )
    const node = new GraphCompiler(masked({ plane: { index, channels: 1 } }), kernels.hash).compile({ type: 'artwork' })
    await expect(computeNode(cold, node)).rejects.toThrow(/not what its name says/)
    sources.blobs.set(tile.name, own)
    await expect(computeNode(cold, node)).resolves.toBeDefined()
  })

  it('a brush larger than the sheet, and a stroke far beyond it, paint what there is of the sheet', async () => {
    const all = await paintStroke(
      engine,
      sources,
      samplesOf([
        [350, 250],
        [360, 250],
      ]),
      { within, brush: { breadth: 4000 } },
    )
    expect((await maskCodes({ ...newMask('empty'), plane: { index: all.index, channels: 1 } })).every((v) => v === 65535)).toBe(true)
    const far = await paintStroke(
      engine,
      sources,
      samplesOf([
        [90_000, -40_000],
        [91_000, -40_000],
      ]),
      { within, brush: { breadth: 300 } },
    )
    expect(far.plane.pages.size).toBe(0)
  })
})
