import { rgbOfHex, type Triple } from '../../colour/oklab.ts'
import { srgbToLinear } from '../../colour/srgb.ts'
import { MarkList } from '../../paths/marks.ts'
import { at, between, blurred, field } from '../../study/fields.ts'
import { defineStep, type Laying } from '../contract.ts'
import { keyOf } from '../line/hatching.ts'
import type { Ground } from './brushwork.ts'
import { charcoalStep, type Drawing } from './charcoal.ts'
import { colourMasses, lightnessOf, type Colours } from './colours.ts'
import { LOG2, type DryPigment } from './dry-pigment.ts'
import { layRows } from './hand-rows.ts'

// Version 1: rows of one hand throughout.

// taken once: loops over planes look nothing up
const { abs, max, min, round } = Math

/** How broad strokes are, by how much fine ones belong to a place: few sizes. */
const zones = [
  { size: 1, from: -1, to: 0.22 },
  { size: 0.45, from: 0.22, to: 0.5 },
  { size: 0.2, from: 0.5, to: 2 },
] as const

export const charcoal1 = defineStep({
  ...charcoalStep,
  version: 1,
  method:
    'Dark and light demands against the paper’s own value (common practice) over masses by rolling guidance (Zhang et al. 2014); rows of one hand on a toothed paper',
  lay: async ({ study, kernels, facts, extent, pause, progress }: Laying<Colours>, p): Promise<Drawing> => {
    const { w, h, cover } = facts
    const { pow, log } = kernels.raw
    const unit = max(w, h) / 1000
    const linear = (hex: string) => rgbOfHex(hex).map((v) => srgbToLinear(v, pow)) as Triple
    const [paper, ink, chalk] = [linear(p.paper), linear(p.ink), linear(p.chalk)]
    const [r, g, b] = rgbOfHex(p.paper)
    const middle = min(0.85, max(0.3, 0.2126 * r + 0.7152 * g + 0.0722 * b))
    const broad = lightnessOf(await colourMasses(kernels, facts, max(1.5, 7 * unit), pause))
    const fine = lightnessOf(await colourMasses(kernels, facts, max(0.8, 1.8 * unit), pause))
    progress(0.25)
    const opened = keyOf(broad, { w, h, v: cover }, p.key, kernels.raw)
    const across = study.w / w
    const detail = field(w, h)
    const [darks, lights] = [field(w, h), field(w, h)]
    for (let y = 0; y < h; y++) {
      if ((y & 31) === 0) await pause()
      for (let x = 0; x < w; x++) {
        const i = y * w + x
        const d = at(study.detail, (x + 0.5) * across - 0.5, (y + 0.5) * across - 0.5)
        detail.v[i] = d
        const mixed = broad.v[i]! + between(d, 0.12, 0.45) * (fine.v[i]! - broad.v[i]!)
        const t = opened === 1 ? mixed : pow(max(0, mixed), opened)
        const there = cover[i]! < 0.4 ? 0 : 1
        // the paper stands for all that is about as light as it is
        darks.v[i] = there * between((middle - t) / middle, 0.02, 0.85)
        lights.v[i] = there * between((t - middle) / (1 - middle), 0.06, 0.8)
      }
    }
    // rubbed with a finger: soft, broader than it was laid
    const soft = blurred(kernels, darks, max(1, 6 * unit))
    const rubbed: Ground = { w, h, values: new Float32Array(w * h * 4) }
    for (let i = 0; i < w * h; i++) {
      const k = 0.85 * p.rubbed * soft.v[i]!
      for (let c = 0; c < 3; c++) rubbed.values[i * 4 + c] = paper[c]! + (ink[c]! - paper[c]!) * k
    }
    progress(0.4)
    await pause()
    const cell = (x: number, y: number) => min(h - 1, max(0, round(y))) * w + min(w - 1, max(0, round(x)))
    const passes = (x: number, y: number, nx: number, ny: number) => abs(fine.v[cell(x, y)]! - fine.v[cell(nx, ny)]!) < 0.14
    const common = { swell: 0.28, wobble: p.wobble, passes, taper: 0.2, beyond: 0.15 * p.length }
    const rows = (list: MarkList, size: number, turn: number, least: number, own: number, pressed: (i: number) => number) =>
      layRows(
        list,
        {
          ...common,
          hand: p.hand + turn,
          breadth: p.stick * size,
          spacing: (p.stick * size) / (0.6 + 0.5 * p.closeness),
          length: p.length * (0.4 + 0.6 * size),
          least,
          seed: p.seed + own * 104729,
          pressed: (x, y) => pressed(cell(x, y)),
        },
        extent,
        w,
        h,
        kernels.raw,
        pause,
      )
    const dark = new MarkList()
    const some = 1 - 0.4 * p.rubbed
    for (const [k, { size, from, to }] of zones.entries())
      await rows(dark, size, 0, 0.08, 1 + k, (i) => (detail.v[i]! >= from && detail.v[i]! < to ? some * (0.9 + 0.1 * k) * darks.v[i]! : -1))
    progress(0.65)
    // accents: pressed with the edge of the stick
    await rows(dark, 0.22, -24, 0.12, 11, (i) => p.accents * 1.1 * between(darks.v[i]!, 0.55, 0.95))
    const light = new MarkList()
    for (const [k, { size, from, to }] of zones.entries())
      await rows(light, 0.8 * size, 14, 0.1, 21 + k, (i) => (detail.v[i]! >= from && detail.v[i]! < to ? p.lights * (0.95 + 0.15 * k) * lights.v[i]! : -1))
    const through = ink.map((v, c) => log(min(1, max(0.02, v / max(0.02, paper[c]!)))) / LOG2) as Triple
    const pigments: DryPigment[] = [
      { marks: dark.done(extent), through },
      { marks: light.done(extent), covers: chalk },
    ]
    return { pigments, rubbed }
  },
})
