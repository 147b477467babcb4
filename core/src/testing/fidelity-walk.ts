import { readFileSync } from 'node:fs'
import { allLayers, newStep } from '../artwork/layers.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import { madeBy } from '../artwork/recipe.ts'
import { recipes } from '../recipes/registry.ts'
import type { Artwork } from '../artwork/schema.ts'
import type { Engine } from '../engine/engine.ts'
import { GraphCompiler } from '../engine/graph.ts'
import { coarsestAt } from '../engine/levels.ts'
import { reducedFromFull } from '../engine/host.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { isLaid } from '../steps/contract.ts'
import { stepById, steps } from '../steps/registry.ts'
import { MemorySources } from './memory-source.ts'
import { compute, newTestEngine, testPicture } from './pictures.ts'
import { addOtherPicture, recipeSettings, settingsOf } from './settings.ts'
import { blockMeans, ssim, type Grey } from './ssim.ts'

// Walks every step and recipe over its settings and says how well previews hold to the render. A program of its own, because
// the test runner makes such loops many times slower. Called with the path of an RGB photo of 640 × 512, and with ids of steps and recipes
// (one argument, commas between) where not all are wanted; prints JSON.

/** What was measured of one setting on one picture. */
export interface Fidelity {
  of: string
  kind: 'step' | 'recipe'
  setting: string
  photo: string
  /** Likeness of the view at 1/2 to the full-size result, reduced. */
  half: number
  /** Mean difference of 8 × 8 block means of the view at 1/8, 0…1. */
  eighth: number
  /** The same, of the worst block. */
  worst: number
  /** As `eighth`, of the picture under a moving hand at 1/4; on the detailed photo, of settings that are not at random. */
  quick: number
  /** As `eighth`, of the picture at twice the size against that at full size; on the detailed photo, of the defaults. */
  twice: number
  /** The largest difference of 8 × 8 block means of the settled view at 1/2 to the render reduced here; on the detailed photo, of the defaults. */
  settled: number
}

const RANDOM = 20
/** Of recipes, which are made of steps that are each walked. */
const RANDOM_RECIPE = 8
/** Settings at random of what is the render reduced. */
const FEW = 2

const only = process.argv[3]?.split(',')
const wanted = (id: string) => !only || only.includes(id)

/** Whether it holds a step that is laid from a study, and is the render reduced at any values. */
const laidWhole = ({ chain }: { chain: readonly { step: string }[] }) =>
  chain.some(({ step }) => {
    const def = stepById(step)
    return isLaid(def) && def.coarsest?.({} as never) === 0
  })

/** Black and white stripes and checks, a ramp, and flat saturated colour. */
function extremes(w: number, h: number): Uint8Array {
  const out = new Uint8Array(w * h * 3)
  const unit = w / 320
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const band = Math.floor(y / 64 / unit)
      const size = 32 << Math.floor(x / 160 / unit)
      const stripes = Math.floor(x / size) % 2
      const checks = (Math.floor(x / size) + Math.floor(y / size)) % 2
      const v = band === 0 ? stripes * 255 : band === 1 ? checks * 255 : band === 2 ? (x / (w - 1)) * 255 : x < w / 2 ? 255 : 0
      out.set(band === 3 ? [v, 0, 255 - v] : [v, v, v], (y * w + x) * 3)
    }
  }
  return out
}

/** Every second pixel each way, by means: the photo at half its size. */
function halved(rgb: Uint8Array, w: number, h: number): Uint8Array {
  const out = new Uint8Array((w * h * 3) / 4)
  for (let y = 0; y < h / 2; y++) {
    for (let x = 0; x < w / 2; x++) {
      for (let c = 0; c < 3; c++) {
        const at = (dx: number, dy: number) => rgb[((2 * y + dy) * w + 2 * x + dx) * 3 + c]!
        out[((y * w) / 2 + x) * 3 + c] = Math.round((at(0, 0) + at(1, 0) + at(0, 1) + at(1, 1)) / 4)
      }
    }
  }
  return out
}

/** A grey picture of even sides at half its size, by means of 2 × 2. */
function halvedGrey({ w, h, v }: Grey): Grey {
  const out = new Float64Array((w * h) / 4)
  for (let y = 0; y < h / 2; y++)
    for (let x = 0; x < w / 2; x++) {
      const i = 2 * y * w + 2 * x
      out[(y * w) / 2 + x] = (v[i]! + v[i + 1]! + v[i + w]! + v[i + w + 1]!) / 4
    }
  return { w: w / 2, h: h / 2, v: out }
}

/** As 8 bits hold it. */
const inCodes = ({ v, ...size }: Grey): Grey => ({ ...size, v: v.map(Math.round) })

/** Luma on white. */
function grey(samples: ArrayLike<number>, w: number, h: number, full: number): Grey {
  const v = new Float64Array(w * h)
  for (let i = 0; i < v.length; i++) {
    const a = samples[i * 4 + 3]! / full
    v[i] = ((0.2126 * samples[i * 4]! + 0.7152 * samples[i * 4 + 1]! + 0.0722 * samples[i * 4 + 2]!) / full) * 255 * a + 255 * (1 - a)
  }
  return { w, h, v }
}

async function walk(photo: Uint8Array): Promise<Fidelity[]> {
  const kernels = await loadKernels()
  const sources = new MemorySources()
  const sizes = { tiny: { w: 160, h: 128 }, small: { w: 320, h: 256 }, large: { w: 640, h: 512 } }
  const photos = ['detailed', 'clear', 'extreme']
  const asset = (name: string) => Buffer.from(name).toString('hex').padEnd(64, '0')
  for (const [size, { w, h }] of Object.entries(sizes)) {
    const shape = { width: w, height: h, channels: 3 as const, depth: 8 as const }
    const detailed = size === 'large' ? photo : halved(photo, 640, 512)
    await sources.add(kernels, asset(`detailed ${size}`), shape, size === 'tiny' ? halved(detailed, 320, 256) : detailed)
    await sources.add(kernels, asset(`clear ${size}`), { ...shape, channels: 4 }, testPicture(w, h, 4))
    await sources.add(kernels, asset(`extreme ${size}`), shape, extremes(w, h))
  }
  await addOtherPicture(kernels, sources)
  const measure = async (engine: Engine, artwork: Artwork, setting: string, looked: boolean) => {
    const shown = async (level: number, quick = false) => {
      const { region, pixels } = await compute(engine, artwork, { level, quick, keep: 'view' })
      return grey(pixels, region.w, region.h, 65535)
    }
    // the render, reduced here: in whole codes, as a view that has settled shows it
    const full = await shown(0)
    const at1 = halvedGrey(full)
    const at2 = halvedGrey(at1)
    const half = ssim(inCodes(at1), await shown(1))
    const { mean: eighth, worst } = blockMeans(inCodes(halvedGrey(at2)), await shown(3))
    // what was kept would be shown under a moving hand too
    engine.clear()
    const quick = looked ? blockMeans(inCodes(at2), await shown(2, true)).mean : 0
    engine.clear()
    if (!looked || setting !== 'defaults') return { half, eighth, worst, quick, twice: 0, settled: 0 }
    const twice = blockMeans(full, halvedGrey(await shown(-1))).mean
    engine.clear()
    const node = new GraphCompiler(artwork, kernels.hash).compile({ type: 'artwork' })
    const view = await reducedFromFull(engine, node, 1, { x: 0, y: 0, w: at1.w, h: at1.h }, artwork.sheet, { cancelled: false })
    const settled = blockMeans(inCodes(at1), grey(new Uint8Array(view), at1.w, at1.h, 255)).worst
    engine.clear()
    return { half, eighth, worst, quick, twice, settled }
  }
  const found: Fidelity[] = []
  // what can be made at full size only is the render reduced, whatever the setting: one picture shows that, and few settings at random
  let turn = 0
  const spared = (artwork: Artwork, setting: string, i: number) => {
    if (setting === 'defaults' || coarsestAt(new GraphCompiler(artwork, kernels.hash).compile({ type: 'artwork' })) !== 0) return false
    const dealt = /^random (\d+)$/.exec(setting)
    return dealt ? i !== turn % photos.length || Number(dealt[1]) >= FEW : i !== 0
  }
  const looked = (setting: string, photo: string) => photo === 'detailed' && !setting.startsWith('random')
  const on = (name: string, size: keyof typeof sizes) =>
    artworkFromPhoto({ asset: asset(`${name} ${size}`), width: sizes[size].w, height: sizes[size].h, title: 't' })
  // what is planned, and the render reduced whatever its values, is looked at once for each setting: a small picture shows it as well
  const sizeFor = (laid: boolean, setting: string, usual: keyof typeof sizes) => (!laid ? usual : setting === 'defaults' ? 'small' : 'tiny')
  for (const step of steps.filter((x) => wanted(x.id))) {
    // plans and facts are kept from value to value, pixels are not
    const engine = newTestEngine(kernels, sources)
    const laid = laidWhole({ chain: [{ step: step.id }] })
    for (const [setting, params] of settingsOf(step, RANDOM, sizes[laid ? 'tiny' : 'small'].w / 2)) {
      turn++
      for (const [i, name] of photos.entries()) {
        const size = sizeFor(laid, setting, 'small')
        const artwork = on(name, size)
        artwork.layers[0]!.chain = [newStep(step.id, params)]
        if (spared(artwork, setting, i)) continue
        found.push({ of: step.id, kind: 'step', setting, photo: name, ...(await measure(engine, artwork, setting, looked(setting, name))) })
      }
    }
  }
  for (const recipe of recipes.filter((x) => wanted(x.id))) {
    const engine = newTestEngine(kernels, sources)
    for (const [setting, values] of recipeSettings(recipe, RANDOM_RECIPE)) {
      turn++
      for (const [i, name] of photos.entries()) {
        const size = sizeFor([...allLayers(recipe.layers)].some(laidWhole), setting, 'large')
        const artwork = madeBy(on(name, size), recipe, values as Record<string, number | string>)
        if (spared(artwork, setting, i)) continue
        found.push({ of: recipe.id, kind: 'recipe', setting, photo: name, ...(await measure(engine, artwork, setting, looked(setting, name))) })
      }
    }
  }
  return found
}

console.log(JSON.stringify(await walk(readFileSync(process.argv[2]!))))
