import { field, type Field } from './fields.ts'

// taken once: loops over planes look nothing up
const { sqrt } = Math
/** Further than any. */
const FAR = 1e12

/** Squared distances along one line to the nearest place, where `f` is what each place costs: the lower envelope of parabolas. */
function envelope(f: Float64Array, n: number, out: Float64Array, v: Int32Array, z: Float64Array): void {
  let k = 0
  v[0] = 0
  z[0] = -FAR
  z[1] = FAR
  for (let q = 1; q < n; q++) {
    let s = 0
    for (;;) {
      const p = v[k]!
      s = (f[q]! + q * q - (f[p]! + p * p)) / (2 * q - 2 * p)
      if (s > z[k]! || k === 0) break
      k--
    }
    if (s <= z[k]!) s = z[k]!
    k++
    v[k] = q
    z[k] = s
    z[k + 1] = FAR
  }
  k = 0
  for (let q = 0; q < n; q++) {
    while (z[k + 1]! < q) k++
    const p = v[k]!
    out[q] = (q - p) * (q - p) + f[p]!
  }
}

/**
 * Distance of each pixel to the nearest one for which `is` is 1, in pixels (Felzenszwalb and Huttenlocher, "Distance transforms of sampled functions", Theory of Computing 8,
 * 2012): exact, and its cost does not grow with the distance.
 */
export function distanceTo(is: Uint8Array, w: number, h: number): Field {
  const out = field(w, h)
  const n = Math.max(w, h)
  const line = new Float64Array(n)
  const done = new Float64Array(n)
  const v = new Int32Array(n)
  const z = new Float64Array(n + 1)
  const down = new Float64Array(w * h)
  for (let x = 0; x < w; x++) {
    for (let y = 0; y < h; y++) line[y] = is[y * w + x] === 1 ? 0 : FAR
    envelope(line, h, done, v, z)
    for (let y = 0; y < h; y++) down[y * w + x] = done[y]!
  }
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) line[x] = down[y * w + x]!
    envelope(line, w, done, v, z)
    for (let x = 0; x < w; x++) out.v[y * w + x] = sqrt(done[x]! > FAR ? FAR : done[x]!)
  }
  return out
}

/** How far inside a shape each pixel lies, below 0 outside; its border runs between pixels. Where there is no shape, or nothing else, far. */
export function insideOf(is: Uint8Array, w: number, h: number): Field {
  const not = is.map((v) => 1 - v)
  const out = distanceTo(not, w, h)
  const beyond = distanceTo(is, w, h)
  for (let i = 0; i < out.v.length; i++) out.v[i] = is[i] === 1 ? out.v[i]! - 0.5 : 0.5 - beyond.v[i]!
  return out
}

/** What lies within so many pixels of where `is` is 1, across and down (a square): its cost does not grow with the distance. */
export function grownBy(is: Uint8Array, w: number, h: number, by: number): Uint8Array {
  const across = new Uint8Array(w * h)
  for (let y = 0; y < h; y++) {
    for (let x = 0, last = -by - 1, i = y * w; x < w; x++, i++) {
      if (is[i] === 1) last = x
      if (x - last <= by) across[i] = 1
    }
    for (let x = w - 1, last = w + by, i = y * w + w - 1; x >= 0; x--, i--) {
      if (is[i] === 1) last = x
      if (last - x <= by) across[i] = 1
    }
  }
  const out = new Uint8Array(w * h)
  const lasts = new Int32Array(w).fill(-by - 1)
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      if (across[i] === 1) lasts[x] = y
      if (y - lasts[x]! <= by) out[i] = 1
    }
  lasts.fill(h + by)
  for (let y = h - 1, i = w * h - 1; y >= 0; y--)
    for (let x = w - 1; x >= 0; x--, i--) {
      if (across[i] === 1) lasts[x] = y
      if (lasts[x]! - y <= by) out[i] = 1
    }
  return out
}
