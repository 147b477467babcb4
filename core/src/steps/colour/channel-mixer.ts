import { transferTables } from '../../colour/srgb.ts'
import { defineStep } from '../contract.ts'
import { choice, mixture } from '../params/index.ts'

const ALPHA = 'Alpha'
/** Weights that leave all channels as they are, over `columns` columns. */
const same = (rows: readonly string[], columns: readonly string[]) => rows.flatMap((r) => columns.map((c) => (r === c ? 1 : 0)))

const rgbRows = ['Red', 'Green', 'Blue', ALPHA] as const
const rgbColumns = ['Red', 'Green', 'Blue', ALPHA, 'Constant'] as const
const cmykRows = ['Cyan', 'Magenta', 'Yellow', 'Black', ALPHA] as const
const cmykColumns = ['Cyan', 'Magenta', 'Yellow', 'Black', ALPHA, 'Constant'] as const
const labRows = ['L*', 'a*', 'b*', ALPHA] as const
const labColumns = ['L*', 'a*', 'b*', ALPHA, 'Constant'] as const
const greyRows = ['Grey', ALPHA] as const
const help = 'A row for each channel that comes out: how much of each channel goes into it.'

/** The kernel's five rows of six weights out of a table with fewer rows or columns. */
function fiveRows(values: readonly number[], columns: number, channels: number, places: readonly number[]): number[] {
  const m = Array.from({ length: 30 }, () => 0)
  places.forEach((row, i) => {
    for (let c = 0; c < columns; c++) {
      // channels, then alpha and the constant
      const to = c < channels ? c : 4 + (c - channels)
      m[row * 6 + to] = values[i * columns + c]!
    }
  })
  return m
}

/** Whether every row (of five) is a mean, so that nothing can leave the scale. */
function means(values: readonly number[]): boolean {
  for (let i = 0; i < values.length; i += 5) {
    const row = values.slice(i, i + 5)
    if (row.some((v) => v < 0) || row.reduce((a, b) => a + b, 0) > 1) return false
  }
  // alpha made of colours belongs to single pixels
  return values.slice(-5).every((v, i) => v === (i === 3 ? 1 : 0))
}

export const channelMixer = defineStep({
  id: 'channel-mixer',
  version: 1,
  title: 'Channel mixer',
  group: 'colour',
  kind: 'point',
  help: 'Makes each channel anew out of all of them, in RGB, CMYK, Lab or grey; what is dark can become clear.',
  method: 'Weighted sums; CMYK with full removal of the grey component (K = 1 − max(R, G, B)); CIE 1976 L*a*b* under D65, scaled to L*/100, a*/128, b*/128',
  params: {
    model: choice({
      title: 'Mixed in',
      default: 'rgb',
      options: [
        { value: 'rgb', title: 'RGB' },
        { value: 'cmyk', title: 'CMYK' },
        { value: 'lab', title: 'Lab' },
        { value: 'grey', title: 'Grey' },
      ],
      help: 'CMYK to take the black component out of a photo’s colours, Lab to change colours apart from lightness.',
    }),
    rgb: mixture({ title: 'RGB', rows: rgbRows, columns: rgbColumns, default: same(rgbRows, rgbColumns), when: { param: 'model', is: ['rgb'] }, help }),
    cmyk: mixture({ title: 'CMYK', rows: cmykRows, columns: cmykColumns, default: same(cmykRows, cmykColumns), when: { param: 'model', is: ['cmyk'] }, help }),
    lab: mixture({ title: 'Lab', rows: labRows, columns: labColumns, default: same(labRows, labColumns), when: { param: 'model', is: ['lab'] }, help }),
    grey: mixture({
      title: 'Grey',
      rows: greyRows,
      columns: rgbColumns,
      default: [0.2126, 0.7152, 0.0722, 0, 0, 0, 0, 0, 1, 0],
      when: { param: 'model', is: ['grey'] },
      help,
    }),
  },
  sample: { rgb: [0.6, 0.5, -0.1, 0, 0, 0.1, 0.8, 0.1, 0, 0, 0, 0.2, 0.8, 0, 0, 0, 0, 0, 1, 0] },
  // what leaves 0…1 is cut pixel by pixel
  coarsest: ({ model, rgb, grey }) => ((model === 'rgb' && means(rgb)) || (model === 'grey' && means(grey)) ? 2 : 0),
  run: ({ input, output, kernels }, { model, rgb, cmyk, lab, grey }) => {
    const { w, h } = output.region
    const m =
      model === 'rgb'
        ? fiveRows(rgb, 5, 3, [0, 1, 2, 4])
        : model === 'cmyk'
          ? fiveRows(cmyk, 6, 4, [0, 1, 2, 3, 4])
          : model === 'lab'
            ? fiveRows(lab, 5, 3, [0, 1, 2, 4])
            : fiveRows(grey, 5, 3, [0, 4])
    kernels.scratch(128, (at) => {
      kernels.f32(at, 30).set(m)
      if (model === 'lab') {
        const { decode, encode } = transferTables(kernels)
        kernels.raw.mixLab(input.ptr, input.stride, output.ptr, output.stride, w, h, at, decode, encode)
      } else kernels.raw.mix(input.ptr, input.stride, output.ptr, output.stride, w, h, model === 'cmyk' ? 1 : model === 'grey' ? 2 : 0, at)
    })
  },
})
