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

/** Most places of a line that are looked at to one side: for hairs, and for the picture. */
const MOST_HAIRS: i32 = 24
const MOST: i32 = 40
/** Places a pixel of the line, where there are not more than that. */
const PLACES: f32 = 0.4
/** Pixels from one place that hairs are told of to the next, each way; between them they are as those around. */
const APART: i32 = 2

let tx: f32 = 0
let ty: f32 = 0
/** The direction at a place, on the side of (dx, dy). */
// @ts-ignore: decorator
@inline
function follow(ways: usize, wayRow: i32, pw: i32, ph: i32, step: f32, gx: f32, gy: f32, x: f32, y: f32, dx: f32, dy: f32): void {
  const way = fourBetween(ways, wayRow, pw, ph, (x - gx) * step - 0.5, (y - gy) * step - 0.5)
  const u = f32x4.extract_lane(way, 0)
  const v = f32x4.extract_lane(way, 1)
  const long = sqrt<f32>(u * u + v * v)
  const c: f32 = long > 1e-9 ? u / long : 1
  const ax: f32 = sqrt<f32>(max<f32>(0, (1 + c) * 0.5))
  let ay: f32 = sqrt<f32>(max<f32>(0, (1 - c) * 0.5))
  if (v < 0) ay = -ay
  const back = ax * dx + ay * dy < 0
  tx = back ? -ax : ax
  ty = back ? -ay : ay
}

/**
 * How far the hairs of places `APART` pixels apart have dragged along a direction, −1…1, how much lighter or darker they leave their line, and that direction:
 * noise convolved along the line. A hair comes from where there is more of it, whichever way the line is followed.
 * @param out four floats a place, `n` places from (x0, y) on, `APART` pixels apart
 */
function hairsOf(
  out: usize, n: i32, x0: i32, y: i32,
  ways: usize, wayRow: i32, pw: i32, ph: i32, step: f32, gx: f32, gy: f32, reach: f32, bend: f32, hair: f32, breadth: f32, seed: i32,
): void {
  const half = f32x4.splat(0.5)
  // hairs in lanes 0 and 2, brushes in 1 and 3: a place on one side and one on the other at once
  const scale = f32x4(hair, breadth, hair, breadth)
  const away = f32x4(0, 1017.5, 0, 1017.5)
  const py = <f32>y
  for (let i = 0; i < n; i++) {
    const px = <f32>(x0 + i * APART)
    const here = fourBetween(ways, wayRow, pw, ph, (px - gx) * step - 0.5, (py - gy) * step - 0.5)
    const far: f32 = reach * f32x4.extract_lane(here, 2)
    const q = out + (<usize>i << 4)
    if (far < 0.3) {
      v128.store(q, f32x4.splat(0))
      continue
    }
    // the hairs run on beyond what they drag
    const run: f32 = max<f32>(far, 4)
    const places = min<i32>(MOST_HAIRS, <i32>ceil<f32>(run * PLACES))
    const stride: f32 = run / <f32>places
    let sum = f32x4.splat(0)
    follow(ways, wayRow, pw, ph, step, gx, gy, px, py, 1, 0)
    const fx = tx
    const fy = ty
    // both sides at once: a place of one and of the other; the line is made of straight pieces
    const piece: f32 = run / ceil<f32>(run / bend)
    let ax = px
    let ay = py
    let bx = px
    let by = py
    let adx = tx
    let ady = ty
    let bdx = -tx
    let bdy = -ty
    let begun: f32 = -piece
    for (let k = 1; k <= places; k++) {
      const at: f32 = <f32>k * stride
      while (at > begun + piece) {
        if (begun >= 0) {
          ax += adx * piece
          ay += ady * piece
          bx += bdx * piece
          by += bdy * piece
        }
        begun += piece
        // as the direction is halfway there (Runge and Kutta's second order)
        follow(ways, wayRow, pw, ph, step, gx, gy, ax + adx * piece * 0.5, ay + ady * piece * 0.5, adx, ady)
        adx = tx
        ady = ty
        follow(ways, wayRow, pw, ph, step, gx, gy, bx + bdx * piece * 0.5, by + bdy * piece * 0.5, bdx, bdy)
        bdx = tx
        bdy = ty
      }
      const on: f32 = at - begun
      const u = f32x4(ax + adx * on, ax + adx * on, bx + bdx * on, bx + bdx * on)
      const v = f32x4(ay + ady * on, ay + ady * on, by + bdy * on, by + bdy * on)
      sum = f32x4.add(sum, f32x4.sub(noise(f32x4.add(f32x4.mul(u, scale), away), f32x4.mul(v, scale), seed), half))
    }
    // means of noise grow weaker with the length of the line, as its square root
    const count: f32 = <f32>places * 2 + 1
    const hairs: f32 = (3.2 * sqrt<f32>(max<f32>(1, 2 * run * hair))) / count
    const brush: f32 = (3.2 * sqrt<f32>(max<f32>(1, 2 * run * breadth))) / count
    const both: f32 =
      0.8 * hairs * (f32x4.extract_lane(sum, 0) - f32x4.extract_lane(sum, 2)) + 0.8 * brush * (f32x4.extract_lane(sum, 1) - f32x4.extract_lane(sum, 3))
    const own: f32 = f32x4.extract_lane(noise(f32x4.splat(px * hair), f32x4.splat(py * hair), seed), 0) - 0.5
    const mark: f32 = hairs * (f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 2) + own)
    v128.store(q, f32x4(both / sqrt<f32>(1 + both * both), mark, fx, fy))
  }
}

/** What is told of a place, for a line that is followed the way of (dx, dy). */
// @ts-ignore: decorator
@inline
function along(told: v128, dx: f32, dy: f32): v128 {
  const back = f32x4.extract_lane(told, 2) * dx + f32x4.extract_lane(told, 3) * dy < 0
  return back ? f32x4.mul(told, f32x4(-1, 1, 1, 1)) : told
}

/**
 * Each pixel is what lies along its line of flow: as far off as its hair was dragged, averaged there over a piece of the line. Cabral and Leedom, "Imaging vector
 * fields using line integral convolution", SIGGRAPH 1993, both for the hairs (of noise, told of every second pixel each way) and, at a mixing of 1, for the picture.
 * @param src sw × sh pixels RGBA16 from (sx, sy); @param dst w × h pixels from (x0, y0)
 * @param ways pw × ph pixels of four floats: the direction at twice its angle (x, y; any length but 0), how far is dragged 0…1, and none; only what the region looks
 * at need be there. @param step pixels of it a pixel; (gx, gy): the place of its corner, pixels
 * @param reach how far at most, pixels; @param bend how long a piece of a line is straight, pixels; @param mixing 0 single hairs … 1 the mean of the whole line
 * @param hair,breadth 1 / pixels from hair to hair and from brush to brush; @param marks how much lighter and darker a hair leaves its line, 0…1
 * @param scratch four floats for every second pixel, of two rows
 * @rows dst +y0
 * @work w * h * 20
 * @scratch (w / 2 + 2) * 32
 */
export function smear(
  src: usize, srcStride: i32, sx: i32, sy: i32, sw: i32, sh: i32, dst: usize, dstStride: i32, w: i32, h: i32, x0: i32, y0: i32,
  ways: usize, wayRow: i32, pw: i32, ph: i32, step: f32, gx: f32, gy: f32, reach: f32, bend: f32, mixing: f32, hair: f32, breadth: f32, marks: f32, seed: i32, scratch: usize,
): void {
  // hairs are told of where four pixels meet, at even places of the picture whatever piece of it is drawn: each pixel lies between four of them
  const left = x0 >> 1
  const n = ((x0 + w - 1) >> 1) - left + 2
  const least = f32x4.splat(0.25)
  const most = f32x4.splat(0.75)
  let upper = scratch
  let lower = scratch + (<usize>n << 4)
  let row = i32.MIN_VALUE
  for (let y = 0; y < h; y++) {
    const even = (y0 + y) & ~1
    if (even != row) {
      if (row == even - APART) {
        const t = upper
        upper = lower
        lower = t
      } else hairsOf(upper, n, left << 1, even, ways, wayRow, pw, ph, step, gx, gy, reach, bend, hair, breadth, seed)
      hairsOf(lower, n, left << 1, even + APART, ways, wayRow, pw, ph, step, gx, gy, reach, bend, hair, breadth, seed)
      row = even
    }
    const py = <f32>(y0 + y) + 0.5
    for (let x = 0; x < w; x++) {
      const px = <f32>(x0 + x) + 0.5
      const here = fourBetween(ways, wayRow, pw, ph, (px - gx) * step - 0.5, (py - gy) * step - 0.5)
      const far: f32 = reach * f32x4.extract_lane(here, 2)
      const q = dst + (<usize>x << 3)
      const p = src + <usize>(y0 + y - sy) * <usize>srcStride + (<usize>(x0 + x - sx) << 3)
      if (far < 0.35) {
        store<u64>(q, load<u64>(p))
        continue
      }
      follow(ways, wayRow, pw, ph, step, gx, gy, px, py, 1, 0)
      const dx0 = tx
      const dy0 = ty
      const i = <usize>(((x0 + x) >> 1) - left) << 4
      const above = lerp(along(v128.load(upper + i), dx0, dy0), along(v128.load(upper + i, 16), dx0, dy0), (x0 + x) & 1 ? most : least)
      const under = lerp(along(v128.load(lower + i), dx0, dy0), along(v128.load(lower + i, 16), dx0, dy0), (x0 + x) & 1 ? most : least)
      const told = lerp(above, under, (y0 + y) & 1 ? most : least)
      const drawn = f32x4.extract_lane(told, 0)
      const hairs = f32x4.extract_lane(told, 1)
      const run: f32 = max<f32>(far, 2)
      const places = min<i32>(MOST, <i32>ceil<f32>(run * PLACES))
      const stride: f32 = run / <f32>places
      const piece: f32 = run / ceil<f32>(run / bend)
      const centre: f32 = (drawn * (1 - mixing) * far) / stride
      // half a place to each side at least: where it lies is then told by the places on both sides of it
      const wide: f32 = max<f32>(0.5, max<f32>(0.75, mixing * far) / stride)
      // a piece of the line, its last places by as much of them as it takes
      const from = max<f32>(<f32>-places, centre - wide)
      const to = min<f32>(<f32>places, centre + wide)
      const own = loadPixel(p)
      // how much of the place itself is in it
      let all: f32 = max<f32>(0, min<f32>(0.5, to) - max<f32>(-0.5, from))
      let mean = f32x4.mul(premultiply(own), f32x4.splat(all))
      for (let side: f32 = -1; side < 2; side += 2) {
        // the piece as it is seen on this side
        const near = side < 0 ? -to : from
        const end = side < 0 ? -from : to
        let cx = px
        let cy = py
        let dx: f32 = side * dx0
        let dy: f32 = side * dy0
        let begun: f32 = -piece
        for (let k: f32 = 1; k - 0.5 < end; k++) {
          const at: f32 = k * stride
          while (at > begun + piece) {
            if (begun >= 0) {
              cx += dx * piece
              cy += dy * piece
            }
            begun += piece
            follow(ways, wayRow, pw, ph, step, gx, gy, cx + dx * piece * 0.5, cy + dy * piece * 0.5, dx, dy)
            dx = tx
            dy = ty
          }
          const weight: f32 = min<f32>(k + 0.5, end) - max<f32>(k - 0.5, near)
          if (weight <= 0) continue
          const on: f32 = at - begun
          mean = f32x4.add(mean, f32x4.mul(pixelAt(src, srcStride, sx, sy, sw, sh, cx + dx * on - 0.5, cy + dy * on - 0.5), f32x4.splat(weight)))
          all += weight
        }
      }
      // what is clear stays clear: colour is dragged, a silhouette is not
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
