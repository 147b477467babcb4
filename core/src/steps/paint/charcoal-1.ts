import { MarkList } from '../../paths/marks.ts'
import { between } from '../../study/fields.ts'
import { defineStep, type Laying } from '../contract.ts'
import { charcoalStep, demandsOf, smudged, throughOf, type Drawing } from './charcoal.ts'
import type { Colours } from './colours.ts'
import type { DryPigment } from './dry-pigment.ts'
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
  lay: async (work: Laying<Colours>, p): Promise<Drawing> => {
    const { kernels, facts, extent, pause, progress } = work
    const { w, h } = facts
    const demands = await demandsOf(work, p, 1.8)
    const { darks, lights, detail, fine } = demands
    const rubbed = smudged(kernels, demands, max(1, (6 * max(w, h)) / 1000), p.rubbed)
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
    const pigments: DryPigment[] = [
      { marks: dark.done(extent), through: throughOf(demands, kernels.raw.log) },
      { marks: light.done(extent), covers: demands.chalk },
    ]
    return { pigments, rubbed }
  },
})
