import type { Kernels } from '../../kernels/kernels.ts'
import { distanceTo } from '../../study/distance.ts'
import { at, between, blurred, field, type Field } from '../../study/fields.ts'
import { calmed, merged, type Labels } from '../../study/regions.ts'
import { chance } from '../line/strokes.ts'

// taken once: loops over planes look nothing up
const { ceil, floor, max, min, round, sqrt } = Math

/** What is of one colour for a painter, however light or dark it is, and where such areas meet. */
export interface Families {
  /** Which family each pixel is of. */
  labels: Labels
  kinds: number
  /** How far each pixel is from a border between two of them that is found: half a pixel beside it, and more where washes touch. A million where there is none. */
  border: Field
  /** How found their borders are round about, 0 … 1; 0 where there is none near. */
  found: Field
}

/** Families at most, and how fine their colours are counted. */
const MOST = 6
const BINS = 32
/** Which share of a picture a colour has to have to be a family. */
const RARE = 0.004

/**
 * Colours without their lightness: how far red is from green, and blue from both, by the strongest of the three. Shading hardly moves them.
 * @param rgb display-encoded, 0…1
 */
function huesOf([r, g, b]: readonly [Field, Field, Field]): { u: Field; v: Field } {
  const [u, v] = [field(r.w, r.h), field(r.w, r.h)]
  for (let i = 0; i < u.v.length; i++) {
    const [x, y, z] = [r.v[i]!, g.v[i]!, b.v[i]!]
    const k = 1 / (0.15 + max(x, y, z))
    u.v[i] = (x - y) * k
    v.v[i] = (z - 0.5 * (x + y)) * k
  }
  return { u, v }
}

const binOf = (v: number) => min(BINS - 1, max(0, floor((0.5 + 0.55 * v) * BINS)))
const valueOf = (bin: number) => ((bin + 0.5) / BINS - 0.5) / 0.55

/** The colours that a picture is made of: the one that most of it has, then the one that most has of those which are `unlike` it, and so on; each moved to the mean of its own. */
function centresOf({ u, v }: { u: Field; v: Field }, cover: ArrayLike<number>, unlike: number): [number, number][] {
  const counts = new Float64Array(BINS * BINS)
  let all = 0
  for (let i = 0; i < u.v.length; i++) {
    if (cover[i]! < 0.5) continue
    counts[binOf(v.v[i]!) * BINS + binOf(u.v[i]!)]!++
    all++
  }
  /** How much of the picture has about a colour. */
  const about = new Float64Array(BINS * BINS)
  for (let y = 0; y < BINS; y++)
    for (let x = 0; x < BINS; x++)
      for (let j = max(0, y - 1); j <= min(BINS - 1, y + 1); j++)
        for (let i = max(0, x - 1); i <= min(BINS - 1, x + 1); i++) about[y * BINS + x]! += counts[j * BINS + i]!
  const found: [number, number][] = []
  const far = (x: number, y: number) => found.every(([a, b]) => (valueOf(x) - a) ** 2 + (valueOf(y) - b) ** 2 >= unlike * unlike)
  while (found.length < MOST) {
    let [best, most] = [-1, RARE * all]
    for (let k = 0; k < about.length; k++)
      if (about[k]! > most && far(k % BINS, floor(k / BINS))) {
        best = k
        most = about[k]!
      }
    if (best < 0) break
    found.push([valueOf(best % BINS), valueOf(floor(best / BINS))])
  }
  for (let round = 0; round < 4; round++) {
    const sums = found.map(() => [0, 0, 0] as [number, number, number])
    for (let k = 0; k < counts.length; k++) {
      if (counts[k] === 0) continue
      const [a, b] = [valueOf(k % BINS), valueOf(floor(k / BINS))]
      const s = sums[nearest(found, a, b)]!
      s[0] += counts[k]! * a
      s[1] += counts[k]! * b
      s[2] += counts[k]!
    }
    sums.forEach(([a, b, n], k) => n > 0 && (found[k] = [a / n, b / n]))
  }
  return found
}

function nearest(of: readonly (readonly [number, number])[], a: number, b: number): number {
  let best = 0
  let least = Infinity
  for (let k = 0; k < of.length; k++) {
    const [x, y] = of[k]!
    const d = (x - a) * (x - a) + (y - b) * (y - b)
    if (d < least) {
      least = d
      best = k
    }
  }
  return best
}

/**
 * Families of colour in masses, with calm borders; null where the picture is all of one.
 * @param masses display-encoded red, green, blue 0…1; @param cover how much of a picture there is
 * @param p `unlike`: how far two families are apart, 0 … about 1; `sigma`: how calm their borders are, and `least` the smallest area of one, pixels; `reach`: how far
 * round a border it is looked whether it is found; `gap`: how much further washes come at most, where they touch and leave no paper between them; `deal`: where they do
 */
export async function familiesOf(
  kernels: Kernels,
  masses: readonly [Field, Field, Field],
  cover: ArrayLike<number>,
  p: { unlike: number; sigma: number; least: number; reach: number; gap: number; deal: number },
  pause: () => Promise<void>,
): Promise<Families | null> {
  const { w, h } = masses[0]
  const hues = huesOf(masses)
  const centres = centresOf(hues, cover, p.unlike)
  await pause()
  const kinds = centres.length
  if (kinds < 2) return null
  const of = new Uint8Array(w * h)
  for (let i = 0; i < of.length; i++) of[i] = nearest(centres, hues.u.v[i]!, hues.v.v[i]!)
  await pause()
  const distance = (a: number, b: number) => sqrt((centres[a]![0] - centres[b]![0]) ** 2 + (centres[a]![1] - centres[b]![1]) ** 2)
  const labels = merged(await calmed(kernels, { w, h, of }, kinds, p.sigma, pause), p.least, distance)
  await pause()
  const { all, sharp } = bordersOf(labels, hues, p.unlike, max(1, round(0.5 * p.reach)))
  const [near, any] = [blurred(kernels, sharp, p.reach), blurred(kernels, all, p.reach)]
  const marks = new Uint8Array(w * h)
  const found = field(w, h)
  for (let i = 0; i < marks.length; i++) {
    if (any.v[i]! < 1e-4) continue
    found.v[i] = min(1, near.v[i]! / any.v[i]!)
    if (all.v[i] === 1 && found.v[i]! > 0.5) marks[i] = 1
  }
  await pause()
  const border = distanceTo(kernels, marks, w, h)
  touching(border, p.gap, p.deal)
  return { labels, kinds, border, found }
}

/** How far it is between places that are dealt how near washes come there, of the long side. */
const STRETCH = 0.07

/** A hand leaves a hair of paper between two wet washes, for a stretch; elsewhere they touch. */
function touching(border: Field, gap: number, deal: number): void {
  const { w, h, v } = border
  const side = max(2, STRETCH * max(w, h))
  const [gw, gh] = [ceil(w / side) + 2, ceil(h / side) + 2]
  const near = field(gw, gh)
  for (let i = 0; i < near.v.length; i++) near.v[i] = chance(i % gw, floor(i / gw), deal)
  for (let y = 0, i = 0; y < h; y++) for (let x = 0; x < w; x++, i++) v[i] = v[i]! + 0.5 + gap * between(at(near, x / side, y / side), 0.2, 0.45)
}

/** Pixels beside a border between families, and how decided the change of colour is there, 0…1. @param far pixels to both sides that are compared */
function bordersOf({ w, h, of }: Labels, { u, v }: { u: Field; v: Field }, unlike: number, far: number): { all: Field; sharp: Field } {
  const [all, sharp] = [field(w, h), field(w, h)]
  const beside = (i: number, j: number, x: number, y: number, dx: number, dy: number) => {
    if (of[i] === of[j]) return
    const [ax, ay, bx, by] = [x - dx * (far - 1), y - dy * (far - 1), x + dx * far, y + dy * far]
    const [p, q] = [at(u, ax, ay) - at(u, bx, by), at(v, ax, ay) - at(v, bx, by)]
    const step = min(1, max(0, sqrt(p * p + q * q) / unlike - 0.35) * 2)
    for (const k of [i, j]) {
      all.v[k] = 1
      sharp.v[k] = max(sharp.v[k]!, step)
    }
  }
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x
      if (x + 1 < w) beside(i, i + 1, x, y, 1, 0)
      if (y + 1 < h) beside(i, i + w, x, y, 0, 1)
    }
  return { all, sharp }
}

/** How much each pixel is of each family: in full up to a border that is found, of both where one is lost. Adds up to 1. @param soft how far they run into each other there, pixels */
export function sharesOf(kernels: Kernels, { labels: { w, h, of }, kinds, found }: Families, soft: number): Field[] {
  return Array.from({ length: kinds }, (_, k) => {
    const share = field(w, h)
    mark(share.v, of, k)
    firm(share.v, blurred(kernels, share, soft).v, found.v)
    return share
  })
}

// loops in small functions of their own: they are compiled at once, and well

function mark(is: Float32Array, of: Uint8Array, k: number): void {
  for (let i = 0; i < of.length; i++) is[i] = of[i] === k ? 1 : 0
}

function firm(hard: Float32Array, lost: Float32Array, found: Float32Array): void {
  for (let i = 0; i < hard.length; i++) hard[i] = lost[i]! + min(1, 1.3 * found[i]!) * (hard[i]! - lost[i]!)
}
