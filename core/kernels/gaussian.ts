// Gaussian blur (or any symmetric separable one) by a direct kernel.
import { passColumn, passRow } from './passes'
import { loadPixel, premultiply, storePixel, unpremultiply } from './simd'

/**
 * Blurs RGBA16. src is the w × h output region grown by r on all sides. `weights`: r + 1 floats, centre first.
 * @rows src dst
 * @overlap 2 * r
 * @scratch (384 + 2 * r) * 16 + (2 * r + 1) * (384 * 16 + 4) + 384 * 16
 */
export function gaussianDirect(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, weights: usize, scratch: usize): void {
  // by blocks of columns, so that the rows in work stay in the processor's cache
  for (let x = 0; x < w; x += BLOCK) {
    blurBlock(src + (<usize>x << 3), srcStride, dst + (<usize>x << 3), dstStride, min(BLOCK, w - x), h, r, weights, scratch)
  }
}

const BLOCK: i32 = 384

function blurBlock(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, weights: usize, scratch: usize): void {
  const n = 2 * r + 1
  const rowBytes = <usize>w << 4
  const line = scratch
  const ring = line + (<usize>(w + 2 * r) << 4)
  const out = ring + <usize>n * rowBytes
  const rows = out + rowBytes
  for (let y = 0; y < h + 2 * r; y++) {
    for (let x = 0; x < w + 2 * r; x++) v128.store(line + (<usize>x << 4), premultiply(loadPixel(src + (<usize>x << 3))))
    passRow(line, ring + <usize>(y % n) * rowBytes, w, r, weights)
    src += srcStride
    if (y < 2 * r) continue
    for (let k = 0; k < n; k++) store<u32>(rows + (<usize>k << 2), <u32>(ring + <usize>((y - 2 * r + k) % n) * rowBytes))
    passColumn(rows, out, w, r, weights)
    for (let x = 0; x < w; x++) storePixel(dst + (<usize>x << 3), unpremultiply(v128.load(out + (<usize>x << 4))))
    dst += dstStride
  }
}
