import { defineStep } from '../contract.ts'
import { angle, hues, share } from '../params/index.ts'
import { valueAtHue } from './hue-table.ts'
import { shiftHues } from './hue-shift.ts'

export const hueSaturation = defineStep({
  id: 'hue-saturation',
  version: 2,
  title: 'Hue, saturation, lightness',
  group: 'colour',
  kind: 'point',
  help: 'Turns all colours round the colour circle, makes them stronger or weaker, lighter or darker.',
  method:
    'In OKLab (Ottosson 2020): hue as an angle, saturation as a factor of chroma that nears the strongest chroma of sRGB at that hue and lightness without passing it',
  params: {
    hue: angle({ title: 'Hue', default: 0, help: 'Turns every colour by the same angle.' }),
    saturation: share({ title: 'Saturation', default: 0, min: -1, max: 1, help: 'Weaker down to grey, or stronger up to three times.' }),
    lightness: share({ title: 'Lightness', default: 0, min: -1, max: 1, help: 'Towards black or white.' }),
    hueByHue: hues({ title: 'Hue of each', min: -1, max: 1, help: 'Turns one hue by itself, up to 60°.' }),
    saturationByHue: hues({ title: 'Saturation of each', min: -1, max: 1, help: 'Makes one hue by itself stronger or weaker.' }),
    lightnessByHue: hues({ title: 'Lightness of each', min: -1, max: 1, help: 'Makes one hue by itself lighter or darker.' }),
  },
  sample: { hue: 60, saturation: 0.2 },
  coarsest: ({ saturation, lightness, hueByHue, saturationByHue, lightnessByHue }) =>
    [...hueByHue, ...saturationByHue, ...lightnessByHue].some((v) => Math.abs(v) > 0.25) || saturation > 0.4 || Math.abs(lightness) > 0.5 ? 0 : 2,
  run: ({ input, output, kernels }, p) => {
    const { hue, saturation, lightness, hueByHue, saturationByHue, lightnessByHue } = p
    const gainOf = (s: number) => (s < 0 ? 1 + s : 1 + 2 * s)
    shiftHues(
      kernels,
      input,
      output,
      [hue, saturation, ...hueByHue, ...saturationByHue, ...lightnessByHue].join(),
      (h) => ({
        turn: hue + 60 * valueAtHue(hueByHue, h),
        gain: gainOf(saturation) * gainOf(valueAtHue(saturationByHue, h)),
        light: 0.3 * valueAtHue(lightnessByHue, h),
      }),
      {
        lightGain: 1 - Math.abs(lightness),
        lightAdd: Math.max(0, lightness),
        keep: 1,
        a: 0,
        b: 0,
        vibrance: 0,
      },
    )
  },
})
