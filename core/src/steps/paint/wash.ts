import { linearOfOklab, oklabOfLinear, rgbOfHex, type Triple } from '../../colour/oklab.ts'
import { srgbToLinear, transferTables } from '../../colour/srgb.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { insideOf } from '../../study/distance.ts'
import { at, between, blurred, doubled, field, halved, mapped, productOf, slopes, type Field } from '../../study/fields.ts'
import { calmed, merged, type Labels } from '../../study/regions.ts'
import { defineStep, type Laying, type Pic } from '../contract.ts'
import { keyOf } from '../line/hatching.ts'
import { chance } from '../line/strokes.ts'
import { angle, choice, colour, length, mm, number, palette, percent, seed, share } from '../params/index.ts'
import { addressOf } from '../picture.ts'
import { withPart } from './brushwork.ts'
import { familiesOf, sharesOf } from './colour-families.ts'
import { colourMasses, coloursOf, lightnessOf, type Colours } from './colours.ts'
import { boxes, chosenFor, pigmentOf, washes, type Pigment } from './pigments.ts'

// taken once: loops over planes look nothing up
const { ceil, max, min, round, sqrt } = Math

/** A wash: where it lies, and what it is made of, each a small picture of four floats a pixel. */
interface Glaze {
  shape: Float32Array
  tints: Float32Array
}

/** Where water may have run back into a wash: full-size pixels from the extent's corner. */
interface Bloom {
  x: number
  y: number
  radius: number
  /** Which way the water ran, of length 1. */
  rx: number
  ry: number
}

interface Washes {
  w: number
  h: number
  tw: number
  th: number
  glazes: Glaze[]
  /** How many of the last are small and crisp: the darks, and touches of colour before them. */
  crisp: number
  blooms: Bloom[]
}

interface Painting {
  glazes: number
  whites: number
  wetness: number
  tilt: number
  piece: number
  edges: number
  pigments: readonly Pigment[]
  key: number
  touches: number
  apart: number
}

/** Which share of a picture lies under each glaze but the first, from the second to the last darks. */
const SHARES = [0.62, 0.36, 0.2, 0.1]

/** The tone that a share of the picture lies below. */
function quantile({ v }: Field, cover: ArrayLike<number>, part: number): number {
  const counts = new Float64Array(512)
  let all = 0
  for (let i = 0; i < v.length; i++) {
    if (cover[i]! < 0.5) continue
    counts[min(511, max(0, round(v[i]! * 511)))]!++
    all++
  }
  let sum = 0
  for (let i = 0; i < 512; i++) {
    sum += counts[i]!
    if (sum >= part * all) return i / 511
  }
  return 1
}

/** How far weights reach of what is spread by them, and how much each counts: near if there is some, else from further away. */
const REACHES = [
  [1, 1],
  [3, 0.02],
  [12, 0.0004],
] as const

/** The weights themselves, spread as far as each reach. */
const weighing = (kernels: Kernels, weights: Field, sigma: number): Field[] => REACHES.map(([far]) => blurred(kernels, weights, far * sigma))

/** A field spread over all, by its mean round about where weights are. @param low the weights, by `weighing` */
function spread(kernels: Kernels, of: Field, weights: Field, sigma: number, low: readonly Field[]): Field {
  const product = field(of.w, of.h)
  for (let i = 0; i < product.v.length; i++) product.v[i] = of.v[i]! * weights.v[i]!
  const [p0, p1, p2] = REACHES.map(([far]) => blurred(kernels, product, far * sigma).v) as [Float32Array, Float32Array, Float32Array]
  const [q0, q1, q2] = low.map((f) => f.v) as [Float32Array, Float32Array, Float32Array]
  const [[, s0], [, s1], [, s2]] = REACHES
  for (let i = 0; i < p0.length; i++) {
    const top = s0 * p0[i]! + s1 * p1[i]! + s2 * p2[i]!
    product.v[i] = top / (1e-9 + s0 * q0[i]! + s1 * q1[i]! + s2 * q2[i]!)
  }
  return product
}

/** Fields of families put together, each where its family is. */
function together(of: readonly Field[], shares: readonly Field[]): Field {
  const { w, h } = of[0]!
  const out = field(w, h)
  of.forEach(({ v }, k) => addShare(out.v, v, shares[k]!.v))
  return out
}

function addShare(out: Float32Array, v: Float32Array, share: Float32Array): void {
  for (let i = 0; i < out.length; i++) out[i] = out[i]! + v[i]! * share[i]!
}

/** Where hardly anything of another colour is mixed in, or lies beside: what a family's own is taken from; of a sliver what there is. */
function pureOf(kernels: Kernels, part: Field): Field {
  const near = blurred(kernels, part, 1)
  for (let i = 0; i < near.v.length; i++) near.v[i] = between(near.v[i]!, 0.7, 1) + 1e-5 * part.v[i]!
  return near
}

/** A wash goes no further than to where another colour's begins. */
function upTo(d: Float32Array, border: Float32Array): void {
  for (let i = 0; i < d.length; i++) d[i] = min(d[i]!, border[i]!)
}

function atLeast(v: Float32Array, other: Float32Array): void {
  for (let i = 0; i < v.length; i++) v[i] = max(v[i]!, other[i]!)
}

/** How dry the brush is, once it is known where the wash lies. */
type Drying = (inside: ArrayLike<number>) => Field

/** The shape of a wash: calm, without crumbs, its borders as the photo finds or loses them. */
async function shapeOf(
  kernels: Kernels,
  inside: Uint8Array,
  w: number,
  h: number,
  p: Painting & { scale: number; least: number; sigma: number; dear: (i: number) => number; found: Field; border: Field | null; dry: Drying | null },
  pause: () => Promise<void>,
): Promise<{ shape: Float32Array; inside: Uint8Array }> {
  let labels: Labels = { w, h, of: inside }
  labels = await calmed(kernels, labels, 2, p.sigma, pause)
  await pause()
  labels = merged(labels, p.least, () => 1, p.dear)
  await pause()
  const d = blurred(kernels, insideOf(kernels, labels.of, w, h), 0.8)
  if (p.border) upTo(d.v, p.border.v)
  await pause()
  const a = (p.tilt * 3.141592653589793) / 180
  const shape = new Float32Array(w * h * 4)
  describe(shape, d, slopes(kernels, d), {
    ...p,
    dry: p.dry && p.dry(labels.of),
    tx: kernels.raw.cos(a),
    ty: -kernels.raw.sin(a),
    wet: 0.5 + p.wetness * 0.01 * max(w, h),
  })
  return { shape, inside: labels.of }
}

/** What is drawn by: how far inside its shape a place lies, how soft the border is there, how far downhill, how dry the brush. */
function describe(
  shape: Float32Array,
  d: Field,
  slope: { x: Field; y: Field },
  { found, dry, edges, scale, tx, ty, wet }: { found: Field; dry: Field | null; edges: number; scale: number; tx: number; ty: number; wet: number },
): void {
  const [sx, sy] = [slope.x.v, slope.y.v]
  for (let i = 0; i < d.v.length; i++) {
    const lost = 1 - between(found.v[i]!, 0.3 - 0.3 * edges, 0.62 - 0.5 * edges)
    const [x, y] = [sx[i]!, sy[i]!]
    const long = sqrt(x * x + y * y) || 1
    shape[i * 4] = d.v[i]! * scale
    shape[i * 4 + 1] = 1.2 + lost * wet * scale
    // the border lies downhill where its inside lies uphill
    shape[i * 4 + 2] = -(x * tx + y * ty) / long
    shape[i * 4 + 3] = dry ? dry.v[i]! : 0
  }
}

// loops in small functions of their own: they are compiled at once, and well

/** A field at another size. */
function scaled(of: Field, w: number, h: number): Field {
  const out = field(w, h)
  const across = of.w / w
  for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) out.v[y * w + x] = at(of, (x + 0.5) * across - 0.5, (y + 0.5) * across - 0.5)
  return out
}

function keepFeatures(broad: Float32Array, near: Float32Array, detail: Float32Array): void {
  for (let i = 0; i < broad.length; i++) broad[i] = broad[i]! + between(detail[i]!, 0.1, 0.4) * (near[i]! - broad[i]!)
}

/** Densities (natural logarithm) that the picture is to come to from pixel `from` on. */
function densities(
  [r, g, b]: readonly [Field, Field, Field],
  [tr, tg, tb]: readonly [Field, Field, Field],
  from: number,
  to: number,
  opened: number,
  { pow, log }: Kernels['raw'],
): void {
  const density = (v: number) => max(0, -log(min(1, max(0.015, v / 0.94))))
  for (let i = from; i < to; i++) {
    const lab = oklabOfLinear([srgbToLinear(r.v[i]!, pow), srgbToLinear(g.v[i]!, pow), srgbToLinear(b.v[i]!, pow)], pow)
    const l = opened === 1 ? lab[0] : pow(max(0, lab[0]), opened)
    const rgb = linearOfOklab([0.14 + 0.86 * l, lab[1] * 1.18, lab[2] * 1.18])
    tr.v[i] = density(rgb[0])
    tg.v[i] = density(rgb[1])
    tb.v[i] = density(rgb[2])
  }
}

/** How near to bare paper a place is: light, and without a colour of its own. */
function paleOf(tone: Field, [r, g, b]: readonly [Field, Field, Field]): Field {
  const out = field(tone.w, tone.h)
  for (let i = 0; i < out.v.length; i++) {
    const [x, y, z] = [r.v[i]!, g.v[i]!, b.v[i]!]
    out.v[i] = tone.v[i]! - 0.55 * (max(x, y, z) - min(x, y, z))
  }
  return out
}

/** Where a tone lies no higher than a limit, of what there is of the picture. */
function below({ v }: Field, limit: number, cover: ArrayLike<number>): Uint8Array {
  const out = new Uint8Array(v.length)
  for (let i = 0; i < out.length; i++) out[i] = cover[i]! >= 0.3 && v[i]! <= limit ? 1 : 0
  return out
}

/** Adds accents to darks: what is darker than round about, where the eye goes. */
function accents(darks: Uint8Array, crisp: Float32Array, tone: Float32Array, detail: Float32Array, limit: number, cover: ArrayLike<number>): void {
  for (let i = 0; i < darks.length; i++) if (cover[i]! >= 0.3 && crisp[i]! < tone[i]! - 0.1 && detail[i]! > 0.3 && crisp[i]! < limit) darks[i] = 1
}

function less(wanted: Field, laid: Field): Field {
  const out = field(wanted.w, wanted.h)
  for (let i = 0; i < out.v.length; i++) out.v[i] = wanted.v[i]! - laid.v[i]!
  return out
}

/**
 * Where colour is still wanted of small things: lips, irises, what the broad washes went over. Too much on one side of a border that strayed and too little on the other
 * are no such thing: they are taken together.
 * @param painted 1 where the first wash lies: what was left bare stays so
 */
function wantsTouch(
  kernels: Kernels,
  wanted: readonly Field[],
  laid: readonly Field[],
  sigma: number,
  detail: Field,
  painted: ArrayLike<number>,
  least: number,
): Uint8Array {
  const { w, h } = detail
  const [r, g, b] = wanted.map((f, c) => blurred(kernels, less(f, laid[c]!), sigma).v) as [Float32Array, Float32Array, Float32Array]
  const tw = wanted[0]!.w
  const out = new Uint8Array(w * h)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x
      const t = (y >> 1) * tw + (x >> 1)
      if (painted[i] === 1 && detail.v[i]! > 0.2 && max(r[t]!, g[t]!, b[t]!) > least) out[i] = 1
    }
  return out
}

/** Paper that a wash leaves bare. */
function bareOf(inside: ArrayLike<number>, w: number, h: number): Field {
  const out = field(w, h)
  for (let i = 0; i < out.v.length; i++) out.v[i] = 1 - inside[i]!
  return out
}

/** The brush runs dry only near paper that is left bare, and not over small things. */
function spared(dry: Float32Array, bare: Float32Array, detail: Float32Array): void {
  for (let i = 0; i < dry.length; i++) dry[i] = dry[i]! * min(1, 4 * bare[i]!) * (1 - between(detail[i]!, 0.1, 0.3))
}

/** Borders of what is small: crisp, the more so where the eye goes. */
function crisper(found: Field, detail: Field): Field {
  const out = field(found.w, found.h)
  for (let i = 0; i < out.v.length; i++) out.v[i] = max(found.v[i]!, 0.6 + detail.v[i]! * 0.5)
  return out
}

/** How dry the brush runs towards the lights. */
function dryness(pale: Field, found: Field, limit: number, dry: number): Field {
  const out = field(pale.w, pale.h)
  for (let i = 0; i < out.v.length; i++) out.v[i] = dry * between(pale.v[i]!, limit - 0.16, limit) * (1 - found.v[i]!)
  return out
}

/** Where a wash is to be seen by itself: all of it, but what the next lies over hardly counts. */
function alone(inside: Uint8Array, next: Uint8Array | null, w: number, h: number): Field {
  const out = field(w, h)
  for (let i = 0; i < out.v.length; i++) out.v[i] = inside[i] !== 1 ? 0 : next && next[i] === 1 ? 0.02 : 1
  return out
}

function stillWanted(wanted: Field, laid: Field): Field {
  const out = field(wanted.w, wanted.h)
  for (let i = 0; i < out.v.length; i++) out.v[i] = max(0, wanted.v[i]! - laid.v[i]!)
  return out
}

/** No wash is deeper than what the place may come to. */
function noDeeper(v: Float32Array, wants: Float32Array): void {
  for (let i = 0; i < v.length; i++) v[i] = min(v[i]!, 1.12 * wants[i]! + 0.02)
}

/** The same, of what is its own: what another colour comes to beside it is not looked at. */
function noDeeperOf(v: Float32Array, wants: Float32Array, part: Float32Array): void {
  for (let i = 0; i < v.length; i++) if (part[i]! >= 0.5) v[i] = min(v[i]!, 1.12 * wants[i]! + 0.02)
}

function lay(laid: Float32Array, there: Float32Array, tints: Float32Array, c: number): void {
  for (let i = 0; i < laid.length; i++) laid[i] = laid[i]! + there[i]! * tints[i * 4 + c]!
}

async function washesOf({ study, kernels, facts: colours, extent, pause, progress }: Laying<Colours>, p: Painting): Promise<Washes> {
  const { w, h, cover } = colours
  const { raw } = kernels
  const scale = extent.w / w
  const unit = max(w, h) / 1000
  const piece = max(1.5, p.piece / scale)
  const broad = await colourMasses(kernels, colours, max(1.5, 0.55 * piece), pause)
  const fine = await colourMasses(kernels, colours, max(0.8, 1.4 * unit), pause)
  const strong = scaled(study.edges, w, h)
  const detail = scaled(study.detail, w, h)
  await pause()
  // features keep their shapes; everything else is summed up
  const near = await colourMasses(kernels, colours, max(0.8, 0.12 * piece), pause)
  for (let c = 0; c < 3; c++) keepFeatures(broad[c]!.v, near[c]!.v, detail.v)
  progress(0.25)
  const tone = lightnessOf(broad)
  const crisp = lightnessOf(fine)
  const opened = keyOf(tone, { w, h, v: cover }, p.key, raw)
  // densities that the picture is to come to, keyed: light, and purer than the photo
  const target = [field(w, h), field(w, h), field(w, h)] as const
  for (let y = 0; y < h; y += 32) {
    await pause()
    densities(broad, target, y * w, min(h, y + 32) * w, opened, raw)
  }
  progress(0.4)
  // where borders are found
  const found = blurred(kernels, strong, max(1, 3 * unit))
  for (let i = 0; i < w * h; i++) found.v[i] = min(1, found.v[i]! * 1.9)
  await pause()
  // washes of unlike colours keep to themselves; half the size is enough for it
  const [half, long] = [piece / 2, max(w, h) / 2]
  const families =
    p.apart > 0
      ? await familiesOf(
          kernels,
          broad.map((f) => halved(kernels, f)) as [Field, Field, Field],
          halved(kernels, { w, h, v: cover }).v,
          { unlike: 0.75 - 0.6 * p.apart, sigma: max(0.7, 0.14 * half), least: 1.6 * half * half, reach: max(1, 0.012 * long), gap: 0.006 * long, deal: 81 },
          pause,
        )
      : null
  const shares = families && sharesOf(kernels, families, max(1, 0.012 * long))
  const parts = shares?.map((s) => halved(kernels, s))
  const own = shares && parts && { shares, parts, pure: parts.map((part) => pureOf(kernels, part)) }
  const meets =
    families &&
    doubled(
      kernels,
      mapped(families.border, (v) => 2 * v),
      w,
      h,
    )
  if (families) atLeast(found.v, doubled(kernels, families.found, w, h).v)
  await pause()
  const count = p.glazes
  // bare paper stands for lights that have no colour of their own
  const pale = paleOf(tone, broad)
  const white = max(0.84 - 0.3 * p.whites, quantile(pale, cover, 1 - 0.35 * p.whites))
  const limits = [white, ...SHARES.slice(0, count - 1).map((s) => quantile(tone, cover, s))]
  // the last are the darks, whatever the number of washes
  limits[count - 1] = quantile(crisp, cover, 0.09)
  const wash = washes(p.pigments, raw)
  const [tw, th] = [ceil(w / 2), ceil(h / 2)]
  const wanted = target.map((t) => halved(kernels, t))
  const laid = [field(tw, th), field(tw, th), field(tw, th)] as const
  const glazes: Glaze[] = []
  const masks: Uint8Array[] = []
  for (let k = 0; k < count - 1; k++) masks.push(below(k === 0 ? pale : tone, limits[k]!, cover))
  const darks = below(crisp, limits[count - 1]!, cover)
  accents(darks, crisp.v, tone.v, detail.v, limits[1]!, cover)
  masks.push(darks)
  const crispest = crisper(found, detail)
  /** What an area still wants, spread over it. Colours are broad: half the size is enough for them. */
  const spreadOver = async (rare: Field, wide: number): Promise<Field[]> => {
    const low = weighing(kernels, rare, wide / 2)
    const out: Field[] = []
    for (let c = 0; c < 3; c++) {
      const wants = stillWanted(wanted[c]!, laid[c]!)
      const s = spread(kernels, wants, rare, wide / 2, low)
      await pause()
      noDeeper(s.v, wants.v)
      out.push(blurred(kernels, s, max(0.6, 0.25 * wide)))
    }
    return out
  }
  /** The same, each family's by itself, at half the size once more. */
  const spreadApart = async (rare: Field, wide: number, { shares, parts, pure }: Record<'shares' | 'parts' | 'pure', Field[]>): Promise<Field[]> => {
    const rarer = halved(kernels, rare)
    const each = pure.map((part) => ({ ...part, v: productOf(rarer.v, part.v) }))
    const lows = each.map((weights) => weighing(kernels, weights, wide / 4))
    const out: Field[] = []
    for (let c = 0; c < 3; c++) {
      const wants = halved(kernels, stillWanted(wanted[c]!, laid[c]!))
      const fields = each.map((weights, k) => {
        const s = spread(kernels, wants, weights, wide / 4, lows[k]!)
        noDeeperOf(s.v, wants.v, parts[k]!.v)
        return doubled(kernels, blurred(kernels, s, max(0.6, 0.12 * wide)), tw, th)
      })
      await pause()
      out.push(together(fields, shares))
    }
    return out
  }
  /** Lays a wash over what is there. `small`: it is crisp and its colour near, as of the darks. `dear`: how much smaller its pieces may be where the eye goes. */
  const glaze = async (mask: Uint8Array, next: Uint8Array | null, of: { small: boolean; least: number; dear: number; wide: number; dry: Drying | null }) => {
    const sigma = of.small ? max(0.7, 0.05 * piece) : max(0.8, 0.14 * piece)
    const dear = (i: number) => 1 + of.dear * between(detail.v[i]!, 0.15, 0.5)
    const border = of.small ? crispest : found
    const { shape, inside } = await shapeOf(
      kernels,
      mask,
      w,
      h,
      { ...p, scale, least: of.least * piece * piece, sigma, dear, found: border, border: of.small ? null : meets, dry: of.dry },
      pause,
    )
    // its colour is what the lights of its area still want, and one wash runs on under the darks
    await pause()
    const weights = alone(inside, next, w, h)
    const tints = new Float32Array(tw * th * 4)
    const wide = of.wide * max(w, h)
    const rare = halved(kernels, weights)
    const spreads = own && !of.small ? await spreadApart(rare, wide, own) : await spreadOver(rare, wide)
    wash(spreads[0]!.v, spreads[1]!.v, spreads[2]!.v, tints)
    await pause()
    const there = halved(kernels, { w, h, v: new Float32Array(inside) })
    for (let c = 0; c < 3; c++) lay(laid[c]!.v, there.v, tints, c)
    glazes.push({ shape, tints })
    await pause()
    return inside
  }
  /** In the lights the brush runs dry towards the edge of the wash. */
  const drying: Drying = (inside) => {
    const dry = blurred(kernels, dryness(pale, found, limits[0]!, 1 - p.wetness), max(1, 0.3 * piece))
    if (p.touches > 0) spared(dry.v, blurred(kernels, bareOf(inside, w, h), max(1, 0.5 * piece)).v, detail.v)
    return dry
  }
  let painted: ArrayLike<number> = masks[0]!
  for (let k = 0; k < count - 1; k++) {
    progress(0.4 + (0.6 * k) / count)
    const first = k === 0
    const inside = await glaze(masks[k]!, masks[k + 1]!, {
      small: false,
      least: first ? 1.6 : 0.9,
      dear: first ? 0 : 5,
      wide: first ? 0.022 : 0.014,
      dry: first ? drying : null,
    })
    if (first) painted = inside
  }
  progress(1 - 0.6 / count)
  // touches of colour come before the darks, where what is laid by then leaves something to be wanted
  const touches = p.touches > 0 ? wantsTouch(kernels, wanted, laid, max(0.6, 0.05 * piece), detail, painted, 0.36 - 0.3 * p.touches) : null
  if (touches?.includes(1)) await glaze(touches, darks, { small: true, least: 0.35, dear: 20, wide: 0.003, dry: null })
  const crispOnes = glazes.length - count + 2
  await glaze(darks, null, { small: true, least: 0.35, dear: 14, wide: 0.004, dry: null })
  return { w, h, tw, th, glazes, crisp: crispOnes, blooms: bloomsIn(glazes[0]!, { w, h }, detail, { scale, tilt: p.tilt }, raw) }
}

/** Tries to find room for a bloom, and how many are kept at most. */
const TRIES = 400
const MOST_BLOOMS = 10

/** Places for blooms: well inside the first wash, where there is pigment to push and nothing fine, none near another. */
function bloomsIn(
  { shape, tints }: Glaze,
  { w, h }: { w: number; h: number },
  detail: Field,
  { scale, tilt }: { scale: number; tilt: number },
  { cos, sin }: Kernels['raw'],
): Bloom[] {
  const found: Bloom[] = []
  const tw = ceil(w / 2)
  for (let k = 0; k < TRIES && found.length < MOST_BLOOMS; k++) {
    const [x, y] = [chance(k, 0, 71) * w, chance(k, 1, 71) * h]
    const radius = (0.022 + 0.05 * chance(k, 2, 71) ** 2) * max(w, h)
    const [i, j] = [min(w - 1, Math.floor(x)), min(h - 1, Math.floor(y))]
    const t = (j >> 1) * tw + (i >> 1)
    const density = (tints[t * 4]! + tints[t * 4 + 1]! + tints[t * 4 + 2]!) / 3
    const fine = max(...[0, -1, 1].flatMap((a) => [0, -1, 1].map((b) => at(detail, x + a * radius, y + b * radius))))
    const apart = (b: Bloom) => sqrt((b.x - x * scale) ** 2 + (b.y - y * scale) ** 2) < 2.5 * (b.radius + radius * scale)
    if (shape[(j * w + i) * 4]! < 0.45 * radius * scale || density < 0.08 || fine > 0.2 || found.some(apart)) continue
    // downhill, more or less
    const way = (-(tilt + 110 * (chance(k, 3, 71) - 0.5)) * 3.141592653589793) / 180
    found.push({ x: x * scale, y: y * scale, radius: radius * scale, rx: cos(way), ry: sin(way) })
  }
  return found
}

const BOXES = ['photo', 'landscape', 'portrait', 'earths', 'clear'] as const

export const wash = defineStep({
  id: 'wash',
  version: 4,
  // the first had no blooms, the second no touches, the third washes of several colours
  migrate: (params, from) => ({
    params: { ...params, ...(from < 2 ? { blooms: 0 } : {}), ...(from < 3 ? { touches: 0 } : {}), ...(from < 4 ? { apart: 0 } : {}) },
  }),
  title: 'Wash',
  group: 'paint',
  kind: 'planned',
  onPaper: true,
  help: 'Watercolour in flat glazes from light to dark: whites left bare, borders found and lost, pigment gathered where a wash dried and settled in the paper.',
  method:
    'Glazes of pigment by the theory of Kubelka and Munk (1948), amounts by non-negative least squares; after ideas of Curtis et al. 1997 and Bousseau et al. 2006; shapes over masses by rolling guidance (Zhang et al. 2014), distances by Felzenszwalb and Huttenlocher (2012)',
  params: {
    box: choice({
      title: 'Pigments',
      default: 'photo',
      options: [
        { value: 'photo', title: 'By the photo' },
        { value: 'landscape', title: 'Landscape' },
        { value: 'portrait', title: 'Portrait' },
        { value: 'earths', title: 'Earths' },
        { value: 'clear', title: 'Clear stains' },
      ],
      help: 'What is squeezed out: chosen from the shelf by the photo, or a set; earths and ultramarine settle in the paper, clear ones stain it.',
    }),
    count: number({
      title: 'How many',
      default: 5,
      min: 1,
      max: 6,
      step: 1,
      when: { param: 'box', is: ['photo'] },
      help: 'How many pigments are chosen by the photo.',
    }),
    own: palette({ title: 'Own pigments', default: [], help: 'Pigments as a full wash of each looks on white. None: the set above.' }),
    glazes: number({ title: 'Glazes', default: 4, min: 2, max: 5, step: 1, help: 'How many washes lie over each other, from light to the last darks.' }),
    whites: share({ title: 'Whites reserved', default: 0.4, help: 'How much of the lights is left as bare paper.' }),
    edges: share({ title: 'Found edges', default: 0.55, help: 'How many borders are found and dry crisp; the others are lost into wet paper.' }),
    wetness: share({
      title: 'Wetness',
      default: 0.45,
      help: 'How wet paper and brush are: colours run into each other, or break on the tooth where the brush runs dry.',
    }),
    tilt: angle({ title: 'Tilt of the board', default: -75, min: -180, max: 180, help: 'Which way the water runs, from level: pigment gathers there.' }),
    rims: share({ title: 'Drying rims', default: 0.5, help: 'How much pigment gathers at the rims of washes as they dry.' }),
    brush: length({
      title: 'Brush',
      default: percent(2),
      min: 2,
      max: 3000,
      feel: 'log',
      help: 'How broad the brush is: nothing smaller is made a shape of, but the last darks.',
    }),
    stray: length({ title: 'Leaving the line', default: percent(0.35), min: 0, max: 400, feel: 'log', help: 'How far colour wanders over its line.' }),
    flow: share({ title: 'Turbulence', default: 0.4, help: 'How unevenly the water carries the pigment.' }),
    blooms: share({
      title: 'Blooms',
      default: 0.2,
      help: 'How often water runs back into a wash that dries, and pushes its pigment to a crinkled rim.',
    }),
    tooth: length({
      title: 'Tooth',
      default: mm(0.5),
      min: 0.5,
      max: 200,
      feel: 'log',
      mark: true,
      help: 'How far apart the hills of the paper stand: hot-pressed 0.2 mm, cold-pressed 0.6 mm, rough 1 mm.',
    }),
    touches: share({
      title: 'Last touches',
      default: 0.6,
      help: 'How readily a touch of colour is laid where the eye goes, on lips and other small things that the broad washes went over; brushes run dry elsewhere.',
    }),
    apart: share({
      title: 'Colours apart',
      default: 0.6,
      help: 'How readily an area of another colour is a wash of its own, up to where the next begins, however alike they are in tone; 0: washes run on.',
    }),
    key: share({ title: 'Key', default: 0.5, help: 'How much lighter than the photo the painting is.' }),
    paper: colour({ title: 'Paper', default: '#faf7f0', help: 'The colour of the paper, which is the white.' }),
    seed: seed({ default: 9, help: 'The same washes, dried another day.' }),
  },
  coarsest: () => 0,
  drawnBy: ['rims', 'stray', 'flow', 'blooms', 'tooth', 'paper', 'seed'],
  goesBy: ['masses', 'edges', 'detail'],
  analysedBy: [],
  analyse: coloursOf,
  lay: (work: Laying<Colours>, p): Promise<Washes> => {
    const { pow, log, exp } = work.kernels.raw
    const pigments =
      p.own.length > 0
        ? p.own.slice(0, 8).map((hex) => pigmentOf(hex, pow, log))
        : p.box === 'photo'
          ? chosenFor(samplesOf(work.facts, pow, log), round(p.count), exp, log)
          : boxes[p.box as Exclude<(typeof BOXES)[number], 'photo'>]
    return washesOf(work, {
      glazes: round(p.glazes),
      whites: p.whites,
      wetness: p.wetness,
      tilt: p.tilt,
      piece: p.brush,
      edges: p.edges,
      pigments,
      key: p.key,
      touches: p.touches,
      apart: p.apart,
    })
  },
  draw: (work, p) => drawWashes(work.kernels, work.plan, work, p),
})

/** Densities of places spread over a picture, that its pigments are chosen by. */
function samplesOf({ w, h, rgb, cover }: Colours, pow: Kernels['raw']['pow'], log: Kernels['raw']['log']): Triple[] {
  const out: Triple[] = []
  const every = max(1, round(sqrt((w * h) / 220)))
  for (let y = every >> 1; y < h; y += every)
    for (let x = every >> 1; x < w; x += every) {
      const i = y * w + x
      if (cover[i]! < 0.5) continue
      const d = [0, 1, 2].map((c) => -log(max(0.03, srgbToLinear(rgb[c as 0]![i]!, pow)))) as Triple
      // hue counts more than depth: greys are mixed from any
      const [least, most] = [min(...d), max(...d)]
      const weight = 0.3 + min(1, most - least)
      out.push(d.map((v) => weight * (v - 0.6 * least)) as Triple)
    }
  return out.length > 0 ? out : [[0.5, 0.5, 0.5]]
}

/** The glaze that blooms come into as it dries, with what lies under it. */
const BLOOM_AFTER = 1

/** Which of the places have a bloom: so many of them, as they are dealt. */
function bloomed(places: readonly Bloom[], often: number, deal: number): Bloom[] {
  const luck = places.map((b, i) => ({ b, by: chance(i, 5, deal) }))
  luck.sort((p, q) => p.by - q.by)
  return luck.slice(0, round(often * places.length)).map(({ b }) => b)
}

/** Draws washes over each other on paper. */
function drawWashes(
  kernels: Kernels,
  plan: Washes,
  { input, output, level, extent }: { input: Pic; output: Pic; level: number; extent: { x: number; y: number; w: number } },
  /** Lengths in pixels of the level. */
  p: { rims: number; stray: number; flow: number; blooms: number; wetness: number; tooth: number; paper: string; seed: number },
): void {
  const { region } = output
  const { w, h } = region
  const { raw } = kernels
  const scale = 1 / 2 ** level
  const { encode } = transferTables(kernels)
  const long = scale * max(extent.w, (extent.w * plan.h) / plan.w)
  const rim = max(1.5 * scale, 0.002 * long)
  const tooth = 1 / max(1, p.tooth)
  // the paper's hollows, which every wash finds again: rows of whole fours
  const deep = ((w + 3) & ~3) * 4
  kernels.scratch(w * h * 16 + 16 + deep * h, (acc) => {
    const depths = acc + w * h * 16 + 16
    raw.toothDepths(depths, deep, w, h, region.x, region.y, tooth, p.seed)
    kernels.f32(acc, w * h * 4).fill(0)
    const [gx, gy] = [extent.x * scale, extent.y * scale]
    const at = { x: region.x - gx, y: region.y - gy, w, h }
    const [step, tintStep] = [plan.w / (extent.w * scale), plan.w / 2 / (extent.w * scale)]
    plan.glazes.forEach((g, k) => {
      const last = k >= plan.glazes.length - plan.crisp
      const wander = p.stray * (last ? 0.35 : 1)
      const [rims, flow] = [p.rims * (last ? 0.8 : 1.5), p.flow * (last ? 0.5 : 1)]
      const [waves, clouds] = [1 / max(8 * scale, 0.011 * long), 1 / (0.05 * long)]
      const deal = p.seed + 977 * k
      withPart(kernels, { w: plan.w, h: plan.h, values: g.shape }, at, step, (shape, shapeRow) =>
        withPart(kernels, { w: plan.tw, h: plan.th, values: g.tints }, at, tintStep, (tints, tintRow) => {
          const [s, t] = [plan, { w: plan.tw, h: plan.th }]
          // prettier-ignore
          raw.layGlaze(
            acc, w * 16, w, h, region.x, region.y, shape, shapeRow, s.w, s.h, step, tints, tintRow, t.w, t.h, tintStep, gx, gy, scale,
            wander, waves, rim, rims, flow, clouds, depths, deep, 0.3, deal,
          )
        }),
      )
      // water runs back while the first washes dry; what is laid later lies over it
      if (k === BLOOM_AFTER || (last && k < BLOOM_AFTER))
        for (const { x, y, radius, rx, ry } of bloomed(plan.blooms, p.blooms, p.seed))
          raw.bloomWash(acc, w * 16, w, h, region.x, region.y, gx + x * scale, gy + y * scale, radius * scale, rx, ry, 0.45 + 0.5 * p.wetness, p.seed)
    })
    const ground = acc + w * h * 16
    kernels.f32(ground, 4).set([...rgbOfHex(p.paper).map((v) => srgbToLinear(v, raw.pow)), 0])
    // prettier-ignore
    raw.glazesOnPaper(
      acc, w * 16, addressOf(input, region), input.stride, output.ptr, output.stride, w, h, region.x, region.y, ground, encode, depths, deep, tooth, 0.035, p.seed,
    )
  })
}
