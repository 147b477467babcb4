/** A histogram's outline over 0…1 × 0…1 of a box w × h, its height by the square root, so that small counts show. */
export function tonePath(counts: readonly number[], w: number, h: number): string {
  // pure black and white stand apart: they would flatten the rest
  const most = Math.max(1, ...counts.slice(2, -2))
  const y = (n: number) => h - Math.min(1, Math.sqrt(n / most)) * h
  return `M0 ${h}${counts.map((n, i) => `L${((i + 0.5) / counts.length) * w} ${y(n).toFixed(1)}`).join('')}L${w} ${h}Z`
}
