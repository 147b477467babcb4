/** Side of a table over a cell, as the kernel reads it. */
export const CELL = 128

export type DotShape = 'round' | 'ellipse' | 'diamond' | 'square' | 'line' | 'cross'

/**
 * How late a point of a cell (u, v in −½ … ½) is inked as the tone darkens: the smaller, the sooner. Round, ellipse and diamond turn into holes of the
 * same shape beyond the middle (common practice).
 */
function spot(shape: DotShape, u: number, v: number, cos: (x: number) => number): number {
  const wave = (x: number) => cos(6.283185307179586 * x)
  switch (shape) {
    case 'round':
      return -(wave(u) + wave(v))
    case 'ellipse':
      return -(1.25 * wave(u) + 0.75 * wave(v))
    case 'diamond':
      return Math.abs(u) + Math.abs(v)
    case 'square':
      return Math.max(Math.abs(u), Math.abs(v))
    case 'line':
      return Math.abs(v) + 1e-4 * Math.abs(u)
    case 'cross':
      return Math.min(Math.abs(u), Math.abs(v)) + 1e-4 * Math.max(Math.abs(u), Math.abs(v))
  }
}

/**
 * Thresholds over a cell, by rank: exactly a share t of them lies below t · 65536, so that a dot's area is the tone whatever its shape.
 */
export function thresholds(shape: DotShape, cos: (x: number) => number): Uint16Array {
  const n = CELL * CELL
  const value = Float64Array.from({ length: n }, (_, i) => {
    const [u, v] = [((i % CELL) + 0.5) / CELL - 0.5, (Math.floor(i / CELL) + 0.5) / CELL - 0.5]
    // equal points from the upper left to the lower right, hardly to be seen
    return spot(shape, u, v, cos) + i * 1e-12
  })
  const order = Uint32Array.from({ length: n }, (_, i) => i).sort((a, b) => value[a]! - value[b]!)
  const table = new Uint16Array(n)
  order.forEach((at, rank) => {
    table[at] = Math.floor(((rank + 0.5) / n) * 65536)
  })
  return table
}
