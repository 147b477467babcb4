import { grow } from '../base/region.ts'
import { defineStep } from '../steps/contract.ts'
import { flag, length, px } from '../steps/params/index.ts'

// What is done to masks before they act; not in the registry, because they are no pictures.

/** Half the rows of a disc, from its top: how far each goes to either side of the middle. */
export function discRows(radius: number): Int32Array {
  const reach = Math.floor(radius)
  return Int32Array.from({ length: 2 * reach + 1 }, (_, j) => Math.floor(Math.sqrt(radius * radius - (j - reach) * (j - reach))))
}

export const moveEdge = defineStep({
  id: 'mask-edge',
  version: 1,
  title: 'Move the edge',
  group: 'smooth',
  kind: 'neighbourhood',
  help: 'Moves the edge of a mask outwards or inwards.',
  method: 'Grey dilation and erosion by a disc (Serra 1982), row by row with running extremes (van Herk 1992)',
  params: {
    by: length({ title: 'By', default: px(1), min: 0, max: 256, feel: 'log', help: 'How far the edge moves.' }),
    inwards: flag({ title: 'Inwards', default: false, help: 'The mask shrinks instead of growing.' }),
  },
  needs: (region, { by }) => grow(region, Math.floor(by)),
  run: ({ input, output, kernels }, { by, inwards }) => {
    const { w, h } = output.region
    const reach = Math.floor(by)
    if (reach === 0) {
      kernels.raw.copyRect(input.ptr, input.stride, output.ptr, output.stride, w * 8, h)
      return
    }
    const rows = discRows(by)
    kernels.scratch(rows.byteLength, (ptr) => {
      new Int32Array(kernels.memory.buffer, ptr, rows.length).set(rows)
      kernels.raw.extremeDisc(input.ptr, input.stride, output.ptr, output.stride, w, h, reach, ptr, inwards ? 1 : 0)
    })
  },
})

export const alphaAsGrey = defineStep({
  id: 'mask-of-alpha',
  version: 1,
  title: 'Alpha as a mask',
  group: 'tone',
  kind: 'point',
  help: 'White where a layer covers, black where it is clear.',
  method: 'The alpha channel as grey',
  params: {},
  run: ({ input, output, kernels }) => kernels.raw.alphaPicture(input.ptr, input.stride, output.ptr, output.stride, output.region.w, output.region.h),
})
