import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { along, dial } from './parts.ts'

const percent = (value: number) => ({ value, unit: '%' })

/** J3: three versions of the photo over it: cut paper by luminosity, broad brushwork by screen, a median by soft light. */
export const threeLayerWatercolour: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 1,
  retouch: null,
  id: 'three-layer-watercolour',
  title: 'Three-layer watercolour',
  help: 'Three versions of the photo over each other: cut paper for its values, broad brushwork for its light, a calm one for its softness.',
  needs: { alike: 'cut shapes will run together', noisy: 'it will show in the calm layer' },
  layers: [
    newLayer(
      'Colour',
      { type: 'open-photo' },
      [newStep('masses', { breadth: 0.6, strength: 1, details: 0.5 }, 'calm'), newStep('vibrance', { saturation: 0.1 }, 'colour')],
      'colour',
    ),
    {
      ...newLayer(
        'Cut paper',
        { type: 'open-photo' },
        [newStep('paper-shapes', { count: 8, piece: percent(1.2), thickness: { value: 0, unit: 'px' } }, 'shapes', 1)],
        'cut-paper',
      ),
      blend: 'luminosity',
      opacity: 0.75,
    },
    {
      ...newLayer(
        'Brushwork',
        { type: 'open-photo' },
        [newStep('broad-brush', { body: 0, largest: percent(6), smallest: percent(0.9), gloss: 0 }, 'brush')],
        'brushwork',
      ),
      blend: 'screen',
      opacity: 0.55,
    },
    { ...newLayer('Calm', { type: 'open-photo' }, [newStep('median', { radius: percent(0.25) }, 'median')], 'calm'), blend: 'soft-light', opacity: 0.7 },
  ],
  controls: [
    dial('shapes', 'Cut shapes', 'How small the shapes are that carry the values.', ['Few, large', 'Many, small'], 55, [
      along(
        'cut-paper',
        'shapes',
        'piece',
        [
          [0, 4],
          [55, 1.2],
          [100, 0.5],
        ],
        '%',
      ),
    ]),
    dial('brush', 'Brush', 'How broad the brush is that lightens it.', ['Fine', 'Wide'], 50, [
      along(
        'brushwork',
        'brush',
        'largest',
        [
          [0, 2],
          [50, 6],
          [100, 14],
        ],
        '%',
      ),
      along(
        'brushwork',
        'brush',
        'smallest',
        [
          [0, 0.4],
          [50, 0.9],
          [100, 3],
        ],
        '%',
      ),
    ]),
    dial('light', 'Light', 'How much the brushwork lightens the sheet.', ['Deep', 'Airy'], 55, [
      along('brushwork', null, 'opacity', [
        [0, 0.1],
        [55, 0.55],
        [100, 0.95],
      ]),
    ]),
    dial('depth', 'Depth', 'How much the calm version brings the values back.', ['Flat', 'Deep'], 55, [
      along('calm', null, 'opacity', [
        [0, 0],
        [55, 0.7],
        [100, 1],
      ]),
    ]),
  ],
}
