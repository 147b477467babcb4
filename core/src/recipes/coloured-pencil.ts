import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { along, by, dial, pick } from './parts.ts'

const percent = (value: number) => ({ value, unit: '%' })
/** Sets of pencils as boxes hold them, no black among them. */
const sets = {
  photo: [],
  twelve: ['#f3d34a', '#e9923a', '#d8452e', '#b8456e', '#7a4a9a', '#3a62b8', '#3f9ac4', '#3f8f5a', '#8fb04a', '#b97a45', '#6e4a34', '#33303f'],
  earths: ['#e4c89a', '#cf9a5c', '#b8693e', '#8a4a34', '#5e4634', '#7d8474', '#3a3540'],
  evening: ['#f2c48e', '#e58a6e', '#c2577a', '#7d5aa6', '#4a64b0', '#2f4a78', '#2c2a44'],
}

/** Coloured pencils laid stroke over stroke, darks without black, the paper sparkling through. */
export const colouredPencilDrawing: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 4,
  retouch: null,
  id: 'coloured-pencil-drawing',
  title: 'Coloured pencil',
  help: 'A drawing in coloured pencils: one hand, stroke over stroke, darks without black, the paper sparkling through.',
  needs: { flat: 'few pencils will be used', few: 'points will look broad' },
  layers: [
    newLayer(
      'Pencils',
      { type: 'open-photo' },
      [newStep('shadows-highlights', { shadows: 0.3, highlights: 0, reach: percent(2) }, 'open'), newStep('coloured-pencil', {}, 'pencils')],
      'pencils',
    ),
  ],
  controls: [
    pick('set', 'Pencils', 'Chosen by the photo, or a box of them.', { photo: 'By the photo', twelve: 'Twelve', earths: 'Earths', evening: 'Evening' }, [
      by('pencils', 'pencils', 'pencils', sets),
    ]),
    dial('point', 'Point', 'How broad the points are: sharp ones draw fine strokes.', ['Sharp', 'Blunt'], 45, [
      along(
        'pencils',
        'pencils',
        'breadth',
        [
          [0, 0.1],
          [45, 0.2],
          [100, 0.5],
        ],
        '%',
      ),
    ]),
    dial('work', 'Worked over', 'How closely the strokes lie: open, or until little paper shows.', ['Open', 'Dense'], 65, [
      along('pencils', 'pencils', 'closeness', [
        [0, 0.2],
        [65, 0.85],
        [100, 1],
      ]),
    ]),
    dial('key', 'Key', 'How much lighter than the photo the drawing is.', ['As the photo', 'Light'], 40, [
      along('pencils', 'pencils', 'key', [
        [0, 0],
        [40, 0.4],
        [100, 1],
      ]),
      along('pencils', 'pencils', 'bare', [
        [0, 0.1],
        [40, 0.35],
        [100, 0.8],
      ]),
    ]),
    pick('paper', 'Paper', 'What it is drawn on.', { white: 'White', cream: 'Cream', grey: 'Grey' }, [
      by('pencils', 'pencils', 'paper', { white: '#fbf9f4', cream: '#f3e7cd', grey: '#cfcac2' }),
    ]),
  ],
}
