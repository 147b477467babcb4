import { halvings } from '../../base/levels.ts'
import { rgbOfHex } from '../../colour/oklab.ts'
import type { Region } from '../../base/region.ts'
import { defineStep } from '../contract.ts'
import { choice, colour, length, percent, place, px, type Place } from '../params/index.ts'

interface Grid {
  width: number
  height: number
  place: Place
  bond: 'straight' | 'half' | 'third'
}
interface Tiles {
  nx: number
  ny: number
  /** The first column and row of the list, counted from the grid's place. */
  i0: number
  j0: number
  /** Four floats a tile, premultiplied. */
  colours: Float32Array
}

/** How far odd rows are moved, in tiles. */
const shiftOf = (bond: Grid['bond']) => (bond === 'half' ? 0.5 : bond === 'third' ? 1 / 3 : 0)

/** Which columns and rows of tiles there are over a region, with one more on each side. */
function over(region: Region, { width, height, place: at }: Grid): { i0: number; j0: number; nx: number; ny: number } {
  const i0 = Math.floor((region.x - at.x) / width) - 2
  const j0 = Math.floor((region.y - at.y) / height) - 1
  return { i0, j0, nx: Math.ceil((region.x + region.w - at.x) / width) + 1 - i0, ny: Math.ceil((region.y + region.h - at.y) / height) + 1 - j0 }
}

/** For each pixel from `from` on: twice the number of its tile, plus 1 where it lies in the joint at the tile's far side. */
function numbers(from: number, n: number, start: number, size: number, joint: number, first: number): Int32Array {
  return Int32Array.from({ length: n }, (_, k) => {
    const tile = Math.floor((from + k + 0.5 - start) / size)
    // the joint is as wide everywhere: whole pixels before the next tile begins
    const next = Math.ceil(start + (tile + 1) * size - 0.5)
    return (tile - first) * 2 + (next - (from + k) <= joint ? 1 : 0)
  })
}

export const pixelBlocks = defineStep({
  id: 'pixel-blocks',
  version: 1,
  title: 'Pixel blocks',
  group: 'tile',
  kind: 'planned',
  onPaper: true,
  help: 'The picture in flat tiles, in straight or staggered rows, close together or with joints.',
  method:
    'Mean (premultiplied) of each cell of a grid fixed to the sheet, or of its middle (a twelfth to a twenty-fourth of it across); tiles and joints of whole pixels',
  params: {
    width: length({ title: 'Tile width', default: percent(1.6), min: 2, max: 2000, feel: 'log', help: 'How wide a tile is, its joint included.' }),
    height: length({ title: 'Tile height', default: percent(1.6), min: 2, max: 2000, feel: 'log', help: 'How high a tile is, its joint included.' }),
    joint: length({ title: 'Joint', default: px(0), min: 0, max: 200, help: 'How wide the gap between tiles is.' }),
    grout: colour({ title: 'Joint colour', default: '#2a2826', help: 'What is seen between the tiles.' }),
    bond: choice({
      title: 'Rows',
      default: 'straight',
      options: [
        { value: 'straight', title: 'Straight' },
        { value: 'half', title: 'Staggered by a half' },
        { value: 'third', title: 'Staggered by a third' },
      ],
      help: 'Joints one above the other, or as bricks are laid.',
    }),
    taken: choice({
      title: 'Colour',
      default: 'mean',
      options: [
        { value: 'mean', title: 'Mean of the tile' },
        { value: 'middle', title: 'Its middle' },
      ],
      help: 'The mean is calm; its middle alone, a sixteenth of it across, keeps sparkle.',
    }),
    place: place({ title: 'Grid at', default: { x: 0, y: 0 }, help: 'A corner of a tile lies here: drag it until the tiles fall well on the subject.' }),
  },
  // tiles have hard borders of whole pixels: views are reduced from them
  coarsest: () => 0,
  planAt: ({ width, height }) => halvings(Math.min(width, height) / 12),
  plan: ({ input, kernels, level, extent }, { width, height, bond, taken, place: at }): Tiles => {
    const scale = 2 ** level
    const grid = { width: width * scale, height: height * scale, place: { x: at.x * scale, y: at.y * scale }, bond }
    const { i0, j0, nx, ny } = over(extent, grid)
    const bytes = nx * ny * 16
    const colours = kernels.scratch(bytes, (dst) => {
      const [ox, oy] = [at.x + i0 * width - input.region.x, at.y + j0 * height - input.region.y]
      const middle = taken === 'middle' ? 1 : 0
      kernels.raw.tileMeans(input.ptr, input.stride, input.region.w, input.region.h, ox, oy, width, height, shiftOf(bond) * width, j0 & 1, nx, ny, middle, dst)
      return kernels.f32(dst, nx * ny * 4).slice()
    })
    return { nx, ny, i0, j0, colours }
  },
  draw: ({ output, kernels, level, plan }, { width, height, joint, grout, bond, place: at }) => {
    const { x, y, w, h } = output.region
    // whole pixels, and at full size to be seen where there is one
    const gap = joint <= 0 ? 0 : Math.max(level > 0 ? 0 : 1, Math.round(joint))
    const even = numbers(x, w, at.x, width, gap, plan.i0)
    const odd = numbers(x, w, at.x + shiftOf(bond) * width, width, gap, plan.i0)
    const rows = numbers(y, h, at.y, height, gap, plan.j0)
    const held = (v: number, n: number) => Math.min(2 * n - 1, Math.max(0, v))
    kernels.scratch(w * 8 + h * 8 + plan.colours.byteLength + 32, (columns) => {
      const lines = columns + w * 8
      const tiles = (lines + h * 8 + 15) & ~15
      kernels.scratch(16, (colour3) => {
        const view = new Int32Array(kernels.memory.buffer, columns, w * 2 + h * 2)
        for (let i = 0; i < w; i++) {
          view[i] = held(even[i]!, plan.nx)
          view[w + i] = held(odd[i]!, plan.nx)
        }
        for (let i = 0; i < h; i++) {
          const row = held(rows[i]!, plan.ny)
          view[w * 2 + i * 2] = row
          view[w * 2 + i * 2 + 1] = ((row >> 1) + plan.j0) & 1
        }
        kernels.f32(tiles, plan.colours.length).set(plan.colours)
        kernels.f32(colour3, 3).set(rgbOfHex(grout))
        kernels.raw.drawTiles(output.ptr, output.stride, w, h, columns, lines, 8, tiles, plan.nx, colour3)
      })
    })
  },
})
