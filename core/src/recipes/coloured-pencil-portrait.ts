import { newLayer, newStep } from '../artwork/layers.ts'
import { newMask } from '../artwork/planes.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { along, by, dial, pick } from './parts.ts'

const percent = (value: number) => ({ value, unit: '%' })
const mm = (value: number) => ({ value, unit: 'mm' })

/** J2: a sitter in coloured pencil, drawn three times over it (few tones, lines, long strokes), before a new ground of a related hue. */
export const colouredPencilPortrait: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 6,
  retouch: null,
  id: 'coloured-pencil-portrait',
  title: 'Coloured-pencil portrait',
  help: 'A sitter in coloured pencil, with tones, lines and long strokes drawn over it. Paint black on the mask of the sitter where the calm new ground is to show.',
  needs: { alike: 'the sitter will not part from the ground', few: 'points will look broad' },
  layers: [
    // a hue of its own, with what the photo's ground has of it: round a cut-out there is one too
    newLayer(
      'New ground',
      {
        type: 'group',
        isolated: true,
        layers: [
          newLayer('Ground colour', { type: 'fill', colour: '#b9aea1', alpha: 1 }, [], 'ground-colour'),
          { ...newLayer('Photo, blurred', { type: 'open-photo' }, [newStep('gaussian-blur', { sigma: percent(8) }, 'blur')], 'blurred'), opacity: 0.45 },
        ],
      },
      [{ ...newStep('surface-relief', { kind: 'canvas', pitch: mm(1.1), depth: 0.07 }, 'weave'), version: 2 }],
      'ground',
    ),
    {
      ...newLayer(
        'Sitter',
        {
          type: 'group',
          isolated: true,
          layers: [
            newLayer(
              'Pencils',
              { type: 'open-photo' },
              [newStep('shadows-highlights', { shadows: 0.3, highlights: 0, reach: percent(2) }, 'open'), newStep('coloured-pencil', { key: 0.3 }, 'pencils')],
              'pencils',
            ),
            {
              ...newLayer(
                'Few tones',
                { type: 'open-photo' },
                [
                  newStep('masses', { breadth: 0.5, strength: 1, details: 0.7 }, 'calm'),
                  newStep('posterize', { by: 'luminance', tones: 5, softness: 12 }, 'tones'),
                ],
                'tones',
              ),
              blend: 'screen',
              opacity: 0.22,
            },
            {
              ...newLayer('Lines', { type: 'open-photo' }, [newStep('contours', { weight: percent(0.16), ink: '#3a2f3a' }, 'lines')], 'lines'),
              blend: 'soft-light',
              opacity: 0.6,
            },
            {
              ...newLayer(
                'Long strokes',
                { type: 'open-photo' },
                [
                  newStep(
                    'hatching',
                    { tool: 'hard', layers: 2, length: percent(14), spacing: percent(0.34), breadth: percent(0.15), ink: '#4a3f4c' },
                    'strokes',
                  ),
                ],
                'strokes',
              ),
              blend: 'soft-light',
              opacity: 0.45,
            },
            newLayer('Depth', { type: 'below' }, [newStep('levels', { black: 26, midtone: 0.92 }, 'depth')], 'depth'),
          ],
        },
        // drawn on a fine paper of its own: the weave of the ground ends where the sitter begins
        [newStep('surface-relief', { kind: 'cold-pressed', pitch: mm(0.5), depth: 0.06 }, 'paper')],
        'sitter',
      ),
      mask: newMask('full'),
    },
  ],
  controls: [
    pick('set', 'Pencils', 'Chosen by the photo, or a box of them.', { photo: 'By the photo', skin: 'Portrait', earths: 'Earths' }, [
      by('pencils', 'pencils', 'pencils', {
        photo: [],
        skin: ['#f6dcc0', '#eab78f', '#d98a6c', '#b85a4c', '#8c4a3e', '#5d3a36', '#7f8f9c', '#46566e', '#2f2d3c'],
        earths: ['#e4c89a', '#cf9a5c', '#b8693e', '#8a4a34', '#5e4634', '#7d8474', '#3a3540'],
      }),
    ]),
    dial('lines', 'Lines', 'How much the drawn lines are seen.', ['None', 'Strong'], 60, [
      along('lines', null, 'opacity', [
        [0, 0],
        [100, 1],
      ]),
    ]),
    dial('strokes', 'Long strokes', 'How much the strokes of the hand are seen over the pencils.', ['None', 'Strong'], 45, [
      along('strokes', null, 'opacity', [
        [0, 0],
        [100, 1],
      ]),
    ]),
    dial('depth', 'Depth', 'How far the darks are brought down again.', ['Airy', 'Deep'], 40, [
      along('depth', 'depth', 'black', [
        [0, 0],
        [40, 26],
        [100, 64],
      ]),
      along('depth', 'depth', 'midtone', [
        [0, 1],
        [40, 0.92],
        [100, 0.6],
      ]),
    ]),
  ],
}
