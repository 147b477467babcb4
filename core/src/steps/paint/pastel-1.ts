import { rgbOfHex, type Triple } from '../../colour/oklab.ts'
import { srgbToLinear } from '../../colour/srgb.ts'
import { MarkList } from '../../paths/marks.ts'
import { between } from '../../study/fields.ts'
import { defineStep, type Laying } from '../contract.ts'
import { keyOf } from '../line/hatching.ts'
import { colourMasses, lightnessOf } from './colours.ts'
import type { DryPigment } from './dry-pigment.ts'
import { layRows } from './hand-rows.ts'
import { boxed, pastelStep, rubbedIn, type Boxed, type Drawing } from './pastel.ts'

// Version 1: rows of one hand throughout, over masses rubbed softly.

// taken once: loops over planes look nothing up
const { abs, max, min, round } = Math

/** How broad strokes are, by how much fine ones belong to a place: few sizes. */
const zones = [
  { size: 1, from: -1, to: 0.22 },
  { size: 0.45, from: 0.22, to: 0.5 },
  { size: 0.22, from: 0.5, to: 2 },
] as const

export const pastel1 = defineStep({
  ...pastelStep,
  version: 1,
  method:
    'The nearest two of a box of sticks at each place (OKLab) over masses by rolling guidance (Zhang et al. 2014); rows of one hand that cover on a toothed paper',
  lay: async (work: Laying<Boxed>, p): Promise<Drawing> => {
    const { kernels, facts, extent, pause, progress } = work
    const n = facts.sticks.length
    const { w, h, cover, sticks } = facts
    const { pow } = kernels.raw
    const unit = max(w, h) / 1000
    const broad = await colourMasses(kernels, facts, max(1.5, 7 * unit), pause)
    const fine = await colourMasses(kernels, facts, max(0.8, 1.8 * unit), pause)
    progress(0.3)
    const opened = keyOf(lightnessOf(broad), { w, h, v: cover }, p.key, kernels.raw)
    const pressed = sticks.map(() => new Float32Array(w * h))
    const detail = new Float32Array(w * h)
    const light = new Float32Array(w * h)
    await boxed(work, broad, fine, opened, p, {
      place: (i, d, _, tone) => {
        detail[i] = d
        light[i] = tone
      },
      sticks: (i, first, second, part, far) => {
        // what is about as the paper is left to it
        const asked = between(far, 0.03, 0.16)
        pressed[first]![i] = asked * (0.35 + 0.6 * part)
        if (second >= 0) pressed[second]![i] = asked * max(0, 1.3 * (1 - part) - 0.12)
      },
    })
    progress(0.5)
    const planes = broad.map((f) => f.v)
    const rubbed = rubbedIn(kernels, facts, planes, opened, p.paper, { soft: max(1, 6 * unit), rim: max(1, 4 * unit), strength: 0.8 * p.rubbed })
    await pause()
    const cell = (x: number, y: number) => min(h - 1, max(0, round(y))) * w + min(w - 1, max(0, round(x)))
    const passes = (x: number, y: number, nx: number, ny: number) => abs(light[cell(x, y)]! - light[cell(nx, ny)]!) < 0.14
    const pigments: DryPigment[] = []
    for (let k = 0; k < n; k++) {
      progress(0.5 + (0.5 * k) / n)
      const list = new MarkList()
      const plane = pressed[k]!
      for (const [zone, { size, from, to }] of zones.entries()) {
        await layRows(
          list,
          {
            hand: p.hand + (((k * 5) % 7) - 3) * 6,
            spacing: (p.stick * size) / (0.6 + 0.55 * p.closeness),
            breadth: p.stick * size,
            length: p.length * (0.4 + 0.6 * size),
            swell: 0.28,
            wobble: p.wobble,
            seed: p.seed + k * 104729 + 31 * zone,
            least: 0.06,
            taper: 0.18,
            beyond: 0.2 * p.length,
            pressed: (x, y) => {
              const i = cell(x, y)
              return detail[i]! >= from && detail[i]! < to ? plane[i]! : -1
            },
            passes,
          },
          extent,
          w,
          h,
          kernels.raw,
          pause,
        )
      }
      pigments.push({ marks: list.done(extent), covers: rgbOfHex(sticks[k]!).map((v) => srgbToLinear(v, pow)) as Triple })
    }
    return { pigments, rubbed }
  },
})
