import type { Kernels } from '../../kernels/kernels.ts'
import { blurred, field, type Field } from '../../study/fields.ts'
import { carryOn } from '../../study/study.ts'
import { massesOf } from '../../study/masses.ts'
import type { Analysis } from '../contract.ts'

/** A picture's colours as a painter's plan goes by them, and how much of it there is: display-encoded red, green, blue 0…1. */
export interface Colours {
  w: number
  h: number
  rgb: [Float32Array, Float32Array, Float32Array]
  cover: Float32Array
}

/** Reads them; where the picture is clear, it goes on as it is round about, so that no stroke at a rim is led by what is not there. */
export function coloursOf({ input, kernels }: Pick<Analysis, 'input' | 'kernels'>): Colours {
  const { w, h } = input.region
  const rgb = [0, 1, 2].map(() => new Float32Array(w * h)) as Colours['rgb']
  const cover = new Float32Array(w * h)
  let clear = false
  for (let y = 0; y < h; y++) {
    const row = kernels.u16(input.ptr + y * input.stride, w * 4)
    for (let x = 0; x < w; x++) {
      const i = y * w + x
      const a = row[x * 4 + 3]! / 65535
      cover[i] = a
      if (a < 1) clear = true
      rgb[0][i] = (row[x * 4]! / 65535) * a
      rgb[1][i] = (row[x * 4 + 1]! / 65535) * a
      rgb[2][i] = (row[x * 4 + 2]! / 65535) * a
    }
  }
  if (!clear) return { w, h, rgb, cover }
  carryOn(kernels, { w, h, v: cover }, rgb, Math.max(w, h))
  return { w, h, rgb, cover }
}

/**
 * Where strokes may run of a picture with clear parts: on beyond its silhouette, as its colours do, so that they are cut off by it and do not end before it.
 * @param reach of the long side
 */
export function coverBeyond(kernels: Kernels, { w, h, cover }: Colours, reach: number): Float32Array {
  const spread = blurred(kernels, { w, h, v: cover }, Math.max(1, reach * Math.max(w, h)))
  return spread.v.map((v) => Math.min(1, 6 * v))
}

/** The colours in masses: what is smaller than a size (pixels of the plan) is gone, borders stand where they stood. */
export async function colourMasses(kernels: Kernels, { w, h, rgb }: Colours, size: number, pause: () => Promise<void>): Promise<[Field, Field, Field]> {
  const out: Field[] = []
  for (const v of rgb) out.push(size < 0.7 ? { w, h, v } : await massesOf(kernels, { w, h, v }, size, pause))
  return out as [Field, Field, Field]
}

/** Lightness of display-encoded colours, 0…1 (weights of ITU-R BT.709). */
export function lightnessOf([r, g, b]: readonly [Field, Field, Field]): Field {
  const out = field(r.w, r.h)
  for (let i = 0; i < out.v.length; i++) out.v[i] = 0.2126 * r.v[i]! + 0.7152 * g.v[i]! + 0.0722 * b.v[i]!
  return out
}

/** How far apart two display-encoded colours are, 0…1; lightness counts most. */
export const apart = (r: number, g: number, b: number, s: number, t: number, u: number): number =>
  Math.sqrt(0.3 * (r - s) ** 2 + 0.55 * (g - t) ** 2 + 0.15 * (b - u) ** 2)
