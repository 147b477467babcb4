// taken once: loops over planes look nothing up
const { floor, min } = Math

/** Room for what `cornersAt` finds. */
export interface Corners {
  /** Numbers of eight entries, and how much each counts: 1 together. */
  at: Int32Array
  shares: Float64Array
}

export const corners = (): Corners => ({ at: new Int32Array(8), shares: new Float64Array(8) })

/**
 * The entries about a place in a cube of side³ of them (x fastest, z slowest), for what lies straight between them.
 * @param x,y,z 0 … side − 1
 */
export function cornersAt(side: number, x: number, y: number, z: number, { at, shares }: Corners): void {
  const i = min(side - 2, floor(x))
  const j = min(side - 2, floor(y))
  const k = min(side - 2, floor(z))
  const u = x - i
  const v = y - j
  const w = z - k
  for (let c = 0; c < 8; c++) {
    shares[c] = (c & 1 ? u : 1 - u) * (c & 2 ? v : 1 - v) * (c & 4 ? w : 1 - w)
    at[c] = ((k + (c >> 2)) * side + j + ((c >> 1) & 1)) * side + i + (c & 1)
  }
}
