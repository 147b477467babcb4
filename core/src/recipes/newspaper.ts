import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { along, by, dial, pick } from './parts.ts'

/** A photograph as a newspaper prints it: hard, screened, in one ink or four, on grey paper. */
export const newspaper: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 1,
  retouch: null,
  id: 'newspaper-print',
  title: 'Newspaper print',
  help: 'Dots of ink on newsprint, in black or in four colours.',
  needs: { flat: 'dots will be all of a size' },
  layers: [
    newLayer(
      'Print',
      { type: 'open-photo' },
      [
        newStep('unsharp-mask', { radius: { value: 0.25, unit: '%' }, amount: 0.8 }, 'crisp'),
        newStep('levels', { black: 18, white: 236, midtone: 1.15 }, 'hard'),
        newStep('halftone', { across: 150, detail: 0.6, ink: '#24211e', paper: '#e9e3d3' }, 'screen'),
        newStep('gaussian-blur', { sigma: { value: 0.02, unit: '%' } }, 'spread'),
        newStep('add-grain', { size: { value: 0.12, unit: '%' }, amount: 0.1, byTone: 0.2 }, 'stock'),
      ],
      'print',
    ),
  ],
  controls: [
    dial('screen', 'Screen', 'How fine the dots are.', ['Coarse', 'Fine'], 50, [
      along('print', 'screen', 'across', [
        [0, 50],
        [50, 150],
        [100, 320],
      ]),
    ]),
    dial('contrast', 'Contrast', 'How hard the photo is printed.', ['Soft', 'Hard'], 45, [
      along('print', 'hard', 'black', [
        [0, 0],
        [45, 18],
        [100, 60],
      ]),
      along('print', 'hard', 'white', [
        [0, 255],
        [45, 236],
        [100, 190],
      ]),
    ]),
    pick('inks', 'Inks', 'Black alone, or four colours.', { one: 'Black', four: 'Four colours' }, [
      by('print', 'screen', 'inks', { one: 'one', four: 'four' }),
    ]),
    pick('dot', 'Dot', 'The shape of the dots.', { round: 'Round', ellipse: 'Ellipse', line: 'Line' }, [
      by('print', 'screen', 'dot', { round: 'round', ellipse: 'ellipse', line: 'line' }),
    ]),
    pick('stock', 'Paper', 'What it is printed on.', { newsprint: 'Newsprint', white: 'White', salmon: 'Salmon' }, [
      by('print', 'screen', 'paper', { newsprint: '#e9e3d3', white: '#fbfaf7', salmon: '#f3d9c4' }),
    ]),
  ],
}
