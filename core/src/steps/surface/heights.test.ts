import { artworkFromPhoto } from '../../artwork/load.ts'
import { newStep } from '../../artwork/layers.ts'
import { GraphCompiler } from '../../engine/graph.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import type { Rgba } from '../../testing/kernel-run.ts'
import { meanOf, painted, through } from '../../testing/through.ts'
import type { Plane } from '../contract.ts'
import { px } from '../params/index.ts'
import { heightsOf } from './heights.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

const of = (p: Rgba): Plane =>
  kernels.scratch(p.w * p.h * 8, (ptr) => {
    kernels.u16(ptr, p.w * p.h * 4).set(p.v)
    return heightsOf({ input: { ptr, stride: p.w * 8, region: { x: 0, y: 0, w: p.w, h: p.h } }, kernels })
  })
const { sin, cos, abs, PI } = Math
/** Waves that fit the picture so many times. */
const waves = (w: number, h: number, more: (x: number, y: number) => number = () => 0) =>
  painted(w, h, (x, y) => [0.5 + 0.1 * sin((2 * PI * 6 * x) / w) + 0.1 * cos((2 * PI * 5 * y) / h) + more(x, y)])
const slope = ({ w, h, values }: Plane) => {
  let sum = 0
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const v = values[y * w + x]!
      sum += (values[y * w + ((x + 1) % w)]! - v) ** 2 + (values[((y + 1) % h) * w + x]! - v) ** 2
    }
  return Math.sqrt(sum / (w * h))
}
/** The largest step across the joint of the repeat, to the largest inside. */
function jointTo({ w, h, values }: Plane): number {
  let [joint, inside] = [0, 0]
  for (let y = 0; y < h; y++) {
    joint = Math.max(joint, abs(values[y * w]! - values[y * w + w - 1]!))
    for (let x = 1; x < w; x++) inside = Math.max(inside, abs(values[y * w + x]! - values[y * w + x - 1]!))
  }
  return joint / inside
}

describe('a picture of a surface as heights', () => {
  test('what repeats already keeps its size and its joints; slopes have a root mean square of 1', () => {
    const plane = of(waves(120, 100))
    expect([plane.w, plane.h]).toEqual([120, 100])
    expect(slope(plane)).toBeCloseTo(1, 4)
    expect(jointTo(plane)).toBeLessThan(1.1)
  })

  test('what does not repeat is melted into its other end', () => {
    const plane = of(painted(160, 100, (x, y) => [0.5 + 0.2 * sin(x * 0.61 + y * 0.05) + 0.1 * sin(y * 0.43)]))
    expect(plane.w).toBe(140)
    expect(jointTo(plane)).toBeLessThan(1.3)
    expect(slope(plane)).toBeCloseTo(1, 4)
  })

  test('a lamp on one side of the scan is levelled out', () => {
    const shaded = of(waves(240, 200, (x) => 0.25 * (x / 240) - 0.12))
    const third = (from: number) => {
      let sum = 0
      for (let y = 0; y < shaded.h; y++) for (let x = from; x < from + 60; x++) sum += shaded.values[y * shaded.w + x]!
      return sum / (60 * shaded.h)
    }
    const most = shaded.values.reduce((a, b) => Math.max(a, abs(b)), 0)
    expect(abs(third(20) - third(140))).toBeLessThan(0.15 * most)
  })

  test('an even picture has no heights, and no slope is made of nothing', () => {
    const plane = of(painted(40, 40, () => [0.6]))
    expect(plane.values.every((v) => abs(v) < 1e-5 || !Number.isFinite(v))).toBe(true)
    expect(plane.values.some((v) => !Number.isFinite(v))).toBe(false)
  })
})

describe('relief from a picture', () => {
  const other = 'd'.repeat(64)
  const surface = { asset: other, width: 120, height: 100 }
  const flat = painted(200, 180, () => [0.5])
  const lit = (params: Record<string, unknown>, lamp = { direction: 180, height: 40 }) =>
    through(kernels, flat, [['surface-relief', { kind: 'picture', picture: surface, width: px(120), depth: 0.5, ...params }]], (a) => ({ ...a, lamp }), {
      [other]: waves(120, 100),
    })
  const row = (p: Rgba, y: number) => Array.from({ length: p.w }, (_, x) => p.v[(y * p.w + x) * 4]! / 65535)

  test('slopes that face the lamp are light: where the picture grows lighter away from it', async () => {
    const got = row(await lit({}), 40)
    // along a row the height is a sine: lit from the left, light where it rises
    const rising = (r: number[]) => r.filter((v, x) => (v - 0.5) * cos((2 * PI * 6 * (x + 0.5)) / 120) > 0).length
    expect(rising(got)).toBeGreaterThan(185)
    // from the right, light where it falls, and as strongly
    const fromRight = row(await lit({}, { direction: 0, height: 40 }), 40)
    expect(rising(fromRight)).toBeLessThan(15)
    const range = (r: number[]) => Math.max(...r) - Math.min(...r)
    expect(range(got)).toBeGreaterThan(0.1)
    expect(abs(range(fromRight) / range(got) - 1)).toBeLessThan(0.05)
  })

  test('it repeats by its width on the sheet, whatever the size of its file', async () => {
    for (const width of [120, 60, 40]) {
      const got = await lit({ width: px(width) })
      for (const y of [10, 77]) {
        const r = row(got, y)
        // the outermost pixel has a neighbour on one side only
        for (let x = 1; x + width < 199; x++) expect(abs(r[x]! - r[x + width]!)).toBeLessThan(0.002)
      }
    }
  })

  test('the flat keeps its colour on the whole; without a picture, or without depth, nothing changes', async () => {
    expect(abs(meanOf(await lit({})) - 0.5)).toBeLessThan(0.04)
    expect((await lit({ picture: null })).v).toEqual(flat.v)
    expect((await lit({ depth: 0 })).v.filter((v, i) => abs(v - flat.v[i]!) > 1)).toHaveLength(0)
  })

  test('the lamp makes other pictures of what it lights, and of nothing else', () => {
    const a = artworkFromPhoto({ asset: 'a'.repeat(64), width: 300, height: 200, title: 't' })
    const key = (id: string, lamp: { direction: number; height: number }) => {
      a.layers[0]!.chain = [newStep(id)]
      return new GraphCompiler({ ...a, lamp }, 'salt').compile({ type: 'artwork' }).key
    }
    for (const id of ['surface-relief', 'halftone', 'gaussian-blur'])
      expect([id, key(id, { direction: 10, height: 30 }) === key(id, { direction: 90, height: 30 })]).toEqual([id, id !== 'surface-relief'])
  })

  test('a picture that is not there is named', async () => {
    await expect(through(kernels, flat, [['surface-relief', { kind: 'picture', picture: { ...surface, asset: 'c'.repeat(64) } }]])).rejects.toMatchObject({
      code: 'missing-photo',
    })
  })
})
