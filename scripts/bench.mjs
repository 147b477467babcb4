// npm run bench [-- --only kernels|steps|chains|threads|large|drag|PART OF A KERNEL'S NAME]: measures, and writes docs/performance.md.
import { spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { freePort, startDatabase } from './lib/database.mjs'
import { root, say, script } from './lib/say.mjs'
import { build, ensureDebian, ensurePackages } from './lib/setup.mjs'

const only = process.argv.includes('--only') ? process.argv[process.argv.indexOf('--only') + 1] : ''
const shown = (command, args, env) =>
  new Promise((done) => spawn(command, args, { cwd: root, env, stdio: ['ignore', 'inherit', 'inherit'] }).on('close', (code) => done(code ?? 1)))

await script(async () => {
  await ensurePackages()
  await build()
  const work = mkdtempSync(join(tmpdir(), 'quill-bench-'))
  const env = { ...process.env, QUILL_MEASURED: join(work, 'drag.jsonl') }
  try {
    if (!only || only === 'drag') {
      await ensureDebian('chromium', 'chromium')
      say('dragging in the browser')
      const database = await startDatabase(join(work, 'db'), await freePort())
      try {
        await shown(join(root, 'node_modules/.bin/playwright'), ['test', '--config', 'e2e/playwright.config.ts', 'drag'], {
          ...env,
          ...database.env,
          QUILL_E2E_WORK: work,
        })
      } finally {
        await database.stop()
      }
    }
    process.exitCode = await shown(process.execPath, [join(root, 'bench/dist/main.js'), ...process.argv.slice(2)], env)
  } finally {
    rmSync(work, { recursive: true, force: true })
  }
})
