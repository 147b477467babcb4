import type { Analysis, Plane } from '../contract.ts'

/** Share of a side over which a picture that does not repeat is melted into its other end. */
const MELT = 1 / 8
/** An edge whose two ends differ so many times as much as neighbours do is a seam. */
const SEAM = 2.5
/** Parts of the long side over which light and shade of the whole are levelled out. */
const LEVEL = 6

/**
 * A picture of a surface as heights that repeat without a seam: light is high; what varies over large parts is taken for the light it was taken in
 * and levelled out; slopes from pixel to pixel have a root mean square of 1.
 */
export function heightsOf({ input, kernels }: Pick<Analysis, 'input' | 'kernels'>): Plane {
  const { w, h } = input.region
  const luma = kernels.scratch(w * h * 4 + 64, (at) => {
    kernels.raw.lumaPlane(input.ptr, input.stride, at, w * 4, w, h)
    return { w, h, values: kernels.f32(at, w * h).slice() }
  })
  const [columns, rows] = [repeats(luma, true), repeats(luma, false)]
  const level = levelled(luma, Math.max(1, Math.ceil(Math.max(w, h) / LEVEL / 2)), columns, rows)
  const across = columns ? level : melted(level, true)
  const both = rows ? across : melted(across, false)
  const rms = Math.sqrt(squaredSlope(both))
  if (rms > 0) for (let i = 0; i < both.values.length; i++) both.values[i] = both.values[i]! / rms
  return both
}

/** Less the mean of a square about each pixel: round the ends of what repeats, else held inside. */
function levelled({ w, h, values }: Plane, reach: number, columns: boolean, rows: boolean): Plane {
  const half = new Float32Array(w * h)
  const mean = new Float32Array(w * h)
  for (let y = 0; y < h; y++) meanAlong(values, half, y * w, 1, w, reach, columns)
  for (let x = 0; x < w; x++) meanAlong(half, mean, x, w, h, reach, rows)
  return { w, h, values: mean.map((m, i) => values[i]! - m) }
}

/** Means over 2 · reach + 1 along a line of n values that begins at `first` and goes on every `stride`, by sums from its beginning on. */
function meanAlong(from: Float32Array, to: Float32Array, first: number, stride: number, n: number, reach: number, round: boolean): void {
  const sums = new Float64Array(n + 1)
  for (let i = 0; i < n; i++) sums[i + 1] = sums[i]! + from[first + i * stride]!
  const r = Math.min(reach, (n - 1) >> 1)
  for (let i = 0; i < n; i++) {
    const [low, high] = [i - r, i + r + 1]
    let sum = sums[Math.min(n, high)]! - sums[Math.max(0, low)]!
    let count = Math.min(n, high) - Math.max(0, low)
    if (round && (low < 0 || high > n)) {
      sum += low < 0 ? sums[n]! - sums[n + low]! : sums[high - n]!
      count = 2 * r + 1
    }
    to[first + i * stride] = sum / count
  }
}

/** Whether the last column goes on in the first (or the last row), as neighbours do. */
function repeats({ w, h, values }: Plane, columns: boolean): boolean {
  const [n, along] = columns ? [w, h] : [h, w]
  if (n < 16) return true
  const at = (i: number, j: number) => (columns ? values[j * w + i]! : values[i * w + j]!)
  let seam = 0
  let inside = 0
  for (let j = 0; j < along; j++) {
    seam += Math.abs(at(n - 1, j) - at(0, j))
    for (const i of [0, n >> 2, n >> 1, n - 2]) inside += Math.abs(at(i + 1, j) - at(i, j)) / 4
  }
  return seam <= inside * SEAM
}

/** Shorter by the part that is melted: its beginning comes in as its end goes out. The depth of what is mixed is kept. */
function melted({ w, h, values }: Plane, columns: boolean): Plane {
  const n = columns ? w : h
  const band = Math.max(1, Math.floor(n * MELT))
  const size = columns ? { w: w - band, h } : { w, h: h - band }
  const out = new Float32Array(size.w * size.h)
  for (let y = 0; y < size.h; y++) {
    for (let x = 0; x < size.w; x++) {
      const i = columns ? x : y
      const first = values[y * w + x]!
      const t = (i + 0.5) / band
      const later = t < 1 ? values[columns ? y * w + x + size.w : (y + size.h) * w + x]! : 0
      // mixing what does not belong together flattens it
      out[y * size.w + x] = t < 1 ? (first * t + later * (1 - t)) / Math.sqrt(t * t + (1 - t) * (1 - t)) : first
    }
  }
  return { ...size, values: out }
}

/** The mean square of the slope to the right and down, round the ends. */
function squaredSlope({ w, h, values }: Plane): number {
  let sum = 0
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const v = values[y * w + x]!
      sum += (values[y * w + ((x + 1) % w)]! - v) ** 2 + (values[((y + 1) % h) * w + x]! - v) ** 2
    }
  }
  return sum / (w * h)
}
