import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { along, by, dial, pick } from './parts.ts'

const percent = (value: number) => ({ value, unit: '%' })
const inks = { black: '#1d1a1f', sepia: '#4a2f22', indigo: '#26304f' }

/** J4: colour as a few loose washes, and over it a pen that has found the edges, and a brush that has filled the darks. */
export const washAndInk: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 6,
  retouch: null,
  id: 'wash-and-ink',
  title: 'Wash and ink',
  help: 'Loose washes that leave their line, under lines of a pen and a few solid darks.',
  needs: { flat: 'lines will be few', busy: 'ink will be everywhere' },
  layers: [
    newLayer(
      'Wash',
      { type: 'open-photo' },
      [
        newStep('shadows-highlights', { shadows: 0.6, highlights: 0, reach: percent(2) }, 'open'),
        newStep('wash', { glazes: 3, whites: 0.55, key: 0.8, brush: percent(2.6), stray: percent(0.6), edges: 0.45, blooms: 0 }, 'wash'),
      ],
      'wash',
    ),
    {
      ...newLayer('Ink', { type: 'open-photo' }, [newStep('ink-lines', { ink: inks.black }, 'lines')], 'ink'),
      blend: 'multiply',
      opacity: 0.92,
    },
    {
      ...newLayer(
        'Darks',
        { type: 'open-photo' },
        [
          newStep('masses', { breadth: 0.5, details: 0.6 }, 'calm'),
          newStep('tone-to-alpha', { by: 'lightness', full: 20, clear: 36, midtone: 1, ink: inks.black }, 'darks'),
        ],
        'darks',
      ),
      blend: 'multiply',
      opacity: 0.85,
    },
  ],
  controls: [
    dial('wash', 'Wash', 'How loose the washes are: close to the forms, or a broad brush that leaves its line.', ['Close', 'Loose'], 45, [
      along(
        'wash',
        'wash',
        'brush',
        [
          [0, 1],
          [45, 2.6],
          [100, 7],
        ],
        '%',
      ),
      along(
        'wash',
        'wash',
        'stray',
        [
          [0, 0.1],
          [45, 0.6],
          [100, 1.8],
        ],
        '%',
      ),
    ]),
    dial('colour', 'Colour', 'How much pigment is in the wash.', ['Thin', 'Full'], 60, [
      along('wash', null, 'opacity', [
        [0, 0.35],
        [60, 1],
        [100, 1],
      ]),
      along('wash', 'wash', 'key', [
        [0, 1],
        [60, 0.8],
        [100, 0.1],
      ]),
    ]),
    dial('whites', 'Whites', 'How much paper is left white.', ['Few', 'Many'], 50, [
      along('wash', 'wash', 'whites', [
        [0, 0],
        [50, 0.55],
        [100, 1],
      ]),
    ]),
    dial('ink', 'Ink', 'How strongly the pen is seen: faint as pencil, or black.', ['Pencil', 'Ink'], 75, [
      along('ink', null, 'opacity', [
        [0, 0.25],
        [75, 0.92],
        [100, 1],
      ]),
    ]),
    dial('darks', 'Darks', 'How far the deepest darks are filled in.', ['None', 'Black'], 35, [
      along('darks', 'darks', 'clear', [
        [0, 21],
        [35, 36],
        [100, 96],
      ]),
      along('darks', null, 'opacity', [
        [0, 0],
        [15, 0.85],
        [100, 0.92],
      ]),
    ]),
    pick('hand', 'Ink colour', 'What the pen and the brush are dipped in.', { black: 'Black', sepia: 'Sepia', indigo: 'Indigo' }, [
      by('ink', 'lines', 'ink', inks),
      by('darks', 'darks', 'ink', inks),
    ]),
  ],
}
