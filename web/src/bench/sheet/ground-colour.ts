/** How far in from the borders the ground is looked for, of the shorter side. */
const BAND = 0.1
/** Steps of a channel that count as alike. */
const ALIKE = 16

/**
 * The colour of what stands behind, #rrggbb: of the pixels along the borders, those of the commonest colour (in steps of 16) with its neighbours, and their
 * mean. Null where nothing covers there.
 * @param pixels RGBA, 8 bits, w × h
 */
export function groundOf(pixels: Uint8Array, w: number, h: number): string | null {
  const deep = Math.max(1, Math.round(Math.min(w, h) * BAND))
  const found: number[] = []
  const bins = new Map<number, number>()
  const binOf = (i: number) => ((pixels[i]! / ALIKE) << 8) | ((pixels[i + 1]! / ALIKE) << 4) | (pixels[i + 2]! / ALIKE)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      if (x >= deep && x < w - deep && y >= deep && y < h - deep) continue
      const i = (y * w + x) * 4
      if (pixels[i + 3]! < 128) continue
      found.push(i)
      const bin = binOf(i)
      bins.set(bin, (bins.get(bin) ?? 0) + 1)
    }
  let [common, most] = [-1, 0]
  for (const [bin, n] of bins) if (n > most) [common, most] = [bin, n]
  if (common < 0) return null
  const near = (bin: number) => [8, 4, 0].every((s) => Math.abs(((bin >> s) & 15) - ((common >> s) & 15)) <= 1)
  const ground = found.filter((i) => near(binOf(i)))
  return `#${[0, 1, 2]
    .map((c) =>
      Math.round(ground.reduce((sum, i) => sum + pixels[i + c]!, 0) / ground.length)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`
}
