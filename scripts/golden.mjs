// npm run golden: adds the hashes of the pixels of steps, versions, settings and recipes that have none yet to core/src/testing/data/golden.json.
// A hash that is there is never changed; where pixels differ from it, it says so and ends with 1.
import { execFileSync } from 'node:child_process'
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { root, script } from './lib/say.mjs'
import { build, ensurePackages } from './lib/setup.mjs'

await script(async () => {
  await ensurePackages()
  await build()
  const path = join(root, 'core/src/testing/data/golden.json')
  const kept = existsSync(path) ? JSON.parse(readFileSync(path, 'utf8')) : {}
  const found = JSON.parse(execFileSync(process.execPath, [join(root, 'core/dist/testing/golden-walk.js')], { maxBuffer: 2 ** 26 }))
  let added = 0
  let changed = 0
  for (const [id, settings] of Object.entries(found)) {
    for (const [setting, hashes] of Object.entries(settings)) {
      const before = kept[id]?.[setting]
      if (!before) {
        ;(kept[id] ??= {})[setting] = hashes
        added++
      } else if (before.join() !== hashes.join()) {
        console.error(`${id}, ${setting}: ${before.join(' ')} was, ${hashes.join(' ')} is`)
        changed++
      }
    }
  }
  const line = (settings) =>
    Object.entries(settings)
      .map(([s, h]) => `    ${JSON.stringify(s)}: ${JSON.stringify(h)}`)
      .join(',\n')
  const text = Object.entries(kept)
    .map(([id, settings]) => `  ${JSON.stringify(id)}: {\n${line(settings)}\n  }`)
    .join(',\n')
  writeFileSync(path, `{\n${text}\n}\n`)
  console.log(`${added} added, ${changed} changed`)
  if (changed) process.exitCode = 1
})
