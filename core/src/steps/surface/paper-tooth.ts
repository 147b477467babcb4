import { defineStep, type Pic, type Work } from '../contract.ts'
import { angle, choice, length, mm, percent, seed, share, type LevelParams } from '../params/index.ts'

/** What is decided of a tooth, by every version so far. */
export const toothParams = {
  pitch: length({
    title: 'Tooth',
    default: percent(0.08),
    min: 0.5,
    max: 60,
    feel: 'log',
    help: 'How far apart the peaks of the paper stand: smooth paper small, rough paper large.',
  }),
  strength: share({ title: 'Catch', default: 0.5, help: 'How much the tooth breaks the tone.' }),
  softness: share({ title: 'Softness of the lead', default: 0.8, min: 0.05, help: 'Soft lead rubs into the valleys, hard lead stays on the peaks.' }),
  pressure: share({ title: 'Uneven pressure', default: 0.3, help: 'How much the hand presses unevenly along its strokes.' }),
  direction: angle({ title: 'Stroke direction', default: 52, min: -90, max: 90, help: 'The way the hand moves, from level.' }),
  stroke: length({ title: 'Stroke length', default: percent(2.2), min: 2, max: 2000, feel: 'log', help: 'How long a stroke keeps its pressure.' }),
  width: length({ title: 'Stroke width', default: percent(0.14), min: 0.5, max: 200, feel: 'log', help: 'How broad the point of the pencil is.' }),
  seed: seed({ default: 7, help: 'Another sheet from the same block.' }),
}

/** The same in millimetres of paper: drawing papers have a tooth of 0.15 to 0.5 mm, a lead draws half a millimetre broad (common practice). */
const millimetres = {
  ...toothParams,
  pitch: length({
    title: 'Tooth',
    default: mm(0.3),
    min: 0.5,
    max: 120,
    feel: 'log',
    mark: true,
    help: 'How far apart the hills of the paper stand: smooth paper 0.15 mm, drawing paper 0.3 mm, rough paper 0.5 mm and more.',
  }),
  strength: share({ title: 'Catch', default: 0.8, help: 'How much the tooth breaks the tone.' }),
  softness: share({
    title: 'Softness of the lead',
    default: 0.8,
    min: 0.05,
    help: 'Soft lead rubs into the valleys as it is pressed, hard lead stays on the hills.',
  }),
  stroke: length({ title: 'Stroke length', default: mm(9), min: 2, max: 4000, feel: 'log', help: 'How long a stroke keeps its pressure.' }),
  width: length({ title: 'Stroke width', default: mm(0.6), min: 0.5, max: 400, feel: 'log', mark: true, help: 'How broad the point of the pencil is.' }),
}

export const paperTooth = defineStep({
  id: 'paper-tooth',
  version: 3,
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
    ...millimetres,
  },
  catchesOn: ({ paper }) => paper === 'there',
  // hills of a surface can be smaller than any pixel but the full-size picture's
  coarsest: ({ paper }) => (paper === 'there' ? 0 : 16),
  fidelity: { half: 0.95, why: 'where peaks are smaller than a pixel, four samples of them are not all of them' },
  run: (work, p) => drawTooth(work, p, true),
})

/** The tooth as it is drawn by every version so far, on what is `there` or on its own paper. */
export function drawTooth({ input, output, kernels, level, quick, others }: Work, p: LevelParams<typeof toothParams>, shoulders = false): void {
  const { x, y, w, h } = output.region
  const there: Pic | undefined = others['there']
  const scale = 2 ** level
  // of a reduced view four samples of a pixel, or one under a moving hand, stand for all its peaks: the more there are, the
  // more evenly they come out (measured)
  const samples = level > 0 && !quick ? 4 : 1
  const all = samples === 4 ? level < 2 : level <= 0
  const fade = all ? 1 : 1 - kernels.raw.exp((samples === 4 ? -3.3 : -1.15) * p.pitch)
  const radians = (-p.direction * 3.141592653589793) / 180
  kernels.raw.tooth(
    input.ptr,
    input.stride,
    output.ptr,
    output.stride,
    w,
    h,
    x,
    y,
    scale,
    1 / (p.pitch * scale),
    p.strength * fade,
    p.softness,
    p.pressure,
    kernels.raw.cos(radians),
    kernels.raw.sin(radians),
    1 / (p.stroke * scale),
    1 / (p.width * scale),
    p.seed,
    samples === 4 ? 2 : 1,
    shoulders ? 1 : 0,
    there?.ptr ?? 0,
    there?.stride ?? 0,
  )
}
