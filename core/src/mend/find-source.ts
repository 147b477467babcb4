// taken once: loops over pixels look nothing up
const { abs, hypot, max, min, round, sqrt } = Math

/** A picture in which a source is looked for. */
export interface Around {
  w: number
  h: number
  /** RGBA codes of 16 bits; what is clear is no source. */
  px: Uint16Array
  /** What is to be mended: not 0. */
  inside: Uint8Array
}

export interface Offset {
  dx: number
  dy: number
}

/** Breadth of the band round what is mended by which places are compared, of its size, and at least, pixels. */
const BAND = 0.3
const LEAST_BAND = 3
/** How far away a source may lie, sizes of what is mended. */
const FAR = 6
/** Pixels that are compared, at most. */
const SAMPLES = 500
/** What another tone, strange things inside, and distance count against another texture. */
const TONE = 0.2
const STRANGE = 0.7
const DISTANCE = 0.6

/**
 * Where to take from to mend a place: the band round the source is like the band round the place but for its tone, which healing evens out, nothing strange lies in
 * it, and it is near.
 * @param not offsets that were tried already: nothing near them is taken
 * @returns the offset from the place to its source, whole pixels; null where there is none
 */
export function findSource({ w, h, px, inside }: Around, not: readonly Offset[] = []): Offset | null {
  const box = boxOf(w, h, inside)
  if (!box) return null
  const size = max(box.w, box.h)
  const band = max(LEAST_BAND, round(size * BAND))
  const rim: [number, number][] = []
  const within: [number, number][] = []
  for (let y = max(0, box.y - band); y < min(h, box.y + box.h + band); y++)
    for (let x = max(0, box.x - band); x < min(w, box.x + box.w + band); x++) {
      if (inside[y * w + x]) within.push([x, y])
      else if (px[(y * w + x) * 4 + 3]! > 0 && nearInside(w, h, inside, x, y, band)) rim.push([x, y])
    }
  const [rims, inner] = [thinned(rim), thinned(within)]
  if (rims.length === 0) return null
  const there = Float32Array.from(rims.flatMap(([x, y]) => [0, 1, 2].map((c) => px[(y * w + x) * 4 + c]! / 257)))
  const spread = deviation(there)

  const cost = (dx: number, dy: number): number => {
    // its band does not touch the place itself
    if (abs(dx) < box.w + band && abs(dy) < box.h + band) return Infinity
    const [left, top] = [box.x + dx, box.y + dy]
    if (left < 0 || top < 0 || left + box.w > w || top + box.h > h) return Infinity
    if (not.some((n) => hypot(n.dx - dx, n.dy - dy) < size)) return Infinity
    const off = [0, 0, 0]
    const mean = [0, 0, 0]
    let n = 0
    let squares = 0
    for (let k = 0; k < rims.length; k++) {
      const [x, y] = [rims[k]![0] + dx, rims[k]![1] + dy]
      if (x < 0 || y < 0 || x >= w || y >= h) continue
      const i = (y * w + x) * 4
      if (px[i + 3] === 0 || inside[y * w + x]) return Infinity
      for (let c = 0; c < 3; c++) {
        const v = px[i + c]! / 257
        const d = there[k * 3 + c]! - v
        off[c] = off[c]! + d
        mean[c] = mean[c]! + v
        squares += d * d
      }
      n++
    }
    // mostly beyond the picture
    if (n < rims.length * 0.6) return Infinity
    const tone = off.reduce((sum, v) => sum + (v / n) * (v / n), 0)
    const texture = sqrt(max(0, squares / n - tone) / 3)
    let strange = 0
    for (const [x, y] of inner) {
      const i = ((y + dy) * w + x + dx) * 4
      if (px[i + 3] === 0) return Infinity
      for (let c = 0; c < 3; c++) strange += (px[i + c]! / 257 - mean[c]! / n) ** 2
    }
    const odd = max(0, sqrt(strange / max(1, inner.length) / 3) - spread)
    return texture + TONE * sqrt(tone / 3) + STRANGE * odd + (DISTANCE * hypot(dx, dy)) / size
  }

  const step = max(1, round(size / 8))
  const far = FAR * size + 2 * band
  let best: { at: Offset; cost: number } | null = null
  const look = (dx: number, dy: number) => {
    const c = cost(dx, dy)
    if (c < (best?.cost ?? Infinity)) best = { at: { dx, dy }, cost: c }
  }
  for (let dy = -far; dy <= far; dy += step) for (let dx = -far; dx <= far; dx += step) look(dx, dy)
  const found = best as { at: Offset; cost: number } | null
  if (!found) return null
  const { dx: x, dy: y } = found.at
  for (let dy = y - step; dy <= y + step; dy++) for (let dx = x - step; dx <= x + step; dx++) look(dx, dy)
  return (best as { at: Offset } | null)!.at
}

function boxOf(w: number, h: number, inside: Uint8Array): { x: number; y: number; w: number; h: number } | null {
  let [left, top, right, low] = [w, h, -1, -1]
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      if (!inside[i]) continue
      left = min(left, x)
      right = max(right, x)
      top = min(top, y)
      low = max(low, y)
    }
  return right < 0 ? null : { x: left, y: top, w: right - left + 1, h: low - top + 1 }
}

function nearInside(w: number, h: number, inside: Uint8Array, x: number, y: number, band: number): boolean {
  for (let j = max(0, y - band); j <= min(h - 1, y + band); j++)
    for (let i = max(0, x - band); i <= min(w - 1, x + band); i++) if (inside[j * w + i] && (i - x) * (i - x) + (j - y) * (j - y) <= band * band) return true
  return false
}

const thinned = <T>(all: readonly T[]): T[] => {
  const every = max(1, Math.ceil(all.length / SAMPLES))
  return all.filter((_, i) => i % every === 0)
}

/** How far colours spread about their mean, three codes each. */
function deviation(v: Float32Array): number {
  const n = v.length / 3
  const mean = [0, 0, 0]
  for (let i = 0; i < v.length; i++) mean[i % 3] = mean[i % 3]! + v[i]! / n
  let sum = 0
  for (let i = 0; i < v.length; i++) sum += (v[i]! - mean[i % 3]!) ** 2
  return sqrt(sum / v.length)
}
