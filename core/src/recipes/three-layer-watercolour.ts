import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import type { CurvePoint } from '../steps/params/index.ts'
import { along, dial } from './parts.ts'

const percent = (value: number) => ({ value, unit: '%' })
const mm = (value: number) => ({ value, unit: 'mm' })
/** Darks opened up: watercolour is lighter than its photo. */
const opened = () => newStep('shadows-highlights', { shadows: 0.35, highlights: 0, reach: percent(2) }, 'open')

/** The photo's colours, in masses. */
const colours = () => [
  opened(),
  newStep('masses', { breadth: 0.8, strength: 1, details: 0.35 }, 'calm'),
  newStep('vibrance', { vibrance: 0.3, saturation: 0.08 }, 'colour'),
]
/** It lightens darks and middle tones; lights keep their colour: screened with themselves they would all be white. */
const HELD: CurvePoint[] = [
  [0, 0],
  [0.45, 0.42],
  [0.75, 0.34],
  [1, 0.3],
]

/**
 * J3: three versions of the photo over it: cut paper by luminosity, broad brushwork by screen, a median by soft light. What they took of its colours comes back above
 * them.
 */
export const threeLayerWatercolour: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 3,
  retouch: null,
  id: 'three-layer-watercolour',
  title: 'Three-layer watercolour',
  help: 'Three versions of the photo over each other: cut paper for its values, broad brushwork for its light, a calm one for its softness; its colours over all, settling in a rough paper.',
  needs: { alike: 'cut shapes will run together', noisy: 'it will show in the calm layer' },
  layers: [
    newLayer('Colour', { type: 'open-photo' }, colours(), 'colour'),
    {
      ...newLayer(
        'Cut paper',
        { type: 'open-photo' },
        [opened(), newStep('paper-shapes', { count: 9, piece: percent(1), radius: percent(0.35), thickness: { value: 0, unit: 'px' } }, 'shapes')],
        'cut-paper',
      ),
      blend: 'luminosity',
      opacity: 0.7,
    },
    {
      ...newLayer(
        'Brushwork',
        { type: 'open-photo' },
        [
          newStep('broad-brush', { body: 0, largest: percent(6), smallest: percent(0.9), gloss: 0 }, 'brush'),
          newStep('curves', { channel: 'luminance', luminance: HELD }, 'held'),
        ],
        'brushwork',
      ),
      blend: 'screen',
      opacity: 0.75,
    },
    { ...newLayer('Calm', { type: 'open-photo' }, [newStep('median', { radius: percent(0.25) }, 'median')], 'calm'), blend: 'soft-light', opacity: 0.55 },
    { ...newLayer('Tint', { type: 'open-photo' }, colours(), 'tint'), blend: 'color', opacity: 0.7 },
    newLayer(
      'Paper',
      { type: 'below' },
      [
        newStep('levels', { outBlack: 40 }, 'key'),
        newStep('settling', { paper: 'own', amount: 0.12, pitch: mm(0.4) }, 'settled'),
        newStep('surface-relief', { kind: 'cold-pressed', pitch: mm(0.6), depth: 0.06 }, 'tooth'),
      ],
      'paper',
    ),
  ],
  controls: [
    dial('shapes', 'Cut shapes', 'How small the shapes are that carry the values.', ['Few, large', 'Many, small'], 55, [
      along(
        'cut-paper',
        'shapes',
        'piece',
        [
          [0, 4],
          [55, 1],
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
    dial('light', 'Light', 'How much the brushwork lightens the sheet.', ['Deep', 'Airy'], 75, [
      along('brushwork', null, 'opacity', [
        [0, 0.1],
        [75, 0.75],
        [100, 0.95],
      ]),
    ]),
    dial('depth', 'Depth', 'How much the calm version brings the values back.', ['Flat', 'Deep'], 45, [
      along('calm', null, 'opacity', [
        [0, 0],
        [45, 0.55],
        [100, 1],
      ]),
    ]),
    dial('settled', 'Granulation', 'How much of the pigment settles in the hollows of the paper.', ['Smooth', 'Grainy'], 40, [
      along('paper', 'settled', 'amount', [
        [0, 0],
        [40, 0.12],
        [100, 0.45],
      ]),
    ]),
  ],
}
