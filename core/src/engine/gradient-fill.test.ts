import { converter, interpolate } from 'culori'
import { mixedStops, newGradient, newLayer } from '../artwork/layers.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import { perform } from '../artwork/commands.ts'
import type { Source } from '../artwork/schema.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, newTestEngine, stripGrid } from '../testing/pictures.ts'

const convert = converter('rgb')
const [W, H] = [200, 100]
let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})
type Gradient = Extract<Source, { type: 'gradient' }>
const artwork = (given: Partial<Gradient>) => ({
  ...artworkFromPhoto({ asset: 'a'.repeat(64), width: W, height: H, title: 't' }),
  layers: [newLayer('Gradient', { ...newGradient, ...given }, [], 'g')],
})
const shown = async (given: Partial<Gradient>, options: Parameters<typeof compute>[2] = {}) =>
  (await compute(newTestEngine(kernels, new MemorySources()), artwork(given), options)).pixels
const two: Gradient['stops'] = [
  [0, '#d03020', 1],
  [1, '#2040c0', 1],
]

test('straight: each pixel has the colour of its place along the way, mixed in OKLab as culori mixes it', async () => {
  const got = await shown({ stops: two, from: { x: 0.1, y: 0.2 }, to: { x: 0.8, y: 0.7 } })
  const mix = interpolate(['#d03020', '#2040c0'], 'oklab')
  const [ax, ay, bx, by] = [20, 20, 160, 70]
  for (const [x, y] of [
    [5, 5],
    [60, 40],
    [100, 50],
    [150, 20],
    [199, 99],
  ] as const) {
    const t = ((x + 0.5 - ax) * (bx - ax) + (y + 0.5 - ay) * (by - ay)) / ((bx - ax) ** 2 + (by - ay) ** 2)
    const { r, g, b } = convert(mix(Math.min(1, Math.max(0, t))))
    ;[r, g, b].forEach((v, c) => expect(got[(y * W + x) * 4 + c]! / 65535).toBeCloseTo(Math.min(1, Math.max(0, v)), 3))
  }
})

test('round: by the distance from its middle; beyond its rim the last colour, again, or back and forth', async () => {
  const grey: Gradient['stops'] = [
    [0, '#000000', 1],
    [1, '#ffffff', 1],
  ]
  const from = { x: 0.5, y: 0.5 }
  const to = { x: 0.6, y: 0.5 }
  const along = async (beyond: Gradient['beyond']) => {
    const p = await shown({ shape: 'round', stops: grey, from, to, beyond })
    return (x: number) => p[(50 * W + x) * 4]! / 65535
  }
  const [last, repeat, mirror] = [await along('last colour'), await along('repeat'), await along('mirror')]
  // 20 pixels to the rim: the same a whole way further, the other way round half a way back
  expect(last(135)).toBe(1)
  expect(repeat(104)).toBeCloseTo(repeat(124), 2)
  expect(mirror(110)).toBeCloseTo(mirror(129), 1)
  expect(last(108)).toBeCloseTo(last(91), 3)
})

test('a stop that is clear lends no colour: half way it is the other, half clear', async () => {
  const got = await shown({
    stops: [
      [0, '#ff0000', 1],
      [1, '#0000ff', 0],
    ],
    from: { x: 0, y: 0 },
    to: { x: 1, y: 0 },
  })
  const at = (x: number, c: number) => got[(10 * W + x) * 4 + c]! / 65535
  expect(at(100, 0)).toBeCloseTo(1, 3)
  expect(at(100, 2)).toBeCloseTo(0, 3)
  expect(at(100, 3)).toBeCloseTo(0.4975, 2)
})

test('the same by tiles, by strips and at once; reduced, what the full size shows', async () => {
  const given = { stops: two, from: { x: 0.3, y: 0.1 }, to: { x: 0.6, y: 0.9 } }
  for (const level of [0, 1, 2]) {
    const whole = await shown(given, { level })
    for (const grid of [{ w: 13, h: 7 }, stripGrid(3)]) expect(await shown(given, { level, grid })).toEqual(whole)
  }
  const [full, half] = [await shown(given), await shown(given, { level: 1 })]
  for (let i = 0; i < 40; i++) expect(Math.abs(half[(20 * 100 + i) * 4]! - full[(40 * W + 2 * i) * 4]!)).toBeLessThan(900)
})

test('stops keep their cover when they are moved; a new one has what was there', () => {
  const before: Gradient['stops'] = [
    [0, '#000000', 1],
    [1, '#ffffff', 0],
  ]
  expect(
    mixedStops(before, [
      [0.2, '#111111'],
      [1, '#ffffff'],
    ]),
  ).toEqual([
    [0.2, '#111111', 1],
    [1, '#ffffff', 0],
  ])
  expect(
    mixedStops(before, [
      [0, '#000000'],
      [0.25, '#888888'],
      [1, '#ffffff'],
    ])[1],
  ).toEqual([0.25, '#888888', 0.75])
})

test('a gradient out of order, of one stop or from nowhere is told', () => {
  const a = artwork({})
  const put = (change: Partial<Gradient>) => () => perform(a, { type: 'set-gradient', layer: 'g', change })
  expect(put({ stops: [[0, '#000000', 1]] })).toThrow(/two stops at least/)
  expect(
    put({
      stops: [
        [0.5, '#000000', 1],
        [0.2, '#000000', 1],
      ],
    }),
  ).toThrow(/one after the other/)
  expect(put({ from: { x: NaN, y: 0 } })).toThrow(/near the sheet/)
  expect(put({ from: { x: 0, y: 0 }, to: { x: 0, y: 0 } })).not.toThrow()
})
