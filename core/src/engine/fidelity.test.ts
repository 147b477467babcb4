import { execFile } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import sharp from 'sharp'
import { recipes } from '../recipes/registry.ts'
import type { Layer, Recipe } from '../artwork/schema.ts'
import { stepById, steps } from '../steps/registry.ts'
import type { Fidelity } from '../testing/fidelity-walk.ts'
import { settingsOf } from '../testing/settings.ts'

// Preview and render are the same picture: the full-size result reduced, against the result computed at that level, for every
// step and recipe there is: at their defaults, at both ends of every control, at 20 settings at random (recipes at 8); on a detailed photo, on one with
// transparency, and on synthetic extremes.

let found: Fidelity[]
beforeAll(async () => {
  const folder = mkdtempSync(join(tmpdir(), 'quill-fidelity-'))
  const photo = join(folder, 'photo.rgb')
  const detailed = await sharp(join(__dirname, '../../../demo/photos/keeper-portrait.jpg'))
    .extract({ left: 300, top: 300, width: 960, height: 768 })
    .resize(640, 512)
    .raw()
    .toBuffer()
  writeFileSync(photo, detailed)
  // built file, in a process of its own: see there
  const { stdout } = await promisify(execFile)(process.execPath, [join(__dirname, '../../dist/testing/fidelity-walk.js'), photo], { maxBuffer: 2 ** 26 })
  rmSync(folder, { recursive: true })
  found = JSON.parse(stdout) as Fidelity[]
}, 2_400_000)

/** All that falls short of the bars, in words. */
const short = (of: string, half: number, eighth: number) =>
  found
    .filter((f) => f.of === of && !(f.half >= half && f.eighth <= eighth))
    .map((f) => `${f.setting} (${f.photo}): ${f.half.toFixed(3)} at 1/2, block means off by ${f.eighth.toFixed(4)} at 1/8`)

/**
 * How far the picture under a moving hand may be off, as the mean difference of 8 × 8 blocks at 1/4: it shows where things are and about how
 * light, and the settled one follows. Steps that are made of marks finer than its pixels are further off; what they reach is written down here,
 * so that none gets worse unseen.
 */
const HASTY = 0.06
const hasty: Record<string, number> = {
  kuwahara: 0.12,
  contours: 0.15,
  'ink-lines': 0.14,
  hatching: 0.08,
  dither: 0.28,
  'surface-relief': 0.07,
  graphite: 0.08,
  'gapped-tiles': 0.38,
}
test.each([...steps, ...recipes].map(({ id }) => [id]))('%s: what is shown under a moving hand is near, and no block of a view is far off', (id) => {
  const of = found.filter((f) => f.of === id)
  expect(of.filter((f) => f.quick > (hasty[id] ?? HASTY)).map((f) => `${f.setting}: ${f.quick.toFixed(4)}`)).toEqual([])
  expect(of.filter((f) => f.worst > 0.09).map((f) => `${f.setting} (${f.photo}): ${f.worst.toFixed(3)}`)).toEqual([])
  // what is computed at full size and reduced is compared with itself: its hasty picture is not
  expect(of.some((f) => f.quick > 0 || f.setting === 'defaults')).toBe(true)
})

/** Marks that lie on a tooth cover a pixel once at full size; looked at closer they break on finer hills. */
const TWICE = 0.03
const closer: Record<string, number> = { hatching: 0.045, 'pencil-drawing': 0.035 }
test.each([...steps, ...recipes].map(({ id }) => [id]))('%s: at twice the size it is the same picture, seen closer', (id) => {
  const of = found.filter((f) => f.of === id && f.setting === 'defaults' && f.photo === 'detailed')
  expect(of).toHaveLength(1)
  expect(of[0]!.twice).toBeLessThan(closer[id] ?? TWICE)
})

test.each([...steps, ...recipes].map(({ id }) => [id]))('%s: a view that has settled is the render, reduced', (id) => {
  const of = found.filter((f) => f.of === id && f.setting === 'defaults' && f.photo === 'detailed')
  expect(of).toHaveLength(1)
  // what eight bits round away
  expect(of[0]!.settled).toBeLessThan(1 / 255)
})

test.each(steps.map((s) => [s.id, s] as const))('%s: views are the render, reduced', (id, step) => {
  const half = step.fidelity?.half ?? 0.98
  expect(half).toBeGreaterThanOrEqual(0.9)
  const settings = new Set(found.filter((f) => f.of === id).map((f) => f.setting))
  // every end of every control, and a few at random: many where the view is more than the render reduced
  const ends = settingsOf(step, 0, 80).map(([name]) => name)
  expect(ends.filter((name) => !settings.has(name))).toEqual([])
  expect(settings.size).toBeGreaterThanOrEqual(ends.length + (Object.keys(step.params).length === 0 ? 0 : step.coarsest ? 2 : 20))
  expect(short(id, half, 0.01)).toEqual([])
})

/** A recipe holds as well as the least of its steps does. */
function barOf(recipe: Recipe): number {
  const of = (layer: Layer): number[] => [
    ...layer.chain.map((s) => stepById(s.step).fidelity?.half ?? 0.98),
    ...(layer.source.type === 'group' ? layer.source.layers.flatMap(of) : []),
  ]
  return Math.min(...recipe.layers.flatMap(of))
}

test.each(recipes.map((r) => [r.id, r] as const))('recipe %s: views are the render, reduced', (id, recipe) => {
  // on pictures of 640 pixels the finest lines of a drawing are thinner than a pixel, and its steps add up: tones at 1/8
  // within 1.5 %, where each step by itself is held to 1
  expect(short(id, barOf(recipe), 0.015)).toEqual([])
})
