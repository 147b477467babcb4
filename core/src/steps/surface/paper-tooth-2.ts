import { defineStep } from '../contract.ts'
import { choice } from '../params/index.ts'
import { drawTooth, toothParams } from './paper-tooth.ts'

/** The tooth whose size went by the picture's, not by millimetres of paper: kept for artworks that were made with it. */
export const paperTooth2 = defineStep({
  id: 'paper-tooth',
  version: 2,
  title: 'Paper tooth',
  group: 'surface',
  kind: 'point',
  onPaper: true,
  stock: 'tooth',
  help: 'Lays the tones as dry pigment on a toothed paper: peaks catch first, valleys stay white.',
  method:
    'Tone compared with a seeded height field (two octaves of value noise, evened out) or the heights that lie there, each ranked among those round about, mean tone kept; pressure varies along strokes',
  params: {
    paper: choice({
      title: 'Paper',
      default: 'there',
      options: [
        { value: 'there', title: 'What lies there' },
        { value: 'own', title: 'Its own' },
      ],
      help: 'What lies there: the surface under the layer (papers, canvas, relief), or the paper laid over it; its own where all is flat.',
    }),
    ...toothParams,
  },
  catchesOn: ({ paper }) => paper === 'there',
  // hills of a surface can be smaller than any pixel but the full-size picture's
  coarsest: ({ paper }) => (paper === 'there' ? 0 : 16),
  fidelity: { half: 0.95, why: 'where peaks are smaller than a pixel, four samples of them are not all of them' },
  run: drawTooth,
})
