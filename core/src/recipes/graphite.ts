import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Layer, type Recipe } from '../artwork/schema.ts'

const layer = (l: Layer, more: Partial<Layer>): Layer => ({ ...l, ...more })

/** The photo as the drawer sees it: in masses, with details where they matter; grey, its finest noise calmed. */
const base = newLayer(
  'Black-and-white',
  { type: 'open-photo' },
  [newStep('masses', {}, 'masses'), newStep('black-white', {}, 'mix'), newStep('gaussian-blur', {}, 'calm')],
  'base',
)

/** The negative, blurred and dodged over it: all that is even goes to paper, edges stay as lines. */
const lines = layer(
  newLayer('Pencil lines', { type: 'live', layer: 'base' }, [newStep('invert', {}, 'invert'), newStep('gaussian-blur', {}, 'width')], 'lines'),
  {
    blend: 'color-dodge',
  },
)

/** The large forms laid in with the side of the lead; lights stay bare paper. */
const shade = layer(
  newLayer(
    'Shading',
    { type: 'live', layer: 'base' },
    [newStep('gaussian-blur', {}, 'soft'), newStep('levels', { black: 8, white: 150, midtone: 1.25 }, 'lights')],
    'shade',
  ),
  { blend: 'multiply' },
)

/** The values brought back, and the sheet's tooth under the lead. */
const tooth = newStep('paper-tooth', { paper: 'own' }, 'tooth')
const values = newLayer('Values and paper', { type: 'below' }, [newStep('levels', { white: 244 }, 'dark'), tooth], 'values')

/** J1: a pencil drawing by colour dodge of a blurred negative, its values brought back, on toothed paper. */
export const graphite: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  edition: 3,
  // above the lines, below the paper's tooth
  retouch: { above: 'shade' },
  id: 'graphite',
  title: 'Graphite',
  help: 'A pencil drawing: fine lines or soft tone, on paper with a tooth.',
  needs: { flat: 'it will stay grey', noisy: 'it will be drawn as grain' },
  layers: [base, lines, shade, values],
  controls: [
    {
      id: 'pencil',
      title: 'Point',
      help: 'A sharp point draws thin lines only; the side of the lead lays in tone.',
      kind: { type: 'number', min: 0, max: 100, step: 1, low: 'Fine', high: 'Tonal' },
      default: 45,
      drives: [
        {
          layer: 'lines',
          step: 'width',
          param: 'sigma',
          unit: '%',
          map: [
            [0, 0.1],
            [30, 0.3],
            [60, 0.9],
            [100, 2.6],
          ],
        },
        {
          layer: 'base',
          step: 'calm',
          param: 'sigma',
          unit: '%',
          map: [
            [0, 0.03],
            [100, 0.09],
          ],
        },
        {
          layer: 'shade',
          step: null,
          param: 'opacity',
          map: [
            [0, 0.06],
            [45, 0.34],
            [100, 0.62],
          ],
        },
        {
          layer: 'shade',
          step: 'soft',
          param: 'sigma',
          unit: '%',
          map: [
            [0, 0.08],
            [100, 0.22],
          ],
        },
      ],
    },
    {
      id: 'darkness',
      title: 'Midtones',
      help: 'How dark the middle tones are drawn; far enough that one accent is nearly black, no further.',
      kind: { type: 'number', min: 0, max: 100, step: 1, low: 'Light', high: 'Dark' },
      default: 50,
      drives: [
        {
          layer: 'values',
          step: 'dark',
          param: 'midtone',
          map: [
            [0, 1.15],
            [50, 0.72],
            [100, 0.32],
          ],
        },
        {
          layer: 'values',
          step: 'dark',
          param: 'black',
          map: [
            [0, 0],
            [50, 22],
            [100, 60],
          ],
        },
      ],
    },
    {
      id: 'lead',
      title: 'Lead',
      help: 'A hard lead stays silver-grey and even, a soft one goes black and catches on the tooth.',
      kind: { type: 'number', min: 0, max: 100, step: 1, low: 'Hard', high: 'Soft' },
      default: 60,
      drives: [
        {
          layer: 'values',
          step: 'dark',
          param: 'outBlack',
          map: [
            [0, 112],
            [60, 26],
            [100, 0],
          ],
        },
        {
          layer: 'values',
          step: 'tooth',
          param: 'strength',
          map: [
            [0, 0.35],
            [60, 0.6],
            [100, 0.9],
          ],
        },
        {
          layer: 'values',
          step: 'tooth',
          param: 'pressure',
          map: [
            [0, 0.12],
            [60, 0.42],
            [100, 0.6],
          ],
        },
      ],
    },
    {
      id: 'mix',
      title: 'Black-and-white',
      help: 'Which colours are drawn light and which dark.',
      kind: {
        type: 'choice',
        options: [
          { value: 'panchromatic', title: 'All colours evenly' },
          { value: 'orthochromatic', title: 'Reds dark' },
          { value: 'red-filter', title: 'Reds light, sky dark' },
          { value: 'green-filter', title: 'Greens light' },
          { value: 'blue-filter', title: 'Blues light' },
        ],
      },
      default: 'panchromatic',
      drives: [
        {
          layer: 'base',
          step: 'mix',
          param: 'emulsion',
          choose: {
            panchromatic: 'panchromatic',
            orthochromatic: 'orthochromatic',
            'red-filter': 'panchromatic',
            'green-filter': 'panchromatic',
            'blue-filter': 'panchromatic',
          },
        },
        {
          layer: 'base',
          step: 'mix',
          param: 'filter',
          choose: { panchromatic: 'none', orthochromatic: 'none', 'red-filter': 'red', 'green-filter': 'green', 'blue-filter': 'blue' },
        },
      ],
    },
  ],
}
