import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { along, by, dial, pick } from './parts.ts'

const percent = (value: number) => ({ value, unit: '%' })
/** Sets of inks, dark to light. */
const inks = {
  photo: [],
  harbour: ['#16262e', '#2f5560', '#7d9a94', '#c8573a', '#e2b35a', '#f3e6c9'],
  autumn: ['#241a1c', '#5c2e27', '#a5482c', '#d98f3d', '#ecd29a', '#f6ecd6'],
  dusk: ['#171a2b', '#3a3560', '#7b5b87', '#c9788a', '#efb488', '#f7e6c8'],
  meadow: ['#18241d', '#33513a', '#6f8f4f', '#b9b667', '#e6cf8a', '#f5efdb'],
}

/** A poster of few flat inks: shapes with fair outlines, one ink over the other, and the grain of their printing. */
export const retroPoster: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 2,
  retouch: null,
  id: 'retro-poster',
  title: 'Retro poster',
  help: 'Few flat inks in shapes that one could cut, as posters were printed from: its inks from the photo or from a set.',
  needs: { alike: 'shapes will run together', busy: 'shapes will be small', flat: 'few papers will be told apart' },
  layers: [
    newLayer(
      'Shapes',
      { type: 'open-photo' },
      [
        newStep('shadows-highlights', { shadows: 0.35, highlights: 0.1, reach: percent(2) }, 'open'),
        newStep('vibrance', { saturation: 0.25 }, 'bold'),
        newStep('paper-shapes', { count: 7, piece: percent(1.7), radius: percent(0.55), thickness: { value: 0, unit: 'px' } }, 'shapes'),
      ],
      'shapes',
    ),
    newLayer('Printing', { type: 'below' }, [newStep('add-grain', { size: percent(0.12), amount: 0.07, byTone: 0.2 }, 'grain')], 'printing'),
  ],
  controls: [
    pick(
      'set',
      'Inks',
      'Found in the photo, or a set of six.',
      { photo: 'From the photo', harbour: 'Harbour', autumn: 'Autumn', dusk: 'Dusk', meadow: 'Meadow' },
      [by('shapes', 'shapes', 'colours', inks)],
    ),
    dial('count', 'How many', 'How many inks there are, where they are found in the photo.', ['Three', 'Twelve'], 45, [
      along('shapes', 'shapes', 'count', [
        [0, 3],
        [45, 7],
        [100, 12],
      ]),
    ]),
    dial('shapes', 'Shapes', 'How small the shapes are that stay.', ['Few, large', 'Many, small'], 55, [
      along(
        'shapes',
        'shapes',
        'piece',
        [
          [0, 6],
          [55, 1.7],
          [100, 0.7],
        ],
        '%',
      ),
      along(
        'shapes',
        'shapes',
        'radius',
        [
          [0, 1.4],
          [55, 0.55],
          [100, 0.25],
        ],
        '%',
      ),
    ]),
    dial('cuts', 'Cuts', 'How the shapes are cut: round every bend, or straight from turn to turn.', ['Round', 'Straight'], 50, [
      along('shapes', 'shapes', 'straight', [
        [0, 0],
        [50, 0.5],
        [100, 1],
      ]),
    ]),
    dial('grain', 'Grain', 'How much the printing shows.', ['None', 'Rough'], 35, [
      along('printing', 'grain', 'amount', [
        [0, 0],
        [35, 0.07],
        [100, 0.3],
      ]),
    ]),
  ],
}
