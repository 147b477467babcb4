import { createHash } from 'node:crypto'
import { readdirSync, readFileSync } from 'node:fs'
import { allLayers, newLayer, newStep } from '../artwork/layers.ts'
import { artworkFromPhoto, loadArtwork, loadRecipe } from '../artwork/load.ts'
import { madeBy } from '../artwork/recipe.ts'
import { recipes } from '../recipes/registry.ts'
import type { Artwork, Recipe } from '../artwork/schema.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { isLaid, type AnyStep } from '../steps/contract.ts'
import { olderSteps, stepAt, steps } from '../steps/registry.ts'
import { newMask } from '../artwork/planes.ts'
import { orderedArea } from '../engine/areas.ts'
import { inkBlobs, noInk, withStrokes, type InkPlace } from '../ink/ink.ts'
import { paintStroke, samplesOf } from './painting.ts'
import { MemorySources } from './memory-source.ts'
import { compute, formsPicture, newTestEngine, testPicture } from './pictures.ts'
import { addOtherPicture, recipeSettings, settingsOf } from './settings.ts'

// Hashes of the pixels of every version of every step, and of every recipe: at their defaults, their sample values and both ends
// of every parameter; and of whole artworks as they were saved by earlier versions. At twice the size and at levels 0 … 3, by tiles and
// by strips. A program of its own, because the
// test runner makes such loops many times slower. Called with ids (one argument, commas between) where not all are wanted; prints JSON.

/**
 * Hashes by what was computed (`id@version`), by setting: one a level from −1 to 3, and where pieces differed from the whole. Of steps that go by a study also
 * of a picture with forms, at full size.
 */
export type Golden = Record<string, Record<string, string[]>>

export const GOLDEN_LEVELS = [-1, 0, 1, 2, 3]
const [W, H] = [150, 110]
const asset = 'a1'.repeat(32)
/** What techniques draw that go by a study: on noise they draw next to nothing. */
const FORMS = { asset: 'b1'.repeat(32), width: 300, height: 220 }
/** The same for what is painted stroke upon stroke, which takes longest. */
const SMALL_FORMS = { asset: 'b2'.repeat(32), width: 150, height: 110 }
const stroked = (def: AnyStep) => def.group === 'paint' && isLaid(def) && !('shapes' in def)

const only = process.argv[2]?.split(',')
const wanted = (id: string) => !only || only.includes(id)
const kernels = await loadKernels()
const sources = new MemorySources()
await sources.add(kernels, asset, { width: W, height: H, channels: 4, depth: 8 }, testPicture(W, H, 4))
for (const { asset: name, width, height } of [FORMS, SMALL_FORMS])
  await sources.add(kernels, name, { width, height, channels: 3, depth: 8 }, formsPicture(width, height))
await addOtherPicture(kernels, sources)

const hashOf = (pixels: Uint16Array) => createHash('sha256').update(new Uint8Array(pixels.buffer)).digest('hex').slice(0, 10)

/**
 * The hash of an artwork's pixels at each level; of the levels at which pieces differ from the whole, both, with a sign between. What one way of cutting
 * made at one level serves its next ones, as in a view; the other way begins anew.
 */
async function hashes(artwork: Artwork, levels = GOLDEN_LEVELS, engine = newTestEngine(kernels, sources)): Promise<string[]> {
  const each = levels.map(() => new Set<string>())
  for (const grid of [
    { w: 64, h: 64 },
    { w: 1 << 24, h: 16 },
  ]) {
    for (const [i, level] of levels.entries()) each[i]!.add(hashOf((await compute(engine, artwork, { level, grid, keep: 'view' })).pixels))
    engine.clear()
  }
  return each.map((found) => [...found].join('≠'))
}

const golden: Golden = {}
const photo = () => artworkFromPhoto({ asset, width: W, height: H, title: 'golden', ppi: 300 })
for (const step of [...steps, ...olderSteps].filter((s) => wanted(s.id))) {
  const of: Golden[string] = (golden[`${step.id}@${step.version}`] = {})
  // plans and facts are kept from value to value, pixels are not
  const engine = newTestEngine(kernels, sources)
  // what is painted is looked at where there is something to paint
  const onNoise = settingsOf(step, 0, W / 2).filter(([setting]) => setting === 'defaults' || !(step.group === 'paint' && step.goesBy))
  for (const [setting, params] of onNoise) {
    const artwork = photo()
    artwork.layers[0]!.chain = [{ ...newStep(step.id), version: step.version, params: { ...step.defaults, ...params } }]
    of[setting] = await hashes(artwork, GOLDEN_LEVELS, engine)
  }
  if (!step.goesBy) continue
  const forms = stroked(step) ? SMALL_FORMS : FORMS
  for (const [setting, params] of settingsOf(step, 0, forms.width / 2)) {
    const artwork = artworkFromPhoto({ ...forms, title: 'golden', ppi: 300 })
    artwork.layers[0]!.chain = [{ ...newStep(step.id), version: step.version, params: { ...step.defaults, ...params } }]
    of[`forms, ${setting}`] = await hashes(artwork, [0], engine)
  }
}
const usesOf = (layers: Recipe['layers']) => [...allLayers(layers)].flatMap((l) => l.chain)

/**
 * Recipes as earlier editions had them: artworks made by those go on as they were. Pinned at their defaults: what their controls move are values of steps, and those are
 * pinned by themselves, version by version.
 */
const earlier = new URL('../../src/testing/data/recipes/', import.meta.url)
const formerly = readdirSync(earlier)
  .sort()
  .map((file) => loadRecipe(JSON.parse(readFileSync(new URL(file, earlier), 'utf8'))))
for (const recipe of [...recipes, ...formerly].filter((r) => wanted(r.id))) {
  const of: Golden[string] = (golden[`recipe ${recipe.id}${recipe.edition > 1 ? `@${recipe.edition}` : ''}`] = {})
  // of what is painted stroke upon stroke one end of each control: its steps are pinned at both
  const painted = usesOf(recipe.layers).some(({ step, version }) => stroked(stepAt(step, version)))
  const settings = recipeSettings(recipe, 0)
  const engine = newTestEngine(kernels, sources)
  for (const [setting, values] of formerly.includes(recipe) ? settings.filter(([name]) => name === 'defaults') : settings) {
    if (painted && setting.endsWith(' low')) continue
    const artwork = photo()
    of[setting] = await hashes(madeBy(artwork, recipe, values as Record<string, number | string>), GOLDEN_LEVELS, engine)
  }
}

/** An artwork as it was saved, put on the small picture: its photos, sheet and reference length. */
function fitted(text: string): unknown {
  const saved = JSON.parse(text) as { sheet: object; reference: number; lookSpot: object }
  const small = JSON.parse(JSON.stringify(saved), (_, v: unknown) =>
    typeof v === 'object' && v !== null && 'asset' in v ? { ...v, asset, width: W, height: H } : v,
  ) as typeof saved
  return { ...small, sheet: { ...saved.sheet, w: W, h: H }, reference: W, lookSpot: { x: 0, y: 0 } }
}

const folder = new URL('../../src/testing/data/artworks-1/', import.meta.url)
for (const file of readdirSync(folder).sort()) {
  const name = `artwork ${file.replace('.json', '')}`
  if (wanted(name)) golden[name] = { 'as saved': await hashes(loadArtwork(fitted(readFileSync(new URL(file, folder), 'utf8')))) }
}
/** What hands leave: ink, mended places, an area as a mask. */
const curve = (y: number) => samplesOf(Array.from({ length: 12 }, (_, i) => [20 + i * 9, y + 8 * Math.sin(i)]))
const cover = async (y: number) => {
  const engine = newTestEngine(kernels, sources)
  const { index } = await paintStroke(engine, sources, curve(y), { within: { x: 0, y: 0, w: W, h: H }, brush: { breadth: 16, tip: 'soft', edge: 0.5 } })
  return { index, channels: 1 as const }
}
if (wanted('hands')) {
  const of: Golden[string] = (golden['hands'] = {})
  const inked = photo()
  const line: InkPlace[] = Array.from({ length: 30 }, (_, i) => ({ x: 10 + i * 4.3, y: 50 + 30 * Math.sin(i / 4), half: 0.5 + (i % 7) * 0.6 }))
  const { root, chunks } = inkBlobs(withStrokes(noInk, [line, line.map((p) => ({ ...p, y: p.y + 17 }))]))
  for (const { name, bytes } of [root, ...chunks]) sources.blobs.set(name, bytes)
  inked.layers.push(newLayer('Ink', { type: 'ink', blob: root.name, colour: '#803010' }, [], 'ink'))
  of['ink'] = await hashes(inked)
  for (const way of ['clone', 'heal', 'spot'] as const) {
    const mended = photo()
    const places = [
      { id: 'a', way, dx: 9, dy: 40, cover: await cover(30) },
      { id: 'b', way, dx: -7, dy: -33, cover: await cover(70) },
    ]
    mended.layers.push(newLayer('Mended', { type: 'mend', blob: null, plane: null, mended: places }, [newStep('levels', { white: 220 })], 'mend'))
    of[`mended, ${way}`] = await hashes(mended)
  }
  const masked = photo()
  const engine = newTestEngine(kernels, sources)
  const { index, blobs } = await orderedArea(
    engine,
    masked,
    { type: 'take', how: 'instead', from: { type: 'alike', x: 60, y: 40, by: 'colour', within: 40, together: false, edges: false } },
    { cancelled: false },
  )
  for (const { name, bytes } of blobs) sources.blobs.set(name, bytes)
  masked.layers[0]!.chain = [{ ...newStep('invert'), mask: { ...newMask('empty'), plane: { index, channels: 1 } } }]
  of['in an area'] = await hashes(masked)
}
console.log(JSON.stringify(golden))
