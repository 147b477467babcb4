import { execFile } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { promisify } from 'node:util'
import type { Golden } from './golden-walk.ts'

// Artworks outlive releases: what a version of a step once made, it makes for good. A step whose pixels are to change gets a new version;
// `npm run golden` then adds the new version's hashes, and never changes one that is there.

const kept = JSON.parse(readFileSync(join(__dirname, 'data/golden.json'), 'utf8')) as Golden
let found: Golden
beforeAll(async () => {
  // the built file, in a process of its own: see there
  const { stdout } = await promisify(execFile)(process.execPath, [join(__dirname, '../../dist/testing/golden-walk.js')], { maxBuffer: 2 ** 26 })
  found = JSON.parse(stdout) as Golden
}, 1_800_000)

test.each(Object.keys(kept))('%s makes the pixels it always made, by tiles and by strips', (id) => {
  expect(found[id]).toEqual(kept[id])
})

test('every version of every step, every recipe and every saved artwork is pinned', () => {
  expect(Object.keys(found).sort()).toEqual(Object.keys(kept).sort())
})

test('what goes by a study is pinned on a picture on which it draws: most of its values change it', () => {
  const drawn = Object.entries(kept).flatMap(([id, of]) => {
    const forms = Object.entries(of).filter(([setting]) => setting.startsWith('forms, '))
    return forms.length ? [{ id, settings: forms.length, pictures: new Set(forms.map(([, hashes]) => hashes[0])).size }] : []
  })
  expect(drawn.length).toBeGreaterThan(3)
  expect(drawn.filter(({ settings, pictures }) => pictures < 0.6 * settings)).toEqual([])
})
