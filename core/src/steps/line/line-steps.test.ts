import type { Kernels } from '../../kernels/kernels.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import type { Crest } from '../../study/crests.ts'
import type { Rgba } from '../../testing/kernel-run.ts'
import { layingOf } from '../../testing/laying.ts'
import { photoPart } from '../../testing/photo.ts'
import { meanOf, painted, through } from '../../testing/through.ts'
import { hatching, keyed } from './hatching.ts'
import { inkLines, textureOf } from './ink-lines.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})
const { abs, hypot, max, min } = Math
const px = (value: number) => ({ value, unit: 'px' as const })
const ALL = Array.from({ length: 16 }, () => 1)

/** Share of pixels that are neither ink nor paper. */
function grey({ v }: Rgba): number {
  let n = 0
  for (let i = 0; i < v.length; i += 4) if (v[i]! > 0.15 * 65535 && v[i]! < 0.85 * 65535) n++
  return n / (v.length / 4)
}
/** Middle and breadth of the ink along a row. */
function inkAt(p: Rgba, y: number, from = 0, to = p.w): { width: number; place: number } {
  let [width, place] = [0, 0]
  for (let x = from; x < to; x++) {
    const d = 1 - p.v[(y * p.w + x) * 4]! / 65535
    width += d
    place += d * (x + 0.5)
  }
  return { width, place: place / width }
}
const black = { ink: '#000000', paper: '#ffffff' }

// red and green of one lightness by the weights of ITU-R BT.709
const RED = [0.85, 0.22, 0.2]
const GREEN = [0.22, 0.406, 0.2]
const toneOf = ([r, g, b]: readonly number[]) => 0.2126 * r! + 0.7152 * g! + 0.0722 * b!

describe.each([
  ['contours', 'weight'],
  ['ink-lines', 'width'],
] as const)('%s, where colours meet that are alike in tone', (id, breadth) => {
  const asked = { ...black, pen: 'technical', [breadth]: px(4), detail: px(4), light: 0, far: 0, shadow: 0, ...(id === 'ink-lines' ? { blacks: 0 } : {}) }
  const inked = async (p: Rgba, more: object) => 1 - meanOf(await through(kernels, p, [[id, { ...asked, ...more }]]))

  test('a line lies on their border, as broad as the pen; none, where that is not asked for', async () => {
    expect(abs(toneOf(RED) - toneOf(GREEN))).toBeLessThan(0.001)
    for (const at of [60, 75]) {
      const p = painted(120, 160, (x) => (x < at ? RED : GREEN))
      const got = await through(kernels, p, [[id, asked]])
      for (const y of [40, 80, 120]) {
        expect(abs(inkAt(got, y).width - 4)).toBeLessThan(0.5)
        expect(abs(inkAt(got, y).place - at)).toBeLessThan(0.35)
      }
      expect(await inked(p, { colours: 0 })).toBe(0)
    }
  })

  test('on a large photo it lies there too, whose colours are looked at in half the size of its study', async () => {
    const p = painted(2602, 200, (x) => (x < 1307 ? GREEN : RED))
    const got = await through(kernels, p, [[id, { ...asked, [breadth]: px(8) }]])
    expect(abs(inkAt(got, 100).place - 1307)).toBeLessThan(1.5)
    expect(abs(inkAt(got, 100).width - 8)).toBeLessThan(1)
  })

  test('an area of one colour has no lines by its shading that a grey one of its tones has not', async () => {
    const shade = (x: number) => (x < 60 ? 0.5 : 1)
    const coloured = painted(120, 160, (x) => RED.map((v) => v * shade(x)))
    const grey = painted(120, 160, (x) => [toneOf(RED) * shade(x)])
    const [all, plain, none] = [await inked(coloured, { colours: 0.5 }), await inked(coloured, { colours: 0 }), await inked(grey, { colours: 1 })]
    expect(none).toBeCloseTo(await inked(grey, { colours: 0 }), 10)
    expect(abs(all - plain)).toBeLessThan(0.1 * plain)
  })

  test('how much it counts is asked for: from a pale border alone to none', async () => {
    const mixed = (k: number) => painted(120, 160, (x) => (x < 60 ? RED : RED.map((v, c) => v + k * (GREEN[c]! - v))))
    const from = async (colours: number) => {
      for (let k = 1; k <= 20; k++) if ((await inked(mixed(k / 20), { colours, ...(id === 'ink-lines' ? { lines: 0.5 } : {}) })) > 0.005) return k
      return 21
    }
    const [little, all] = [await from(0.25), await from(1)]
    expect(all).toBeLessThan(little)
    expect(little).toBeLessThan(21)
  })
})

describe('contours', () => {
  test('a line lies on the edge, as broad as the pen', async () => {
    const p = painted(120, 160, (x) => [x < 60 ? 0.2 : 0.8])
    for (const weight of [2, 5, 9]) {
      const got = await through(kernels, p, [['contours', { ...black, pen: 'technical', weight: px(weight), detail: px(3), light: 0, far: 0, shadow: 0 }]])
      for (const y of [40, 80, 120]) {
        expect(abs(inkAt(got, y).width - weight)).toBeLessThan(0.1 * weight + 0.1)
        expect(abs(inkAt(got, y).place - 60)).toBeLessThan(0.35)
      }
    }
  })

  test.each([
    // dark on the left, light on the right: the gradient points right, sector 0
    [0, (x: number) => [x < 50 ? 0.2 : 0.8]],
    [8, (x: number) => [x < 50 ? 0.8 : 0.2]],
    // light above: it points up, 90°
    [4, (_: number, y: number) => [y < 50 ? 0.8 : 0.2]],
    [12, (_: number, y: number) => [y < 50 ? 0.2 : 0.8]],
    [2, (x: number, y: number) => [x - y > 0 ? 0.8 : 0.2]],
    [14, (x: number, y: number) => [x + y > 100 ? 0.8 : 0.2]],
  ] as const)('edge rose: an edge that faces sector %d is drawn by that sector alone', async (sector, at) => {
    const p = painted(100, 100, at)
    const only = ALL.map((_, i) => (i === sector ? 1 : 0))
    const inked = async (facing: number[]) => 1 - meanOf(await through(kernels, p, [['contours', { detail: px(3), weight: px(3), facing, light: 0 }]]))
    const full = await inked(ALL)
    expect(full).toBeGreaterThan(0.015)
    expect(await inked(only)).toBeGreaterThan(full * 0.75)
    expect(await inked(only.map((v) => 1 - v))).toBeLessThan(full * 0.25)
  })

  test.each([
    [0, 8, (x: number) => (x < 50 ? RED : GREEN)],
    [4, 12, (_: number, y: number) => (y < 50 ? RED : GREEN)],
    [2, 10, (x: number, y: number) => (x - y > 0 ? RED : GREEN)],
  ] as const)('edge rose: a border of colours alike in tone is drawn by sector %d or %d, whichever is asked for', async (one, other, at) => {
    const p = painted(100, 100, at)
    const inked = async (...sectors: number[]) =>
      1 -
      meanOf(await through(kernels, p, [['contours', { detail: px(3), weight: px(3), facing: ALL.map((_, i) => (sectors.includes(i) ? 1 : 0)), light: 0 }]]))
    const full = await inked(...ALL.keys())
    expect(full).toBeGreaterThan(0.015)
    for (const sector of [one, other]) expect(await inked(sector)).toBeGreaterThan(full * 0.75)
    expect(await inked(...[...ALL.keys()].filter((i) => i !== one && i !== other))).toBeLessThan(full * 0.25)
  })

  test('a fainter edge than is asked for is not drawn; one in the light is broken off', async () => {
    const p = painted(160, 100, (x) => [x < 80 ? 0.5 : 0.56])
    const drawn = async (of: Rgba, more: object) => 1 - meanOf(await through(kernels, of, [['contours', { detail: px(3), weight: px(3), light: 0, ...more }]]))
    expect(await drawn(p, { faintest: 8 })).toBeGreaterThan(0.004)
    expect(await drawn(p, { faintest: 40 })).toBe(0)
    const light = painted(160, 100, (x) => [x < 80 ? 0.86 : 1])
    expect(await drawn(light, { faintest: 20 })).toBeGreaterThan(0.004)
    expect(await drawn(light, { faintest: 20, light: 1 })).toBe(0)
  })
})

describe('ink lines', () => {
  test('ink is crisp where the photo is out of focus', async () => {
    const soft = painted(300, 200, (x) => [0.2 + 0.6 / (1 + Math.exp(-(x - 150) / 9))])
    const got = await through(kernels, soft, [['ink-lines', { ...black, width: px(4), detail: px(12), lines: 0.9, blacks: 0, far: 0, light: 0 }]])
    const { width } = inkAt(got, 100)
    expect(width).toBeGreaterThan(1)
    // the rims of a line of a few pixels: one pixel each side
    expect(grey(got)).toBeLessThan(2.5 / 300)
  })

  test('a thin dark line is drawn once, not at both sides', async () => {
    const p = painted(120, 160, (x) => [abs(x - 60) < 2 ? 0.1 : 0.75])
    const got = await through(kernels, p, [['ink-lines', { ...black, pen: 'technical', width: px(3), detail: px(5), light: 0, far: 0, blacks: 0 }]])
    expect(abs(inkAt(got, 80).place - 60)).toBeLessThan(0.6)
    expect(inkAt(got, 80).width).toBeLessThan(4)
  })

  test('dark masses are filled up to their tone, and no others', async () => {
    const p = painted(300, 200, (x) => [x < 150 ? 0.05 : 0.5])
    const part = { x: 30, y: 40, w: 80, h: 120 }
    const other = { x: 190, y: 40, w: 80, h: 120 }
    const filled = await through(kernels, p, [['ink-lines', { ...black, blacks: 0.5 }]])
    expect([meanOf(filled, 0, part), meanOf(filled, 0, other)]).toEqual([0, 1])
    const none = await through(kernels, p, [['ink-lines', { ...black, blacks: 0 }]])
    expect(meanOf(none, 0, part)).toBe(1)
  })

  test('a brush swells more than a technical pen, and a line on the shadow side is the broader one', async () => {
    // two edges of one contrast, one in the dark and one in the light
    const p = painted(300, 160, (x) => [x < 100 ? 0.45 : x < 200 ? 0.2 : 0.2 + (x - 200) * 0])
    const widths = async (pen: string, shadow: number) =>
      inkAt(await through(kernels, p, [['ink-lines', { ...black, pen, width: px(6), shadow, blacks: 0, light: 0, far: 0, detail: px(6) }]]), 80).width
    expect(abs((await widths('technical', 1)) - 6)).toBeLessThan(0.7)
    expect(await widths('brush', 1)).toBeGreaterThan((await widths('brush', 0)) * 1.2)
  })
})

describe('hatching', () => {
  test.each([
    ['pen', { tool: 'pen' }],
    ['pen, four layers along the forms', { tool: 'pen', layers: 4, follow: 'forms' }],
    ['soft lead', { tool: 'soft' }],
    ['hard lead', { tool: 'hard', darkest: 0.4 }],
  ] as const)('%s: a flat tone is covered as its curve asks, within 5 %% of the tone scale at its worst, and 2 %% on average', async (_, params) => {
    const p = { ...black, spacing: px(7), breadth: px(4.6), length: px(120), key: 0, bare: 0.3, darkest: 0.7, ...params }
    let off = 0
    const tones = [0.05, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7]
    for (const tone of tones) {
      const got = await through(
        kernels,
        painted(500, 500, () => [tone]),
        [['hatching', p]],
      )
      const covered = 1 - meanOf(got, 0, { x: 40, y: 40, w: 420, h: 420 })
      const asked = keyed(tone, 0.3, p.darkest)
      expect(abs(covered - asked)).toBeLessThan(0.05)
      off += covered - asked
    }
    expect(abs(off / tones.length)).toBeLessThan(0.02)
  })

  test('strokes run the way they are told, and lights are left bare', async () => {
    const p = painted(300, 300, (x) => [x < 150 ? 0.45 : 1])
    const got = await through(kernels, p, [
      ['hatching', { ...black, tool: 'pen', layers: 1, direction: 30, spacing: px(9), breadth: px(4), length: px(90), wobble: 0 }],
    ])
    expect(meanOf(got, 0, { x: 165, y: 0, w: 130, h: 300 })).toBe(1)
    const at = (x: number, y: number) => got.v[(Math.round(y) * 300 + Math.round(x)) * 4]! / 65535
    const change = (degrees: number) => {
      const [c, s] = [Math.cos((degrees * Math.PI) / 180), -Math.sin((degrees * Math.PI) / 180)]
      let sum = 0
      for (let y = 40; y < 260; y += 3) for (let x = 40; x < 120; x += 3) sum += abs(at(x, y) - at(x + 4 * c, y + 4 * s))
      return sum
    }
    expect(change(30)).toBeLessThan(0.4 * change(120))
  })

  test('no stroke crosses a found edge', async () => {
    // two fields of one tone, a lighter bar of one pixel's breadth would not part them: an edge does
    const p = painted(300, 200, (x) => [x < 150 ? 0.15 : 0.45])
    const got = await through(kernels, p, [
      ['hatching', { ...black, tool: 'pen', layers: 1, direction: 0, spacing: px(8), breadth: px(4), length: px(200), wobble: 0 }],
    ])
    // along each row of ink from the left, a gap stands at the edge
    let crossing = 0
    for (let y = 20; y < 180; y++) {
      let run = true
      for (let x = 145; x < 156; x++) if (got.v[(y * 300 + x) * 4]! > 0.5 * 65535) run = false
      if (run) crossing++
    }
    expect(crossing).toBeLessThan(8)
  })

  test('along the forms strokes bend round them', async () => {
    const rings = painted(300, 300, (x, y) => [0.4 + 0.2 * Math.sin(hypot(x - 150, y - 150) * 0.2)])
    const got = await through(kernels, rings, [
      ['hatching', { ...black, tool: 'pen', layers: 1, follow: 'forms', spacing: px(6), breadth: px(3), length: px(60), wobble: 0 }],
    ])
    const at = (x: number, y: number) => got.v[(Math.round(y) * 300 + Math.round(x)) * 4]! / 65535
    let [along, across] = [0, 0]
    for (let a = 0; a < 6.28; a += 0.03) {
      for (const r of [60, 75, 90, 105]) {
        const [c, s] = [Math.cos(a), Math.sin(a)]
        const here = at(150 + r * c, 150 + r * s)
        along += abs(here - at(150 + r * c - 3 * s, 150 + r * s + 3 * c))
        across += abs(here - at(150 + (r + 3) * c, 150 + (r + 3) * s))
      }
    }
    expect(along).toBeLessThan(0.75 * across)
  })

  test('so many strokes that nobody can have meant are a sentence before anything is laid', async () => {
    const { lay, defaults } = hatching as unknown as { lay: (w: object, p: object) => Promise<unknown>; defaults: object }
    const p = { ...defaults, layers: 4, spacing: 1, length: 60, breadth: 1, tooth: 4 }
    const work = { study: null, kernels, facts: undefined, extent: { x: 0, y: 0, w: 10_000, h: 10_000 }, pause: async () => undefined }
    await expect(lay(work, p)).rejects.toMatchObject({ code: 'too-many-marks', message: expect.stringMatching(/6\.7 million strokes.*further apart/) })
  })
})

describe('the silhouette of a cut-out', () => {
  const [N, R] = [900, 320]
  /** A disc of one tone, knitted: coarse enough to be seen, fine enough to be summarised. */
  const disc = (tone: number, knit: number) =>
    painted(N, N, (x, y) => {
      const v = tone + knit * Math.sin(x * 0.7) * Math.sin(y * 0.7)
      return hypot(x - N / 2, y - N / 2) < R ? [v, v, v, 1] : [1, 1, 1, 0]
    })
  /** Runs of ink from the middle outwards, as [from, to]. */
  const runs = ({ v, w }: Rgba, dx: number, dy: number): [number, number][] => {
    const out: [number, number][] = []
    let from = -1
    for (let d = 200; d < 360; d++) {
      const i = (Math.round(N / 2 + d * dy) * w + Math.round(N / 2 + d * dx)) * 4
      const inked = (v[i + 3]! / 65535) * (1 - v[i]! / 65535) > 0.5
      if (inked && from < 0) from = d
      if (!inked && from >= 0) {
        out.push([from, d])
        from = -1
      }
    }
    return out
  }
  const ways = Array.from({ length: 16 }, (_, i) => [Math.cos((i * Math.PI) / 8 + 0.1), Math.sin((i * Math.PI) / 8 + 0.1)] as const)

  test.each([
    ['ink-lines', { blacks: 0, width: px(5), detail: px(6), light: 0 }],
    ['contours', { weight: px(5), detail: px(6), light: 0 }],
  ] as const)('%s: is drawn as one line, within it', async (id, params) => {
    const got = await through(kernels, disc(0.6, 0.2), [[id, { ...black, pen: 'technical', far: 0, shadow: 0, ...params }]])
    for (const [dx, dy] of ways) {
      const found = runs(got, dx, dy)
      expect(found).toHaveLength(1)
      expect(found[0]![0]).toBeGreaterThan(R - 14)
      expect(found[0]![1]).toBeLessThanOrEqual(R + 2)
    }
  })

  test('ink lines: a black reaches it, and no line runs beside the black', async () => {
    const got = await through(kernels, disc(0.1, 0.09), [['ink-lines', { ...black, width: px(5), blacks: 0.5 }]])
    for (const [dx, dy] of ways) {
      const found = runs(got, dx, dy)
      expect(found).toHaveLength(1)
      expect(found[0]![0]).toBe(200)
      expect(abs(found[0]![1] - R)).toBeLessThan(4)
    }
  })

  test('hatching: is as dark at it as further in', async () => {
    const { v } = await through(kernels, disc(0.3, 0.1), [
      ['hatching', { ...black, tool: 'pen', spacing: px(6), breadth: px(4), length: px(80), layers: 2, key: 0, wobble: 0 }],
    ])
    const sums = [0, 0]
    const counts = [0, 0]
    for (let y = 0; y < N; y++)
      for (let x = 0; x < N; x++) {
        const d = hypot(x - N / 2, y - N / 2)
        const ring = d < 200 ? 0 : d > R - 24 && d < R - 8 ? 1 : -1
        if (ring < 0) continue
        sums[ring]! += 1 - v[(y * N + x) * 4]! / 65535
        counts[ring]!++
      }
    expect(abs((sums[1]! * counts[0]!) / (counts[1]! * sums[0]!) - 1)).toBeLessThan(0.1)
  })
})

test('ink lines: the border of a black is its line: none runs along it', async () => {
  // a dark mass whose border is a little lighter, as a rim of light makes it
  const p = painted(600, 300, (x) => [x < 300 ? 0.03 : x < 308 ? 0.35 : 0.85])
  const got = await through(kernels, p, [['ink-lines', { ...black, pen: 'technical', width: px(6), detail: px(3), blacks: 0.5, light: 0 }]])
  for (const y of [60, 150, 240]) {
    expect(inkAt(got, y, 0, 290).width).toBe(290)
    expect(inkAt(got, y, 304, 600).width).toBe(0)
  }
})

describe('ink lines in a texture', () => {
  const [w, h] = [600, 400]
  const line = (x: number, y: number, long: number): Crest => ({
    points: Array.from({ length: long }, (_, i) => ({ x: x + i, y, height: 1 })),
    meets: [false, false],
    closed: false,
  })
  const study = (detail: number) => ({ w, h, unit: 0.6, detail: { w, h, v: new Float32Array(w * h).fill(detail) } })
  const field = Array.from({ length: 13 * 5 }, (_, i) => line(20 + 48 * (i % 5), 100 + 12 * Math.floor(i / 5), 24))

  test('where short lines lie close a line must stand out of them; alone it need not, however long the others are elsewhere', () => {
    const [lone, longer, inside] = [line(420, 200, 24), line(60, 166, 120), field[31]!]
    const asked = textureOf(kernels, [...field, lone, longer], study(0), 8)
    expect(asked(lone)).toBe(0)
    expect(asked(inside)).toBeGreaterThan(24)
    expect(asked(longer)).toBeLessThan(120)
    // a field of none but lines as long as the longest asks for more than any of them has
    expect(asked(inside)).toBeLessThan(3 * 24)
  })

  test('a line of any length that lies alone is not held against itself', () => {
    for (const long of [8, 40, 200, 500]) {
      const lone = line(40, 200, long)
      expect(textureOf(kernels, [lone], study(0), 20)(lone)).toBeLessThan(0.2 * long)
    }
  })

  test('nothing is asked where details matter', () => {
    expect(textureOf(kernels, field, study(0.7), 8)(field[31]!)).toBe(0)
  })
})

describe('all line techniques', () => {
  const ids = ['hatching', 'ink-lines', 'contours', 'masses'] as const

  test.each(ids)('%s: a flat grey, a picture of 20 pixels and a cut-out with a clear middle give a picture', async (id) => {
    for (const p of [
      painted(200, 120, () => [0.5]),
      painted(20, 20, (x, y) => [((x * 7 + y * 3) % 11) / 11]),
      painted(1, 1, () => [0.3]),
      painted(160, 160, (x, y) => (hypot(x - 80, y - 80) < 30 ? [0, 0, 0, 0] : [0.3 + 0.002 * x])),
    ]) {
      const got = await through(kernels, p, [[id]])
      // what was clear stays so, what was not stays too
      for (let i = 3; i < p.v.length; i += 4) if (got.v[i] !== p.v[i]) throw new Error(`alpha at ${i}`)
    }
  })

  test.each(['hatching', 'ink-lines', 'contours'] as const)('%s: no mark is made by what is hidden in clear pixels', async (id) => {
    const cut = (hidden: number) => painted(160, 160, (x, y) => (hypot(x - 80, y - 80) < 50 ? [0.4, 0.4, 0.4, 1] : [hidden, hidden, 1 - hidden, 0]))
    const [a, b] = [await through(kernels, cut(0), [[id]]), await through(kernels, cut(1), [[id]])]
    expect(a.v).toEqual(b.v)
  })

  test.each(['hatching', 'ink-lines', 'contours'] as const)('%s: a pen broader than the picture gives a picture', async (id) => {
    const name = id === 'hatching' ? 'breadth' : id === 'contours' ? 'weight' : 'width'
    const face = await photoPart('keeper-portrait', { left: 430, top: 420, width: 120, height: 100 })
    const got = await through(kernels, face, [[id, { [name]: px(190) }]])
    expect(max(...got.v.slice(0, 4000))).toBeLessThanOrEqual(65535)
    expect(min(meanOf(got), 1)).toBeGreaterThanOrEqual(0)
  })
})

test('other work is let in between the parts of ink lines, and the more often the more lines there are', async () => {
  const [w, h] = [720, 480]
  const { lay } = inkLines as unknown as { lay: (work: unknown, params: unknown) => Promise<unknown> }
  /** How often it is paused after the crests are found: the blacks, what lies beside them, the texture, the lines. */
  const pausesOver = async (at: (x: number, y: number) => number) => {
    const pixels = new Uint8Array(w * h * 3).map((_, i) => at(Math.floor(i / 3) % w, Math.floor(i / 3 / w)))
    let [share, after] = [0, 0]
    const work = await layingOf(kernels, pixels, w, h)
    const pause = async () => void (share >= 0.85 && after++)
    await lay({ ...work, pause, progress: (v: number) => (share = v) }, { ...inkLines.defaults, width: 1, detail: 3, lines: 1, light: 0, blacks: 0 })
    return after
  }
  const [empty, bars] = [await pausesOver(() => 200), await pausesOver((x, y) => (x % 12 < 3 && y % 24 < 18 ? 20 : 230))]
  expect(empty).toBeGreaterThanOrEqual(3)
  expect(bars).toBeGreaterThan(empty + 2)
})
