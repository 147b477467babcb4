import { rgbOfHex } from '../../colour/oklab.ts'
import { defineStep } from '../contract.ts'
import { colour, place, share } from '../params/index.ts'

/** As it was decided before it was decided on the picture. */
export const vignette1 = defineStep({
  id: 'vignette',
  version: 1,
  title: 'Vignette',
  group: 'tone',
  kind: 'point',
  onPaper: true,
  help: 'Draws the corners towards a colour, so that the eye stays on the subject.',
  method: 'Smooth step (3t² − 2t³) of the distance from a middle, in half axes of the picture',
  params: {
    amount: share({ title: 'Amount', default: 0.35, help: 'How far the corners are drawn towards the colour.' }),
    colour: colour({ title: 'Towards', default: '#0b0a0a', help: 'Black as lenses do, white as old prints fade, or any other.' }),
    clear: share({ title: 'Clear inside', default: 0.45, help: 'How much of the way from the middle stays as it is.' }),
    soft: share({ title: 'Softness', default: 0.8, min: 0.02, help: 'How long the change takes.' }),
    square: share({ title: 'Squareness', default: 0, help: 'An oval, or the shape of the sheet.' }),
    place: place({ title: 'Middle', default: { x: 0.5, y: 0.5 }, help: 'Where it is clearest: put it on the subject.' }),
  },
  sample: { amount: 0.7 },
  run: ({ input, output, kernels, level, extent }, { amount, colour: towards, clear, soft, square, place: at }) => {
    const { x, y, w, h } = output.region
    const scale = 2 ** level
    kernels.scratch(16, (rgb) => {
      kernels.f32(rgb, 3).set(rgbOfHex(towards))
      const [rx, ry] = [extent.w / 2 / scale, extent.h / 2 / scale]
      kernels.raw.vignette(input.ptr, input.stride, output.ptr, output.stride, w, h, x, y, at.x, at.y, rx, ry, clear, clear + soft, square, amount, rgb)
    })
  },
})
