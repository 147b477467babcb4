// Planes of numbers and the few whole-plane operations that a study is made of: running sums, so that their cost does not grow with their reach.
// Only + − × ÷ and the square root are used, in a fixed order: every machine finds the same.

/** Numbers of a picture, rows from the top. */
export interface Field {
  w: number
  h: number
  v: Float32Array
}

export const field = (w: number, h: number): Field => ({ w, h, v: new Float32Array(w * h) })

/** A field made value by value. */
export function mapped(of: Field, f: (v: number, i: number) => number): Field {
  const out = field(of.w, of.h)
  for (let i = 0; i < out.v.length; i++) out.v[i] = f(of.v[i]!, i)
  return out
}

/** Means over windows of 2r + 1 along rows, borders repeated. */
function boxRows(src: Float32Array, dst: Float32Array, w: number, h: number, r: number): void {
  const n = 2 * r + 1
  for (let y = 0; y < h; y++) {
    const at = y * w
    const first = src[at]!
    const last = src[at + w - 1]!
    let sum = first * r
    for (let x = 0; x < r; x++) sum += x < w ? src[at + x]! : last
    for (let x = 0; x < w; x++) {
      sum += x + r < w ? src[at + x + r]! : last
      dst[at + x] = sum / n
      sum -= x - r >= 0 ? src[at + x - r]! : first
    }
  }
}

/** The same along columns, all columns at once. */
function boxColumns(src: Float32Array, dst: Float32Array, w: number, h: number, r: number): void {
  const n = 2 * r + 1
  const sums = new Float64Array(w)
  const row = (y: number) => Math.min(h - 1, Math.max(0, y)) * w
  for (let y = -r; y < r; y++) {
    const at = row(y)
    for (let x = 0; x < w; x++) sums[x] = sums[x]! + src[at + x]!
  }
  for (let y = 0; y < h; y++) {
    const [into, out, to] = [row(y + r), row(y - r), y * w]
    for (let x = 0; x < w; x++) {
      const sum = sums[x]! + src[into + x]!
      dst[to + x] = sum / n
      sums[x] = sum - src[out + x]!
    }
  }
}

/** Mean of the square window that reaches r pixels each way; borders repeated. */
export function boxed({ w, h, v }: Field, r: number): Field {
  if (r < 1) return { w, h, v: v.slice() }
  const [a, b] = [new Float32Array(v.length), new Float32Array(v.length)]
  boxRows(v, a, w, h, r)
  boxColumns(a, b, w, h, r)
  return { w, h, v: b }
}

/**
 * About a Gaussian blur: three box means whose variances add up to sigma² (Wells, "Efficient synthesis of Gaussian filters by cascaded uniform filters", 1986).
 * Below half a pixel nothing is blurred.
 */
export function blurred(of: Field, sigma: number): Field {
  // a window of n has the variance (n² − 1) / 12
  const ideal = Math.sqrt((12 * sigma * sigma) / 3 + 1)
  let low = Math.floor(ideal)
  if (low % 2 === 0) low--
  const narrow = Math.min(3, Math.max(0, Math.round((12 * sigma * sigma - 3 * low * low - 12 * low - 9) / (-4 * low - 4))))
  const { w, h } = of
  let [a, b] = [of.v, new Float32Array(of.v.length)]
  let spare: Float32Array | null = null
  for (let i = 0; i < 3; i++) {
    const r = ((i < narrow ? low : low + 2) - 1) / 2
    if (r < 1) continue
    spare ??= new Float32Array(of.v.length)
    boxRows(a, spare, w, h, r)
    boxColumns(spare, b, w, h, r)
    a = b
    b = b === of.v ? new Float32Array(of.v.length) : b
  }
  return { w, h, v: a === of.v ? of.v.slice() : a }
}

/** The value between pixels, at a place counted in pixels whose middles are whole numbers; borders repeated. */
export function at({ w, h, v }: Field, x: number, y: number): number {
  const cx = x < 0 ? 0 : x > w - 1 ? w - 1 : x
  const cy = y < 0 ? 0 : y > h - 1 ? h - 1 : y
  const ix = Math.min(w - 2 < 0 ? 0 : w - 2, Math.floor(cx))
  const iy = Math.min(h - 2 < 0 ? 0 : h - 2, Math.floor(cy))
  const [fx, fy] = [cx - ix, cy - iy]
  const i = iy * w + ix
  const [dx, dy] = [w > 1 ? 1 : 0, h > 1 ? w : 0]
  const top = v[i]! + (v[i + dx]! - v[i]!) * fx
  const low = v[i + dy]! + (v[i + dy + dx]! - v[i + dy]!) * fx
  return top + (low - top) * fy
}

/** Slopes along x and y by Scharr's operator (2000), a pixel; borders repeated. */
export function slopes({ w, h, v }: Field): { x: Field; y: Field } {
  const [gx, gy] = [field(w, h), field(w, h)]
  for (let y = 0; y < h; y++) {
    const [a, b, c] = [Math.max(0, y - 1) * w, y * w, Math.min(h - 1, y + 1) * w]
    for (let x = 0; x < w; x++) {
      const [l, r] = [x > 0 ? x - 1 : 0, x < w - 1 ? x + 1 : x]
      const [al, ar, cl, cr] = [v[a + l]!, v[a + r]!, v[c + l]!, v[c + r]!]
      gx.v[b + x] = (3 * (ar - al) + 10 * (v[b + r]! - v[b + l]!) + 3 * (cr - cl)) / 32
      gy.v[b + x] = (3 * (cl - al) + 10 * (v[c + x]! - v[a + x]!) + 3 * (cr - ar)) / 32
    }
  }
  return { x: gx, y: gy }
}

/** 0 up to `from`, 1 from `to` on, and a smooth way between. */
export function between(v: number, from: number, to: number): number {
  const t = Math.min(1, Math.max(0, (v - from) / (to - from)))
  return t * t * (3 - 2 * t)
}
