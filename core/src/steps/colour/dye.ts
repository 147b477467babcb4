import { oklabOfRgb, rgbOfHex } from '../../colour/oklab.ts'
import { transferTables } from '../../colour/srgb.ts'
import { defineStep } from '../contract.ts'
import { colour, share } from '../params/index.ts'
import { cubeIn, tableIn } from '../table-cache.ts'

/** Lightness at which a picture takes most of a dye. */
const MIDDLE = 0.5
const ENTRIES = 258

const smooth = (t: number) => t * t * (3 - 2 * t)

/** How much of the dye a tone takes (1: as much as the middle tones), by OKLab lightness 0…1: what the darks take, 1 in the middle, what the lights take. */
export function taken(lightness: number, lights: number, darks: number): number {
  if (lightness <= MIDDLE) return darks + (1 - darks) * smooth(lightness / MIDDLE)
  return 1 + (lights - 1) * smooth((lightness - MIDDLE) / (1 - MIDDLE))
}

/** What of the dye's own lightness black reaches where the darks take all of it. */
const DEEPEST = 0.75

/** The lightness that becomes of one where black comes to lie at `black` and white at `white`: in their order, the darker ones less. */
export const sunk = (lightness: number, black: number, white: number): number => {
  const down = lightness / (1 + (1 / white - 1) * lightness)
  return black + (down * (white - black)) / white
}

export const dye = defineStep({
  id: 'dye',
  version: 1,
  title: 'Dye',
  group: 'colour',
  kind: 'point',
  help: 'Lays the picture in a dye: its tones stay, and take on one colour, the lights and the darks as much of it as you say.',
  method:
    'In OKLab (Ottosson 2020): to each lightness the dye’s own a and b, weighed by a smooth step from the darks over the middle to the lights, as strong as sRGB has them there; white sinks to the dye’s lightness as far as the lights take it, black rises towards it as far as the darks do',
  params: {
    dye: colour({ title: 'Dye', default: '#8a5a2b', help: 'The colour of the dye: walnut brown, indigo or madder.' }),
    depth: share({ title: 'Depth', default: 0.8, max: 1.5, help: 'How long the sheet lies in it.' }),
    lights: share({ title: 'Lights take', default: 0.25, help: 'At 0 the white of the paper stays white; at 100 % it becomes the dye.' }),
    darks: share({ title: 'Darks take', default: 0.6, help: 'At 0 the darks stay black; at 100 % black becomes the dye at its deepest.' }),
    own: share({ title: 'Own colours left', default: 0, help: 'How much of the picture’s own colours shows through.' }),
  },
  run: ({ input, output, kernels }, { dye: bath, depth, lights, darks, own }) => {
    const [light, a, b] = oklabOfRgb(rgbOfHex(bath), kernels.raw.pow)
    const white = Math.max(0.02, 1 - Math.min(1, depth) * lights * (1 - light))
    const deep = Math.min(1, depth * darks)
    const black = Math.min(white, DEEPEST * deep * deep * light)
    const name = `dye ${bath} ${depth} ${lights} ${darks}`
    const colours = cubeIn(kernels, `${name} ${own}`, (ptr, stride, w, h) => {
      const table = tableIn(kernels, name, () => {
        const t = new Float32Array(ENTRIES * 4)
        for (let i = 0; i < ENTRIES; i++) {
          const lightness = Math.min(1, i / 256)
          const much = depth * taken(lightness, lights, darks)
          t.set([a * much, b * much, sunk(lightness, black, white), 0], i * 4)
        }
        return t
      })
      const { decode, encode } = transferTables(kernels)
      kernels.raw.dye(ptr, stride, ptr, stride, w, h, table, own, decode, encode)
    })
    kernels.raw.cube(input.ptr, input.stride, output.ptr, output.stride, output.region.w, output.region.h, colours)
  },
})
