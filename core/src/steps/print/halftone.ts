import { rgbOfHex } from '../../colour/oklab.ts'
import { grow, type Region } from '../../base/region.ts'
import { defineStep, type Sheet } from '../contract.ts'
import { angle, choice, colour, number, place, share } from '../params/index.ts'
import { addressOf } from '../picture.ts'
import { blurReach, blurWhole } from '../smooth/blurred.ts'
import { tableIn } from '../table-cache.ts'
import { thresholds } from './spot.ts'

/** Angles of the four screens: 30° apart where they show, the pale yellow between (common practice: C 15°, M 75°, Y 0°, K 45°). */
const ANGLES = [15, 75, 0, 45]
/** Process inks as they print on coated paper, about (common practice). */
const INKS = ['#00a0dc', '#e2007a', '#ffe600', '#1d1d1b']

/** The side of a cell in artwork pixels. */
export function pitchOf(p: { counted: 'across' | 'lpi'; across: number; lpi: number; sheet: Sheet }): number {
  return Math.max(1.5, p.counted === 'lpi' ? p.sheet.ppi / p.lpi : p.sheet.reference / p.across)
}
const calmOf = (pitch: number, detail: number) => pitch * 0.32 * (1 - detail)
const seenOf = (region: Region, pitch: number, detail: number) => (calmOf(pitch, detail) < 0.3 ? grow(region, 1) : blurReach(region, calmOf(pitch, detail)))

export const halftone = defineStep({
  id: 'halftone',
  version: 1,
  title: 'Halftone',
  group: 'print',
  kind: 'neighbourhood',
  marks: true,
  onPaper: true,
  bySheet: true,
  help: 'Prints the tones as dots of solid ink, in one ink or in the four of colour printing.',
  method:
    'Amplitude-modulated screening: a threshold over each cell, by rank, so that the area of a dot is the tone; four inks on turned screens, their grey component in part replaced by black; sampled 16 to 64 times a pixel',
  params: {
    inks: choice({
      title: 'Inks',
      default: 'one',
      options: [
        { value: 'one', title: 'One ink' },
        { value: 'four', title: 'Four inks (CMYK)' },
      ],
      help: 'One ink on paper, or cyan, magenta, yellow and black over each other.',
    }),
    counted: choice({
      title: 'Ruling by',
      default: 'across',
      options: [
        { value: 'across', title: 'Cells across' },
        { value: 'lpi', title: 'Lines per inch' },
      ],
      help: 'Counted over the long side of the picture, or by the inch at the artwork’s ppi.',
    }),
    across: number({
      title: 'Cells across',
      default: 110,
      min: 8,
      max: 900,
      step: 1,
      feel: 'log',
      when: { param: 'counted', is: ['across'] },
      help: 'How many dots stand along the long side.',
    }),
    lpi: number({
      title: 'Ruling',
      default: 45,
      min: 5,
      max: 200,
      step: 1,
      feel: 'log',
      when: { param: 'counted', is: ['lpi'] },
      help: 'Lines per inch: newspapers 60 to 85, coarse comics 20 to 40.',
    }),
    dot: choice({
      title: 'Dot',
      default: 'round',
      options: [
        { value: 'round', title: 'Round' },
        { value: 'ellipse', title: 'Ellipse' },
        { value: 'diamond', title: 'Diamond' },
        { value: 'square', title: 'Square' },
        { value: 'line', title: 'Line' },
        { value: 'cross', title: 'Cross' },
      ],
      help: 'The shape of a dot; ellipses join softly, lines engrave.',
    }),
    angle: angle({ title: 'Angle', default: 45, min: -90, max: 90, help: 'How the screen is turned; with four inks, all of them together, from 45.' }),
    detail: share({ title: 'Detail in the dot', default: 0.5, help: 'Whole dots only, or dots that are cut by what they show.' }),
    black: share({
      title: 'Black for grey',
      default: 0.7,
      when: { param: 'inks', is: ['four'] },
      help: 'How much of the grey in a colour is printed as black.',
    }),
    ink: colour({ title: 'Ink', default: '#161514', when: { param: 'inks', is: ['one'] }, help: 'The colour of the dots.' }),
    paper: colour({ title: 'Paper', default: '#ffffff', help: 'The colour between them.' }),
    place: place({ title: 'Grid at', default: { x: 0, y: 0 }, help: 'A corner of a cell lies here: drag it until dots fall well on eyes and edges.' }),
  },
  // dots are solid: what a view shows must be reduced from them
  coarsest: () => 0,
  needs: (region, p, level) => seenOf(region, pitchOf(p) / 2 ** level, p.detail),
  run: async ({ input, output, kernels, level, pause }, p) => {
    const { raw, allocator } = kernels
    const { region } = output
    const { x, y, w, h } = region
    const pitch = pitchOf(p) / 2 ** level
    const calm = calmOf(pitch, p.detail)
    const picture = allocator.alloc(w * h * 8)
    const plane = allocator.alloc(w * h * 4)
    try {
      if (calm < 0.3) raw.copyRect(addressOf(input, region), input.stride, picture, w * 8, w * 8, h)
      else {
        const need = blurReach(region, calm)
        blurWhole(kernels, { ptr: addressOf(input, need), stride: input.stride, region: need }, { ptr: picture, stride: w * 8, region }, calm)
      }
      const table = tableIn(kernels, `spot ${p.dot}`, () => thresholds(p.dot, raw.cos))
      // few samples for large dots, whose borders are few
      const sub = pitch < 6 ? 8 : 4
      const inks = p.inks === 'one' ? [4] : [2, 0, 1, 3]
      for (const [i, ink] of inks.entries()) {
        if (i > 0) await pause()
        raw.inkOf(picture, w * 8, plane, w * 4, w, h, ink, p.black)
        const turned = p.inks === 'one' ? p.angle : ANGLES[ink]! + p.angle - 45
        const radians = (-turned * 3.141592653589793) / 180
        // u = x·cos + y·sin and v = y·cos − x·sin, in cells, as fractions of 2³²
        const [cos, sin] = [raw.cos(radians) / pitch, raw.sin(radians) / pitch]
        const [px, py] = [p.place.x, p.place.y]
        const turns = (v: number) => Math.round((v - Math.floor(v)) * 4294967296) | 0
        raw.screen(
          plane,
          w * 4,
          w,
          h,
          x,
          y,
          Math.round((cos / sub) * 4294967296) | 0,
          Math.round((-sin / sub) * 4294967296) | 0,
          turns(-(px * cos + py * sin)),
          turns(-(py * cos - px * sin)),
          table,
          sub,
        )
        kernels.scratch(32, (colours) => {
          kernels.f32(colours, 6).set([...rgbOfHex(ink === 4 ? p.ink : INKS[ink]!), ...rgbOfHex(p.paper)])
          raw.layInk(plane, w * 4, addressOf(input, region), input.stride, output.ptr, output.stride, w, h, colours, i === 0 ? 1 : 0)
        })
      }
    } finally {
      allocator.free(picture)
      allocator.free(plane)
    }
  },
})
