import { transferTables } from '../../colour/srgb.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import type { Pic } from '../contract.ts'
import { cubeIn, tableIn } from '../table-cache.ts'
import { HUE_ENTRIES, hueOfEntry } from './hue-table.ts'

/** What is done to a hue: turned by degrees, its chroma multiplied, its lightness (0…1) added to. */
export interface AtHue {
  turn: number
  gain: number
  light: number
}
export interface Shift {
  lightGain: number
  lightAdd: number
  /** What of the colour is kept before a and b are added. */
  keep: number
  a: number
  b: number
  vibrance: number
}

/**
 * Changes colours in OKLab: computed at the points of a cube, straight between them. `name` stands for all that `atHue` goes by.
 */
export function shiftHues(kernels: Kernels, input: Pic, output: Pic, name: string, atHue: (degrees: number) => AtHue, s: Shift): void {
  const { cos, sin } = kernels.raw
  const colours = cubeIn(kernels, `hues ${name} ${Object.values(s).join()}`, (ptr, stride, w, h) => {
    const table = tableIn(kernels, `hues ${name}`, () => {
      const t = new Float32Array(HUE_ENTRIES * 4)
      for (let i = 0; i < HUE_ENTRIES; i++) {
        const { turn, gain, light } = atHue(hueOfEntry(i, kernels.raw.atan2))
        const angle = (turn * Math.PI) / 180
        t.set([gain * cos(angle), gain * sin(angle), light, 0], i * 4)
      }
      return t
    })
    const { decode, encode } = transferTables(kernels)
    kernels.scratch(32, (set) => {
      kernels.f32(set, 6).set([s.lightGain, s.lightAdd, s.keep, s.a, s.b, s.vibrance])
      kernels.raw.hueShift(ptr, stride, ptr, stride, w, h, table, set, decode, encode)
    })
  })
  kernels.raw.cube(input.ptr, input.stride, output.ptr, output.stride, output.region.w, output.region.h, colours)
}
