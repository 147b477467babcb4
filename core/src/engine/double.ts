import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from '../steps/contract.ts'

/**
 * Weights of four neighbours for the two pixels a pixel is doubled to, whose middles lie a quarter before and a quarter after
 * its own. Keys 1981, a = −1/2, at 1.25, 0.25, 0.75, 1.75 and the other way round: exact in float32.
 */
const AFTER = [-0.0703125, 0.8671875, 0.2265625, -0.0234375]
const BEFORE = [...AFTER].reverse()

/** Enlarges twice. `input` holds two pixels more on each side than `output` covers, rounded outwards. */
export function doubleInto(kernels: Kernels, input: Pic, output: Pic): void {
  const { x, y, w, h } = output.region
  const taps = (at: number, from: number, n: number, first: number) => {
    const whole = new Int32Array(kernels.memory.buffer, at, n * 5)
    const parts = kernels.f32(at, n * 5)
    for (let i = 0; i < n; i++) {
      const odd = (from + i) & 1
      whole[i * 5] = Math.floor((from + i) / 2) - (odd ? 1 : 2) - first
      parts.set(odd ? AFTER : BEFORE, i * 5 + 1)
    }
  }
  const xBytes = Math.ceil((w * 20) / 16) * 16
  kernels.scratch(xBytes + h * 20, (at) => {
    taps(at, x, w, input.region.x)
    taps(at + xBytes, y, h, input.region.y)
    kernels.raw.resample(input.ptr, input.stride, 0, input.region.w, output.ptr, output.stride, w, h, at, 4, at + xBytes, 20, 4)
  })
}
