import type { Kernels } from '../kernels/kernels.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { photoPart } from '../testing/photo.ts'
import { painted } from '../testing/through.ts'
import type { Rgba } from '../testing/kernel-run.ts'
import { field } from './fields.ts'
import { massesOf } from './masses.ts'
import { structureTensor } from '../testing/data/structure-tensor.ts'
import { noiseOf, studyOf, type Study } from './study.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})
const breathe = async () => undefined

async function studied({ w, h, v }: Rgba): Promise<Study> {
  const ptr = kernels.allocator.alloc(w * h * 8)
  try {
    kernels.u16(ptr, v.length).set(v)
    return await studyOf({ input: { ptr, stride: w * 8, region: { x: 0, y: 0, w, h } }, kernels, level: 0, pause: breathe })
  } finally {
    kernels.allocator.free(ptr)
  }
}
/** Normal deviates (Box and Muller 1958), always the same ones. */
const deviates = (() => {
  let state = 12345
  const next = () => {
    state = (state + 0x6d2b79f5) | 0
    let t = Math.imul(state ^ (state >>> 15), 1 | state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
  return Float32Array.from({ length: 65536 }, () => Math.sqrt(-2 * Math.log(next() + 1e-12)) * Math.cos(2 * Math.PI * next()))
})()
const normal = (x: number, y: number) => deviates[(y * 307 + x) & 65535]!

test('the noise of a plane is found within 5 %, whatever slope it lies on', () => {
  for (const sigma of [0.01, 0.05]) {
    const f = field(300, 200)
    for (let y = 0; y < 200; y++) for (let x = 0; x < 300; x++) f.v[y * 300 + x] = 0.2 + 0.002 * x + sigma * normal(x, y)
    expect(Math.abs(noiseOf(f) / sigma - 1)).toBeLessThan(0.05)
  }
  expect(noiseOf(field(2, 9))).toBe(0)
})

test('flow runs along stripes whichever way they lie, and noise does not steer it', async () => {
  for (const noise of [0, 0.05])
    for (const degrees of [0, 25, 60, 90, 140]) {
      const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
      const p = painted(240, 200, (x, y) => [0.5 + 0.3 * Math.sin((-x * s + y * c) * 0.35) + noise * normal(x, y)])
      const { flowX, flowY, w } = await studied(p)
      let [along, decided] = [0, 0]
      for (let y = 40; y < 160; y++)
        for (let x = 40; x < 200; x++) {
          const [u, v] = [flowX.v[y * w + x]!, flowY.v[y * w + x]!]
          const long = Math.hypot(u, v)
          decided += long
          // at twice its angle
          along += (u * Math.cos((2 * degrees * Math.PI) / 180) + v * Math.sin((2 * degrees * Math.PI) / 180)) / long
        }
      expect(along / (120 * 160)).toBeGreaterThan(noise ? 0.97 : 0.995)
      expect(decided / (120 * 160)).toBeGreaterThan(noise ? 0.5 : 0.8)
    }
})

test('where there is noise alone no direction is decided', async () => {
  const { flowX, flowY } = await studied(painted(200, 200, (x, y) => [0.5 + 0.04 * normal(x, y)]))
  let sum = 0
  for (let i = 0; i < flowX.v.length; i++) sum += Math.hypot(flowX.v[i]!, flowY.v[i]!)
  expect(sum / flowX.v.length).toBeLessThan(0.35)
})

test('masses: a texture is gone, a border stands where it stood', async () => {
  const [w, h] = [300, 200]
  const f = field(w, h)
  // checks of three pixels on a dark and on a light field
  for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) f.v[y * w + x] = (x < 150 ? 0.25 : 0.75) + (((Math.floor(x / 3) + Math.floor(y / 3)) & 1) - 0.5) * 0.3
  for (const size of [3, 9]) {
    const m = await massesOf(kernels, f, size, breathe)
    const row = (x: number) => m.v[100 * w + x]!
    let texture = 0
    for (let x = 40; x < 100; x++) texture = Math.max(texture, Math.abs(row(x) - 0.25))
    expect(texture).toBeLessThan(0.04)
    // the border is crossed within two pixels of its place, and as steep as before within eight
    let crossed = 0
    for (let x = 100; x < 200; x++) if (row(x) < 0.5) crossed = x
    expect(Math.abs(crossed + 0.5 - 149.5)).toBeLessThanOrEqual(2)
    expect(row(145)).toBeLessThan(0.36)
    expect(row(154)).toBeGreaterThan(0.64)
  }
})

test('edges are found at a sharp step and lost at a slow one; focus tells a sharp half from a blurred one', async () => {
  const p = painted(400, 200, (x, y) => {
    const sharp = Math.abs((x % 40) - 20) < 10 ? 0.2 : 0.8
    const soft = 0.5 + 0.3 * Math.sin(((x - 150) / 40) * 2 * Math.PI)
    return [x < 150 ? sharp : x < 310 ? soft : 0.2 + 0.004 * (x - 310) + 0 * y]
  })
  const { edges, focus, w } = await studied(p)
  const most = (from: number, to: number, of: Float32Array) => {
    let m = 0
    for (let x = from; x < to; x++) m = Math.max(m, of[100 * w + x]!)
    return m
  }
  expect(most(60, 120, edges.v)).toBeGreaterThan(0.9)
  expect(most(330, 390, edges.v)).toBeLessThan(0.1)
  expect(focus.v[100 * w + 80]!).toBeGreaterThan(0.7)
  expect(focus.v[100 * w + 240]!).toBeLessThan(0.2)
})

test('a portrait: the face in the middle is subject, its eyes are detail, the wall behind is ground', async () => {
  const s = await studied(await photoPart('keeper-portrait', { left: 0, top: 0, width: 1360, height: 1700 }))
  const mean = (of: Float32Array, x0: number, y0: number, x1: number, y1: number) => {
    let sum = 0
    for (let y = y0; y < y1; y++) for (let x = x0; x < x1; x++) sum += of[y * s.w + x]!
    return sum / ((x1 - x0) * (y1 - y0))
  }
  const face = [500, 450, 800, 800] as const
  const corner = [0, 0, 200, 200] as const
  expect(mean(s.ground.v, ...face)).toBeLessThan(mean(s.ground.v, ...corner) - 0.3)
  expect(mean(s.detail.v, ...face)).toBeGreaterThan(2 * mean(s.detail.v, ...corner))
})

test('what is clear counts as white, and nothing of it is seen', async () => {
  const cut = (hidden: number) => painted(120, 120, (x, y) => (Math.hypot(x - 60, y - 60) < 30 ? [0.3, 0.3, 0.3, 1] : [hidden, 0, hidden, 0]))
  const [a, b] = [await studied(cut(0)), await studied(cut(1))]
  expect(a.tone.v).toEqual(b.tone.v)
  expect(a.flowX.v).toEqual(b.flowX.v)
  expect([a.tone.v[0], a.cover.v[0]]).toEqual([1, 0])
})

test('masses of a cut-out go on beyond its silhouette: no pale band lies along it', async () => {
  const shape = (x: number, y: number) => Math.hypot(x - 150, y - 150) < 90
  const at = (x: number, y: number) => (shape(x, y) ? [0.3 + 0.1 * (((x >> 1) + (y >> 1)) & 1), 0.3, 0.3, 1] : [0, 0, 0, 0])
  const s = await studied(painted(300, 300, at))
  const off = (of: Float32Array) => {
    let most = 0
    for (let i = 0; i < of.length; i++) if (s.cover.v[i] === 1) most = Math.max(most, Math.abs(of[i]! - 0.31))
    return most
  }
  for (const name of ['fine', 'broad'] as const) {
    // what the band was
    expect(off(s[name].v)).toBeGreaterThan(0.1)
    expect(off(s.carried![name].v)).toBeLessThan(0.02)
  }
  expect((await studied(painted(60, 60, () => [0.3]))).carried).toBeUndefined()
})

test.each([
  [1, 1],
  [2, 3],
  [20, 20],
])('a picture of %d × %d and a flat grey give no numbers that are none', async (w, h) => {
  const s = await studied(painted(w, h, () => [0.5]))
  for (const f of [s.tone, s.fine, s.broad, s.flowX, s.flowY, s.edges, s.focus, s.detail, s.ground]) {
    expect(f.v.length).toBe(w * h)
    expect(f.v.every((v) => Number.isFinite(v))).toBe(true)
  }
  expect(Math.max(...s.edges.v, ...s.detail.v)).toBeLessThan(0.01)
})

test('flow runs as scikit-image’s structure tensor says, but for what it takes from round about', async () => {
  const [w, h] = [240, 180]
  const picture = painted(w, h, (x, y) => [
    x < 120 ? 0.5 + 0.3 * Math.sin(0.45 * Math.hypot(x - 40, y - 120)) : 0.5 + 0.3 * Math.sin(0.4 * (y + 12 * Math.sin(x / 25))),
  ])
  const { flowX, flowY } = await studied(picture)
  const off = structureTensor.map(([x, y, twice]) => {
    const [u, v] = [flowX.v[y * w + x]!, flowY.v[y * w + x]!]
    const turn = Math.abs(Math.atan2(v, u) - twice)
    return (Math.min(turn, 2 * Math.PI - turn) / 2) * (180 / Math.PI)
  })
  off.sort((a, b) => a - b)
  // an eighth of the weight is of a neighbourhood nearly three times as broad
  expect(off[off.length >> 1]).toBeLessThan(1.5)
  expect(off[Math.floor(off.length * 0.9)]).toBeLessThan(6)
})
