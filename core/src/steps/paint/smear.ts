import { grow, type Region } from '../../base/region.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { at, between, blurred } from '../../study/fields.ts'
import type { Way } from '../../study/streamlines.ts'
import { defineStep, type Laying, type Pic } from '../contract.ts'
import { angle, length, percent, seed, share } from '../params/index.ts'
import { withPart, type Ground } from './brushwork.ts'
import { directionOf, flowFor } from './grow-stroke.ts'

// taken once: loops over planes look nothing up
const { ceil, max } = Math

/** How far a smear looks round about, pixels of the level: hairs run on a little, and are told of at every second pixel. */
const reachOf = (drag: number) => ceil(max(4, drag)) + 4

/** Hairs closer than this are not told apart: pixels. */
const FINEST = 4

/** Ways at twice their angle and how far pigment goes along them, pixel by pixel of the study. */
async function waysOf({ study, kernels, pause, progress }: Laying, p: { breadth: number; spared: number; hand: number }): Promise<Ground> {
  const { w, h, scale } = study
  const calm = max(1.2, (0.6 * p.breadth) / scale)
  const along = flowFor(study, (f) => blurred(kernels, f, calm))
  await pause()
  progress(0.4)
  // a little wider than features are, softly: no smear may stop short at them
  const detail = blurred(kernels, study.detail, max(1, 2 * study.unit))
  await pause()
  const direction = directionOf(along, 1, { hand: p.hand, lean: 0.08, swing: 25, often: 0.08 * max(w, h) }, kernels.raw)
  const values = new Float32Array(w * h * 4)
  const way: Way = { x: 1, y: 0 }
  for (let y = 0; y < h; y++) {
    if (y % 64 === 0) {
      await pause()
      progress(0.5 + (0.5 * y) / h)
    }
    for (let x = 0; x < w; x++) {
      const i = (y * w + x) * 4
      direction(x, y, way)
      values[i] = way.x * way.x - way.y * way.y
      values[i + 1] = 2 * way.x * way.y
      values[i + 2] = 1 - p.spared * between(at(detail, x, y), 0.12, 0.42)
    }
  }
  return { w, h, values }
}

export const smear = defineStep({
  id: 'smear',
  version: 1,
  title: 'Smear',
  group: 'paint',
  kind: 'planned',
  help: 'Wet colour dragged along the forms by a brush: streaked by its hairs, mixed on the way, features spared.',
  method:
    'Line integral convolution (Cabral and Leedom 1993) along the photo’s smoothed structure tensor (Di Zenzo 1986), each hair dragged as far as the convolution of noise has it',
  params: {
    drag: length({ title: 'Drag', default: percent(1.4), min: 1, max: 400, feel: 'log', help: 'How far colour is dragged along the forms.' }),
    breadth: length({
      title: 'Breadth',
      default: percent(0.9),
      min: 1,
      max: 1000,
      feel: 'log',
      help: 'How broad the brush is: its hairs are dragged together, and forms that are smaller do not turn it.',
    }),
    hairs: length({
      title: 'Hairs',
      default: percent(0.12),
      min: 0.5,
      max: 200,
      feel: 'log',
      help: 'How far apart the bundles of hairs lie that streak the colour.',
    }),
    mixing: share({ title: 'Mixing', default: 0.3, help: 'How much colours mix on the way: streaks of single hairs, or one soft colour.' }),
    marks: share({ title: 'Hair marks', default: 0.25, help: 'How much lighter and darker each hair leaves its line, in even colour too.' }),
    spared: share({ title: 'Features spared', default: 0.75, help: 'How much of the drag is left away where fine things matter.' }),
    hand: angle({ title: 'Hand', default: 35, min: -90, max: 90, help: 'Which way the hand goes where no form leads it.' }),
    seed: seed({ default: 3, help: 'The same smear by other hairs.' }),
  },
  coarsest: () => 0,
  drawnBy: ['drag', 'hairs', 'mixing', 'marks', 'seed'],
  goesBy: ['flow', 'detail'],
  lay: (work: Laying, p): Promise<Ground> => waysOf(work, p),
  needs: (region, p) => grow(region, reachOf(p.drag)),
  draw: (work, p) => drawSmear(work.kernels, work.plan, work, p),
})

/** Lengths in pixels of the level. */
function drawSmear(
  kernels: Kernels,
  plan: Ground,
  { input, output, level, extent }: { input: Pic; output: Pic; level: number; extent: Region },
  p: { drag: number; breadth: number; hairs: number; mixing: number; marks: number; seed: number },
): void {
  const { region } = output
  const scale = 1 / 2 ** level
  const [gx, gy] = [extent.x * scale, extent.y * scale]
  const step = plan.w / (extent.w * scale)
  const around = grow({ ...region, x: region.x - gx, y: region.y - gy }, reachOf(p.drag))
  withPart(kernels, plan, around, step, (ways, row) => {
    // prettier-ignore
    kernels.raw.smear(
      input.ptr, input.stride, input.region.x, input.region.y, input.region.w, input.region.h, output.ptr, output.stride, region.w, region.h, region.x, region.y,
      ways, row, plan.w, plan.h, step, gx, gy, p.drag, max(2, 0.5 * p.breadth, 1 / step), p.mixing, 1 / max(FINEST, p.hairs), 1 / max(2, p.breadth), p.marks, p.seed,
    )
  })
}
