import { allLayers } from '../artwork/layers.ts'
import { instantiate, madeBy } from '../artwork/recipe.ts'
import { stepById } from '../steps/registry.ts'
import { recipeById, recipes } from './registry.ts'
import { rgbOfHex } from '../colour/oklab.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Rgba } from '../testing/kernel-run.ts'
import { photoPart } from '../testing/photo.ts'
import { meanOf, painted, through } from '../testing/through.ts'

// What each recipe promises, on pictures made for it and on a part of a photo.

let kernels: Kernels
let face: Rgba
/** A part of it, for what is done to all recipes. */
let eyes: Rgba
beforeAll(async () => {
  kernels = await loadKernels()
  face = await photoPart('keeper-portrait', { left: 430, top: 420, width: 480, height: 400 })
  eyes = await photoPart('keeper-portrait', { left: 520, top: 470, width: 280, height: 220 })
})

/** A picture through a recipe. */
const made = (id: string, p: Rgba, values: Record<string, number | string> = {}): Promise<Rgba> =>
  through(kernels, p, [], (a) => madeBy(a, recipeById(id), values))
const at = (p: Rgba, x: number, y: number) => [0, 1, 2].map((c) => p.v[(y * p.w + x) * 4 + c]! / 65535)
const { abs, max, min } = Math
/** Deviation of the lightness over a picture. */
function spread(p: Rgba): number {
  let [sum, squares] = [0, 0]
  const n = p.v.length / 4
  for (let i = 0; i < n; i++) {
    const v = (0.2126 * p.v[i * 4]! + 0.7152 * p.v[i * 4 + 1]! + 0.0722 * p.v[i * 4 + 2]!) / 65535
    sum += v
    squares += v * v
  }
  return Math.sqrt(max(0, squares / n - (sum / n) ** 2))
}
/** The mean difference between pixels beside each other. */
function busy(p: Rgba): number {
  let sum = 0
  for (let y = 0; y < p.h; y++) for (let x = 1; x < p.w; x++) sum += abs(p.v[(y * p.w + x) * 4]! - p.v[(y * p.w + x - 1) * 4]!)
  return sum / (p.w * p.h) / 65535
}
/** How strong the colours are: largest less smallest channel, on average. */
function colourful({ v }: Rgba): number {
  let sum = 0
  for (let i = 0; i < v.length; i += 4) sum += max(v[i]!, v[i + 1]!, v[i + 2]!) - min(v[i]!, v[i + 1]!, v[i + 2]!)
  return sum / (v.length / 4) / 65535
}

test.each(recipes.map((r) => [r.id, r] as const))('%s gives its steps values that they take', (_, r) => {
  for (const { chain } of allLayers(r.layers))
    for (const { step, version, params } of chain) {
      const found = stepById(step)
      expect([step, Object.keys(params).filter((name) => found.version === version && !(name in found.params))]).toEqual([step, []])
      if (found.version === version) expect([step, found.schema.safeParse(params).error?.issues ?? []]).toEqual([step, []])
    }
})

test.each(recipes.map((r) => [r.id, r] as const))(
  '%s keeps the sheet opaque and has something to show at both ends of every control',
  async (_, r) => {
    // what is planned stroke by stroke takes its time
    const long = [...allLayers(r.layers)].some(({ chain }) => chain.some(({ step }) => stepById(step).group === 'paint' && stepById(step).kind === 'planned'))
    const photo = long ? eyes : face
    const start = await made(r.id, photo)
    expect(start.v.filter((v, i) => i % 4 === 3 && v !== 65535)).toHaveLength(0)
    for (const c of r.controls) {
      const ends = c.kind.type === 'number' ? [c.kind.min, c.kind.max] : c.kind.type === 'choice' ? c.kind.options.map((o) => o.value) : []
      const pictures = await Promise.all(ends.map((v) => made(r.id, photo, { [c.id]: v })))
      for (const p of pictures) expect([r.id, c.id, spread(p) > 0.02]).toEqual([r.id, c.id, true])
      // a control that changes nothing is none
      const differ = pictures[0]!.v.reduce((n, v, i) => n + (abs(v - pictures.at(-1)!.v[i]!) > 1300 ? 1 : 0), 0)
      expect([r.id, c.id, differ / photo.v.length > 0.01]).toEqual([r.id, c.id, true])
    }
  },
  300_000,
)

describe('graphite', () => {
  test('is grey, leaves the paper empty where nothing is, and has a dark accent', async () => {
    const got = await made('graphite', face)
    expect(colourful(got)).toBeLessThan(0.002)
    const tones = Array.from({ length: got.v.length / 4 }, (_, i) => got.v[i * 4]! / 65535).sort((a, b) => a - b)
    expect(tones[Math.floor(tones.length * 0.01)]!).toBeLessThan(0.2)
    const even = await made(
      'graphite',
      painted(300, 240, () => [0.8]),
    )
    expect(meanOf(even)).toBeGreaterThan(0.9)
  })

  test('darker midtones are darker', async () => {
    const tone = async (darkness: number) => meanOf(await made('graphite', face, { darkness }))
    expect(await tone(90)).toBeLessThan((await tone(10)) - 0.05)
  })
})

describe('wash and ink', () => {
  test('the wash has no black: a dark colour keeps its hue and grows light, the ink brings the dark back', async () => {
    const dark = painted(300, 240, () => [0.3, 0.06, 0.05])
    const wash = await made('wash-and-ink', dark, { ink: 0, darks: 0, colour: 100 })
    const [r, g] = at(wash, 150, 120)
    expect(r! - g!).toBeGreaterThan(0.25)
    expect(r!).toBeGreaterThan(0.6)
    const inked = await made('wash-and-ink', dark, { ink: 100, darks: 100, colour: 100 })
    expect(meanOf(inked)).toBeLessThan(meanOf(wash) - 0.25)
  })

  test('white stays paper; the ink has its colour', async () => {
    const paper = await made(
      'wash-and-ink',
      painted(300, 240, () => [1]),
    )
    expect(meanOf(paper)).toBeGreaterThan(0.85)
    const black = painted(300, 240, () => [0])
    const inked = await made('wash-and-ink', black, { hand: 'indigo', ink: 100, colour: 0, darks: 100 })
    expect(meanOf(inked, 2)).toBeGreaterThan(meanOf(inked, 0) + 0.05)
  })

  test('a wash that runs together is softer', async () => {
    const soft = async (wash: number) => busy(await made('wash-and-ink', face, { wash, ink: 0, darks: 0 }))
    expect(await soft(100)).toBeLessThan(0.93 * (await soft(0)))
  })
})

describe('newspaper print', () => {
  test('the tone of the paper is kept on the whole, in ink and paper', async () => {
    // levels with a midtone of 1.15, then dots whose area is the tone: what is left of the paper is tone^(1/1.15)
    const [ink, paper] = [rgbOfHex('#24211e'), rgbOfHex('#fbfaf7')]
    for (const tone of [0.9, 0.5, 0.1]) {
      const bare = tone ** (1 / 1.15)
      const got = await made(
        'newspaper-print',
        painted(400, 300, () => [tone]),
        { stock: 'white', contrast: 0 },
      )
      for (const c of [0, 1, 2] as const) expect(abs(meanOf(got, c) - (paper[c] * bare + ink[c] * (1 - bare)))).toBeLessThan(0.025)
    }
  })

  test('a finer screen changes from dot to paper more often; newsprint is warm, salmon pink', async () => {
    const often = async (screen: number) => busy(await made('newspaper-print', face, { screen }))
    expect(await often(95)).toBeGreaterThan(1.25 * (await often(5)))
    for (const stock of ['newsprint', 'salmon']) {
      const got = await made(
        'newspaper-print',
        painted(300, 240, () => [1]),
        { stock },
      )
      expect(meanOf(got, 0) - meanOf(got, 2)).toBeGreaterThan(0.04)
    }
  })

  test('four inks print colours, one ink none', async () => {
    const red = painted(300, 240, () => [0.85, 0.15, 0.1])
    const four = await made('newspaper-print', red, { inks: 'four', stock: 'white' })
    expect(meanOf(four, 0) - meanOf(four, 1)).toBeGreaterThan(0.3)
    const one = await made('newspaper-print', red, { inks: 'one', stock: 'white' })
    expect(abs(meanOf(one, 0) - meanOf(one, 1))).toBeLessThan(0.02)
  })
})

describe('photogram', () => {
  // dark and light, neither quite even: the share that turns black is counted
  const halves = painted(300, 240, (x, y) => [(x < 150 ? 0.02 : 0.9) + (0.06 * ((y * 7) % 240)) / 240])

  test('what was light is dark, as on paper exposed through the thing; the other way round where wanted', async () => {
    const negative = await made('photogram', halves, { glow: 0 })
    expect(at(negative, 40, 120)[1]!).toBeGreaterThan(at(negative, 260, 120)[1]! + 0.5)
    const positive = await made('photogram', halves, { glow: 0, side: 'positive' })
    expect(at(positive, 40, 120)[1]!).toBeLessThan(at(positive, 260, 120)[1]! - 0.5)
  })

  test.each([
    [0, 0.22],
    [50, 0.5],
    [100, 0.8],
  ])('exposure %d: so much of the paper is black as the recipe says (%d)', async (light, share) => {
    const got = await made('photogram', face, { light, glow: 0, lift: 0 })
    let dark = 0
    for (let i = 0; i < got.v.length; i += 4) if (got.v[i]! < 32768) dark++
    expect(abs(dark / (face.w * face.h) - share)).toBeLessThan(0.04)
  })

  test('a thing that stands off the paper has a soft edge', async () => {
    const between = async (lift: number) => {
      const got = await made('photogram', halves, { lift, glow: 0 })
      return Array.from({ length: 300 }, (_, x) => at(got, x, 120)[1]!).filter((v) => v > 0.2 && v < 0.8).length
    }
    expect(await between(100)).toBeGreaterThan(await between(0))
  })

  test('iron blue is blue, sepia brown, silver grey', async () => {
    const tint = async (tone: string) => {
      const got = await made('photogram', face, { tone })
      return meanOf(got, 2) - meanOf(got, 0)
    }
    expect(await tint('blue')).toBeGreaterThan(0.02)
    expect(await tint('sepia')).toBeLessThan(-0.02)
    expect(abs(await tint('silver'))).toBeLessThan(0.01)
  })
})

describe('pixel mosaic', () => {
  test('shows blocks that are flat, about sixty across at its middle', async () => {
    const got = await made('pixel-mosaic', face)
    const changes = Array.from({ length: face.w - 1 }, (_, x) => at(got, x + 1, 200).some((v, c) => abs(v - at(got, x, 200)[c]!) > 0.004)).filter(
      Boolean,
    ).length
    expect(changes).toBeGreaterThan(35)
    expect(changes).toBeLessThan(90)
  })

  test('fewer blocks are larger, and the colours come in with their strength', async () => {
    expect(busy(await made('pixel-mosaic', face, { blocks: 95 }))).toBeLessThan(busy(await made('pixel-mosaic', face, { blocks: 5 })))
    const plain = await made('pixel-mosaic', face, { strength: 0 })
    const full = await made('pixel-mosaic', face, { strength: 100 })
    const off = async (p: Rgba) => p.v.reduce((s, v, i) => s + abs(v - plain.v[i]!), 0) / p.v.length / 65535
    expect(await off(full)).toBeGreaterThan(0.012)
    expect(await off(await made('pixel-mosaic', face, { strength: 30 }))).toBeLessThan(await off(full))
  })
})

describe('gapped tiles', () => {
  test.each([20, 60, 100])('joints (at %d) cover the share of the sheet that their width and the tiles’ size make', async (joint) => {
    const { layers } = instantiate(recipeById('gapped-tiles'), { type: 'open-photo' }, { joint })
    const { params } = layers[0]!.chain.find((s) => s.step === 'pixel-blocks')!
    const pixels = (name: string) => ((params[name] as { value: number }).value / 100) * 480
    const want = 1 - (1 - pixels('joint') / pixels('width')) * (1 - pixels('joint') / pixels('height'))
    const got = await made(
      'gapped-tiles',
      painted(480, 400, () => [0.1, 0.2, 0.7]),
      { joint, grout: 'lime' },
    )
    let grout = 0
    for (let i = 0; i < got.v.length; i += 4) if (got.v[i]! > 32768) grout++
    // tiles and joints are of whole pixels
    expect(abs(grout / (480 * 400) - want)).toBeLessThan(0.5 / pixels('width') + 0.5 / pixels('height'))
  })

  test('straight rows have joints one above the other, staggered ones not', async () => {
    // the columns that are joint from top to bottom
    const through = async (bond: string) => {
      const got = await made(
        'gapped-tiles',
        painted(480, 400, () => [0.1, 0.2, 0.7]),
        { bond, joint: 60, size: 60 },
      )
      return Array.from({ length: 480 }, (_, x) => min(...Array.from({ length: 40 }, (_, j) => at(got, x, j * 10)[0]!))).filter((v) => v > 0.4).length
    }
    expect(await through('straight')).toBeGreaterThan(10)
    expect(await through('half')).toBe(0)
  })
})

describe('retro poster', () => {
  it('is printed of the inks of its set alone, in shapes: without its grain nothing lies between them but rims', async () => {
    const set = ['#16262e', '#2f5560', '#7d9a94', '#c8573a', '#e2b35a', '#f3e6c9'].map((c) =>
      rgbOfHex(c)
        .map((v) => Math.round(v * 255))
        .join(),
    )
    const p = await made('retro-poster', face, { set: 'harbour', grain: 0 })
    let own = 0
    const found = new Set<string>()
    for (let i = 0; i < p.v.length; i += 4) {
      const c = [0, 1, 2].map((k) => Math.round(p.v[i + k]! / 257)).join()
      if (!set.includes(c)) continue
      own++
      found.add(c)
    }
    expect(own / (p.v.length / 4)).toBeGreaterThan(0.93)
    expect(found.size).toBeGreaterThan(3)
    // grain is on the ink, and does not change it on the whole
    const grained = await made('retro-poster', face, { set: 'harbour', grain: 100 })
    expect(busy(grained)).toBeGreaterThan(2 * busy(p))
    expect(abs(meanOf(grained) - meanOf(p))).toBeLessThan(0.02)
  })

  it('of small shapes holds more borders than of large ones', async () => {
    const [few, many] = [await made('retro-poster', face, { shapes: 0, grain: 0 }), await made('retro-poster', face, { shapes: 100, grain: 0 })]
    expect(busy(many)).toBeGreaterThan(1.3 * busy(few))
  })
})
