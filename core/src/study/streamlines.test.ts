import { streamlines, type StreamRules, type Streamlines } from './streamlines.ts'

const breathe = async () => undefined
const chance = (i: number, j: number) => {
  const h = Math.imul(i * 374761393 + j * 668265263 + 12345, 1274126177)
  return ((h ^ (h >>> 15)) >>> 0) / 4294967296
}
const rules = (more: Partial<StreamRules> = {}): StreamRules => ({
  w: 200,
  h: 150,
  apart: 6,
  nearest: 0.6,
  step: 1.5,
  direction: (_x, _y, out) => {
    out.x = 0.8
    out.y = 0.6
  },
  share: () => 1,
  passes: () => true,
  longest: () => 60,
  shortest: () => 8,
  least: 1 / 6,
  chance,
  ...more,
})
const circling: Partial<StreamRules> = {
  direction: (x, y, out) => {
    const [dx, dy] = [x - 100, y - 75]
    const long = Math.hypot(dx, dy) || 1
    out.x = -dy / long
    out.y = dx / long
  },
}
const linesOf = ({ points, starts }: Streamlines) =>
  Array.from({ length: starts.length - 1 }, (_, k) =>
    Array.from({ length: starts[k + 1]! - starts[k]! }, (_, i) => ({ x: points[(starts[k]! + i) * 2]!, y: points[(starts[k]! + i) * 2 + 1]! })),
  )

test.each([
  ['straight', {}],
  ['round a middle', circling],
])('%s: no place is nearer to another line than its bound, and hardly any further than twice the distance', async (_, more) => {
  const r = rules(more)
  const lines = linesOf(await streamlines(r, breathe))
  const all = lines.flatMap((line, k) => line.map((p) => ({ ...p, k })))
  expect(lines.length).toBeGreaterThan(30)
  // squares of distances, in plain loops: there are many pairs
  let nearest = 1e9
  for (let i = 0; i < all.length; i++)
    for (let j = i + 1; j < all.length; j++) {
      const [p, q] = [all[i]!, all[j]!]
      if (p.k === q.k) continue
      const d = (p.x - q.x) * (p.x - q.x) + (p.y - q.y) * (p.y - q.y)
      if (d < nearest) nearest = d
    }
  expect(Math.sqrt(nearest)).toBeGreaterThanOrEqual(r.nearest * r.apart - 1e-4)
  // no place is further from all lines than the distance and a half
  const far = (1.5 * r.apart) ** 2
  let bare = 0
  for (let y = 4; y < 146; y += 4) for (let x = 4; x < 196; x += 4) if (!all.some((p) => (p.x - x) * (p.x - x) + (p.y - y) * (p.y - y) < far)) bare++
  expect(bare).toBe(0)
})

test('lines run the way they are told, as long as they may, and neighbours begin at different places', async () => {
  const lines = linesOf(await streamlines(rules(), breathe))
  let off = 0
  for (const line of lines) {
    for (let i = 1; i < line.length; i++) {
      const [dx, dy] = [line[i]!.x - line[i - 1]!.x, line[i]!.y - line[i - 1]!.y]
      off = Math.max(off, Math.abs(Math.abs(dx * 0.8 + dy * 0.6) - 1.5))
    }
    expect((line.length - 1) * 1.5).toBeLessThanOrEqual(60 + 3)
    expect((line.length - 1) * 1.5).toBeGreaterThanOrEqual(8)
  }
  expect(off).toBeLessThan(1e-3)
  const starts = lines.map((l) => Math.round(l[0]!.x * 0.8 + l[0]!.y * 0.6))
  expect(new Set(starts).size).toBeGreaterThan(lines.length * 0.4)
})

test('they end where they are not wanted and at what they may not pass', async () => {
  const left = linesOf(await streamlines(rules({ share: (x) => (x < 90 ? 1 : 0) }), breathe)).flat()
  expect(Math.max(...left.map((p) => p.x))).toBeLessThan(90)
  const wall = linesOf(await streamlines(rules({ passes: (x, _y, dx) => !(x < 100 !== x + dx < 100) }), breathe))
  for (const line of wall) expect(new Set(line.map((p) => p.x < 100)).size).toBe(1)
  expect(wall.filter((l) => l[0]!.x < 100).length).toBeGreaterThan(10)
  expect(wall.filter((l) => l[0]!.x >= 100).length).toBeGreaterThan(10)
})

test('where a share of the lines is wanted, so much is drawn', async () => {
  for (const more of [{}, circling]) {
    const count = async (share: number) => linesOf(await streamlines(rules({ ...more, share: () => share }), breathe)).flat().length
    const full = await count(1)
    for (const share of [0.7, 0.4, 0.2]) expect(Math.abs((await count(share)) / full / share - 1)).toBeLessThan(0.25)
    expect(await count(0.1)).toBe(0)
  }
})

test('the same rules lay the same lines, and giving up half-way is possible', async () => {
  const [a, b] = [await streamlines(rules(circling), breathe), await streamlines(rules(circling), breathe)]
  expect(a).toEqual(b)
  let n = 0
  const tired = async () => {
    if (++n > 3) throw new Error('no longer wanted')
  }
  await expect(streamlines(rules({ w: 2000, h: 1500 }), tired)).rejects.toThrow('no longer wanted')
})

test('the work grows with the area', async () => {
  const pauses = async (w: number) => {
    let count = 0
    await streamlines(rules({ w, h: 400 }), async () => void count++)
    return count
  }
  expect(await pauses(1600)).toBeLessThan(5 * (await pauses(400)))
})
