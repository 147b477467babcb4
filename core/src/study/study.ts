import type { Region } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { between, blurred, doubled, field, halved, mapped, productOf, slopes, type Field } from './fields.ts'
import { massesOf } from './masses.ts'

// taken once: loops over planes look nothing up
const { abs, max, min, round, sqrt } = Math

/**
 * What an illustrator sees in a photo before the first mark: planes of one size, each over the whole picture. Computed once for an input, whatever technique asks.
 * Sizes inside go by the picture's long side, so that a small and a large photo of the same thing are seen alike.
 */
export interface Study {
  w: number
  h: number
  /** Full-size pixels a pixel of the study, and the place of its upper left corner. */
  scale: number
  x: number
  y: number
  /** Pixels of the study that a thousandth of the long side takes. */
  unit: number
  /** Lightness 0…1 as displayed, what is clear counting as white. */
  tone: Field
  /** How much of a picture there is, 0…1. */
  cover: Field
  /** Few large values with sharp borders: fine (0.3 % of the long side) and broad (1 %). */
  fine: Field
  broad: Field
  /** Of a picture with clear parts: the same as the picture would go on beyond its silhouette, so that no white band lies along it, and it is no detail. */
  carried?: Planes
  /** Direction of the forms as a vector at twice its angle (x right, y down); its length is how decided they are, 0…1. */
  flowX: Field
  flowY: Field
  /** 0 lost … 1 found. */
  edges: Field
  /** 0 … 1: how sharp the photo is there. */
  focus: Field
  /** 0 … 1: where fine marks belong: strong, rare edges in focus. */
  detail: Field
  /** 0 the subject … 1 the ground behind it: a guess. */
  ground: Field
  /** Deviation of the photo's noise, lightness. */
  noise: number
  /** What hands have painted over it, where a technique goes by that besides: edges −1 lost … 1 found, and ways that were combed. */
  painted?: { edges: Field | null; comb: { x: Field; y: Field; cover: Field } | null }
}

/** Lightness, its masses, and where fine marks belong. */
export type Planes = Pick<Study, 'tone' | 'fine' | 'broad' | 'detail'>

/** How far round about what is clear is filled from, of the long side. */
const FILL = 0.02

/** A study by the planes that go on beyond a silhouette; the same study where nothing is clear. */
export const carriedOn = (study: Study): Study => (study.carried ? { ...study, ...study.carried } : study)

/**
 * Planes of a picture with clear parts, filled from round about: `over` holds values times cover. White where nothing is near.
 * @param long pixels of the picture's long side
 */
export function carryOn(kernels: Kernels, cover: Field, over: readonly Float32Array[], long: number): void {
  const { w, h } = cover
  const sigma = max(2, FILL * long)
  const near = blurred(kernels, cover, sigma)
  for (const plane of over) {
    const spread = blurred(kernels, { w, h, v: plane }, sigma)
    for (let i = 0; i < plane.length; i++) {
      const round = near.v[i]! > 1e-4 ? spread.v[i]! / near.v[i]! : 1
      plane[i] = plane[i]! + (1 - cover.v[i]!) * round
    }
  }
}

/** The whole of a picture at some level, as kernels hold it: RGBA16. */
export interface Studied {
  input: { ptr: number; stride: number; region: Region }
  kernels: Kernels
  level: number
}

/** About how often a study lets other work in. */
const PAUSES = 90

/** Deviation of the noise of a plane (Immerkær, "Fast noise variance estimation", CVIU 64, 1996). */
export function noiseOf({ w, h, v }: Field): number {
  if (w < 3 || h < 3) return 0
  let sum = 0
  for (let y = 1; y < h - 1; y++) {
    for (let x = 1; x < w - 1; x++) {
      const i = y * w + x
      const d = v[i - w - 1]! - 2 * v[i - w]! + v[i - w + 1]! - 2 * v[i - 1]! + 4 * v[i]! - 2 * v[i + 1]! + v[i + w - 1]! - 2 * v[i + w]! + v[i + w + 1]!
      sum += d < 0 ? -d : d
    }
  }
  return (1.2533141373155001 * sum) / (6 * (w - 2) * (h - 2))
}

/**
 * Directions along the forms, as vectors at twice their angle, out of a smoothed structure tensor (Di Zenzo 1986): by the forms near, and where there are none by those
 * round about.
 */
async function flowOf(kernels: Kernels, slope: { x: Field; y: Field }, unit: number, hiss: number, pause: () => Promise<void>): Promise<[Field, Field]> {
  const { w, h } = slope.x
  const tensor: Field[] = []
  for (const [a, b] of [
    [slope.x.v, slope.x.v],
    [slope.x.v, slope.y.v],
    [slope.y.v, slope.y.v],
  ] as const) {
    await pause()
    const near = blurred(kernels, { w, h, v: productOf(a, b) }, max(1, 5 * unit))
    await pause()
    const far = doubled(kernels, blurred(kernels, halved(kernels, near), 14 * unit), w, h)
    await pause()
    addTo(near.v, far.v, 0.12)
    tensor.push(near)
  }
  alongEdges(tensor[0]!.v, tensor[1]!.v, tensor[2]!.v, hiss)
  return [tensor[0]!, tensor[1]!]
}

// loops in small functions of their own: they are compiled at once, and well

function addTo(v: Float32Array, more: Float32Array, by: number): void {
  for (let i = 0; i < v.length; i++) v[i] = v[i]! + by * more[i]!
}

/** Turns a tensor into the direction along an edge, not across it, over its first two planes. */
function alongEdges(xx: Float32Array, xy: Float32Array, yy: Float32Array, hiss: number): void {
  for (let i = 0; i < xx.length; i++) {
    const all = xx[i]! + yy[i]! + 2 * hiss
    const u = (yy[i]! - xx[i]!) / all
    xy[i] = (-2 * xy[i]!) / all
    xx[i] = u
  }
}

/** How found edges are, out of the slopes of the masses, and the step over so many pixels. */
function foundBy(x: Float32Array, y: Float32Array, breadth: number): Float32Array {
  const out = new Float32Array(x.length)
  for (let i = 0; i < out.length; i++) out[i] = between(sqrt(x[i]! * x[i]! + y[i]! * y[i]!) * breadth, 0.035, 0.16)
  return out
}

/** Squares of slopes less what noise adds to them, and their lengths. */
function steepness(x: Float32Array, y: Float32Array, hiss: number): [squares: Float32Array, lengths: Float32Array] {
  const squares = new Float32Array(x.length)
  const lengths = new Float32Array(x.length)
  for (let i = 0; i < squares.length; i++) {
    const square = x[i]! * x[i]! + y[i]! * y[i]!
    squares[i] = max(0, square - 4 * hiss)
    lengths[i] = sqrt(square)
  }
  return [squares, lengths]
}

/** Squares of slopes. */
function squaresOf(x: Float32Array, y: Float32Array): Float32Array {
  const out = new Float32Array(x.length)
  for (let i = 0; i < out.length; i++) out[i] = x[i]! * x[i]! + y[i]! * y[i]!
  return out
}

/** Where fine marks belong: what is strong where all around is quieter. */
function detailOf(strong: Field, around: Field, focus: Field, unit: number): Field {
  const out = field(strong.w, strong.h)
  const [to, near, far, sharp] = [out.v, strong.v, around.v, focus.v]
  for (let i = 0; i < to.length; i++) {
    const v = near[i]!
    to[i] = between(v / (far[i]! + 0.25 * v + 0.004 / (0.5 + unit)), 0.6, 1.7) * (0.25 + 0.75 * sharp[i]!)
  }
  return out
}

/** How sharp a picture is: how much steeper its edges are through a fine glass than through a coarse one; where there are none, as those round about. */
function focusOf(kernels: Kernels, steep: Field, gentle: Field, unit: number): Field {
  const weighed = field(steep.w, steep.h)
  for (let i = 0; i < weighed.v.length; i++) weighed.v[i] = between(steep.v[i]! / (gentle.v[i]! + 1e-6), 1.25, 2.3) * gentle.v[i]!
  const [spread, weights] = [blurred(kernels, weighed, 18 * unit), blurred(kernels, gentle, 18 * unit)]
  for (let i = 0; i < weighed.v.length; i++) spread.v[i] = spread.v[i]! / (weights.v[i]! + 1e-7)
  return spread
}

/** What is behind the subject: blurred, quiet, far from the middle, and of the colours that the border has. A guess. */
function groundOf(kernels: Kernels, p: { tone: Field; cover: Field; red: Field; blue: Field }, focus: Field, strong: Field, unit: number): Field {
  const { w, h } = p.tone
  const [tone, red, blue] = [p.tone.v, p.red.v, p.blue.v]
  const frame = max(1, round(0.06 * min(w, h)))
  let [n, mt, mr, mb] = [0, 0, 0, 0]
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      if (y >= frame && y < h - frame && x >= frame && x < w - frame) continue
      const i = y * w + x
      n++
      mt += tone[i]!
      mr += red[i]!
      mb += blue[i]!
    }
  const [unlike, sharp] = [field(w, h), field(w, h)]
  for (let i = 0; i < unlike.v.length; i++) {
    unlike.v[i] = min(1, abs(tone[i]! - mt / n) + abs(red[i]! - mr / n) + abs(blue[i]! - mb / n)) * p.cover.v[i]!
    sharp.v[i] = focus.v[i]! * min(1, strong.v[i]! * (20 + 80 * unit))
  }
  const [far, near] = [blurred(kernels, unlike, 15 * unit), blurred(kernels, sharp, 15 * unit)]
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x
      const dx = (2 * x) / w - 1
      const dy = (2 * y) / h - 1
      const middle = max(0, 1 - (dx * dx + dy * dy) * 0.6)
      far.v[i] = 1 - between((0.45 * far.v[i]! + 0.6 * near.v[i]!) * (0.4 + 0.6 * middle), 0.06, 0.34)
    }
  return far
}

/** Lightness and cover of a picture. */
function readPicture({ input, kernels }: Studied): { tone: Field; cover: Field; red: Field; blue: Field; clear: boolean } {
  const { w, h } = input.region
  const [tone, cover, red, blue] = [field(w, h), field(w, h), field(w, h), field(w, h)]
  let clear = false
  for (let y = 0; y < h; y++) {
    const row = kernels.u16(input.ptr + y * input.stride, w * 4)
    for (let x = 0; x < w; x++) {
      const r = row[x * 4]!
      const g = row[x * 4 + 1]!
      const b = row[x * 4 + 2]!
      const a = row[x * 4 + 3]! / 65535
      const i = y * w + x
      tone.v[i] = ((0.2126 * r + 0.7152 * g + 0.0722 * b) / 65535) * a + 1 - a
      cover.v[i] = a
      if (a < 1) clear = true
      red.v[i] = ((r - g) / 65535) * a
      blue.v[i] = ((b - g) / 65535) * a
    }
  }
  return { tone, cover, red, blue, clear }
}

/** Lightness as the picture would go on beyond its silhouette. */
function carriedTone(kernels: Kernels, tone: Field, cover: Field): Field {
  const over = mapped(tone, (v, i) => v - 1 + cover.v[i]!)
  carryOn(kernels, cover, [over.v], max(tone.w, tone.h))
  return over
}

/** How sharp a picture is, and where fine marks belong, in planes of half its size: both are smooth by themselves. */
async function finenessOf(
  tone: Field,
  slope: { x: Field; y: Field },
  { kernels, unit, calm, hiss, pause }: { kernels: Kernels; unit: number; calm: number; hiss: number; pause: () => Promise<void> },
): Promise<{ focus: Field; strong: Field; detail: Field }> {
  const { w, h } = tone
  const [squares, lengths] = steepness(slope.x.v, slope.y.v, hiss)
  await pause()
  const [steep, length] = [halved(kernels, { w, h, v: squares }), halved(kernels, { w, h, v: lengths })]
  await pause()
  const half = unit / 2
  const coarse = slopes(kernels, blurred(kernels, tone, 3 * calm))
  await pause()
  const gentle = blurred(kernels, halved(kernels, { w, h, v: squaresOf(coarse.x.v, coarse.y.v) }), 6 * half)
  await pause()
  const focus = focusOf(kernels, blurred(kernels, steep, 6 * half), gentle, half)
  await pause()
  // detail: strong where all around is quieter
  const strong = blurred(kernels, length, 6 * half)
  const around = blurred(kernels, strong, 45 * half)
  await pause()
  const detail = detailOf(strong, around, focus, unit)
  await pause()
  return { focus, strong, detail }
}

/**
 * Studies a picture.
 * @param work the whole picture at a size whose long side has at most 1536 pixels
 * @throws what `pause` throws where the work is no longer wanted
 */
export async function studyOf(work: Studied & { pause: () => Promise<void>; progress?: (share: number) => void }): Promise<Study> {
  const { level, input, kernels } = work
  const { tone, cover, red, blue, clear } = readPicture(work)
  let pauses = 0
  // most of it is done twice where a picture goes on beyond its silhouette
  const expected = clear ? 2 * PAUSES : PAUSES
  const pause = () => {
    work.progress?.(min(1, ++pauses / expected))
    return work.pause()
  }
  const { w, h } = tone
  const unit = max(w, h) / 1000
  await pause()
  const noise = noiseOf(tone)
  await pause()
  const massesIn = async (of: Field) => ({
    fine: await massesOf(kernels, of, max(0.7, 2.4 * unit), pause),
    broad: await massesOf(kernels, of, max(1, 8 * unit), pause),
  })
  const { fine, broad } = await massesIn(tone)
  await pause()

  // direction: near forms, and where there are none those round about
  const calm = max(0.6, 1.3 * unit)
  const slope = slopes(kernels, blurred(kernels, tone, calm))
  await pause()
  // what noise adds to each square: it has no direction, but it hides one
  const hiss = (noise * noise) / (8 * 3.14159 * calm ** 4) + 1e-7
  const [flowX, flowY] = await flowOf(kernels, slope, unit, hiss, pause)

  // edges of the masses: the step of lightness across about their own breadth
  await pause()
  const steps = slopes(kernels, fine)
  await pause()
  const edges = { w, h, v: foundBy(steps.x.v, steps.y.v, 1.5 + 2.4 * unit) }
  await pause()

  const sharpness = { kernels, unit, calm, hiss, pause }
  const { focus, strong, detail } = await finenessOf(tone, slope, sharpness)
  const small = { tone: halved(kernels, broad), cover: halved(kernels, cover), red: halved(kernels, red), blue: halved(kernels, blue) }
  await pause()
  const ground = groundOf(kernels, small, focus, strong, unit / 2)
  await pause()
  let carried: Planes | undefined
  if (clear) {
    const on = carriedTone(kernels, tone, cover)
    const fineness = await finenessOf(on, slopes(kernels, blurred(kernels, on, calm)), sharpness)
    carried = { tone: on, ...(await massesIn(on)), detail: doubled(kernels, fineness.detail, w, h) }
  }
  const scale = 2 ** level
  return {
    w,
    h,
    scale,
    x: input.region.x * scale,
    y: input.region.y * scale,
    unit,
    tone,
    cover,
    fine,
    broad,
    ...(carried ? { carried } : {}),
    flowX,
    flowY,
    edges,
    focus: doubled(kernels, focus, w, h),
    detail: doubled(kernels, detail, w, h),
    ground: doubled(kernels, ground, w, h),
    noise,
  }
}
