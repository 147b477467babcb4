import { newStep } from '../artwork/layers.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import type { Artwork } from '../artwork/schema.ts'
import type { Engine } from '../engine/engine.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Rgba } from './kernel-run.ts'
import { MemorySources } from './memory-source.ts'
import { stepAt } from '../steps/registry.ts'
import { compute, newTestEngine } from './pictures.ts'

const ASSET = 'f'.repeat(64)

/** A picture of one function of the place: red, green, blue (and alpha) 0…1. */
export function painted(w: number, h: number, at: (x: number, y: number) => readonly number[]): Rgba {
  const v = new Uint16Array(w * h * 4)
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const [r = 0, g = r, b = r, a = 1] = at(x, y)
      v.set(
        [r, g, b, a].map((c) => Math.round(Math.min(1, Math.max(0, c)) * 65535)),
        (y * w + x) * 4,
      )
    }
  }
  return { w, h, v }
}

/** A step by its id, or id@version for one that is kept for old artworks. */
function versioned(name: string, params: Record<string, unknown> = {}) {
  const [id, version] = name.split('@') as [string, string?]
  if (version === undefined) return newStep(id, params)
  return { ...newStep(id), version: Number(version), params: { ...stepAt(id, Number(version)).defaults, ...params } }
}

async function engineOf(kernels: Kernels, pictures: Readonly<Record<string, Rgba>>): Promise<Engine> {
  const sources = new MemorySources()
  for (const [asset, { w, h, v }] of Object.entries(pictures))
    await sources.add(kernels, asset, { width: w, height: h, channels: 4, depth: 16 }, new Uint8Array(v.buffer, v.byteOffset, v.byteLength))
  return newTestEngine(kernels, sources)
}

/** Engines by the picture that they know: what is studied and planned of it is not found again for each value of a step. Pictures do not change. */
const engines = new WeakMap<Rgba, Engine>()

/** A picture through steps (`id`, or `id@version`), computed by the engine at full size. `edit` may change the artwork before; `others` are further pictures by asset. */
export async function through(
  kernels: Kernels,
  p: Rgba,
  steps: readonly [id: string, params?: Record<string, unknown>][],
  edit: (a: Artwork) => Artwork = (a) => a,
  others: Readonly<Record<string, Rgba>> = {},
): Promise<Rgba> {
  const alone = Object.keys(others).length === 0
  const known = alone ? engines.get(p) : undefined
  // other kernels, of more threads say, are an engine of their own
  const engine = known?.kernels === kernels ? known : await engineOf(kernels, { ...others, [ASSET]: p })
  if (alone) engines.set(p, engine)
  const artwork = artworkFromPhoto({ asset: ASSET, width: p.w, height: p.h, title: 't', ppi: 300 })
  artwork.layers[0]!.chain = steps.map(([name, params]) => versioned(name, params))
  const { pixels } = await compute(engine, edit(artwork))
  engine.clear()
  return { w: p.w, h: p.h, v: pixels }
}

/** The mean of one channel over a part of a picture, 0…1. */
export function meanOf({ w, v }: Rgba, channel = 0, part?: { x: number; y: number; w: number; h: number }): number {
  const r = part ?? { x: 0, y: 0, w, h: v.length / 4 / w }
  let sum = 0
  for (let y = r.y; y < r.y + r.h; y++) for (let x = r.x; x < r.x + r.w; x++) sum += v[(y * w + x) * 4 + channel]!
  return sum / (r.w * r.h) / 65535
}
