// npm run bench [-- --only PATTERN]: measures, and writes docs/performance.md.
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { root, script } from './lib/say.mjs'
import { build, ensurePackages } from './lib/setup.mjs'

await script(async () => {
  await ensurePackages()
  await build()
  const child = spawn(process.execPath, [join(root, 'bench/dist/main.js'), ...process.argv.slice(2)], { stdio: 'inherit' })
  process.exitCode = await new Promise((done) => child.on('close', done))
})
