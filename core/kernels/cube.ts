// A function of colour, known at the points of a grid through the cube of R, G and B.

/** Codes from one point to the next: 52 points an edge, every fifth 8-bit code. */
const STEP: i32 = 1285
const ROW: i32 = 52 * 8
const PLANE: i32 = 52 * 52 * 8
const CORNER: i32 = 8 + ROW + PLANE

// @ts-ignore: decorator
@inline
function part(p: usize, weight: i32): v128 {
  return f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(v128.load64_zero(p))), f32x4.splat(<f32>weight))
}

/**
 * Sends colours through a cube of 52³ RGBA16 pixels (red fastest, blue slowest; codes 0 … 65535 evenly spaced along each edge), between whose
 * points it goes straight in tetrahedra along the grey diagonal, so that greys are mixed of greys. Alpha stays. src and dst may be the same.
 * Kasson, Nin, Plouffe and Hafner, "Performing color space conversions with three-dimensional linear interpolation", J. Electronic Imaging 4 (1995).
 * @rows src dst
 * @work w * h * 4
 */
export function cube(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, table: usize): void {
  const steps = i32x4.splat(STEP)
  const last = i32x4.splat(50)
  const strides = i32x4(8, ROW, PLANE, 0)
  // a float of this size holds whole numbers in its low bits, rounded to the nearest
  const magic = f32x4.splat(12582912)
  const share = f32x4.splat(<f32>1 / <f32>1285)
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const code = v128.load64_zero(src + (<usize>x << 3))
      const v = i32x4.extend_low_i16x8_u(code)
      // exact for all codes (tried)
      const cell = i32x4.min_s(i32x4.shr_u(i32x4.mul(v, i32x4.splat(52225)), 26), last)
      const rest = i32x4.sub(v, i32x4.mul(cell, steps))
      const from = i32x4.mul(cell, strides)
      const p = table + <usize>(i32x4.extract_lane(from, 0) + i32x4.extract_lane(from, 1) + i32x4.extract_lane(from, 2))
      const r = i32x4.extract_lane(rest, 0)
      const g = i32x4.extract_lane(rest, 1)
      const b = i32x4.extract_lane(rest, 2)
      // the second corner lies along the channel that goes farthest, the third short of the one that goes least
      const redder = r >= g
      const rgMost = select<i32>(r, g, redder)
      const rgLeast = select<i32>(g, r, redder)
      const most = select<i32>(rgMost, b, rgMost >= b)
      const least = select<i32>(rgLeast, b, rgLeast < b)
      const middle = r + g + b - most - least
      const second = select<i32>(select<i32>(8, ROW, redder), PLANE, rgMost >= b)
      const third = CORNER - select<i32>(select<i32>(ROW, 8, redder), PLANE, rgLeast < b)
      const sum = f32x4.add(
        f32x4.add(part(p, STEP - most), part(p + <usize>second, most - middle)),
        f32x4.add(part(p + <usize>third, middle - least), part(p + <usize>CORNER, least)),
      )
      const whole = f32x4.add(f32x4.mul(sum, share), magic)
      // low halves of three lanes, and the alpha there was
      store<u64>(dst + (<usize>x << 3), i64x2.extract_lane(i16x8.shuffle(whole, code, 0, 2, 4, 11, 0, 0, 0, 0), 0))
    }
    src += srcStride
    dst += dstStride
  }
}
