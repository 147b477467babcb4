import { spanTable, type Span } from '../blend/span.ts'
import { linearToSrgb, srgbToLinear } from '../colour/srgb.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from '../steps/contract.ts'
import { tableIn } from '../steps/table-cache.ts'

/** Stops that a light map painted full gives, or takes. */
export const FULL_STOPS = 2

/** Stops of a code of a light map: 32768 changes nothing. */
export const stopsOf = (code: number, strength: number): number => ((code - 32768) / 32768) * FULL_STOPS * strength

/** What the kernel `lightMap` goes by, in kernel memory. */
export function lightTables(kernels: Kernels, strength: number, span: Span | null): Record<'span' | 'stops' | 'light' | 'gains' | 'codes', number> {
  const { pow } = kernels.raw
  return {
    span: tableIn(kernels, span ? `span ${JSON.stringify(span)}` : 'all tones', () => (span ? spanTable(span) : new Uint16Array(65536).fill(65535))),
    stops: tableIn(kernels, `light stops ${strength}`, () => Float32Array.from({ length: 65536 }, (_, i) => stopsOf(i, strength))),
    light: tableIn(kernels, 'light of codes', () => Float32Array.from({ length: 65536 }, (_, i) => srgbToLinear(i / 65535, pow))),
    gains: tableIn(kernels, 'light gains', () => Float32Array.from({ length: 8193 }, (_, i) => pow(2, (i - 4096) / 512))),
    codes: tableIn(kernels, 'codes of light', () => Uint16Array.from({ length: 65537 }, (_, i) => Math.floor(linearToSrgb(i / 65536, pow) * 65535 + 0.5))),
  }
}

/** Full-size pixels of height from black to white of a picture of heights; its middle grey is flat. */
export const HEIGHT_RANGE = 128
/** The lowest that a lamp stands, degrees. */
const LOWEST = 5
const RADIANS = 3.141592653589793 / 180

/** Lights a picture by its heights, which reach a pixel beyond it. */
export function lightHeights(
  { raw }: Kernels,
  lamp: { direction: number; height: number },
  level: number,
  input: Pic,
  heights: Pic,
  { ptr, stride, region: { w, h } }: Pic,
): void {
  const high = Math.max(LOWEST, lamp.height) * RADIANS
  const [lx, ly] = [raw.cos(lamp.direction * RADIANS) * raw.cos(high), -raw.sin(lamp.direction * RADIANS) * raw.cos(high)]
  // a difference over two pixels of the level, in full-size pixels
  const slope = HEIGHT_RANGE / 65535 / (2 * 2 ** level)
  raw.lightHeights(input.ptr, input.stride, heights.ptr, heights.stride, ptr, stride, w, h, slope, lx, ly, raw.sin(high))
}
