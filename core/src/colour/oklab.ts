import type { Kernels } from '../kernels/kernels.ts'
import { linearToSrgb, srgbToLinear } from './srgb.ts'

export type Triple = [number, number, number]

/** Display-encoded R, G, B 0…1 of #rrggbb. */
export function rgbOfHex(hex: string): Triple {
  return [1, 3, 5].map((i) => Number.parseInt(hex.slice(i, i + 2), 16) / 255) as Triple
}

/** #rrggbb of display-encoded R, G, B, held to 0…1 and rounded to 8 bits. */
export function hexOfRgb(rgb: readonly number[]): string {
  return `#${rgb
    .map((v) =>
      Math.round(Math.min(1, Math.max(0, v)) * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`
}

type Pow = Kernels['raw']['pow']
const root = (v: number, pow: Pow) => (v > 0 ? pow(v, 1 / 3) : v < 0 ? -pow(-v, 1 / 3) : 0)

/** OKLab of linear light R, G, B. Ottosson, "A perceptual color space for image processing" (2020). */
export function oklabOfLinear([r, g, b]: readonly number[] & Triple, pow: Pow): Triple {
  const l = root(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b, pow)
  const m = root(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b, pow)
  const s = root(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b, pow)
  return [
    0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s,
    1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s,
    0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s,
  ]
}

/** By multiplication, which is the same everywhere; powers are each engine's own. */
const cubed = (v: number): number => v * v * v

/** Linear light R, G, B of OKLab; may lie outside 0…1. */
export function linearOfOklab([light, a, b]: Triple): Triple {
  const l = cubed(light + 0.3963377774 * a + 0.2158037573 * b)
  const m = cubed(light - 0.1055613458 * a - 0.0638541728 * b)
  const s = cubed(light - 0.0894841775 * a - 1.291485548 * b)
  return [
    4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s,
    -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s,
    -0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s,
  ]
}

/** OKLab of display-encoded sRGB 0…1. */
export const oklabOfRgb = (rgb: Triple, pow: Pow): Triple => oklabOfLinear(rgb.map((v) => srgbToLinear(v, pow)) as Triple, pow)
/** Display-encoded sRGB of OKLab; may lie outside 0…1. */
export const rgbOfOklab = (lab: Triple, pow: Pow): Triple => linearOfOklab(lab).map((v) => (v < 0 ? -linearToSrgb(-v, pow) : linearToSrgb(v, pow))) as Triple

/** CIE 1976 L*a*b* under D65 of display-encoded sRGB (IEC 61966-2-1 matrix; CIE 15:2004, 8.2.1). */
export function labOfRgb(rgb: Triple, pow: Pow): Triple {
  const [r, g, b] = rgb.map((v) => srgbToLinear(v, pow)) as Triple
  const f = (t: number) => (t > 216 / 24389 ? pow(t, 1 / 3) : (t * 841) / 108 + 4 / 29)
  const x = f(0.4339532 * r + 0.3762061 * g + 0.1898407 * b)
  const y = f(0.2126729 * r + 0.7151522 * g + 0.072175 * b)
  const z = f(0.0177578 * r + 0.1094765 * g + 0.8727657 * b)
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)]
}

/** Display-encoded sRGB of CIE 1976 L*a*b* under D65; may lie outside 0…1. */
export function rgbOfLab([light, a, b]: Triple, pow: Pow): Triple {
  const back = (f: number) => (f > 6 / 29 ? f * f * f : ((f - 4 / 29) * 108) / 841)
  const fy = (light + 16) / 116
  const [x, y, z] = [back(fy + a / 500), back(fy), back(fy - b / 200)]
  const linear = [3.0799112 * x - 1.5370932 * y - 0.5428178 * z, -0.921246 * x + 1.8759992 * y + 0.0452467 * z, 0.052892 * x - 0.2040438 * y + 1.1511518 * z]
  return linear.map((v) => (v < 0 ? -linearToSrgb(-v, pow) : linearToSrgb(v, pow))) as Triple
}

/** A 16-bit RGBA pixel of display-encoded values 0…1, as the kernels hold it. */
export function pixelOf(rgb: readonly number[], alpha = 1): bigint {
  const code = (v: number) => BigInt(Math.floor(Math.min(1, Math.max(0, v)) * 65535 + 0.5))
  return code(rgb[0]!) | (code(rgb[1]!) << 16n) | (code(rgb[2]!) << 32n) | (code(alpha) << 48n)
}
