// Drawn strokes: thin, long, slightly bent marks whose pressure follows a demand for darkness.

/** Bytes of a stroke: twelve floats. */
const STROKE: usize = 48

/** Sine of any angles: a polynomial over −π … π, within 0.001. */
// @ts-ignore: decorator
@inline
function wave(a: v128): v128 {
  const t = f32x4.mul(a, f32x4.splat(0.15915494))
  const x = f32x4.mul(f32x4.sub(t, f32x4.nearest(t)), f32x4.splat(2))
  const p = f32x4.mul(f32x4.mul(f32x4.splat(4), x), f32x4.sub(f32x4.splat(1), f32x4.abs(x)))
  return f32x4.add(f32x4.mul(f32x4.splat(0.775), p), f32x4.mul(f32x4.mul(f32x4.splat(0.225), p), f32x4.abs(p)))
}

/** Columns of a stroke that are passed over together. */
const STRETCH: i32 = 8

/** The largest number of each square of 2^shift × 2^shift of a plane of floats, row by row. */
function peaksOf(plane: usize, stride: i32, w: i32, h: i32, shift: i32, out: usize): void {
  const cells = (w >> shift) + 1
  memory.fill(out, 0, <usize>(cells * ((h >> shift) + 1)) << 2)
  for (let y = 0; y < h; y++) {
    const row = out + (<usize>((y >> shift) * cells) << 2)
    for (let x = 0; x < w; x++) {
      const cell = row + (<usize>(x >> shift) << 2)
      const v = load<f32>(plane + (<usize>x << 2))
      if (v > load<f32>(cell)) store<f32>(cell, v)
    }
    plane += stride
  }
}

/** The largest of the squares that a rectangle touches, in pixels of the region that the plane holds grown by m; beyond it the rim counts. */
function peakOf(peaks: usize, cells: i32, shift: i32, m: i32, w: i32, h: i32, x0: i32, y0: i32, x1: i32, y1: i32): f32 {
  const left = (max<i32>(-m, min<i32>(w - 1 + m, x0)) + m) >> shift
  const right = (max<i32>(-m, min<i32>(w - 1 + m, x1)) + m) >> shift
  const top = (max<i32>(-m, min<i32>(h - 1 + m, y0)) + m) >> shift
  const bottom = (max<i32>(-m, min<i32>(h - 1 + m, y1)) + m) >> shift
  let most: f32 = 0
  for (let y = top; y <= bottom; y++) {
    const row = peaks + (<usize>(y * cells) << 2)
    for (let x = left; x <= right; x++) {
      const v = load<f32>(row + (<usize>x << 2))
      if (v > most) most = v
    }
  }
  return most
}

/**
 * Draws strokes over a plane of what is left of the paper (1 bare, 0 solid). (x0, y0) is the first pixel's place; `demand` is a plane of floats 0…1
 * that is the w × h region grown by m on all sides. Twelve floats a stroke: middle x, y; cos, sin of its direction; half its length; half its width at full
 * demand; curvature; amplitude, frequency and phase of its wobble; its rank 0…1: drawn where the layer's demand exceeds it; darkness of its lead. The
 * layer's demand rises from 0 to 1 between the demands `start` and `end`. `soft`: how far above its rank a stroke is at full pressure.
 * @rows plane demand +y0
 * @work w * h * 24
 * @scratch (((w + 2 * m) >> 3) + 2) * (((h + 2 * m) >> 3) + 2) * 4
 */
export function strokes(
  plane: usize,
  planeStride: i32,
  demand: usize,
  demandStride: i32,
  w: i32,
  h: i32,
  x0: i32,
  y0: i32,
  m: i32,
  list: usize,
  n: i32,
  start: f32,
  end: f32,
  soft: f32,
  scratch: usize,
): void {
  const range: f32 = 1 / (end - start)
  const zero = f32x4.splat(0)
  const one = f32x4.splat(1)
  // the largest demand of each square of the plane: most strokes are not drawn in most places, and that is seen without looking closely
  let shift = 3
  while (1 << shift < m && shift < 6) shift++
  const cells = ((w + 2 * m) >> shift) + 1
  peaksOf(demand, demandStride, w + 2 * m, h + 2 * m, shift, scratch)
  for (let k = 0; k < n; k++) {
    const s = list + <usize>k * STROKE
    const cx = load<f32>(s)
    const cy = load<f32>(s, 4)
    const cos = load<f32>(s, 8)
    const sin = load<f32>(s, 12)
    const half = load<f32>(s, 16)
    const wide = load<f32>(s, 20)
    const bend = load<f32>(s, 24)
    const amp = load<f32>(s, 28)
    const freq = load<f32>(s, 32)
    const phase = load<f32>(s, 36)
    const rank = load<f32>(s, 40)
    const lead = load<f32>(s, 44)
    const side = wide + 1 + amp + abs<f32>(bend) * half * half * 0.5
    // along the longer direction, one column (or row) after the other
    const across = abs<f32>(cos) >= abs<f32>(sin)
    const main = across ? cos : sin
    const reach = half * abs<f32>(main) + side * abs<f32>(across ? sin : cos) + 1
    const cm = across ? cx : cy
    const low = across ? x0 : y0
    const length = across ? w : h
    const from = max<i32>(low, <i32>ceil<f32>(cm - reach))
    const to = min<i32>(low + length - 1, <i32>floor<f32>(cm + reach))
    const clipLow = across ? y0 : x0
    const clipHigh = clipLow + (across ? h : w) - 1
    const cc = across ? cy : cx
    // how far a pixel of the stroke, and the place its demand is read, may lie from the straight line through the stroke's middle
    const far = half + side
    const room: f32 = (wide + 1) * 4 + 4 + (amp + abs<f32>(bend) * far * far * 0.5) * 2
    const slope = (across ? sin : cos) / main
    const vmain = f32x4.splat(main)
    const vsin = f32x4.splat(sin)
    const vcos = f32x4.splat(cos)
    const curve = f32x4.splat(bend)
    const swing = f32x4.splat(amp)
    const often = f32x4.splat(freq)
    const shifted = f32x4.splat(phase)
    const spread = f32x4.splat((wide + 1) / abs<f32>(main))
    const widest = f32x4.splat(max<f32>(wide, 0.5) + 0.5)
    let checked = from
    // four columns at a time
    for (let i = from; i <= to; i += 4) {
      if (i == checked) {
        checked = i + STRETCH
        const a = cc + (<f32>i - cm) * slope
        const b = cc + (<f32>(checked - 1) - cm) * slope
        const c0 = <i32>(min<f32>(a, b) - room) - clipLow
        const c1 = <i32>(max<f32>(a, b) + room) - clipLow
        const i0 = i - <i32>room - low
        const i1 = checked + <i32>room - low
        const most = across ? peakOf(scratch, cells, shift, m, w, h, i0, c0, i1, c1) : peakOf(scratch, cells, shift, m, w, h, c0, i0, c1, i1)
        if ((most - start) * range <= rank) {
          i = checked - 4
          continue
        }
      }
      const column = f32x4.add(f32x4.splat(<f32>i), f32x4(0, 1, 2, 3))
      const d = f32x4.sub(column, f32x4.splat(cm))
      // where the middle line crosses these columns
      let t = f32x4.div(d, vmain)
      let middle = zero
      for (let turn = 0; turn < 2; turn++) {
        const o = f32x4.add(f32x4.mul(f32x4.mul(f32x4.mul(curve, t), t), f32x4.splat(0.5)), f32x4.mul(swing, wave(f32x4.add(f32x4.mul(often, t), shifted))))
        // n = −dx·sin + dy·cos = o, with dx known across and dy known along
        middle = across ? f32x4.div(f32x4.add(o, f32x4.mul(d, vsin)), vcos) : f32x4.div(f32x4.sub(f32x4.mul(d, vcos), o), vsin)
        t = across ? f32x4.add(f32x4.mul(d, vcos), f32x4.mul(middle, vsin)) : f32x4.add(f32x4.mul(middle, vcos), f32x4.mul(d, vsin))
      }
      const centre = f32x4.add(middle, f32x4.splat(cc))
      const first = f32x4.pmax(f32x4.splat(<f32>clipLow), f32x4.ceil(f32x4.sub(centre, spread)))
      let last = f32x4.pmin(f32x4.splat(<f32>clipHigh), f32x4.floor(f32x4.add(centre, spread)))
      last = v128.bitselect(last, f32x4.splat(-1e9), f32x4.le(column, f32x4.splat(<f32>to)))
      for (let j = first; ; j = f32x4.add(j, one)) {
        const inside = f32x4.le(j, last)
        if (!v128.any_true(inside)) break
        const c = f32x4.sub(j, f32x4.splat(cc))
        const dx = across ? d : c
        const dy = across ? c : d
        const at = f32x4.add(f32x4.mul(dx, vcos), f32x4.mul(dy, vsin))
        const left = f32x4.sub(f32x4.splat(half), f32x4.abs(at))
        const o = f32x4.add(f32x4.mul(f32x4.mul(f32x4.mul(curve, at), at), f32x4.splat(0.5)), f32x4.mul(swing, wave(f32x4.add(f32x4.mul(often, at), shifted))))
        const off = f32x4.sub(f32x4.sub(f32x4.mul(dy, vcos), f32x4.mul(dx, vsin)), o)
        const near = v128.and(v128.and(inside, f32x4.gt(left, zero)), f32x4.lt(f32x4.abs(off), widest))
        if (!v128.any_true(near)) continue
        // the demand under the stroke's middle line
        const fx = f32x4.add(f32x4.sub(across ? column : j, f32x4.splat(<f32>(x0 - m))), f32x4.nearest(f32x4.mul(off, vsin)))
        const fy = f32x4.sub(f32x4.sub(across ? j : column, f32x4.splat(<f32>(y0 - m))), f32x4.nearest(f32x4.mul(off, vcos)))
        const px = i32x4.trunc_sat_f32x4_s(f32x4.pmax(zero, f32x4.pmin(f32x4.splat(<f32>(w - 1 + 2 * m)), fx)))
        const py = i32x4.trunc_sat_f32x4_s(f32x4.pmax(zero, f32x4.pmin(f32x4.splat(<f32>(h - 1 + 2 * m)), fy)))
        const place = i32x4.add(i32x4.mul(py, i32x4.splat(demandStride)), i32x4.shl(px, 2))
        let wanted = v128.load32_zero(demand + <usize>i32x4.extract_lane(place, 0))
        wanted = v128.load32_lane(demand + <usize>i32x4.extract_lane(place, 1), wanted, 1)
        wanted = v128.load32_lane(demand + <usize>i32x4.extract_lane(place, 2), wanted, 2)
        wanted = v128.load32_lane(demand + <usize>i32x4.extract_lane(place, 3), wanted, 3)
        wanted = f32x4.mul(f32x4.sub(wanted, f32x4.splat(start)), f32x4.splat(range))
        const drawn = v128.and(near, f32x4.gt(wanted, f32x4.splat(rank)))
        const lanes = i32x4.bitmask(drawn)
        if (lanes == 0) continue
        const held = f32x4.pmin(one, wanted)
        const rise = f32x4.pmax(zero, f32x4.pmin(one, f32x4.div(f32x4.sub(wanted, f32x4.splat(rank)), f32x4.splat(soft))))
        const eased = f32x4.mul(f32x4.mul(rise, rise), f32x4.sub(f32x4.splat(3), f32x4.mul(f32x4.splat(2), rise)))
        const press = f32x4.mul(eased, f32x4.pmin(one, f32x4.div(left, f32x4.splat(half * 0.3))))
        const hw = f32x4.mul(
          f32x4.mul(f32x4.splat(wide), f32x4.add(f32x4.splat(0.5), f32x4.mul(f32x4.splat(0.5), held))),
          f32x4.add(f32x4.splat(0.45), f32x4.mul(f32x4.splat(0.55), press)),
        )
        // thinner than a pixel: fainter
        const edge = f32x4.sub(f32x4.add(f32x4.pmax(hw, f32x4.splat(0.5)), f32x4.splat(0.5)), f32x4.abs(off))
        const cover = f32x4.mul(f32x4.pmin(one, f32x4.pmax(zero, edge)), f32x4.pmin(one, f32x4.mul(f32x4.splat(2), hw)))
        const ink = f32x4.mul(f32x4.mul(cover, f32x4.splat(lead)), f32x4.add(f32x4.splat(0.35), f32x4.mul(f32x4.splat(0.65), press)))
        const stays = f32x4.sub(one, ink)
        const line = <usize>planeStride
        if (lanes & 1) mark(plane, line, across, i - low, <i32>f32x4.extract_lane(j, 0) - clipLow, f32x4.extract_lane(stays, 0))
        if (lanes & 2) mark(plane, line, across, i + 1 - low, <i32>f32x4.extract_lane(j, 1) - clipLow, f32x4.extract_lane(stays, 1))
        if (lanes & 4) mark(plane, line, across, i + 2 - low, <i32>f32x4.extract_lane(j, 2) - clipLow, f32x4.extract_lane(stays, 2))
        if (lanes & 8) mark(plane, line, across, i + 3 - low, <i32>f32x4.extract_lane(j, 3) - clipLow, f32x4.extract_lane(stays, 3))
      }
    }
  }
}

/** What a stroke leaves of a pixel of the plane. */
// @ts-ignore: decorator
@inline
function mark(plane: usize, line: usize, across: bool, i: i32, j: i32, stays: f32): void {
  const p = plane + <usize>(across ? j : i) * line + (<usize>(across ? i : j) << 2)
  store<f32>(p, load<f32>(p) * stays)
}

/**
 * Lightness (BT.709, on white) sent through a table of 4096 floats, a float a pixel.
 * @rows src dst
 */
export function lumaThrough(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, table: usize): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) {
      const px = load<u64>(src + (x << 3))
      let l = (<u32>(px & 0xffff) * 13933 + <u32>((px >> 16) & 0xffff) * 46871 + <u32>((px >> 32) & 0xffff) * 4732) >> 16
      const a = <u32>(px >> 48)
      if (a != 65535) l = <u32>((<u64>l * a) / 65535) + 65535 - a
      store<f32>(dst + (x << 2), load<f32>(table + (<usize>(l >> 4) << 2)))
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * A plane of what is left of the paper (1 bare … 0 solid) as a picture in ink and paper colours: codes in six floats, ink then paper; alpha is src's.
 * @rows plane src dst
 */
export function inkOnPaper(plane: usize, planeStride: i32, src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, colours: usize): void {
  const ir = load<f32>(colours)
  const ig = load<f32>(colours, 4)
  const ib = load<f32>(colours, 8)
  const pr = load<f32>(colours, 12) - ir
  const pg = load<f32>(colours, 16) - ig
  const pb = load<f32>(colours, 20) - ib
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) {
      const v = load<f32>(plane + (x << 2))
      const r = <u64>(ir + pr * v + 0.5)
      const g = <u64>(ig + pg * v + 0.5)
      const b = <u64>(ib + pb * v + 0.5)
      store<u64>(dst + (x << 3), r | (g << 16) | (b << 32) | (<u64>load<u16>(src + (x << 3), 6) << 48))
    }
    plane += planeStride
    src += srcStride
    dst += dstStride
  }
}
