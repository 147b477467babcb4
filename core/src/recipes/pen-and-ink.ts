import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { along, by, dial, pick } from './parts.ts'

const percent = (value: number) => ({ value, unit: '%' })

/** A pen drawing: hatching in layers, and over it the lines of the forms with spotted blacks. */
export const penAndInk: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 3,
  retouch: null,
  id: 'pen-and-ink',
  title: 'Pen and ink',
  help: 'A pen drawing: lines that swell and break, hatching that lifts towards the lights, a few solid blacks.',
  needs: { flat: 'lines will be few', soft: 'lines will break off', noisy: 'it will be drawn as curls', busy: 'blacks will be specks' },
  layers: [
    newLayer(
      'Hatching',
      { type: 'open-photo' },
      [newStep('hatching', { tool: 'pen', layers: 3, breadth: percent(0.13), bare: 0.45, darkest: 0.72, ink: '#131211' }, 'hatch')],
      'hatching',
    ),
    { ...newLayer('Lines', { type: 'open-photo' }, [newStep('ink-lines', {}, 'draw')], 'lines'), blend: 'darken' },
  ],
  controls: [
    dial('tone', 'Tone', 'How much of the drawing is hatched: lines with a little shade, or full darks.', ['Open', 'Full'], 50, [
      along('hatching', 'hatch', 'bare', [
        [0, 1],
        [50, 0.45],
        [100, 0.1],
      ]),
      along('hatching', 'hatch', 'darkest', [
        [0, 0.35],
        [50, 0.72],
        [100, 0.95],
      ]),
    ]),
    pick(
      'strokes',
      'Strokes',
      'All one way, as a quick hand lays them, or round the forms, as an engraver does.',
      { straight: 'All one way', forms: 'Along the forms' },
      [by('hatching', 'hatch', 'follow', { straight: 'straight', forms: 'forms' })],
    ),
    dial('lines', 'Lines', 'How much is drawn in lines: the strongest edges alone, or every fold.', ['Few', 'Many'], 60, [
      along('lines', 'draw', 'lines', [
        [0, 0.2],
        [60, 0.7],
        [100, 0.95],
      ]),
    ]),
    dial('pen', 'Pen', 'How broad the pen is; finer pens hatch closer.', ['Fine', 'Broad'], 40, [
      along(
        'lines',
        'draw',
        'width',
        [
          [0, 0.1],
          [40, 0.2],
          [100, 0.45],
        ],
        '%',
      ),
      along(
        'hatching',
        'hatch',
        'breadth',
        [
          [0, 0.07],
          [40, 0.13],
          [100, 0.28],
        ],
        '%',
      ),
      along(
        'hatching',
        'hatch',
        'spacing',
        [
          [0, 0.2],
          [40, 0.32],
          [100, 0.6],
        ],
        '%',
      ),
    ]),
    dial('blacks', 'Blacks', 'Up to which tone dark masses are filled in solid.', ['None', 'Many'], 40, [
      along('lines', 'draw', 'blacks', [
        [0, 0],
        [100, 1],
      ]),
    ]),
  ],
}
