import { FREE, membrane, RIM } from './membrane.ts'

/**
 * Lays what was taken from one place into another so that no seam is left: its gradients stay, its colours go over into those round about (Pérez, Gangnet and Blake,
 * "Poisson image editing", SIGGRAPH 2003, equation 4, solved for the difference: a membrane through what both differ by along the rim).
 * @param w, h of both pictures; @param taken RGBA codes of 16 bits, changed in place; @param there what lies round about, likewise
 * @param inside which pixels are laid; those without cover in either picture are left as they are
 */
export async function heal(
  w: number,
  h: number,
  taken: Uint16Array,
  there: Uint16Array,
  inside: (i: number) => boolean,
  pause?: () => Promise<void>,
): Promise<void> {
  const kinds = new Uint8Array(w * h)
  const usable = (i: number) => taken[i * 4 + 3]! > 0 && there[i * 4 + 3]! > 0
  for (let i = 0; i < kinds.length; i++) if (inside(i) && taken[i * 4 + 3]! > 0) kinds[i] = FREE
  let rims = 0
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      if (kinds[i] === FREE || !usable(i)) continue
      const beside =
        (x > 0 && kinds[i - 1] === FREE) || (x + 1 < w && kinds[i + 1] === FREE) || (y > 0 && kinds[i - w] === FREE) || (y + 1 < h && kinds[i + w] === FREE)
      if (!beside) continue
      kinds[i] = RIM
      rims++
    }
  // without a rim there is nothing to go over into
  if (rims === 0) return
  const by = new Float32Array(w * h)
  for (let c = 0; c < 3; c++) {
    for (let i = 0; i < by.length; i++) by[i] = kinds[i] === RIM ? there[i * 4 + c]! - taken[i * 4 + c]! : 0
    await membrane(w, h, kinds, by, pause)
    for (let i = 0; i < by.length; i++) {
      if (kinds[i] !== FREE) continue
      const v = taken[i * 4 + c]! + by[i]!
      taken[i * 4 + c] = v < 0 ? 0 : v > 65535 ? 65535 : Math.round(v)
    }
  }
}
