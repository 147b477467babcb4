import { artworkFromPhoto } from '../artwork/load.ts'
import { newLayer, newStep } from '../artwork/layers.ts'
import type { Artwork } from '../artwork/schema.ts'

// Artworks of a size and weight that people make, for the bench and the browser tests.

export interface PhotoFacts {
  asset: string
  width: number
  height: number
  title: string
}

const percent = (value: number) => ({ value, unit: '%' })

/** Twelve steps over four layers: blurs, tone curves, live copies, a dodge, paper. */
export function twelveSteps(photo: PhotoFacts): Artwork {
  const a = artworkFromPhoto(photo)
  return {
    ...a,
    layers: [
      {
        ...a.layers[0]!,
        id: 'base',
        name: 'Black-and-white',
        chain: [
          newStep('black-white', { filter: 'orange' }),
          newStep('gaussian-blur', { sigma: percent(0.05) }),
          newStep('levels', { black: 12, white: 248, midtone: 1.1 }),
        ],
      },
      {
        ...newLayer('Pencil lines', { type: 'live', layer: 'base' }, [newStep('invert'), newStep('gaussian-blur', { sigma: percent(0.5) })], 'lines'),
        blend: 'color-dodge',
      },
      {
        ...newLayer('Shading', { type: 'live', layer: 'base' }, [
          newStep('gaussian-blur', { sigma: percent(0.2) }),
          newStep('levels', { white: 190 }),
          newStep('curves', {
            points: [
              [0, 0.06],
              [0.4, 0.5],
              [1, 1],
            ],
          }),
        ]),
        blend: 'multiply',
        opacity: 0.4,
      },
      newLayer('Values and paper', { type: 'below' }, [
        newStep('levels', { black: 20, midtone: 0.8 }),
        newStep('brightness-contrast', { contrast: 0.1 }),
        newStep('gaussian-blur', { sigma: percent(0.015) }),
        newStep('paper-tooth'),
      ]),
    ],
  }
}

/** Ten steps of every sort, one after the other. */
export function mixedChain(photo: PhotoFacts): Artwork {
  const a = artworkFromPhoto(photo)
  a.layers[0]!.chain = [
    newStep('levels', { black: 10, white: 245 }),
    newStep('gaussian-blur', { sigma: percent(0.03) }),
    newStep('curves', {
      points: [
        [0, 0],
        [0.3, 0.25],
        [0.7, 0.78],
        [1, 1],
      ],
    }),
    newStep('black-white', { by: 'bt709' }),
    newStep('gaussian-blur', { sigma: percent(0.4) }),
    newStep('brightness-contrast', { brightness: 0.05, contrast: 0.2 }),
    newStep('invert'),
    newStep('gaussian-blur', { sigma: percent(0.08) }),
    newStep('paper-tooth'),
    newStep('levels', { midtone: 1.3 }),
  ]
  return a
}

/** Six layers in six blend modes. */
export function sixLayers(photo: PhotoFacts): Artwork {
  const a = artworkFromPhoto(photo)
  const base = { ...a.layers[0]!, id: 'base' }
  const live = (name: string, blend: 'multiply' | 'screen' | 'soft-light' | 'luminosity' | 'overlay', opacity: number) => ({
    ...newLayer(name, { type: 'live', layer: 'base' }),
    blend,
    opacity,
  })
  return {
    ...a,
    layers: [
      base,
      live('two', 'multiply', 0.5),
      live('three', 'screen', 0.4),
      live('four', 'soft-light', 1),
      live('five', 'overlay', 0.3),
      live('six', 'luminosity', 0.8),
    ],
  }
}

/** One blur as wide as 2 % of the long side, between two tone steps. */
export function wideBlur(photo: PhotoFacts): Artwork {
  const a = artworkFromPhoto(photo)
  a.layers[0]!.chain = [newStep('levels', { black: 10 }), newStep('gaussian-blur', { sigma: percent(2) }), newStep('curves')]
  return a
}

/** Six point steps and two blurs. */
export function eightSteps(photo: PhotoFacts): Artwork {
  const a = artworkFromPhoto(photo)
  a.layers[0]!.chain = [
    newStep('black-white'),
    newStep('levels', { black: 10, white: 245 }),
    newStep('gaussian-blur', { sigma: percent(0.1) }),
    newStep('curves'),
    newStep('brightness-contrast', { contrast: 0.15 }),
    newStep('gaussian-blur', { sigma: percent(0.6) }),
    newStep('invert'),
    newStep('levels', { midtone: 1.2 }),
  ]
  return a
}
