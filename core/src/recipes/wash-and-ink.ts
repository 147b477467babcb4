import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { along, by, dial, pick } from './parts.ts'

const percent = (value: number) => ({ value, unit: '%' })
/** CMYK weights that leave black out. */
const WITHOUT_BLACK = [1, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0]

/** J4: the colour without its black as a wash over off-white paper, and only the darks over it, as ink. */
export const washAndInk: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 1,
  retouch: null,
  id: 'wash-and-ink',
  title: 'Wash and ink',
  help: 'Colour without its black as a soft wash, and the darks over it in ink.',
  layers: [
    newLayer(
      'Paper',
      { type: 'fill', colour: '#f5efe2', alpha: 1 },
      [{ ...newStep('surface-relief', { kind: 'cold-pressed', pitch: { value: 0.8, unit: 'mm' }, depth: 0.09 }, 'grain'), version: 1 }],
      'paper',
    ),
    {
      ...newLayer(
        'Wash',
        { type: 'open-photo' },
        [
          newStep('shadows-highlights', { shadows: 0.8, highlights: 0, reach: percent(2) }, 'open'),
          newStep('gaussian-blur', { sigma: percent(0.4) }, 'calm'),
          newStep('channel-mixer', { model: 'cmyk', cmyk: WITHOUT_BLACK }, 'colour'),
          newStep('vibrance', { saturation: -0.15 }, 'mute'),
          newStep('gaussian-blur', { sigma: percent(0.9) }, 'wet'),
        ],
        'wash',
      ),
      blend: 'multiply',
      opacity: 0.62,
    },
    {
      ...newLayer(
        'Ink',
        { type: 'open-photo' },
        [
          newStep('gaussian-blur', { sigma: percent(0.04) }, 'fine'),
          newStep('tone-to-alpha', { by: 'lightness', full: 12, clear: 168, midtone: 1.25, ink: '#211d24' }, 'ink'),
        ],
        'ink',
      ),
      blend: 'multiply',
      opacity: 0.6,
    },
    {
      ...newLayer(
        'Darks',
        { type: 'open-photo' },
        [newStep('tone-to-alpha', { by: 'black', full: 0, clear: 96, midtone: 1.4, ink: '#15121a' }, 'darks')],
        'darks',
      ),
      blend: 'multiply',
      opacity: 0.35,
    },
  ],
  controls: [
    dial('wash', 'Wash', 'How wet the colour is laid: forms kept, or run together.', ['Kept', 'Run together'], 40, [
      along(
        'wash',
        'wet',
        'sigma',
        [
          [0, 0.12],
          [40, 0.8],
          [100, 3.2],
        ],
        '%',
      ),
      along(
        'wash',
        'calm',
        'sigma',
        [
          [0, 0.12],
          [100, 0.9],
        ],
        '%',
      ),
    ]),
    dial('colour', 'Colour', 'How much pigment is in the wash.', ['Thin', 'Full'], 55, [
      along('wash', null, 'opacity', [
        [0, 0.2],
        [55, 0.66],
        [100, 1],
      ]),
      along('wash', 'mute', 'saturation', [
        [0, -0.5],
        [55, -0.12],
        [100, 0.3],
      ]),
    ]),
    dial('ink', 'Ink', 'About the middle it reads as pencil, beyond it as ink.', ['Pencil', 'Ink'], 50, [
      along('ink', null, 'opacity', [
        [0, 0.18],
        [50, 0.6],
        [100, 1],
      ]),
      along('ink', 'ink', 'clear', [
        [0, 190],
        [50, 168],
        [100, 140],
      ]),
    ]),
    dial('darks', 'Darks', 'How far the deepest darks are filled in.', ['Open', 'Filled'], 35, [
      along('darks', null, 'opacity', [
        [0, 0],
        [35, 0.35],
        [100, 0.95],
      ]),
      along('darks', 'darks', 'clear', [
        [0, 70],
        [100, 150],
      ]),
    ]),
    pick('hand', 'Ink colour', 'What the darks are drawn in.', { black: 'Black', sepia: 'Sepia', indigo: 'Indigo' }, [
      by('ink', 'ink', 'ink', { black: '#211d24', sepia: '#3a2415', indigo: '#1c2747' }),
      by('darks', 'darks', 'ink', { black: '#15121a', sepia: '#2a180c', indigo: '#131c38' }),
    ]),
  ],
}
