import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { along, by, dial, pick } from './parts.ts'

const percent = (value: number) => ({ value, unit: '%' })

/** J1: a pencil drawing of strokes alone: hatched tone, and the lines of the forms drawn over it with the same lead. */
export const pencilDrawing: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 3,
  retouch: null,
  id: 'pencil-drawing',
  title: 'Pencil drawing',
  help: 'A pencil drawing of strokes alone: tone laid by hatching, lines drawn over it, on paper with a tooth.',
  needs: { flat: 'lines will be few', soft: 'contours will be lost', busy: 'strokes will be restless' },
  layers: [
    newLayer(
      'Strokes',
      { type: 'open-photo' },
      [
        newStep(
          'hatching',
          { tool: 'soft', layers: 3, spacing: percent(0.22), breadth: percent(0.19), length: percent(6), bare: 0.4, darkest: 0.62, ink: '#2b2a2b' },
          'hatch',
        ),
      ],
      'strokes',
    ),
    {
      ...newLayer(
        'Lines',
        { type: 'open-photo' },
        [
          newStep('ink-lines', { pen: 'nib', width: percent(0.17), lines: 0.72, blacks: 0, ink: '#333234' }, 'draw'),
          newStep('paper-tooth', { paper: 'own', pressure: 0.5 }, 'tooth'),
        ],
        'lines',
      ),
      blend: 'multiply',
      opacity: 0.85,
    },
  ],
  controls: [
    dial('tone', 'Tone', 'How much of the drawing is shaded: lines with a breath of tone, or full darks.', ['Open', 'Full'], 50, [
      along('strokes', 'hatch', 'bare', [
        [0, 0.95],
        [50, 0.4],
        [100, 0.05],
      ]),
      along('strokes', 'hatch', 'darkest', [
        [0, 0.35],
        [50, 0.62],
        [100, 0.95],
      ]),
    ]),
    pick('lead', 'Lead', 'A soft lead builds up to black, a hard one stays silver.', { soft: 'Soft', hard: 'Hard' }, [
      by('strokes', 'hatch', 'tool', { soft: 'soft', hard: 'hard' }),
      by('lines', 'draw', 'ink', { soft: '#333234', hard: '#6c6c70' }),
    ]),
    pick('way', 'Strokes', 'All one way, as most hands shade, or along the forms.', { straight: 'All one way', forms: 'Along the forms' }, [
      by('strokes', 'hatch', 'follow', { straight: 'straight', forms: 'forms' }),
    ]),
    dial('lines', 'Lines', 'How much is drawn in lines over the tone.', ['Few', 'Many'], 60, [
      along('lines', 'draw', 'lines', [
        [0, 0.2],
        [60, 0.72],
        [100, 0.95],
      ]),
      along('lines', null, 'opacity', [
        [0, 0.5],
        [60, 0.85],
        [100, 1],
      ]),
    ]),
    dial('point', 'Point', 'A sharp point lays fine strokes close together, a blunt one broad strokes.', ['Sharp', 'Blunt'], 40, [
      along(
        'strokes',
        'hatch',
        'breadth',
        [
          [0, 0.1],
          [40, 0.19],
          [100, 0.5],
        ],
        '%',
      ),
      along(
        'strokes',
        'hatch',
        'spacing',
        [
          [0, 0.15],
          [40, 0.22],
          [100, 0.5],
        ],
        '%',
      ),
      along(
        'lines',
        'draw',
        'width',
        [
          [0, 0.1],
          [40, 0.17],
          [100, 0.4],
        ],
        '%',
      ),
    ]),
  ],
}
