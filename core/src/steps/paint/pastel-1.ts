import { oklabOfRgb, rgbOfHex, type Triple } from '../../colour/oklab.ts'
import { srgbToLinear } from '../../colour/srgb.ts'
import { MarkList } from '../../paths/marks.ts'
import { at, between, blurred } from '../../study/fields.ts'
import { defineStep, type Laying } from '../contract.ts'
import { keyOf } from '../line/hatching.ts'
import type { Ground } from './brushwork.ts'
import { colourMasses, lightnessOf } from './colours.ts'
import type { DryPigment } from './dry-pigment.ts'
import { layRows } from './hand-rows.ts'
import { pastelStep, type Boxed, type Drawing } from './pastel.ts'

// Version 1: rows of one hand throughout, over masses rubbed softly.

// taken once: loops over planes look nothing up
const { abs, max, min, round, sqrt } = Math

/** What a difference of lightness counts against one of hue and chroma. */
const LIGHTNESS = 0.8

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
  lay: async ({ study, kernels, facts, extent, pause, progress }: Laying<Boxed>, p): Promise<Drawing> => {
    const { w, h, cover, sticks } = facts
    const { pow } = kernels.raw
    const unit = max(w, h) / 1000
    const broad = await colourMasses(kernels, facts, max(1.5, 7 * unit), pause)
    const fine = await colourMasses(kernels, facts, max(0.8, 1.8 * unit), pause)
    progress(0.3)
    const opened = keyOf(lightnessOf(broad), { w, h, v: cover }, p.key, kernels.raw)
    const labs = sticks.map((hex) => oklabOfRgb(rgbOfHex(hex), pow))
    const ground = oklabOfRgb(rgbOfHex(p.paper), pow)
    const across = study.w / w
    const n = sticks.length
    const pressed = sticks.map(() => new Float32Array(w * h))
    const detail = new Float32Array(w * h)
    const light = new Float32Array(w * h)
    const far = (a: Triple, b: readonly number[]) => sqrt((LIGHTNESS * (a[0] - b[0]!)) ** 2 + (a[1] - b[1]!) ** 2 + (a[2] - b[2]!) ** 2)
    const away = new Float64Array(n)
    const pure = 0.7 + 0.9 * p.vivid
    for (let y = 0; y < h; y++) {
      if ((y & 15) === 0) await pause()
      for (let x = 0; x < w; x++) {
        const i = y * w + x
        const d = at(study.detail, (x + 0.5) * across - 0.5, (y + 0.5) * across - 0.5)
        detail[i] = d
        const t = between(d, 0.1, 0.4)
        const rgb = [0, 1, 2].map((c) => broad[c]!.v[i]! + t * (fine[c]!.v[i]! - broad[c]!.v[i]!)) as Triple
        light[i] = 0.2126 * rgb[0] + 0.7152 * rgb[1] + 0.0722 * rgb[2]
        if (cover[i]! < 0.4) continue
        const lab = oklabOfRgb(rgb, pow)
        const want: Triple = [opened === 1 ? lab[0] : pow(max(0, lab[0]), opened), lab[1] * pure, lab[2] * pure]
        let [first, second] = [0, -1]
        for (let k = 0; k < n; k++) {
          away[k] = far(want, labs[k]!)
          if (k === 0) continue
          if (away[k]! < away[first]!) {
            second = first
            first = k
          } else if (second < 0 || away[k]! < away[second]!) second = k
        }
        // what is about as the paper is left to it
        const asked = between(far(want, ground), 0.03, 0.16)
        const part = second < 0 ? 1 : away[second]! / (away[first]! + away[second]! + 1e-6)
        pressed[first]![i] = asked * (0.35 + 0.6 * part)
        if (second >= 0) pressed[second]![i] = asked * max(0, 1.3 * (1 - part) - 0.12)
      }
    }
    progress(0.5)
    // rubbed in: the masses' own colours, softly
    const rubbed: Ground = { w, h, values: new Float32Array(w * h * 4) }
    const paper = rgbOfHex(p.paper)
    const there = blurred(kernels, { w, h, v: Float32Array.from(cover) }, max(1, 4 * unit))
    for (let c = 0; c < 3; c++) {
      const soft = blurred(kernels, broad[c]!, max(1, 6 * unit))
      for (let i = 0; i < w * h; i++) {
        const v = opened === 1 ? soft.v[i]! : pow(max(0, soft.v[i]!), opened)
        rubbed.values[i * 4 + c] = srgbToLinear(paper[c]! + (v - paper[c]!) * 0.8 * p.rubbed * there.v[i]!, pow)
      }
    }
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
