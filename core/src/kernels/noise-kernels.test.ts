import type { Kernels } from './kernels.ts'
import { loadKernels } from './load-node.ts'

// What has a place on the sheet, against its definition written out in float64: seeded value noise, grain, and lit surfaces.

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

const { abs, floor, max, min, sqrt } = Math
/** To the nearest whole number, halves to the even one, as IEEE 754 has it. */
const nearest = (t: number) => {
  const r = Math.round(t)
  return abs(t - floor(t) - 0.5) < 1e-12 && r % 2 !== 0 ? r - 1 : r
}

/** A lattice point's number 0…1. */
function lattice(ix: number, iy: number, seed: number): number {
  let h = (Math.imul(ix, 0x27d4eb2d) + Math.imul(iy, 0x165667b1) + seed) | 0
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d)
  h ^= h >>> 13
  return (h >>> 8) / 2 ** 24
}
const ease = (t: number) => t ** 3 * (10 + t * (6 * t - 15))
const lerp = (a: number, b: number, t: number) => a + t * (b - a)
/** Value noise: the lattice's numbers, eased between by 6t⁵ − 15t⁴ + 10t³ (Perlin, "Improving noise", 2002). */
function noise(x: number, y: number, seed: number): number {
  // a float holds 1.5 · 2²³ and the whole number in its low bits; the pattern as a whole is what is multiplied
  const [ix, iy] = [floor(x), floor(y)].map((v) => new Int32Array(Float32Array.of(v + 12582912).buffer)[0]!) as [number, number]
  const at = (i: number, j: number) => lattice(ix + i, iy + j, seed)
  const [tx, ty] = [ease(x - floor(x)), ease(y - floor(y))]
  return lerp(lerp(at(0, 0), at(1, 0), tx), lerp(at(0, 1), at(1, 1), tx), ty)
}

const swing = (t: number) => {
  const d = abs(t - nearest(t / 2) * 2)
  return 1 - d * d * (3 - 2 * d)
}
/** Three octaves of noise, each turned against the pixels and the one before. */
function octaves(u: number, v: number, seed: number): [number, number, number] {
  const [a, b] = [0.8480481 * u + 0.5299192 * v, 0.8480481 * v - 0.5299192 * u]
  const [a2, b2] = [1.61 * a + 1.17 * b, 1.61 * b - 1.17 * a]
  return [noise(a, b, seed), noise(a2, b2, seed ^ 0x5f356495), noise(1.83 * a2 - 0.9 * b2, 1.83 * b2 + 0.9 * a2, seed ^ 0x1f83d9ab)]
}

/** Heights in units of the pitch, as the surfaces are defined. */
const surfaces: Record<string, (u: number, v: number, seed: number) => number> = {
  canvas: (u, v, seed) => {
    const wu = u + (noise(u * 0.13, v * 0.07, seed) - 0.5) * 1.1
    const wv = v + (noise(u * 0.07, v * 0.13, seed ^ 0x51) - 0.5) * 1.1
    const [iu, iv] = [floor(wu), floor(wv)]
    const ku = 0.72 + 0.28 * noise(iu * 3.7, wv * 0.11, seed ^ 0x1234)
    const kv = 0.72 + 0.28 * noise(wu * 0.11, iv * 3.7, seed ^ 0x4321)
    const thread = (d: number, k: number) => max(0, 1 - (d / k) ** 2)
    const warp = thread((wu - iu) * 2 - 1, ku) * (0.25 + 0.75 * swing(wv - 0.5 + iu))
    const weft = thread((wv - iv) * 2 - 1, kv) * (0.25 + 0.75 * swing(wu - 0.5 + iv + 1))
    return max(warp, weft) + 0.1 * noise(wu * 6, wv * 6, seed ^ 0x99)
  },
  laid: (u, v, seed) => {
    const line = v + 0.9 * noise(u * 0.04, v * 0.31, seed)
    const d = 2 * abs(line - nearest(line))
    const chain = (u + 2 * noise(u * 0.02, v * 0.03, seed ^ 0x2b)) * 0.04
    const e = min(1, 14 * abs(chain - nearest(chain)))
    const rib = (1 - d * d * (3 - 2 * d)) * (0.65 + 0.35 * noise(u * 0.2, v, seed ^ 0x77))
    return 0.7 * rib + 0.7 * (1 - e * e) ** 2 + 0.25 * noise(u * 1.9, v * 1.9, seed ^ 0x3d)
  },
  'cold-pressed': (u, v, seed) => {
    const [n1, n2, n3] = octaves(u, v, seed)
    const t = min(1, 1.22 * (0.56 * n1 + 0.44 * n2))
    return 0.92 * t * (2 - t) + 0.1 * n3
  },
  board: (u, v, seed) => {
    const [n1, n2, n3] = octaves(u, v, seed)
    return 0.3 * n1 + 0.4 * n2 + 0.3 * n3
  },
}

describe('surfaces under a lamp', () => {
  const [W, H] = [96, 64]
  const k = 0.071
  const depth = 0.2
  const light = [-0.45, -0.35, sqrt(1 - 0.45 ** 2 - 0.35 ** 2)] as const

  test.each([
    ['canvas', 0],
    ['laid', 1],
    ['cold-pressed', 2],
    ['board', 3],
  ] as const)('%s: Lambert’s law on the slopes of its heights', (name, kind) => {
    const height = (u: number, v: number) => surfaces[name]!(u, v, 5)
    kernels.scratch(W * H * 16, (src) => {
      const dst = src + W * H * 8
      kernels.u16(src, W * H * 4).fill(26000)
      kernels.raw.relief(src, W * 8, dst, W * 8, W, H, 40, 300, k, kind, depth, ...light, 5)
      const got = kernels.u16(dst, W * H * 4)
      let off = 0
      let far = 0
      for (let y = 0; y < H; y++) {
        for (let x = 0; x < W; x++) {
          const [u, v] = [(40 + x + 0.5) * k, (300 + y + 0.5) * k]
          const dx = (height(u + 0.125, v) - height(u - 0.125, v)) * depth * 4
          const dy = (height(u, v + 0.125) - height(u, v - 0.125)) * depth * 4
          const shade = max(0, light[2] - dx * light[0] - dy * light[1]) / sqrt(1 + dx * dx + dy * dy) / light[2]
          const c = 26000 / 65535
          const want = shade <= 1 ? c * (0.3 + 0.7 * shade) : c + (1 - 1 / (1 + (shade - 1) * 1.2)) * c * (1 - c)
          const d = abs(got[(y * W + x) * 4]! / 65535 - want)
          off += d
          if (d > 0.02) far++
        }
      }
      expect(off / (W * H)).toBeLessThan(0.001)
      // where float32 falls on the other side of a lattice line or a thread's edge
      expect(far / (W * H)).toBeLessThan(0.01)
    })
  })

  test('another deal is another piece; the same deal is the same wherever the picture is cut', () => {
    const piece = (x0: number, seed: number) =>
      kernels.scratch(64 * 16 * 16, (src) => {
        const dst = src + 64 * 16 * 8
        kernels.u16(src, 64 * 16 * 4).fill(30000)
        kernels.raw.relief(src, 512, dst, 512, 64, 16, x0, 7, 0.1, 0, 0.3, -0.5, -0.5, 0.7, seed)
        return kernels.u16(dst, 64 * 16 * 4).slice()
      })
    const [a, b, c] = [piece(0, 5), piece(3, 5), piece(0, 6)]
    let same = 0
    for (let y = 0; y < 16; y++) for (let x = 0; x < 61; x++) if (a[(y * 64 + x + 3) * 4] === b[(y * 64 + x) * 4]) same++
    expect(same).toBe(61 * 16)
    expect(a.filter((v, i) => v === c[i]).length / a.length).toBeLessThan(0.5)
  })
})

describe('grain', () => {
  const [W, H] = [120, 80]
  const grained = (scale: number, pitch: number, colour: number, amount: (tone: number) => number, tone = 30000) =>
    kernels.scratch(W * H * 16 + 4096 * 4, (src) => {
      const dst = src + W * H * 8
      const table = dst + W * H * 8
      kernels.u16(src, W * H * 4).forEach((_, i, t) => (t[i] = i % 4 === 3 ? 65535 : tone))
      kernels.f32(table, 4096).forEach((_, i, t) => (t[i] = amount(i / 4095) / 65535))
      kernels.raw.grain(src, W * 8, dst, W * 8, W, H, 11, 23, scale, pitch, table, colour, 99)
      return kernels.u16(dst, W * H * 4).slice()
    })

  test('is two octaves of value noise, turned by 30° and about 22°, on the tone', () => {
    const got = grained(1, 0.31, 0, () => 9000)
    for (let y = 0; y < H; y += 3) {
      for (let x = 0; x < W; x += 3) {
        const [px, py] = [(11 + x + 0.5) * 0.31, (23 + y + 0.5) * 0.31]
        const n = noise(0.8660254 * px + 0.5 * py, 0.8660254 * py - 0.5 * px, 99) + noise(1.73 * px - 0.71 * py, 1.73 * py + 0.71 * px, 99 ^ 0x3c6ef372) - 1
        // a float32 place may lie on the other side of a lattice line, where noise is continuous
        expect(abs(got[(y * W + x) * 4]! - (30000 + 9000 * n))).toBeLessThan(6)
      }
    }
  })

  test('lies about the tone, grey unless colour is wanted, by tone, and not on alpha', () => {
    const grey = grained(1, 0.5, 0, () => 12000)
    let sum = 0
    for (let i = 0; i < grey.length; i += 4) {
      sum += grey[i]!
      expect([grey[i + 1], grey[i + 2], grey[i + 3]]).toEqual([grey[i], grey[i], 65535])
    }
    expect(abs(sum / (W * H) - 30000)).toBeLessThan(400)
    const coloured = grained(1, 0.5, 1, () => 12000)
    expect(coloured.filter((v, i) => i % 4 === 0 && v === coloured[i + 1]).length / (W * H)).toBeLessThan(0.05)
    // none where the table has none for the tone
    expect(new Set(grained(1, 0.5, 1, (t) => (t > 0.3 ? 0 : 12000)).filter((_, i) => i % 4 !== 3))).toEqual(new Set([30000]))
  })

  test('at half the size it is the same grain, seen in the middle of larger pixels', () => {
    const fine = grained(1, 0.05, 0, () => 9000)
    const half = kernels.scratch(60 * 40 * 16 + 4096 * 4, (src) => {
      const dst = src + 60 * 40 * 8
      const table = dst + 60 * 40 * 8
      kernels.u16(src, 60 * 40 * 4).fill(30000)
      kernels.f32(table, 4096).fill(9000 / 65535)
      // the same corner of the sheet: 11 and 23 are not even, so one pixel on
      kernels.raw.grain(src, 60 * 8, dst, 60 * 8, 60, 40, 6, 12, 2, 0.05, table, 0, 99)
      return kernels.u16(dst, 60 * 40 * 4).slice()
    })
    for (let y = 0; y < 30; y++) {
      for (let x = 0; x < 50; x++) {
        const at = (i: number, j: number) => fine[((2 * y + 1 + j) * W + 2 * x + 1 + i) * 4]!
        const mean = (at(0, 0) + at(1, 0) + at(0, 1) + at(1, 1)) / 4
        expect(abs(half[(y * 60 + x) * 4]! - mean)).toBeLessThan(200)
      }
    }
  })
})
