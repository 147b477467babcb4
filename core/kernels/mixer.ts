// Channel mixers: what comes out of each channel as a weighted sum of what goes in, in several models, alpha among the outputs.
import { cubeRoot, decoded, rooted, storeEncoded, weighed } from './oklab'
import { loadPixel, storePixel } from './simd'

/** One output: six weights over four channels, alpha and 1. */
// @ts-ignore: decorator
@inline
function row(m: usize, i: usize, a: f32, b: f32, c: f32, d: f32, alpha: f32): f32 {
  const at = m + i * 24
  return a * load<f32>(at) + b * load<f32>(at, 4) + c * load<f32>(at, 8) + d * load<f32>(at, 12) + alpha * load<f32>(at, 16) + load<f32>(at, 20)
}

// @ts-ignore: decorator
@inline
function held(v: f32): f32 {
  return max<f32>(0, min<f32>(1, v))
}

/**
 * Mixes channels. `m`: five rows of six floats, for the four channels that come out and alpha; each row the weights of the four that go in, of
 * alpha, and a constant. Model 0: R, G, B, – on display-encoded values; 1: C, M, Y, K with full removal of the grey component, K = 1 − max(R, G, B);
 * 2: the one row 0 gives grey. Results are held to 0…1. src and dst may be the same.
 * @rows src dst
 */
export function mix(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, model: i32, m: usize): void {
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < <usize>w << 3; i += 8) {
      const v = loadPixel(src + i)
      let r = f32x4.extract_lane(v, 0)
      let g = f32x4.extract_lane(v, 1)
      let b = f32x4.extract_lane(v, 2)
      const a = f32x4.extract_lane(v, 3)
      let alpha: f32 = 0
      if (model == 1) {
        const top = max<f32>(r, max<f32>(g, b))
        const k: f32 = 1 - top
        const c: f32 = top > 0 ? (top - r) / top : 0
        const mg: f32 = top > 0 ? (top - g) / top : 0
        const ye: f32 = top > 0 ? (top - b) / top : 0
        const light: f32 = 1 - held(row(m, 3, c, mg, ye, k, a))
        r = (1 - held(row(m, 0, c, mg, ye, k, a))) * light
        g = (1 - held(row(m, 1, c, mg, ye, k, a))) * light
        b = (1 - held(row(m, 2, c, mg, ye, k, a))) * light
        alpha = row(m, 4, c, mg, ye, k, a)
      } else {
        alpha = row(m, 4, r, g, b, 0, a)
        const r2 = row(m, 0, r, g, b, 0, a)
        if (model == 2) {
          r = r2
          g = r2
          b = r2
        } else {
          const g2 = row(m, 1, r, g, b, 0, a)
          b = row(m, 2, r, g, b, 0, a)
          r = r2
          g = g2
        }
      }
      storePixel(dst + i, f32x4(held(r), held(g), held(b), held(alpha)))
    }
    src += srcStride
    dst += dstStride
  }
}

/** f of CIE 1976 L*a*b* (CIE 15:2004, 8.2.1). */
// @ts-ignore: decorator
@inline
export function labCurve(t: v128): v128 {
  const low = f32x4.add(f32x4.mul(t, f32x4.splat(<f32>(841.0 / 108.0))), f32x4.splat(<f32>(4.0 / 29.0)))
  return v128.bitselect(cubeRoot(t), low, f32x4.gt(t, f32x4.splat(<f32>0.008856452)))
}
// @ts-ignore: decorator
@inline
function labBack(f: v128): v128 {
  const low = f32x4.mul(f32x4.sub(f, f32x4.splat(<f32>(4.0 / 29.0))), f32x4.splat(<f32>(108.0 / 841.0)))
  return v128.bitselect(f32x4.mul(f32x4.mul(f, f), f), low, f32x4.gt(f, f32x4.splat(<f32>(6.0 / 29.0))))
}

/** One output of the four pixels: weights over L*, a*, b*, alpha and 1. */
// @ts-ignore: decorator
@inline
function rowOf(m: usize, i: usize, l: v128, a: v128, b: v128, alpha: v128): v128 {
  const at = m + i * 24
  const sum = weighed(l, a, b, load<f32>(at), load<f32>(at, 4), load<f32>(at, 8))
  return f32x4.add(f32x4.add(sum, f32x4.mul(alpha, f32x4.splat(load<f32>(at, 16)))), f32x4.splat(load<f32>(at, 20)))
}

/**
 * As mix, in CIE 1976 Lab under D65: channels L/100, a/128, b/128. The white is that of the sRGB matrix (IEC 61966-2-1), so that
 * greys have no a and b.
 * @rows src dst
 */
export function mixLab(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, m: usize, decode: usize, encode: usize): void {
  const zero = f32x4.splat(0)
  const one = f32x4.splat(1)
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x += 4) {
      const p = src + (<usize>x << 3)
      const r = decoded(p, decode, 0)
      const g = decoded(p, decode, 2)
      const b = decoded(p, decode, 4)
      // rows of the sRGB matrix, each divided by the white's
      const fx = labCurve(weighed(r, g, b, 0.4339532, 0.3762061, 0.1898407))
      const fy = labCurve(weighed(r, g, b, 0.2126729, 0.7151522, 0.0721750))
      const fz = labCurve(weighed(r, g, b, 0.0177578, 0.1094765, 0.8727657))
      const l = f32x4.sub(f32x4.mul(fy, f32x4.splat(1.16)), f32x4.splat(0.16))
      const aa = f32x4.mul(f32x4.sub(fx, fy), f32x4.splat(<f32>(500.0 / 128.0)))
      const bb = f32x4.mul(f32x4.sub(fy, fz), f32x4.splat(<f32>(200.0 / 128.0)))
      const alpha = f32x4.mul(f32x4(<f32>load<u16>(p, 6), <f32>load<u16>(p, 14), <f32>load<u16>(p, 22), <f32>load<u16>(p, 30)), f32x4.splat(<f32>1 / <f32>65535))
      const l2 = f32x4.pmin(one, f32x4.pmax(zero, rowOf(m, 0, l, aa, bb, alpha)))
      const a2 = rowOf(m, 1, l, aa, bb, alpha)
      const b2 = rowOf(m, 2, l, aa, bb, alpha)
      const alpha2 = f32x4.pmin(one, f32x4.pmax(zero, rowOf(m, 4, l, aa, bb, alpha)))
      const gy = f32x4.mul(f32x4.add(l2, f32x4.splat(0.16)), f32x4.splat(<f32>(1.0 / 1.16)))
      const bx = labBack(f32x4.add(gy, f32x4.mul(a2, f32x4.splat(<f32>(128.0 / 500.0)))))
      const by = labBack(gy)
      const bz = labBack(f32x4.sub(gy, f32x4.mul(b2, f32x4.splat(<f32>(128.0 / 200.0)))))
      // the inverse, its columns times the white
      const er = rooted(weighed(bx, by, bz, 3.0799112, -1.5370932, -0.5428178))
      const eg = rooted(weighed(bx, by, bz, -0.921246, 1.8759992, 0.0452467))
      const eb = rooted(weighed(bx, by, bz, 0.052892, -0.2040438, 1.1511518))
      const codes = i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(alpha2, f32x4.splat(65535)), f32x4.splat(0.5)))
      const q = dst + (<usize>x << 3)
      const n = w - x
      storeEncoded(q, f32x4.extract_lane(er, 0), f32x4.extract_lane(eg, 0), f32x4.extract_lane(eb, 0), <u64>i32x4.extract_lane(codes, 0), encode)
      if (n > 1) storeEncoded(q + 8, f32x4.extract_lane(er, 1), f32x4.extract_lane(eg, 1), f32x4.extract_lane(eb, 1), <u64>i32x4.extract_lane(codes, 1), encode)
      if (n > 2) storeEncoded(q + 16, f32x4.extract_lane(er, 2), f32x4.extract_lane(eg, 2), f32x4.extract_lane(eb, 2), <u64>i32x4.extract_lane(codes, 2), encode)
      if (n > 3) storeEncoded(q + 24, f32x4.extract_lane(er, 3), f32x4.extract_lane(eg, 3), f32x4.extract_lane(eb, 3), <u64>i32x4.extract_lane(codes, 3), encode)
    }
    src += srcStride
    dst += dstStride
  }
}
