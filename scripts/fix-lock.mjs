// npm run fix:lock, after every npm install: optional packages for other platforms that the registry does not have are
// dropped from the lock file, and npm ci then refuses it. This writes them back, marked as fitting no system.
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { root } from './lib/say.mjs'

const path = join(root, 'package-lock.json')
const lock = JSON.parse(readFileSync(path, 'utf8'))
let added = 0
for (const [where, entry] of Object.entries(lock.packages)) {
  for (const [name, range] of Object.entries(entry.optionalDependencies ?? {})) {
    const places = [`${where}/node_modules/${name}`, `node_modules/${name}`]
    if (places.some((p) => lock.packages[p])) continue
    lock.packages[`node_modules/${name}`] = { version: range.replace(/^[^\d]*/, ''), optional: true, os: ['none'] }
    added++
  }
}
writeFileSync(path, `${JSON.stringify(lock, null, 2)}\n`)
console.log(`${added} missing optional packages written into the lock file`)
