// Tiles: means over them, and their faces drawn.
import { loadPixel, premultiply, storePixel, unpremultiply } from './simd'

/**
 * The mean colour of each tile of a grid, premultiplied, four floats a tile, row by row; a clear tile where no pixel's middle lies in it. Tiles are tw × th pixels
 * from (ox, oy), counted from src's first pixel; odd rows are moved by `shift`. `middle` not 0: the pixel in the middle instead of the mean.
 */
export function tileMeans(
  src: usize,
  srcStride: i32,
  w: i32,
  h: i32,
  ox: f64,
  oy: f64,
  tw: f64,
  th: f64,
  shift: f64,
  odd: i32,
  nx: i32,
  ny: i32,
  middle: i32,
  dst: usize,
): void {
  for (let j = 0; j < ny; j++) {
    const left = ox + (((j ^ odd) & 1) == 1 ? shift : 0)
    let y0 = <i32>Math.ceil(oy + <f64>j * th - 0.5)
    let y1 = <i32>Math.ceil(oy + <f64>(j + 1) * th - 0.5)
    if (middle) {
      y0 = <i32>Math.floor(oy + (<f64>j + 0.5) * th)
      y1 = y0 + 1
    }
    y0 = max<i32>(0, y0)
    y1 = min<i32>(h, y1)
    for (let i = 0; i < nx; i++) {
      let x0 = <i32>Math.ceil(left + <f64>i * tw - 0.5)
      let x1 = <i32>Math.ceil(left + <f64>(i + 1) * tw - 0.5)
      if (middle) {
        x0 = <i32>Math.floor(left + (<f64>i + 0.5) * tw)
        x1 = x0 + 1
      }
      x0 = max<i32>(0, x0)
      x1 = min<i32>(w, x1)
      let sum = f32x4.splat(0)
      for (let y = y0; y < y1; y++) {
        // a row by itself first, so that large tiles do not lose their small sums
        let line = f32x4.splat(0)
        const row = src + <usize>y * <usize>srcStride
        for (let x = x0; x < x1; x++) line = f32x4.add(line, premultiply(loadPixel(row + (<usize>x << 3))))
        sum = f32x4.add(sum, line)
      }
      const n = (x1 - x0) * (y1 - y0)
      if (n > 0 && x1 > x0) sum = f32x4.div(sum, f32x4.splat(<f32>n))
      v128.store(dst + (<usize>(j * nx + i) << 4), sum)
    }
  }
}

/**
 * Draws tiles: `columns` (two lists of w numbers of 32 bits, for even and for odd rows of tiles) and `rows` (h pairs of them: the number, and whether the row is odd) say which
 * tile a pixel shows: its number in the row (of the rows) times 2, plus 1 where the pixel belongs to its joint. A joint has the alpha of its tile. `tiles`: as
 * tileMeans writes them. `joint`: three floats 0…1.
 * @rows dst rows
 */
export function drawTiles(dst: usize, dstStride: i32, w: i32, h: i32, columns: usize, rows: usize, rowsStride: i32, tiles: usize, nx: i32, joint: usize): void {
  const j3 = f32x4(load<f32>(joint), load<f32>(joint, 4), load<f32>(joint, 8), 1)
  for (let y = 0; y < h; y++) {
    const r = load<i32>(rows)
    const list = columns + (load<i32>(rows, 4) ? <usize>w << 2 : 0)
    const row = tiles + (<usize>((r >> 1) * nx) << 4)
    const across = (r & 1) == 1
    for (let x: usize = 0; x < <usize>w; x++) {
      const c = load<i32>(list + (x << 2))
      const tile = v128.load(row + (<usize>(c >> 1) << 4))
      if (across || (c & 1) == 1) {
        const a = f32x4.splat(f32x4.extract_lane(tile, 3))
        storePixel(dst + (x << 3), unpremultiply(f32x4.mul(j3, a)))
      } else storePixel(dst + (x << 3), unpremultiply(tile))
    }
    rows += rowsStride
    dst += dstStride
  }
}
