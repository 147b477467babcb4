import { rgbOfHex, type Triple } from '../../colour/oklab.ts'
import { srgbToLinear, transferTables } from '../../colour/srgb.ts'
import type { Region } from '../../base/region.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import type { Marks } from '../../paths/marks.ts'
import type { Pic } from '../contract.ts'
import { laidLately } from '../laid-lately.ts'
import { layMarks, sparseBy } from '../line/draw-marks.ts'
import { addressOf } from '../picture.ts'
import { withPart, type Ground } from './brushwork.ts'

/** The natural logarithm of 2. */
export const LOG2 = 0.6931471805599453

/** Marks of one pigment: it tints what lies there, or covers it. */
export type DryPigment = { marks: Marks } & ({ through: Triple } | { covers: Triple })

/** What it is laid on. */
export interface Toothed {
  /** #rrggbb */
  paper: string
  /** Linear colours of the paper where it was rubbed over first: a small picture over the whole extent. */
  rubbed?: Ground
  /** How much of that is wiped off the hills again, 0…1; none, where not given. */
  wiped?: number
  /** How much of the paper is covered at most, 0…1, however much is laid: the deepest hollows stay open. All, where not given. */
  most?: number
  /** Pixels of the level from hill to hill. */
  tooth: number
  /** How far down from the hills a light touch reaches, 0…1, and how much the tooth breaks what is laid. */
  soft: number
  catches: number
  seed: number
}

/**
 * Draws marks of dry pigments, one pigment over the other, on a toothed paper; what is clear in the input stays clear.
 * Of one that tints, `through` is the logarithm (base 2) of what it lets through in linear red, green, blue; of one that covers, `covers` is its own linear colour.
 */
export function drawPigments(
  kernels: Kernels,
  laid: readonly DryPigment[],
  { input, output, level, extent, quick }: { input: Pic; output: Pic; level: number; extent: Region; quick: boolean },
  on: Toothed,
): void {
  const { region } = output
  const { w, h } = region
  const { raw } = kernels
  const scale = 1 / 2 ** level
  const bytes = w * h * 4
  const n = laid.length
  const { encode } = transferTables(kernels)
  kernels.scratch(n * bytes + n * 16 + 64, (planes) => {
    const pigments = (planes + n * bytes + 15) & ~15
    laid.forEach((l, k) => {
      const apart = sparseBy(quick, level)
      const plane = planes + k * bytes
      const lay = () => layMarks(kernels, l.marks, region, level, plane, 1, apart)
      if (apart > 0) laidLately(kernels, l.marks, 'marks', level, region, plane, w * h, lay)
      else lay()
      kernels.f32(pigments + k * 16, 4).set('covers' in l ? [...l.covers, 1] : [...l.through, 0])
    })
    const paper = pigments + n * 16
    kernels.f32(paper, 4).set([...rgbOfHex(on.paper).map((v) => srgbToLinear(v, raw.pow)), 0])
    const draw = (grounds: number, stride: number) =>
      // prettier-ignore
      raw.pigmentOnTooth(
        planes, w * 4, bytes, n, addressOf(input, region), input.stride, output.ptr, output.stride, w, h, region.x, region.y,
        pigments, paper, grounds, stride, encode, 1 / Math.max(1, on.tooth), on.soft, on.catches, on.seed, on.wiped ?? 0, on.most ?? 1,
      )
    const { rubbed } = on
    if (!rubbed) {
      draw(0, 0)
      return
    }
    const [gx, gy] = [region.x - Math.round(extent.x * scale), region.y - Math.round(extent.y * scale)]
    const step = rubbed.w / (extent.w * scale)
    kernels.scratch(w * h * 16, (grounds) => {
      withPart(kernels, rubbed, { x: gx, y: gy, w, h }, step, (under, row) =>
        raw.enlargePaint(grounds, w * 16, w, h, gx, gy, under, row, rubbed.w, rubbed.h, step),
      )
      draw(grounds, w * 16)
    })
  })
}
