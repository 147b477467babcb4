// Edges as lines: the crests of a gradient or of a difference of Gaussians, linked, and inked with a pen of some width.

/**
 * The length of each gradient (two floats a pixel), a float a pixel.
 * @rows src dst
 */
export function gradientLength(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) {
      const gx = load<f32>(src + (x << 3))
      const gy = load<f32>(src + (x << 3), 4)
      store<f32>(dst + (x << 2), sqrt<f32>(gx * gx + gy * gy))
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * max(0, wide − narrow) of two float planes: positive on the dark side of edges and on dark lines.
 * @rows narrow wide dst
 */
export function darkSide(narrow: usize, narrowStride: i32, wide: usize, wideStride: i32, dst: usize, dstStride: i32, w: i32, h: i32): void {
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < <usize>w << 2; i += 4) store<f32>(dst + i, max<f32>(0, load<f32>(wide + i) - load<f32>(narrow + i)))
    narrow += narrowStride
    wide += wideStride
    dst += dstStride
  }
}

/** A plane at a place between pixels. */
// @ts-ignore: decorator
@inline
function at(p: usize, stride: usize, dx: f32, dy: f32): f32 {
  const fx = floor<f32>(dx)
  const fy = floor<f32>(dy)
  const q = p + <usize>(<i32>fy * <i32>stride + (<i32>fx << 2))
  const tx = dx - fx
  const a = load<f32>(q) + (load<f32>(q, 4) - load<f32>(q)) * tx
  const b = load<f32>(q + stride) + (load<f32>(q + stride, 4) - load<f32>(q + stride)) * tx
  return a + (b - a) * (dy - fy)
}

/** The direction a gradient faces, in turns 0…1 counter-clockwise from the right (up is positive): a fit to within 0.2°. */
// @ts-ignore: decorator
@inline
function turnOf(gx: f32, gy: f32): f32 {
  const ax = abs<f32>(gx)
  const ay = abs<f32>(gy)
  const q = min<f32>(ax, ay) / max<f32>(ax, ay)
  let turn = q * (0.168 - 0.0425 * q)
  if (ay > ax) turn = 0.25 - turn
  if (gx < 0) turn = 0.5 - turn
  return gy > 0 ? 1 - turn : turn
}

/** How much a gradient counts by the direction it faces: 16 sectors, counter-clockwise from the right (up is positive), straight between their middles. */
// @ts-ignore: decorator
@inline
function facing(rose: usize, gx: f32, gy: f32): f32 {
  const s = abs<f32>(gx) + abs<f32>(gy)
  if (s < 1e-20) return 1
  const place = turnOf(gx, gy) * 16
  const i = <i32>place
  const t = place - <f32>i
  const a = load<f32>(rose + (<usize>(i & 15) << 2))
  return a + (load<f32>(rose + (<usize>((i + 1) & 15) << 2)) - a) * t
}

/**
 * Pixels at which a plane has a crest: three floats a pixel (four with one spare): its height there times how much its facing counts (0 where there is
 * none), and where in the pixel the crest lies (dx, dy, −0.5 … 0.5). Across the gradient, or (`ridges`) across the plane's own strongest curvature. plane
 * and gradient are the w × h output grown by 2 on all sides. Canny, "A computational approach to edge detection", IEEE PAMI 8 (1986).
 * @rows plane gradient dst
 * @overlap 4
 * @work w * h * 4
 */
export function crests(
  plane: usize,
  planeStride: i32,
  gradient: usize,
  gradientStride: i32,
  dst: usize,
  dstStride: i32,
  w: i32,
  h: i32,
  rose: usize,
  least: f32,
  ridges: i32,
): void {
  const stride = <usize>planeStride
  for (let y = 0; y < h; y++) {
    const row = plane + 2 * stride + 8
    const slopes = gradient + 2 * <usize>gradientStride + 16
    for (let x: usize = 0; x < <usize>w; x++) {
      const p = row + (x << 2)
      const q = dst + (x << 4)
      v128.store(q, f32x4.splat(0))
      const m = load<f32>(p)
      if (m < least) continue
      const gx = load<f32>(slopes + (x << 3))
      const gy = load<f32>(slopes + (x << 3), 4)
      let nx = gx
      let ny = gy
      if (ridges) {
        const xx = load<f32>(p - 4) - 2 * m + load<f32>(p, 4)
        const yy = load<f32>(p - stride) - 2 * m + load<f32>(p + stride)
        const xy = (load<f32>(p + stride, 4) - load<f32>(p + stride - 4) - load<f32>(p - stride, 4) + load<f32>(p - stride - 4)) * 0.25
        const d = sqrt<f32>((xx - yy) * (xx - yy) + 4 * xy * xy)
        // eigenvector of the smaller (most negative) eigenvalue (xx + yy − d) / 2
        const l: f32 = (xx + yy - d) * 0.5
        if (xx < yy) {
          nx = l - yy
          ny = xy
        } else {
          nx = xy
          ny = l - xx
        }
      }
      const n = sqrt<f32>(nx * nx + ny * ny)
      if (n < 1e-20) continue
      nx /= n
      ny /= n
      const before = at(p, stride, -nx, -ny)
      const after = at(p, stride, nx, ny)
      if (!(m > before && m >= after)) continue
      const counts = facing(rose, gx, gy)
      if (counts <= 0) continue
      const bend = before - 2 * m + after
      const off: f32 = bend < 0 ? max<f32>(-0.5, min<f32>(0.5, (before - after) / (2 * bend))) : 0
      v128.store(q, f32x4(m * counts, nx * off, ny * off, 0))
    }
    plane += planeStride
    gradient += gradientStride
    dst += dstStride
  }
}

/**
 * Keeps crests of `high` or more, and those of `low` or more that hang together with one of them through others in at most `steps` pixels (neighbours also
 * across corners), and of both only runs of more than `short` pixels; the others become 0. In place over what crests wrote; pixels within `steps` + `short` of
 * the border may be wrong.
 * @scratch w * h * 9 + 64
 */
export function linkCrests(crest: usize, crestStride: i32, w: i32, h: i32, low: f32, high: f32, steps: i32, short: i32, scratch: usize): void {
  // how many steps a kept crest may still go on, plus one; 0: not kept
  const left = scratch
  const queue = scratch + ((<usize>(w * h) + 15) & ~15)
  memory.fill(left, 0, <usize>(w * h))
  let first = 0
  let last = 0
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      if (load<f32>(crest + <usize>y * <usize>crestStride + (<usize>x << 4)) < high) continue
      store<u8>(left + <usize>(y * w + x), <u8>(steps + 1))
      store<i32>(queue + (<usize>last << 2), y * w + x)
      last++
    }
  }
  // breadth first, so that each crest is reached by its shortest way
  while (first < last) {
    const i = load<i32>(queue + (<usize>first << 2))
    first++
    const rest = load<u8>(left + <usize>i)
    if (rest <= 1) continue
    const x = i % w
    const y = i / w
    for (let dy = -1; dy <= 1; dy++) {
      for (let dx = -1; dx <= 1; dx++) {
        const nx = x + dx
        const ny = y + dy
        if (nx < 0 || ny < 0 || nx >= w || ny >= h) continue
        const j = ny * w + nx
        if (load<u8>(left + <usize>j) || load<f32>(crest + <usize>ny * <usize>crestStride + (<usize>nx << 4)) < low) continue
        store<u8>(left + <usize>j, rest - 1)
        store<i32>(queue + (<usize>last << 2), j)
        last++
      }
    }
  }
  for (let i = 0; i < w * h; i++) {
    const c = crest + <usize>(i / w) * <usize>crestStride + (<usize>(i % w) << 4)
    if (!load<u8>(left + <usize>i)) store<f32>(c, 0)
    else store<u8>(left + <usize>i, 1)
  }
  if (short <= 0) return
  // marks: 1 kept and not looked at yet, 2 in the run at hand, 3 in a run long enough
  for (let i = 0; i < w * h; i++) {
    if (load<u8>(left + <usize>i) != 1) continue
    store<u8>(left + <usize>i, 2)
    store<i32>(queue, i)
    first = 0
    last = 1
    while (first < last) {
      const j = load<i32>(queue + (<usize>first << 2))
      first++
      const x = j % w
      const y = j / w
      for (let k = 0; k < 9; k++) {
        const nx = x + (k % 3) - 1
        const ny = y + k / 3 - 1
        if (nx < 0 || ny < 0 || nx >= w || ny >= h) continue
        const at = ny * w + nx
        if (load<u8>(left + <usize>at) != 1) continue
        store<u8>(left + <usize>at, 2)
        store<i32>(queue + (<usize>last << 2), at)
        last++
      }
    }
    // the whole run has been walked: its length is known
    const long = last > short
    for (let j = 0; j < last; j++) {
      const at = load<i32>(queue + (<usize>j << 2))
      store<u8>(left + <usize>at, 3)
      if (!long) store<f32>(crest + <usize>(at / w) * <usize>crestStride + (<usize>(at % w) << 4), 0)
    }
  }
}

/**
 * Draws crests with a round pen: half as wide as `half` pixels where they are as high as `full`, tapering to (1 − taper) of it where they are low, with
 * soft borders of a pixel. Black on white, or white on black where `light` is not 0; alpha is src's. Crests are the w × h output grown by r on
 * all sides; r is at least half + 2.
 * @rows crest src dst
 * @overlap 2 * r
 * @work w * h * 2
 * @scratch (w + 2 * r) * (h + 2 * r) * 4
 */
export function inkCrests(
  crest: usize,
  crestStride: i32,
  src: usize,
  srcStride: i32,
  dst: usize,
  dstStride: i32,
  w: i32,
  h: i32,
  r: i32,
  half: f32,
  full: f32,
  taper: f32,
  light: i32,
  scratch: usize,
): void {
  const columns = w + 2 * r
  const rows = h + 2 * r
  memory.fill(scratch, 0, <usize>(columns * rows) << 2)
  for (let y = 0; y < rows; y++) {
    for (let x = 0; x < columns; x++) {
      const c = crest + <usize>y * <usize>crestStride + (<usize>x << 4)
      const m = load<f32>(c)
      if (m <= 0) continue
      const s = min<f32>(1, m / full)
      const wide = half * (1 - taper + taper * s)
      const ox = load<f32>(c, 4)
      const oy = load<f32>(c, 8)
      // thinner than a pixel: fainter
      const most = min<f32>(1, 2 * wide)
      const reach = max<f32>(wide, 0.5) + 0.5
      // counted from the pixel, so that nothing depends on where a region begins
      const x0 = max<i32>(0, x + <i32>ceil<f32>(ox - reach))
      const x1 = min<i32>(columns - 1, x + <i32>floor<f32>(ox + reach))
      const y0 = max<i32>(0, y + <i32>ceil<f32>(oy - reach))
      const y1 = min<i32>(rows - 1, y + <i32>floor<f32>(oy + reach))
      for (let j = y0; j <= y1; j++) {
        for (let i = x0; i <= x1; i++) {
          const dx = <f32>(i - x) - ox
          const dy = <f32>(j - y) - oy
          const cover = min<f32>(1, reach - sqrt<f32>(dx * dx + dy * dy)) * most
          const at = scratch + (<usize>(j * columns + i) << 2)
          if (cover > load<f32>(at)) store<f32>(at, cover)
        }
      }
    }
  }
  for (let y = 0; y < h; y++) {
    const row = scratch + (<usize>((y + r) * columns + r) << 2)
    for (let x: usize = 0; x < <usize>w; x++) {
      const cover = load<f32>(row + (x << 2))
      const v: f32 = light ? cover : 1 - cover
      const code = <u64>(v * 65535 + 0.5)
      store<u64>(dst + (x << 3), code | (code << 16) | (code << 32) | (<u64>load<u16>(src + (x << 3), 6) << 48))
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * Adds up, for 16 sectors of the direction gradients face (as crests counts them), the lengths of those of at least `least`: 16 floats.
 */
export function edgeRose(gradient: usize, gradientStride: i32, w: i32, h: i32, sums: usize, least: f32): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) {
      const gx = load<f32>(gradient + (x << 3))
      const gy = load<f32>(gradient + (x << 3), 4)
      const m = sqrt<f32>(gx * gx + gy * gy)
      if (m < least) continue
      const turn = turnOf(gx, gy)
      const at = sums + (<usize>(<i32>(turn * 16 + 0.5) & 15) << 2)
      store<f32>(at, load<f32>(at) + m)
    }
    gradient += gradientStride
  }
}
