// Marks of a pen, a lead or a brush: lines whose breadth and weight change along them, drawn by exact areas. Each piece between two places is a quadrangle that shares
// its ends with its neighbours; what marks lay adds up, so their order does not matter.
import { addEdge, sumsRow } from './path'

/** As `addEdge`, without its way about for an edge that lies within one pixel: most of them where marks are fine or seen from afar. */
// @ts-ignore: decorator
@inline
function addShort(sums: usize, w: i32, h: i32, ax: i32, ay: i32, bx: i32, by: i32, weight: i64): void {
  const column = ax >> 8
  const row = min(ay, by) >> 8
  if (column == bx >> 8 && row == (max(ay, by) - 1) >> 8 && <u32>column < <u32>w && <u32>row < <u32>h) {
    // one that runs up counts against: its height is below 0
    const d = weight * <i64>(by - ay)
    const s = (ax & 255) + (bx & 255)
    const p = sums + sumsRow(w) * <usize>row + (<usize>column << 3)
    store<i64>(p, load<i64>(p) + d * <i64>(512 - s))
    store<i64>(p, load<i64>(p, 8) + d * <i64>s, 8)
  } else addEdge(sums, w, h, ax, ay, bx, by, weight)
}

/** Of the full weight 1. */
const WEIGHTS: f32 = 255
/** A pixel that is wholly covered at full weight. */
const WHOLE: f64 = 131072 * 255

// @ts-ignore: decorator
@inline
function parts(v: f32): i32 {
  return <i32>Math.floor(<f64>v * 256 + 0.5)
}

/**
 * Lays marks on a plane of how much lies on each pixel, 0 up (1: covered once at full weight).
 * @param points x, y, half breadth (artwork pixels) and weight 0…1 of each place: four 32-bit floats, mark by mark
 * @param counts places of each mark, n of them
 * @param scale pixels of the level an artwork pixel
 * @param broad what breadths are multiplied by
 * @param x0,y0 the first pixel
 * @param areas contours that are filled at full weight: x, y of each point, artwork pixels (32-bit floats), and how many each has, m of them
 * @scratch (w + 2) * h * 8
 */
export function layMarks(
  points: usize, counts: usize, n: i32, scale: f32, broad: f32, x0: i32, y0: i32, w: i32, h: i32,
  areas: usize, areaCounts: usize, m: i32, dst: usize, dstStride: i32, scratch: usize,
): void {
  const stride = sumsRow(w)
  memory.fill(scratch, 0, stride * <usize>h)
  const dx = x0 << 8
  const dy = y0 << 8
  const right = w << 8
  const bottom = h << 8
  for (let k = 0; k < n; k++) {
    const count = load<i32>(counts + (<usize>k << 2))
    let lx = 0
    let ly = 0
    let rx = 0
    let ry = 0
    let weight: f32 = 0
    let nx: f32 = 0
    let ny: f32 = 0
    // what the quadrangle before counts: it shares an edge with the next, which is nothing where both count the same
    let shared: i64 = 0
    for (let i = 0; i < count; i++) {
      const p = points + (<usize>i << 4)
      const x = load<f32>(p) * scale
      const y = load<f32>(p, 4) * scale
      const half = load<f32>(p, 8) * broad * scale
      const its = load<f32>(p, 12)
      // its normal stands across the way from the place before to the one after
      const before = i > 0 ? p - 16 : p
      const after = i + 1 < count ? p + 16 : p
      const tx = load<f32>(after) - load<f32>(before)
      const ty = load<f32>(after, 4) - load<f32>(before, 4)
      const long = <f32>Math.sqrt(tx * tx + ty * ty)
      if (long > 1e-6) {
        nx = -ty / long
        ny = tx / long
      }
      const ax = parts(x + nx * half) - dx
      const ay = parts(y + ny * half) - dy
      const bx = parts(x - nx * half) - dx
      const by = parts(y - ny * half) - dy
      if (i > 0) {
        let s: i64 = 0
        const low = max(max(ay, by), max(ly, ry))
        const high = min(min(ay, by), min(ly, ry))
        const west = min(min(ax, bx), min(lx, rx))
        const east = max(max(ax, bx), max(lx, rx))
        if (low > 0 && high < bottom && east > 0 && west < right) {
          const t = <i64>Math.floor(<f64>((weight + its) * 0.5 * WEIGHTS) + 0.5)
          if (t > 0) {
            // whichever way it turns, it covers
            const area = <i64>(ax - rx) * <i64>(by - ly) - <i64>(bx - lx) * <i64>(ay - ry)
            s = area < 0 ? -t : t
            addShort(scratch, w, h, lx, ly, ax, ay, s)
            addShort(scratch, w, h, bx, by, rx, ry, s)
          }
        }
        if (s != shared) addShort(scratch, w, h, rx, ry, lx, ly, s - shared)
        shared = s
      }
      lx = ax
      ly = ay
      rx = bx
      ry = by
      weight = its
    }
    if (shared != 0) addShort(scratch, w, h, lx, ly, rx, ry, shared)
    points += <usize>count << 4
  }
  for (let k = 0; k < m; k++) {
    const count = load<i32>(areaCounts + (<usize>k << 2))
    for (let i = 0; i < count; i++) {
      const p = areas + (<usize>i << 3)
      const q = i + 1 < count ? p + 8 : areas
      const ax = parts(load<f32>(p) * scale) - dx
      const ay = parts(load<f32>(p, 4) * scale) - dy
      const bx = parts(load<f32>(q) * scale) - dx
      const by = parts(load<f32>(q, 4) * scale) - dy
      addEdge(scratch, w, h, ax, ay, bx, by, <i64>WEIGHTS)
    }
    areas += <usize>count << 3
  }
  for (let row = 0; row < h; row++) {
    const acc = scratch + stride * <usize>row
    let sum: i64 = 0
    for (let c = 0; c < w; c++) {
      sum += load<i64>(acc + (<usize>c << 3))
      store<f32>(dst + (<usize>c << 2), <f32>(<f64>(sum < 0 ? -sum : sum) / WHOLE))
    }
    dst += dstStride
  }
}

/**
 * What marks have laid, as a picture in ink and paper colours: codes in six floats, ink then paper; alpha is src's. Ink covers as far as it reaches (a pen); lead builds
 * up and comes near its darkest as it is laid again and again.
 * @param builds 0: covers; above: how fast lead builds up
 * @rows plane src dst
 */
export function marksOnPaper(plane: usize, planeStride: i32, src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, colours: usize, builds: f32): void {
  const ir = load<f32>(colours)
  const ig = load<f32>(colours, 4)
  const ib = load<f32>(colours, 8)
  const pr = load<f32>(colours, 12)
  const pg = load<f32>(colours, 16)
  const pb = load<f32>(colours, 20)
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) {
      const laid = load<f32>(plane + (x << 2))
      // 1 − 1 / (1 + b t + (b t)²): near b t for little, and on to 1
      const t = laid * builds
      const v: f32 = builds > 0 ? (t + t * t) / (<f32>1 + t + t * t) : min<f32>(1, laid)
      const r = <u64>(pr + (ir - pr) * v + 0.5)
      const g = <u64>(pg + (ig - pg) * v + 0.5)
      const b = <u64>(pb + (ib - pb) * v + 0.5)
      store<u64>(dst + (x << 3), r | (g << 16) | (b << 32) | (<u64>load<u16>(src + (x << 3), 6) << 48))
    }
    plane += planeStride
    src += srcStride
    dst += dstStride
  }
}
