import type { Field } from './fields.ts'
import type { Study } from './study.ts'

// taken once: loops over planes look nothing up
const { floor, max, min, round, sqrt } = Math

/** What is measured on a photo to say how a technique will take on it. */
export interface Suitability {
  /** Lightness 0…1 from the darkest twentieth of the picture to the lightest, as displayed. */
  spread: number
  /** How little the tones of the subject are those of the ground behind it, 0 the same … 1 none in common (one less Bhattacharyya's coefficient, 1943). */
  apart: number
  /** Deviation of the noise, in tones of 256. */
  noise: number
  /** Share 0…1 of the edges that are sharp. */
  sharp: number
  /** Share 0…1 of the picture that is full of small contrasts everywhere, so that nothing is the subject. */
  busy: number
  /** Pixels of the photo an inch of the print. */
  density: number
}

/** Bins of tones that subject and ground are compared in. */
const TONES = 24

/** What two spreads of weights have in common, 0…1. */
function shared(a: Float64Array, b: Float64Array): number {
  const sum = (v: Float64Array) =>
    max(
      1e-9,
      v.reduce((s, x) => s + x, 0),
    )
  const [all, of] = [sum(a), sum(b)]
  let out = 0
  for (let i = 0; i < a.length; i++) out += sqrt((a[i]! / all) * (b[i]! / of))
  return out
}

/** Values below which shares 0…1 of a field lie, where there is a picture. */
function sharesOf({ v }: Field, cover: Field, shares: readonly number[]): number[] {
  const bins = new Float64Array(256)
  let all = 0
  for (let i = 0; i < v.length; i++) {
    const c = cover.v[i]!
    bins[min(255, max(0, round(v[i]! * 255)))]! += c
    all += c
  }
  return shares.map((share) => {
    let sum = 0
    for (let b = 0; b < 256; b++) {
      sum += bins[b]!
      if (sum >= share * all) return b / 255
    }
    return 1
  })
}

/**
 * Measures it on a study.
 * @param long pixels of the photo's long side; @param print inches that it is long on the print
 */
export function suitabilityOf(study: Study, long: number, print: number): Suitability {
  const { cover, fine, tone, ground, edges, focus, detail } = study
  const [dark, light] = sharesOf(fine, cover, [0.05, 0.95]) as [number, number]
  let [found, sharp, full, all] = [0, 0, 0, 0]
  const [before, behind] = [new Float64Array(TONES), new Float64Array(TONES)]
  for (let i = 0; i < tone.v.length; i++) {
    const c = cover.v[i]!
    const e = edges.v[i]! * c
    const bin = min(TONES - 1, max(0, floor(fine.v[i]! * TONES)))
    behind[bin] = behind[bin]! + ground.v[i]! * c
    before[bin] = before[bin]! + (1 - ground.v[i]!) * c
    found += e
    sharp += e * focus.v[i]!
    all += c
    if (edges.v[i]! > 0.3 && detail.v[i]! < 0.25) full += c
  }
  return {
    spread: light - dark,
    apart: 1 - shared(before, behind),
    noise: study.noise * 255,
    sharp: sharp / max(1e-6, found),
    busy: full / max(1, all),
    density: long / print,
  }
}
