import { halvings } from '../../base/levels.ts'
import { defineStep } from '../contract.ts'
import { choice, length, picture, seed, share } from '../params/index.ts'
import { planeIn } from '../table-cache.ts'
import { heightsOf } from './heights.ts'

export const KINDS = ['canvas', 'laid', 'cold-pressed', 'board'] as const
const made = { param: 'kind', is: KINDS }
const taken = { param: 'kind', is: ['picture'] }

/** What is decided of a relief, by every version so far. */
export const reliefParams = {
  kind: choice({
    title: 'Surface',
    default: 'canvas',
    options: [
      { value: 'canvas', title: 'Canvas' },
      { value: 'laid', title: 'Laid paper' },
      { value: 'cold-pressed', title: 'Cold-pressed paper' },
      { value: 'board', title: 'Board' },
      { value: 'picture', title: 'From a picture' },
    ],
    help: 'What the picture is painted or printed on.',
  }),
  picture: picture({
    title: 'Picture',
    when: taken,
    help: 'A photo or scan of a surface, evenly lit: what is light in it stands high. None: the picture stays as it is.',
  }),
  width: length({
    title: 'Picture width',
    default: { value: 60, unit: 'mm' },
    min: 16,
    max: 20000,
    feel: 'log',
    when: taken,
    help: 'How wide the picture of the surface lies on the sheet; it repeats beyond.',
  }),
  pitch: length({
    title: 'Pitch',
    when: made,
    default: { value: 0.7, unit: 'mm' },
    min: 1.5,
    max: 300,
    feel: 'log',
    help: 'From thread to thread, rib to rib, or hollow to hollow: fine linen 0.4 mm, coarse canvas 1.2 mm.',
  }),
  depth: share({ title: 'Depth', default: 0.3, help: 'How deep the surface is.' }),
  seed: seed({ default: 5, when: made, help: 'Another piece of it.' }),
}

/** @param first number of its first surface among the kernel's; @param quiet its usual depth; @param finest its finest forms, share of those of the first surfaces */
const reliefBy = (version: number, first: number, quiet: number, finest: number, surfaces: string) =>
  defineStep({
    id: 'surface-relief',
    version,
    title: 'Surface relief',
    group: 'surface',
    kind: 'point',
    onPaper: true,
    lit: true,
    raises: true,
    stock: 'relief',
    help: 'The picture on canvas or paper: its surface is lit once by the artwork’s lamp, with all others that lie there.',
    method: `Heights as functions of the place on the sheet (${surfaces}) or the lights of another picture, levelled and repeated; slopes lit by Lambert’s law; the flat keeps its colour`,
    params: { ...reliefParams, depth: share({ title: 'Depth', default: quiet, help: 'How deep the surface is.' }) },
    sample: { depth: 0.5 },
    // slopes finer than a pixel cannot be lit
    coarsest: ({ kind, pitch }) => (kind === 'picture' ? 0 : halvings((pitch * finest) / 9)),
    measure: heightsOf,
    // its input is what was high before it, its output that with its own height
    run: ({ input, output, kernels, planes, level, quick }, { kind, picture, width, pitch, depth, seed: deal }) => {
      const { x, y, w, h } = output.region
      const scale = 2 ** level
      if (kind === 'picture') {
        const plane = planes['picture']
        if (!plane || !picture) {
          kernels.raw.copyRect(input.ptr, input.stride, output.ptr, output.stride, w * 8, h)
          return
        }
        const heights = planeIn(kernels, picture.asset, plane.values)
        const step = plane.w / width
        // a height of 1 in the picture is so many full-size pixels of the sheet
        const high = (depth * 0.6 * scale) / step
        kernels.raw.raiseBy(input.ptr, input.stride, output.ptr, output.stride, w, h, x, y, step, heights, plane.w, plane.h, high)
        return
      }
      // a small picture that is wanted quickly cannot hold threads of a pixel or two: their light and shade comes to none
      const held = quick ? Math.min(1, Math.max(0, (pitch - 2) / 4)) : 1
      const high = depth * held * 0.55 * pitch * scale
      kernels.raw.raise(input.ptr, input.stride, output.ptr, output.stride, w, h, x, y, 1 / pitch, first + KINDS.indexOf(kind), high, deal)
    },
  })

/** Its weave a zigzag, its papers rough. */
export const surfaceRelief2 = reliefBy(2, 0, 0.3, 1, 'plain weave with uneven threads; ribs and chain lines; three octaves of value noise')
export const surfaceRelief = reliefBy(
  3,
  4,
  0.2,
  0.4,
  'plain weave of twisted threads, over and under; wires, chain lines and felt; hills pressed by felts; turned value noise',
)
