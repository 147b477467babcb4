import { newLayer, newStep } from '../artwork/layers.ts'
import { newPanels } from '../artwork/panels.ts'
import { newMask } from '../artwork/planes.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Layer, type Recipe } from '../artwork/schema.ts'
import { along, dial } from './parts.ts'

const turned = [0, 60, 180, 240].map((degrees) => ({
  id: `hue-${degrees}`,
  name: degrees ? `Hue ${degrees}°` : 'As it is',
  change: { type: 'hue' as const, degrees },
}))
/** A colour that is painted in, and does not cover the blacks. */
const flat = (name: string, colour: string, id: string): Layer => ({
  ...newLayer(name, { type: 'fill', colour, alpha: 1 }, [], id),
  mask: newMask('empty'),
  blend: 'multiply',
})
const blacks: Layer = {
  ...newLayer(
    'Blacks',
    { type: 'open-photo' },
    [
      newStep('black-white', {}, 'grey'),
      newStep('gaussian-blur', { sigma: { value: 0.15, unit: '%' } }, 'soft'),
      newStep('threshold', { level: 84, softness: 3 }, 'cut'),
    ],
    'blacks',
  ),
  // dodged and burnt by hand: brings eyes and teeth back through the threshold
  lightMap: { plane: null, strength: 1, span: null },
}
const { box: _, ...panels } = newPanels(
  'portrait',
  2,
  2,
  turned.map((c) => c.id),
  { x: 0, y: 0, w: 1, h: 1 },
)

/** J12: hard blacks over flat colours that are painted in; panels of it, when they are wanted. */
export const flatColourPortrait: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 1,
  retouch: null,
  id: 'flat-colour-portrait',
  title: 'Flat-colour portrait',
  help: 'Hard blacks that are dodged and burnt by hand, over a ground and flat colours that are painted in; and panels of it.',
  needs: { alike: 'the sitter will not part from the ground', busy: 'shapes will be specks' },
  layers: [
    newLayer(
      'Portrait',
      {
        type: 'group',
        isolated: true,
        layers: [
          blacks,
          { ...newLayer('Ground', { type: 'fill', colour: '#f2d9a8', alpha: 1 }, [], 'ground'), blend: 'multiply' },
          flat('Skin', '#f0a987', 'skin'),
          flat('Hair and cloth', '#c8452f', 'cloth'),
          flat('Third colour', '#2f7f86', 'third'),
          flat('Fourth colour', '#7a4f9e', 'fourth'),
        ],
      },
      [],
      'portrait',
    ),
    { ...newLayer('Panels', panels, [], 'panels'), visible: false },
  ],
  colourways: turned,
  controls: [
    dial('blacks', 'Blacks', 'How much of the picture becomes black.', ['Deep shadows', 'Half of it'], 60, [
      along('blacks', 'cut', 'level', [
        [0, 30],
        [100, 150],
      ]),
    ]),
    dial('detail', 'Detail', 'How small the shapes are that stay.', ['Large shapes', 'Every hair'], 60, [
      along(
        'blacks',
        'soft',
        'sigma',
        [
          [0, 0.6],
          [60, 0.15],
          [100, 0.02],
        ],
        '%',
      ),
    ]),
  ],
}
