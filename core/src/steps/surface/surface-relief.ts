import { defineStep } from '../contract.ts'
import { choice, length, seed, share } from '../params.ts'

const KINDS = ['canvas', 'laid', 'cold-pressed', 'board'] as const

export const surfaceRelief = defineStep({
  id: 'surface-relief',
  version: 1,
  title: 'Surface relief',
  group: 'surface',
  kind: 'point',
  onPaper: true,
  bySheet: true,
  help: 'The picture on canvas or paper, lit by the artwork’s lamp so that the surface shows.',
  method:
    'Heights as functions of the place on the sheet (plain weave with uneven threads; ribs and chain lines; two or three octaves of value noise), slopes lit by Lambert’s law; the flat keeps its colour',
  params: {
    kind: choice({
      title: 'Surface',
      default: 'canvas',
      options: [
        { value: 'canvas', title: 'Canvas' },
        { value: 'laid', title: 'Laid paper' },
        { value: 'cold-pressed', title: 'Cold-pressed paper' },
        { value: 'board', title: 'Board' },
      ],
      help: 'What the picture is painted or printed on.',
    }),
    pitch: length({
      title: 'Pitch',
      default: { value: 0.7, unit: 'mm' },
      min: 1.5,
      max: 300,
      feel: 'log',
      help: 'From thread to thread, rib to rib, or hollow to hollow: fine linen 0.4 mm, coarse canvas 1.2 mm.',
    }),
    depth: share({ title: 'Depth', default: 0.3, help: 'How deep the surface is.' }),
    seed: seed({ default: 5, help: 'Another piece of it.' }),
  },
  sample: { depth: 0.5 },
  // slopes finer than a pixel cannot be lit
  coarsest: ({ pitch }) => Math.max(0, Math.floor(Math.log2(pitch / 9))),
  fidelity: { half: 0.9, why: 'light on a slope is seen in the middle of a pixel, not averaged over it' },
  run: ({ input, output, kernels }, { kind, pitch, depth, seed: deal, sheet }) => {
    const { x, y, w, h } = output.region
    const { cos, sin } = kernels.raw
    const rad = 3.141592653589793 / 180
    const high = Math.max(5, sheet.lamp.height) * rad
    const [lx, ly] = [cos(sheet.lamp.direction * rad) * cos(high), -sin(sheet.lamp.direction * rad) * cos(high)]
    kernels.raw.relief(input.ptr, input.stride, output.ptr, output.stride, w, h, x, y, 1 / pitch, KINDS.indexOf(kind), depth * 0.55, lx, ly, sin(high), deal)
  },
})
