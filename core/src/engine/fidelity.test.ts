import sharp from 'sharp'
import { newStep } from '../artwork/layers.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import { instantiate } from '../artwork/recipe.ts'
import { recipes } from '../artwork/recipes.ts'
import type { Artwork } from '../artwork/schema.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { steps } from '../steps/registry.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, newTestEngine, testPicture } from '../testing/pictures.ts'
import { blockMeans, ssim, type Grey } from '../testing/ssim.ts'
import { reducedFromFull } from './host.ts'
import { GraphCompiler } from './graph.ts'

// Preview and render are the same picture: the full-size result reduced, against the result computed at that level, for every
// step and recipe there is, at their defaults and at the values the picker shows. (Steep tone curves on noisy photos are not held
// to this at every setting: the settled view is what shows them as they will be delivered.)

const W = 320
const H = 256
const photos = ['detailed', 'clear', 'extreme'] as const
let kernels: Kernels
const sources = new MemorySources()
const asset = (name: string) => Buffer.from(name).toString('hex').padEnd(64, '0')

beforeAll(async () => {
  kernels = await loadKernels()
  const detailed = await sharp(`${__dirname}/../../../demo/photos/keeper-portrait.jpg`)
    .extract({ left: 300, top: 300, width: 960, height: 768 })
    .resize(W, H)
    .raw()
    .toBuffer()
  await sources.add(kernels, asset('detailed'), { width: W, height: H, channels: 3, depth: 8 }, detailed)
  await sources.add(kernels, asset('clear'), { width: W, height: H, channels: 4, depth: 8 }, testPicture(W, H, 4))
  // black and white stripes and checks, a ramp, and flat saturated colour
  const extreme = new Uint8Array(W * H * 3)
  for (let y = 0; y < H; y++) {
    for (let x = 0; x < W; x++) {
      const band = Math.floor(y / 64)
      const size = 32 << Math.floor(x / 160)
      const v =
        band === 0
          ? (Math.floor(x / size) % 2) * 255
          : band === 1
            ? ((Math.floor(x / size) + Math.floor(y / size)) % 2) * 255
            : band === 2
              ? (x / (W - 1)) * 255
              : x < 160
                ? 255
                : 0
      extreme.set(band === 3 ? [v, 0, 255 - v] : [v, v, v], (y * W + x) * 3)
    }
  }
  await sources.add(kernels, asset('extreme'), { width: W, height: H, channels: 3, depth: 8 }, extreme)
})

const on = (photo: string): Artwork => artworkFromPhoto({ asset: asset(photo), width: W, height: H, title: 't' })

/** Luma on white of RGBA8. */
function grey(bytes: ArrayLike<number>, w: number, h: number, full: number): Grey {
  const v = new Float64Array(w * h)
  for (let i = 0; i < v.length; i++) {
    const a = bytes[i * 4 + 3]! / full
    v[i] = ((0.2126 * bytes[i * 4]! + 0.7152 * bytes[i * 4 + 1]! + 0.0722 * bytes[i * 4 + 2]!) / full) * 255 * a + 255 * (1 - a)
  }
  return { w, h, v }
}

async function compare(artwork: Artwork): Promise<{ half: number; eighth: number }> {
  const node = new GraphCompiler(artwork, kernels.hash).compile({ type: 'artwork' })
  const engine = newTestEngine(kernels, sources)
  const at = async (level: number) => {
    const region = { x: 0, y: 0, w: W >> level, h: H >> level }
    const reduced = new Uint8Array(await reducedFromFull(engine, node, level, region, artwork.sheet, { cancelled: false }))
    const { pixels } = await compute(engine, artwork, { level })
    return [grey(reduced, region.w, region.h, 255), grey(pixels, region.w, region.h, 65535)] as const
  }
  const half = ssim(...(await at(1)))
  const eighth = blockMeans(...(await at(3))).mean
  engine.cache.clear()
  return { half, eighth }
}

describe.each(steps.map((s) => [s.id, s] as const))('%s', (_, step) => {
  test.each(photos)('looks at 1/2 as at full size, reduced (%s)', async (photo) => {
    const bar = step.fidelity?.half ?? 0.98
    expect(bar).toBeGreaterThanOrEqual(0.9)
    for (const params of [{}, step.sample ?? {}]) {
      const artwork = on(photo)
      artwork.layers[0]!.chain = [newStep(step.id, params as Record<string, unknown>)]
      const { half, eighth } = await compare(artwork)
      expect(half).toBeGreaterThanOrEqual(bar)
      expect(eighth).toBeLessThan(0.01)
    }
  })
})

describe.each(recipes.map((r) => [r.id, r] as const))('recipe %s', (_, recipe) => {
  test.each(photos)('looks at 1/2 as at full size, reduced (%s)', async (photo) => {
    const artwork = on(photo)
    const { layers, use } = instantiate(recipe, artwork.layers[0]!.source)
    // the tooth of the paper is near the size of a pixel on so small a picture
    expect((await compare({ ...artwork, layers, recipes: [use] })).half).toBeGreaterThanOrEqual(0.95)
  })
})
