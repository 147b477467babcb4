// The brush: dabs laid into a stroke's cover (floats 0…1), and the cover merged into a plane. See core/src/strokes.

/** Height (0…1) of a square field of 64 × 64 codes at a place −1…1, straight between its points. */
function heightAt(field: usize, u: f32, v: f32): f32 {
  const x = max<f32>(0, min<f32>(62.999, (u + 1) * 32 - 0.5))
  const y = max<f32>(0, min<f32>(62.999, (v + 1) * 32 - 0.5))
  const i = <i32>x
  const j = <i32>y
  const fx = x - <f32>i
  const fy = y - <f32>j
  const p = field + (<usize>((j << 6) + i) << 1)
  const top = <f32>load<u16>(p) + (<f32>load<u16>(p, 2) - <f32>load<u16>(p)) * fx
  const low = <f32>load<u16>(p, 128) + (<f32>load<u16>(p, 130) - <f32>load<u16>(p, 128)) * fx
  return (top + (low - top) * fy) * (<f32>1 / <f32>65535)
}

// @ts-ignore: decorator
@inline
function held(v: f32): f32 {
  return max<f32>(0, min<f32>(1, v))
}

/** The profile of four pixels of a row of a dab, whose first pixel's middle is dx from its own; 0 beyond its rim. */
// @ts-ignore: decorator
@inline
function profile(dab: usize, dx: v128, dy: f32, tip: usize, tooth: usize, tx: i32, ty: i32): v128 {
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  const cos = load<f32>(dab, 8)
  const sin = load<f32>(dab, 12)
  const u = f32x4.mul(f32x4.add(f32x4.mul(dx, f32x4.splat(cos)), f32x4.splat(dy * sin)), f32x4.splat(load<f32>(dab, 16)))
  const v = f32x4.mul(f32x4.sub(f32x4.splat(dy * cos), f32x4.mul(dx, f32x4.splat(sin))), f32x4.splat(load<f32>(dab, 20)))
  const d = f32x4.sqrt(f32x4.add(f32x4.mul(u, u), f32x4.mul(v, v)))
  const t = f32x4.pmin(one, f32x4.pmax(zero, f32x4.mul(f32x4.sub(one, d), f32x4.splat(load<f32>(dab, 24)))))
  if (!v128.any_true(f32x4.gt(t, zero))) return zero
  let p = f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.add(t, t)))
  if (tip || tooth) {
    for (let i = 0; i < 4; i++) {
      let f: f32 = 1
      if (tip) f = held((heightAt(tip, lane(u, i), lane(v, i)) - load<f32>(dab, 36)) * load<f32>(dab, 40))
      if (tooth) {
        const at = ((ty & 255) << 8) + ((tx + i) & 255)
        f *= held((<f32>load<u16>(tooth + (<usize>at << 1)) * (<f32>1 / <f32>65535) - load<f32>(dab, 44)) * load<f32>(dab, 48))
      }
      p = f32x4.mul(p, spread(f, i))
    }
  }
  return p
}

/**
 * As dab, for a brush whose colour changes on its way: of each pixel four floats, its colour times its cover, and its cover.
 * @param r,g,b the dab's colour, 0…1
 */
export function dabColour(cover: usize, stride: i32, w: i32, h: i32, dab: usize, tip: usize, tooth: usize, tx: i32, ty: i32, r: f32, g: f32, b: f32): void {
  const colour = f32x4(r, g, b, 1)
  const lay = load<f32>(dab, 28)
  const most = load<f32>(dab, 32)
  const zero = f32x4.splat(0)
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x += 4) {
      const dx = f32x4.add(f32x4.splat(load<f32>(dab) + <f32>x), f32x4(0, 1, 2, 3))
      const p = profile(dab, dx, load<f32>(dab, 4) + <f32>y, tip, tooth, tx + x, ty + y)
      if (!v128.any_true(f32x4.gt(p, zero))) continue
      for (let i = 0; i < min(4, w - x); i++) {
        const at = cover + (<usize>(x + i) << 4)
        const old = v128.load(at)
        const room = max<f32>(0, most - f32x4.extract_lane(old, 3))
        v128.store(at, f32x4.add(old, f32x4.mul(colour, f32x4.splat(room * lane(p, i) * lay))))
      }
    }
    cover += stride
  }
}

/**
 * Lays one dab into a rectangle of cover: c ← c + (most − c) · cover · profile, where there is room below `most`.
 * The profile of an ellipse is 1 within its firm part and falls by 3t² − 2t³ to 0 at its rim.
 * `dab` holds floats: 0, 1 the first pixel's middle from the dab's; 2, 3 cosine and sine of its long axis; 4, 5 one over its half axes;
 * 6 one over the soft share of the radius; 7 cover; 8 most; 9, 10 from which height of the tip and how steeply it takes;
 * 11, 12 the same of the paper.
 * @param tip 64 × 64 heights that go with the dab, or 0
 * @param tooth 256 × 256 heights that lie on the paper, repeating, or 0; tx, ty the first pixel's place on it
 */
export function dab(cover: usize, stride: i32, w: i32, h: i32, dab: usize, tip: usize, tooth: usize, tx: i32, ty: i32): void {
  const lay = load<f32>(dab, 28)
  const most = load<f32>(dab, 32)
  const zero = f32x4.splat(0)
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x += 4) {
      const dx = f32x4.add(f32x4.splat(load<f32>(dab) + <f32>x), f32x4(0, 1, 2, 3))
      const p = profile(dab, dx, load<f32>(dab, 4) + <f32>y, tip, tooth, tx + x, ty + y)
      if (!v128.any_true(f32x4.gt(p, zero))) continue
      const at = cover + (<usize>x << 2)
      const c = v128.load(at)
      const room = f32x4.pmax(zero, f32x4.sub(f32x4.splat(most), c))
      const laid = f32x4.add(c, f32x4.mul(room, f32x4.mul(p, f32x4.splat(lay))))
      if (w - x >= 4) v128.store(at, laid)
      else for (let i = 0; i < w - x; i++) store<f32>(at + (<usize>i << 2), lane(laid, i))
    }
    cover += stride
  }
}

// @ts-ignore: decorator
@inline
function lane(v: v128, i: i32): f32 {
  if (i == 0) return f32x4.extract_lane(v, 0)
  if (i == 1) return f32x4.extract_lane(v, 1)
  if (i == 2) return f32x4.extract_lane(v, 2)
  return f32x4.extract_lane(v, 3)
}

/** f in lane i, 1 elsewhere. */
// @ts-ignore: decorator
@inline
function spread(f: f32, i: i32): v128 {
  const one = f32x4.splat(1)
  if (i == 0) return f32x4.replace_lane(one, 0, f)
  if (i == 1) return f32x4.replace_lane(one, 1, f)
  if (i == 2) return f32x4.replace_lane(one, 2, f)
  return f32x4.replace_lane(one, 3, f)
}

/** Cover as it dries: with a wet edge the middle of a stroke thins, the colour stands at its rim. */
// @ts-ignore: decorator
@inline
function dried(c: f32, wet: f32): f32 {
  if (wet == 0) return c
  const t = held((c - <f32>0.3) * 2)
  const rim = min<f32>(1, c * (<f32>10 / <f32>3)) - <f32>0.55 * t * t * (3 - 2 * t)
  return c + (rim - c) * wet
}

/** Merges cover into a plane of one channel: towards a value. dst may be base. */
export function mergeGrey(base: usize, baseStride: i32, cover: usize, coverStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, value: i32, wet: f32): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) {
      const b = <f32>load<u16>(base + (x << 1))
      const c = dried(load<f32>(cover + (x << 2)), wet)
      store<u16>(dst + (x << 1), <u16>(b + (<f32>value - b) * c + 0.5))
    }
    base += baseStride
    cover += coverStride
    dst += dstStride
  }
}

/**
 * Merges cover of a colour into a plane of RGBA: source-over (Porter and Duff 1984), straight alpha; a clear pixel has no colour. With `erase` it takes
 * alpha away instead. dst may be base.
 * @param colour its RGB codes in the low 48 bits
 */
export function mergePaint(base: usize, baseStride: i32, cover: usize, coverStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, colour: i64, erase: i32, wet: f32): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) {
      const px = load<u64>(base + (x << 3))
      const c = dried(load<f32>(cover + (x << 2)), wet)
      let out = px
      if (c > 0) {
        const ab = <f32>(px >> 48)
        if (erase) {
          const a = <u64>(ab * (1 - c) + 0.5)
          out = a == 0 ? 0 : (px & 0x0000ffffffffffff) | (a << 48)
        } else {
          const kept = ab * (<f32>1 / <f32>65535) * (1 - c)
          const sum = c + kept
          const a = <u64>(sum * 65535 + 0.5)
          if (a == 0) out = 0
          else {
            const share = c / sum
            out = min<u64>(65535, a) << 48
            for (let i: u64 = 0; i < 48; i += 16) {
              const b = <f32>((px >> i) & 0xffff)
              const s = <f32>((<u64>colour >> i) & 0xffff)
              out |= <u64>(b + (s - b) * share + 0.5) << i
            }
          }
        }
      }
      store<u64>(dst + (x << 3), out)
    }
    base += baseStride
    cover += coverStride
    dst += dstStride
  }
}

/**
 * As mergePaint, of cover that has colours of its own (dabColour).
 */
export function mergeColours(base: usize, baseStride: i32, cover: usize, coverStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, wet: f32): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) {
      const px = load<u64>(base + (x << 3))
      const laid = v128.load(cover + (x << 4))
      const raw = f32x4.extract_lane(laid, 3)
      const c = dried(raw, wet)
      let out = px
      if (c > 0) {
        const kept = <f32>(px >> 48) * (<f32>1 / <f32>65535) * (1 - c)
        const sum = c + kept
        const a = <u64>(sum * 65535 + 0.5)
        if (a == 0) out = 0
        else {
          const share = c / sum
          const colour = f32x4.mul(laid, f32x4.splat(65535 / raw))
          out = min<u64>(65535, a) << 48
          for (let i = 0; i < 3; i++) {
            const shift = <u64>(i << 4)
            const b = <f32>((px >> shift) & 0xffff)
            const s = max<f32>(0, min<f32>(65535, lane(colour, i)))
            out |= <u64>(b + (s - b) * share + 0.5) << shift
          }
        }
      }
      store<u64>(dst + (x << 3), out)
    }
    base += baseStride
    cover += coverStride
    dst += dstStride
  }
}
