import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { along, by, dial, pick } from './parts.ts'

/** J10: things laid on paper and exposed by light alone: pale shapes, soft borders, deep ground. */
export const photogram: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 2,
  retouch: null,
  id: 'photogram',
  title: 'Photogram',
  help: 'As if the things had lain on photographic paper and only light had drawn them.',
  needs: { alike: 'the outline will be lost', flat: 'the outline will be lost' },
  layers: [
    newLayer(
      'Exposure',
      { type: 'open-photo' },
      [
        newStep('black-white', { emulsion: 'orthochromatic' }, 'paper'),
        newStep('gaussian-blur', { sigma: { value: 0.12, unit: '%' } }, 'lie'),
        newStep('threshold', { by: 'share', black: 0.5, softness: 70 }, 'cut'),
        newStep('invert', {}, 'negative'),
        newStep(
          'curves',
          {
            points: [
              [0, 0.02],
              [0.3, 0.2],
              [0.65, 0.72],
              [1, 0.97],
            ],
          },
          'print',
        ),
        newStep('dye', { dye: '#1d4779', depth: 0, lights: 0.08, darks: 1 }, 'tone'),
      ],
      'exposure',
    ),
    {
      ...newLayer('Glow', { type: 'below' }, [newStep('gaussian-blur', { sigma: { value: 0.8, unit: '%' } }, 'glow')], 'glow'),
      blend: 'screen',
      opacity: 0.25,
    },
  ],
  controls: [
    dial('light', 'Exposure', 'How long the paper lay in the light: how much of it is black.', ['Short', 'Long'], 50, [
      along('exposure', 'cut', 'black', [
        [0, 0.78],
        [50, 0.5],
        [100, 0.2],
      ]),
    ]),
    dial('lift', 'Contact', 'Things pressed to the paper have hard borders, things that stand off it soft ones.', ['Pressed', 'Standing off'], 40, [
      along('exposure', 'cut', 'softness', [
        [0, 6],
        [40, 70],
        [100, 128],
      ]),
      along(
        'exposure',
        'lie',
        'sigma',
        [
          [0, 0.04],
          [40, 0.12],
          [100, 0.7],
        ],
        '%',
      ),
    ]),
    dial('glow', 'Glow', 'How far light creeps round the borders.', ['None', 'Much'], 30, [
      along('glow', null, 'opacity', [
        [0, 0],
        [100, 0.75],
      ]),
    ]),
    pick(
      'side',
      'Picture',
      'Pale shapes on a dark ground, as light makes them, or dark ones on a pale ground.',
      { negative: 'Pale on dark', positive: 'Dark on pale' },
      [
        by('exposure', 'print', 'points', {
          negative: [
            [0, 0.02],
            [0.3, 0.2],
            [0.65, 0.72],
            [1, 0.97],
          ],
          positive: [
            [0, 0.97],
            [0.35, 0.8],
            [0.7, 0.22],
            [1, 0.02],
          ],
        }),
      ],
    ),
    pick('tone', 'Paper', 'Silver paper, or the blue of iron salts, or sepia.', { silver: 'Silver', blue: 'Iron blue', sepia: 'Sepia' }, [
      by('exposure', 'tone', 'depth', { silver: 0, blue: 1.1, sepia: 0.62 }),
      by('exposure', 'tone', 'dye', { silver: '#1d4779', blue: '#1d4779', sepia: '#8a5f34' }),
    ]),
  ],
}
