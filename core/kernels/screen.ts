// Halftone screens: ink where the tone is darker than a threshold that repeats in cells; sampled several times a pixel, so that dots are solid with
// soft borders.
import { loadPixel } from './simd'

/**
 * How much of each pixel a screen covers with ink. `plane`: darkness 0…1 a pixel (floats), replaced by the cover. (x0, y0): the first pixel's place. A cell is 2³² wide
 * and high, counted round: `right` and `down` are what a sample to the right adds across and down the cell (down the picture it adds −down and right), (ox, oy) where the
 * picture's origin lies. `table`: 128 × 128 thresholds 0…65535 over a cell, each value as often as any other. `sub`: samples a pixel each way.
 * @rows plane +y0
 * @work w * h * sub * sub / 4
 */
export function screen(plane: usize, planeStride: i32, w: i32, h: i32, x0: i32, y0: i32, right: i32, down: i32, ox: i32, oy: i32, table: usize, sub: i32): void {
  const share: f32 = <f32>1 / <f32>(sub * sub)
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const p = plane + (<usize>x << 2)
      const d = load<f32>(p)
      if (d <= 0 || d >= 1) {
        store<f32>(p, d >= 1 ? 1 : 0)
        continue
      }
      const code = <i32>(d * 65536)
      // the first sample's place; all of it wraps at a cell's end
      const sx = (x0 + x) * sub
      const sy = (y0 + y) * sub
      let u0 = <u32>(ox + sx * right - sy * down + ((right - down) >> 1))
      let v0 = <u32>(oy + sx * down + sy * right + ((down + right) >> 1))
      let n = 0
      for (let j = 0; j < sub; j++) {
        let u = u0
        let v = v0
        for (let i = 0; i < sub; i++) {
          n += <i32>(<i32>load<u16>(table + <usize>(((v >> 25) << 8) | ((u >> 25) << 1))) < code)
          u += <u32>right
          v += <u32>down
        }
        u0 -= <u32>down
        v0 += <u32>right
      }
      store<f32>(p, <f32>n * share)
    }
    plane += planeStride
  }
}

/**
 * Darkness of one ink, a float 0…1 a pixel. `ink` 0 to 3: C, M, Y, K, of which black takes the share `grey` of what the three have in common; 4: darkness of the
 * lightness (BT.709). Clear pixels have none.
 * @rows src dst
 */
export function inkOf(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, ink: i32, grey: f32): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) {
      const c = loadPixel(src + (x << 3))
      const r = f32x4.extract_lane(c, 0)
      const g = f32x4.extract_lane(c, 1)
      const b = f32x4.extract_lane(c, 2)
      let d: f32 = 0
      if (ink == 4) d = 1 - (r * 0.2126 + g * 0.7152 + b * 0.0722)
      else {
        const k = grey * (1 - max<f32>(r, max<f32>(g, b)))
        const v = ink == 0 ? r : ink == 1 ? g : b
        d = ink == 3 ? k : k < 1 ? (1 - v - k) / (1 - k) : 0
      }
      store<f32>(dst + (x << 2), d * f32x4.extract_lane(c, 3))
    }
    src += srcStride
    dst += dstStride
  }
}

/**
 * Lays an ink over a picture: each of R, G and B is multiplied by 1 − cover · (1 − ink). `first` not 0: over the paper instead; alpha is src's. `colours`: six
 * floats 0…1, ink then paper.
 * @rows plane src dst
 */
export function layInk(plane: usize, planeStride: i32, src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, colours: usize, first: i32): void {
  const ink = f32x4(1 - load<f32>(colours), 1 - load<f32>(colours, 4), 1 - load<f32>(colours, 8), 0)
  const paper = f32x4(load<f32>(colours, 12), load<f32>(colours, 16), load<f32>(colours, 20), 1)
  const one = f32x4.splat(1)
  const full = f32x4.splat(65535)
  const half = f32x4.splat(0.5)
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w; x++) {
      const cover = load<f32>(plane + (x << 2))
      const under = first ? paper : loadPixel(dst + (x << 3))
      const v = f32x4.mul(under, f32x4.sub(one, f32x4.mul(f32x4.splat(cover), ink)))
      const code = i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(v, full), half))
      const rgb = <u64>i32x4.extract_lane(code, 0) | (<u64>i32x4.extract_lane(code, 1) << 16) | (<u64>i32x4.extract_lane(code, 2) << 32)
      store<u64>(dst + (x << 3), rgb | (<u64>load<u16>(src + (x << 3), 6) << 48))
    }
    plane += planeStride
    src += srcStride
    dst += dstStride
  }
}
