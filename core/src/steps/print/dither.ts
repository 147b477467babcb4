import { oklabOfRgb, pixelOf, rgbOfHex } from '../../colour/oklab.ts'
import { transferTables } from '../../colour/srgb.ts'
import { lumaBt709 } from '../colour/black-white.ts'
import { paletteOf } from '../colour/photo-palette.ts'
import { defineStep } from '../contract.ts'
import { choice, colour, flag, number, palette, share } from '../params/index.ts'
import { tableIn } from '../table-cache.ts'

/**
 * The Bayer matrix of side n (a power of two) as thresholds 0…65535, by its recursion: 4·M(n/2) + (0 2; 3 1).
 * Bayer, "An optimum method for two-level rendition of continuous-tone pictures", ICC 1973.
 */
export function bayer(n: number): Uint16Array {
  const at = (x: number, y: number, side: number): number => {
    if (side === 1) return 0
    const half = side / 2
    const quarter = [0, 2, 3, 1][(y >= half ? 2 : 0) + (x >= half ? 1 : 0)]!
    return 4 * at(x % half, y % half, half) + quarter
  }
  return Uint16Array.from({ length: n * n }, (_, i) => Math.floor(((at(i % n, Math.floor(i / n), n) + 0.5) / (n * n)) * 65536))
}

/** What an error is handed on in: three rows of five, the pixel in the middle of the first. */
export const diffusions = {
  /** Floyd and Steinberg 1976: 7, 3, 5, 1 sixteenths. */
  floyd: [0, 0, 0, 7, 0, 0, 3, 5, 1, 0, 0, 0, 0, 0, 0].map((v) => v / 16),
  /** Jarvis, Judice and Ninke 1976: forty-eighths. */
  jarvis: [0, 0, 0, 7, 5, 3, 5, 7, 5, 3, 1, 3, 5, 3, 1].map((v) => v / 48),
}
const ordered = (way: string) => way.startsWith('bayer') || way === 'blue-noise'

export const dither = defineStep({
  id: 'dither',
  version: 1,
  title: 'Dither',
  group: 'print',
  kind: 'sequential',
  onPaper: true,
  help: 'All tones out of two, or out of a few colours, by the way pixels of them are mixed.',
  method: 'Ordered: Bayer 1973; blue noise by void and cluster (Ulichney 1993). Error diffusion: Floyd and Steinberg 1976, Jarvis, Judice and Ninke 1976',
  params: {
    way: choice({
      title: 'Pattern',
      default: 'floyd',
      options: [
        { value: 'bayer4', title: 'Woven, coarse (Bayer 4)' },
        { value: 'bayer8', title: 'Woven, fine (Bayer 8)' },
        { value: 'blue-noise', title: 'Scattered (blue noise)' },
        { value: 'floyd', title: 'Drawn (Floyd–Steinberg)' },
        { value: 'jarvis', title: 'Drawn, smooth (Jarvis)' },
      ],
      help: 'Woven repeats as a weave does; scattered has no order; drawn follows the picture.',
    }),
    colours: choice({
      title: 'Out of',
      default: 'two',
      options: [
        { value: 'two', title: 'Two tones' },
        { value: 'palette', title: 'A palette' },
      ],
      help: 'Ink and paper, or several colours.',
    }),
    ink: colour({ title: 'Ink', default: '#161514', when: { param: 'colours', is: ['two'] }, help: 'The dark one of the two.' }),
    paper: colour({ title: 'Paper', default: '#ffffff', when: { param: 'colours', is: ['two'] }, help: 'The light one.' }),
    palette: palette({
      title: 'Palette',
      default: [],
      when: { param: 'colours', is: ['palette'] },
      help: 'The colours there are. None: they are found in the photo.',
    }),
    count: number({
      title: 'Colours',
      default: 6,
      min: 2,
      max: 24,
      step: 1,
      when: { param: 'colours', is: ['palette'] },
      help: 'How many are found where none are given.',
    }),
    strength: share({ title: 'Strength', default: 1, help: 'How much is mixed: none leaves hard steps.' }),
    serpentine: flag({
      title: 'To and fro',
      default: true,
      when: { param: 'way', is: ['floyd', 'jarvis'] },
      help: 'Every second row from the right: no worms that all run one way.',
    }),
  },
  carries: ({ way }) => !ordered(way),
  coarsest: () => 0,
  state: (width, { way }) => (ordered(way) ? 0 : (width + 4) * 36 + 16),
  analysedBy: ['colours', 'palette', 'count'],
  analyse: (work, { colours, palette: given, count }) => ({
    palette: colours === 'two' ? null : given.length > 1 ? given : paletteOf(work, Math.round(count), 'k-means'),
  }),
  glance: ({ input, output, kernels, facts }, { ink, paper, strength }) => {
    const { raw } = kernels
    const { w, h } = output.region
    if (facts.palette) {
      if (input !== output) raw.copyRect(input.ptr, input.stride, output.ptr, output.stride, w * 8, h)
      return
    }
    // as much paper as the tone asks for
    const mixed = tableIn(kernels, `mixed tones ${ink} ${paper} ${strength}`, () => {
      const t = new Uint16Array(65536 * 4)
      const [dark, light] = [ink, paper].map((c) => rgbOfHex(c).map((v) => v * 65535))
      for (let i = 0; i < 65536; i++) {
        const share = Math.min(1, Math.max(0, (i / 65535 - 0.5) / Math.max(strength, 0.01) + 0.5))
        for (let c = 0; c < 3; c++) t[i * 4 + c] = Math.round(dark![c]! + (light![c]! - dark![c]!) * share)
        t[i * 4 + 3] = 65535
      }
      return t
    })
    raw.greyMix(input.ptr, input.stride, output.ptr, output.stride, w, h, ...lumaBt709)
    raw.lumaMap(output.ptr, output.stride, output.ptr, output.stride, w, h, mixed)
  },
  run: ({ input, output, kernels, facts, state }, { way, ink, paper, strength, serpentine }) => {
    const { raw } = kernels
    const { x, y, w, h } = output.region
    const found = facts.palette
    // two tones are mixed by lightness; their colours come last
    const list = found ?? ['#000000', '#ffffff']
    const colours = tableIn(kernels, `palette ${list.join()}`, () => new Uint16Array(BigUint64Array.from(list, (c) => pixelOf(rgbOfHex(c))).buffer))
    let from = input
    if (!found) {
      raw.greyMix(input.ptr, input.stride, output.ptr, output.stride, w, h, ...lumaBt709)
      from = output
    }
    if (ordered(way)) {
      const n = way === 'bayer4' ? 4 : way === 'bayer8' ? 8 : 64
      const table = tableIn(kernels, `ordered ${way}`, () =>
        way === 'blue-noise'
          ? kernels.scratch(n * n * 2, (at) => {
              raw.blueNoise(at, n, 5)
              return kernels.u16(at, n * n).slice()
            })
          : bayer(n),
      )
      raw.spreadBy(from.ptr, from.stride, output.ptr, output.stride, w, h, x, y, table, n, strength * (found ? gapOf(found) : 1))
      const { decode } = transferTables(kernels)
      if (found) {
        const lab = tableIn(kernels, `palette oklab ${found.join()}`, () => Float32Array.from(found.flatMap((c) => oklabOfRgb(rgbOfHex(c), raw.pow))))
        raw.nearestOklab(output.ptr, output.stride, output.ptr, output.stride, w, h, lab, colours, found.length, decode)
      }
    } else {
      kernels.scratch(64, (weights) => {
        kernels.f32(weights, 15).set(diffusions[way as 'floyd'])
        raw.diffuse(from.ptr, from.stride, output.ptr, output.stride, w, h, state, weights, colours, list.length, strength, serpentine ? 1 : 0)
      })
    }
    if (!found) {
      const two = tableIn(kernels, `two tones ${ink} ${paper}`, () => {
        const t = new Uint16Array(65536 * 4)
        const [dark, light] = [ink, paper].map((c) => rgbOfHex(c).map((v) => Math.round(v * 65535)))
        for (let i = 0; i < 65536; i++) t.set([...(i < 32768 ? dark! : light!), 65535], i * 4)
        return t
      })
      raw.lumaMap(output.ptr, output.stride, output.ptr, output.stride, w, h, two)
    }
  },
})

/** How far apart the colours of a palette lie, on average, to the nearest other: what a pattern must bridge. 0…1 of a channel. */
function gapOf(palette: readonly string[]): number {
  const rgb = palette.map(rgbOfHex)
  const nearest = rgb.map((a, i) =>
    Math.min(...rgb.filter((_, j) => j !== i).map((b) => Math.sqrt((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2))),
  )
  return Math.min(1, nearest.reduce((s, v) => s + v, 0) / nearest.length / 1.2)
}
