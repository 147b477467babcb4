import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { gradientSets } from '../steps/colour/gradient-map.ts'
import { along, by, dial, pick } from './parts.ts'

const sets = ['marsh-dusk', 'lantern', 'tide-flat', 'pastel-quay', 'kiln', 'reed-green'].map((id) => gradientSets.find((g) => g.id === id)!)

/** J17: a picture in few blocks, the best place to find colours in; the blocks can be switched off when they are found. */
export const pixelMosaic: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 1,
  retouch: null,
  id: 'pixel-mosaic',
  title: 'Pixel mosaic',
  help: 'Few flat blocks, and a gradient of colours found on them; switch the blocks off when it looks well.',
  needs: { alike: 'the subject will be lost in its tiles', flat: 'tiles will hardly part' },
  layers: [
    newLayer(
      'Blocks',
      { type: 'open-photo' },
      [
        newStep('edge-smooth', { way: 'guided', reach: { value: 0.7, unit: '%' }, tolerance: 34 }, 'calm'),
        newStep('vibrance', { vibrance: 0.3 }, 'fresh'),
        newStep('pixel-blocks', { width: { value: 1.66, unit: '%' }, height: { value: 1.66, unit: '%' } }, 'blocks'),
      ],
      'blocks',
    ),
    {
      ...newLayer('Colours', { type: 'below' }, [newStep('gradient-map', { stops: sets[0]!.stops }, 'colours')], 'colours'),
      blend: 'soft-light',
      opacity: 0.45,
      spanBelow: { low: 0.28, high: 0.9, softLow: 0.14, softHigh: 0.1 },
    },
  ],
  controls: [
    dial('blocks', 'Blocks', 'How many there are: about sixty across in the middle.', ['Many', 'Few'], 50, [
      along(
        'blocks',
        'blocks',
        'width',
        [
          [0, 0.6],
          [50, 1.66],
          [100, 5],
        ],
        '%',
      ),
      along(
        'blocks',
        'blocks',
        'height',
        [
          [0, 0.6],
          [50, 1.66],
          [100, 5],
        ],
        '%',
      ),
    ]),
    dial('flat', 'Flatness', 'How much is smoothed before the blocks are cut: flatter blocks, sharper borders.', ['Lively', 'Flat'], 45, [
      along('blocks', 'calm', 'tolerance', [
        [0, 4],
        [45, 34],
        [100, 100],
      ]),
      along(
        'blocks',
        'calm',
        'reach',
        [
          [0, 0.2],
          [45, 0.7],
          [100, 2],
        ],
        '%',
      ),
    ]),
    pick('colours', 'Colours', 'The gradient the midtones and lights lean towards.', Object.fromEntries(sets.map((g) => [g.id, g.title])), [
      by('colours', 'colours', 'stops', Object.fromEntries(sets.map((g) => [g.id, g.stops]))),
    ]),
    dial('strength', 'Strength', 'How far they lean.', ['Hint', 'Full'], 45, [
      along('colours', null, 'opacity', [
        [0, 0],
        [45, 0.45],
        [100, 1],
      ]),
    ]),
  ],
}
