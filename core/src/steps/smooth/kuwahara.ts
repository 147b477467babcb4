import { grow, type Region } from '../../base/region.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { defineStep, type Pic } from '../contract.ts'
import { flowInto, flowNeeds } from '../line/flow.ts'
import { choice, length, percent, share } from '../params/index.ts'
import { addressOf, byRows, rowsOfCall } from '../picture.ts'
import { tableIn } from '../table-cache.ts'
import { gridNeeds, gridOf, onGrid } from './reduced.ts'

/** Half the side of the squares, or of the longest ellipse, in pixels of the level. */
const squareOf = (reach: number) => Math.max(1, Math.min(60, Math.round(reach)))
const FARTHEST = 32
/** Half axes of the ellipse's circle, and of the longest ellipse. */
const radiusOf = (reach: number) => Math.max(1.5, Math.min(FARTHEST / 1.6, reach))
const longestOf = (reach: number, stretch: number) => 2 * Math.ceil(Math.min(FARTHEST, radiusOf(reach) * (1 + stretch)) / 2)
/** From this half axis on an ellipse is of 2 × 2 pixels at a time: a quarter of the work, and 0.1 of 255 off on average. */
const COARSE = 8
/** How far around the directions of the forms are averaged, in reaches. */
const STEADY = 0.7

const ellipseNeeds = (region: Region, reach: number, stretch: number) => grow(region, longestOf(reach, stretch))

/** From this half axis on patches are found on a reduced picture. */
const GRID = 10

/** @param cellOf pixels a cell of the picture that patches are found on */
const kuwaharaBy = (version: number, cellOf: (reach: number) => number, longest: number, most: string) =>
  defineStep({
    id: 'kuwahara',
    version,
    title: 'Flat patches',
    group: 'smooth',
    kind: 'neighbourhood',
    help: 'Flattens the picture into small even patches with crisp edges, as paint laid by a flat brush: the filter of Kuwahara, plain or along the forms.',
    method:
      'Squares: Kuwahara et al. 1976. Along the forms: anisotropic Kuwahara filter with polynomial weighting functions (Kyprianidis, Semmo, Kang and Döllner 2010) over a smoothed structure tensor' +
      (version > 1 ? '; beyond 10 pixels of reach on a reduced picture, enlarged by joint bilateral upsampling (Kopf et al. 2007)' : ''),
    params: {
      patches: choice({
        title: 'Patches',
        default: 'along',
        options: [
          { value: 'along', title: 'Along the forms' },
          { value: 'squares', title: 'Squares' },
        ],
        help: 'Along the forms they are ellipses that lie as hair, cloth and contours do; squares are the plain old way.',
      }),
      reach: length({ title: 'Patch', default: percent(0.45), min: 1, max: longest, feel: 'log', help: `How large a patch is${most}.` }),
      stretch: share({
        title: 'Length of patches',
        default: 0.7,
        when: { param: 'patches', is: ['along'] },
        help: 'How much longer than wide they become where the direction is clear.',
      }),
      crispness: choice({
        title: 'Edges',
        default: 'crisp',
        when: { param: 'patches', is: ['along'] },
        options: [
          { value: 'soft', title: 'Soft' },
          { value: 'crisp', title: 'Crisp' },
          { value: 'hard', title: 'Hard' },
        ],
        help: 'How sharply one patch ends at the next.',
      }),
    },
    // which patch varies least is decided pixel by pixel
    coarsest: () => 0,
    needs: (region, { patches, reach, stretch }) => {
      const f = cellOf(reach)
      return gridNeeds(region, f, aroundOf(patches, reach / f, stretch))
    },
    run: ({ input, output, kernels, pause }, { patches, reach: asked, stretch, crispness }) => {
      const f = cellOf(asked)
      const reach = asked / f
      return onGrid(kernels, { input, output }, f, aroundOf(patches, reach, stretch), (from, to) =>
        flattened(kernels, from, to, pause, { patches, reach, stretch, crispness }),
      )
    },
  })

/** What patches of a reach look at. */
const aroundOf =
  (patches: string, reach: number, stretch: number) =>
  (region: Region): Region =>
    patches === 'squares' ? grow(region, squareOf(reach)) : flowNeeds(ellipseNeeds(region, reach, stretch), Math.max(1, reach * STEADY))

/** What flattening along the forms looks at for a region, pixels. */
export const patchesNeed = (region: Region, reach: number, stretch: number): Region => aroundOf('along', reach, stretch)(region)

/** Flattens a picture; lengths are its pixels. */
export async function flattened(
  kernels: Kernels,
  input: Pic,
  output: Pic,
  pause: () => Promise<void>,
  { patches, reach, stretch, crispness }: { patches: string; reach: number; stretch: number; crispness: string },
): Promise<void> {
  const { raw } = kernels
  const { w, h } = output.region
  if (patches === 'squares') {
    raw.kuwahara(input.ptr, input.stride, output.ptr, output.stride, w, h, squareOf(reach))
    return
  }
  const r = longestOf(reach, stretch)
  const radius = radiusOf(reach)
  const flow = kernels.allocator.alloc(w * h * 16)
  try {
    await flowInto(kernels, input, flow, output.region, Math.max(1, reach * STEADY), pause)
    // pairs: half the ellipse's pixels, and one more a row
    const block = radius < COARSE ? 1 : 2
    const most = Math.ceil((1.7 * radius * radius + 4 * radius) / block ** 2 + 2 * r + 9)
    const table = tableIn(kernels, `ellipses ${r} ${radius} ${stretch}`, () => {
      const floats = 512 * (most + 1) * 12
      return kernels.scratch(floats * 4, (at) => {
        // ζ and η of the paper's section 3.2 for sectors that overlap by a third
        const zeta = 2 / r
        raw.kuwaharaTaps(at, most, r, radius, stretch, zeta, (zeta + 0.38) / 0.8, block)
        return kernels.f32(at, floats).slice()
      })
    })
    const from = addressOf(input, ellipseNeeds(output.region, reach, stretch))
    const power = crispness === 'soft' ? 1 : crispness === 'crisp' ? 2 : 3
    await byRows(output.region, rowsOfCall(w, (14 * radius * radius) / block ** 2), pause, (y, rows) =>
      raw.kuwaharaAlong(
        from + y * input.stride,
        input.stride,
        flow + y * w * 16,
        w * 16,
        output.ptr + y * output.stride,
        output.stride,
        w,
        rows,
        r,
        table,
        most,
        block,
        power,
      ),
    )
  } finally {
    kernels.allocator.free(flow)
  }
}

/** Reaches 20 pixels at most along the forms, 60 in squares. */
export const kuwahara1 = kuwaharaBy(1, () => 1, 60, '; along the forms 20 pixels at most')
export const kuwahara = kuwaharaBy(2, (reach) => gridOf(reach, GRID), 600, '')
