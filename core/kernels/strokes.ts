// Drawn strokes: thin, long, slightly bent marks whose pressure follows a demand for darkness.

/** Bytes of a stroke: twelve floats. */
const STROKE: usize = 48

// @ts-ignore: decorator
@inline
function smooth(t: f32): f32 {
  t = max<f32>(0, min<f32>(1, t))
  return t * t * (3 - 2 * t)
}

/** Sine of any angle: a polynomial over −π … π, within 0.001. */
// @ts-ignore: decorator
@inline
function wave(a: f32): f32 {
  const t: f32 = a * 0.15915494
  const x: f32 = (t - nearest<f32>(t)) * 2
  const p: f32 = 4 * x * (1 - abs<f32>(x))
  return <f32>0.775 * p + <f32>0.225 * p * abs<f32>(p)
}

/**
 * Draws strokes over a plane of what is left of the paper (1 bare, 0 solid). (x0, y0) is the first pixel's place; `demand` is a plane of floats 0…1
 * that is the w × h region grown by m on all sides. Twelve floats a stroke: middle x, y; cos, sin of its direction; half its length; half its width at full
 * demand; curvature; amplitude, frequency and phase of its wobble; its rank 0…1: drawn where the layer's demand exceeds it; darkness of its lead. The
 * layer's demand rises from 0 to 1 between the demands `start` and `end`. `soft`: how far above its rank a stroke is at full pressure.
 * @rows plane demand +y0
 * @work w * h * 24
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
): void {
  const range: f32 = 1 / (end - start)
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
    for (let i = from; i <= to; i++) {
      const d = <f32>i - cm
      // where the middle line crosses this column
      let t = d / main
      let o: f32 = 0
      for (let turn = 0; turn < 2; turn++) {
        o = bend * t * t * 0.5 + amp * wave(freq * t + phase)
        // across: n = −dx·sin + dy·cos = o; along: n = −dx·sin + dy·cos = o with dy known
        const e = across ? (o + d * sin) / cos : (d * cos - o) / sin
        t = across ? d * cos + e * sin : e * cos + d * sin
      }
      const middle = across ? (o + d * sin) / cos : (d * cos - o) / sin
      const spread = (wide + 1) / abs<f32>(main)
      const first = max<i32>(clipLow, <i32>ceil<f32>(cc + middle - spread))
      const last = min<i32>(clipHigh, <i32>floor<f32>(cc + middle + spread))
      for (let j = first; j <= last; j++) {
        const c = <f32>j - cc
        const dx = across ? d : c
        const dy = across ? c : d
        const at = dx * cos + dy * sin
        const left = half - abs<f32>(at)
        if (left <= 0) continue
        const off = dy * cos - dx * sin - (bend * at * at * 0.5 + amp * wave(freq * at + phase))
        // the demand under the stroke's middle line
        const px = (across ? i : j) - x0 + <i32>nearest<f32>(off * sin)
        const py = (across ? j : i) - y0 - <i32>nearest<f32>(off * cos)
        const q = demand + <usize>(max<i32>(-m, min<i32>(h - 1 + m, py)) + m) * <usize>demandStride + (<usize>(max<i32>(-m, min<i32>(w - 1 + m, px)) + m) << 2)
        const wanted = (load<f32>(q) - start) * range
        if (wanted <= rank) continue
        const held = min<f32>(1, wanted)
        const press = smooth((wanted - rank) / soft) * min<f32>(1, left / (half * 0.3))
        const hw = wide * (0.5 + 0.5 * held) * (0.45 + 0.55 * press)
        // thinner than a pixel: fainter
        const cover = min<f32>(1, max<f32>(0, max<f32>(hw, 0.5) + 0.5 - abs<f32>(off))) * min<f32>(1, 2 * hw)
        const ink = cover * lead * (0.35 + 0.65 * press)
        const p = plane + <usize>((across ? j : i) - y0) * <usize>planeStride + (<usize>((across ? i : j) - x0) << 2)
        store<f32>(p, load<f32>(p) * (1 - ink))
      }
    }
  }
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
