// npm test: sets up everything, runs all checks, and ends with one line that counts them.
// npm test -- core|server|web|e2e|static runs a part; npm test -- screenshots makes the pictures of docs/screenshots anew.
import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { availableParallelism, tmpdir } from 'node:os'
import { join } from 'node:path'
import { freePort, startDatabase } from './lib/database.mjs'
import { root, say, script } from './lib/say.mjs'
import { build, ensureDebian, ensurePackages } from './lib/setup.mjs'

const only = process.argv.slice(2)
const wanted = (part) => only.length === 0 || only.includes(part)
const bin = (name) => join(root, 'node_modules/.bin', name)
let passed = 0
let failed = 0

/** Runs a command with its output shown; resolves with its exit code. */
const shown = (command, args, env = process.env) =>
  new Promise((done) => {
    const child = spawn(command, args, { cwd: root, env, stdio: ['ignore', 'inherit', 'inherit'] })
    child.on('error', () => done(127))
    child.on('close', (code) => done(code ?? 1))
  })

/** Checks that pass or fail as a whole, two at a time. */
async function checks(all) {
  const waiting = [...all]
  const next = async () => {
    for (let c = waiting.shift(); c; c = waiting.shift()) {
      const [name, command, args] = c
      say(name)
      if ((await shown(command, args)) === 0) passed++
      else {
        failed++
        console.error(`✗ ${name}`)
      }
    }
  }
  await Promise.all([next(), next()])
}

await script(async () => {
  await ensurePackages()
  await build()
  if (wanted('static')) {
    await checks([
      ['types of the tests', bin('tsc'), ['-p', 'tsconfig.test.json']],
      ['format', bin('prettier'), ['--check', '--log-level', 'warn', '.']],
      ['types', bin('tsc'), ['-b']],
      ['lint', bin('oxlint'), ['--quiet']],
      ['imports', 'npm', ['run', '--silent', 'check:imports']],
    ])
  }
  const work = mkdtempSync(join(tmpdir(), 'quill-'))
  let database = null
  try {
    if (wanted('server') || wanted('e2e') || only.includes('screenshots')) {
      say('starting a database for the tests')
      database = await startDatabase(join(work, 'db'), await freePort())
    }
    const env = { ...process.env, ...database?.env }
    for (const [projects, workers] of [
      [['core', 'web', 'server'].filter(wanted), Math.min(4, availableParallelism())],
      // what goes by the clock has the machine to itself
      [wanted('server') ? ['clock'] : [], 1],
    ]) {
      if (!projects.length) continue
      say(`Jest: ${projects.join(', ')}`)
      const report = join(work, `jest-${projects[0]}.json`)
      const code = await shown(
        bin('jest'),
        ['--selectProjects', ...projects, '--maxWorkers', String(workers), '--json', `--outputFile=${report}`, '--silent'],
        env,
      )
      try {
        const r = JSON.parse(readFileSync(report, 'utf8'))
        passed += r.numPassedTests
        failed += r.numFailedTests + r.numRuntimeErrorTestSuites
        if (code !== 0 && r.numFailedTests + r.numRuntimeErrorTestSuites === 0) failed++
      } catch {
        failed++
      }
    }
    if (wanted('e2e')) {
      await ensureDebian('chromium', 'chromium')
      say('browser tests')
      // those that go by the clock have the machine to themselves, too
      for (const project of ['together', 'by the clock']) {
        const report = join(work, 'playwright.json')
        rmSync(report, { force: true })
        const code = await shown(bin('playwright'), ['test', '--config', 'e2e/playwright.config.ts', '--project', project], {
          ...env,
          QUILL_E2E_REPORT: report,
          QUILL_E2E_WORK: work,
        })
        try {
          const { stats } = JSON.parse(readFileSync(report, 'utf8'))
          passed += stats.expected + stats.flaky
          failed += stats.unexpected
          if (code !== 0 && stats.unexpected === 0) failed++
        } catch {
          failed++
        }
      }
    }
    if (only.includes('screenshots')) {
      await ensureDebian('chromium', 'chromium')
      say('screenshots')
      if ((await shown(bin('playwright'), ['test', '--config', 'e2e/screenshots.config.ts'], { ...env, QUILL_E2E_WORK: work })) === 0) passed++
      else failed++
    }
  } finally {
    await database?.stop()
    rmSync(work, { recursive: true, force: true })
  }
  console.log(`${passed} passed, ${failed} failed`)
  if (failed > 0 || passed === 0) process.exitCode = 1
})
