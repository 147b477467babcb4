import { defineStep, tableOf } from '../contract.ts'
import { bounds, choice, number, tone } from '../params/index.ts'

// taken once: loops over planes look nothing up
const { max, min, round } = Math

/** Where the tones part: as set, or evenly. 0…255. */
export const boundariesOf = (tones: number, set: readonly number[]): number[] =>
  set.length ? [...set] : Array.from({ length: tones - 1 }, (_, i) => ((i + 1) / tones) * 255)

/** The tone 0…1 that a tone 0…1 becomes: plates of even steps from black to white, their borders `soft` tones wide. */
export function plates(boundaries: readonly number[], soft: number): (v: number) => number {
  const n = boundaries.length
  const half = max(1e-6, soft / 2)
  return (v) => {
    const t = v * 255
    let sum = 0
    for (const b of boundaries) {
      const s = min(1, max(0, (t - b + half) / (2 * half)))
      sum += s * s * (3 - 2 * s)
    }
    return sum / n
  }
}

export const posterize = defineStep({
  id: 'posterize',
  version: 1,
  title: 'Posterize',
  group: 'tone',
  kind: 'table',
  help: 'Few flat tones instead of many: the picture in plates.',
  method: 'Steps of equal height at the boundaries, with a smooth border (3t² − 2t³); each channel by itself, or the lightness with colour kept',
  params: {
    by: choice({
      title: 'Plates of',
      default: 'luminance',
      options: [
        { value: 'luminance', title: 'Lightness' },
        { value: 'channels', title: 'Each channel' },
      ],
      help: 'Lightness keeps the colours; each channel by itself makes new ones.',
    }),
    tones: number({ title: 'Tones', default: 4, min: 2, max: 12, step: 1, help: 'How many plates, unless boundaries are set.' }),
    boundaries: bounds({
      title: 'Boundaries',
      default: [],
      max: 11,
      help: 'Where one plate ends and the next begins; drag them on the histogram. None: evenly.',
    }),
    softness: tone({ title: 'Soft width', default: 2, max: 40, help: 'How many tones the change from one plate to the next takes.' }),
  },
  sample: { tones: 4 },
  // a plate of a mean of pixels is not the mean of their plates
  coarsest: () => 0,
  table: ({ by, tones, boundaries, softness }) => tableOf(by === 'channels' ? plates(boundariesOf(round(tones), boundaries), softness) : (v) => v),
  luma: ({ by, tones, boundaries, softness }) => (by === 'luminance' ? tableOf(plates(boundariesOf(round(tones), boundaries), softness)) : null),
})
