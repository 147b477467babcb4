import { newLayer, newStep } from '../artwork/layers.ts'
import { newPanels } from '../artwork/panels.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { along, dial } from './parts.ts'

const strong = newLayer(
  'Colour',
  { type: 'open-photo' },
  [
    newStep('equalise-locally', { tiles: 2, limit: 2 }, 'even'),
    newStep('edge-smooth', { reach: { value: 0.5, unit: '%' } }, 'calm'),
    newStep('posterize', { tones: 5, softness: 3 }, 'flat'),
    {
      ...newStep(
        'gradient-map',
        {
          stops: [
            [0, '#231c78'],
            [0.32, '#c2207a'],
            [0.66, '#ff7f2a'],
            [1, '#ffe98a'],
          ],
        },
        'inks',
      ),
      opacity: 0.72,
    },
    newStep('hue-saturation', { saturation: 0.25, lightness: -0.04 }, 'loud'),
  ],
  'colour',
)
const black = {
  ...newLayer(
    'Black',
    { type: 'open-photo' },
    [
      newStep('black-white', {}, 'grey'),
      newStep('gaussian-blur', { sigma: { value: 0.12, unit: '%' } }, 'soft'),
      newStep('threshold', { level: 84, softness: 3 }, 'cut'),
    ],
    'black',
  ),
  blend: 'multiply' as const,
  opacity: 0.85,
}
const turned = [0, 90, 180, 270].map((degrees) => ({
  id: `hue-${degrees}`,
  name: degrees ? `Hue ${degrees}°` : 'As it is',
  change: { type: 'hue' as const, degrees },
}))
const { box: _, ...panels } = newPanels(
  'picture',
  2,
  2,
  turned.map((c) => c.id),
  { x: 0, y: 0, w: 1, h: 1 },
)

/** J11: a loud picture under its own blacks, four times, each in other hues. */
export const fourColourPanels: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 2,
  retouch: null,
  id: 'four-colour-panels',
  title: 'Four-colour panels',
  help: 'The picture loud and flat under hard blacks, in panels of other hues, edge to edge.',
  needs: { flat: 'plates will be near each other', busy: 'plates will be specks' },
  layers: [
    { ...newLayer('Picture', { type: 'group', isolated: true, layers: [strong, black] }, [], 'picture'), visible: false },
    newLayer('Panels', panels, [], 'panels'),
  ],
  colourways: turned,
  controls: [
    dial('blacks', 'Blacks', 'How much of the picture becomes black.', ['Deep shadows', 'Half of it'], 45, [
      along('black', 'cut', 'level', [
        [0, 40],
        [100, 140],
      ]),
    ]),
    dial('weight', 'Weight of the black', 'How much the blacks cover the colour.', ['Light', 'Solid'], 85, [
      along('black', null, 'opacity', [
        [0, 0.2],
        [100, 1],
      ]),
    ]),
    dial('colour', 'Colour', 'How loud the colours are.', ['Quiet', 'Loud'], 45, [
      along('colour', 'loud', 'saturation', [
        [0, -0.5],
        [100, 0.8],
      ]),
    ]),
    dial('flatness', 'Tones', 'In how many tones the colours stand.', ['Few, flat', 'Many'], 35, [
      along('colour', 'flat', 'tones', [
        [0, 3],
        [100, 12],
      ]),
    ]),
  ],
}
