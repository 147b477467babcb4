import { nnls } from '../../base/nnls.ts'
import { corners, cornersAt } from '../../colour/corners.ts'
import { layerOf, overGround } from '../../colour/kubelka-munk.ts'
import { rgbOfHex, type Triple } from '../../colour/oklab.ts'
import { srgbToLinear } from '../../colour/srgb.ts'
import type { Kernels } from '../../kernels/kernels.ts'

// taken once: loops over planes look nothing up
const { max, min } = Math

/** A pigment of a thickness that a full wash has. */
export interface Pigment {
  title: string
  /** Absorption and scattering in red, green and blue. */
  k: Triple
  s: Triple
  /** 0 stains the paper evenly … 1 settles in its hollows. */
  granulates: number
}

/**
 * Absorption and scattering as published by Curtis, Anderson, Seims, Fleischer and Salesin, "Computer-generated watercolor", SIGGRAPH 1997, figure 5 (values from
 * memory); how they granulate is common practice.
 */
export const shelf: readonly Pigment[] = [
  { title: 'Quinacridone rose', k: [0.22, 1.47, 0.57], s: [0.05, 0.003, 0.03], granulates: 0.1 },
  { title: 'Indian red', k: [0.46, 1.07, 1.5], s: [1.28, 0.38, 0.21], granulates: 0.6 },
  { title: 'Cadmium yellow', k: [0.1, 0.36, 3.45], s: [0.97, 0.65, 0.007], granulates: 0.35 },
  { title: 'Hooker’s green', k: [1.62, 0.61, 1.64], s: [0.01, 0.012, 0.003], granulates: 0.2 },
  { title: 'Cerulean blue', k: [1.52, 0.32, 0.25], s: [0.06, 0.26, 0.4], granulates: 0.9 },
  { title: 'Burnt umber', k: [0.74, 1.54, 2.1], s: [0.09, 0.09, 0.004], granulates: 0.7 },
  { title: 'Cadmium red', k: [0.14, 1.08, 1.68], s: [0.77, 0.015, 0.018], granulates: 0.35 },
  { title: 'Brilliant orange', k: [0.13, 0.81, 3.45], s: [0.005, 0.009, 0.007], granulates: 0.1 },
  { title: 'Hansa yellow', k: [0.06, 0.21, 1.78], s: [0.5, 0.88, 0.009], granulates: 0.1 },
  { title: 'Phthalo green', k: [1.55, 0.47, 0.63], s: [0.01, 0.05, 0.035], granulates: 0.05 },
  { title: 'French ultramarine', k: [0.86, 0.86, 0.06], s: [0.005, 0.005, 0.09], granulates: 0.8 },
]

const named = (...titles: string[]): Pigment[] => titles.map((t) => shelf.find((p) => p.title === t)!)

/** Sets that painters lay out (common practice). */
export const boxes: Record<'landscape' | 'portrait' | 'earths' | 'clear', readonly Pigment[]> = {
  landscape: named('Hansa yellow', 'Hooker’s green', 'French ultramarine', 'Burnt umber', 'Indian red'),
  portrait: named('Cadmium yellow', 'Quinacridone rose', 'Indian red', 'French ultramarine', 'Burnt umber'),
  earths: named('Burnt umber', 'Indian red', 'French ultramarine'),
  clear: named('Hansa yellow', 'Quinacridone rose', 'Phthalo green', 'French ultramarine'),
}

/** A pigment of a colour, as a full wash of it looks on white: it hardly scatters. */
export function pigmentOf(hex: string, pow: Kernels['raw']['pow'], log: Kernels['raw']['log']): Pigment {
  const k = rgbOfHex(hex).map((v) => max(0.02, -log(max(0.02, srgbToLinear(v, pow))))) as Triple
  return { title: hex, k, s: [0.01, 0.01, 0.01], granulates: 0.4 }
}

/** What a full wash of a pigment takes of the light from white paper: densities (natural logarithm) in red, green, blue. */
export function densityOf({ k, s }: Pigment, exp: Kernels['raw']['exp'], log: Kernels['raw']['log']): Triple {
  return k.map((v, c) => max(0, -log(overGround(layerOf(v, s[c]!, exp), 0.92) / 0.92))) as Triple
}

/** How much of each pigment comes nearest to densities: none below 0. */
export function amountsFor(densities: readonly Triple[], target: ArrayLike<number>): Float64Array {
  const n = densities.length
  const a = new Float64Array(4 * n)
  for (let k = 0; k < n; k++) {
    for (let c = 0; c < 3; c++) a[c * n + k] = densities[k]![c]!
    a[3 * n + k] = 0.03
  }
  return nnls(a, [target[0]!, target[1]!, target[2]!, 0], n)
}

/** So many of the shelf as come nearest to a picture's densities, one after the other. */
export function chosenFor(samples: readonly Triple[], count: number, exp: Kernels['raw']['exp'], log: Kernels['raw']['log']): Pigment[] {
  const all = shelf.map((p) => densityOf(p, exp, log))
  const chosen: number[] = []
  while (chosen.length < count) {
    let best = -1
    let least = Infinity
    for (let i = 0; i < all.length; i++) {
      if (chosen.includes(i)) continue
      const set = [...chosen, i].map((k) => all[k]!)
      let off = 0
      for (const t of samples) {
        const x = amountsFor(set, t)
        for (let c = 0; c < 3; c++) {
          let v = -t[c]!
          for (let k = 0; k < set.length; k++) v += x[k]! * set[k]![c]!
          off += v * v
        }
      }
      if (off < least) {
        least = off
        best = i
      }
    }
    chosen.push(best)
  }
  return chosen.map((i) => shelf[i]!)
}

const SIDE = 11
/** The deepest density of the cube. */
const DEEPEST = 3.2

/**
 * For densities what these pigments make of them (three numbers) and how that granulates: a cube, and straight between its corners.
 * @returns fills `out`, four numbers a place, by three planes
 */
export function washes(
  pigments: readonly Pigment[],
  { exp, log }: Pick<Kernels['raw'], 'exp' | 'log'>,
): (r: Float32Array, g: Float32Array, b: Float32Array, out: Float32Array) => void {
  const densities = pigments.map((p) => densityOf(p, exp, log))
  const cube = new Float32Array(SIDE ** 3 * 4)
  let at = 0
  for (let b = 0; b < SIDE; b++)
    for (let g = 0; g < SIDE; g++)
      for (let r = 0; r < SIDE; r++) {
        // closer in the lights
        const target = [r, g, b].map((v) => DEEPEST * (v / (SIDE - 1)) ** 2)
        const x = amountsFor(densities, target)
        let [all, grains] = [1e-6, 0]
        for (let k = 0; k < x.length; k++) {
          const [dr, dg, db] = densities[k]!
          const weight = x[k]! * (dr + dg + db)
          all += weight
          grains += weight * pigments[k]!.granulates
          cube[at] = cube[at]! + x[k]! * dr
          cube[at + 1] = cube[at + 1]! + x[k]! * dg
          cube[at + 2] = cube[at + 2]! + x[k]! * db
        }
        cube[at + 3] = grains / all
        at += 4
      }
  return (r, g, b, out) => {
    for (let i = 0; i < r.length; i++) fromCube(cube, placeOf(r[i]!), placeOf(g[i]!), placeOf(b[i]!), out, i * 4)
  }
}

/** Where a density lies along an edge of the cube. */
const placeOf = (v: number) => min(SIDE - 1, Math.sqrt(max(0, v) / DEEPEST) * (SIDE - 1))

const about = corners()

/** Straight between the eight corners about a place. */
function fromCube(cube: Float32Array, x: number, y: number, z: number, out: Float32Array, o: number): void {
  cornersAt(SIDE, x, y, z, about)
  let s0 = 0
  let s1 = 0
  let s2 = 0
  let s3 = 0
  for (let c = 0; c < 8; c++) {
    const share = about.shares[c]!
    if (share === 0) continue
    const p = about.at[c]! * 4
    s0 += share * cube[p]!
    s1 += share * cube[p + 1]!
    s2 += share * cube[p + 2]!
    s3 += share * cube[p + 3]!
  }
  out[o] = s0
  out[o + 1] = s1
  out[o + 2] = s2
  out[o + 3] = s3
}
