import { labOfRgb, oklabOfRgb, pixelOf, rgbOfHex } from '../../colour/oklab.ts'
import { transferTables } from '../../colour/srgb.ts'
import { defineStep } from '../contract.ts'
import { choice, number, palette } from '../params/index.ts'
import { tableIn } from '../table-cache.ts'
import { paletteOf } from './photo-palette.ts'

/** How much further than the nearest an entry may be and still be looked at in a cell, CIEDE2000. */
const MARGIN = 4

export const mapToPalette = defineStep({
  id: 'map-to-palette',
  version: 1,
  title: 'Map to palette',
  group: 'colour',
  kind: 'point',
  help: 'Only these colours: each pixel becomes the nearest of a palette, given or found in the photo.',
  method: 'Nearest by CIEDE2000 (Sharma, Wu and Dalal 2005) or in OKLab; palettes by k-means (Lloyd 1982) from a median cut (Heckbert 1982) in OKLab',
  params: {
    colours: palette({ title: 'Palette', default: [], help: 'The colours there are. None: they are found in the photo.' }),
    count: number({ title: 'Colours', default: 8, min: 2, max: 32, step: 1, help: 'How many are found in the photo where none are given.' }),
    found: choice({
      title: 'Found by',
      default: 'k-means',
      options: [
        { value: 'k-means', title: 'Clusters' },
        { value: 'median-cut', title: 'Median cut' },
      ],
      help: 'Clusters keep what the photo has most of; the median cut also keeps its extremes.',
    }),
    near: choice({
      title: 'Nearest by',
      default: 'ciede2000',
      options: [
        { value: 'ciede2000', title: 'CIEDE2000' },
        { value: 'oklab', title: 'OKLab' },
      ],
      help: 'How likeness to the eye is measured: by the printers’ formula, or quicker by distance in OKLab.',
    }),
  },
  coarsest: () => 0,
  analysedBy: ['colours', 'count', 'found'],
  analyse: (work, { colours, count, found }) => ({ palette: colours.length ? colours : paletteOf(work, Math.round(count), found) }),
  run: ({ input, output, kernels, facts, quick }, { near: wanted }) => {
    // the printers' formula needs a grid of its own for each palette, which a moving hand cannot wait for
    const near = quick ? 'oklab' : wanted
    const { w, h } = output.region
    const { pow } = kernels.raw
    const hexes = facts.palette
    const name = hexes.join()
    const { decode } = transferTables(kernels)
    const colours = tableIn(kernels, `palette ${name}`, () => new Uint16Array(BigUint64Array.from(hexes, (c) => pixelOf(rgbOfHex(c))).buffer))
    const lab = tableIn(kernels, `palette ${near} ${name}`, () =>
      Float32Array.from(hexes.flatMap((c) => (near === 'oklab' ? oklabOfRgb : labOfRgb)(rgbOfHex(c), pow))),
    )
    if (near === 'oklab') {
      kernels.raw.nearestOklab(input.ptr, input.stride, output.ptr, output.stride, w, h, lab, colours, hexes.length, decode)
      return
    }
    const grid = tableIn(kernels, `palette grid ${name}`, () => {
      const cells = kernels.allocator.alloc(4096 * 64)
      try {
        kernels.scratch(16, (out) => kernels.raw.paletteGrid(cells, lab, hexes.length, decode, MARGIN, out))
        return kernels.u16(cells, 4096 * 32).slice()
      } finally {
        kernels.allocator.free(cells)
      }
    })
    kernels.raw.nearestCiede(input.ptr, input.stride, output.ptr, output.stride, w, h, grid, lab, colours, decode)
  },
})
