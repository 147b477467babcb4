// Blooms: where water ran back into a wash that was drying, and pushed its pigment outwards to a crinkled rim.
import { noise } from './noise'

// @ts-ignore: decorator
@inline
function held(v: f32): f32 {
  return max<f32>(0, min<f32>(1, v))
}

/**
 * One bloom in planes of density (four floats a pixel: red, green, blue, and none): thinner inside, the more the nearer to its rim, and gathered at the rim, which goes
 * in and out by waves of four lengths, is sharp inwards and soft outwards, and is there on the side that the water ran to, elsewhere hardly.
 * @param cx,cy its middle, pixels; @param radius pixels; @param (rx, ry) which way the water ran, of length 1; @param strength 0 nothing … 1
 * @rows acc +y0
 * @work w * h
 */
export function bloomWash(acc: usize, accStride: i32, w: i32, h: i32, x0: i32, y0: i32, cx: f32, cy: f32, radius: f32, rx: f32, ry: f32, strength: f32, seed: i32): void {
  const far: f32 = radius * 1.9
  const scales = f32x4(1 / (0.9 * radius), 1 / (0.32 * radius), 1 / max<f32>(2, 0.1 * radius), 1 / max<f32>(2, 0.04 * radius))
  const away = f32x4(0, 311, 733, 1291)
  const rim: f32 = max<f32>(0.8, 0.03 * radius)
  const first = max<i32>(0, <i32>floor<f32>(cx - far) - x0)
  const last = min<i32>(w, <i32>ceil<f32>(cx + far) - x0)
  for (let y = 0; y < h; y++) {
    const py = <f32>(y0 + y) + 0.5
    const dy = py - cy
    if (abs<f32>(dy) < far)
      for (let x = first; x < last; x++) {
        const px = <f32>(x0 + x) + 0.5
        const dx = px - cx
        if (abs<f32>(dx) >= far) continue
        const waves = noise(f32x4.add(f32x4.mul(f32x4.splat(px), scales), away), f32x4.mul(f32x4.splat(py), scales), seed)
        const out: f32 =
          0.62 + 0.55 * f32x4.extract_lane(waves, 0) + 0.3 * (f32x4.extract_lane(waves, 1) - 0.5) + 0.16 * (f32x4.extract_lane(waves, 2) - 0.5) + 0.07 * (f32x4.extract_lane(waves, 3) - 0.5)
        const long: f32 = sqrt<f32>(dx * dx + dy * dy)
        const r: f32 = long / out
        const side: f32 = held(0.45 + (0.6 * (dx * rx + dy * ry)) / max<f32>(long, 1) + 1.1 * (f32x4.extract_lane(waves, 1) - 0.5))
        // below 0 inside
        const e: f32 = r - radius
        const wide: f32 = e < 0 ? rim : rim * 3
        const d: f32 = e / wide
        const near = held(r / radius)
        const lifted: f32 = held(d * -0.4) * (0.08 + 0.38 * near * near) * (0.25 + 0.75 * side)
        const gathered: f32 = (0.95 * side * side) / (1 + d * d * d * d)
        if (lifted == 0 && gathered < 0.001) continue
        const at = acc + (<usize>x << 4)
        v128.store(at, f32x4.mul(v128.load(at), f32x4.splat(1 + strength * (gathered - lifted))))
      }
    acc += accStride
  }
}
