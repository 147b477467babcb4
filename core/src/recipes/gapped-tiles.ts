import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { along, by, dial, pick } from './parts.ts'

/** J18: tiles with joints between them, laid over the picture; the grid is dragged until it falls well. */
export const gappedTiles: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 1,
  retouch: null,
  id: 'gapped-tiles',
  title: 'Gapped tiles',
  help: 'The picture laid in tiles with joints between them, in straight or staggered rows.',
  needs: { alike: 'the subject will be lost in its tiles', flat: 'tiles will hardly part' },
  layers: [
    newLayer(
      'Tiles',
      { type: 'open-photo' },
      [
        newStep('vibrance', { vibrance: 0.25 }, 'fresh'),
        newStep(
          'pixel-blocks',
          { width: { value: 3.4, unit: '%' }, height: { value: 1.7, unit: '%' }, joint: { value: 0.28, unit: '%' }, grout: '#e8e2d6', bond: 'half' },
          'tiles',
        ),
        newStep('surface-relief', { kind: 'board', pitch: { value: 0.5, unit: 'mm' }, depth: 0.16 }, 'glaze', 1),
      ],
      'tiles',
    ),
  ],
  controls: [
    dial('size', 'Tile', 'How large a tile is.', ['Small', 'Large'], 22, [
      along(
        'tiles',
        'tiles',
        'width',
        [
          [0, 1.2],
          [40, 3.4],
          [100, 9],
        ],
        '%',
      ),
      along(
        'tiles',
        'tiles',
        'height',
        [
          [0, 0.6],
          [40, 1.7],
          [100, 4.5],
        ],
        '%',
      ),
    ]),
    dial('joint', 'Joint', 'How wide the gap between tiles is.', ['Tight', 'Wide'], 35, [
      along(
        'tiles',
        'tiles',
        'joint',
        [
          [0, 0],
          [35, 0.28],
          [100, 1],
        ],
        '%',
      ),
    ]),
    pick('bond', 'Rows', 'Straight, or staggered as bricks are laid.', { half: 'Staggered by a half', third: 'Staggered by a third', straight: 'Straight' }, [
      by('tiles', 'tiles', 'bond', { half: 'half', third: 'third', straight: 'straight' }),
    ]),
    pick('grout', 'Joint colour', 'What lies between the tiles.', { lime: 'Lime', slate: 'Slate', clay: 'Clay' }, [
      by('tiles', 'tiles', 'grout', { lime: '#e8e2d6', slate: '#33373b', clay: '#8d5b43' }),
    ]),
  ],
}
