import { corners, cornersAt } from '../../colour/corners.ts'
import { linearOfOklab, oklabOfLinear, rgbOfHex, type Triple } from '../../colour/oklab.ts'
import { srgbToLinear } from '../../colour/srgb.ts'
import { nnls } from '../../base/nnls.ts'
import type { Kernels } from '../../kernels/kernels.ts'

// taken once: loops over planes look nothing up
const { floor, max, min, sqrt } = Math

/** Pencils on a paper: what each lets through of its light, and how they come out together. */
export interface Pencils {
  /** Linear red, green, blue of the paper. */
  paper: Triple
  /** What a full layer of each lets through, linear. */
  through: Triple[]
  /** What of an area its strokes go over where they are pressed so hard, 0…1. */
  over: (pressed: number) => number
  /** How hard strokes press that cross those of a pressure, and fill what they leave; none where it is 0. */
  crossing: (pressed: number) => number
  /** Softness of the lead: how far from a hill to a hollow a pressure reaches. */
  soft: number
  /** How much the tooth breaks what is laid, 0 … 1. */
  catches: number
}

/** A pencil lets through at least this much of any light. */
const LEAST = 0.02

export function pencilsOf(
  colours: readonly string[],
  paper: string,
  over: Pencils['over'],
  soft: number,
  catches: number,
  pow: Kernels['raw']['pow'],
  crossing: Pencils['crossing'] = () => 0,
): Pencils {
  const linear = (hex: string) => rgbOfHex(hex).map((v) => srgbToLinear(v, pow)) as Triple
  const ground = linear(paper).map((v) => max(LEAST, v)) as Triple
  return { paper: ground, through: colours.map((c) => linear(c).map((v, i) => min(1, max(LEAST, v / ground[i]!))) as Triple), over, crossing, soft, catches }
}

/** How much lies at a depth of the tooth (0 its hills … 1) where a lead is pressed so hard: as the kernels lay it. */
export function laidAt(pressed: number, depth: number, soft: number, catches: number): number {
  const dark = pressed > 0.5
  const less = dark ? 1 - pressed : pressed
  const ends = max(soft, 2 * less, 1e-6)
  const held = ((2 * less) / ends) * max(0, 1 - (dark ? 1 - depth : depth) / ends)
  return pressed + catches * ((dark ? 1 - held : held) - pressed)
}

/** Depths of the tooth that a mixture is reckoned with. */
const DEPTHS = 6
/** Steps of how much lies somewhere. */
const STEPS = 64

/**
 * How pencils mix in the eye: where strokes of each go over their share of the paper, apart from those of the others, and what each lays catches on the same
 * tooth. On a place of one depth layers let light through one after the other (Bouguer, Beer), and places add up by their areas (Demichel, Neugebauer 1937).
 */
export class Mixture {
  private readonly tables: Float64Array[]
  private readonly n: number
  /** What each pencil's share of a product changes by, relative to itself. */
  private readonly parts: Float64Array
  private readonly p: Pencils

  constructor(p: Pencils, pow: Kernels['raw']['pow']) {
    this.p = p
    this.n = p.through.length
    this.parts = new Float64Array(3 * this.n)
    // of each pencil, depth by depth, what an area that its strokes go over in part lets through: three numbers a pressure
    this.tables = p.through.map((t) => {
      const table = new Float64Array(DEPTHS * (STEPS + 1) * 3)
      for (let d = 0; d < DEPTHS; d++)
        for (let i = 0; i <= STEPS; i++) {
          const pressed = i / STEPS
          const over = p.over(pressed)
          const laid = laidAt(pressed, (d + 0.5) / DEPTHS, p.soft, p.catches)
          const light = p.crossing(pressed)
          const filled = light > 0 ? p.over(light) : 0
          const there = light > 0 ? laidAt(light, (d + 0.5) / DEPTHS, p.soft, p.catches) : 0
          for (let c = 0; c < 3; c++) {
            const left = filled > 0 ? 1 - filled + filled * pow(t[c]!, there) : 1
            table[(d * (STEPS + 1) + i) * 3 + c] = (1 - over) * left + over * pow(t[c]!, laid)
          }
        }
      return table
    })
  }

  /** The mean colour that pressures 0…1 come to, linear red, green, blue. */
  colour(pressures: ArrayLike<number>, out: Float64Array): void {
    out[0] = out[1] = out[2] = 0
    for (let d = 0; d < DEPTHS; d++) {
      let [r, g, b] = this.p.paper
      for (let k = 0; k < this.n; k++) {
        const v = pressures[k]! * STEPS
        if (v <= 0) continue
        const i = min(STEPS - 1, floor(v))
        const f = min(1, v - i)
        const table = this.tables[k]!
        const at = (d * (STEPS + 1) + i) * 3
        r *= table[at]! + f * (table[at + 3]! - table[at]!)
        g *= table[at + 1]! + f * (table[at + 4]! - table[at + 1]!)
        b *= table[at + 2]! + f * (table[at + 5]! - table[at + 2]!)
      }
      out[0] = out[0]! + r / DEPTHS
      out[1] = out[1]! + g / DEPTHS
      out[2] = out[2]! + b / DEPTHS
    }
  }

  /** The same, and how it changes with each pressure: three rows of n numbers. All of one depth are factors of one product. */
  private bent(pressures: Float64Array, out: Float64Array, slopes: Float64Array): void {
    const { n, parts } = this
    out.fill(0)
    slopes.fill(0)
    for (let d = 0; d < DEPTHS; d++) {
      let [r, g, b] = this.p.paper
      for (let k = 0; k < n; k++) {
        const v = pressures[k]! * STEPS
        const i = min(STEPS - 1, floor(v))
        const f = v - i
        const table = this.tables[k]!
        const at = (d * (STEPS + 1) + i) * 3
        for (let c = 0; c < 3; c++) {
          const rise = table[at + 3 + c]! - table[at + c]!
          const t = table[at + c]! + f * rise
          parts[c * n + k] = (rise * STEPS) / t
          if (c === 0) r *= t
          else if (c === 1) g *= t
          else b *= t
        }
      }
      const by = 1 / DEPTHS
      out[0] = out[0]! + r * by
      out[1] = out[1]! + g * by
      out[2] = out[2]! + b * by
      for (let k = 0; k < n; k++) {
        slopes[k] = slopes[k]! + r * by * parts[k]!
        slopes[n + k] = slopes[n + k]! + g * by * parts[n + k]!
        slopes[2 * n + k] = slopes[2 * n + k]! + b * by * parts[2 * n + k]!
      }
    }
  }

  /**
   * Pressures 0…1 that come nearest to a colour: Gauss and Newton's turns over the square root of linear light, about as it is displayed, each by non-negative least
   * squares; few pencils rather than many.
   * @param target linear red, green, blue
   */
  pressures(target: Triple, sparing: number): Float64Array {
    const { n } = this
    const goal = target.map((v) => sqrt(max(0, v)))
    let x = new Float64Array(n).fill(0.08)
    const here = new Float64Array(3)
    const slopes = new Float64Array(3 * n)
    // the last row prefers little of everything
    const a = new Float64Array(4 * n)
    const b = new Float64Array(4)
    let best = x
    let nearest = Infinity
    for (let turn = 0; turn < 9; turn++) {
      this.bent(x, here, slopes)
      let off = 0
      for (let c = 0; c < 3; c++) off += (sqrt(here[c]!) - goal[c]!) ** 2
      const gained = nearest - off
      if (gained > 1e-7) {
        nearest = off
        best = x
      }
      // further turns are not seen
      if (turn > 4 && gained < 1e-5) break
      for (let c = 0; c < 3; c++) {
        const root = sqrt(here[c]!)
        let v = goal[c]! - root
        for (let k = 0; k < n; k++) {
          const slope = slopes[c * n + k]! / (2 * root)
          a[c * n + k] = slope
          v += slope * x[k]!
        }
        b[c] = v
      }
      for (let k = 0; k < n; k++) a[3 * n + k] = sparing
      b[3] = 0
      const next = nnls(a, b, n)
      const held = new Float64Array(n)
      // half way: the mixture is far from straight
      for (let k = 0; k < n; k++) held[k] = min(1, (turn < 2 ? 1 : 0.6) * next[k]! + (turn < 2 ? 0 : 0.4) * x[k]!)
      x = held
    }
    return best
  }
}

/** Sides of the cube of colours that pressures are found for. */
const SIDE = 9

/** Pressures for any colour: n a corner of a cube of display-encoded colours, and straight between them. */
export interface Recipe {
  n: number
  cube: Float32Array
}

export interface Keying {
  /** 0 the photo's tones … 1 a light drawing's. */
  key: number
  /** Down to which lightness the paper is left alone, share. */
  bare: number
  /** The exponent that a dark photo's tones are opened with. */
  opened: number
  /** How much purer than in the photo. */
  vivid: number
}

/** The colour that a photo's comes to in a drawing by these pencils: white is the paper, black the darkest that they reach together. */
export function keyedColour(rgb: Triple, paper: Triple, darkest: number, k: Keying, pow: Kernels['raw']['pow']): Triple {
  const lab = oklabOfLinear(rgb.map((v) => srgbToLinear(v, pow)) as Triple, pow)
  const white = oklabOfLinear(paper, pow)
  const light = min(1, lab[0] / (1 - 0.18 * k.bare))
  const t = k.opened === 1 ? light : pow(max(0, light), k.opened)
  const l = darkest + (white[0] - darkest) * t
  // towards the paper colours are the paper's
  const pure = k.vivid * min(1, (1 - t) * 8 + 0.15)
  const out = linearOfOklab([l, lab[1] * pure + white[1] * t, lab[2] * pure + white[2] * t])
  return out.map((v) => max(0, v)) as Triple
}

/** Finds the pressures of all colours. */
export async function recipeOf(pencils: Pencils, keying: Keying, kernels: Kernels, pause: () => Promise<void>): Promise<Recipe> {
  const { pow } = kernels.raw
  const mixture = new Mixture(pencils, pow)
  const n = pencils.through.length
  const full = new Float64Array(3)
  mixture.colour(new Float64Array(n).fill(1), full)
  const darkest = oklabOfLinear([full[0]!, full[1]!, full[2]!], pow)[0]
  const cube = new Float32Array(SIDE ** 3 * n)
  let at = 0
  for (let b = 0; b < SIDE; b++) {
    await pause()
    for (let g = 0; g < SIDE; g++)
      for (let r = 0; r < SIDE; r++) {
        const target = keyedColour([r / (SIDE - 1), g / (SIDE - 1), b / (SIDE - 1)], pencils.paper, darkest, keying, pow)
        const white = sqrt(target.reduce((s, v, c) => s + (v - pencils.paper[c]!) ** 2, 0)) < 0.02
        if (!white) cube.set(mixture.pressures(target, 0.03), at)
        at += n
      }
  }
  return { n, cube }
}

const about = corners()
const onEdge = (v: number) => min(SIDE - 1, max(0, v * (SIDE - 1)))

/** Pressures for a display-encoded colour, between the corners of the cube, added at a place of one plane a pencil. */
export function pressuresAt({ n, cube }: Recipe, r: number, g: number, b: number, planes: readonly Float32Array[], place: number): void {
  cornersAt(SIDE, onEdge(r), onEdge(g), onEdge(b), about)
  for (let c = 0; c < 8; c++) {
    const share = about.shares[c]!
    if (share === 0) continue
    const at = about.at[c]! * n
    for (let q = 0; q < n; q++) planes[q]![place] = planes[q]![place]! + share * cube[at + q]!
  }
}
