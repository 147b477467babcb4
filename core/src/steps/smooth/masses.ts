import { between } from '../../study/fields.ts'
import { type Study } from '../../study/study.ts'
import { defineStep, type Laying } from '../contract.ts'
import { share } from '../params/index.ts'
import { addressOf } from '../picture.ts'

/** Lightness and the share that is taken of it, two floats a place, and where they lie (full-size pixels). */
interface Masses {
  w: number
  h: number
  x: number
  y: number
  scale: number
  planes: Float32Array
}

function planesOf({ w, h, x, y, scale, fine, broad, detail }: Study, p: { breadth: number; strength: number; details: number }): Masses {
  const planes = new Float32Array(w * h * 2)
  for (let i = 0; i < w * h; i++) {
    // where details matter the fine masses stand, and of those as much of the photo as is asked for
    const d = between(detail.v[i]!, 0.08, 0.5)
    const broadest = p.breadth * (1 - d)
    planes[i * 2] = fine.v[i]! + (broad.v[i]! - fine.v[i]!) * broadest
    planes[i * 2 + 1] = p.strength * (1 - p.details * d)
  }
  return { w, h, x, y, scale, planes }
}

/** The step; its first version saw white beyond a silhouette, and grew pale along it. */
const stepOf = (version: 1 | 2) =>
  defineStep({
    id: 'masses',
    version,
    title: 'Masses',
    group: 'smooth',
    kind: 'planned',
    help: 'The picture summarised: leaves, gravel, hair and bricks become a few calm masses with sharp borders, and what matters keeps its details.',
    method:
      'Rolling guidance (Zhang, Shen, Xu and Jia 2014) with the guided filter (He, Sun and Tang 2010), at two sizes; lightness is taken of them, colour stays. Details are strong, rare edges in focus',
    params: {
      breadth: share({ title: 'Broad', default: 0.6, help: 'From small masses to large ones, where no details are.' }),
      strength: share({ title: 'Strength', default: 0.9, help: 'How much of the photo gives way to its masses.' }),
      details: share({ title: 'Details kept', default: 0.85, help: 'How much of the photo stays where the eye goes: eyes, lettering, found edges in focus.' }),
    },
    goesBy: ['masses', 'detail', 'focus'],
    beyond: version > 1,
    lay: ({ study }: Laying, p): Masses => planesOf(study, p),
    draw: ({ input, output, kernels, level, plan }) => {
      const { x, y, w, h } = output.region
      const per = 2 ** level / plan.scale
      const [u, v] = [(0.5 * 2 ** level - plan.x) / plan.scale - 0.5, (0.5 * 2 ** level - plan.y) / plan.scale - 0.5]
      // the part of the planes that lies under the region
      const held = (n: number, most: number) => Math.min(most - 1, Math.max(0, n))
      const [i0, i1] = [held(Math.floor(u + x * per), plan.w), held(Math.ceil(u + (x + w) * per) + 1, plan.w)]
      const [j0, j1] = [held(Math.floor(v + y * per), plan.h), held(Math.ceil(v + (y + h) * per) + 1, plan.h)]
      const [pw, ph] = [i1 - i0 + 1, j1 - j0 + 1]
      kernels.scratch(pw * ph * 8, (planes) => {
        const view = kernels.f32(planes, pw * ph * 2)
        for (let j = 0; j < ph; j++) view.set(plan.planes.subarray(((j0 + j) * plan.w + i0) * 2, ((j0 + j) * plan.w + i0 + pw) * 2), j * pw * 2)
        kernels.raw.towardMasses(addressOf(input, output.region), input.stride, output.ptr, output.stride, w, h, x, y, planes, pw, ph, i0, j0, u, v, per)
      })
    },
  })

export const masses = stepOf(2)
export const masses1 = stepOf(1)
