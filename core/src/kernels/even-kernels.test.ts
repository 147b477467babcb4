import { edgePictures } from '../testing/edge-pictures.ts'
import { picturedBy, type Rgba } from '../testing/kernel-run.ts'
import type { Kernels } from './kernels.ts'
import { loadKernels } from './load-node.ts'

// Against the definition in float64: the normal distribution function by its series (Abramowitz and Stegun 26.2.10), skew as `even.ts` says.

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

function normal(z: number): number {
  if (Math.abs(z) > 6) return z > 0 ? 1 : 0
  let [term, sum] = [z, z]
  for (let n = 1; n < 200; n++) sum += term = (-term * z * z * (2 * n - 1)) / (2 * n * (2 * n + 1))
  return 0.5 + sum / Math.sqrt(2 * Math.PI)
}

/** Share that stands higher, and how much of a surface there is, at one place. */
function defined(p: Rgba, x: number, y: number, r: number, flat: number): [number, number] {
  const at = (i: number, j: number) => p.v[(Math.min(p.h - 1, Math.max(0, j)) * p.w + Math.min(p.w - 1, Math.max(0, i))) * 4]! - 32768
  const around: number[] = []
  for (let j = -r; j <= r; j++) for (let i = -r; i <= r; i++) around.push(at(x + i, y + j))
  const mean = around.reduce((s, v) => s + v, 0) / around.length
  const moment = (k: number) => around.reduce((s, v) => s + (v - mean) ** k, 0) / around.length
  const variance = moment(2)
  const deviation = Math.sqrt(variance + 1e-6)
  const skew = Math.max(-1, Math.min(1, moment(3) / deviation ** 3))
  const turn = 3 / (Math.abs(skew) + 1e-9)
  const d = Math.max(-5, Math.min(5, (at(x, y) - mean) / deviation))
  const held = skew > 0 ? Math.min(d, turn) : Math.max(d, -turn)
  return [1 - normal(held - (skew * (held * held - 1)) / 6), variance / (variance + flat * flat)]
}

const waves: Rgba = { w: 61, h: 47, v: new Uint16Array(61 * 47 * 4) }
for (let i = 0; i < 61 * 47; i++) {
  const [x, y] = [i % 61, Math.floor(i / 61)]
  const high = 32768 + 900 * Math.sin(x * 0.9) * Math.cos(y * 0.7) + 500 * Math.exp(Math.sin(x * 0.31 + y * 0.43))
  waves.v.set([high, high, high, 65535], i * 4)
}

test.each([1, 4, 24])('heights are ranked among those round about, by their first three moments (reach %d)', (r) => {
  const found = picturedBy(kernels, waves, r, (s, ss, d, ds) => kernels.raw.evenHeights(s, ss, d, ds, waves.w, waves.h, r, 20))
  let worst = 0
  for (let i = 0; i < waves.w * waves.h; i++) {
    const [higher, surface] = defined(waves, i % waves.w, Math.floor(i / waves.w), r, 20)
    worst = Math.max(worst, Math.abs(found.v[i * 4]! / 65535 - higher), Math.abs(found.v[i * 4 + 1]! / 65535 - surface))
  }
  // Bowling et al. state 0.00014
  expect(worst).toBeLessThan(0.0002)
})

test('a flat ground is no surface; extreme pictures come out whole', () => {
  for (const [, p] of edgePictures()) {
    const r = 180
    const found = picturedBy(kernels, p, r, (s, ss, d, ds) => kernels.raw.evenHeights(s, ss, d, ds, p.w, p.h, r, 20))
    const flat = p.v.every((v, i) => i % 4 !== 0 || v === p.v[0])
    for (let i = 0; i < found.v.length; i += 4) {
      if (flat) expect(found.v[i + 1]).toBe(0)
      expect(found.v[i + 3]).toBe(65535)
    }
  }
})
