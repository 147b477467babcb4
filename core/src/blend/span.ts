/** The tones (0…1) between which something acts, and the widths of its soft ends. */
export interface Span {
  low: number
  high: number
  softLow: number
  softHigh: number
}

/**
 * How much something acts on each of 65536 tones: fully from low to high, fading out within the soft widths outside of them by a smooth step
 * (3t² − 2t³).
 */
export function spanTable({ low, high, softLow, softHigh }: Span): Uint16Array {
  const smooth = (t: number) => t * t * (3 - 2 * t)
  const table = new Uint16Array(65536)
  for (let i = 0; i < 65536; i++) {
    const v = i / 65535
    const up = v >= low ? 1 : softLow > 0 ? Math.max(0, 1 - (low - v) / softLow) : 0
    const down = v <= high ? 1 : softHigh > 0 ? Math.max(0, 1 - (v - high) / softHigh) : 0
    table[i] = Math.floor(smooth(Math.min(up, down)) * 65535 + 0.5)
  }
  return table
}
