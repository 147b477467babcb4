import { grow, type Region } from '../../base/region.ts'
import type { Kernels } from '../../kernels/kernels.ts'

// taken once: loops over planes look nothing up
const { ceil, floor, imul, max, min } = Math

/** Bytes of a stroke as the kernel reads it. */
export const STROKE_FLOATS = 12

/** How the strokes of one layer lie, lengths in pixels of the level. */
export interface Laying {
  /** Their direction, radians, clockwise on the screen from the right. */
  angle: number
  spacing: number
  length: number
  /** At full demand. */
  width: number
  /** 0 ruled … 1 shaky. */
  wobble: number
  /** Darkness of the lead. */
  lead: number
  seed: number
}

/** A number 0…1 that belongs to a place of a lattice. */
export function chance(i: number, j: number, seed: number): number {
  let h = imul(i, 0x27d4eb2d) ^ imul(j, 0x165667b1) ^ seed
  h = imul(h ^ (h >>> 15), 0x2c1b3c6d)
  h = imul(h ^ (h >>> 12), 0x297a2d39)
  return ((h ^ (h >>> 15)) >>> 0) / 4294967296
}

/** Every eighth row first, then those between: so that few strokes lie evenly. */
const ORDER = [0, 4, 2, 6, 1, 5, 3, 7]

/** Bends a stroke laid at a place to the form there: its direction and curvature. */
export type Bend = (x: number, y: number, angle: number, length: number) => { angle: number; bend: number }

/**
 * The strokes that touch a region, as the kernel reads them. Each lies in a cell of a lattice that is turned by the layer's angle and fixed in artwork
 * coordinates, thrown a little out of its place.
 */
export function layStrokes(region: Region, l: Laying, bend: Bend | null, { cos, sin }: Pick<Kernels['raw'], 'cos' | 'sin'>): Float32Array {
  const period = l.length * 0.86
  const [c, s] = [cos(l.angle), sin(l.angle)]
  const around = grow(region, ceil(l.length * 0.75 + l.width + 2))
  const corners = [
    [around.x, around.y],
    [around.x + around.w, around.y],
    [around.x, around.y + around.h],
    [around.x + around.w, around.y + around.h],
  ] as const
  const us = corners.map(([x, y]) => x * c + y * s)
  const vs = corners.map(([x, y]) => y * c - x * s)
  const [j0, j1] = [floor(min(...vs) / l.spacing) - 1, ceil(max(...vs) / l.spacing) + 1]
  const [u0, u1] = [min(...us), max(...us)]
  const out: number[] = []
  const shake = 0.05 + 0.5 * l.wobble
  for (let j = j0; j <= j1; j++) {
    const shift = chance(j, 71, l.seed)
    const [i0, i1] = [floor(u0 / period - shift) - 1, ceil(u1 / period - shift) + 1]
    for (let i = i0; i <= i1; i++) {
      const at = (k: number) => chance(i, j, l.seed + k * 7919)
      const u = (i + shift + (at(1) - 0.5) * 0.5) * period
      const v = (j + 0.5 + (at(2) - 0.5) * shake) * l.spacing
      const [x, y] = [u * c - v * s, u * s + v * c]
      if (x < around.x || x > around.x + around.w || y < around.y || y > around.y + around.h) continue
      const length = l.length * (0.7 + 0.6 * at(3))
      const laid = bend ? bend(x, y, l.angle, length) : { angle: l.angle, bend: 0 }
      const angle = laid.angle + (at(4) - 0.5) * (0.02 + 0.16 * l.wobble)
      const curve = laid.bend + ((at(5) - 0.5) * 1.2 * l.wobble) / l.length
      out.push(x, y, cos(angle), sin(angle), length / 2, (l.width / 2) * (0.85 + 0.3 * at(6)), curve)
      out.push(l.wobble * 0.22 * l.spacing * at(7), 6.2831853 / (l.length * (0.3 + 0.5 * at(8))), 6.2831853 * at(9))
      out.push(0.9 * ((ORDER[((j % 8) + 8) % 8]! + at(10)) / 8), l.lead * (0.85 + 0.15 * at(11)))
    }
  }
  return Float32Array.from(out)
}
