// Pigment dragged along the forms of a picture by a brush of many hairs.
import { lerp, noise } from './noise'
import { loadPixel, premultiply, storePixel, unpremultiply, withAlpha } from './simd'
import { fourBetween } from './small-picture'

/**
 * A pixel of a picture between the middles of four, premultiplied; what lies outside is as its rim. The place is counted as the picture is whole, (sx, sy) is the first
 * pixel that is there: so a place is the same, whatever piece of the picture it is seen in.
 */
// @ts-ignore: decorator
@inline
function pixelAt(src: usize, stride: i32, sx: i32, sy: i32, w: i32, h: i32, u: f32, v: f32): v128 {
  const fu = floor<f32>(u)
  const fv = floor<f32>(v)
  const x = <i32>fu - sx
  const y = <i32>fv - sy
  const fx = f32x4.splat(u - fu)
  const fy = f32x4.splat(v - fv)
  const x0 = max<i32>(0, min<i32>(w - 1, x))
  const x1 = max<i32>(0, min<i32>(w - 1, x + 1))
  const upper = src + <usize>max<i32>(0, min<i32>(h - 1, y)) * <usize>stride
  const lower = src + <usize>max<i32>(0, min<i32>(h - 1, y + 1)) * <usize>stride
  const l = <usize>x0 << 3
  const r = <usize>x1 << 3
  const top = lerp(premultiply(loadPixel(upper + l)), premultiply(loadPixel(upper + r)), fx)
  const low = lerp(premultiply(loadPixel(lower + l)), premultiply(loadPixel(lower + r)), fx)
  return lerp(top, low, fy)
}

/** Most places of a line that are looked at to one side. */
const MOST: i32 = 40

/**
 * Each pixel is what lies along its line of flow: as far off as its hair was dragged, averaged there over a piece of the line. Cabral and Leedom, "Imaging vector
 * fields using line integral convolution", SIGGRAPH 1993, both for the hairs (of noise) and, at a mixing of 1, for the picture.
 * @param src sw × sh pixels RGBA16 from (sx, sy); @param dst w × h pixels from (x0, y0)
 * @param ways pw × ph pixels of four floats: the direction at twice its angle (x, y; any length but 0), how far is dragged 0…1, and none; only what the region looks
 * at need be there. @param step pixels of it a pixel; (gx, gy): the place of its corner, pixels
 * @param reach how far at most, pixels; @param mixing 0 single hairs … 1 the mean of the whole line
 * @param hair,breadth 1 / pixels from hair to hair and from brush to brush; @param marks how much lighter and darker a hair leaves its line, 0…1
 * @param scratch two floats a place for the places of a line
 * @rows dst +y0
 * @work w * h * 60
 * @scratch 81 * 8
 */
export function smear(
  src: usize, srcStride: i32, sx: i32, sy: i32, sw: i32, sh: i32, dst: usize, dstStride: i32, w: i32, h: i32, x0: i32, y0: i32,
  ways: usize, wayRow: i32, pw: i32, ph: i32, step: f32, gx: f32, gy: f32, reach: f32, mixing: f32, hair: f32, breadth: f32, marks: f32, seed: i32, scratch: usize,
): void {
  const middle = scratch + (<usize>MOST << 3)
  const half = f32x4.splat(0.5)
  for (let y = 0; y < h; y++) {
    const py = <f32>(y0 + y) + 0.5
    for (let x = 0; x < w; x++) {
      const px = <f32>(x0 + x) + 0.5
      const here = fourBetween(ways, wayRow, pw, ph, (px - gx) * step - 0.5, (py - gy) * step - 0.5)
      const far: f32 = reach * f32x4.extract_lane(here, 2)
      const q = dst + (<usize>x << 3)
      if (far < 0.35) {
        store<u64>(q, load<u64>(src + <usize>(y0 + y - sy) * <usize>srcStride + (<usize>(x0 + x - sx) << 3)))
        continue
      }
      // the hairs run on beyond what they drag
      const run: f32 = max<f32>(far, 4)
      const n = min<i32>(MOST, max<i32>(3, <i32>ceil<f32>(run * <f32>0.7)))
      const stride: f32 = run / <f32>n
      store<f32>(middle, px)
      store<f32>(middle, py, 4)
      // hairs in lanes 0 and 2, brushes in 1 and 3: a place and the next one at once
      const scale = f32x4(hair, breadth, hair, breadth)
      const away = f32x4(0, 1017.5, 0, 1017.5)
      let sum = f32x4.sub(noise(f32x4.add(f32x4.mul(f32x4.splat(px), scale), away), f32x4.mul(f32x4.splat(py), scale), seed), half)
      sum = f32x4.replace_lane(f32x4.replace_lane(sum, 2, 0), 3, 0)
      let dx0: f32 = 0
      let dy0: f32 = 0
      for (let side = 0; side < 2; side++) {
        let cx = px
        let cy = py
        let dx = -dx0
        let dy = -dy0
        let lastX: f32 = px
        let lastY: f32 = py
        for (let k = 1; k <= n; k++) {
          // as the direction is halfway there (Runge and Kutta's second order)
          const mx = k == 1 && side == 0 ? cx : cx + dx * stride * 0.5
          const my = k == 1 && side == 0 ? cy : cy + dy * stride * 0.5
          const way = fourBetween(ways, wayRow, pw, ph, (mx - gx) * step - 0.5, (my - gy) * step - 0.5)
          const u = f32x4.extract_lane(way, 0)
          const v = f32x4.extract_lane(way, 1)
          const long = sqrt<f32>(u * u + v * v)
          const c: f32 = long > 1e-9 ? u / long : 1
          let tx: f32 = sqrt<f32>(max<f32>(0, (1 + c) * 0.5))
          let ty: f32 = sqrt<f32>(max<f32>(0, (1 - c) * 0.5))
          if (v < 0) ty = -ty
          if (tx * dx + ty * dy < 0) {
            tx = -tx
            ty = -ty
          }
          if (k == 1 && side == 0) {
            dx0 = tx
            dy0 = ty
          }
          dx = tx
          dy = ty
          cx += dx * stride
          cy += dy * stride
          const at = side ? middle + (<usize>k << 3) : middle - (<usize>k << 3)
          store<f32>(at, cx)
          store<f32>(at, cy, 4)
          if (k & 1) {
            lastX = cx
            lastY = cy
            if (k < n) continue
            // the last one stands for itself and no next one
            const one = f32x4.sub(noise(f32x4.add(f32x4.mul(f32x4.splat(cx), scale), away), f32x4.mul(f32x4.splat(cy), scale), seed), half)
            sum = f32x4.add(sum, f32x4.replace_lane(f32x4.replace_lane(one, 2, 0), 3, 0))
          } else {
            const two = noise(f32x4.add(f32x4.mul(f32x4(lastX, lastX, cx, cx), scale), away), f32x4.mul(f32x4(lastY, lastY, cy, cy), scale), seed)
            sum = f32x4.add(sum, f32x4.sub(two, half))
          }
        }
      }
      // means of noise grow weaker with the length of the line, as its square root
      const count: f32 = <f32>n * 2 + 1
      const hairs: f32 = ((f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 2)) / count) * sqrt<f32>(max<f32>(1, 2 * run * hair)) * 3.2
      const brush: f32 = ((f32x4.extract_lane(sum, 1) + f32x4.extract_lane(sum, 3)) / count) * sqrt<f32>(max<f32>(1, 2 * run * breadth)) * 3.2
      const both: f32 = 0.8 * hairs + 0.8 * brush
      const drawn: f32 = both / sqrt<f32>(1 + both * both)
      const centre: f32 = (drawn * (1 - mixing) * far) / stride
      const wide: f32 = max<f32>(0.75, mixing * far) / stride
      // a piece of the line, its last places by as much of them as it takes
      const from = max<f32>(<f32>-n, centre - wide)
      const to = min<f32>(<f32>n, centre + wide)
      let mean = f32x4.splat(0)
      let all: f32 = 0
      const last = <i32>ceil<f32>(to)
      for (let k = <i32>floor<f32>(from); k <= last; k++) {
        const weight: f32 = min<f32>(<f32>k + 0.5, to) - max<f32>(<f32>k - 0.5, from)
        if (weight <= 0 || k < -n || k > n) continue
        const at = middle + (<usize>k << 3)
        const c = pixelAt(src, srcStride, sx, sy, sw, sh, load<f32>(at) - 0.5, load<f32>(at, 4) - 0.5)
        mean = f32x4.add(mean, f32x4.mul(c, f32x4.splat(weight)))
        all += weight
      }
      // what is clear stays clear: colour is dragged, a silhouette is not
      const own = loadPixel(src + <usize>(y0 + y - sy) * <usize>srcStride + (<usize>(x0 + x - sx) << 3))
      let c = f32x4.extract_lane(mean, 3) > 1e-6 ? withAlpha(unpremultiply(f32x4.div(mean, f32x4.splat(all))), own) : own
      // less in deep darks and high lights
      const mark: f32 = marks * hairs * 0.1 * f32x4.extract_lane(here, 2)
      if (mark != 0) {
        const room = f32x4.mul(f32x4.mul(c, f32x4.sub(f32x4.splat(1), c)), f32x4.splat(4 * mark))
        c = f32x4.pmax(f32x4.splat(0), f32x4.pmin(f32x4.splat(1), f32x4.add(c, f32x4.replace_lane(room, 3, 0))))
      }
      storePixel(q, c)
    }
    dst += dstStride
  }
}
