/**
 * Copies a rectangle of bytes between two strided pictures.
 * @rows src dst
 */
export function copyRect(src: usize, srcStride: i32, dst: usize, dstStride: i32, rowBytes: i32, h: i32): void {
  if (srcStride == rowBytes && dstStride == rowBytes) {
    memory.copy(dst, src, <usize>rowBytes * <usize>h)
    return
  }
  for (let y = 0; y < h; y++) {
    memory.copy(dst, src, <usize>rowBytes)
    src += srcStride
    dst += dstStride
  }
}

/** Fills a rectangle with one RGBA16 pixel (given as 64 bits). */
export function fillRect(dst: usize, dstStride: i32, w: i32, h: i32, pixel: i64): void {
  for (let y = 0; y < h; y++) {
    let p = dst
    for (let x = 0; x < w; x++) {
      store<i64>(p, pixel)
      p += 8
    }
    dst += dstStride
  }
}

/**
 * Repeats the border of the valid inner rectangle [x0,x1) × [y0,y1) outwards over a w × h RGBA16 buffer:
 * the edge rule of a source ("replicate").
 */
export function replicateEdges(buf: usize, stride: i32, w: i32, h: i32, x0: i32, y0: i32, x1: i32, y1: i32): void {
  for (let y = y0; y < y1; y++) {
    const row = buf + <usize>y * <usize>stride
    const first = load<i64>(row + ((<usize>x0) << 3))
    for (let x = 0; x < x0; x++) store<i64>(row + ((<usize>x) << 3), first)
    const last = load<i64>(row + ((<usize>(x1 - 1)) << 3))
    for (let x = x1; x < w; x++) store<i64>(row + ((<usize>x) << 3), last)
  }
  const rowBytes = (<usize>w) << 3
  const top = buf + <usize>y0 * <usize>stride
  for (let y = 0; y < y0; y++) memory.copy(buf + <usize>y * <usize>stride, top, rowBytes)
  const bottom = buf + <usize>(y1 - 1) * <usize>stride
  for (let y = y1; y < h; y++) memory.copy(buf + <usize>y * <usize>stride, bottom, rowBytes)
}
