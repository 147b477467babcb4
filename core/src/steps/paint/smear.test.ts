import { newStep } from '../../artwork/layers.ts'
import { artworkFromPhoto } from '../../artwork/load.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { MemorySources } from '../../testing/memory-source.ts'
import { compute, formsPicture, newTestEngine } from '../../testing/pictures.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

const [W, H] = [140, 120]
/** A picture of coarse chance, seeded: 16-bit codes. */
function mottled(): Float32Array {
  const v = new Float32Array(W * H)
  let s = 7
  for (let i = 0; i < v.length; i++) v[i] = (s = (Math.imul(s, 1664525) + 1013904223) >>> 0) / 2 ** 32
  // calmed a little, so that a step along a line is not all
  const out = new Float32Array(W * H)
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      let [sum, n] = [0, 0]
      for (let b = -2; b <= 2; b++)
        for (let a = -2; a <= 2; a++) {
          if (x + a < 0 || y + b < 0 || x + a >= W || y + b >= H) continue
          sum += v[(y + b) * W + x + a]!
          n++
        }
      out[y * W + x] = sum / n
    }
  return out
}

/** The kernel's picture of `from` along ways that are given at every pixel. */
function dragged(from: Float32Array, angle: (x: number, y: number) => number, reach: number, mixing: number): Float64Array {
  return kernels.scratch(W * H * 32, (at) => {
    const [dst, ways] = [at + W * H * 8, at + W * H * 16]
    kernels.u16(at, W * H * 4).forEach((_, i, t) => (t[i] = i % 4 === 3 ? 65535 : Math.round(from[i >> 2]! * 65535)))
    kernels.f32(ways, W * H * 4).forEach((_, i, t) => {
      const [x, y] = [(i >> 2) % W, Math.floor((i >> 2) / W)]
      const a = angle(x + 0.5, y + 0.5)
      t[i] = [Math.cos(2 * a), Math.sin(2 * a), 1, 0][i % 4]!
    })
    kernels.raw.smear(at, W * 8, 0, 0, W, H, dst, W * 8, W, H, 0, 0, ways, W * 16, W, H, 1, 0, 0, reach, 4, mixing, 0.3, 0.05, 0, 3)
    return Float64Array.from({ length: W * H }, (_, i) => kernels.u16(dst, W * H * 4)[i * 4]! / 65535)
  })
}

// Cabral and Leedom, "Imaging vector fields using line integral convolution", SIGGRAPH 1993, equation 2, with a box for its kernel: written out here along circles,
// whose lines are known without following them
test('mixed throughout, it is the line integral convolution by its definition', () => {
  const from = mottled()
  const [cx, cy, reach] = [70, 60, 11]
  const got = dragged(from, (x, y) => Math.atan2(y - cy, x - cx) + Math.PI / 2, reach, 1)
  const sample = (x: number, y: number): number => {
    const [u, v] = [x - 0.5, y - 0.5]
    const [i, j] = [Math.floor(u), Math.floor(v)]
    const at = (a: number, b: number) => from[b * W + a]!
    const top = at(i, j) + (at(i + 1, j) - at(i, j)) * (u - i)
    const low = at(i, j + 1) + (at(i + 1, j + 1) - at(i, j + 1)) * (u - i)
    return top + (low - top) * (v - j)
  }
  let [worst, sum, n] = [0, 0, 0]
  for (let y = 20; y < H - 20; y++)
    for (let x = 25; x < W - 25; x++) {
      const [px, py] = [x + 0.5, y + 0.5]
      const r = Math.hypot(px - cx, py - cy)
      if (r < 14 || r > 38) continue
      const a = Math.atan2(py - cy, px - cx)
      let mean = 0
      const steps = 400
      for (let k = 0; k < steps; k++) {
        const s = a + (((k + 0.5) / steps) * 2 - 1) * (reach / r)
        mean += sample(cx + r * Math.cos(s), cy + r * Math.sin(s)) / steps
      }
      const off = Math.abs(got[y * W + x]! - mean)
      worst = Math.max(worst, off)
      sum += off
      n++
    }
  expect(n).toBeGreaterThan(2000)
  expect(sum / n).toBeLessThan(0.003)
  expect(worst).toBeLessThan(0.02)
})

test('along straight stripes nothing changes; across them they fray', () => {
  const stripes = Float32Array.from({ length: W * H }, (_, i) => 0.5 + 0.4 * Math.sin((i % W) * 0.5))
  const differs = (angle: number, mixing: number) => {
    const got = dragged(stripes, () => angle, 10, mixing)
    let [sum, n] = [0, 0]
    for (let y = 15; y < H - 15; y++) for (let x = 15; x < W - 15; x++, n++) sum += Math.abs(got[y * W + x]! - stripes[y * W + x]!)
    return sum / n
  }
  expect(differs(Math.PI / 2, 0.3)).toBeLessThan(0.002)
  expect(differs(0, 0.3)).toBeGreaterThan(0.1)
})

test('single hairs keep the contrast that mixing takes', () => {
  const from = mottled()
  const spread = (v: Float64Array) => {
    const mean = v.reduce((a, b) => a + b) / v.length
    return Math.sqrt(v.reduce((a, b) => a + (b - mean) ** 2, 0) / v.length)
  }
  const before = spread(Float64Array.from(from))
  expect(spread(dragged(from, () => 0.6, 16, 0.05))).toBeGreaterThan(0.8 * before)
  expect(spread(dragged(from, () => 0.6, 16, 1))).toBeLessThan(0.6 * before)
})

test('features that are spared are left, and what is around is not', async () => {
  const sources = new MemorySources()
  await sources.add(kernels, 'f'.repeat(64), { width: 360, height: 240, channels: 3, depth: 8 }, formsPicture(360, 240))
  const engine = newTestEngine(kernels, sources)
  const of = async (spared: number) => {
    const a = structuredClone(artworkFromPhoto({ asset: 'f'.repeat(64), width: 360, height: 240, title: 't' }))
    a.layers[0]!.chain = spared < 0 ? [] : [newStep('smear', { spared, drag: { value: 9, unit: 'px' }, marks: 0 })]
    return (await compute(engine, a)).pixels
  }
  const [photo, all, some] = [await of(-1), await of(0), await of(1)]
  const off = (v: Uint16Array) => {
    let n = 0
    for (let i = 0; i < v.length; i += 4) if (Math.abs(v[i]! - photo[i]!) > 1500) n++
    return n / (v.length / 4)
  }
  expect(off(some)).toBeLessThan(0.9 * off(all))
  expect(off(some)).toBeGreaterThan(0.002)
  let left = 0
  for (let i = 0; i < photo.length; i += 4) if (some[i] === photo[i] && Math.abs(all[i]! - photo[i]!) > 1500) left++
  expect(left).toBeGreaterThan(0.005 * (photo.length / 4))
})
