/** Tones over which a slope is measured: a sixty-fourth of the scale. */
const SPAN = 1024

/** The steepest rise or fall of a table of 65536 codes over a sixty-fourth of the scale; 1 changes nothing. */
export function steepness(table: Uint16Array): number {
  let most = 0
  for (let i = 0; i + SPAN < 65536; i += SPAN / 2) most = Math.max(most, Math.abs(table[i + SPAN]! - table[i]!))
  return most / SPAN
}

/**
 * The coarsest level at which a table may be applied. What a bend in the tones does to a mean of pixels is not the mean of what it does
 * to them, and the less so the steeper it is.
 */
export function coarsestOf(table: Uint16Array): number {
  const s = steepness(table)
  return s <= 2 ? 8 : s <= 3 ? 2 : s <= 4 ? 1 : 0
}
