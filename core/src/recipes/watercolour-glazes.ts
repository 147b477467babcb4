import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { along, by, dial, pick } from './parts.ts'

const percent = (value: number) => ({ value, unit: '%' })

/** Flat washes from light to dark, whites left, the last darks few and crisp. */
export const watercolourGlazes: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 4,
  retouch: null,
  id: 'watercolour-glazes',
  title: 'Watercolour in glazes',
  help: 'Washes laid one over the other from light to dark: whites left, edges found and lost, the last darks few and crisp.',
  needs: { flat: 'glazes will hardly part', busy: 'washes will be small' },
  layers: [
    newLayer(
      'Washes',
      { type: 'open-photo' },
      [newStep('shadows-highlights', { shadows: 0.35, highlights: 0, reach: percent(2) }, 'open'), newStep('wash', {}, 'wash')],
      'washes',
    ),
  ],
  controls: [
    pick(
      'box',
      'Pigments',
      'What is squeezed out.',
      { photo: 'By the photo', landscape: 'Landscape', portrait: 'Portrait', earths: 'Earths', clear: 'Clear stains' },
      [by('washes', 'wash', 'box', { photo: 'photo', landscape: 'landscape', portrait: 'portrait', earths: 'earths', clear: 'clear' })],
    ),
    dial('brush', 'Brush', 'How broad the brush is: nothing smaller is made a shape of.', ['Small', 'Mop'], 45, [
      along(
        'washes',
        'wash',
        'brush',
        [
          [0, 0.7],
          [45, 2],
          [100, 7],
        ],
        '%',
      ),
    ]),
    dial('wet', 'Wet', 'Wet on dry, with crisp edges and broken brushwork, or wet in wet.', ['On dry', 'In wet'], 45, [
      along('washes', 'wash', 'wetness', [
        [0, 0.05],
        [45, 0.45],
        [100, 1],
      ]),
      along('washes', 'wash', 'edges', [
        [0, 0.95],
        [45, 0.55],
        [100, 0.05],
      ]),
    ]),
    dial('whites', 'Whites', 'How much paper is left white.', ['Few', 'Many'], 40, [
      along('washes', 'wash', 'whites', [
        [0, 0],
        [40, 0.4],
        [100, 1],
      ]),
    ]),
    dial(
      'dry',
      'How it dried',
      'How much pigment gathered at rims, was carried about, and was pushed away where water ran back.',
      ['Even', 'Rims and blooms'],
      50,
      [
        along('washes', 'wash', 'rims', [
          [0, 0],
          [50, 0.5],
          [100, 1],
        ]),
        along('washes', 'wash', 'flow', [
          [0, 0.05],
          [50, 0.4],
          [100, 0.9],
        ]),
        along('washes', 'wash', 'blooms', [
          [0, 0],
          [50, 0.2],
          [100, 0.7],
        ]),
      ],
    ),
    dial('key', 'Key', 'How much lighter than the photo the painting is.', ['As the photo', 'Light'], 50, [
      along('washes', 'wash', 'key', [
        [0, 0],
        [100, 1],
      ]),
    ]),
  ],
}
