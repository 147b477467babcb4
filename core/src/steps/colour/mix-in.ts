import { defineStep } from '../contract.ts'

export const mixIn = defineStep({
  id: 'mix-in',
  version: 1,
  title: 'Mix in',
  group: 'colour',
  kind: 'point',
  help: 'Mixes another picture in: a layer, or what it was after one of its steps, by this step’s own blend mode, opacity and mask.',
  method: 'Source-over (W3C Compositing 1) of the other picture where it covers; then as every step is mixed with its input',
  params: {},
  inputs: { picture: { title: 'Picture', help: 'The layer that is mixed in, as it lies by itself, live: all of it, or up to one of its steps.' } },
  run: ({ input, output, kernels, others }) => {
    const { w, h } = output.region
    const { picture } = others
    if (picture) kernels.raw.blend(0, input.ptr, input.stride, picture.ptr, picture.stride, 0, 0, output.ptr, output.stride, w, h, 1)
    else if (input.ptr !== output.ptr) kernels.raw.copyRect(input.ptr, input.stride, output.ptr, output.stride, w * 8, h)
  },
})
