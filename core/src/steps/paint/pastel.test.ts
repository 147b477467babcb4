import { srgbToLinear } from '../../colour/srgb.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { MarkList, type Marks } from '../../paths/marks.ts'
import { layingOf } from '../../testing/laying.ts'
import { drawPigments, type DryPigment } from './dry-pigment.ts'
import { pastelled, type Boxed, type Hand } from './pastel.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

const [W, H] = [180, 120]
const sticks = ['#1c1a20', '#4a4038', '#8a6a48', '#c8a070', '#f4efe2']
const hand: Hand = { stick: 7, rubbed: 0.5, closeness: 0.7, key: 0, vivid: 0.5, hand: 48, length: 40, wobble: 0.3, paper: '#8c8276', seed: 6 }

/** A grey picture, by its codes. */
const grey = (code: (x: number, y: number) => number) => Uint8Array.from({ length: W * H * 3 }, (_, i) => code(Math.floor(i / 3) % W, Math.floor(i / 3 / W)))
async function pastelOf(pixels: Uint8Array, change: Partial<Hand> = {}, box = sticks) {
  const work = await layingOf(kernels, pixels, W, H)
  return { work, ...(await pastelled({ ...work, facts: { ...work.facts, sticks: box } as Boxed }, { ...hand, ...change })) }
}
/** The places of each mark. */
function* linesOf({ points, starts }: Marks): Generator<[x: number, y: number][]> {
  for (let k = 0; k + 1 < starts.length; k++)
    yield Array.from({ length: starts[k + 1]! - starts[k]! }, (_, i) => [points[(starts[k]! + i) * 4]!, points[(starts[k]! + i) * 4 + 1]!])
}
/** Those of the strokes: behind what is blocked in, before the accents. */
const strokesOf = (pigments: readonly DryPigment[]) => pigments.slice(-sticks.length - 1, -1)

test('strokes run along the forms, and where there are none as the hand goes', async () => {
  // bands that rise to the right by 30°
  const turned = (deg: number) => [Math.cos((deg * Math.PI) / 180), -Math.sin((deg * Math.PI) / 180)] as const
  const [ax, ay] = turned(30)
  const bands = await pastelOf(grey((x, y) => 128 + 90 * Math.sign(Math.sin((-x * ay + y * ax) / 6))))
  const along = (pigments: readonly DryPigment[], [u, v]: readonly [number, number]) => {
    let [sum, long] = [0, 0]
    for (const { marks } of strokesOf(pigments))
      for (const line of linesOf(marks)) {
        const [a, b] = [line[0]!, line.at(-1)!]
        const way = Math.hypot(b[0] - a[0], b[1] - a[1])
        if (way < 8) continue
        sum += Math.abs((b[0] - a[0]) * u + (b[1] - a[1]) * v)
        long += way
      }
    return sum / long
  }
  expect(along(bands.pigments, [ax, ay])).toBeGreaterThan(0.93)
  const flat = await pastelOf(
    grey(() => 60),
    { hand: 20, wobble: 0 },
  )
  expect(along(flat.pigments, turned(20))).toBeGreaterThan(0.96)
})

test('no stroke goes over from dark to light', async () => {
  const { pigments } = await pastelOf(grey((x) => (x < 90 ? 25 : 230)))
  let [all, over] = [0, 0]
  for (const { marks } of strokesOf(pigments))
    for (const line of linesOf(marks)) {
      const xs = line.map(([x]) => x)
      all++
      if (Math.min(...xs) < 90 - 6 && Math.max(...xs) > 90 + 6) over++
    }
  expect(all).toBeGreaterThan(100)
  expect(over / all).toBeLessThan(0.01)
})

test('sticks are laid from dark to light, each where it is the one that comes nearest', async () => {
  const { pigments } = await pastelOf(grey((x) => (x < 90 ? 30 : 235)))
  const strokes = strokesOf(pigments)
  const lightness = strokes.map((s) => ('covers' in s ? s.covers[0] + s.covers[1] + s.covers[2] : 0))
  expect(lightness).toEqual([...lightness].sort((a, b) => a - b))
  const middle = (marks: Marks) => {
    let [sum, n] = [0, 0]
    for (const line of linesOf(marks))
      for (const [x] of line) {
        sum += x
        n++
      }
    return n ? sum / n : NaN
  }
  expect(middle(strokes[0]!.marks)).toBeLessThan(90)
  expect(middle(strokes.at(-1)!.marks)).toBeGreaterThan(90)
})

test('where the photo is as the paper is, the paper does most', async () => {
  const laid = async (code: number) => {
    const { pigments } = await pastelOf(grey(() => code))
    let sum = 0
    for (const { marks } of strokesOf(pigments)) for (let i = 3; i < marks.points.length; i += 4) sum += marks.points[i]!
    return sum
  }
  // #8c8276 is about as light as 130
  expect(await laid(131)).toBeLessThan(0.5 * (await laid(30)))
})

/** A square on which pigments are drawn: the mean of each linear channel. */
function meanOf(pigments: DryPigment[], on: { wiped?: number; most?: number }, rubbed?: [number, number, number]): number[] {
  const side = 300
  const region = { x: 0, y: 0, w: side, h: side }
  return kernels.scratch(side * side * 16, (at) => {
    kernels.u16(at, side * side * 4).fill(65535)
    const input = { ptr: at, stride: side * 8, region }
    const output = { ptr: at + side * side * 8, stride: side * 8, region }
    const ground = rubbed && { w: 1, h: 1, values: Float32Array.from([...rubbed, 0]) }
    drawPigments(
      kernels,
      pigments,
      { input, output, level: 0, extent: region, quick: false },
      { paper: '#ffffff', tooth: 6, soft: 0.5, catches: 0.9, seed: 3, ...(ground ? { rubbed: ground } : {}), ...on },
    )
    const v = kernels.u16(output.ptr, side * side * 4)
    const sums = [0, 0, 0]
    for (let i = 0; i < v.length; i += 4) for (let c = 0; c < 3; c++) sums[c]! += srgbToLinear(v[i + c]! / 65535, kernels.raw.pow)
    return sums.map((s) => s / (side * side))
  })
}

test('what is rubbed in is wiped off the hills: over all depths, of half of it a quarter', () => {
  const pigments: DryPigment[] = [{ marks: new MarkList().done({ x: 0, y: 0, w: 300, h: 300 }), covers: [0, 0, 0] }]
  expect(meanOf(pigments, { wiped: 0 }, [0.2, 0.4, 0.6])[0]).toBeCloseTo(0.2, 2)
  const [r, g, b] = meanOf(pigments, { wiped: 0.5 }, [0.2, 0.4, 0.6])
  // depths are uniform: the mean of 1 − 0.5 (1 − depth) is three quarters
  for (const [got, full] of [
    [r, 0.2],
    [g, 0.4],
    [b, 0.6],
  ] as const)
    expect(got).toBeCloseTo(1 - 0.75 * (1 - full), 1)
})

test('however much is laid, the deepest hollows stay open', () => {
  const covered = (weight: number, most?: number) => {
    const list = new MarkList()
    for (let k = 0; k < 4; k++) {
      list.place(-400, 150, 600, weight)
      list.place(700, 150, 600, weight)
      list.end()
    }
    return 1 - meanOf([{ marks: list.done({ x: -500, y: -500, w: 1300, h: 1300 }), covers: [0, 0, 0] }], most === undefined ? {} : { most })[0]!
  }
  expect(covered(1)).toBeCloseTo(1, 3)
  expect(covered(1, 0.8)).toBeCloseTo(0.8, 1)
  // below that nothing changes
  expect(covered(0.1, 0.8)).toBe(covered(0.1))
})
