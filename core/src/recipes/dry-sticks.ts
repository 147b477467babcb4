import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { along, by, dial, pick } from './parts.ts'

const percent = (value: number) => ({ value, unit: '%' })
const head = { format: RECIPE_FORMAT, version: RECIPE_VERSION, edition: 2, retouch: null } as const

/** Charcoal and a little chalk on toned paper, which is the middle value. */
export const charcoalDrawing: Recipe = {
  ...head,
  id: 'charcoal-drawing',
  title: 'Charcoal',
  help: 'Charcoal on toned paper: masses rubbed in, broad broken strokes, few accents, the lights laid last in chalk.',
  needs: { alike: 'masses will run together', flat: 'there will be no lights to lift', busy: 'features will be coarse' },
  layers: [
    newLayer(
      'Charcoal',
      { type: 'open-photo' },
      [newStep('shadows-highlights', { shadows: 0.25, highlights: 0, reach: percent(2) }, 'open'), newStep('charcoal', {}, 'charcoal')],
      'charcoal',
    ),
  ],
  controls: [
    dial('stick', 'Stick', 'How broad the stick is: its edge, or its whole side.', ['Edge', 'Side'], 45, [
      along(
        'charcoal',
        'charcoal',
        'stick',
        [
          [0, 0.35],
          [45, 1],
          [100, 3],
        ],
        '%',
      ),
    ]),
    dial('rubbed', 'Rubbed', 'How much is rubbed into the paper with a finger.', ['Strokes', 'Rubbed'], 50, [
      along('charcoal', 'charcoal', 'rubbed', [
        [0, 0],
        [100, 1],
      ]),
    ]),
    dial('lights', 'Chalk', 'How much chalk is laid in the lights.', ['None', 'Much'], 50, [
      along('charcoal', 'charcoal', 'lights', [
        [0, 0],
        [100, 1],
      ]),
    ]),
    dial('key', 'Key', 'How much lighter than the photo the drawing is.', ['Dark', 'Light'], 40, [
      along('charcoal', 'charcoal', 'key', [
        [0, 0],
        [40, 0.35],
        [100, 1],
      ]),
    ]),
    pick('paper', 'Paper', 'The toned paper: the middle value.', { buff: 'Buff', grey: 'Grey', blue: 'Blue', white: 'White' }, [
      by('charcoal', 'charcoal', 'paper', { buff: '#b9ac97', grey: '#a5a5a1', blue: '#8d9aa8', white: '#f1ede4' }),
    ]),
  ],
}

/** Sticks of colour on toned paper. */
export const pastelPicture: Recipe = {
  ...head,
  id: 'pastel-picture',
  title: 'Pastel',
  help: 'Sticks of few colours on toned paper: rubbed in, then stroke over stroke, darks first, lights last.',
  needs: { busy: 'sticks will be too broad for it', flat: 'few sticks will be used' },
  layers: [
    newLayer(
      'Pastel',
      { type: 'open-photo' },
      [newStep('shadows-highlights', { shadows: 0.3, highlights: 0, reach: percent(2) }, 'open'), newStep('pastel', {}, 'pastel')],
      'pastel',
    ),
  ],
  controls: [
    dial('stick', 'Stick', 'How broad the sticks are.', ['Edge', 'Side'], 45, [
      along(
        'pastel',
        'pastel',
        'stick',
        [
          [0, 0.3],
          [45, 0.9],
          [100, 2.6],
        ],
        '%',
      ),
    ]),
    dial('rubbed', 'Rubbed', 'How much is rubbed into the paper with a finger.', ['Strokes', 'Rubbed'], 45, [
      along('pastel', 'pastel', 'rubbed', [
        [0, 0],
        [100, 1],
      ]),
    ]),
    dial('colour', 'Colour', 'Subdued, or pure.', ['Subdued', 'Pure'], 60, [
      along('pastel', 'pastel', 'vivid', [
        [0, 0],
        [100, 1],
      ]),
    ]),
    dial('key', 'Key', 'How much lighter than the photo the picture is.', ['Dark', 'Light'], 35, [
      along('pastel', 'pastel', 'key', [
        [0, 0],
        [35, 0.3],
        [100, 1],
      ]),
    ]),
    pick('paper', 'Paper', 'The toned paper, which shows between the strokes.', { umber: 'Umber', grey: 'Grey', blue: 'Blue', cream: 'Cream' }, [
      by('pastel', 'pastel', 'paper', { umber: '#8c8276', grey: '#9a9a98', blue: '#6f7f92', cream: '#e9dcc3' }),
    ]),
  ],
}
