import { newLayer, newStep } from '../artwork/layers.ts'
import { newPanels } from '../artwork/panels.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { harmony } from '../colour/harmony.ts'
import { along, by, dial, pick } from './parts.ts'

const ways = Array.from({ length: 9 }, (_, i) => ({
  id: `thirds-${i * 40}`,
  name: `In thirds, from ${(20 + i * 40) % 360}°`,
  change: { type: 'palette' as const, colours: harmony('thirds', 20 + i * 40, 4) },
}))
const { box: _, ...panels } = newPanels(
  'picture',
  3,
  3,
  ways.map((c) => c.id),
  { x: 0, y: 0, w: 1, h: 1 },
)

/** J13: one picture in flat palettes, many times. */
export const panelSheet: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 2,
  retouch: null,
  id: 'panel-sheet',
  title: 'Panel sheet',
  help: 'The picture in rows and columns, each panel in a palette of its own, flat from dark to light.',
  needs: { flat: 'plates will be near each other', busy: 'plates will be specks' },
  layers: [
    {
      ...newLayer(
        'Picture',
        { type: 'open-photo' },
        [
          newStep('black-white', {}, 'grey'),
          newStep('equalise-locally', { tiles: 3, limit: 1.8 }, 'even'),
          newStep('edge-smooth', { reach: { value: 0.5, unit: '%' } }, 'calm'),
          newStep('median', { radius: { value: 0.2, unit: '%' } }, 'smooth'),
          newStep('brightness-contrast', { contrast: 0.15 }, 'bite'),
        ],
        'picture',
      ),
      visible: false,
    },
    newLayer('Panels', { ...panels, backing: '#f6f2e8' }, [], 'panels'),
  ],
  colourways: ways,
  controls: [
    pick(
      'panels',
      'Panels',
      'How many there are.',
      { two: '2 × 2', three: '3 × 3', four: '4 × 4' },
      [by('panels', null, 'rows', { two: 2, three: 3, four: 4 }), by('panels', null, 'columns', { two: 2, three: 3, four: 4 })],
      'three',
    ),
    dial('smoothness', 'Smoothness', 'How large and calm the flats are.', ['Every detail', 'Large flats'], 35, [
      along(
        'picture',
        'smooth',
        'radius',
        [
          [0, 0.03],
          [100, 0.7],
        ],
        '%',
      ),
    ]),
    dial('contrast', 'Contrast', 'How far lights and darks stand apart.', ['Soft', 'Hard'], 45, [
      along('picture', 'bite', 'contrast', [
        [0, -0.2],
        [100, 0.7],
      ]),
    ]),
  ],
}
