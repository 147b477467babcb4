import { defineStep } from '../contract.ts'
import { drawTooth, toothParams } from './paper-tooth.ts'

/** As it was when a tooth was always a paper of its own. */
export const paperTooth1 = defineStep({
  id: 'paper-tooth',
  version: 1,
  title: 'Paper tooth',
  group: 'surface',
  kind: 'point',
  onPaper: true,
  stock: 'tooth',
  help: 'Lays the tones as dry pigment on a toothed paper: peaks catch first, valleys stay white.',
  method: 'Tone compared with a seeded height field (two octaves of value noise, evened out), mean tone kept; pressure varies along strokes',
  params: toothParams,
  fidelity: { half: 0.95, why: 'where peaks are smaller than a pixel, four samples of them are not all of them' },
  run: drawTooth,
})
