// taken once: loops over planes look nothing up
const { abs, max, min } = Math

/**
 * Non-negative least squares: the x ≥ 0 for which A x comes nearest to b (Lawson and Hanson, "Solving Least Squares Problems", 1974, chapter 23).
 * For small systems: the normal equations of the chosen columns are solved anew at each turn.
 * @param a rows × n numbers, row by row; @param b rows numbers; @param n how many unknowns
 * @returns n numbers, none below 0
 */
export function nnls(a: ArrayLike<number>, b: ArrayLike<number>, n: number): Float64Array {
  const rows = b.length
  const x = new Float64Array(n)
  const chosen = new Uint8Array(n)
  const gram = new Float64Array(n * n)
  const right = new Float64Array(n)
  for (let i = 0; i < n; i++) {
    for (let r = 0; r < rows; r++) right[i] = right[i]! + a[r * n + i]! * b[r]!
    for (let j = i; j < n; j++) {
      let sum = 0
      for (let r = 0; r < rows; r++) sum += a[r * n + i]! * a[r * n + j]!
      gram[i * n + j] = gram[j * n + i] = sum
    }
  }
  let size = 0
  for (let i = 0; i < n; i++) size = max(size, abs(right[i]!), gram[i * n + i]!)
  const tiny = 1e-12 * (size || 1)
  for (let turn = 0; turn < 3 * n; turn++) {
    // the unknown that would bring most
    let best = -1
    let most = tiny
    for (let i = 0; i < n; i++) {
      if (chosen[i]) continue
      let gain = right[i]!
      for (let j = 0; j < n; j++) gain -= gram[i * n + j]! * x[j]!
      if (gain > most) {
        most = gain
        best = i
      }
    }
    if (best < 0) break
    chosen[best] = 1
    for (let inner = 0; inner < 3 * n; inner++) {
      const s = solved(gram, right, chosen, n)
      let all = true
      let step = 1
      for (let i = 0; i < n; i++) {
        if (!chosen[i] || s[i]! > 0) continue
        all = false
        const to = x[i]! - s[i]!
        if (to > 0) step = min(step, x[i]! / to)
        else step = 0
      }
      if (all) {
        x.set(s)
        break
      }
      for (let i = 0; i < n; i++) {
        if (!chosen[i]) continue
        x[i] = x[i]! + step * (s[i]! - x[i]!)
        if (x[i]! <= 1e-14) {
          x[i] = 0
          chosen[i] = 0
        }
      }
    }
  }
  return x
}

/** The chosen unknowns without any bound, by Gaussian elimination with pivots; the others 0. */
function solved(gram: Float64Array, right: Float64Array, chosen: Uint8Array, n: number): Float64Array {
  const of: number[] = []
  for (let i = 0; i < n; i++) if (chosen[i]) of.push(i)
  const m = of.length
  const rows = of.map((i) => Float64Array.from([...of.map((j) => gram[i * n + j]!), right[i]!]))
  for (let c = 0; c < m; c++) {
    let p = c
    for (let r = c + 1; r < m; r++) if (abs(rows[r]![c]!) > abs(rows[p]![c]!)) p = r
    ;[rows[c], rows[p]] = [rows[p]!, rows[c]!]
    const pivot = rows[c]![c]!
    if (abs(pivot) < 1e-14) continue
    for (let r = c + 1; r < m; r++) {
      const f = rows[r]![c]! / pivot
      if (f !== 0) for (let k = c; k <= m; k++) rows[r]![k] = rows[r]![k]! - f * rows[c]![k]!
    }
  }
  const out = new Float64Array(n)
  for (let c = m - 1; c >= 0; c--) {
    let v = rows[c]![m]!
    for (let k = c + 1; k < m; k++) v -= rows[c]![k]! * out[of[k]!]!
    out[of[c]!] = abs(rows[c]![c]!) < 1e-14 ? 0 : v / rows[c]![c]!
  }
  return out
}
