import { createHash } from 'node:crypto'
import { Engine } from '../engine/engine.ts'
import { Painter, type Laying, type Painted, type StrokeStart } from '../engine/painter.ts'
import { EMPTY_TILE, emptyPlane, type Entry, type Plane } from '../planes/plane.ts'
import { defaultBrush, type Symmetry } from '../strokes/brush.ts'
import type { Sized } from '../strokes/dabs.ts'
import type { Sample } from '../strokes/path.ts'
import type { MemorySources } from './memory-source.ts'

/** A brush in pixels that lays all it has, whatever the pressure. */
export const plainBrush = (given: Partial<Sized> = {}): Sized => ({
  ...defaultBrush,
  breadth: 40,
  edge: 1,
  cover: 1,
  tip: 'firm',
  pressure: { breadth: 0, cover: 0, response: 'even' },
  ...given,
})

/** Samples of a line of places in pixels, at a rate. */
export const samplesOf = (places: readonly (readonly [x: number, y: number, p?: number])[], every = 8): Sample[] =>
  places.map(([x, y, p = 1], i) => ({ x: Math.round(x * 64), y: Math.round(y * 64), t: i * every, p: Math.round(p * 1023), tiltX: 0, tiltY: 0 }))

/** As a host with a fast SHA-256 gives it. */
export const digest = async (bytes: Uint8Array): Promise<string> => createHash('sha256').update(bytes).digest('hex')

export interface PaintOptions {
  plane?: Plane
  blank?: Entry
  brush?: Partial<Sized>
  symmetry?: Symmetry
  laying?: Laying
  within?: StrokeStart['within']
  paper?: StrokeStart['paper']
  /** How many samples are told at once; all where not given. */
  portions?: (i: number) => number
}

/** Paints one stroke and keeps what it left where the engine finds it. */
export async function paintStroke(engine: Engine, sources: MemorySources, samples: readonly Sample[], options: PaintOptions = {}): Promise<Painted> {
  const painter = new Painter(engine.kernels, engine.planes, {
    plane: options.plane ?? emptyPlane(1),
    blank: options.blank ?? EMPTY_TILE,
    brush: plainBrush(options.brush),
    symmetry: options.symmetry ?? { type: 'none' },
    laying: options.laying ?? { type: 'grey', value: 65535 },
    paper: options.paper ?? null,
    within: options.within ?? { x: 0, y: 0, w: 4000, h: 4000 },
  })
  for (let i = 0, n = 0; i < samples.length; i += n) {
    n = options.portions?.(i) ?? samples.length
    await painter.add(samples.slice(i, i + n))
  }
  await painter.finish()
  const painted = await painter.end(digest)
  for (const { name, bytes } of painted.blobs) sources.blobs.set(name, bytes)
  return painted
}
