import { artworkFromPhoto, loadArtwork } from './load.ts'
import { newLayer, newStep } from './layers.ts'
import { applyEdit, perform, type Command } from './commands.ts'
import { draggedFrame, framedIn, grownFrame, offLevel, paintedPlaces, RATIOS, resizedSheet, straightenedSheet, turnedSheet } from './framing.ts'
import { newMask } from './planes.ts'
import { newPaper } from './papers.ts'
import type { Artwork, Layer } from './schema.ts'
import { mapped, type Matrix } from '../base/transform.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { movedPlane } from '../engine/plane-from.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, newTestEngine, testPicture } from '../testing/pictures.ts'

const asset = 'b2'.repeat(32)
const [W, H] = [160, 120]
let kernels: Kernels
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 3, depth: 8 }, testPicture(W, H, 3))
})
const begun = (): Artwork => artworkFromPhoto({ asset, width: W, height: H, title: 't', ppi: 100 })
const done = (a: Artwork, ...commands: Command[]): Artwork => commands.reduce((now, c) => perform(now, c).artwork, a)
const frame = (x: number, y: number, w: number, h: number): Command => ({ type: 'set-frame', frame: { x, y, w, h }, what: 'Crop' })
const pixelsOf = async (a: Artwork, level = 0) => (await compute(newTestEngine(kernels, sources), a, { level })).pixels

describe('the frame', () => {
  test('drawn in, it shows the very bits that were there: screens, grain, paper, blurs at the edge, dither rows, vignettes', async () => {
    const a = begun()
    const paper = newLayer('Paper', newPaper('rough'))
    const all: Layer[] = [
      {
        ...newLayer('Grey', { type: 'fill', colour: '#8090a0', alpha: 1 }, [
          newStep('gaussian-blur', { sigma: { value: 6, unit: 'px' } }),
          newStep('add-grain', {}),
        ]),
        opacity: 0.5,
      },
      {
        ...newLayer(
          'Sky',
          {
            type: 'gradient',
            shape: 'straight',
            stops: [
              [0, '#204060', 1],
              [1, '#f0e0a0', 1],
            ],
            from: { x: 0, y: 0 },
            to: { x: 1, y: 1 },
            beyond: 'last colour',
          },
          [],
        ),
        opacity: 0.3,
      },
      { ...paper, blend: 'multiply' },
    ]
    a.layers[0]!.chain = [
      newStep('vignette'),
      newStep('halftone', { counted: 'lpi', lpi: 16 }, 'h'),
      newStep('gaussian-blur', { sigma: { value: 3, unit: 'px' } }),
    ].slice(0, 3)
    a.layers.push(...all, newLayer('Dots', { type: 'below' }, [newStep('dither', {})]))
    const whole = await pixelsOf(a)
    const [x, y, w, h] = [37, 22, 71, 53]
    const cut = await pixelsOf(done(a, frame(x, y, w, h)))
    const part = new Uint16Array(w * h * 4)
    for (let row = 0; row < h; row++) part.set(whole.subarray(((row + y) * W + x) * 4, ((row + y) * W + x + w) * 4), row * w * 4)
    expect(Buffer.from(cut.buffer).equals(Buffer.from(part.buffer))).toBe(true)
  })

  test('drawn out and back again, all is as it was; undone bit for bit', () => {
    const a = begun()
    const { artwork, edit } = perform(a, frame(-40, -30, 400, 300) as Command)
    expect(artwork.sheet).toMatchObject({ x: -40, y: -30, w: 400, h: 300, ppi: 100 })
    expect(applyEdit(artwork, edit.inverse)).toEqual(a)
    expect(done(artwork, frame(0, 0, W, H))).toEqual(a)
  })

  test('the look spot stays in it', () => {
    expect(done(begun(), frame(0, 0, 20, 20)).lookSpot).toEqual({ x: 20, y: 20 })
  })

  test.each([
    [frame(0, 0, 1, 1), /1 × 1 pixels shows nothing/],
    [frame(0, 0, 70_000, 100), /at most 60000/],
    [frame(0, 0, 30_000, 30_000), /400 megapixels/],
    [frame(0.5, 0, 100, 100), /whole pixels/],
    [{ type: 'resize-artwork', width: 3, planes: [] } as Command, /shows nothing/],
    [{ type: 'resize-artwork', width: 100_000, planes: [] } as Command, /at most 60000/],
  ])('what cannot be is told, and nothing is changed: %j', (command, message) => {
    const a = begun()
    const before = JSON.stringify(a)
    expect(() => perform(a, command)).toThrow(message)
    expect(JSON.stringify(a)).toBe(before)
  })
})

describe('resized with all that is on it', () => {
  test('an A2 print at 300 ppi of a small photo: 420 × 594 mm (ISO 216) are 4961 × 7016 pixels', () => {
    const [w, h] = [420, 594].map((mm) => Math.round((mm / 25.4) * 300))
    expect([w, h]).toEqual([4961, 7016])
    const a = artworkFromPhoto({ asset, width: 1200, height: 1697, title: 't', ppi: 300 })
    const big = done(a, { type: 'resize-artwork', width: w!, planes: [] })
    expect(big.sheet).toMatchObject({ w: 4961, h: 7016 })
    expect((big.layers[0]!.source as { shown?: unknown }).shown).toEqual({ w: 4961, h: 7016 })
    expect(big.reference).toBeCloseTo((1697 * 4961) / 1200)
  })

  test('pixel lengths, placements, pivots, guides, spots scale; shares and millimetres stay', () => {
    const a = begun()
    a.guides = [{ axis: 'upright', at: 40 }]
    a.layers[0]!.chain = [
      newStep('gaussian-blur', { sigma: { value: 3, unit: 'px' } }),
      newStep('gaussian-blur', { sigma: { value: 1, unit: '%' } }),
      newStep('gaussian-blur', { sigma: { value: 2, unit: 'mm' } }),
    ]
    a.layers[0]!.placement = { matrix: [0.5, 0.1, 30, -0.1, 0.5, 20, 0.0004, 0, 1], pivot: { x: 10, y: 20 } }
    a.layers[0]!.mask = { ...newMask('full'), edge: { move: -4, unit: 'px', soften: { value: 2, unit: 'px' } } }
    const big = done(a, { type: 'resize-artwork', width: W * 3, planes: [] })
    expect(big.layers[0]!.chain.map((s) => s.params['sigma'])).toEqual([
      { value: 9, unit: 'px' },
      { value: 1, unit: '%' },
      { value: 2, unit: 'mm' },
    ])
    expect(big.layers[0]!.mask!.edge).toEqual({ move: -12, unit: 'px', soften: { value: 6, unit: 'px' } })
    expect(big.layers[0]!.placement.pivot).toEqual({ x: 30, y: 60 })
    for (const p of [
      { x: 0, y: 0 },
      { x: 100, y: 70 },
      { x: 13, y: 111 },
    ]) {
      const [was, is] = [mapped(a.layers[0]!.placement.matrix as Matrix, p)!, mapped(big.layers[0]!.placement.matrix as Matrix, { x: p.x * 3, y: p.y * 3 })!]
      expect(is.x).toBeCloseTo(was.x * 3, 6)
      expect(is.y).toBeCloseTo(was.y * 3, 6)
    }
    expect(big.guides[0]!.at).toBe(120)
    expect(big.lookSpot).toEqual({ x: a.lookSpot.x * 3, y: a.lookSpot.y * 3 })
    expect(loadArtwork(JSON.parse(JSON.stringify(big)))).toEqual(big)
    // and back
    expect(done(big, { type: 'resize-artwork', width: W, planes: [] }).layers[0]!.source).toEqual(a.layers[0]!.source)
  })

  test('twice as large, the picture halved again is the picture; a halftone keeps its ruling in millimetres', async () => {
    const big = done(begun(), { type: 'resize-artwork', width: W * 2, planes: [] })
    const [small, large] = [await pixelsOf(begun()), await pixelsOf(big, 1)]
    let worst = 0
    let sum = 0
    for (let i = 0; i < small.length; i++) {
      const d = Math.abs(small[i]! - large[i]!) / 257
      worst = Math.max(worst, d)
      sum += d
    }
    // cubic enlarging and reducing again is not quite the same: softer at hard edges
    expect(sum / small.length).toBeLessThan(2)
    const ruled = (a: Artwork) => ({
      ...a,
      layers: [
        {
          ...a.layers[0]!,
          source: { type: 'fill', colour: '#808080', alpha: 1 } as const,
          chain: [newStep('halftone', { counted: 'lpi', lpi: 12.5, angle: 0 })],
        },
      ],
    })
    const periods = await Promise.all([ruled(begun()), ruled(big)].map(async (a) => periodOf(await pixelsOf(a), a.sheet.w)))
    // 100 pixels an inch, 12.5 lines an inch
    expect(periods[0]).toBeCloseTo(8, 0)
    expect(periods[1]).toBeCloseTo(8, 0)
  })

  test.each(['hatching', 'paper-tooth', 'halftone'])('%s is made anew at the new size: as crisp as on the small sheet, not enlarged', async (id) => {
    const a = begun()
    a.layers[0]!.chain = [newStep(id)]
    const big = done(a, { type: 'resize-artwork', width: W * 3, planes: [] })
    const steepest = async (of: Artwork) => {
      const v = await pixelsOf(of)
      let most = 0
      for (let i = 4; i < v.length; i += 4) if ((i / 4) % of.sheet.w) most = Math.max(most, Math.abs(v[i]! - v[i - 4]!))
      return most
    }
    // three times as large by interpolation it would be a third
    expect(await steepest(big)).toBeGreaterThan(0.6 * (await steepest(a)))
  })

  test('what is painted must come along', async () => {
    const a = begun()
    const engine = newTestEngine(kernels, sources)
    a.layers[0]!.mask = newMask('empty')
    expect(paintedPlaces(a)).toEqual([])
    const at = { layer: a.layers[0]!.id, step: null, part: 'mask' as const }
    a.layers[0]!.mask.plane = { index: '0'.repeat(64), channels: 1 }
    expect(paintedPlaces(a)).toEqual([at])
    expect(() => perform(a, { type: 'resize-artwork', width: 320, planes: [] })).toThrow(/could not be brought along/)
    await expect(
      movedPlane(engine, { ...a, layers: [newLayer('x', { type: 'below' }, [], at.layer)] }, at, [2, 0, 0, 0, 2, 0, 0, 0, 1], { cancelled: false }),
    ).rejects.toThrow(/nothing painted/)
  })
})

/** The strongest period along a row, pixels: by the discrete Fourier transform of its greens. */
function periodOf(pixels: Uint16Array, w: number): number {
  const row = Array.from({ length: w }, (_, x) => pixels[(Math.floor(pixels.length / 4 / w / 2) * w + x) * 4 + 1]!)
  let best = { power: 0, k: 1 }
  for (let k = 2; k < w / 2; k++) {
    let [re, im] = [0, 0]
    row.forEach((v, x) => {
      re += v * Math.cos((2 * Math.PI * k * x) / w)
      im += v * Math.sin((2 * Math.PI * k * x) / w)
    })
    const power = re * re + im * im
    if (power > best.power) best = { power, k }
  }
  return w / best.k
}

describe('turned and straightened', () => {
  const turn = (a: Artwork, how: Parameters<typeof turnedSheet>[1]): Artwork => {
    const { by, frame: f } = turnedSheet(a.sheet, how)
    return done(a, { type: 'turn-artwork', by, frame: f, planes: [], what: 'Turn' })
  }

  test('by quarters and flips the pixels are the very same, elsewhere', async () => {
    const whole = await pixelsOf(begun())
    const at = (x: number, y: number) => whole.slice((y * W + x) * 4, (y * W + x) * 4 + 4)
    const from: [Parameters<typeof turnedSheet>[1], (x: number, y: number) => [number, number]][] = [
      ['clockwise', (x, y) => [y, H - 1 - x]],
      ['counter-clockwise', (x, y) => [W - 1 - y, x]],
      ['half', (x, y) => [W - 1 - x, H - 1 - y]],
      ['across', (x, y) => [W - 1 - x, y]],
      ['down', (x, y) => [x, H - 1 - y]],
    ]
    for (const [how, back] of from) {
      const a = turn(begun(), how)
      const p = await pixelsOf(a)
      const { w, h } = a.sheet
      let wrong = 0
      for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) if (at(...back(x, y)).some((v, c) => v !== p[(y * w + x) * 4 + c])) wrong++
      expect([how, wrong]).toEqual([how, 0])
    }
  })

  test('four quarters are none', () => {
    const a = begun()
    a.guides = [
      { axis: 'upright', at: 40 },
      { axis: 'level', at: 100 },
    ]
    let b = a
    for (let i = 0; i < 4; i++) b = turn(b, 'clockwise')
    expect(b).toEqual(a)
    expect(turn(turn(a, 'clockwise'), 'counter-clockwise')).toEqual(a)
    expect(turn(a, 'clockwise').guides).toEqual([
      { axis: 'level', at: 40 },
      { axis: 'upright', at: 20 },
    ])
  })

  test('how far a line is off the level or the plumb line', () => {
    expect(offLevel({ x: 0, y: 0 }, { x: 100, y: 0 })).toBe(0)
    expect(offLevel({ x: 0, y: 0 }, { x: 100, y: 100 * Math.tan(Math.PI / 60) })).toBeCloseTo(3)
    expect(offLevel({ x: 100, y: 0 }, { x: 0, y: 0 })).toBeCloseTo(0)
    expect(offLevel({ x: 0, y: 100 }, { x: 10, y: 0 })).toBeCloseTo((Math.atan(0.1) * 180) / Math.PI)
  })

  test.each([0.5, -3, 10, 44])('straightened by %d°, the frame drawn in has no blank corner and keeps its ratio', (degrees) => {
    const sheet = { x: 10, y: 20, w: 3000, h: 2000 }
    const { by, frame: f } = straightenedSheet(sheet, degrees, true)
    expect(f.w / f.h).toBeCloseTo(1.5, 2)
    // every corner of the frame is a point of the sheet that was
    const [a, b, , c, d] = by
    const det = a * d - b * c
    for (const [x, y] of [
      [f.x, f.y],
      [f.x + f.w, f.y],
      [f.x, f.y + f.h],
      [f.x + f.w, f.y + f.h],
    ] as const) {
      const [u, v] = [x - by[2], y - by[5]]
      const p = { x: (d * u - b * v) / det, y: (a * v - c * u) / det }
      expect(p.x).toBeGreaterThanOrEqual(9.2)
      expect(p.x).toBeLessThanOrEqual(3010.8)
      expect(p.y).toBeGreaterThanOrEqual(19.2)
      expect(p.y).toBeLessThanOrEqual(2020.8)
    }
    // and a larger one has: some corner lies on its border
    expect(straightenedSheet(sheet, degrees, false).frame).toEqual(sheet)
  })

  test('what is off is put right: a line drawn along it is level', () => {
    const [p, q] = [
      { x: 100, y: 300 },
      { x: 900, y: 350 },
    ]
    const { by } = straightenedSheet({ x: 0, y: 0, w: 1000, h: 800 }, offLevel(p, q), true)
    const [a, b] = [mapped(by, p)!, mapped(by, q)!]
    expect(a.y).toBeCloseTo(b.y, 6)
  })
})

describe('a frame in the hand', () => {
  const sheet = { x: 0, y: 0, w: 400, h: 300 }
  test('ratios of paper: an A sheet folded in two keeps its ratio (ISO 216)', () => {
    const a = RATIOS.find((r) => r.name === 'A series')!.ratio
    expect(2 / a).toBeCloseTo(a, 12)
    expect(framedIn({ x: 0, y: 0, w: 4961, h: 9000 }, 1 / a)).toEqual({ x: 0, y: 992, w: 4961, h: 7016 })
  })
  test('the largest of a ratio lies in the middle', () => {
    expect(framedIn(sheet, 1)).toEqual({ x: 50, y: 0, w: 300, h: 300 })
    expect(framedIn(sheet, 2)).toEqual({ x: 0, y: 50, w: 400, h: 200 })
  })
  test('dragged by an edge, a corner, as a whole; free and in a ratio', () => {
    expect(draggedFrame(sheet, { x: 1, y: 0 }, -100.4, 50, null)).toEqual({ x: 0, y: 0, w: 300, h: 300 })
    expect(draggedFrame(sheet, { x: -1, y: -1 }, 40, 30, null)).toEqual({ x: 40, y: 30, w: 360, h: 270 })
    expect(draggedFrame(sheet, { x: 0, y: 0 }, 40, -30, null)).toEqual({ x: 40, y: -30, w: 400, h: 300 })
    expect(draggedFrame(sheet, { x: 1, y: 1 }, 40, 0, 4 / 3)).toEqual({ x: 0, y: 0, w: 440, h: 330 })
    expect(draggedFrame(sheet, { x: -1, y: 0 }, 100, 0, 4 / 3)).toEqual({ x: 100, y: 38, w: 300, h: 225 })
    expect(draggedFrame(sheet, { x: 1, y: 1 }, -9000, -9000, null)).toMatchObject({ x: 0, y: 0, w: 8, h: 8 })
  })
  test('made so large about a pivot', () => {
    expect(grownFrame(sheet, { w: 800, h: 600 }, { x: 0.5, y: 0.5 })).toEqual({ x: -200, y: -150, w: 800, h: 600 })
    expect(grownFrame(sheet, { w: 800, h: 300 }, { x: 0, y: 1 })).toEqual({ x: 0, y: 0, w: 800, h: 300 })
    expect(resizedSheet({ x: -10, y: 0, w: 400, h: 301 }, 800)).toEqual({ x: -20, y: 0, w: 800, h: 602 })
  })
})

describe('another photo', () => {
  const to = { asset: 'd4'.repeat(32), width: 800, height: 800 }
  test('takes the place of the one there was: as large, its middle in the middle; steps and placement stay', () => {
    const a = begun()
    a.layers[0]!.chain = [newStep('invert')]
    a.layers[0]!.placement = { matrix: [0.5, 0, 10, 0, 0.5, 20, 0, 0, 1], pivot: { x: 80, y: 60 } }
    const b = done(a, { type: 'replace-photo', from: asset, to, name: 'Reeds' })
    const [layer] = b.layers
    expect(layer!.source).toEqual({ type: 'photo', ...to, shown: { w: 160, h: 160 } })
    expect(layer!.chain).toEqual(a.layers[0]!.chain)
    // its middle lies where the other's lay
    expect(mapped(layer!.placement.matrix as Matrix, { x: 80, y: 80 })).toEqual(mapped(a.layers[0]!.placement.matrix as Matrix, { x: 80, y: 60 }))
    expect(layer!.placement.pivot).toEqual({ x: 80, y: 80 })
    expect(b.sheet).toEqual(a.sheet)
  })
  test('of the same ratio it lies just there; one that is not shown is told of', () => {
    const b = done(begun(), { type: 'replace-photo', from: asset, to: { asset: to.asset, width: 320, height: 240 }, name: 'Reeds' })
    expect(b.layers[0]!.source).toMatchObject({ shown: { w: W, h: H } })
    expect(b.layers[0]!.placement).toEqual(begun().layers[0]!.placement)
    expect(() => done(begun(), { type: 'replace-photo', from: to.asset, to, name: 'Reeds' })).toThrow(/does not show that photo/)
  })
})
