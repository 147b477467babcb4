// The direction of forms: eigenvectors of the smoothed structure tensor, and what goes along and across them.
import { premultiply, loadPixel } from './simd'

/**
 * The direction along which the picture changes least, from a smoothed structure tensor (four floats E, F, G, – a pixel): four floats a pixel: cos and sin of
 * it, and the anisotropy (λ1 − λ2)/(λ1 + λ2) 0…1, and √λ1. dst may be tensor. Where nothing changes the direction is level and the anisotropy 0.
 * Kass & Witkin, "Analyzing oriented patterns", CVGIP 37 (1987); Brox, Weickert, Burgeth & Mrázek, "Nonlinear structure tensors" (2006).
 * @rows tensor dst
 */
export function flowOf(tensor: usize, tensorStride: i32, dst: usize, dstStride: i32, w: i32, h: i32): void {
  for (let y = 0; y < h; y++) {
    for (let i: usize = 0; i < <usize>w << 4; i += 16) {
      const e = load<f32>(tensor + i)
      const f = load<f32>(tensor + i, 4)
      const g = load<f32>(tensor + i, 8)
      const d = sqrt<f32>((e - g) * (e - g) + 4 * f * f)
      const sum = e + g
      // eigenvector of the smaller eigenvalue: (λ1 − e, −f) or (f, λ2 − …): the longer of two forms
      const l1: f32 = (sum + d) * 0.5
      let tx: f32 = 0
      let ty: f32 = 0
      if (e > g) {
        tx = -f
        ty = l1 - g
      } else {
        tx = l1 - e
        ty = -f
      }
      const n = sqrt<f32>(tx * tx + ty * ty)
      if (n > 1e-12) {
        tx /= n
        ty /= n
      } else {
        tx = 1
        ty = 0
      }
      store<f32>(dst + i, tx)
      store<f32>(dst + i, ty, 4)
      store<f32>(dst + i, sum > 1e-12 ? d / sum : 0, 8)
      store<f32>(dst + i, sqrt<f32>(max<f32>(0, l1)), 12)
    }
    tensor += tensorStride
    dst += dstStride
  }
}

/**
 * Lightness (BT.709) of straight colour laid on white, a float 0…1 a pixel.
 * @rows src dst
 */
export function lumaPlane(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) {
      const c = premultiply(loadPixel(src + (x << 3)))
      const l = f32x4.extract_lane(c, 0) * 0.2126 + f32x4.extract_lane(c, 1) * 0.7152 + f32x4.extract_lane(c, 2) * 0.0722
      store<f32>(dst + (x << 2), l + 1 - f32x4.extract_lane(c, 3))
    }
    src += srcStride
    dst += dstStride
  }
}

/** A float plane at a place between its pixels, by straight lines; counted from a pixel, so that it does not matter where a region begins. */
// @ts-ignore: decorator
@inline
function between(pixel: usize, stride: usize, x: f32, y: f32): f32 {
  const fx = floor<f32>(x)
  const fy = floor<f32>(y)
  const tx = x - fx
  const ty = y - fy
  const p = pixel + <usize>(<i32>fy * <i32>stride + (<i32>fx << 2))
  const a = load<f32>(p) + (load<f32>(p, 4) - load<f32>(p)) * tx
  const q = p + stride
  const b = load<f32>(q) + (load<f32>(q, 4) - load<f32>(q)) * tx
  return a + (b - a) * ty
}

/**
 * Difference of Gaussians across the flow: centre − τ · surround, each a one-dimensional Gaussian along the gradient; differences between the two are
 * made less by `still`, and smaller ones are none. src is a float plane, the w × h output
 * grown by r + 1 on all sides; `weights`: 2(r + 1) floats, centre outwards, of the narrow Gaussian and then of the wide one.
 * Kang, Lee & Chui, "Coherent line drawing", NPAR 2007; Winnemöller, Kyprianidis & Olsen, "XDoG", Computers & Graphics 36 (2012).
 * @rows src flow dst
 * @overlap 2 * r + 2
 * @work w * h * (r + 1)
 */
export function dogAcross(src: usize, srcStride: i32, flow: usize, flowStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, weights: usize, tau: f32, still: f32): void {
  const stride = <usize>srcStride
  const wide = weights + (<usize>(r + 1) << 2)
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const f = flow + (<usize>x << 4)
      const nx = -load<f32>(f, 4)
      const ny = load<f32>(f)
      const p = src + <usize>(r + 1) * stride + (<usize>(x + r + 1) << 2)
      const v = load<f32>(p)
      let c = load<f32>(weights) * v
      let s = load<f32>(wide) * v
      for (let k = 1; k <= r; k++) {
        const t = <f32>k
        const both = between(p, stride, nx * t, ny * t) + between(p, stride, -nx * t, -ny * t)
        c += load<f32>(weights + (<usize>k << 2)) * both
        s += load<f32>(wide + (<usize>k << 2)) * both
      }
      const d = c - s
      const clear: f32 = d > still ? d - still : d < -still ? d + still : 0
      store<f32>(dst + (<usize>x << 2), (1 - tau) * c + tau * clear)
    }
    src += srcStride
    flow += flowStride
    dst += dstStride
  }
}

/**
 * Mean of a float plane along the flow, by a one-dimensional Gaussian over unit steps of the streamline through each pixel. src and flow are the
 * w × h output grown by r + 1 on all sides; `weights`: r + 1 floats, centre outwards, both sides summing to 1.
 * @rows src flow dst
 * @overlap 2 * r + 2
 * @work w * h * (r + 1)
 */
export function alongFlow(src: usize, srcStride: i32, flow: usize, flowStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, weights: usize): void {
  const stride = <usize>srcStride
  const fs = <usize>flowStride
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const p = src + <usize>(r + 1) * stride + (<usize>(x + r + 1) << 2)
      const f = flow + <usize>(r + 1) * fs + (<usize>(x + r + 1) << 4)
      let sum = load<f32>(weights) * load<f32>(p)
      for (let side = 0; side < 2; side++) {
        let tx = load<f32>(f)
        let ty = load<f32>(f, 4)
        if (side) {
          tx = -tx
          ty = -ty
        }
        let px: f32 = 0
        let py: f32 = 0
        for (let k = 1; k <= r; k++) {
          px += tx
          py += ty
          sum += load<f32>(weights + (<usize>k << 2)) * between(p, stride, px, py)
          const g = f + <usize>(<i32>floor<f32>(py + 0.5) * <i32>fs + (<i32>floor<f32>(px + 0.5) << 4))
          const gx = load<f32>(g)
          const gy = load<f32>(g, 4)
          // the streamline does not turn back
          const sign: f32 = gx * tx + gy * ty < 0 ? -1 : 1
          tx = gx * sign
          ty = gy * sign
        }
      }
      store<f32>(dst + (<usize>x << 2), sum)
    }
    src += srcStride
    flow += flowStride
    dst += dstStride
  }
}

/**
 * Ink where a plane of differences falls below ε: 1 at and above it, 1 + tanh(φ · (u − ε)) below (tanh by x(27 + x²)/(27 + 9x²), held at −1), as black
 * ink on white, or white on black where `light` is not 0; alpha is src's.
 * @rows plane src dst
 */
export function inkBelow(
  plane: usize,
  planeStride: i32,
  src: usize,
  srcStride: i32,
  dst: usize,
  dstStride: i32,
  w: i32,
  h: i32,
  epsilon: f32,
  phi: f32,
  light: i32,
): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) {
      const d = (load<f32>(plane + (x << 2)) - epsilon) * phi
      let v: f32 = 1
      if (d < 0) {
        const t = max<f32>(-3, d)
        v = 1 + (t * (27 + t * t)) / (27 + 9 * t * t)
      }
      if (light) v = 1 - v
      const code = <u64>(max<f32>(0, min<f32>(1, v)) * 65535 + 0.5)
      store<u64>(dst + (x << 3), code | (code << 16) | (code << 32) | (<u64>load<u16>(src + (x << 3), 6) << 48))
    }
    plane += planeStride
    src += srcStride
    dst += dstStride
  }
}
