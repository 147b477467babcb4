import { grow, type Region } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { defineStep, type Laying, type Pic } from '../steps/contract.ts'
import { choice, number } from '../steps/params/index.ts'
import { addressOf } from '../steps/picture.ts'
import { at, type Field } from '../study/fields.ts'
import { drawn } from '../study/painted.ts'
import { studyParts, studyWords, type StudyPart } from '../base/study-parts.ts'
import type { Study } from '../study/study.ts'

// taken once: loops over planes look nothing up
const { ceil, floor, max, min, round, sqrt } = Math

// How a study is shown to somebody who paints on it; not in the registry, because it is no picture of an artwork.

/** How many lines of the flow lie along the picture's long side, at most; and the fewest full-size pixels from one to the next. */
const LINES = 56
const CLOSEST = 12
/** Full-size pixels from one line of the flow to the next. */
export const cellOf = ({ w, h }: { w: number; h: number }): number => max(CLOSEST, round(max(w, h) / LINES))
/** What is shown of a part: the product's petrol; what was combed by hand: a warm red. */
const FOUND = [15, 107, 134] as const
const COMBED = [176, 62, 30] as const

const fieldOf = (study: Study, part: Exclude<StudyPart, 'flow'>): Field => (part === 'masses' ? study.fine : study[part])

interface Shown {
  input: Pic
  painted: Pic
  output: Pic
  kernels: Kernels
  /** Level pixels → pixels of the study: times `per`, plus the offsets. */
  per: number
  u: number
  v: number
  /** Pixels of the level from one line of the flow to the next. */
  cell: number
}

/** Shows one part: the photo is paled, so that what was found is read over it. */
function showValues({ input, painted, output, kernels, per, u, v }: Shown, study: Study, part: Exclude<StudyPart, 'flow'>): void {
  const { x, y, w, h } = output.region
  const field = fieldOf(study, part)
  for (let j = 0; j < h; j++) {
    const from = kernels.u16(addressOf(input, output.region) + j * input.stride, w * 4)
    const hand = kernels.u16(addressOf(painted, output.region) + j * painted.stride, w * 4)
    const to = kernels.u16(output.ptr + j * output.stride, w * 4)
    for (let i = 0; i < w; i++) {
      const k = i * 4
      const by = hand[k + 3]! === 0 ? 0 : min(1, (hand[k]! - 32768) / 32767)
      const value = drawn(at(field, u + (x + i) * per, v + (y + j) * per), by)
      const alpha = from[k + 3]!
      const pale = part === 'masses' ? value : paled(from[k]!, from[k + 1]!, from[k + 2]!)
      const share = part === 'masses' ? 0 : part === 'edges' ? 0.9 * value : 0.72 * value
      for (let c = 0; c < 3; c++) to[k + c] = round(65535 * pale * (1 - share) + 257 * FOUND[c]! * share)
      to[k + 3] = alpha
    }
  }
}

const paled = (r: number, g: number, b: number): number => 0.58 + (0.4 * (0.2126 * r + 0.7152 * g + 0.0722 * b)) / 65535

/** Shows the flow as short lines along it, the longer and darker the more decided it is. */
function showFlow({ input, painted, output, kernels, per, u, v, cell }: Shown, study: Study): void {
  const { x, y, w, h } = output.region
  for (let j = 0; j < h; j++) {
    const from = kernels.u16(addressOf(input, output.region) + j * input.stride, w * 4)
    const to = kernels.u16(output.ptr + j * output.stride, w * 4)
    for (let k = 0; k < w * 4; k += 4) {
      const pale = round(65535 * paled(from[k]!, from[k + 1]!, from[k + 2]!))
      const alpha = from[k + 3]!
      to[k] = pale
      to[k + 1] = pale
      to[k + 2] = pale
      to[k + 3] = alpha
    }
  }
  const under = painted.region
  for (let cy = floor(y / cell) - 1; cy * cell <= y + h + cell; cy++) {
    for (let cx = floor(x / cell) - 1; cx * cell <= x + w + cell; cx++) {
      const mx = round((cx + (cy % 2 ? 0.5 : 0)) * cell)
      const my = round(cy * cell)
      if (mx < under.x || my < under.y || mx >= under.x + under.w || my >= under.y + under.h) continue
      const hand = kernels.u16(painted.ptr + (my - under.y) * painted.stride + (mx - under.x) * 8, 4)
      const cover = hand[3]! / 65535
      const fu = at(study.flowX, u + mx * per, v + my * per) * (1 - cover) + (hand[0]! / 32767.5 - 1) * cover
      const fv = at(study.flowY, u + mx * per, v + my * per) * (1 - cover) + (hand[1]! / 32767.5 - 1) * cover
      const long = sqrt(fu * fu + fv * fv)
      if (long < 0.03) continue
      const cos = sqrt(max(0, (1 + fu / long) / 2))
      const sin = sqrt(max(0, (1 - fu / long) / 2)) * (fv < 0 ? -1 : 1)
      const decided = min(1, 1.6 * long)
      line(kernels, output, {
        mx,
        my,
        cos,
        sin,
        half: cell * (0.16 + 0.34 * decided),
        broad: max(0.6, 0.055 * cell),
        dark: 0.3 + 0.65 * decided,
        colour: cover > 0.5 ? COMBED : FOUND,
      })
    }
  }
}

interface Line {
  mx: number
  my: number
  cos: number
  sin: number
  half: number
  broad: number
  dark: number
  colour: readonly [number, number, number]
}

/** A short line with round ends, mixed into what is there. */
function line(kernels: Kernels, { ptr, stride, region }: Pic, { mx, my, cos, sin, half, broad, dark, colour }: Line): void {
  const reach = half + broad + 1
  const [x0, x1] = [max(region.x, floor(mx - reach)), min(region.x + region.w - 1, ceil(mx + reach))]
  for (let y = max(region.y, floor(my - reach)); y <= min(region.y + region.h - 1, ceil(my + reach)); y++) {
    if (x1 < x0) return
    const row = kernels.u16(ptr + (y - region.y) * stride + (x0 - region.x) * 8, (x1 - x0 + 1) * 4)
    for (let x = x0; x <= x1; x++) {
      const along = (x - mx) * cos + (y - my) * sin
      const across = (y - my) * cos - (x - mx) * sin
      const beyond = max(0, max(along, -along) - half)
      const cover = min(1, broad + 0.5 - sqrt(across * across + beyond * beyond)) * dark
      if (cover <= 0) continue
      const k = (x - x0) * 4
      for (let c = 0; c < 3; c++) row[k + c] = round(row[k + c]! * (1 - cover) + 257 * colour[c]! * cover)
    }
  }
}

const viewOf = (version: 1 | 2) =>
  defineStep({
    id: 'study-view',
    version,
    title: 'The study',
    group: 'line',
    kind: 'planned',
    help: 'What was found in a photo, over the photo paled.',
    method: 'The fields of the study, enlarged by straight lines',
    params: {
      part: choice({
        title: 'Part',
        default: 'masses',
        options: studyParts.map((value) => ({ value, title: studyWords[value].title })),
        help: 'Which of the six.',
      }),
      cell: number({ title: 'Lines apart', default: CLOSEST, min: 1, max: 1e5, step: 1, help: 'From one line of the flow to the next, full-size pixels.' }),
    },
    goesBy: studyParts,
    beyond: version > 1,
    drawnBy: ['part', 'cell'],
    lay: ({ study }: Laying) => study,
    needs: (region: Region, { part, cell }, level) => (part === 'flow' ? grow(region, ceil(cell / 2 ** level) + 1) : region),
    draw: ({ input, output, others, kernels, level, plan }, { part, cell }) => {
      const per = 2 ** level / plan.scale
      const shown: Shown = {
        input,
        painted: others['painted']!,
        output,
        kernels,
        per,
        cell: cell / 2 ** level,
        u: (0.5 * 2 ** level - plan.x) / plan.scale - 0.5,
        v: (0.5 * 2 ** level - plan.y) / plan.scale - 0.5,
      }
      if (part === 'flow') showFlow(shown, plan)
      else showValues(shown, plan, part as Exclude<StudyPart, 'flow'>)
    },
  })

/** The study as it was found; and as it goes on beyond a silhouette, for steps that go by that. */
export const studyView = viewOf(1)
export const studyViewBeyond = viewOf(2)
