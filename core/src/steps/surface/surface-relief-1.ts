import { halvings } from '../../base/levels.ts'
import { defineStep } from '../contract.ts'
import { planeIn } from '../table-cache.ts'
import { heightsOf } from './heights.ts'
import { KINDS, reliefParams } from './surface-relief.ts'

/** As it was when each relief was lit by itself: what lay on another was embossed twice, and what was mirrored took its light along. */
export const surfaceRelief1 = defineStep({
  id: 'surface-relief',
  version: 1,
  title: 'Surface relief',
  group: 'surface',
  kind: 'point',
  onPaper: true,
  bySheet: true,
  lit: true,
  stock: 'relief',
  help: 'The picture on canvas or paper, lit by the artwork’s lamp so that the surface shows.',
  method:
    'Heights as functions of the place on the sheet (plain weave with uneven threads; ribs and chain lines; three octaves of value noise) or the lights of another picture, levelled and repeated; slopes lit by Lambert’s law; the flat keeps its colour',
  params: reliefParams,
  sample: { depth: 0.5 },
  // slopes finer than a pixel cannot be lit
  coarsest: ({ kind, pitch }) => (kind === 'picture' ? 0 : halvings(pitch / 9)),
  fidelity: { half: 0.9, why: 'light on a slope is seen in the middle of a pixel, not averaged over it' },
  measure: heightsOf,
  run: ({ input, output, kernels, planes, quick }, { kind, picture, width, pitch, depth, seed: deal, sheet }) => {
    const { x, y, w, h } = output.region
    const { cos, sin } = kernels.raw
    const rad = 3.141592653589793 / 180
    const high = Math.max(5, sheet.lamp.height) * rad
    const [lx, ly] = [cos(sheet.lamp.direction * rad) * cos(high), -sin(sheet.lamp.direction * rad) * cos(high)]
    if (kind === 'picture') {
      const plane = planes['picture']
      if (!plane || !picture) {
        kernels.raw.copyRect(input.ptr, input.stride, output.ptr, output.stride, w * 8, h)
        return
      }
      const heights = planeIn(kernels, picture.asset, plane.values)
      const [px, py, step] = [plane.w, plane.h, plane.w / width]
      kernels.raw.reliefOf(input.ptr, input.stride, output.ptr, output.stride, w, h, x, y, step, heights, px, py, depth * 0.6, lx, ly, sin(high))
      return
    }
    // a small picture that is wanted quickly cannot hold threads of a pixel or two: their light and shade comes to none
    const held = quick ? Math.min(1, Math.max(0, (pitch - 2) / 4)) : 1
    kernels.raw.relief(
      input.ptr,
      input.stride,
      output.ptr,
      output.stride,
      w,
      h,
      x,
      y,
      1 / pitch,
      KINDS.indexOf(kind),
      depth * held * 0.55,
      lx,
      ly,
      sin(high),
      deal,
    )
  },
})
