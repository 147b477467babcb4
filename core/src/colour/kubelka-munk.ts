/**
 * A layer of pigment in one channel, of thickness 1 (P. Kubelka, "New contributions to the optics of intensely light-scattering materials, part I", JOSA 38, 1948).
 * @param k absorption, @param s scattering, per thickness, both 0 and up
 * @returns reflectance over black, and transmittance
 */
export function layerOf(k: number, s: number, exp: (v: number) => number): { r: number; t: number } {
  // without scattering it is Bouguer's law
  if (s < 1e-6) return { r: 0, t: exp(-k) }
  if (k < 1e-9) return { r: s / (1 + s), t: 1 / (1 + s) }
  const a = 1 + k / s
  const b = Math.sqrt(a * a - 1)
  const up = exp(b * s)
  const sinh = (up - 1 / up) / 2
  const cosh = (up + 1 / up) / 2
  const c = a * sinh + b * cosh
  return { r: sinh / c, t: b / c }
}

/** Reflectance of a layer over a ground (Kubelka 1948, eq. for optical contact): light goes to and fro between the two. */
export const overGround = ({ r, t }: { r: number; t: number }, ground: number): number => r + (t * t * ground) / (1 - r * ground)

/** Reflectance of a layer that is infinitely thick: 1 + k/s − √((k/s)² + 2 k/s). */
export function endless(k: number, s: number): number {
  const q = k / s
  return 1 + q - Math.sqrt(q * q + 2 * q)
}
