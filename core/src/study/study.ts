import type { Region } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { between, blurred, field, mapped, slopes, type Field } from './fields.ts'
import { massesOf } from './masses.ts'

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
}

/** The whole of a picture at some level, as kernels hold it: RGBA16. */
export interface Studied {
  input: { ptr: number; stride: number; region: Region }
  kernels: Kernels
  level: number
}

/** Deviation of the noise of a plane (Immerkær, "Fast noise variance estimation", CVIU 64, 1996). */
export function noiseOf({ w, h, v }: Field): number {
  if (w < 3 || h < 3) return 0
  let sum = 0
  for (let y = 1; y < h - 1; y++) {
    for (let x = 1; x < w - 1; x++) {
      const i = y * w + x
      const d =
        v[i - w - 1]! - 2 * v[i - w]! + v[i - w + 1]! - 2 * v[i - 1]! + 4 * v[i]! - 2 * v[i + 1]! + v[i + w - 1]! - 2 * v[i + w]! + v[i + w + 1]!
      sum += d < 0 ? -d : d
    }
  }
  return (1.2533141373155001 * sum) / (6 * (w - 2) * (h - 2))
}

/** A smoothed structure tensor (Di Zenzo 1986): three planes. */
function tensorOf(gx: Field, gy: Field, sigma: number): [Field, Field, Field] {
  return [
    blurred(
      mapped(gx, (v) => v * v),
      sigma,
    ),
    blurred(
      mapped(gx, (v, i) => v * gy.v[i]!),
      sigma,
    ),
    blurred(
      mapped(gy, (v) => v * v),
      sigma,
    ),
  ]
}

/** Lightness and cover of a picture. */
function readPicture({ input, kernels }: Studied): { tone: Field; cover: Field; red: Field; blue: Field } {
  const { w, h } = input.region
  const [tone, cover, red, blue] = [field(w, h), field(w, h), field(w, h), field(w, h)]
  for (let y = 0; y < h; y++) {
    const row = kernels.u16(input.ptr + y * input.stride, w * 4)
    for (let x = 0; x < w; x++) {
      const [r, g, b, a] = [row[x * 4]!, row[x * 4 + 1]!, row[x * 4 + 2]!, row[x * 4 + 3]! / 65535]
      const i = y * w + x
      tone.v[i] = ((0.2126 * r + 0.7152 * g + 0.0722 * b) / 65535) * a + 1 - a
      cover.v[i] = a
      red.v[i] = ((r - g) / 65535) * a
      blue.v[i] = ((b - g) / 65535) * a
    }
  }
  return { tone, cover, red, blue }
}

/**
 * Studies a picture.
 * @param work the whole picture at a size whose long side has at most 1536 pixels
 * @throws what `pause` throws where the work is no longer wanted
 */
export async function studyOf(work: Studied & { pause: () => Promise<void> }): Promise<Study> {
  const { pause, level, input } = work
  const { tone, cover, red, blue } = readPicture(work)
  const { w, h } = tone
  const unit = Math.max(w, h) / 1000
  const noise = noiseOf(tone)
  await pause()
  const fine = await massesOf(tone, Math.max(0.7, 2.4 * unit), pause)
  const broad = await massesOf(tone, Math.max(1, 8 * unit), pause)
  await pause()

  // direction: near forms, and where there are none those round about
  const calm = Math.max(0.6, 1.3 * unit)
  const slope = slopes(blurred(tone, calm))
  await pause()
  const near = tensorOf(slope.x, slope.y, Math.max(1, 5 * unit))
  await pause()
  const far = near.map((t) => blurred(t, 28 * unit)) as [Field, Field, Field]
  await pause()
  // what noise adds to each square: it has no direction, but it hides one
  const hiss = (noise * noise) / (8 * 3.14159 * calm ** 4) + 1e-7
  const [flowX, flowY] = [field(w, h), field(w, h)]
  for (let i = 0; i < w * h; i++) {
    const [xx, xy, yy] = [near[0].v[i]! + 0.12 * far[0].v[i]!, near[1].v[i]! + 0.12 * far[1].v[i]!, near[2].v[i]! + 0.12 * far[2].v[i]!]
    const all = xx + yy + 2 * hiss
    // along an edge, not across it
    flowX.v[i] = (yy - xx) / all
    flowY.v[i] = (-2 * xy) / all
  }

  // edges of the masses: the step of lightness across about their own breadth
  const steps = slopes(fine)
  const edges = mapped(steps.x, (v, i) => between(Math.sqrt(v * v + steps.y.v[i]! * steps.y.v[i]!) * (1.5 + 2.4 * unit), 0.035, 0.16))
  await pause()

  // focus: how much steeper edges are through a fine glass than through a coarse one
  const coarse = slopes(blurred(tone, 3 * calm))
  const energy = (g: { x: Field; y: Field }, sigma: number, less: number) =>
    blurred(
      mapped(g.x, (v, i) => Math.max(0, v * v + g.y.v[i]! * g.y.v[i]! - less)),
      sigma,
    )
  const [steep, gentle] = [energy(slope, 6 * unit, 4 * hiss), energy(coarse, 6 * unit, 0)]
  await pause()
  const weighed = mapped(steep, (v, i) => between(v / (gentle.v[i]! + 1e-6), 1.25, 2.3) * gentle.v[i]!)
  const [spread, weights] = [blurred(weighed, 18 * unit), blurred(gentle, 18 * unit)]
  const focus = mapped(spread, (v, i) => v / (weights.v[i]! + 1e-7))
  await pause()

  // detail: strong where all around is quieter
  const strong = blurred(
    mapped(slope.x, (v, i) => Math.sqrt(v * v + slope.y.v[i]! * slope.y.v[i]!)),
    6 * unit,
  )
  const around = blurred(strong, 45 * unit)
  await pause()
  const detail = mapped(strong, (v, i) => between(v / (around.v[i]! + 0.25 * v + 0.004 / (0.5 + unit)), 0.6, 1.7) * (0.25 + 0.75 * focus.v[i]!))

  // ground: blurred, quiet, and of the colours that the border has
  const frame = Math.max(1, Math.round(0.06 * Math.min(w, h)))
  let [n, mt, mr, mb] = [0, 0, 0, 0]
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      if (y >= frame && y < h - frame && x >= frame && x < w - frame) continue
      const i = y * w + x
      n++
      mt += tone.v[i]!
      mr += red.v[i]!
      mb += blue.v[i]!
    }
  const unlike = blurred(
    mapped(broad, (v, i) => Math.min(1, Math.abs(v - mt / n) + Math.abs(red.v[i]! - mr / n) + Math.abs(blue.v[i]! - mb / n)) * cover.v[i]!),
    15 * unit,
  )
  const sharp = blurred(
    mapped(focus, (v, i) => v * Math.min(1, strong.v[i]! * (20 + 40 * unit))),
    15 * unit,
  )
  await pause()
  const ground = field(w, h)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x
      const [dx, dy] = [(2 * x) / w - 1, (2 * y) / h - 1]
      const middle = Math.max(0, 1 - (dx * dx + dy * dy) * 0.6)
      ground.v[i] = 1 - between((0.45 * unlike.v[i]! + 0.6 * sharp.v[i]!) * (0.4 + 0.6 * middle), 0.06, 0.34)
    }
  const scale = 2 ** level
  return { w, h, scale, x: input.region.x * scale, y: input.region.y * scale, unit, tone, cover, fine, broad, flowX, flowY, edges, focus, detail, ground, noise }
}
