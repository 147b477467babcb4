import { QuillError } from '../base/errors.ts'
import { blackWhite } from './colour/black-white.ts'
import { mixIn } from './colour/mix-in.ts'
import { channelMixer } from './colour/channel-mixer.ts'
import { colourBalance } from './colour/colour-balance.ts'
import { gradientMap } from './colour/gradient-map.ts'
import { dye } from './colour/dye.ts'
import { hueSaturation } from './colour/hue-saturation.ts'
import { hueSaturation1 } from './colour/hue-saturation-1.ts'
import { mapToPalette } from './colour/map-to-palette.ts'
import { toneToAlpha } from './colour/tone-to-alpha.ts'
import { vibrance } from './colour/vibrance.ts'
import type { AnyStep } from './contract.ts'
import { masses, masses1 } from './smooth/masses.ts'
import { contours, contours2 } from './line/contours.ts'
import { contours1 } from './line/contours-1.ts'
import { hatching, hatching2 } from './line/hatching.ts'
import { hatching1 } from './line/hatching-1.ts'
import { inkLines, inkLines2 } from './line/ink-lines.ts'
import { inkLines1 } from './line/ink-lines-1.ts'
import { oilDaub, oilDaub1, oilDaub2 } from './paint/oil-daub.ts'
import { charcoal } from './paint/charcoal.ts'
import { charcoal1 } from './paint/charcoal-1.ts'
import { pastel } from './paint/pastel.ts'
import { pastel1 } from './paint/pastel-1.ts'
import { wash } from './paint/wash.ts'
import { colouredPencil, colouredPencil1, colouredPencil2, colouredPencil3 } from './paint/coloured-pencil.ts'
import { flowingOil } from './paint/flowing-oil.ts'
import { broadBrush } from './paint/broad-brush.ts'
import { smear } from './paint/smear.ts'
import { paperShapes } from './paint/paper-shapes.ts'
import { paperShapes1 } from './paint/paper-shapes-1.ts'
import { dither } from './print/dither.ts'
import { halftone } from './print/halftone.ts'
import { addGrain } from './smooth/add-grain.ts'
import { boxBlur } from './smooth/box-blur.ts'
import { edgeSmooth, edgeSmooth1 } from './smooth/edge-smooth.ts'
import { gaussianBlur } from './smooth/gaussian-blur.ts'
import { kuwahara, kuwahara1 } from './smooth/kuwahara.ts'
import { median, median1 } from './smooth/median.ts'
import { motionBlur } from './smooth/motion-blur.ts'
import { sharpen, sharpen1 } from './smooth/sharpen.ts'
import { unsharpMask } from './smooth/unsharp-mask.ts'
import { paperTooth } from './surface/paper-tooth.ts'
import { paperTooth2 } from './surface/paper-tooth-2.ts'
import { paperTooth1 } from './surface/paper-tooth-1.ts'
import { settling } from './surface/settling.ts'
import { surfaceRelief, surfaceRelief2 } from './surface/surface-relief.ts'
import { surfaceRelief1 } from './surface/surface-relief-1.ts'
import { pixelBlocks } from './tile/pixel-blocks.ts'
import { brightnessContrast } from './tone/brightness-contrast.ts'
import { curves } from './tone/curves.ts'
import { equaliseLocally } from './tone/equalise-locally.ts'
import { exposure } from './tone/exposure.ts'
import { invert } from './tone/invert.ts'
import { levels } from './tone/levels.ts'
import { posterize } from './tone/posterize.ts'
import { shadowsHighlights } from './tone/shadows-highlights.ts'
import { threshold } from './tone/threshold.ts'
import { vignette } from './tone/vignette.ts'
import { vignette1 } from './tone/vignette-1.ts'

/** Every step there is, in the order in which the picker shows them within their group. */
export const steps: readonly AnyStep[] = [
  levels,
  curves,
  brightnessContrast,
  exposure,
  shadowsHighlights,
  equaliseLocally,
  threshold,
  posterize,
  invert,
  vignette,
  blackWhite,
  hueSaturation,
  dye,
  vibrance,
  colourBalance,
  channelMixer,
  gradientMap,
  mapToPalette,
  toneToAlpha,
  mixIn,
  gaussianBlur,
  boxBlur,
  motionBlur,
  median,
  edgeSmooth,
  kuwahara,
  masses,
  unsharpMask,
  sharpen,
  addGrain,
  contours,
  inkLines,
  hatching,
  oilDaub,
  wash,
  charcoal,
  pastel,
  broadBrush,
  colouredPencil,
  flowingOil,
  smear,
  paperShapes,
  halftone,
  dither,
  pixelBlocks,
  surfaceRelief,
  paperTooth,
  settling,
]

/** Versions before the newest that artworks may still be made of: computed as ever, and not offered any more. */
export const olderSteps: readonly AnyStep[] = [
  paperTooth2,
  masses1,
  contours2,
  hatching2,
  inkLines2,
  contours1,
  hatching1,
  inkLines1,
  median1,
  edgeSmooth1,
  kuwahara1,
  oilDaub1,
  oilDaub2,
  hueSaturation1,
  sharpen1,
  vignette1,
  surfaceRelief1,
  surfaceRelief2,
  paperTooth1,
  colouredPencil3,
  colouredPencil2,
  colouredPencil1,
  paperShapes1,
  pastel1,
  charcoal1,
]

/** The newest version of each step, by id, and all versions by id@version. */
export interface Registry {
  newest: ReadonlyMap<string, AnyStep>
  all: ReadonlyMap<string, AnyStep>
}

/** @throws Error where two steps have one name */
export function registryOf(newest: readonly AnyStep[], older: readonly AnyStep[]): Registry {
  const all = new Map<string, AnyStep>()
  for (const s of [...newest, ...older]) {
    const name = `${s.id}@${s.version}`
    if (all.has(name)) throw new Error(`two steps are called ${name}`)
    all.set(name, s)
  }
  return { newest: new Map(newest.map((s) => [s.id, s])), all }
}

export const registry: Registry = registryOf(steps, olderSteps)

/** The newest version of the step with this id. Throws `unknown-step`. */
export function stepById(id: string, of: Registry = registry): AnyStep {
  const step = of.newest.get(id)
  if (!step) {
    const valid = [...of.newest.keys()]
    throw new QuillError('unknown-step', `There is no step called “${id}”. Steps are: ${valid.join(', ')}.`, { id, valid })
  }
  return step
}

/**
 * The step that computes a version of it: that version where it is kept, else the newest, whose `migrate` its values go through.
 * Throws `unknown-step`, and `unknown-step-version` for a version that is still to come.
 */
export function stepAt(id: string, version: number, of: Registry = registry): AnyStep {
  const newest = stepById(id, of)
  if (version > newest.version)
    throw new QuillError(
      'unknown-step-version',
      `The step “${newest.title}” was saved by a later version of Nimble Quill (${version}; this one knows ${newest.version}). The artwork is left as it is; update to open it.`,
      { step: id },
    )
  return of.all.get(`${id}@${version}`) ?? newest
}
