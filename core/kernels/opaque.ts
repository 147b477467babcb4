/** Whether all of w × h pixels, RGBA16, are opaque; looks no further than the first row that is not. */
export function allOpaque(src: usize, srcStride: i32, w: i32, h: i32): bool {
  const even = <usize>(w & ~1) << 3
  for (let y = 0; y < h; y++) {
    let all = i32x4.splat(-1)
    for (let x: usize = 0; x < even; x += 16) all = v128.and(all, v128.load(src + x))
    let least = i16x8.extract_lane_u(all, 3) & i16x8.extract_lane_u(all, 7)
    if (w & 1) least &= load<u16>(src + even, 6)
    if (least != 65535) return false
    src += srcStride
  }
  return true
}
