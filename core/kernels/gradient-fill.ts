// Colours along a line or outwards from a point.

/**
 * Fills a region with the colours of a table by how far a pixel's middle lies along the way from (ax, ay).
 * @param gx, gy straight: the way divided by the square of its length; round: gx is 1 / radius, gy unused
 * @param shape 0 straight, 1 round
 * @param beyond 0 the colours at the ends go on, 1 it repeats, 2 it goes back and forth
 * @param table 4097 pixels (RGBA16, straight alpha), from the start of the way to its end
 * @rows dst +y0
 */
export function gradientFill(
  dst: usize,
  dstStride: i32,
  w: i32,
  h: i32,
  x0: i32,
  y0: i32,
  ax: f32,
  ay: f32,
  gx: f32,
  gy: f32,
  shape: i32,
  beyond: i32,
  table: usize,
): void {
  for (let y = 0; y < h; y++) {
    const dy = <f32>(y0 + y) + 0.5 - ay
    for (let x = 0; x < w; x++) {
      const dx = <f32>(x0 + x) + 0.5 - ax
      let t = shape == 0 ? dx * gx + dy * gy : sqrt<f32>(dx * dx + dy * dy) * gx
      if (beyond == 1) t = t - floor<f32>(t)
      else if (beyond == 2) {
        t = t - 2 * floor<f32>(t * 0.5)
        if (t > 1) t = 2 - t
      }
      const i = <usize>(max<f32>(0, min<f32>(1, t)) * 4096 + 0.5)
      store<u64>(dst + (<usize>x << 3), load<u64>(table + (i << 3)))
    }
    dst += dstStride
  }
}
