// Washes of watercolour, glaze over glaze: each is a shape with found and lost borders, its pigment uneven by the water's turbulence, gathered at the rim where it dried,
// settled in the hollows of the paper. What glazes take of the light adds up as density.
import { noise } from './noise'
import { powerOfTwo } from './pigment'
import { fourBetween } from './small-picture'
import { depthAt } from './tooth'

// @ts-ignore: decorator
@inline
function held(v: f32): f32 {
  return max<f32>(0, min<f32>(1, v))
}

/**
 * How deep the paper lies at each pixel, 0 (its peaks) … 1: 32-bit floats, rows of a whole number of fours.
 * @param tooth 1 / distance of its hills
 * @rows dst +y0
 * @work w * h * 8
 */
export function toothDepths(dst: usize, dstStride: i32, w: i32, h: i32, x0: i32, y0: i32, tooth: f32, seed: i32): void {
  const lanes = f32x4(0.5, 1.5, 2.5, 3.5)
  for (let y = 0; y < h; y++) {
    const ys = f32x4.splat(<f32>(y0 + y) + 0.5)
    for (let x = 0; x < w; x += 4) v128.store(dst + (<usize>x << 2), depthAt(f32x4.add(f32x4.splat(<f32>(x0 + x)), lanes), ys, tooth, seed))
    dst += dstStride
  }
}

/**
 * Adds a glaze to planes of density (four floats a pixel: red, green, blue, and none).
 * @param shape sw × sh pixels of four floats: how far inside the wash a place lies (full-size pixels, below 0 outside); how far its border runs out there (full-size
 * pixels); how far downhill the border there lies, -1 … 1; how dry the brush ran there, 0…1
 * @param tints tw × th pixels of four floats: density of the wash in red, green, blue; how much its pigment granulates, 0…1
 * @param shapeRow,tintRow bytes from one of their rows to the next; only what the region looks at need be there
 * @param step,tintStep pixels of them a pixel; (gx, gy): the place of the extent's corner, pixels; (x0, y0): the first pixel's; @param scale pixels a full-size pixel
 * @param wander how far borders wander, pixels, @param waves 1 / how far they go from one turn to the next
 * @param rim pixels; @param gathers how much more pigment dries at the rim; @param uneven how much the water carries to and fro, 0…1, @param clouds 1 / how far
 * @param depths how deep the paper lies, by `toothDepths`; @param grains how much pigment settles in the hollows, 0…1
 * @rows acc depths +y0
 * @work w * h * 40
 */
export function layGlaze(
  acc: usize, accStride: i32, w: i32, h: i32, x0: i32, y0: i32,
  shape: usize, shapeRow: i32, sw: i32, sh: i32, step: f32, tints: usize, tintRow: i32, tw: i32, th: i32, tintStep: f32, gx: f32, gy: f32, scale: f32,
  wander: f32, waves: f32, rim: f32, gathers: f32, uneven: f32, clouds: f32, depths: usize, depthsStride: i32, grains: f32, seed: i32,
): void {
  const lanes = f32x4(0.5, 1.5, 2.5, 3.5)
  for (let y = 0; y < h; y++) {
    const py = <f32>(y0 + y) + 0.5
    const ys = f32x4.splat(py)
    for (let x = 0; x < w; x += 4) {
      const left = min<i32>(4, w - x)
      // far outside nothing is looked at closely
      const here = fourBetween(shape, shapeRow, sw, sh, (<f32>(x0 + x) + 2 - gx) * step - 0.5, (py - gy) * step - 0.5)
      if (f32x4.extract_lane(here, 0) * scale < -(wander + f32x4.extract_lane(here, 1) * scale + 6)) continue
      const xs = f32x4.add(f32x4.splat(<f32>(x0 + x)), lanes)
      const depth = v128.load(depths + (<usize>x << 2))
      const wu = f32x4.mul(xs, f32x4.splat(waves))
      const wv = f32x4.mul(ys, f32x4.splat(waves))
      const slow = noise(wu, wv, seed)
      const quick = noise(f32x4.mul(f32x4.add(wu, f32x4.mul(wv, f32x4.splat(0.6))), f32x4.splat(3.7)), f32x4.mul(f32x4.sub(wv, f32x4.mul(wu, f32x4.splat(0.6))), f32x4.splat(3.7)), seed ^ 0x1b873593)
      const cu = f32x4.mul(xs, f32x4.splat(clouds))
      const cv = f32x4.mul(ys, f32x4.splat(clouds))
      // turbulence: octaves of half the size and half the weight, carried along by the first
      const bent = f32x4.add(cu, slow)
      const cloud = f32x4.add(
        f32x4.add(f32x4.mul(noise(bent, cv, seed ^ 0x2f6e), f32x4.splat(0.5)), f32x4.mul(noise(f32x4.mul(bent, f32x4.splat(2.13)), f32x4.mul(f32x4.add(cv, cu), f32x4.splat(1.71)), seed ^ 0x71a3), f32x4.splat(0.3))),
        f32x4.mul(noise(f32x4.mul(f32x4.sub(cv, cu), f32x4.splat(4.9)), f32x4.mul(f32x4.add(cu, cv), f32x4.splat(4.3)), seed ^ 0x3ad5), f32x4.splat(0.2)),
      )
      const strays = f32x4.mul(f32x4.splat(wander), f32x4.sub(f32x4.add(f32x4.mul(slow, f32x4.splat(1.3)), f32x4.mul(quick, f32x4.splat(0.5))), f32x4.splat(0.9)))
      for (let j = 0; j < left; j++) {
        const px = <f32>(x0 + x + j) + 0.5
        const s = fourBetween(shape, shapeRow, sw, sh, (px - gx) * step - 0.5, (py - gy) * step - 0.5)
        let stray: f32
        let deep: f32
        let turb: f32
        let fray: f32
        if (j == 0) {
          stray = f32x4.extract_lane(strays, 0)
          deep = f32x4.extract_lane(depth, 0)
          turb = f32x4.extract_lane(cloud, 0)
          fray = f32x4.extract_lane(slow, 0)
        } else if (j == 1) {
          stray = f32x4.extract_lane(strays, 1)
          deep = f32x4.extract_lane(depth, 1)
          turb = f32x4.extract_lane(cloud, 1)
          fray = f32x4.extract_lane(slow, 1)
        } else if (j == 2) {
          stray = f32x4.extract_lane(strays, 2)
          deep = f32x4.extract_lane(depth, 2)
          turb = f32x4.extract_lane(cloud, 2)
          fray = f32x4.extract_lane(slow, 2)
        } else {
          stray = f32x4.extract_lane(strays, 3)
          deep = f32x4.extract_lane(depth, 3)
          turb = f32x4.extract_lane(cloud, 3)
          fray = f32x4.extract_lane(slow, 3)
        }
        const soft = max<f32>(1.1, f32x4.extract_lane(s, 1) * scale)
        const lost = held((soft - 2) / (rim * 2 + 1))
        // paper draws water on along its hollows: a found border follows the tooth a little
        const inside = f32x4.extract_lane(s, 0) * scale + stray + (deep - 0.5) * min<f32>(3, rim * 0.4)
        let cover = held(inside / soft + 0.5)
        if (cover <= 0) continue
        if (lost > 0) cover = cover * cover * (3 - 2 * cover) * lost + cover * (1 - lost)
        // where the brush ran dry it touched the hills only
        const dry = f32x4.extract_lane(s, 3)
        if (dry > 0.02) cover *= held((1.15 - dry * 1.25 - deep + 0.25 * (fray - 0.5)) * 5 + (1 - dry) * 4)
        const d = max<f32>(0, inside) / rim
        const downhill = f32x4.extract_lane(s, 2)
        // dried rims: narrow, on one side more than the other, here and there none
        const side: f32 = held(0.55 + 0.6 * downhill) * held((fray - 0.3) * 2.6)
        const line: f32 = gathers * side * (1 - lost) / (1 + d * d * d * d)
        const pool: f32 = 0.35 * gathers * max<f32>(0, downhill) / (1 + 0.02 * d * d)
        const tint = fourBetween(tints, tintRow, tw, th, (px - gx) * tintStep - 0.5, (py - gy) * tintStep - 0.5)
        const settles: f32 = grains * f32x4.extract_lane(tint, 3)
        const amount: f32 = cover * max<f32>(0.15, 1 + uneven * (turb - 0.5) * 2.2 + line + pool + settles * (deep - 0.5) * 1.5)
        const at = acc + (<usize>(x + j) << 4)
        v128.store(at, f32x4.add(v128.load(at), f32x4.mul(tint, f32x4.splat(amount))))
      }
    }
    acc += accStride
    depths += depthsStride
  }
}

/**
 * What paper looks like under planes of density: its light times e to the power of minus the density.
 * @param paper linear red, green, blue; @param codes 65536 codes of 16 bits by the square root of linear light; @param relief how much its hollows are seen, 0…1
 * @param depths how deep it lies, by `toothDepths`; @param tooth,seed as they were given there
 * @rows acc src dst depths +y0
 * @work w * h * 12
 */
export function glazesOnPaper(
  acc: usize, accStride: i32, src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, x0: i32, y0: i32,
  paper: usize, codes: usize, depths: usize, depthsStride: i32, tooth: f32, relief: f32, seed: i32,
): void {
  const ground = v128.load(paper)
  const diagonal = f32x4(-1.0, 0.0, 1.0, 2.0)
  for (let y = 0; y < h; y++) {
    const ys = f32x4.splat(<f32>(y0 + y) + 0.5)
    for (let x = 0; x < w; x += 4) {
      const xs = f32x4.splat(<f32>(x0 + x))
      // hills are lit from the upper left
      const slope = relief > 0 ? f32x4.sub(v128.load(depths + (<usize>x << 2)), depthAt(f32x4.add(xs, diagonal), f32x4.sub(ys, f32x4.splat(1.5)), tooth, seed)) : f32x4.splat(0)
      const shade = f32x4.sub(f32x4.splat(1), f32x4.mul(slope, f32x4.splat(relief)))
      const left = w - x
      pixel(acc, src, dst, x, ground, f32x4.extract_lane(shade, 0), codes)
      if (left > 1) pixel(acc, src, dst, x + 1, ground, f32x4.extract_lane(shade, 1), codes)
      if (left > 2) pixel(acc, src, dst, x + 2, ground, f32x4.extract_lane(shade, 2), codes)
      if (left > 3) pixel(acc, src, dst, x + 3, ground, f32x4.extract_lane(shade, 3), codes)
    }
    acc += accStride
    src += srcStride
    dst += dstStride
    depths += depthsStride
  }
}

// @ts-ignore: decorator
@inline
function pixel(acc: usize, src: usize, dst: usize, x: i32, ground: v128, shade: f32, codes: usize): void {
  const density = v128.load(acc + (<usize>x << 4))
  // base 2, as the polynomial takes it
  const c = f32x4.mul(f32x4.mul(ground, f32x4.splat(shade)), powerOfTwo(f32x4.mul(density, f32x4.splat(-1.442695))))
  const i = i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(f32x4.sqrt(f32x4.min(f32x4.splat(1), f32x4.max(f32x4.splat(0), c))), f32x4.splat(65535)), f32x4.splat(0.5)))
  const r = <u64>load<u16>(codes + (<usize>i32x4.extract_lane(i, 0) << 1))
  const g = <u64>load<u16>(codes + (<usize>i32x4.extract_lane(i, 1) << 1))
  const b = <u64>load<u16>(codes + (<usize>i32x4.extract_lane(i, 2) << 1))
  const at = <usize>x << 3
  store<u64>(dst + at, r | (g << 16) | (b << 32) | (<u64>load<u16>(src + at, 6) << 48))
}
