import type { Artwork } from './schema.ts'
import type { AnyStep } from '../steps/contract.ts'
import { stepAt } from '../steps/registry.ts'

/** One set of colours for a picture. */
export type Colourway = Artwork['colourways'][number]

// How a colourway changes colours: by the steps there are, at versions that stay.

/** The step of a colourway, with whole parameters; null where it changes nothing. */
export function stepOfColourway({ change }: Colourway): { def: AnyStep; params: Record<string, unknown> } | null {
  if (change.type === 'hue') {
    const def = stepAt('hue-saturation', 2)
    return change.degrees % 360 === 0 ? null : { def, params: { ...def.defaults, hue: ((((change.degrees + 180) % 360) + 360) % 360) - 180 } }
  }
  const def = stepAt('gradient-map', 1)
  return { def, params: { ...def.defaults, stops: change.type === 'gradient' ? change.stops : stepped(change.colours) } }
}

/** Stops of a gradient that is each colour in turn, over as many tones: one after the other, with nothing between. */
export function stepped(colours: readonly string[]): [number, string][] {
  const n = colours.length
  if (n === 1)
    return [
      [0, colours[0]!],
      [1, colours[0]!],
    ]
  // less than from one 16-bit tone to the next: none lies between
  const half = 1 / 262_144
  return colours.flatMap((c, i): [number, string][] => [
    [i === 0 ? 0 : i / n + half, c],
    [i === n - 1 ? 1 : (i + 1) / n - half, c],
  ])
}
