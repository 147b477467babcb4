// Dither: a few colours for all tones.

/**
 * Ordered dither: adds (threshold − ½) · spread to R, G and B and leaves the choice of colour to what follows. `table`: n × n thresholds
 * 0…65535 that repeat over the plane; (x0, y0) is the first pixel's place. src and dst may be the same.
 * @rows src dst +y0
 */
export function spreadBy(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, x0: i32, y0: i32, table: usize, n: i32, spread: f32): void {
  const k = spread * <f32>65535
  for (let y = 0; y < h; y++) {
    const ty = (y0 + y) % n
    const row = table + (<usize>((ty < 0 ? ty + n : ty) * n) << 1)
    for (let x = 0; x < w; x++) {
      const tx = (x0 + x) % n
      const t = (<f32>load<u16>(row + (<usize>(tx < 0 ? tx + n : tx) << 1)) + 0.5) * (<f32>1 / <f32>65536) - 0.5
      const add = <i32>nearest<f32>(t * k)
      const p = src + (<usize>x << 3)
      const q = dst + (<usize>x << 3)
      const r = min<i32>(65535, max<i32>(0, <i32>load<u16>(p) + add))
      const g = min<i32>(65535, max<i32>(0, <i32>load<u16>(p, 2) + add))
      const b = min<i32>(65535, max<i32>(0, <i32>load<u16>(p, 4) + add))
      store<u64>(q, <u64>r | (<u64>g << 16) | (<u64>b << 32) | (<u64>load<u16>(p, 6) << 48))
    }
    src += srcStride
    dst += dstStride
  }
}

/** Errors that no colour can make good do not pile up: a value and its errors lie within an eighth beyond the scale. */
// @ts-ignore: decorator
@inline
function kept(v: f32): f32 {
  return max<f32>(-8192, min<f32>(73727, v))
}

/**
 * Error diffusion, row by row from the left, every second row from the right where `serpentine` is not 0: each pixel becomes the nearest entry of a palette (Euclidean
 * over R, G, B) and what it lacks is handed on. `weights`: 3 rows of 5 floats, the pixel in the middle of the first. `state`: two rows of (w + 4) · 3 floats of errors
 * for this row and the next, and a third; then the number of the row (32 bits). `colours`: n RGBA16 pixels; a pixel keeps its alpha. src and dst may be the same.
 * Floyd & Steinberg, "An adaptive algorithm for spatial grey scale" (1976); Jarvis, Judice & Ninke (1976).
 */
export function diffuse(
  src: usize,
  srcStride: i32,
  dst: usize,
  dstStride: i32,
  w: i32,
  h: i32,
  state: usize,
  weights: usize,
  colours: usize,
  n: i32,
  strength: f32,
  serpentine: i32,
): void {
  const line = <usize>(w + 4) * 12
  const number = state + line * 3
  let row = load<i32>(number)
  for (let y = 0; y < h; y++) {
    const e0 = state + line * <usize>(row % 3) + 24
    const e1 = state + line * <usize>((row + 1) % 3) + 24
    const e2 = state + line * <usize>((row + 2) % 3) + 24
    const back = serpentine != 0 && (row & 1) == 1
    for (let i = 0; i < w; i++) {
      const x = back ? w - 1 - i : i
      const p = src + (<usize>x << 3)
      const e = e0 + <usize>x * 12
      const r = kept(<f32>load<u16>(p) + load<f32>(e))
      const g = kept(<f32>load<u16>(p, 2) + load<f32>(e, 4))
      const b = kept(<f32>load<u16>(p, 4) + load<f32>(e, 8))
      let best: f32 = 1e30
      let which = 0
      for (let k = 0; k < n; k++) {
        const c = colours + (<usize>k << 3)
        const dr = r - <f32>load<u16>(c)
        const dg = g - <f32>load<u16>(c, 2)
        const db = b - <f32>load<u16>(c, 4)
        const d = dr * dr + dg * dg + db * db
        if (d < best) {
          best = d
          which = k
        }
      }
      const c = colours + (<usize>which << 3)
      const lr = (r - <f32>load<u16>(c)) * strength
      const lg = (g - <f32>load<u16>(c, 2)) * strength
      const lb = (b - <f32>load<u16>(c, 4)) * strength
      for (let j = 0; j < 3; j++) {
        const to = j == 0 ? e0 : j == 1 ? e1 : e2
        for (let m = j == 0 ? 3 : 0; m < 5; m++) {
          const k = load<f32>(weights + (<usize>(j * 5 + m) << 2))
          if (k == 0) continue
          const at = to + <usize>((back ? x - m + 2 : x + m - 2) * 12)
          store<f32>(at, load<f32>(at) + lr * k)
          store<f32>(at, load<f32>(at, 4) + lg * k, 4)
          store<f32>(at, load<f32>(at, 8) + lb * k, 8)
        }
      }
      store<u64>(dst + (<usize>x << 3), (load<u64>(c) & 0x0000ffffffffffff) | (<u64>load<u16>(p, 6) << 48))
    }
    memory.fill(e0 - 24, 0, line)
    row++
    src += srcStride
    dst += dstStride
  }
  store<i32>(number, row)
}

/** The place of the largest (sign 1, among ones) or smallest (sign −1, among zeros) energy; of equal ones the first. */
// @ts-ignore: decorator
@inline
function extreme(energy: usize, ones: usize, size: i32, cluster: bool): i32 {
  let best: f32 = cluster ? -1e30 : 1e30
  let at = -1
  for (let i = 0; i < size; i++) {
    const one = load<u8>(ones + <usize>i) != 0
    if (one != cluster) continue
    const e = load<f32>(energy + (<usize>i << 2))
    if (cluster ? e > best : e < best) {
      best = e
      at = i
    }
  }
  return at
}

/** Adds or takes the energy of a point on a torus. */
function charge(energy: usize, bell: usize, n: i32, at: i32, sign: f32): void {
  const ax = at % n
  const ay = at / n
  for (let y = 0; y < n; y++) {
    const dy = (y - ay + n) % n
    for (let x = 0; x < n; x++) {
      const p = energy + (<usize>(y * n + x) << 2)
      store<f32>(p, load<f32>(p) + sign * load<f32>(bell + (<usize>(dy * n + ((x - ax + n) % n)) << 2)))
    }
  }
}

/**
 * A table of n × n thresholds 0…65535, each rank once, whose points at any level lie evenly and without order: blue noise. Ulichney, "The void-and-cluster method
 * for dither array generation", SPIE 1913 (1993); deviation 1.5.
 * @scratch n * n * 10 + 64
 */
export function blueNoise(table: usize, n: i32, seed: i32, scratch: usize): void {
  const size = n * n
  const energy = scratch
  const bell = energy + (<usize>size << 2)
  const ones = bell + (<usize>size << 2)
  const first = ones + <usize>size
  memory.fill(energy, 0, <usize>size << 2)
  memory.fill(ones, 0, <usize>size)
  for (let y = 0; y < n; y++) {
    for (let x = 0; x < n; x++) {
      const dx = min<i32>(x, n - x)
      const dy = min<i32>(y, n - y)
      store<f32>(bell + (<usize>(y * n + x) << 2), <f32>Math.exp(-<f64>(dx * dx + dy * dy) / 4.5))
    }
  }
  let count = 0
  let h = <u32>seed * 747796405 + 2891336453
  while (count < size / 10) {
    h = h * 747796405 + 2891336453
    const at = <i32>((h >> 9) % <u32>size)
    if (load<u8>(ones + <usize>at)) continue
    store<u8>(ones + <usize>at, 1)
    charge(energy, bell, n, at, 1)
    count++
  }
  // moved from the tightest cluster into the largest void until nothing moves
  for (let turn = 0; turn < size; turn++) {
    const from = extreme(energy, ones, size, true)
    store<u8>(ones + <usize>from, 0)
    charge(energy, bell, n, from, -1)
    const to = extreme(energy, ones, size, false)
    store<u8>(ones + <usize>to, 1)
    charge(energy, bell, n, to, 1)
    if (to == from) break
  }
  memory.copy(first, ones, <usize>size)
  const scale: f64 = 65536.0 / <f64>size
  for (let rank = count - 1; rank >= 0; rank--) {
    const at = extreme(energy, ones, size, true)
    store<u8>(ones + <usize>at, 0)
    charge(energy, bell, n, at, -1)
    store<u16>(table + (<usize>at << 1), <u16>((<f64>rank + 0.5) * scale))
  }
  memory.fill(energy, 0, <usize>size << 2)
  memory.copy(ones, first, <usize>size)
  for (let i = 0; i < size; i++) if (load<u8>(ones + <usize>i)) charge(energy, bell, n, i, 1)
  for (let rank = count; rank < size; rank++) {
    const at = extreme(energy, ones, size, false)
    store<u8>(ones + <usize>at, 1)
    charge(energy, bell, n, at, 1)
    store<u16>(table + (<usize>at << 1), <u16>((<f64>rank + 0.5) * scale))
  }
}
