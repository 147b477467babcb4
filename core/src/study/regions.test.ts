import { loadKernels } from '../kernels/load-node.ts'
import { dice } from '../testing/pictures.ts'
import { calmed, counted, fewer, merged, meansBy, withoutRims, type Labels } from './regions.ts'

const [W, H] = [60, 40]
function pebbles(seed: number, kinds: number): Labels {
  const roll = dice(seed)
  const spots = Array.from({ length: 40 }, () => [roll() * W, roll() * H, Math.floor(roll() * kinds)] as const)
  const of = Uint8Array.from({ length: W * H }, (_, i) => {
    const [x, y] = [i % W, Math.floor(i / W)]
    if (roll() < 0.05) return Math.floor(roll() * kinds)
    return spots.reduce((best, s) => (Math.hypot(s[0] - x, s[1] - y) < Math.hypot(best[0] - x, best[1] - y) ? s : best))[2]
  })
  return { w: W, h: H, of }
}
/** Areas of all pieces, by a flood of each. */
function areas({ w, h, of }: Labels): number[] {
  const seen = new Uint8Array(of.length)
  const found: number[] = []
  for (let first = 0; first < of.length; first++) {
    if (seen[first]) continue
    let n = 0
    const open = [first]
    seen[first] = 1
    while (open.length) {
      const i = open.pop()!
      n++
      for (const [dx, dy] of [
        [1, 0],
        [-1, 0],
        [0, 1],
        [0, -1],
      ] as const) {
        // prettier-ignore
        const [x, y] = [(i % w) + dx, Math.floor(i / w) + dy]
        const k = y * w + x
        if (x < 0 || y < 0 || x >= w || y >= h || seen[k] || of[k] !== of[i]) continue
        seen[k] = 1
        open.push(k)
      }
    }
    found.push(n)
  }
  return found
}

test.each([1, 2, 3])('regions are merged until none is smaller than it may be; those that are large enough stay (%i)', (seed) => {
  const labels = pebbles(seed, 5)
  expect(Math.min(...areas(labels))).toBe(1)
  const out = merged(labels, 25, (a, b) => Math.abs(a - b) / 5)
  // brute force: a flood of each piece
  expect(Math.min(...areas(out))).toBeGreaterThanOrEqual(25)
  // one alone in the middle of a large one goes over to it, whatever else there is
  const lone = { w: 9, h: 9, of: new Uint8Array(81) }
  lone.of[40] = 3
  expect(
    counted(
      merged(lone, 4, () => 1),
      4,
    ),
  ).toEqual([81, 0, 0, 0])
  expect(merged(labels, 0, () => 1).of).toEqual(labels.of)
})

test('of two neighbours with as much border a piece goes over to the one that is more like it', () => {
  // left 0, right 4, between them a column of 3
  const of = Uint8Array.from({ length: 7 * 5 }, (_, i) => (i % 7 < 3 ? 0 : i % 7 === 3 ? 3 : 4))
  expect(
    counted(
      merged({ w: 7, h: 5, of }, 8, (a, b) => Math.abs(a - b) / 5),
      5,
    ),
  ).toEqual([15, 0, 0, 0, 20])
})

test('calmed, single pixels are gone and large pieces stay', async () => {
  const kernels = await loadKernels()
  const of = Uint8Array.from({ length: W * H }, (_, i) => (i % W < 30 ? 1 : 0))
  of[20 * W + 10] = 0
  const out = await calmed(kernels, { w: W, h: H, of }, 2, 1.5, async () => undefined)
  expect(counted(out, 2)).toEqual([(W * H) / 2, (W * H) / 2])
  expect(meansBy(out, 2, (x) => x / W)[1]!).toBeCloseTo(14.5 / 60, 5)
})

describe('borders that cost more than the colours they keep apart', () => {
  const kinds = [0, 1, 2, 3, 4].map((k) => [k / 5, (k % 2) * 0.1, 0] as const)
  const weight = (i: number) => 0.5 + (i % 7) / 7
  function planesOf({ of }: Labels, seed: number): [Float32Array, Float32Array, Float32Array] {
    const roll = dice(seed)
    return [0, 1, 2].map((c) => Float32Array.from(of, (k) => kinds[k]![c]! + (roll() - 0.5) * 0.3)) as [Float32Array, Float32Array, Float32Array]
  }
  /** The cost as it is written down: squared differences of all pixels, and the length of all borders. */
  function cost({ w, of }: Labels, planes: readonly Float32Array[], border: number): number {
    let sum = 0
    for (let i = 0; i < of.length; i++) {
      for (let c = 0; c < 3; c++) sum += weight(i) * (planes[c]![i]! - kinds[of[i]!]![c]!) ** 2
      if ((i + 1) % w && of[i] !== of[i + 1]) sum += border
      if (i + w < of.length && of[i] !== of[i + w]) sum += border
    }
    return sum
  }
  test.each([1, 2, 3])('go, until no region could go over to a neighbour for less (%i)', (seed) => {
    const labels = pebbles(seed, 5)
    const planes = planesOf(labels, seed)
    for (const border of [0.02, 0.1]) {
      const out = fewer(labels, planes, kinds, border, weight)
      const before = cost(labels, planes, border)
      const after = cost(out, planes, border)
      expect(after).toBeLessThan(before)
      // brute force: each piece flooded with each kind beside it
      const seen = new Uint8Array(out.of.length)
      for (let first = 0; first < seen.length; first++) {
        if (seen[first]) continue
        const piece: number[] = []
        const beside = new Set<number>()
        const open = [first]
        seen[first] = 1
        while (open.length) {
          const i = open.pop()!
          piece.push(i)
          const around = [i % W ? i - 1 : -1, (i + 1) % W ? i + 1 : -1, i - W, i + W].filter((n) => n >= 0 && n < seen.length)
          for (const n of around) {
            if (out.of[n] !== out.of[i]) beside.add(out.of[n]!)
            else if (!seen[n]) {
              seen[n] = 1
              open.push(n)
            }
          }
        }
        for (const kind of beside) {
          const other = { ...out, of: Uint8Array.from(out.of) }
          for (const i of piece) other.of[i] = kind
          expect(cost(other, planes, border)).toBeGreaterThan(after - 1e-5)
        }
      }
    }
    // a border that costs nothing leaves all that is as it should be
    const exact = kinds[0]!.map((_, c) => Float32Array.from(labels.of, (k) => kinds[k]![c]!)) as [Float32Array, Float32Array, Float32Array]
    expect(fewer(labels, exact, kinds, 0, weight).of).toEqual(labels.of)
  })
  test('a hundred thousand pieces take not much longer a piece than a thousand', () => {
    const roll = dice(5)
    const looks = (side: number): number => {
      const of = Uint8Array.from({ length: side * side }, () => Math.floor(roll() * 5))
      let n = 0
      fewer({ w: side, h: side, of }, planesOf({ w: side, h: side, of }, 2), kinds, 0.02, () => (n++, 1))
      return n
    }
    // each pixel is looked at for its area and for its colour
    expect(looks(40)).toBe(2 * 40 * 40)
    expect(looks(400)).toBe(2 * 400 * 400)
  })
})

test('the band that a soft edge leaves between two kinds goes; a mast that is unlike both sides stays, and so does a broad band', async () => {
  const kernels = await loadKernels()
  const [w, h] = [60, 30]
  const kinds = [0, 0.5, 1].map((v) => [v, 0, 0] as const)
  const zero = new Float32Array(w * h)
  const made = (shade: (x: number) => number) => {
    const light = Float32Array.from({ length: w * h }, (_, i) => shade(i % w))
    const of = Uint8Array.from(light, (v) => (v < 0.25 ? 0 : v < 0.75 ? 1 : 2))
    return withoutRims(kernels, { w, h, of }, [light, zero, zero], kinds, 4)
  }
  const soft = made((x) => Math.min(1, Math.max(0, (x - 25) / 8)))
  expect(counted(soft, 3)[1]).toBe(0)
  // each of its pixels went to the side it is more like
  expect([soft.of[28], soft.of[30]]).toEqual([0, 2])
  expect(
    counted(
      made((x) => (x < 20 ? 0 : x < 40 ? 0.5 : 1)),
      3,
    )[1],
  ).toBe(20 * h)
  expect(
    counted(
      made((x) => (x > 28 && x < 32 ? 1 : 0)),
      3,
    )[2],
  ).toBe(3 * h)
  expect(
    counted(
      made((x) => (x > 28 && x < 32 ? 0 : x < 30 ? 0.5 : 1)),
      3,
    )[0],
  ).toBe(3 * h)
})
