import { loadKernels } from '../kernels/load-node.ts'
import { dice } from '../testing/pictures.ts'
import { calmed, counted, merged, meansBy, type Labels } from './regions.ts'

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
