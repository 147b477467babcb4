import { readFileSync } from 'node:fs'
import { newStep } from '../artwork/layers.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import { atLevel, type Region } from '../base/region.ts'
import { GraphCompiler } from '../engine/graph.ts'
import type { Node } from '../engine/nodes.ts'
import type { Engine } from '../engine/engine.ts'

import { loadKernels } from '../kernels/load-node.ts'
import type { AnyStep } from '../steps/contract.ts'
import { resolveLength, type Length } from '../steps/params/index.ts'
import { steps } from '../steps/registry.ts'
import { MemorySources } from './memory-source.ts'
import { cellsOf, newTestEngine } from './pictures.ts'
import { ssim, type Grey } from './ssim.ts'

// Lays each step that has lengths on a large photo and on the same photo at a quarter of its sides, and says how alike the middles of both results are once they are
// reduced to one size. A program of its own, because the test runner makes such loops many times slower. Called with the path of an RGB photo, its width and height
// (multiples of 64), and with ids (one argument, commas between) where not all are wanted; prints JSON.

/** What was measured of one step at one length. */
export interface Look {
  id: string
  /** What was set besides lengths. */
  values: Record<string, unknown>
  /** Lengths were so many times the usual ones. */
  times: number
  /** The shortest length that its marks have on the small photo, pixels; null where none is one of a mark. */
  mark: number | null
  /** Structural similarity of both results. */
  ssim: number
  /** Mean tone of the large one and of the small one, 0…255. */
  tones: [number, number]
  /** How much neighbouring pixels differ in both (root of the mean square): the energy of their texture. */
  energies: [number, number]
}

/** A length in pixels is told of a photo as wide as this. */
const USUAL = 1920
/** Parts of the large photo's sides that both results are reduced to. */
const REDUCED = 4
const SMALLER = 2
/** Pixels computed at once, each way. */
const CELL = 1024
/** What is compared is the middle half each way: all of it would take four times as long and say no more. */
const middle = ({ w, h }: { w: number; h: number }): Region => ({ x: w >> 2, y: h >> 2, w: w >> 1, h: h >> 1 })
const TIMES = [1, 3]
/** What else than the usual values is looked at. */
const also: Record<string, Record<string, unknown>[]> = { 'paper-shapes': [{}, { straight: 0 }] }

const [path, width, height, some] = process.argv.slice(2)
const [W, H] = [Number(width), Number(height)]
const only = some?.split(',')

function halved(rgb: Uint8Array, w: number, h: number): Uint8Array {
  const out = new Uint8Array((w * h * 3) / 4)
  for (let y = 0; y < h / 2; y++)
    for (let x = 0; x < w / 2; x++)
      for (let c = 0; c < 3; c++) {
        const at = (dx: number, dy: number) => rgb[((2 * y + dy) * w + 2 * x + dx) * 3 + c]!
        out[((y * w) / 2 + x) * 3 + c] = Math.round((at(0, 0) + at(1, 0) + at(0, 1) + at(1, 1)) / 4)
      }
  return out
}

const kernels = await loadKernels()
const sources = new MemorySources()
const photos = [
  { asset: 'a'.repeat(64), width: W, height: H, level: REDUCED },
  { asset: 'b'.repeat(64), width: W >> SMALLER, height: H >> SMALLER, level: REDUCED - SMALLER },
] as const
let rgb: Uint8Array = readFileSync(path!)
await sources.add(kernels, photos[0].asset, { width: W, height: H, channels: 3, depth: 8 }, rgb)
for (let l = 0; l < SMALLER; l++) rgb = halved(rgb, W >> l, H >> l)
await sources.add(kernels, photos[1].asset, { width: W >> SMALLER, height: H >> SMALLER, channels: 3, depth: 8 }, rgb)

/** Luma on white of a region of a level, from full size: means of its blocks. */
async function seen(engine: Engine, node: Node, level: number, { x, y, w, h }: Region): Promise<Grey> {
  const v = new Float64Array(w * h)
  const full = { x: x << level, y: y << level, w: w << level, h: h << level }
  const part = 1 / (257 * 4 ** level)
  for (const cell of cellsOf(full, { w: CELL, h: CELL }))
    await engine.withRegion(node, 0, cell, (pic) => {
      for (let j = 0; j < cell.h; j++) {
        const row = engine.kernels.u16(pic.ptr + j * pic.stride, cell.w * 4)
        const line = ((cell.y + j - full.y) >> level) * w
        for (let i = 0; i < cell.w; i++) {
          const k = i * 4
          const a = row[k + 3]! / 65535
          const luma = (0.2126 * row[k]! + 0.7152 * row[k + 1]! + 0.0722 * row[k + 2]!) * a + 65535 * (1 - a)
          v[line + ((cell.x + i - full.x) >> level)]! += luma * part
        }
      }
    })
  return { w, h, v }
}
const toneOf = ({ v }: Grey) => v.reduce((a, b) => a + b, 0) / v.length
function energyOf({ w, h, v }: Grey): number {
  let sum = 0
  for (let y = 0; y < h; y++) for (let x = 1; x < w; x++) sum += (v[y * w + x]! - v[y * w + x - 1]!) ** 2
  return Math.sqrt(sum / v.length)
}

/** A step's usual values with lengths that go by the picture's size, so many times as long. */
function relative(step: AnyStep, times: number): Record<string, unknown> {
  const params: Record<string, unknown> = { ...step.defaults, ...step.sample }
  for (const [name, spec] of Object.entries(step.params)) {
    if (spec.type !== 'length') continue
    const { value, unit } = params[name] as Length
    params[name] = unit === 'px' ? { value: (value / USUAL) * 100 * times, unit: '%' } : { value: value * times, unit }
  }
  return params
}

const found: Look[] = []
for (const step of steps) {
  const lengths = Object.entries(step.params).filter(([, spec]) => spec.type === 'length')
  if (lengths.length === 0 || (only && !only.includes(step.id))) continue
  // strokes and washes take long, and are seen for what they are at the longer
  const looks = (step.group === 'paint' && step.kind === 'planned' ? TIMES.slice(1) : TIMES).flatMap((times) =>
    (also[step.id] ?? [{}]).map((values) => ({ times, values })),
  )
  for (const { times, values } of looks) {
    const params = { ...relative(step, times), ...values }
    const results: Grey[] = []
    let mark: number | null = null
    for (const { level, ...photo } of photos) {
      const artwork = artworkFromPhoto({ ...photo, title: 'look' })
      artwork.layers[0]!.chain = [newStep(step.id, params)]
      const engine = newTestEngine(kernels, sources)
      const node = new GraphCompiler(artwork, kernels.hash).compile({ type: 'artwork' })
      // lines are few: all of them are looked at
      const sheet = atLevel(artwork.sheet, level)
      const region = step.group === 'line' ? sheet : middle(sheet)
      results.push(await seen(engine, node, level, region))
      engine.clear()
      const scale = { reference: artwork.reference, ppi: artwork.sheet.ppi }
      const marks = lengths.flatMap(([name, spec]) =>
        spec.type === 'length' && (spec.mark || (params[name] as Length).unit === 'mm') ? [resolveLength(spec, params[name] as Length, scale)] : [],
      )
      mark = marks.length ? Math.min(...marks) : null
    }
    const [a, b] = results as [Grey, Grey]
    found.push({ id: step.id, values, times, mark, ssim: ssim(a, b), tones: [toneOf(a), toneOf(b)], energies: [energyOf(a), energyOf(b)] })
  }
}
console.log(JSON.stringify(found))
