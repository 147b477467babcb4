/**
 * Where a picture is richest in detail: the place whose neighbourhood (an eighth of the long side) holds the most edge,
 * with a mild liking for the middle, where subjects stand. A starting value, moved by hand.
 * @param grey w × h tones, a small copy of the picture
 * @returns the place, 0…1 each way
 */
export function richestSpot(grey: Uint8Array, w: number, h: number): { x: number; y: number } {
  const r = Math.max(1, Math.round(Math.max(w, h) / 16))
  // summed-area table of edge strength
  const sums = new Float64Array((w + 1) * (h + 1))
  for (let y = 0; y < h; y++) {
    let row = 0
    for (let x = 0; x < w; x++) {
      const i = y * w + x
      const gx = grey[y * w + Math.min(w - 1, x + 1)]! - grey[i]!
      const gy = grey[Math.min(h - 1, y + 1) * w + x]! - grey[i]!
      row += Math.sqrt(gx * gx + gy * gy)
      sums[(y + 1) * (w + 1) + x + 1] = sums[y * (w + 1) + x + 1]! + row
    }
  }
  let best = 0
  let spot = { x: 0.5, y: 0.5 }
  for (let y = 0; y < h; y += 2) {
    for (let x = 0; x < w; x += 2) {
      const [x0, x1, y0, y1] = [Math.max(0, x - r), Math.min(w, x + r + 1), Math.max(0, y - r), Math.min(h, y + r + 1)]
      const edge = sums[y1 * (w + 1) + x1]! - sums[y0 * (w + 1) + x1]! - sums[y1 * (w + 1) + x0]! + sums[y0 * (w + 1) + x0]!
      const off = Math.hypot(x / w - 0.5, y / h - 0.5)
      const rich = edge * (1 - 0.7 * off)
      if (rich > best) {
        best = rich
        spot = { x: (x + 0.5) / w, y: (y + 0.5) / h }
      }
    }
  }
  return spot
}
